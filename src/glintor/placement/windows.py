"""When the light that a shot asks for is there: spans of the day, in minutes after local midnight."""

import math
from collections.abc import Callable, Sequence
from typing import Annotated, Literal

import msgspec

from glintor.placement.layout import START_FRAME, Layout
from glintor.placement.shadow import seen_shadow_m
from glintor.placement.sun import BEHIND_DEG

STEP_MIN = 5.0
SHADOW_M = 0.05  # of its length in the frame (judgement, no source)
GOLDEN_DEG = (-1.0, 6.0)  # height of the sun in golden light (common practice, no source)
BLUE_DEG = (-8.0, -4.0)  # in the blue hour (common practice, no source)
NIGHT_DEG = -12.0  # below which it is night: the end of nautical twilight
Span = tuple[float, float]
Minute = Annotated[float, msgspec.Meta(ge=0, le=1440)]


class Wanted(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """The light and time that a shot asks for.

    sun         where it is to stand as the camera looks at the subject; golden: low; dark: the blue hour or night instead of day
    shadow_out  the camera's shadow outside the first 16:9 frame
    """

    sun: Literal["any", "behind", "side", "ahead"] = "any"
    golden: bool = False
    dark: Literal["", "blue", "night"] = ""
    shadow_out: bool = False
    not_before_min: Minute = 0.0
    not_after_min: Minute = 1440.0


def holds(plan: Layout, wanted: Wanted) -> bool:
    """Whether the light of one moment is the one asked for, its time apart."""
    off, up = plan.sun_off_back_deg, plan.sun.elevation_deg
    if wanted.sun != "any":
        kind = "behind" if off <= BEHIND_DEG else "ahead" if off >= 180.0 - BEHIND_DEG else "side"
        if up <= 0.0 or not plan.sun.shines or kind != wanted.sun:
            return False
    if wanted.golden and not (plan.sun.shines and GOLDEN_DEG[0] <= up <= GOLDEN_DEG[1]):
        return False
    if wanted.dark and not (BLUE_DEG[0] <= up <= BLUE_DEG[1] if wanted.dark == "blue" else up < NIGHT_DEG):
        return False
    return not wanted.shadow_out or seen_shadow_m(plan, plan.start_view, START_FRAME) < SHADOW_M


def spans(wanted: Wanted, layout_at: Callable[[float], Layout], day: Span) -> tuple[Span, ...]:
    """Spans of the day in which the light holds, to a minute; looked for every five. day: from when to when there is light to film by."""
    begins, ends = (0.0, 1440.0) if wanted.dark or wanted.golden else day
    first = float(math.ceil(max(begins, wanted.not_before_min)))
    last = float(math.floor(min(ends, wanted.not_after_min)))
    if wanted.sun == "any" and not (wanted.golden or wanted.dark or wanted.shadow_out):
        return ((first, last),) if last > first else ()

    def good(minute: float) -> bool:
        return holds(layout_at(minute), wanted)

    found = merged([m for m in _moments(first, last) if good(m)], last)
    return tuple((_edge(a - STEP_MIN, a, good, first), _edge(b, b - STEP_MIN, good, last)) for a, b in found)


def _edge(without: float, within: float, good: Callable[[float], bool], end: float) -> float:
    """The last whole minute of a span towards a moment at which the light does not hold, or its end."""
    step = 1.0 if without > within else -1.0
    minute = within
    while abs(minute - within) < STEP_MIN and (minute - end) * step < 0.0 and good(minute + step):
        minute += step
    return minute if abs(minute - within) < STEP_MIN else without


def _moments(first: float, last: float) -> list[float]:
    count = max(int((last - first) // STEP_MIN) + 1, 0)
    return [first + STEP_MIN * n for n in range(count)]


def merged(moments: Sequence[float], last: float) -> tuple[Span, ...]:
    """Moments on the five-minute grid as spans; each lasts until the next step, none beyond `last`."""
    found: list[list[float]] = []
    for moment in moments:
        if found and moment - found[-1][1] < 1e-6:
            found[-1][1] = moment + STEP_MIN
        else:
            found.append([moment, moment + STEP_MIN])
    return tuple((a, min(b, last)) for a, b in found if min(b, last) > a)
