"""Where the light of a take is known from: the simulated place, a table, a hand meter, a test frame, one after the other."""

from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QDialog, QFileDialog, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from glintor.desktop.controls import Number, button, choice, label, row
from glintor.errors import GlintorError
from glintor.exposure.sources import LightFrom, read_light
from glintor.exposure.values import SCENES
from glintor.media.picture import SUFFIXES

_MOST = 12


class LightSheet(QDialog):
    """`taken` gives what is told of the light; nothing is the simulated place all along."""

    taken = pyqtSignal(object)

    def __init__(self, light: tuple[LightFrom, ...], take_s: float, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Light of the take")
        self.resize(640, 360)
        self._light, self._take_s = light, take_s
        page = QVBoxLayout(self)
        page.setContentsMargins(18, 14, 18, 14)
        page.setSpacing(10)
        words = label(
            "Until something is told, the light is that of the simulated place. Each source counts from its second on.",
            "soft",
        )
        words.setWordWrap(True)
        page.addWidget(words)
        self._rows = QGridLayout()
        self._rows.setHorizontalSpacing(10)
        page.addLayout(self._rows)
        page.addStretch(1)
        self.typed = QLineEdit()
        self.typed.setAccessibleName("Light as metered")
        self.typed.setPlaceholderText("EV 12.5 · 3200 lux · f/8 1/125 ISO 100")
        self.typed.returnPressed.connect(self.add_typed)
        self.scenes = choice("Published table", [(words, f"{words}, EV {ev:g}") for words, ev in SCENES])
        self.begins = Number("from second", " s", 0, 86400, 5, 0)
        page.addLayout(
            row(self.begins, self.typed, button("Add what was metered", self.add_typed), stretch=False, spacing=8)
        )
        page.addLayout(
            row(
                self.scenes,
                button("Add from the table", self.add_scene),
                button("Add a test frame…", self._ask_frame, tip="A photo or a clip of this light, of any camera"),
                button("Back to the place", self.add_place, tip="From that second on the simulated place again"),
                spacing=8,
            )
        )
        self.trouble = label("", "stopwords")
        self.trouble.setWordWrap(True)
        page.addWidget(self.trouble)
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(button("Leave it", self.reject))
        foot.addWidget(button("Take over", self.take, main=True))
        page.addLayout(foot)
        self._list()

    @property
    def light(self) -> tuple[LightFrom, ...]:
        return self._light

    def _list(self) -> None:
        while self._rows.count():
            item = self._rows.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        for at, one in enumerate(self._light):
            number = "as its file says" if one.kind == "frame" else "" if one.kind == "place" else f"EV {one.ev:.1f}"
            for column, words in enumerate((f"from {one.from_s:g} s", one.source, number)):
                self._rows.addWidget(label(words, "" if column else "soft"), at, column)
            self._rows.addWidget(button("Take out", self._without(one)), at, 3)

    def _without(self, one: LightFrom) -> Callable[[], None]:
        def take_out() -> None:
            self._light = tuple(other for other in self._light if other is not one)
            self._list()

        return take_out

    def add(self, one: LightFrom) -> None:
        """Puts a source in at the second that is set; another that begins there gives way."""
        begins = self.begins.box.value()
        if begins >= self._take_s:
            self.trouble.setText(f"The take is {self._take_s:g} s long: choose an earlier second.")
            return
        others = tuple(other for other in self._light if abs(other.from_s - begins) > 1e-6)
        if len(others) >= _MOST:
            self.trouble.setText(f"At most {_MOST} sources: take one out first.")
            return
        self._light = tuple(sorted((*others, replace(one, from_s=begins)), key=lambda o: o.from_s))
        self.trouble.setText("")
        self._list()

    def add_typed(self) -> None:
        try:
            self.add(read_light(self.typed.text()))
        except GlintorError as error:
            self.trouble.setText(str(error))

    def add_scene(self) -> None:
        words = self.scenes.currentData()
        self.add(LightFrom(kind="table", ev=dict(SCENES)[words], words=words))

    def add_place(self) -> None:
        self.add(LightFrom(kind="place"))

    def _ask_frame(self) -> None:
        kinds = " ".join(f"*{suffix}" for suffix in sorted(SUFFIXES))
        name, _ = QFileDialog.getOpenFileName(
            self, "A test frame of this light", "", f"Spheres ({kinds} *.mp4 *.mov *.mkv)"
        )
        if name:
            self.add_frame(Path(name))

    def add_frame(self, file: Path) -> None:
        """A photo or clip as a source; where it does not say how it was exposed, what was typed counts for it."""
        from glintor.exposure.frame_light import read_frame

        try:
            frame = read_frame(file)
            told = None
            if frame.ev100 is None:
                told = read_light(self.typed.text()).ev if self.typed.text().strip() else None
        except (GlintorError, OSError) as error:
            self.trouble.setText(str(error))
            return
        if frame.ev100 is None and told is None:
            self.trouble.setText(
                f"{file.name} does not say how it was exposed: type what it was exposed for (EV 13) and add it again."
            )
            return
        self.add(LightFrom(kind="frame", words=file.name[:40], file=str(file.absolute()), frame_ev=told))

    def take(self) -> None:
        self.taken.emit(self._light)
        self.accept()
