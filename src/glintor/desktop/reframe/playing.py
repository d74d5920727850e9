"""The film of the cut at hand as it plays: its frames are drawn before they are due."""

from collections.abc import Callable

from glintor.desktop.frame_view import FrameView
from glintor.desktop.reframe.ahead import DEPTH
from glintor.desktop.reframe.edit_context import EditContext
from glintor.desktop.reframe.screen import Drawn, Request
from glintor.reframing.cut import Cut

_GLANCE_MS = 200  # the sphere is drawn with a frame so often


class Playing:
    """Has frames drawn ahead of the player, and gives the one that is due."""

    def __init__(self, context: EditContext, frame: FrameView) -> None:
        self._hand, self._known, self._screen, self._frame = context.hand, context.known, context.screen, frame
        self._cut: Cut | None = None
        self._begins_s, self._step_s = 0.0, 1.0

    def draw(self, cut: Cut) -> None:
        """Has the frames of a cut's film drawn from the present moment on."""
        hand, turns = self._hand, self._known.turns
        step, size = hand.step_s, hand.preview_px(self._frame.screen_pixels)
        course, timeline = hand.course(cut), cut.timeline
        begins_s, glance = timeline.film_of_path(hand.now_s), max(round(_GLANCE_MS / 1000 / step), 1)

        def frame(number: int) -> Request | None:
            film_s = begins_s + number * step
            if film_s >= timeline.duration_s - step / 2:
                return None
            clip_s, path_s = float(timeline.clip_time(film_s)), float(timeline.path_time(film_s))
            until_s = hand.blur_until(path_s)
            view = course.at(path_s)
            parts = hand.parts(cut, path_s, view, size)
            return Request(clip_s, view, size, until_s, number % glance == 0, True, turns, parts)

        self._cut = cut
        self.begin(frame, begins_s, step)

    def begin(self, frame: Callable[[int], Request | None], begins_s: float, step_s: float, depth: int = DEPTH) -> None:
        """Has frames of a film drawn from one of its moments on before they are due, so many at once."""
        self._begins_s, self._step_s = begins_s, step_s
        self._screen.play_film(frame, depth)

    def show(self, film_s: float) -> Drawn | None:
        """Shows the frame of a moment of the film; None where none has come since the last."""
        return self._screen.show_film_frame(int((film_s - self._begins_s) / self._step_s + 0.02))

    def times_as(self, cut: Cut) -> bool:
        """Whether a changed cut plays at the same moments as the one that is playing."""
        return self._cut is not None and cut.timing == self._cut.timing
