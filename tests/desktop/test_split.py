"""Borders that a hand moved stand there again."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

from glintor.desktop.settings import keep_settings, read_settings
from glintor.desktop.split import Split


def made(qtbot):
    split = Split("two pictures", Qt.Orientation.Horizontal, (300, 100))
    for _ in range(2):
        split.addWidget(QWidget())
    qtbot.addWidget(split)
    split.resize(400, 50)
    split.show()
    split.settle()
    return split


def test_a_border_is_kept_from_window_to_window_and_nonsense_is_not(qtbot):
    split = made(qtbot)
    assert not split.by_hand and abs(split.sizes()[0] - 3 * split.sizes()[1]) < 10
    split.moveSplitter(150, 1)
    qtbot.waitUntil(lambda: "two pictures" in read_settings().splits, timeout=3000)
    assert split.by_hand and made(qtbot).sizes() == split.sizes()
    keep_settings(splits={"two pictures": (0, 400)})
    assert not made(qtbot).by_hand


def test_the_sphere_grows_where_the_border_beside_the_frame_is_pulled(window, settle):
    window.show_desk(4)
    settle()
    board = window.reframe.board
    small = board.sphere.box.width()
    board._beside.moveSplitter(board._beside.sizes()[0] - 260, 1)
    settle()
    assert board.sphere.box.width() > 1.3 * small and board.sphere.height() <= board.sphere.width() // 2 + 2
    assert board.frame.frame_box.width() < 700 and board._controls.width() == 360
