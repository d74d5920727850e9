"""Commands by what they are called: the command finder and the page of keys."""

from collections.abc import Mapping, Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from glintor.desktop.command import ActionSpec


class Finder(QDialog):
    """Type a few letters of what is wanted, press Enter."""

    def __init__(self, window: QWidget, specs: Sequence[ActionSpec], actions: Mapping[str, QAction]) -> None:
        super().__init__(window)
        self.setWindowTitle("Find a command")
        self.resize(440, 380)
        self._specs, self._actions = specs, actions
        self.line, self.list = QLineEdit(), QListWidget()
        self.line.setPlaceholderText("What do you want to do?")
        self.line.setAccessibleName("Find a command")
        self.list.setAccessibleName("Commands")
        column = QVBoxLayout(self)
        column.addWidget(self.line)
        column.addWidget(self.list)
        self.line.textChanged.connect(self._narrow)
        self.line.returnPressed.connect(self._do)
        self.list.itemActivated.connect(lambda _item: self._do())
        self._narrow("")

    def _narrow(self, words: str) -> None:
        self.list.clear()
        for spec in self._specs:
            if all(part in f"{spec.menu} {spec.text}".lower() for part in words.lower().split()):
                item = QListWidgetItem(f"{spec.text}    {spec.keys}" if spec.keys else spec.text)
                item.setData(Qt.ItemDataRole.UserRole, spec.id)
                self.list.addItem(item)
        self.list.setCurrentRow(0)

    def _do(self) -> None:
        item = self.list.currentItem()
        if item is not None:
            self.accept()
            self._actions[item.data(Qt.ItemDataRole.UserRole)].trigger()


def keys_page(window: QWidget, specs: Sequence[ActionSpec]) -> QDialog:
    """The page of keys, with what the mouse does on the flat frame."""
    page = QDialog(window)
    page.setWindowTitle("Keys")
    page.resize(520, 560)
    table = QListWidget()
    table.setAccessibleName("Keys")
    hand = (
        ("Drag the frame", "turn the view"),
        ("Wheel", "field of view"),
        ("Shift + wheel", "bend"),
        ("Alt + drag", "roll"),
        ("Ctrl + drag", "only look around, set nothing"),
    )
    table.addItems([f"{keys:22}  {words}" for keys, words in hand])
    table.addItems([f"{spec.keys:22}  {spec.text}" for spec in specs if spec.keys])
    QVBoxLayout(page).addWidget(table)
    return page
