"""One table of commands feeds the menus, the page of keys and the command finder."""

from collections.abc import Callable, Mapping

from msgspec import Struct
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QMenu, QMenuBar, QVBoxLayout, QWidget


class ActionSpec(Struct, frozen=True):
    id: str
    menu: str
    text: str
    keys: str = ""


ACTIONS = (
    ActionSpec("file.new", "Day", "Begin a new day…", "Ctrl+Shift+N"),
    ActionSpec("file.open", "Day", "Open a day…", "Ctrl+O"),
    ActionSpec("file.demo", "Day", "Open the demo day"),
    ActionSpec("file.add_clip", "Day", "Bring a clip into this shot…", "Ctrl+I"),
    ActionSpec("site.edit", "Day", "Site, day and weather…", "Ctrl+T"),
    ActionSpec("kit.edit", "Day", "Kit…", "Ctrl+K"),
    ActionSpec("day.plan", "Day", "Put the shots in the order of their light", "Ctrl+L"),
    ActionSpec("day.carry", "Day", "Take the day along…", "Ctrl+Y"),
    ActionSpec("file.save", "Day", "Save now", "Ctrl+S"),
    ActionSpec("file.take_over", "Day", "Take this day over from the other window"),
    ActionSpec("file.close", "Day", "Close", "Ctrl+Q"),
    ActionSpec("edit.undo", "Edit", "Undo", "Ctrl+Z"),
    ActionSpec("edit.redo", "Edit", "Redo", "Ctrl+Shift+Z"),
    ActionSpec("shot.new", "Shot", "New shot", "Ctrl+N"),
    ActionSpec("shot.double", "Shot", "Duplicate shot", "Ctrl+D"),
    ActionSpec("shot.rename", "Shot", "Rename shot…", "Shift+F2"),
    ActionSpec("shot.sheet", "Shot", "This shot…", "Ctrl+J"),
    ActionSpec("shot.wish", "Shot", "Wish for a look…", "Ctrl+W"),
    ActionSpec("shot.up", "Shot", "Move shot up", "Ctrl+Up"),
    ActionSpec("shot.down", "Shot", "Move shot down", "Ctrl+Down"),
    ActionSpec("shot.delete", "Shot", "Remove shot"),
    ActionSpec("key.set", "Path", "Set a keyframe", "Return"),
    ActionSpec("key.delete", "Path", "Remove the keyframe", "Del"),
    ActionSpec("key.copy", "Path", "Copy the keyframe", "Ctrl+C"),
    ActionSpec("key.paste", "Path", "Set the copied view here", "Ctrl+V"),
    ActionSpec("key.before", "Path", "Previous keyframe", ","),
    ActionSpec("key.after", "Path", "Next keyframe", "."),
    ActionSpec("cut.in", "Path", "Begin the cut here", "["),
    ActionSpec("cut.out", "Path", "End the cut here", "]"),
    ActionSpec("part.in", "Path", "Begin the part for another speed here", "Shift+["),
    ActionSpec("part.out", "Path", "End the part for another speed here", "Shift+]"),
    ActionSpec("part.hold", "Path", "Hold the picture here, or let it go", "H"),
    ActionSpec("path.still", "Path", "Save this frame as a picture…", "Ctrl+Shift+S"),
    ActionSpec("cut.new", "Path", "New cut of this take"),
    ActionSpec("play.toggle", "Path", "Play or stop", "Space"),
    ActionSpec("play.back", "Path", "One frame back", "Left"),
    ActionSpec("play.ahead", "Path", "One frame ahead", "Right"),
    ActionSpec("take.mark", "Path", "Mark this moment", "M"),
    ActionSpec("take.record", "Take", "Record a take", "Ctrl+R"),
    ActionSpec("take.bring", "Take", "Bring everything over from the card", "Ctrl+B"),
    ActionSpec("export.render", "Take", "Render what is ticked", "Ctrl+E"),
    *(
        ActionSpec(f"desk.{n}", "Desks", name, f"Alt+{n}")
        for n, name in enumerate(("Place", "Expose", "Record", "Offload", "Reframe", "Export"), 1)
    ),
    ActionSpec("view.findings", "Desks", "Fold or unfold the findings", "Ctrl+F"),
    ActionSpec("view.dusk", "Desks", "Dusk colours"),
    ActionSpec("help.find", "Help", "Find a command", "Ctrl+Space"),
    ActionSpec("help.explain", "Help", "How these numbers come about", "F2"),
    ActionSpec("help.keys", "Help", "Keys", "F1"),
)


def menus_of(bar: QMenuBar) -> dict[str, QMenu]:
    """The menus by their names, still empty."""
    menus = {name: bar.addMenu(name) for name in dict.fromkeys(spec.menu for spec in ACTIONS)}
    return {name: menu for name, menu in menus.items() if menu is not None}


def bind(window: QWidget, menus: Mapping[str, QMenu], handlers: Mapping[str, Callable[[], None]]) -> dict[str, QAction]:
    """Makes every action with its handler and fills the menus; a missing handler fails here, not at a click."""
    actions: dict[str, QAction] = {}
    for spec in ACTIONS:
        action = QAction(spec.text, window)
        if spec.keys:
            action.setShortcut(spec.keys)
        action.triggered.connect(lambda _checked=False, run=handlers[spec.id]: run())
        actions[spec.id] = action
        menus[spec.menu].addAction(action)
    window.addActions(list(actions.values()))
    return actions


class Finder(QDialog):
    """Type a few letters of what is wanted, press Enter."""

    def __init__(self, window: QWidget, actions: Mapping[str, QAction]) -> None:
        super().__init__(window)
        self.setWindowTitle("Find a command")
        self.resize(440, 380)
        self._actions = actions
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
        for spec in ACTIONS:
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


def keys_page(window: QWidget) -> QDialog:
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
    table.addItems([f"{spec.keys:22}  {spec.text}" for spec in ACTIONS if spec.keys])
    QVBoxLayout(page).addWidget(table)
    return page
