"""Flying: the take plays, a hand leads the view, and what was seen becomes keyframes."""

from collections.abc import Callable

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QElapsedTimer, QEvent, QObject, QPointF, Qt, QTimer
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QWheelEvent

from glintor.desktop.reframe.board import Board
from glintor.desktop.reframe.cut_work import CutWork
from glintor.desktop.reframe.edit_context import EditContext
from glintor.desktop.reframe.pad import Pad
from glintor.desktop.reframe.playing import Playing
from glintor.desktop.reframe.push import Led, Push
from glintor.desktop.reframe.screen import Request
from glintor.reframing.course import Course
from glintor.reframing.cut import Cut
from glintor.reframing.fitted import Flight, flown
from glintor.reframing.motion import motion_of
from glintor.reframing.retime import Stretch, Timeline, with_stretch
from glintor.sphere.view import View, as_set

_TICK_MS = 8
_AHEAD = 1  # frames drawn before they are due: more would make the view come late
_GLANCES = 5  # the sphere is shown with every so manyth frame
_LEAST_S = 0.4  # shorter is no flight
_KEYS = {
    Qt.Key.Key_Left: Push(right=-0.6),
    Qt.Key.Key_Right: Push(right=0.6),
    Qt.Key.Key_Up: Push(up=0.6),
    Qt.Key.Key_Down: Push(up=-0.6),
    Qt.Key.Key_Plus: Push(closer=1.0),
    Qt.Key.Key_Equal: Push(closer=1.0),
    Qt.Key.Key_Minus: Push(closer=-1.0),
    Qt.Key.Key_PageUp: Push(roll=-1.0),
    Qt.Key.Key_PageDown: Push(roll=1.0),
}
_END, _FORGET = (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Y), Qt.Key.Key_Escape


