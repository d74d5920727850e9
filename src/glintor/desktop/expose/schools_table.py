"""The schools side by side, each with what it loses in the planned views; a click takes one."""

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QKeyEvent, QMouseEvent, QPainter

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.sheet import Sheet
from glintor.exposure.schools import Run, School

_ROW_PX, _HEAD_PX = 21.0, 20.0
_COLUMNS = ("clipped", "drowned", "pumps", "at seam", "noise")
_SHORT, _NARROW_PX = ("clips", "dark", "pump", "seam", "noise"), 410.0
_FIGURE_PX = 42.0  # that a figure takes
_BAD = (0.03, 0.25, 1.5, 1.0, 4.0)  # from which on a number is drawn in the colour of a stop (judgement)


class SchoolsTable(Sheet):
    chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__("Schools of exposure", (330, int(_HEAD_PX + 5 * _ROW_PX) + 6))
        self.setMaximumHeight(int(_HEAD_PX + 5 * _ROW_PX) + 8)
        self._runs: tuple[Run, ...] = ()
        self._school: School = "locked"
        self._best: School | None = None
        self.setToolTip("A click takes a school for this shot; Up and Down go through them")

    def show_runs(self, runs: tuple[Run, ...], school: School, best: School | None) -> None:
        self._runs, self._school, self._best = runs, school, best
        said = "; ".join(
            f"{one.words}: " + ", ".join(f"{n} {v}" for n, v in zip(_COLUMNS, _numbers(one), strict=True))
            for one in runs
        )
        self.setAccessibleDescription(said)
        self.update()

    def draw(self, p: QPainter) -> None:
        width = float(self.width())
        step = min(66.0, (width - 140.0) / len(_COLUMNS))
        ends = [width - 10.0 - step * (len(_COLUMNS) - 1 - n) for n in range(len(_COLUMNS))]
        narrow = width < _NARROW_PX
        marks.text(p, 10, _HEAD_PX / 2 + 1, "In the views" if narrow else "In the planned views", colour="soft")
        for x, words in zip(ends, _SHORT if narrow else _COLUMNS, strict=True):
            marks.text(p, x, _HEAD_PX / 2 + 1, words, colour="soft", align="right")
        for number, one in enumerate(self._runs):
            y = _HEAD_PX + number * _ROW_PX
            mine = one.school == self._school
            if mine:
                p.fillRect(QRectF(1, y, width - 2, _ROW_PX), theme.colours()["course_fill"])
            if one.school == self._best:
                p.setPen(marks.pen("course", 2.0))
                p.drawLine(QPointF(3, y + 4), QPointF(3, y + _ROW_PX - 4))
            room = int(ends[0] - _FIGURE_PX - 10.0)
            name = QFontMetrics(theme.font(bold=mine)).elidedText(one.words, Qt.TextElideMode.ElideRight, room)
            marks.text(p, 10, y + _ROW_PX / 2, name, bold=mine)
            raw = (one.clipped, one.drowned, one.pumping, one.step, one.noise_percent)
            for x, words, value, bad in zip(ends, _numbers(one), raw, _BAD, strict=True):
                marks.text(
                    p, x, y + _ROW_PX / 2, words, align="right", bold=mine, colour="stop" if value > bad else "ink"
                )

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        number = int((event.position().y() - _HEAD_PX) // _ROW_PX)
        if 0 <= number < len(self._runs):
            self.chosen.emit(self._runs[number].school)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        at = next((n for n, one in enumerate(self._runs) if one.school == self._school), None)
        if step is None or at is None:
            super().keyPressEvent(event)
        elif 0 <= at + step < len(self._runs):
            self.chosen.emit(self._runs[at + step].school)


def _numbers(one: Run) -> tuple[str, ...]:
    return (
        f"{100.0 * one.clipped:.1f} %",
        f"{100.0 * one.drowned:.0f} %",
        f"{one.pumping:.1f} /s" if one.pumping >= 0.05 else "0",
        f"{one.step:.1f}" if one.step >= 0.05 else "0",
        f"{one.noise_percent:.1f} %",
    )
