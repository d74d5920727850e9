"""A carrier's numbers, part by part, to be changed by hand; each change is checked before it counts."""

from collections.abc import Callable
from typing import Any

import msgspec
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QLineEdit, QTableWidgetItem, QVBoxLayout, QWidget

from glintor.desktop.controls import Number, button, choice, label, row, table, titled
from glintor.errors import InputError
from glintor.placement.carrier import Carrier, read_carrier, write_carrier

_PARTS = ("seats", "tubes", "surfaces", "solids", "sways")
_NAMES = {"seats": "seat", "tubes": "tube", "surfaces": "surface", "solids": "", "sways": "motion"}
_FRESH: dict[str, tuple[str, dict[str, Any]]] = {
    "a box": ("solids", {"is": "box", "low": [-0.2, -0.2, 0.0], "high": [0.2, 0.2, 0.4], "of": "wood"}),
    "a bar": ("solids", {"is": "limb", "along": [[0.0, 0.0, 0.0], [0.0, 0.0, 1.0]], "radius_m": 0.016, "of": "steel"}),
    "a blob": ("solids", {"is": "blob", "middle": [0.0, 0.0, 0.3], "radii_m": [0.3, 0.2, 0.2], "of": "cloth"}),
    "a turned part": (
        "solids", {"is": "lathe", "middle": [0.0, 0.0, 0.0], "axis": "up", "profile": [[0.0, 0.2], [0.5, 0.1]], "of": "wood"},
    ),
    "a slab": (
        "solids",
        {"is": "slab", "outline": [[-0.5, -0.3], [0.5, -0.3], [0.5, 0.3], [-0.5, 0.3]], "low_m": 0.0, "high_m": 0.1, "of": "wood"},
    ),
    "a sheet": (
        "solids", {"is": "sheet", "corners": [[0.0, 0.0, 0.0], [1.0, 0.0, 0.0], [0.0, 0.0, 1.0]], "thick_m": 0.02, "of": "cloth"},
    ),
    "a tube to clamp on": (
        "tubes", {"id": "tube", "words": "a tube", "lines": [[[0.0, -0.3, 1.0], [0.0, 0.3, 1.0]]], "diameter_mm": 25},
    ),
    "a flat to stick to": (
        "surfaces", {"id": "flat", "words": "a flat", "areas": [[[-0.2, -0.2, 0.4], [0.2, 0.2, 0.4]]], "of": "metal"},
    ),
    "a seat": ("seats", {"id": "seat", "words": "who rides", "feet": [0.0, 0.0, 0.0], "pose": "sits"}),
    "a motion": ("sways", {"hz": 1.0, "offset_mm": [0.0, 0.0, 5.0], "turn_deg": [0.0, 0.5, 0.0]}),
}  # fmt: skip


