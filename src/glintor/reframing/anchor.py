"""What a view is held on, as plain values."""

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

On = Literal["subject", "pair", "travel", "compass", "point"]
_Half = Annotated[float, Meta(ge=-0.5, le=0.5)]


class Spot(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A thing that stands still, as it was pointed at in a moment's frame."""

    time_s: float
    yaw_deg: float
    pitch_deg: Annotated[float, Meta(ge=-90, le=90)]


class Anchor(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One thing that keyframes of a cut may be told from.

    on         a tracked subject, two of them, the way of travel, a compass bearing, or a point in space
    subjects   names of what is tracked, "" is the take's own subject; bearing_deg: clockwise from north
    spots      where a point was pointed at: once for one that is far away, twice or more to know how far it is
    place      where in the frame it is wanted, in widths right of and heights over the middle
    lead       how far the frame runs ahead of what crosses it, in frame widths
    dead_deg   how far it may move before the view goes with it
    smooth_s   over how long its motion is smoothed, before and after alike
    width      the frame's width goes with the subject's size, or with the distance of two
    """

    id: Annotated[str, Meta(min_length=1, max_length=64, pattern="^[A-Za-z0-9_-]+$")]
    on: On
    subjects: tuple[str, ...] = ("",)
    bearing_deg: float = 0.0
    spots: tuple[Spot, ...] = ()
    place: tuple[_Half, _Half] = (0.0, 0.0)
    lead: Annotated[float, Meta(ge=0, le=0.4)] = 0.0
    dead_deg: Annotated[float, Meta(ge=0, le=60)] = 0.0
    smooth_s: Annotated[float, Meta(ge=0, le=5)] = 0.5
    width: bool = False
