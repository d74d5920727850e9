"""A strand: a part of a footage as numbered film frames. The plain one shows the clip's own frames at their own times."""

from collections.abc import Callable, Iterator
from fractions import Fraction
from typing import Literal

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.errors import GlintorError
from glintor.export.sound import film_sound
from glintor.export.weave import Run, parts_of
from glintor.media.footage import Footage
from glintor.media.read import Decoded
from glintor.pixels.picture import Picture
from glintor.pixels.spheres import Sphere
from glintor.reframing.retime import Stretch, Timeline, clock_of

Shown = tuple[int, Sphere, float]  # number or time stamp in the film, picture, the path's time whose view it shows


Sound = Literal["pitch", "mute", "none"]
Track = Callable[[float, float], Iterator[NDArray[np.float32]]]  # sound from one moment of the clip to another


class RenderError(GlintorError):
    """A render that could not be finished; nothing half written is left."""


class Strand(Struct, frozen=True, kw_only=True):
    """What a film shows of one footage, and as what: a picture for each of the film's outputs.

    sound    where the speed changes: kept at pitch where mild, muted, or no track at all
    heard    a recorder's sound on the footage's clock, in place of its own
    carry_s  how long the sound of the strand before it goes on under its own
    average  where the speed changes: each film frame is the mean of what it skips, instead of the nearest frame
    """

    footage: Footage
    pictures: tuple[Picture, ...]
    start_s: float = 0.0
    end_s: float = float("inf")
    stretches: tuple[Stretch, ...] = ()
    average: bool = True
    sound: Sound = "pitch"
    heard: Track | None = None
    carry_s: float = 0.0

    @property
    def track(self) -> Track | None:
        """What is heard with it: another recorder's sound, else the footage's own; None where there is none."""
        return self.heard or (self.footage.sound if self.footage.has_sound else None)

    def sounding(self, from_s: float = 0.0) -> Iterator[NDArray[np.float32]] | None:
        """Blocks (2, n) of its sound along its timeline, from a moment of its film on; None where it has no track."""
        if self.sound == "none" or self.track is None:
            return None
        return film_sound(self.track, self.timeline, muted=self.sound == "mute", from_s=from_s)

    @property
    def ends_s(self) -> float:
        """Its end, inside the footage."""
        length = self.footage.duration_s
        return min(self.end_s, length) if length > 0 else self.end_s

    @property
    def timeline(self) -> Timeline:
        return Timeline(self.start_s, self.ends_s, self.stretches)

    @property
    def plain(self) -> bool:
        return not self.stretches or self.timeline.plain

    def checked(self) -> "Strand":
        """Itself. Raises RenderError where it shows nothing of its footage."""
        if not 0.0 <= self.start_s < self.ends_s:
            raise RenderError(
                f"The part from {self.start_s:g} to {self.ends_s:g} s is not in {self.footage.name}, which lasts "
                f"{self.footage.duration_s:.2f} s.",
                advice="Choose in and out inside the clip.",
            )
        return self


class Feed:
    """A strand under way: which frames it takes from its footage. rows: what is decoded for it, row after row."""

    rows: tuple[tuple[Run, ...], ...]
    backwards = False

    def __init__(self, strand: Strand) -> None:
        self.strand, self.frames, self._last_s = strand, 0, 0.0

    @property
    def duration_s(self) -> float:
        """Of what it has shown so far."""
        raise NotImplementedError

    def push(self, row: int, item: Decoded, sphere: Sphere) -> Iterator[Shown]:
        """The film frames that are known once this frame of the footage is."""
        raise NotImplementedError

    def rest(self, row: int) -> Iterator[Shown]:
        """What the end of a row left half made."""
        return iter(())

    def sound(self) -> Iterator[NDArray[np.float32]] | None:
        """Its sound, from its first picture on; None where it has none."""
        raise NotImplementedError

    def end_note(self) -> Iterator[str]:
        """Where the footage ends before its header says."""
        raise NotImplementedError


class PlainFeed(Feed):
    """At its own speed, with the footage's own time stamps, moved so that it starts at 0."""

    def __init__(self, strand: Strand) -> None:
        super().__init__(strand)
        self.rows = ((Run(strand.start_s, strand.ends_s),),)
        self._first: Fraction | None = None
        self._until = Fraction(0)
        self._slack = float(1 / strand.footage.rate) / 2
        self._clock = clock_of(strand.stretches)

    @property
    def duration_s(self) -> float:
        return float(self._until - (self._first or Fraction(0)))

    def push(self, row: int, item: Decoded, sphere: Sphere) -> Iterator[Shown]:
        time, footage = float(item.time), self.strand.footage
        if not self.strand.start_s - self._slack <= time < self.strand.ends_s - self._slack:
            return
        if self._first is None:
            self._first = item.time
        step = min(item.until - item.time, 1 / footage.rate) if self.frames == 0 else item.until - item.time
        self._until, self._last_s = item.time + step, time
        self.frames += 1
        shown_s = float(self._clock.path_s(time)) if self._clock.freezes else time
        yield int((item.time - self._first) / footage.time_base), sphere, shown_s

    def sound(self) -> Iterator[NDArray[np.float32]] | None:
        track = self.strand.track
        return None if track is None else track(float(self._first or 0), self.strand.ends_s)

    def end_note(self) -> Iterator[str]:
        footage, frame_s = self.strand.footage, 2 * self._slack
        if self._last_s + 1.5 * frame_s < min(self.strand.ends_s, footage.duration_s):
            yield f"{footage.name} ends at {self._last_s + frame_s:.2f} s, though its header says {footage.duration_s:.2f} s."


class WovenFeed(Feed):
    """Along a timeline, at a constant rate: frames are shown again, left out or averaged."""

    def __init__(self, strand: Strand, rate: Fraction) -> None:
        super().__init__(strand)
        self._timeline, self._rate = strand.timeline, rate
        self._parts = parts_of(self._timeline, float(rate), average=strand.average and not strand.plain)
        self.rows = tuple(part.runs for part in self._parts)
        self.backwards = any(part.weave.backwards for part in self._parts)

    @property
    def duration_s(self) -> float:
        return float(self.frames / self._rate)

    def push(self, row: int, item: Decoded, sphere: Sphere) -> Iterator[Shown]:
        return self._counted(self._parts[row].weave.push(float(item.time), float(item.until), sphere))

    def rest(self, row: int) -> Iterator[Shown]:
        return self._counted(self._parts[row].weave.rest())

    def _counted(self, shown: Iterator[Shown]) -> Iterator[Shown]:
        for one in shown:
            self.frames += 1
            yield one

    def sound(self) -> Iterator[NDArray[np.float32]] | None:
        return self.strand.sounding()

    def end_note(self) -> Iterator[str]:
        lost = self._timeline.frames(float(self._rate)) - self.frames
        if lost > 0:
            yield f"{self.strand.footage.name} ends before its header says: the film lacks {lost} frames."
