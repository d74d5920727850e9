"""Every number of one thing of the kit, to be changed by hand, and its picture."""

from pathlib import Path
from typing import Any

import msgspec
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QImageReader, QPixmap
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from glintor.desktop.controls import button, row, table
from glintor.project.kit import Stick

_PICTURE_PX = 132
# What fields are called; those that are not here are told elsewhere.
_WORDS = {
    "name": "name", "words": "name", "gap_m": "gap between the lenses, m", "overlap_deg": "each lens sees past its half, degrees",
    "width_px": "width of its spheres, px", "f_number": "aperture, f/", "iso_min": "least ISO", "iso_max": "greatest ISO",
    "shutter_min_s": "shortest shutter, s", "stops": "range it holds, stops", "mbit_s": "data, Mbit/s", "mass_kg": "mass, kg",
    "stitch": "stitch: plain or aligning", "levels": "levels its recordings: true or false", "setups": "set-ups that it makes",
    "torque_nm": "moment that it stands, N m (0: usual)", "load_kg": "carries at most, kg (0: unknown)",
    "offset_mm": "camera off the stick's line, mm", "count": "how many", "kind": "kind", "value": "its number",
    "length_m": "length, m", "outer_mm": "outer diameter, mm", "wall_mm": "wall, mm", "material": "aluminium, carbon or glass",
    "whose": "carried by (empty: yourself)",
}  # fmt: skip


class KitNumbers(QWidget):
    """`changed` gives the changed thing; `trouble` why a number cannot stand there."""

    changed = pyqtSignal(object)
    trouble = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._thing: Any = None
        self.list = table("Numbers of the chosen thing", ("What", "Its number"))
        self.list.setEditTriggers(QTableWidget.EditTrigger.DoubleClicked | QTableWidget.EditTrigger.AnyKeyPressed)
        self.picture = QLabel()
        self.picture.setFixedSize(_PICTURE_PX, _PICTURE_PX)
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.choose = button("A photo…", self._ask, tip="A picture of it, so that it is found in the bag")
        self.more = button("Add a tube", self._add_tube)
        self.less = button("Take the last tube out", self._drop_tube)
        page, side = QHBoxLayout(self), QVBoxLayout()
        page.setContentsMargins(0, 0, 0, 0)
        page.setSpacing(10)
        left = QVBoxLayout()
        left.addWidget(self.list, 1)
        left.addLayout(row(self.more, self.less, spacing=8))
        page.addLayout(left, 1)
        side.addWidget(self.picture)
        side.addWidget(self.choose)
        side.addStretch(1)
        page.addLayout(side)
        self.list.itemChanged.connect(self._typed)
        self.show_thing(None)

    def show_thing(self, thing: object) -> None:
        self._thing = thing
        rows = [] if thing is None else _rows(thing)
        self.list.blockSignals(True)
        self.list.setRowCount(len(rows))
        for at, (_, words, value) in enumerate(rows):
            first = QTableWidgetItem(words)
            first.setFlags(first.flags() & ~Qt.ItemFlag.ItemIsEditable)
            self.list.setItem(at, 0, first)
            self.list.setItem(at, 1, QTableWidgetItem(value))
        self.list.resizeColumnToContents(1)
        self.list.blockSignals(False)
        self.more.setVisible(isinstance(thing, Stick))
        self.less.setVisible(isinstance(thing, Stick))
        self.less.setEnabled(isinstance(thing, Stick) and len(thing.tubes) > 1)
        self.choose.setEnabled(thing is not None)
        photo = "" if thing is None else self._thing.photo
        self.picture.setPixmap(_seen(photo) if photo else QPixmap())
        self.picture.setText(
            "" if photo and not self.picture.pixmap().isNull() else "no picture" if not photo else "picture missing"
        )

    def _typed(self, item: QTableWidgetItem) -> None:
        path, _, before = _rows(self._thing)[item.row()]
        words = item.text().strip()
        plain = msgspec.to_builtins(self._thing)
        inner = plain
        for key in path[:-1]:
            inner = inner[key]
        try:
            inner[path[-1]] = _value(inner[path[-1]], words)
            thing = msgspec.convert(plain, type(self._thing))
        except (ValueError, msgspec.ValidationError) as error:
            self.trouble.emit(f"{words!r} cannot stand there: {error}. It is {before} as before.")
            self.show_thing(self._thing)
            return
        self._tell(thing)

    def _tell(self, thing: object) -> None:
        self.trouble.emit("")
        self.changed.emit(thing)

    def _add_tube(self) -> None:
        last = self._thing.tubes[-1]
        thinner = msgspec.structs.replace(last, outer_mm=max(last.outer_mm - 3.0, 2.0 * last.wall_mm))
        self._tell(msgspec.structs.replace(self._thing, tubes=(*self._thing.tubes, thinner)))

    def _drop_tube(self) -> None:
        self._tell(msgspec.structs.replace(self._thing, tubes=self._thing.tubes[:-1]))

    def _ask(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "A photo of it", "", "Photos (*.jpg *.jpeg *.png)")
        if name:
            self.photograph(Path(name))

    def photograph(self, file: Path) -> None:
        """Keeps where a picture of the thing lies, or says that it is none."""
        if not QImageReader(str(file)).canRead():
            self.trouble.emit(f"{file.name} is no picture that can be shown. Nothing was changed.")
            return
        self._tell(msgspec.structs.replace(self._thing, photo=str(file.absolute())))


def _rows(thing: object) -> list[tuple[tuple[Any, ...], str, str]]:
    """Of each number where it is, what it is called and what it says."""
    plain: dict[str, Any] = msgspec.to_builtins(thing)
    out: list[tuple[tuple[Any, ...], str, str]] = []
    for field, value in plain.items():
        if field == "tubes":
            for number, tube in enumerate(value):
                out += [(("tubes", number, k), f"tube {number + 1}: {_WORDS[k]}", _text(v)) for k, v in tube.items()]
        elif field in _WORDS:
            out.append(((field,), _WORDS[field], _text(value)))
    return out


def _text(value: object) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, list | tuple):
        return ", ".join(str(one) for one in value)
    return f"{value:g}" if isinstance(value, float) else str(value)


def _value(old: object, words: str) -> object:
    """What was typed, as the kind of value that stood there. Raises ValueError."""
    if isinstance(old, bool):
        if words not in ("true", "false"):
            raise ValueError("write true or false")
        return words == "true"
    if isinstance(old, int):
        return int(words)
    if isinstance(old, float):
        return float(words.replace(",", "."))
    if isinstance(old, list | tuple):
        return [one.strip() for one in words.split(",") if one.strip()]
    return words


def _seen(photo: str) -> QPixmap:
    """A photo as large as there is room, turned as it was taken."""
    reader = QImageReader(photo)
    reader.setAutoTransform(True)
    size = reader.size()
    if size.isValid():
        reader.setScaledSize(size.scaled(_PICTURE_PX, _PICTURE_PX, Qt.AspectRatioMode.KeepAspectRatio))
    return QPixmap.fromImage(reader.read())
