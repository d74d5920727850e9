"""A cut: one flat film out of a take, as plain values."""

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from glintor.reframing.anchor import Anchor
from glintor.reframing.beside import Beside
from glintor.reframing.path import Keyframe
from glintor.reframing.path_clock import PathClock
from glintor.reframing.retime import Stretch, Timeline, clock_of
from glintor.sphere.view import View

_Identity = Annotated[str, Meta(min_length=1, max_length=64, pattern="^[A-Za-z0-9_-]+$")]


class Offset(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """By how much a shape's frame differs from the shared path at one moment: turned so far, and so many times as tight."""

    time_s: float
    yaw_deg: float = 0.0
    pitch_deg: Annotated[float, Meta(ge=-180, le=180)] = 0.0
    roll_deg: float = 0.0
    tighter: Annotated[float, Meta(ge=0.02, le=50)] = 1.0


class Own(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """The corrections that one shape, such as "9:16", has of its own on the path that all share."""

    shape: str
    offsets: Annotated[tuple[Offset, ...], Meta(min_length=1)]


MoveKind = Literal[
    "round",
    "tilt",
    "turn",
    "back",
    "whip",
    "corkscrew",
    "from_globe",
    "into_globe",
    "third",
    "subject",
    "drift",
    "pendulum",
    "gap",
]


class Move(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A ready move over a part of a cut.

    amount   of what its kind has as a handle; way: 1 to the right, -1 to the left
    opening, closing  the views as it begins and ends, as far as its kind takes them from there; told from what they are held on
    """

    id: _Identity
    kind: MoveKind
    start_s: float
    end_s: float
    amount: float
    way: Literal[1, -1] = 1
    opening: View
    closing: View
    on: str = ""


class Cut(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One flat film out of a take: in, out, the path, where its speed changes, and what a shape has of its own.

    anchors  what its keyframes may be held on; moves: ready moves that some of them belong to
    beside what else its picture shows
    blur   where it is sped up, a film frame is the mean of what it skips
    sound  where the speed changes: kept at pitch where mild, muted, or no track
    """

    id: _Identity
    name: str
    take_id: _Identity
    in_s: Annotated[float, Meta(ge=0)]
    out_s: Annotated[float, Meta(gt=0)]
    keys: tuple[Keyframe, ...]
    anchors: tuple[Anchor, ...] = ()
    moves: tuple[Move, ...] = ()
    own: tuple[Own, ...] = ()
    beside: Beside | None = None
    speeds: tuple[Stretch, ...] = ()
    blur: bool = True
    sound: Literal["pitch", "mute", "none"] = "pitch"

    @property
    def clock(self) -> PathClock:
        """The path's time against the clip's: keyframes, moves and what is a shape's own are told in the path's, in and out and speeds in
        the clip's. They are the same unless the view moves in a freeze."""
        return clock_of(self.speeds)

    @property
    def begins_s(self) -> float:
        """Its in, in the path's time."""
        return float(self.clock.path_s(self.in_s)) if self.speeds else self.in_s

    @property
    def ends_s(self) -> float:
        """Its out, in the path's time."""
        return float(self.clock.path_s(self.out_s, after=True)) if self.speeds else self.out_s

    @property
    def span_s(self) -> tuple[float, float]:
        """In and out, in the path's time."""
        return self.begins_s, self.ends_s

    @property
    def timing(self) -> tuple[str, float, float, tuple[Stretch, ...]]:
        """What decides which moment of its take each moment of its film shows, whatever that looks at."""
        return self.take_id, self.in_s, self.out_s, self.speeds

    @property
    def timeline(self) -> Timeline:
        """The film's time against the clip's."""
        return Timeline(self.in_s, self.out_s, self.speeds)
