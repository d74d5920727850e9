"""What a hand pushes while a view is flown, whatever it pushes with, and the view that it leads. Nothing of it is Qt's."""

import numpy as np
from msgspec import Struct

from glintor.sphere.view import View, within_limits

_DEAD = 0.07  # of the frame's half: a hand that rests does not push
_TURN_SHARE_S = 0.9  # frame widths a second at full push
_ROLL_DEG_S, _ZOOM_S = 35.0, 0.8
_EASE_S = 0.12  # a push comes and goes over so long
_NOTCH = 0.06  # of the width, by a notch of the wheel


class Push(Struct, frozen=True):
    """Each from -1 to 1: to the right, up, closer, and clockwise."""

    right: float = 0.0
    up: float = 0.0
    closer: float = 0.0
    roll: float = 0.0

    @staticmethod
    def of_pointer(right: float, up: float) -> "Push":
        """Of a pointer so far off the frame's middle, in halves of its width and height: gently near it, more the farther."""
        far = float(np.hypot(right, up))
        if far <= _DEAD:
            return Push()
        pull = min((far - _DEAD) / (1.0 - _DEAD), 1.0) ** 2
        return Push(right / far * pull, up / far * pull)

    def plus(self, other: "Push") -> "Push":
        """Two hands at once."""
        return Push(*(float(np.clip(a + b, -1.0, 1.0)) for a, b in zip(self.each, other.each, strict=True)))

    @property
    def each(self) -> tuple[float, float, float, float]:
        return self.right, self.up, self.closer, self.roll


class Led:
    """A view that is led: it gathers way and loses it, as something with weight does."""

    def __init__(self, view: View) -> None:
        self.view = view
        self._now = np.zeros(4)
        self._notches = 0.0

    def notch(self, notches: float) -> None:
        """A wheel was turned."""
        self._notches += notches

    def shift(self, yaw_deg: float, pitch_deg: float) -> None:
        """A hand that holds the picture pulls it along at once."""
        view = self.view
        self.view = within_limits(view, yaw_deg=view.yaw_deg + yaw_deg, pitch_deg=view.pitch_deg + pitch_deg)

    def go_on(self, push: Push, passed_s: float) -> View:
        """The view so much later."""
        share = 1.0 - float(np.exp(-passed_s / _EASE_S))
        self._now += (np.array(push.each) - self._now) * share
        right, up, closer, roll = (float(v) for v in self._now)
        notches, self._notches = self._notches * share, self._notches * (1.0 - share)
        view, wide = self.view, min(self.view.fov_deg, 160.0)
        lean = np.radians(view.roll_deg)
        across, rise = right * np.cos(lean) + up * np.sin(lean), up * np.cos(lean) - right * np.sin(lean)
        turn = across * wide * _TURN_SHARE_S * passed_s / max(float(np.cos(np.radians(view.pitch_deg))), 0.2)
        self.view = within_limits(
            view,
            yaw_deg=view.yaw_deg + float(turn),
            pitch_deg=view.pitch_deg + float(rise * wide * _TURN_SHARE_S * passed_s),
            roll_deg=view.roll_deg + roll * _ROLL_DEG_S * passed_s,
            fov_deg=view.fov_deg * float(np.exp(-closer * _ZOOM_S * passed_s)) * (1.0 - _NOTCH) ** notches,
        )
        return self.view
