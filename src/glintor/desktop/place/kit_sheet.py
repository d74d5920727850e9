"""The bag: what is in it, what the day needs of it, and what that weighs."""

from pathlib import Path

import msgspec
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from glintor.desktop.controls import button, fill, label, row, table
from glintor.desktop.place.kit_numbers import KitNumbers
from glintor.errors import GlintorError
from glintor.plan.kit_check import mass_kg, masses_kg, needs
from glintor.project.kit import KINDS, Camera, Item, Mount, Stick, read_kit, write_kit
from glintor.project.model import Project, fresh_id

_COLUMNS = ("What", "Kind", "Count", "Number", "Unit", "Mass, g")
_LISTS: dict[type[object], str] = {Camera: "cameras", Stick: "sticks", Mount: "mounts", Item: "items"}
_WHAT, _KIND, _COUNT, _VALUE, _UNIT, _MASS = range(6)


class KitSheet(QDialog):
    """`taken` gives the kit; every cell that is not grey can be changed. The first camera is the day's."""

    taken = pyqtSignal(object)

    def __init__(self, project: Project, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Kit")
        over = parent.window() or parent
        self.resize(min(1180, over.width() - 30), min(690, over.height() - 30))
        self._project, self.kit = project, project.kit
        self.list = table("Things in the kit", _COLUMNS)
        self.list.setEditTriggers(QTableWidget.EditTrigger.DoubleClicked | QTableWidget.EditTrigger.AnyKeyPressed)
        self.needs = table("What the day needs", ("Needed", "There", "For"))
        self.needs.horizontalHeader().setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        self.total, self.trouble = label("", "head"), label("", "stopwords")
        self.trouble.setWordWrap(True)
        self.numbers = KitNumbers()
        self._showing = False
        self._lay()
        self.list.itemChanged.connect(self._edited)
        self.list.currentCellChanged.connect(lambda *_at: self._show_numbers())
        self.numbers.changed.connect(self._numbered)
        self.numbers.trouble.connect(self.trouble.setText)
        self._show()

    def _lay(self) -> None:
        page = QVBoxLayout(self)
        page.setContentsMargins(18, 14, 18, 14)
        page.setSpacing(8)
        page.addWidget(
            label(
                "In the bag. Double-click a number to change it; every number of the chosen thing stands beside it.",
                "soft",
            )
        )
        both = QHBoxLayout()
        both.setSpacing(14)
        both.addWidget(self.list, 5)
        both.addWidget(self.numbers, 4)
        page.addLayout(both, 3)
        add = button("Add a thing", self.add, tip="Adds a line; choose its kind by typing it")
        camera = button(
            "Add a camera", self.add_camera, tip="Another one like the day's, to be changed; shots choose theirs"
        )
        take_out = button("Take the line out", self.remove)
        page.addLayout(
            row(
                add,
                camera,
                take_out,
                None,
                button("Read a kit…", self._ask_read),
                button("Write this kit…", self._ask_write),
                stretch=False,
                spacing=8,
            )
        )
        page.addWidget(label("What the day's shots need", "soft"))
        page.addWidget(self.needs, 2)
        page.addWidget(self.trouble)
        page.addLayout(
            row(
                self.total,
                None,
                button("Leave it", self.reject),
                button("Take over", self.take, main=True),
                stretch=False,
                spacing=8,
            )
        )

    def _rows(self) -> list[tuple[object, tuple[str, ...]]]:
        rows: list[tuple[object, tuple[str, ...]]] = [
            (c, (c.name, "camera", "1", f"{1000 * c.gap_m:g}", "mm lens gap", f"{1000 * c.mass_kg:.0f}"))
            for c in self.kit.cameras
        ]
        for s in self.kit.sticks:
            rows.append(
                (s, (s.words, "stick", str(s.count), f"{s.longest_m:.2f}", "m long", f"{1000 * s.mass_kg:.0f}"))
            )
        for m in self.kit.mounts:
            rows.append(
                (
                    m,
                    (
                        m.words,
                        "mount",
                        str(m.count),
                        f"{m.torque_nm:g}" if m.torque_nm else "",
                        "N m, empty: usual",
                        f"{1000 * m.mass_kg:.0f}",
                    ),
                )
            )
        for i in self.kit.items:
            rows.append(
                (
                    i,
                    (
                        i.words,
                        i.kind,
                        str(i.count),
                        f"{i.value:g}" if KINDS[i.kind] else "",
                        KINDS[i.kind],
                        f"{1000 * i.mass_kg:.0f}",
                    ),
                )
            )
        return rows

    def _show(self) -> None:
        self._showing = True
        rows = self._rows()
        fill(self.list, [cells for _, cells in rows])
        for at, (thing, _) in enumerate(rows):
            fixed = {_UNIT} | ({_COUNT, _KIND} if isinstance(thing, Camera) else set())
            fixed |= (
                {_KIND, _VALUE, _MASS} if isinstance(thing, Stick) else {_KIND} if isinstance(thing, Mount) else set()
            )
            for column in fixed:
                item = self.list.item(at, column)
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
        found = needs(self._project.with_kit(self.kit))
        fill(
            self.needs,
            [
                (n.what, f"{n.there:g} of {n.wanted:g} {n.unit}".strip() + (", missing" if n.missing else ""), n.why)
                for n in found
            ],
        )
        missing = sum(n.missing for n in found)
        self.total.setText(
            f"{mass_kg(self.kit):.1f} kg in all"
            + "".join(f", {whose} carries {kg:.1f}" for whose, kg in masses_kg(self.kit).items() if whose)
            + (f", {missing} missing" if missing else ", nothing missing")
        )
        self._showing = False

    def _edited(self, cell: QTableWidgetItem) -> None:
        if self._showing:
            return
        thing = self._rows()[cell.row()][0]
        self.trouble.setText("")
        try:
            self._put(thing, _with(thing, cell.column(), cell.text().strip()))
        except (ValueError, msgspec.ValidationError) as error:
            self.trouble.setText(f"{cell.text()!r} cannot stand there: {error}. The number is as it was.")
        self._show()

    def _show_numbers(self) -> None:
        rows, at = self._rows(), self.list.currentRow()
        self.numbers.show_thing(rows[at][0] if 0 <= at < len(rows) else None)

    def _numbered(self, thing: object) -> None:
        at = self.list.currentRow()
        self._put(self._rows()[at][0], thing)
        self._show()
        self.list.setCurrentCell(at, _WHAT)
        self._show_numbers()

    def _put(self, old: object, new: object) -> None:
        name = _LISTS[type(old)]
        things = tuple(new if thing is old else thing for thing in getattr(self.kit, name))
        self.kit = msgspec.structs.replace(self.kit, **{name: things})

    def add(self) -> None:
        self.kit = msgspec.structs.replace(self.kit, items=(*self.kit.items, Item(kind="other", words="new thing")))
        self._show()
        self.list.setCurrentCell(self.list.rowCount() - 1, _WHAT)

    def add_camera(self) -> None:
        first, taken = self.kit.cameras[0], {camera.id for camera in self.kit.cameras}
        new = msgspec.structs.replace(first, id=fresh_id("camera", taken), name=f"{first.name}, another")
        self.kit = msgspec.structs.replace(self.kit, cameras=(*self.kit.cameras, new))
        self._show()
        self.list.setCurrentCell(len(self.kit.cameras) - 1, _WHAT)

    def remove(self) -> None:
        rows, at = self._rows(), self.list.currentRow()
        if not 0 <= at < len(rows):
            self.trouble.setText("Choose a line first.")
            return
        gone = rows[at][0]
        name = _LISTS[type(gone)]
        kit = msgspec.structs.replace(self.kit, **{name: tuple(t for t in getattr(self.kit, name) if t is not gone)})
        if not kit.cameras or gone in self._project.with_kit(kit).kit.cameras:
            self.trouble.setText("That camera stays: shots or takes name it, or it is the only one.")
            return
        self.kit = kit
        self._show()

    def _ask_read(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Read a kit", "", "Kits (*.json)")
        if name:
            self.read(Path(name))

    def read(self, file: Path) -> None:
        """Puts a kit file in place of this kit, or says why not."""
        try:
            kit = read_kit(file)
        except GlintorError as error:
            self.trouble.setText(str(error))
            return
        self.kit = self._project.with_kit(kit).kit
        self.trouble.setText("")
        self._show()

    def _ask_write(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Write this kit", "kit.json", "Kits (*.json)")
        if name:
            try:
                write_kit(Path(name), self.kit)
            except GlintorError as error:
                self.trouble.setText(str(error))

    def take(self) -> None:
        self.taken.emit(self.kit)
        self.accept()


def _with(thing: object, column: int, words: str) -> object:
    """A thing with one cell changed. Raises ValueError or a ValidationError for what cannot stand there."""
    field = {_WHAT: "words", _KIND: "kind", _COUNT: "count", _VALUE: "value", _MASS: "mass_kg"}[column]
    value: object = words
    if isinstance(thing, Camera):
        field = {"words": "name", "value": "gap_m"}.get(field, field)
    if isinstance(thing, Mount) and field == "value":
        field = "torque_nm"
    if field == "count":
        value = int(words)
    elif field in ("mass_kg", "gap_m"):
        value = float(words.replace(",", ".")) / 1000.0
    elif field in ("value", "torque_nm"):
        value = float(words.replace(",", ".") or 0.0)
    plain = msgspec.to_builtins(thing)
    return msgspec.convert({**plain, field: value}, type(thing))
