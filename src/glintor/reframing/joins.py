"""How the cuts of a film are joined: straight, with the view matched, whip into whip, or through a dip to black."""

from typing import Annotated, Literal

import msgspec
import numpy as np
from msgspec import Meta

from glintor.reframing.curve import gently
from glintor.reframing.retime import Timeline
from glintor.sphere.angle import wrap_deg
from glintor.types import Array

JoinKind = Literal["straight", "match", "whip", "dip"]
WORDS: dict[JoinKind, str] = {"straight": "straight", "match": "view goes on", "whip": "whip", "dip": "dip to black"}
USUAL_S: dict[JoinKind, float] = {"straight": 0.0, "match": 1.0, "whip": 0.5, "dip": 0.6}
_WHIP_DEG = 150.0  # turned on each side of a whip
_SMEARED = 9  # pictures in a frame of a whip: it is exposed for half the frame's time


class Join(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """How a cut is come to from the one before it. length_s: how long that takes, of both sides together; a matched view takes it of the
    second alone. carry_s: how long the sound before goes on under it, and its own comes up."""

    kind: JoinKind = "straight"
    length_s: Annotated[float, Meta(ge=0, le=5)] = 0.0
    carry_s: Annotated[float, Meta(ge=0, le=5)] = 0.0


class Seam:
    """What the joins at both ends of a cut do to what it shows; times are of its path. seen: through the lens, what the cut before
    showed last, for a view that goes on."""

    def __init__(self, timeline: Timeline, before: Join | None, after: Join | None, seen: Array | None = None) -> None:
        self._timeline, self._before, self._after, self._seen = timeline, before, after, seen

    @property
    def plain(self) -> bool:
        """Whether nothing is changed."""
        return all(join is None or join.kind == "straight" for join in (self._before, self._after))

    def _film(self, times: Array) -> Array:
        return np.array([self._timeline.film_of_path(float(t)) for t in times])

    def _sides(self, times: Array, kind: JoinKind) -> tuple[Array, Array]:
        """How near each end of the cut is, (n,) each: 1 at the end itself, 0 where the join does not reach."""
        film, none = self._film(times), np.zeros(len(times))
        sides = []
        for join, gone in ((self._before, film), (self._after, self._timeline.duration_s - film)):
            half = join.length_s / (1.0 if kind == "match" else 2.0) if join is not None and join.kind == kind else 0.0
            sides.append(np.clip(1.0 - gone / half, 0.0, 1.0) if half > 0.0 else none)
        return sides[0], sides[1]

    def change(self, times: Array, values: Array, first: Array) -> Array:
        """Values (n, 5), through the lens, with the joins in them; first (5,): the cut's own as it begins."""
        out = values.copy()
        come, gone = self._sides(times, "whip")
        out[:, 0] += _WHIP_DEG * (gone**2 - come**2)
        if self._seen is not None:
            near, _ = self._sides(times, "match")
            off = self._seen - first
            off[:3] = wrap_deg(off[:3])
            out += gently(near)[:, None] * off
        return out

    def brightness(self, time_s: float) -> float:
        """How much is left of the picture at a moment, 0 to 1."""
        come, gone = self._sides(np.array([time_s]), "dip")
        return 1.0 - float(gently(np.maximum(come, gone))[0])

    def exposed(self, time_s: float, frame_s: float) -> Array:
        """The moments whose views a frame is the mean of: one, and several while it whips."""
        come, gone = self._sides(np.array([time_s]), "whip")
        if max(float(come[0]), float(gone[0])) <= 0.0:
            return np.array([time_s])
        return time_s + frame_s / 2.0 * np.linspace(0.0, 1.0, _SMEARED)
