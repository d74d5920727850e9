"""The films that could be rendered: cuts as rows, formats as columns. Rows are made when they come into sight."""

from collections.abc import Callable, Iterator, Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QImage, QPainter, QResizeEvent
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.controls import label
from glintor.export.formats import FORMATS, USUAL, Forecast, Format
from glintor.project.model import Shot
from glintor.reframing.cut import Cut

Name = tuple[str, str, str]  # of a film: its shot's id, its cut's id, its format
Row = tuple[Shot, Cut]
_GAP = 8


class _Thumb(QWidget):
    """A small picture of a film on a mat."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setFixedHeight(104)
        self.setMinimumWidth(120)
        self._image: QImage | None = None

    def show_picture(self, picture: QImage) -> None:
        self._image = picture
        self.update()

    def paintEvent(self, _event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.colours()["mat"])
        if self._image is not None:
            box = marks.fitted(
                (self._image.width(), self._image.height()), self.rect().toRectF().adjusted(4, 4, -4, -4)
            )
            painter.drawImage(box, self._image)
        painter.end()


class Cell(QWidget):
    """One film that could be rendered: picture, true resolution, size, state, and whether it is wanted."""

    def __init__(self, cut: Cut, shape: Format) -> None:
        super().__init__()
        self.thumb = _Thumb(f"{cut.name} {shape.name}")
        self.tick = QCheckBox(f"{shape.name}  {shape.size_px[0]}x{shape.size_px[1]}")
        self.tick.setAccessibleName(f"Render {cut.name} as {shape.name}")
        self.true, self.size_words, self.state = label("", "soft"), label("", "soft"), label("")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 6)
        column.setSpacing(3)
        for thing in (self.tick, self.thumb, self.true, self.size_words, self.state):
            column.addWidget(thing)

    def show_forecast(self, ahead: Forecast) -> None:
        low, high = ahead.true_width_px
        true = f"{low}" if low == high else f"{low} to {high}"
        self.true.setText(f"true {true} px")
        self.true.setToolTip(f"True width {true} px: so many source pixels lie across the film")
        size = f"{ahead.size_bytes / 1e6:.0f} MB"
        guessed = ahead.about and not ahead.measured
        self.size_words.setText(f"{size}, a guess" if guessed else f"about {size}" if ahead.about else size)
        told = "As for a usual scene: it may be a quarter of it, or four times. “Measure sizes” packs pieces of it to know better"
        self.size_words.setToolTip(told if guessed else "Measured on pieces of this film" if ahead.measured else "")


class _Line(QWidget):
    """One cut with its formats beside one another."""

    def __init__(self, cut: Cut, parent: QWidget) -> None:
        super().__init__(parent)
        self.title = label("", "head")
        self.cells = {shape.name: Cell(cut, shape) for shape in FORMATS}
        column, cells = QVBoxLayout(self), QHBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(_GAP)
        cells.setSpacing(_GAP)
        for cell in self.cells.values():
            cells.addWidget(cell, 1)
        column.addWidget(self.title)
        column.addLayout(cells)


class Grid(QScrollArea):
    """`came(row)` says which row has just been made and is to be filled."""

    came = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Cuts and formats")
        self.rows: list[Row] = []
        self._lines: dict[tuple[str, str], _Line] = {}
        self._ticked: dict[Name, bool] = {}
        self._high = 0
        self._page = QWidget()
        self.setWidget(self._page)
        self._empty = label("No cut to render yet: begin one on desk 5.", "soft")
        self._empty.setParent(self._page)
        self.verticalScrollBar().valueChanged.connect(lambda _at: self._make_seen())

    def show_rows(self, rows: Sequence[Row]) -> None:
        """Takes the rows up; lines of cuts that are still there stay."""
        self.rows = list(rows)
        names = {(s.id, c.id): c.name for s, c in rows}
        for key in [k for k, line in self._lines.items() if names.get(k) != line.property("cut")]:
            self._lines.pop(key).deleteLater()
        self._lay()

    def ticked(self, name: Name) -> bool:
        """Whether a film is wanted: as the hand ticked it, else the usual formats."""
        return self._ticked.get(name, any(shape.name == name[2] for shape in USUAL))

    def wanted(self) -> Iterator[tuple[Shot, Cut, Format]]:
        """Every film that is ticked, in sight or not."""
        for shot, cut in self.rows:
            for shape in FORMATS:
                if self.ticked((shot.id, cut.id, shape.name)):
                    yield shot, cut, shape

    def line(self, row: int) -> _Line | None:
        """A row's widgets, where it has been in sight."""
        shot, cut = self.rows[row]
        return self._lines.get((shot.id, cut.id))

    def made(self) -> Iterator[int]:
        """Numbers of the rows that have widgets."""
        return (n for n, (shot, cut) in enumerate(self.rows) if (shot.id, cut.id) in self._lines)

    def cells(self) -> dict[Name, Cell]:
        """The films that have widgets."""
        return {(*key, shape): cell for key, line in self._lines.items() for shape, cell in line.cells.items()}

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._lay()

    def _make(self, row: int) -> _Line:
        shot, cut = self.rows[row]
        line = _Line(cut, self._page)
        line.setProperty("cut", cut.name)
        for shape, cell in line.cells.items():
            name = (shot.id, cut.id, shape)
            cell.tick.setChecked(self.ticked(name))
            cell.tick.toggled.connect(self._keeper(name))
        self._lines[shot.id, cut.id] = line
        self._high = self._high or line.sizeHint().height() + _GAP
        line.show()
        return line

    def _keeper(self, name: Name) -> Callable[[bool], None]:
        return lambda on: self._ticked.__setitem__(name, on)

    def _lay(self) -> None:
        """Puts the lines where they belong and makes those in sight."""
        self._empty.setVisible(not self.rows)
        if self.rows and not self._high:
            self._make(0)
            self.came.emit(0)
        wide = self.viewport().width() - 2  # the last frame stands clear of the bar
        self._page.resize(wide, max(len(self.rows) * self._high, self._empty.sizeHint().height()))
        for row in self.made():
            self._put(row)
        self._make_seen()

    def _put(self, row: int) -> None:
        line = self.line(row)
        if line is not None:
            line.setGeometry(0, row * self._high, self._page.width(), self._high - _GAP)

    def _make_seen(self) -> None:
        if not self.rows:
            return
        top, high = self.verticalScrollBar().value(), self.viewport().height()
        first = max(top // self._high, 0)
        for row in range(first, min((top + high) // self._high + 1, len(self.rows))):
            if self.line(row) is None:
                self._make(row)
                self._put(row)
                self.came.emit(row)