class CarrierForm(QWidget):
    """`changed` gives the changed carrier with each edit; `trouble` what is wrong with what was typed."""

    changed = pyqtSignal(object)
    trouble = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._carrier = Carrier(id="none", words="none")
        self.words = QLineEdit()
        self.words.setAccessibleName("Name of the carrier")
        self.on = choice("It goes on", [("land", "land"), ("water", "water"), ("air", "air")])
        self.numbers = {
            "floor_m": Number("floor", " m up", 0, 200, 0.05, 2, bare=True),
            "speed_m_s": Number("speed", " m/s", 0, 60, 0.5, 1, bare=True),
            "lean_deg": Number("leans", "°", 0, 45, 1, 0, bare=True),
            "bump_m_s2": Number("bumps", " m/s²", 0, 100, 1, 1, bare=True),
            "drive_m_s2": Number("shakes a stick", " m/s²", 0, 50, 0.1, 2, bare=True),
            "engine_hz": Number("engine", " Hz", 0, 200, 1, 1, bare=True),
        }
        self.parts = table("Parts of the carrier", ["Part", "Its numbers"])
        self.parts.setEditTriggers(self.parts.EditTrigger.DoubleClicked | self.parts.EditTrigger.EditKeyPressed)
        self.parts.horizontalHeader().setSectionResizeMode(0, self.parts.horizontalHeader().ResizeMode.Fixed)
        self.parts.setColumnWidth(0, 150)
        self.parts.horizontalHeader().setStretchLastSection(True)
        self.kinds = choice("A part", [(name, name) for name in _FRESH])
        self.add = button("Add it", self._add, tip="Adds such a part; then change its numbers")
        self.drop = button("Take the part away", self._drop)
        page = QVBoxLayout(self)
        page.setContentsMargins(0, 0, 0, 0)
        page.setSpacing(6)
        floor, speed, *rest = self.numbers.values()
        page.addLayout(
            row(label("Name", "soft"), self.words, *titled("on", self.on), floor, speed, spacing=8, stretch=False)
        )
        page.addLayout(row(*rest, spacing=10))
        page.addWidget(self.parts, 1)
        page.addLayout(row(self.kinds, self.add, None, self.drop, stretch=False, spacing=8))
        self.words.editingFinished.connect(self._renamed)
        self.on.activated.connect(lambda _at: self._tell(lambda raw: raw.update(on=self.on.currentData())))
        for field, number in self.numbers.items():
            number.edited.connect(
                lambda value, field=field: self._tell(lambda raw: raw.update({field: round(value, 3)}))
            )
        self.parts.itemChanged.connect(self._typed)

    def show_carrier(self, carrier: Carrier) -> None:
        self._carrier = carrier
        self.words.setText(carrier.words)
        self.on.setCurrentIndex(self.on.findData(carrier.on))
        for field, number in self.numbers.items():
            number.show_value(getattr(carrier, field))
        rows = _rows(carrier)
        self.parts.blockSignals(True)
        self.parts.setRowCount(len(rows))
        for at, (_, _, name, numbers) in enumerate(rows):
            first, second = QTableWidgetItem(name), QTableWidgetItem(numbers)
            first.setFlags(first.flags() & ~Qt.ItemFlag.ItemIsEditable)
            second.setToolTip("Ahead, left and up from its middle, in metres. Double click, or F2, to change.")
            self.parts.setItem(at, 0, first)
            self.parts.setItem(at, 1, second)
        self.parts.blockSignals(False)

    def _tell(self, change: Callable[[dict[str, Any]], object]) -> bool:
        """Changes the carrier's data, and tells the new one where it is sound; else says why not."""
        raw = msgspec.json.decode(write_carrier(self._carrier))
        try:
            change(raw)
            carrier = read_carrier(msgspec.json.encode(raw), "This")
        except (InputError, msgspec.DecodeError) as error:
            self.trouble.emit(str(error))
            self.show_carrier(self._carrier)
            return False
        self.trouble.emit("")
        self._carrier = carrier
        self.changed.emit(carrier)
        return True

    def _renamed(self) -> None:
        words = self.words.text().strip()
        if words and words != self._carrier.words:
            self._tell(lambda raw: raw.update(words=words))

    def _typed(self, item: QTableWidgetItem) -> None:
        field, number, _, _ = _rows(self._carrier)[item.row()]

        def put(raw: dict[str, Any]) -> None:
            part = raw[field][number]
            kept = {name: part[name] for name in ("is", "of", "id", "words", "pose") if name in part}
            raw[field][number] = {**kept, **msgspec.json.decode("{" + item.text() + "}")}

        self._tell(put)
        self.show_carrier(self._carrier)

    def _add(self) -> None:
        field, fresh = _FRESH[self.kinds.currentData()]
        if "id" in fresh:
            taken = {part.id for name in ("tubes", "surfaces", "seats") for part in getattr(self._carrier, name)}
            number = next(n for n in range(1, 1000) if f"{fresh['id']}{n}" not in taken)
            fresh = {**fresh, "id": f"{fresh['id']}{number}"}
        if self._tell(lambda raw: raw[field].append(fresh)):
            self.show_carrier(self._carrier)
            at = [field for field, *_ in _rows(self._carrier)]
            self.parts.selectRow(len(at) - 1 - at[::-1].index(field))

    def _drop(self) -> None:
        at = self.parts.currentRow()
        if at >= 0:
            field, number, _, _ = _rows(self._carrier)[at]
            if self._tell(lambda raw: raw[field].pop(number)):
                self.show_carrier(self._carrier)


def _rows(carrier: Carrier) -> list[tuple[str, int, str, str]]:
    """Of each part its list, its number there, what it is and what can be typed, as JSON without its braces."""
    raw = msgspec.json.decode(write_carrier(carrier))
    out = []
    for field in _PARTS:
        for number, part in enumerate(raw[field]):
            kind = _NAMES[field] or part["is"]
            told = part.get("words") or part.get("of", "")
            own = {name: value for name, value in part.items() if name not in ("is", "id")}
            out.append((field, number, f"{kind}: {told}" if told else kind, msgspec.json.encode(own).decode()[1:-1]))
    return out
