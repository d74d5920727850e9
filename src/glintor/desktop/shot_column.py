"""The shots as cards: name, set-up in words, and six small marks for how far each desk has come."""

from PyQt6.QtCore import QEvent, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QImage, QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QToolTip

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.sheet import Sheet
from glintor.finding import Level
from glintor.placement.clock import clock
from glintor.placement.mounts import setup_by_id
from glintor.project.model import Project, Shot

_WIDE, _RAIL = 206, 52
_HEIGHT, _RAIL_HEIGHT = 84, 44
STAGES = ("place", "expose", "record", "offload", "reframe", "export")


class ShotColumn(Sheet):
    """All cards in one chart; arrow keys go from one to the next."""

    shot_clicked = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__("Shots", (_RAIL, 200))
        self._folded = False
        self.setFixedWidth(_WIDE)
        self._project: Project | None = None
        self._chosen = ""
        self._pictures: dict[str, QImage] = {}
        self._worst: dict[str, dict[str, Level]] = {}
        self._exported: dict[str, float] = {}
        self._first = 0

    def show_shots(self, project: Project, chosen: str) -> None:
        drawn = (self.in_sight(), self._chosen, self._hidden())
        self._project, self._chosen = project, chosen
        self._keep_in_sight()
        if drawn != (self.in_sight(), chosen, self._hidden()):
            self.update()

    def show_picture(self, shot_id: str, picture: QImage) -> None:
        self._pictures[shot_id] = picture
        self.update()

    def show_findings(self, shot_id: str, worst: dict[str, Level], exported: float) -> None:
        """The worst finding of each desk of a shot, and which share of its films is written."""
        if (self._worst.get(shot_id), self._exported.get(shot_id)) != (worst, exported):
            self._worst[shot_id], self._exported[shot_id] = worst, exported
            self.update()

    def show_folded(self, folded: bool) -> None:
        """A rail of small pictures, each with a dot for the worst that was found; or whole cards."""
        self._folded = folded
        self.setFixedWidth(_RAIL if folded else _WIDE)
        self._keep_in_sight()
        self.update()

    @property
    def _step(self) -> int:
        return _RAIL_HEIGHT if self._folded else _HEIGHT

    def _fitting(self) -> int:
        return max(self.height() // self._step, 1)

    def _hidden(self) -> int:
        return 0 if self._project is None else max(len(self._project.shots) - self._fitting(), 0)

    def in_sight(self) -> tuple[Shot, ...]:
        """The shots whose cards are seen."""
        return self._project.shots[self._first : self._first + self._fitting()] if self._project is not None else ()

    def _keep_in_sight(self) -> None:
        if self._project is None:
            return
        at = [s.id for s in self._project.shots].index(self._chosen)
        self._first = max(min(self._first, at), at - self._fitting() + 1, 0)

    def resizeEvent(self, _event: object) -> None:
        self._keep_in_sight()

    def draw(self, p: QPainter) -> None:
        if self._project is None:
            return
        p.fillRect(self.rect(), theme.colours()["paper"])
        for place, shot in enumerate(self.in_sight()):
            if self._folded:
                self._small(p, QRectF(5, 4 + place * _RAIL_HEIGHT, self.width() - 10, _RAIL_HEIGHT - 6), shot)
            else:
                self._card(p, QRectF(8, 6 + place * _HEIGHT, self.width() - 16, _HEIGHT - 8), shot)
        if self._hidden() and not self._folded:
            marks.text(
                p,
                self.width() / 2,
                self.height() - 8,
                f"{self._hidden()} more: Up and Down",
                colour="soft",
                align="middle",
            )

    def _small(self, p: QPainter, box: QRectF, shot: Shot) -> None:
        """A picture, and the dot of the worst level that any desk found."""
        chosen, picture = shot.id == self._chosen, self._pictures.get(shot.id)
        p.fillRect(box, theme.colours()["mat"])
        if picture is not None:
            p.drawImage(box, picture)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(marks.pen("course" if chosen else "line", 3.0 if chosen else 1.0))
        p.drawRect(box)
        worst = max(self._worst.get(shot.id, {}).values(), default=Level.NOTE)
        if worst > Level.NOTE:
            marks.level_sign(p, box.right() - 6, box.top() + 7, worst, 10)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and self._folded:
            shot = self._shot_at(event.pos().y())
            QToolTip.showText(event.globalPos(), shot.name if shot is not None else "", self)
            return True
        return super().event(event)

    def _card(self, p: QPainter, box: QRectF, shot: Shot) -> None:
        chosen = shot.id == self._chosen
        assert self._project is not None
        if chosen:
            p.fillRect(box, theme.colours()["sheet"])
            p.setPen(marks.pen("course"))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(box)
            p.fillRect(QRectF(box.left(), box.top(), 4, box.height()), theme.colours()["course"])
        p.setFont(theme.font(bold=True))
        name = p.fontMetrics().elidedText(shot.name, Qt.TextElideMode.ElideRight, int(box.width() - 16))
        marks.text(p, box.left() + 12, box.top() + 13, name, bold=True)
        picture = self._pictures.get(shot.id)
        frame = QRectF(box.left() + 12, box.top() + 26, 60, 34)
        p.fillRect(frame, theme.colours()["mat"])
        if picture is not None:
            p.drawImage(frame, picture)
        p.setFont(theme.font())
        for line, words in enumerate(_words(shot, planned=shot in self._project.planned)):
            room = int(box.width() - 84)
            fitting = p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, room)
            marks.text(p, box.left() + 80, box.top() + 34 + 17 * line, fitting, colour="soft")
        done = {
            "place": float(shot in self._project.planned),
            "expose": float(shot in self._project.planned),
            "record": float(bool(shot.takes)),
            "reframe": float(bool(shot.cuts)),
            "export": self._exported.get(shot.id, 0.0),
        }
        done["offload"] = sum(not t.only_on_card for t in shot.takes) / len(shot.takes) if shot.takes else 0.0
        width = (box.width() - 24 - 5 * 4) / 6
        for number, stage in enumerate(STAGES):
            mark = QRectF(box.left() + 12 + number * (width + 4), box.bottom() - 10, width, 5)
            level = self._worst.get(shot.id, {}).get(stage, Level.NOTE)
            colour = marks.LEVEL_COLOUR[level] if level > Level.NOTE and done[stage] else "soft"
            p.setPen(marks.pen(colour))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(mark)
            p.fillRect(
                QRectF(mark.left(), mark.top(), mark.width() * done[stage], mark.height()), theme.colours()[colour]
            )

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None and self._project is not None
        shot = self._shot_at(event.position().y())
        if shot is not None:
            self.shot_clicked.emit(shot.id)

    def _shot_at(self, y: float) -> Shot | None:
        place, seen = int((y - 2) // self._step), self.in_sight()
        return seen[place] if 0 <= place < len(seen) else None

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None and self._project is not None
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        ids = [s.id for s in self._project.shots]
        at = min(max(ids.index(self._chosen) + step, 0), len(ids) - 1)
        self.shot_clicked.emit(ids[at])


def _words(shot: Shot, *, planned: bool) -> tuple[str, str]:
    """Two lines of a card: how the camera is held and when, or what was recorded where nobody planned it."""
    if not planned:
        count = (
            f"{len(shot.takes)} recordings" if len(shot.takes) > 1 else "1 recording" if shot.takes else "no recording"
        )
        return count, "not planned"
    placement = shot.placement
    stick = f"{placement.stick_m:g} m" if placement.stick_m else "no stick"
    return setup_by_id(placement.setup).words.split(",")[0], f"{stick} · {clock(shot.start_min)}"
