"""The course under a hand: pennants, band, holds and moves, in, out, playhead, and a marked part."""

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QWheelEvent

from glintor.desktop.reframe.course_chart import CourseChart
from glintor.desktop.reframe.course_sheet import TOP
from glintor.reframing.arranging import nearest
from glintor.reframing.freezing import stretch_spans
from glintor.sphere.angle import wrap_deg

_TAKEN_PX = 6.0  # a hand goes so far before it is told whether it drags in time or in bearing
_SNAP_PX = 7.0
_EDGE_PX = 5.0
_FLAG_PX = 20.0  # as far as a pennant reaches from its pole


# What may be pulled but lies under every click on the course: the band's edge, a hold or move, a ready move.
_CLICKED_THROUGH = ("width", "stage", "move")


class Grip(Struct, frozen=True):
    """What a hand took: of which number, where, its moment or length and its bearing then, and which way it may go ("" until that is
    told)."""

    what: str
    number: int = 0
    at: tuple[float, float] = (0.0, 0.0)
    was: float = 0.0
    was_deg: float = 0.0
    was_end: float = 0.0
    way: str = ""
    name: str = ""


class Course(CourseChart):
    """Draws a cut's path in its clip, and says what a hand does to it. Values that are dragged count from where the drag began."""

    time_chosen = pyqtSignal(float)
    key_chosen = pyqtSignal(int)
    key_added = pyqtSignal(int)  # to those that are chosen, or taken from them
    keys_boxed = pyqtSignal(object)  # indices
    key_dragged = pyqtSignal(int, float)  # to a moment
    key_turned = pyqtSignal(int, float)  # by degrees of bearing
    key_tilted = pyqtSignal(int, float)  # by degrees of height
    band_widened = pyqtSignal(float, float)  # at a moment, so many times as wide
    move_dragged = pyqtSignal(str, float, float)  # a move, to begin and end at
    stage_dragged = pyqtSignal(int, float)  # to a length
    in_dragged = pyqtSignal(float)
    out_dragged = pyqtSignal(float)
    drag_begun = pyqtSignal()
    drag_ended = pyqtSignal()
    part_marked = pyqtSignal(object)  # (start, end) of the path, or None

    def __init__(self) -> None:
        super().__init__()
        self._grip: Grip | None = None
        self._pulled = False  # whether the hand moved since it took something

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._cut is None:
            return
        at, held = event.position(), event.modifiers()
        self._grip, self._pulled = self._taken(at, held), False
        self.drag_begun.emit()
        if self._grip.what == "key":
            if held & Qt.KeyboardModifier.ControlModifier:
                self.key_added.emit(self._grip.number)
            elif self._plot is not None and self._grip.number not in self._plot.several:
                self.key_chosen.emit(self._grip.number)
        elif self._grip.what == "part":
            self.part_marked.emit(None)
        elif self._grip.what == "lane":
            hit = next((span for *span, _ in stretch_spans(self._cut) if span[0] <= self._grip.was <= span[1]), None)
            self.part_marked.emit(tuple(hit) if hit is not None else None)
        if self._grip.what in ("time", "lane"):
            self._go(at.x())

    def _taken(self, at: QPointF, held: Qt.KeyboardModifier) -> Grip:
        assert self._cut is not None
        (main, height, speed), time = self._strips(), self._time()
        here, where = self._when(at.x()), (at.x(), at.y())
        if self._closer and at.y() < TOP - 16 and not self._thin:
            return Grip("sight", at=where, was=self._from_s)
        if held & Qt.KeyboardModifier.ShiftModifier:
            return Grip("part", at=where, was=here)
        if self._lane(speed).contains(at):
            return Grip("lane", was=here)
        for number, key in enumerate(self._cut.keys):
            if (
                abs(time.px(key.time_s) - at.x()) > _FLAG_PX
            ):  # most are: a pointer that moves over a long path asks often
                continue
            x, y = self._foot(number, main, time)
            low = QRectF(x - 5, self._pitch(height).px(float(self._feet[number, 1])) - 6, 10, 12)
            if QRectF(x - 5, y - 20, 19, 26).contains(at):
                return Grip("key", number, where, self._cut.keys[number].time_s, float(self._feet[number, 0]))
            if height.height() and low.contains(at):
                return Grip("key", number, where, self._cut.keys[number].time_s, way="height")
        if at.y() < TOP:
            for name, value in (("in", self._cut.begins_s), ("out", self._cut.ends_s)):
                if abs(time.px(value) - at.x()) < 8:
                    return Grip(name)
        for move in self._cut.moves:
            box = self._span_box(move.start_s, move.end_s, main, time)
            if box.top() - 1 <= at.y() <= box.bottom() + 2 and box.left() - 5 <= at.x() <= box.right() + 5:
                way = "start" if at.x() < box.left() + 7 else "end" if at.x() > box.right() - 7 else "all"
                return Grip("move", at=where, was=move.start_s, was_end=move.end_s, way=way, name=move.id)
        for stage in self._stages:
            box = self._stage_box(stage, main, time)
            if box.top() - 1 <= at.y() <= box.bottom() + 2 and abs(box.right() - at.x()) < 7:
                return Grip("stage", stage.index, where, stage.end_s - stage.start_s)
        if held & Qt.KeyboardModifier.ControlModifier and main.contains(at):
            return Grip("box", at=where)
        if main.contains(at) and self._on_edge(at, main):
            return Grip("width", at=where, was=here)
        return Grip("time")

    def _on_edge(self, at: QPointF, main: QRectF) -> bool:
        """Whether a point lies on an edge of the band."""
        off, edge = self._off_middle_px(at, main)
        return abs(off - edge) < _EDGE_PX

    def _off_middle_px(self, at: QPointF, main: QRectF) -> tuple[float, float]:
        """How far a point is off the band's middle, and how far its edge is, pixels."""
        when = np.array([self._when(at.x())])
        assert self._plot is not None
        values = self._plot.course.values(when)
        scale = self._bearing(main)
        off = wrap_deg(scale.value(at.y()) - self._told(values[:, 0], when))
        return float(abs(off[0])) * scale.px_per_unit, min(float(values[0, 3]), 360.0) / 2 * scale.px_per_unit

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if self._grip is None:
            self._point_out(at)
            return
        grip, when = self._grip, self._when(at.x())
        far = max(abs(at.x() - grip.at[0]), abs(at.y() - grip.at[1])) if grip.what in _CLICKED_THROUGH else _TAKEN_PX
        self._pulled = self._pulled or far >= _TAKEN_PX
        if not self._pulled:
            return
        if grip.what == "key":
            self._drag_key(grip, at, free=bool(event.modifiers() & Qt.KeyboardModifier.AltModifier))
        elif grip.what == "part":
            low, high = sorted((grip.was, when))
            self.part_marked.emit((low, high) if high - low > 0.05 else None)
        elif grip.what in ("time", "lane"):
            self._go(at.x())
        elif grip.what == "stage":
            self.stage_dragged.emit(grip.number, max(grip.was + (at.x() - grip.at[0]) / self._time().px_per_unit, 0.0))
        elif grip.what == "move":
            by = (at.x() - grip.at[0]) / self._time().px_per_unit
            start = grip.was + (by if grip.way in ("start", "all") else 0.0)
            self.move_dragged.emit(grip.name, start, grip.was_end + (by if grip.way in ("end", "all") else 0.0))
        elif grip.what == "sight":
            by = (at.x() - grip.at[0]) / self._overview_bar().width() * self._length_s
            self.look_at(grip.was + by, grip.was + by + self._to_s - self._from_s)
        elif grip.what == "width":
            main = self._strips()[0]
            then, now = (max(self._off_middle_px(p, main)[0], 2.0) for p in (QPointF(*grip.at), at))
            self.band_widened.emit(grip.was, now / then)
        elif grip.what == "box":
            low, high = sorted((self._when(grip.at[0]), when))
            assert self._cut is not None
            self.keys_boxed.emit(frozenset(n for n, k in enumerate(self._cut.keys) if low <= k.time_s <= high))
        else:
            (self.in_dragged if grip.what == "in" else self.out_dragged).emit(when)

    def _drag_key(self, grip: Grip, at: QPointF, *, free: bool) -> None:
        """Sideways it is dragged in time, up and down in bearing or, in the strip of heights, in height. free: it snaps to nothing."""
        right, down = at.x() - grip.at[0], at.y() - grip.at[1]
        if grip.way in ("", "height") and max(abs(right), abs(down)) < (_TAKEN_PX if not grip.way else 3.0):
            return
        if not grip.way:
            grip = self._grip = replace(grip, way="time" if abs(right) >= abs(down) else "bearing")
        main, height, _ = self._strips()
        if grip.way == "time":
            when = grip.was + right / self._time().px_per_unit
            self.key_dragged.emit(grip.number, when if free else self._snapped_s(when))
        elif grip.way == "bearing":
            by = -down / self._bearing(main).px_per_unit
            self.key_turned.emit(grip.number, by if free else self._snapped_deg(grip, by, main))
        else:
            self.key_tilted.emit(grip.number, -down / self._pitch(height).px_per_unit)

    def _snapped_s(self, when: float) -> float:
        """A moment at marks, the playhead and in and out, where one is near."""
        assert self._plot is not None and self._cut is not None
        near = (*self._plot.marks_s, self._now_s, self._cut.begins_s, self._cut.ends_s)
        return nearest(when, near, _SNAP_PX / self._time().px_per_unit)

    def _snapped_deg(self, grip: Grip, by: float, main: QRectF) -> float:
        """A turn that ends at a subject, the way of travel, the sun or the front, where one is near."""
        when = grip.was
        start = float(self._told(np.array([grip.was_deg]), np.array([when]))[0])
        within = _SNAP_PX / self._bearing(main).px_per_unit
        offs = (float(wrap_deg(yaw - start - by)) for yaw in self._snaps_deg(when))
        return by + nearest(0.0, offs, within)

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        if self._grip is not None and self._grip.what in _CLICKED_THROUGH and not self._pulled:
            self._go(self._grip.at[0])  # only clicked: the playhead lands there, whatever could have been pulled
        self._grip = None
        self.drag_ended.emit()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """Looks closer round the pointer; sideways, or with Shift, goes along."""
        assert event is not None
        up, side = event.angleDelta().y() / 120.0, event.angleDelta().x() / 120.0
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier or not up:
            self.look_along(-0.15 * (up + side))
        else:
            self.look_closer(1.25**up, self._when(event.position().x()))
        event.accept()

    def _point_out(self, at: QPointF) -> None:
        """The pointer tells what would be taken."""
        if self._cut is None:
            return
        what = self._taken(at, Qt.KeyboardModifier.NoModifier).what
        shapes = {
            "key": Qt.CursorShape.SizeAllCursor,
            "width": Qt.CursorShape.SizeVerCursor,
            "stage": Qt.CursorShape.SizeHorCursor,
            "move": Qt.CursorShape.SizeHorCursor,
            "in": Qt.CursorShape.SizeHorCursor,
            "out": Qt.CursorShape.SizeHorCursor,
            "sight": Qt.CursorShape.OpenHandCursor,
        }
        self.setCursor(shapes.get(what, Qt.CursorShape.ArrowCursor))

    def _go(self, x: float) -> None:
        self.time_chosen.emit(self._when(x))

    def _when(self, x: float) -> float:
        return float(np.clip(self._time().value(x), 0.0, self._length_s))
