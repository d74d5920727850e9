"""The day's battery as a line under its shots: where it is changed, and where it does not last."""

from itertools import pairwise

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.labels import Labels
from glintor.desktop.charts.scale import Scale
from glintor.desktop.charts.sheet import Sheet
from glintor.placement.clock import clock
from glintor.plan.budget import Budget
from glintor.project.model import Project

_LEFT, _BLOCK_PX = 66.0, 16.0
_FEW, _APART_PX, _CROWDED_PX = 12, 40.0, 130.0  # between two changes that are both written: of a few, and of more
_NAME_PX = 34.0  # that a name needs


class DayLine(Sheet):
    def __init__(self) -> None:
        super().__init__("Battery and card over the day", (300, 60), keyboard=False)
        self.setMaximumHeight(74)
        self._budget: Budget | None = None
        self._shots: list[tuple[str, str, float, float]] = []
        self._chosen = ""

    def show_budget(self, project: Project, budget: Budget, chosen: str) -> None:
        self._budget, self._chosen = budget, chosen
        self._shots = [(s.id, s.name, s.start_min, s.start_min + s.length_min) for s in project.planned]
        self.setToolTip(
            f"{budget.batteries} of {budget.have_batteries} batteries, {budget.cards} of {budget.have_cards} cards, {budget.gigabytes:.0f} GB"
        )
        self.update()

    def draw(self, p: QPainter) -> None:
        budget = self._budget
        if budget is None or not self._shots:
            marks.text(p, 10, self.height() / 2, "No shot of the day is planned yet.", colour="soft")
            return
        hours = np.array([shot[2:] for shot in self._shots])
        time = Scale(hours.min() - 10.0, hours.max() + 10.0, _LEFT, self.width() - 12.0)
        share = Scale(0.0, 1.0, self.height() - 18.0, _BLOCK_PX + 9.0)
        marks.text(p, 10, _BLOCK_PX / 2 + 5, "battery", colour="soft")
        short = dict(budget.short)
        written = -_NAME_PX
        for (shot_id, name, *_), (a, b) in zip(self._shots, time.px(hours).tolist(), strict=True):
            box = QRectF(a, 3, max(b - a, 3.0), _BLOCK_PX)
            colour = "stop" if shot_id in short else "course" if shot_id == self._chosen else "course_fill"
            p.fillRect(box, theme.colours()[colour])
            if box.width() > _NAME_PX and a - written >= _NAME_PX:  # never one name on another
                written = a
                said = f"{short[shot_id]:.0f} min short" if shot_id in short else name
                words = p.fontMetrics().elidedText(said, Qt.TextElideMode.ElideRight, int(box.width()) - 8)
                marks.text(p, a + 5, 3 + _BLOCK_PX / 2, words, colour="sheet" if colour != "course_fill" else "ink")
        p.setPen(marks.pen("line", 0.7))
        for level in (0.0, 1.0):
            p.drawLine(QPointF(_LEFT, share.px(level)), QPointF(self.width() - 12.0, share.px(level)))
        line = marks.pen("ink", 1.5)  # lines with round ends take six times as long, a polyline's corners twenty times
        line.setCapStyle(Qt.PenCapStyle.FlatCap)
        p.setPen(line)
        minutes, charges = np.array(budget.charge).T
        points = [QPointF(x, y) for x, y in zip(time.px(minutes).tolist(), share.px(charges).tolist(), strict=True)]
        p.drawLines(*(QLineF(*pair) for pair in pairwise(points)))
        labels = Labels(p, (_LEFT, _BLOCK_PX + 4.0, self.width() - 8.0, self.height() - 15.0))
        enough = "" if budget.batteries <= budget.have_batteries else f": only {budget.have_batteries} in the bag"
        sums = f"{budget.batteries} batteries{enough} · {budget.cards} card{'s' if budget.cards != 1 else ''}, {budget.gigabytes:.0f} GB"
        apart = _APART_PX if len(budget.changes) <= _FEW else _CROWDED_PX
        last = -apart
        for minute, what in budget.changes:
            x, y = time.px(minute), share.px(0.5)
            if x - last >= apart:  # of a crowded day the first of those that would stand on one another
                labels.add(x, y, f"new {what} {clock(minute)}", gap=4.0, sides=("right", "left"))
                last = x
        labels.write()
        marks.text(p, _LEFT, self.height() - 9, sums, colour="stop" if enough else "soft")
