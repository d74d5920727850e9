"""A film: strands in a row, outputs side by side."""

from collections.abc import Iterator, Sequence
from contextlib import ExitStack
from fractions import Fraction
from pathlib import Path

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.export.lane import Lane, Packing
from glintor.export.soundtrack import sound_in_a_row
from glintor.export.strand import Feed, PlainFeed, Shown, Sound, Strand, Track, WovenFeed
from glintor.files import whole_file
from glintor.media.encoding import Encoding
from glintor.media.footage import Footage
from glintor.pixels.picture import Flat, Whole
from glintor.pixels.reproject import Filter
from glintor.reframing.course import Course
from glintor.reframing.retime import Stretch
from glintor.sphere.turn import TurnTrack


class Film(Struct, frozen=True, kw_only=True):
    """What is to be made: strands one after the other, each with a picture for every packing."""

    strands: tuple[Strand, ...]
    packings: tuple[Packing, ...]


class Output(Struct, frozen=True, kw_only=True):
    """One flat film wanted of one part of a footage: where it goes, its size, its course and how it is packed."""

    target: Path
    size_px: tuple[int, int]
    course: Course
    encoding: Encoding = Encoding()
    quality: Filter = Filter.FINE


def film_of(
    footage: Footage,
    outputs: Sequence[Output],
    *,
    start_s: float = 0.0,
    end_s: float = float("inf"),
    stretches: tuple[Stretch, ...] = (),
    average: bool = True,
    sound: Sound = "pitch",
    heard: Track | None = None,
) -> Film:
    """The usual film: one part of one footage, flat."""
    pictures = tuple(Flat(o.size_px, o.course.sight, o.quality, shows=footage.shows) for o in outputs)
    strand = Strand(
        footage=footage,
        pictures=pictures,
        start_s=start_s,
        end_s=end_s,
        stretches=stretches,
        average=average,
        sound=sound,
        heard=heard,
    )
    return Film(strands=(strand,), packings=tuple(Packing(o.target, o.encoding) for o in outputs))


def sphere_film(
    footage: Footage,
    target: Path,
    size_px: tuple[int, int],
    *,
    turns: TurnTrack | None = None,
    encoding: Encoding = Encoding(),
    start_s: float = 0.0,
    end_s: float = float("inf"),
    quality: Filter = Filter.FINE,
) -> Film:
    """The whole sphere unrolled, held still as turns say."""
    whole = Whole(size_px, turns.at if turns is not None else None, quality, shows=footage.shows)
    strand = Strand(footage=footage, pictures=(whole,), start_s=start_s, end_s=end_s)
    return Film(strands=(strand,), packings=(Packing(target, encoding, sphere=True),))


def joined(films: Sequence[Film]) -> Film:
    """One film of several that are packed alike, in their order."""
    return Film(strands=tuple(strand for film in films for strand in film.strands), packings=films[0].packings)


# Frames a second of films as players and editors know them (SMPTE ST 2036-1 and ST 274 for most; 100 and 120 common practice).
RATES = tuple(
    Fraction(*r)
    for r in (
        (24000, 1001),
        (24, 1),
        (25, 1),
        (30000, 1001),
        (30, 1),
        (48, 1),
        (50, 1),
        (60000, 1001),
        (60, 1),
        (100, 1),
        (120, 1),
    )
)
_NEAR_RATE = 0.03  # a mean rate so near to one of them is meant as it: phones write frames when they can


def even_rate(rate: Fraction) -> Fraction:
    """The constant rate of a film out of footage of a mean rate: the known one next to it, itself where none is near."""
    near = min(RATES, key=lambda known: abs(known / rate - 1))
    return near if abs(near / rate - 1) <= _NEAR_RATE else rate


class Reel:
    """A film under way. A single plain strand keeps its footage's time stamps; every other film has a constant rate, that of its first
    footage, made even."""

    def __init__(self, film: Film, files: ExitStack, keep: Sequence[Path]) -> None:
        self.film = film
        first = film.strands[0].checked().footage
        self.plain = len(film.strands) == 1 and film.strands[0].plain
        self.rate: Fraction = first.rate if self.plain else even_rate(first.rate)
        self.feeds: list[Feed] = [
            PlainFeed(s) if self.plain else WovenFeed(s.checked(), self.rate) for s in film.strands
        ]
        time_base = first.time_base if self.plain else 1 / self.rate
        sources = [file for strand in film.strands for file in strand.footage.files]
        self.lanes: list[Lane] = []
        for packing in film.packings:
            part = files.enter_context(whole_file(packing.target, sources=(*sources, *keep)))
            self.lanes.append(Lane(packing, part, self.rate, time_base, self._sound))

    @property
    def alone(self) -> bool:
        """Whether it must be decoded for itself: its strands follow each other, or one runs backwards."""
        return len(self.feeds) > 1 or any(feed.backwards for feed in self.feeds)

    @property
    def frames(self) -> int:
        return sum(feed.frames for feed in self.feeds)

    @property
    def duration_s(self) -> float:
        return sum(feed.duration_s for feed in self.feeds)

    def draw(self, feed: Feed, shown: Iterator[Shown]) -> None:
        """Draws what a strand shows into every lane, after what the strands before it have shown."""
        before = sum(f.frames for f in self.feeds[: self.feeds.index(feed)])
        for number, sphere, view_s in shown:
            for lane, picture in zip(self.lanes, feed.strand.pictures, strict=True):
                lane.draw(picture, sphere, view_s, before + number)

    def finish(self) -> None:
        for lane in self.lanes:
            lane.end_s = self.duration_s
            lane.channel.finish()

    def _sound(self) -> Iterator[NDArray[np.float32]] | None:
        return self.feeds[0].sound() if len(self.feeds) == 1 else sound_in_a_row(self.film.strands)

    def end_notes(self) -> Iterator[str]:
        for feed in self.feeds:
            yield from feed.end_note()
