"""A question over a window that does not hold it up: some answers that do something, and one that does nothing."""

from collections.abc import Callable, Sequence

from PyQt6.QtWidgets import QAbstractButton, QMessageBox, QWidget

from glintor.desktop.telling import Answers

_ROLES = (QMessageBox.ButtonRole.AcceptRole, QMessageBox.ButtonRole.ActionRole, QMessageBox.ButtonRole.DestructiveRole)


def ask(over: QWidget, words: str, more: str, answers: Answers, stay: str = "Stay", *, name: str = "") -> QMessageBox:
    """Shows the question. answers: what each does, the best first and what cannot be taken back last; stay: what does nothing, which is
    the usual answer."""
    box = QMessageBox(QMessageBox.Icon.Warning, "Glintor", words, QMessageBox.StandardButton.NoButton, over)
    box.setObjectName(name)
    box.setInformativeText(more)
    acts: dict[QAbstractButton, Callable[[], object]] = {}
    for act, role in zip(answers, _roles(len(answers)), strict=True):
        button = box.addButton(act, role)
        assert button is not None
        acts[button] = answers[act]
    box.setDefaultButton(box.addButton(stay, QMessageBox.ButtonRole.RejectRole))
    box.setModal(False)

    def answered(pressed: QAbstractButton) -> None:
        if pressed in acts:
            acts[pressed]()

    box.buttonClicked.connect(answered)
    box.show()
    return box


def _roles(count: int) -> Sequence[QMessageBox.ButtonRole]:
    return (_ROLES[0], *[_ROLES[1]] * (count - 2), _ROLES[2])
