"""The least that a window of this kind costs, whatever program it belongs to: as many widgets, menus and lines of text
in the same style and faces, without anything to work out. Run by `bench.start` as a program of its own."""

import os

import astral.sun  # noqa: F401  what Glintor cannot start without, either
import msgspec  # noqa: F401
import numpy  # noqa: F401
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import (
    QApplication,
    QComboBox,
    QDoubleSpinBox,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from glintor.desktop import theme

_COLUMNS, _ROWS, _MENUS, _COMMANDS, _WORDS = 5, 8, 8, 7, 12


class _Chart(QWidget):
    """Lines and words on paper."""

    def paintEvent(self, _event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.colours()["sheet"])
        painter.setPen(theme.colours()["ink"])
        for number in range(_WORDS):
            painter.setFont(theme.font(bold=number % 3 == 0))
            painter.drawText(10, 14 * number, f"line {number}")
            painter.drawLine(10, 14 * number, 200, 14 * number + 30)
        painter.end()


def main() -> None:
    app = QApplication(["plain", "-style", "Fusion"])
    theme.apply(app)
    window, page = QMainWindow(), QWidget()
    window.resize(1280, 800)
    for menu in range(_MENUS):
        bar = window.menuBar().addMenu(f"menu {menu}")
        for number in range(_COMMANDS):
            key = chr(ord("A") + (menu * _COMMANDS + number) % 26)
            bar.addAction(f"command {number}", f"Ctrl+Alt+{key}", window.close)
    columns = QHBoxLayout(page)
    for place in range(_COLUMNS):
        column = QVBoxLayout()
        columns.addLayout(column)
        column.addWidget(_Chart(), 1)
        for number in range(_ROWS):
            row = QHBoxLayout()
            row.addWidget(QLabel(f"words {number}"))
            row.addWidget(QPushButton(f"do {number}") if number % 2 else QLabel("12.5 m"))
            if number < 2:
                row.addWidget(QDoubleSpinBox() if place % 2 else QComboBox())
            column.addLayout(row)
    window.setCentralWidget(page)
    window.show()
    app.processEvents()
    os._exit(0)


if __name__ == "__main__":
    main()
