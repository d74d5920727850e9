"""Speed: which moment of the clip each moment of the film shows. Known before anything is rendered."""

import math
from collections.abc import Callable, Sequence
from functools import lru_cache
from itertools import pairwise

import msgspec
import numpy as np
from msgspec import Struct
from numpy.typing import ArrayLike, NDArray

from glintor.errors import InputError
from glintor.reframing.path_clock import PLAIN, PathClock
from glintor.types import Array

SLOWEST, FASTEST = 0.25, 64.0
LONGEST_FREEZE_S = 600.0
PITCH_KEPT = (0.5, 2.0)  # outside these a voice kept at pitch is no longer understood (judgement, no source)
_SAME_S = 1e-6


class PaceError(InputError):
    """A change of speed that cannot be."""


class Stretch(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A part of a clip, in the clip's own seconds, that the film shows at another speed.

    speed      clip seconds per film second where the stretch begins in the film, 1/4 to 64
    end_speed  the same where it ends; between them it changes steadily. 0 means "as it began"
    backwards  shows the stretch from its end to its start
    freeze_s   holds the picture at `start_s` for so long; then `end_s` is `start_s`
    view_moves the path has time of its own in that freeze, so that the view can move over the held picture
    """

    start_s: float
    end_s: float
    speed: float = 1.0
    end_speed: float = 0.0
    backwards: bool = False
    freeze_s: float = 0.0
    view_moves: bool = False

    @property
    def speeds(self) -> tuple[float, float]:
        return self.speed, self.end_speed or self.speed

    @property
    def words(self) -> str:
        """Such as "x4", "x1 to x16 back" or "held 2.0 s"."""
        if self.freeze_s > 0.0:
            return f"held {self.freeze_s:.1f} s{', view moves' if self.view_moves else ''}"
        first, last = self.speeds
        ramp = f" to ×{last:g}" if last != first else ""
        return f"×{first:g}{ramp}{' back' if self.backwards else ''}"


def checked(stretches: Sequence[Stretch]) -> tuple[Stretch, ...]:
    """The stretches in order. Raises PaceError where one is out of range or two overlap."""
    for s in stretches:
        if not all(map(math.isfinite, (s.start_s, s.end_s, s.speed, s.end_speed, s.freeze_s))):
            raise PaceError("A change of speed holds something that is not a number.", advice="Give plain numbers.")
        if s.freeze_s:
            if not 0.0 < s.freeze_s <= LONGEST_FREEZE_S or abs(s.end_s - s.start_s) > _SAME_S:
                raise PaceError(f"A freeze of {s.freeze_s:g} s cannot be.", advice="Hold one moment for up to 600 s.")
        elif s.end_s <= s.start_s:
            raise PaceError(f"The speed changes from {s.start_s:g} to {s.end_s:g} s.", advice="End it after its start.")
        elif not all(SLOWEST <= speed <= FASTEST for speed in s.speeds):
            raise PaceError(f"A speed of {s.words} is out of range.", advice="Use 1/4 to 64 times.")
    ordered = sorted(stretches, key=lambda s: (s.start_s, s.end_s))
    for before, after in pairwise(ordered):
        if after.start_s < before.end_s - _SAME_S:
            raise PaceError(f"Two changes of speed overlap at {after.start_s:.2f} s.", advice="Take one of them away.")
    return tuple(ordered)


@lru_cache(maxsize=128)
def clock_of(stretches: tuple[Stretch, ...]) -> PathClock:
    """The clock of a path over a clip whose speed is changed so."""
    moving = sorted((s.start_s, s.freeze_s) for s in stretches if s.freeze_s and s.view_moves)
    return PathClock(tuple(moving)) if moving else PLAIN


def with_stretch(stretches: Sequence[Stretch], new: Stretch) -> tuple[Stretch, ...]:
    """The stretches with a new one laid over them: what it covers is cut away, freezes stay, nothing else changes."""
    again = [s for s in stretches if s.freeze_s and new.freeze_s and abs(s.start_s - new.start_s) <= _SAME_S]
    held = [s for s in stretches if s.freeze_s and s not in again]
    running = [s for s in stretches if not s.freeze_s]
    if new.freeze_s:
        held.append(new)
    else:
        running = [part for s in running for part in _outside(s, new)]
        plain = new.speeds == (1.0, 1.0) and not new.backwards
        running += [] if plain else [new]
    for freeze in held:  # a freeze splits the stretch that it stands in
        running = [part for s in running for part in _split(s, freeze.start_s)]
    return checked([*running, *held])


def _outside(s: Stretch, new: Stretch) -> list[Stretch]:
    """What a stretch keeps beside a new one."""
    before = [_part(s, s.start_s, min(s.end_s, new.start_s))] if s.start_s < new.start_s else []
    after = [_part(s, max(s.start_s, new.end_s), s.end_s)] if s.end_s > new.end_s else []
    return before + after


def _split(s: Stretch, at_s: float) -> list[Stretch]:
    if not s.start_s + _SAME_S < at_s < s.end_s - _SAME_S:
        return [s]
    return [_part(s, s.start_s, at_s), _part(s, at_s, s.end_s)]


def _part(s: Stretch, start_s: float, end_s: float) -> Stretch:
    """A part of a stretch with the speeds that it has there."""
    first, last = (_speed_at(s, t) for t in ((end_s, start_s) if s.backwards else (start_s, end_s)))
    ends = {"speed": first, "end_speed": 0.0 if first == last else last}
    return msgspec.structs.replace(s, start_s=start_s, end_s=end_s, **ends)


def _speed_at(s: Stretch, time_s: float) -> float:
    """Speed at a moment of the clip: under steady change in the film its square grows evenly along the clip."""
    first, last = s.speeds
    share = (time_s - s.start_s) / max(s.end_s - s.start_s, _SAME_S)
    share = 1.0 - share if s.backwards else share
    return first if first == last else math.sqrt(first**2 + (last**2 - first**2) * min(max(share, 0.0), 1.0))


class Piece(Struct, frozen=True):
    """A run of the film of one kind: from `first_s` to `last_s` of the clip, `length_s` of the film from `film_s`.

    held_s  by how much the path's time is ahead of the clip's as it begins; view_moves: it is frozen, and the path goes on in it
    """

    first_s: float
    last_s: float
    speeds: tuple[float, float]
    film_s: float
    length_s: float
    held_s: float = 0.0
    view_moves: bool = False

    @property
    def way(self) -> int:
        """1 forwards, -1 backwards, 0 frozen."""
        return int(np.sign(self.last_s - self.first_s))

    def clip_time(self, film_s: ArrayLike) -> Array:
        into = np.clip(np.asarray(film_s, np.float64) - self.film_s, 0.0, self.length_s)
        gain = (self.speeds[1] - self.speeds[0]) / (2.0 * self.length_s) if self.length_s > 0 else 0.0
        return np.asarray(self.first_s + self.way * (self.speeds[0] * into + gain * into**2))

    def path_time(self, film_s: ArrayLike) -> Array:
        """The path's time at moments of the film in it."""
        into = np.clip(np.asarray(film_s, np.float64) - self.film_s, 0.0, self.length_s)
        return np.asarray(self.clip_time(film_s) + self.held_s + (into if self.view_moves else 0.0))

    @property
    def path_span_s(self) -> tuple[float, float]:
        """From when to when of the path it is."""
        low, high = sorted((self.first_s, self.last_s))
        return low + self.held_s, high + self.held_s + (self.length_s if self.view_moves else 0.0)

    def from_film(self, film_s: float) -> "Piece":
        """What is left of it from a moment of the film on."""
        into = min(max(film_s - self.film_s, 0.0), self.length_s)
        if into == 0.0:
            return self
        first, last = self.speeds
        speeds = (first + (last - first) * into / self.length_s, last)
        held_s = self.held_s + (into if self.view_moves else 0.0)
        first_s = float(self.clip_time(film_s))
        return Piece(first_s, self.last_s, speeds, film_s, self.length_s - into, held_s, self.view_moves)

    def film_time(self, clip_s: float) -> float:
        gone, (first, last) = abs(clip_s - self.first_s), self.speeds
        grow = (last - first) / self.length_s if self.length_s > 0 else 0.0
        then = math.sqrt(max(first**2 + 2.0 * grow * gone, 0.0))  # the speed there
        return self.film_s + 2.0 * gone / (
            first + then
        )  # a difference of roots would lose speeds that are nearly equal


class Schedule(Struct, frozen=True):
    """What every frame of a film shows: the clip's time from `opens_s` to `closes_s`, the path's time, each (n,), and its piece."""

    opens_s: Array
    closes_s: Array
    path_s: Array
    piece: NDArray[np.int64]


class Timeline:
    """A cut's film time against its clip's time. Stretches outside in and out have no effect; gaps run at x1."""

    def __init__(self, in_s: float, out_s: float, stretches: Sequence[Stretch] = ()) -> None:
        self.in_s, self.out_s = in_s, out_s
        self.pieces: tuple[Piece, ...] = ()
        self.clock = clock_of(tuple(stretches))
        at = in_s
        for s in checked(stretches):
            if s.freeze_s and in_s <= s.start_s <= out_s:
                at = self._run_to(at, s.start_s)
                self._add(s.start_s, s.start_s, (1.0, 1.0), s.freeze_s, s.view_moves)
            elif not s.freeze_s and min(s.end_s, out_s) - max(s.start_s, in_s) > _SAME_S:
                part = _part(s, max(s.start_s, in_s), min(s.end_s, out_s))
                at = self._run_to(at, part.start_s)
                first, last = part.speeds
                ends = (part.end_s, part.start_s) if s.backwards else (part.start_s, part.end_s)
                self._add(*ends, (first, last), 2.0 * (part.end_s - part.start_s) / (first + last))
                at = part.end_s
        self._run_to(at, out_s)

    def _run_to(self, at_s: float, to_s: float) -> float:
        if to_s - at_s > _SAME_S:
            self._add(at_s, to_s, (1.0, 1.0), to_s - at_s)
        return max(at_s, to_s)

    def _add(
        self, first_s: float, last_s: float, speeds: tuple[float, float], length_s: float, view_moves: bool = False
    ) -> None:
        low = min(first_s, last_s)
        held_s = float(self.clock.path_s(low, after=first_s != last_s)) - low
        self.pieces += (Piece(first_s, last_s, speeds, self.duration_s, length_s, held_s, view_moves),)

    @property
    def duration_s(self) -> float:
        """Length of the film in seconds."""
        return self.pieces[-1].film_s + self.pieces[-1].length_s if self.pieces else 0.0

    @property
    def plain(self) -> bool:
        """Whether the film runs as the clip does."""
        return all(p.way == 1 and p.speeds == (1.0, 1.0) for p in self.pieces)

    def frames(self, rate: float) -> int:
        """How many frames the film has at a frame rate."""
        return max(round(self.duration_s * rate), 1)

    def _piece_at(self, film_s: ArrayLike) -> NDArray[np.int64]:
        starts = np.array([p.film_s for p in self.pieces])
        return np.clip(np.searchsorted(starts, np.asarray(film_s) + _SAME_S, side="right") - 1, 0, len(starts) - 1)

    def clip_time(self, film_s: ArrayLike) -> Array:
        """The clip's time at moments of the film, any shape."""
        return self._told(film_s, Piece.clip_time)

    def film_time(self, clip_s: float) -> float:
        """The first moment of the film that shows a moment of the clip (held to in and out)."""
        clip_s = min(max(clip_s, self.in_s), self.out_s)
        for p in self.pieces:
            if min(p.first_s, p.last_s) - _SAME_S <= clip_s <= max(p.first_s, p.last_s) + _SAME_S:
                return p.film_time(clip_s)
        return self.duration_s

    def path_time(self, film_s: ArrayLike) -> Array:
        """The path's time at moments of the film, any shape."""
        return self._told(film_s, Piece.path_time)

    def _told(self, film_s: ArrayLike, how: Callable[[Piece, Array], Array]) -> Array:
        """What each piece tells of its own moments of the film."""
        film, piece = np.asarray(film_s, np.float64), self._piece_at(film_s)
        out = np.empty(film.shape)
        for number, p in enumerate(self.pieces):
            out[piece == number] = how(p, film[piece == number])
        return out

    def film_of_path(self, path_s: float) -> float:
        """The first moment of the film that shows a moment of the path (held to in and out)."""
        if not self.clock.freezes:
            return self.film_time(path_s)
        spans = [p.path_span_s for p in self.pieces]
        path_s = min(max(path_s, min(a for a, _ in spans)), max(b for _, b in spans)) if spans else 0.0
        for p, (low, high) in zip(self.pieces, spans, strict=True):
            if low - _SAME_S <= path_s <= high + _SAME_S:
                return p.film_s + path_s - low if p.view_moves else p.film_time(path_s - p.held_s)
        return self.duration_s

    def pace(self, path_s: ArrayLike) -> Array:
        """How fast the path's time runs in the film at moments of the path, (n,)."""
        path = np.atleast_1d(np.asarray(path_s, np.float64))
        out = self.speed(self.clock.clip_s(path))
        for p in self.pieces:
            if p.view_moves:
                out[(path >= p.path_span_s[0]) & (path < p.path_span_s[1])] = 1.0
        return out

    def speed(self, clip_s: ArrayLike) -> Array:
        """How fast the clip runs in the film at moments of the clip, (n,); 1 outside in and out, 0 is never given."""
        clip = np.atleast_1d(np.asarray(clip_s, np.float64))
        out = np.ones(len(clip))
        for p in self.pieces:
            low, high = min(p.first_s, p.last_s), max(p.first_s, p.last_s)
            mine = (clip >= low) & (clip < high)
            gone = np.abs(clip[mine] - p.first_s) / max(high - low, _SAME_S)
            out[mine] = np.sqrt(p.speeds[0] ** 2 + (p.speeds[1] ** 2 - p.speeds[0] ** 2) * gone)
        return out

    def schedule(self, rate: float) -> Schedule:
        """What each frame shows: an equal share of its piece, ending where the next frame's begins."""
        film = np.arange(self.frames(rate)) / rate
        piece = self._piece_at(film)
        opens, closes = self.clip_time(film), np.empty(len(film))
        path = self.path_time(film) if self.clock.freezes else opens
        for number, p in enumerate(self.pieces):
            mine = piece == number
            closes[mine] = p.clip_time(film[mine] + 1.0 / rate)
        return Schedule(opens, closes, path, piece)