class Flying(QObject):
    """Flies the cut at hand. What was flown is one edit, however often its smoothing is changed."""

    def __init__(
        self, context: EditContext, work: CutWork, board: Board, playing: Playing, refresh: Callable[[], object]
    ) -> None:
        super().__init__(board)
        self._context, self._work, self._board, self._bar, self._hand = (
            context,
            work,
            board,
            board.fly_bar,
            context.hand,
        )
        self._playing, self._refresh = playing, refresh
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._tick)
        self._clock = QElapsedTimer()
        self._led: Led | None = None
        self._pressed: dict[int, Push] = {}
        self._pointer = Push()
        self._grip: QPointF | None = None
        self._pad: Pad | None = None
        self._before: Cut | None = None
        self._laid: Cut | None = None
        self._seen: list[tuple[float, View]] = []
        self.flight: Flight | None = None
        self._zoomed = False
        self._number = 0
        board.fly.clicked.connect(self.turn)
        self._bar.fly_asked.connect(self.turn)
        self._bar.smoothing_changed.connect(self.smooth)
        self._bar.raw_wanted.connect(self.show_raw)
        context.document.changed.connect(self._follow_undo)

    @property
    def running(self) -> bool:
        return self._led is not None

    def turn(self) -> None:
        """Begins to fly, or ends it."""
        if self.running:
            self._context.player.stop()
        else:
            self.begin()

    def begin(self) -> None:
        """Flies from the present moment, or from a marked part's beginning, to its or the cut's end."""
        context, hand, frame_view = self._context, self._hand, self._board.frame
        cut, take = hand.cut, hand.take
        if cut is None or take is None or context.footage is None:
            context.say("There is nothing to fly over yet")
            return
        first, last = cut.span_s
        start, end = hand.part or (hand.now_s, last)
        start = min(max(start, first), last)
        if end - start < _LEAST_S:
            start, end = first, last
        self.forget_flight()
        context.go(start)
        speed = self._bar.speed
        timeline = _flown_over(cut, (start, end), speed)
        from_s = timeline.film_of_path(start)
        self._before, self._zoomed = cut, self._bar.zoom_alone.isChecked()
        self._led, self._seen = Led(hand.shown_view()), []
        self._pressed, self._pointer, self._grip = {}, Push(), None
        self._pad = Pad.first(context.say)
        self._board.show_bar("fly")
        self._bar.show_flying(True)
        frame_view.setFocus()
        frame_view.installEventFilter(self)
        step, size, turns = hand.step_s, hand.preview_px(frame_view.screen_pixels), context.known.turns
        led, seen, own, zoomed = self._led, self._seen, hand.course(cut), self._zoomed

        def frame(number: int) -> Request | None:
            film_s = from_s + number * step
            path_s = float(timeline.path_time(film_s))
            if film_s >= timeline.duration_s - step / 2 or path_s > end:
                return None
            clip_s, view = float(timeline.clip_time(film_s)), led.view
            if zoomed:
                view = replace(own.at(path_s), fov_deg=view.fov_deg, bend=view.bend)
            seen.append((path_s, view))
            return Request(clip_s, view, size, None, number % _GLANCES == 0, True, turns)

        context.player.play(None, timeline, start)
        self._playing.begin(frame, from_s, step, _AHEAD)
        self._clock.start()
        self._timer.start()

    def _tick(self) -> None:
        if self._led is None:
            return
        push = self._pointer
        for pressed in self._pressed.values():
            push = push.plus(pressed)
        if self._pad is not None:
            push = push.plus(self._pad.push)
        self._led.go_on(push, self._clock.restart() / 1000.0)

    # What a hand does meanwhile
    def eventFilter(self, _watched: QObject | None, event: QEvent | None) -> bool:
        if event is None or self._led is None:
            return False
        if isinstance(event, QKeyEvent):
            return self._key(event)
        if isinstance(event, QWheelEvent):
            self._led.notch((event.angleDelta().y() or event.angleDelta().x()) / 120.0)
            return True
        if isinstance(event, QMouseEvent):
            self._point(event)
            return True
        if event.type() == QEvent.Type.Leave:
            self._pointer = Push()
        return False

    def _key(self, event: QKeyEvent) -> bool:
        key = event.key()
        ours = key in _KEYS or key in (*_END, _FORGET)
        if not ours:
            return False
        event.accept()  # before any command that has this key
        if event.type() == QEvent.Type.KeyPress and not event.isAutoRepeat():
            if key in _KEYS:
                self._pressed[key] = _KEYS[Qt.Key(key)]
            else:
                if key == _FORGET:
                    self._seen.clear()
                self._context.player.stop()
        elif event.type() == QEvent.Type.KeyRelease and not event.isAutoRepeat():
            self._pressed.pop(key, None)
        return True

    def _point(self, event: QMouseEvent) -> None:
        assert self._led is not None
        box, at = self._board.frame.frame_box, event.position()
        if event.type() == QEvent.Type.MouseButtonPress:
            self._grip, self._pointer = at, Push()
        elif event.type() == QEvent.Type.MouseButtonRelease:
            self._grip = None
        elif self._grip is not None:
            step = self._led.view.fov_deg / max(box.width(), 1.0)
            self._led.shift(-(at.x() - self._grip.x()) * step, (at.y() - self._grip.y()) * step)
            self._grip = at
        else:
            off = at - box.center()
            self._pointer = Push.of_pointer(off.x() / (box.width() / 2), -off.y() / (box.height() / 2))

    # Afterwards
    def ended(self) -> None:
        """The take stopped playing: what was seen becomes a path."""
        if self._led is None:
            return
        self._timer.stop()
        self._board.frame.removeEventFilter(self)
        if self._pad is not None:
            self._pad.close()
        self._led = self._pad = self._hand.look = None
        self._bar.show_flying(False)
        seen = {round(t, 5): view for t, view in self._seen}
        times = np.array(sorted(seen))
        if len(times) < 3 or times[-1] - times[0] < _LEAST_S:
            self._bar.show_flown(None)
            self._context.say("The flight was forgotten: nothing was changed")
            return
        size = self._hand.frame_px
        views = [as_set(seen[t], size) for t in times.tolist()]
        values = np.array([[v.yaw_deg, v.pitch_deg, v.roll_deg, v.fov_deg, v.bend] for v in views])
        self.flight = Flight(times, values)
        self._number += 1
        self.smooth()

    def smooth(self) -> None:
        """Lays what was flown into the cut, as smooth as is wanted now; in place of what it was before."""
        flight, before, hand = self.flight, self._before, self._hand
        if flight is None or before is None:
            return
        if self._laid is not None and hand.cut != self._laid:
            self._context.say("The path was changed since: what was flown stays as keyframes")
            self.forget_flight()
            return
        cut = flown(
            before,
            flight,
            calm_s=self._bar.calm.box.value(),
            tolerance_deg=self._bar.within.box.value(),
            step_s=hand.step_s,
            zoom_alone=self._zoomed,
            targets=hand.targets,
        )
        hand.ghost, hand.ghost_words = flight.course, "as flown"
        self._laid = cut
        self._work.edit_cut("Fly", cut, ("fly", self._number))
        at = flight.time_s
        jerk = [float(np.sqrt((motion_of(c, at).jerk_deg_s3 ** 2).mean())) for c in (flight.course, hand.course(cut))]
        inside = sum(at[0] - 1e-6 <= key.time_s <= at[-1] + 1e-6 for key in cut.keys)
        self._bar.show_flown(
            f"{inside} keyframes; it jerks {jerk[0] / max(jerk[1], 1e-6):.0f} times less than the hand"
        )

    def _follow_undo(self) -> None:
        """A flight that was taken back takes its line along."""
        if self._laid is not None and self._before is not None and self._hand.cut == self._before:
            self.forget_flight()

    def show_raw(self, raw: bool) -> None:
        """Shows and plays what was flown as it was flown, or as it is smoothed."""
        flight = self.flight
        self._hand.instead = Course(flight, self._hand.frame_px) if raw and flight is not None else None
        self._refresh()

    def forget_flight(self) -> None:
        """What was flown stays as keyframes; it cannot be smoothed anew."""
        self.flight = self._before = self._laid = self._hand.instead = self._hand.ghost = None
        self._context.document.end_gesture()
        self._bar.show_flown(None)


def _flown_over(cut: Cut, part_s: tuple[float, float], speed: float) -> Timeline:
    """How a part of a cut's path is played while it is flown: evenly, with the freezes in which the view moves."""
    start, end = (float(t) for t in cut.clock.clip_s(part_s))
    stretches: tuple[Stretch, ...] = tuple(s for s in cut.speeds if s.freeze_s and s.view_moves)
    if speed != 1.0 and end > start:
        stretches = with_stretch(stretches, Stretch(start_s=start, end_s=end, speed=speed))
    return Timeline(start, end, stretches)
