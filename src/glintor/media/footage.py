"""Footage: what one take shows, whatever lies behind it. The one maker of spheres: reader, preview, stills, thumbnails
and export go through it."""

from collections.abc import Iterator, Sequence
from fractions import Fraction
from functools import cached_property
from itertools import accumulate, pairwise
from pathlib import Path
from typing import Any, Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from glintor.media.picture import SUFFIXES, read_sphere, shown, sphere_size
from glintor.media.probe import ClipError, ClipInfo, probe, sphere_of
from glintor.media.proxy import proxy_of, wants_proxy
from glintor.media.read import ClipReader, Decoded, Reader
from glintor.media.sound import RATE_HZ, sound_cut
from glintor.pixels import colour
from glintor.sphere.equirect import Coverage
from glintor.sphere.turn import TurnTrack

Kind = Literal["film", "photo"]
PHOTO_RATE = Fraction(30)
PHOTO_S = 15.0  # a photo is a film that stands still; so much of it is offered


class Footage(Struct, frozen=True, kw_only=True, dict=True):
    """The pictures of one take.

    files     its parts in order: those of one recording follow each other without a gap
    lengths_s how long each is
    coverage  what part of the sphere they show
    rate      frames a second; time_base: the unit of its time stamps
    turns     how its picture lies at each moment against a level, fixed frame; None where that is not known
    """

    files: tuple[Path, ...]
    kind: Kind
    lengths_s: tuple[float, ...]
    size_px: tuple[int, int]
    coverage: Coverage
    rate: Fraction
    time_base: Fraction
    has_sound: bool = False
    turns: TurnTrack | None = None

    @property
    def name(self) -> str:
        more = f" and {len(self.files) - 1} more" if len(self.files) > 1 else ""
        return f"{self.files[0].name}{more}"

    @property
    def duration_s(self) -> float:
        return sum(self.lengths_s)

    @cached_property
    def starts_s(self) -> tuple[float, ...]:
        """When each file begins."""
        return (0.0, *list(accumulate(self.lengths_s))[:-1])

    @property
    def size_bytes(self) -> int:
        return sum(file.stat().st_size for file in self.files)

    def reader(self) -> Reader:
        """Its frames from the originals. Raises ClipError."""
        if self.kind == "photo":
            return _PhotoReader(self.files[0], self.coverage, self.duration_s)
        if len(self.files) == 1:
            return ClipReader(self.files[0])
        return _JoinedReader(self)

    @property
    def wants_proxy(self) -> bool:
        """Whether it is too heavy to be scrubbed as it is."""
        return self.kind == "film" and wants_proxy(self.size_px[0])

    def draft(self) -> "Footage | None":
        """The same, small, where the stand-ins of all files are there."""
        small = [proxy_of(file) for file in self.files] if self.kind == "film" else [None]
        known = tuple(file for file in small if file is not None)
        return replace(self, files=known) if len(known) == len(small) else None

    def photo(self) -> NDArray[Any]:
        """(H, W, 3) of a photo in its own depth. Raises ClipError."""
        return read_sphere(self.files[0], self.coverage)[0]

    def sound(self, start_s: float, end_s: float) -> Iterator[NDArray[np.float32]]:
        """Blocks (2, n) at 48 kHz from a moment to another; exact across the joins."""
        if len(self.files) == 1:
            yield from sound_cut(self.files[0], start_s, end_s)
            return
        last = len(self.files) - 1
        for number, (file, begins) in enumerate(zip(self.files, self.starts_s, strict=True)):
            ends = begins + self.lengths_s[number] if number < last else float("inf")
            a, b = max(start_s, begins), min(end_s, ends)
            if a < b:
                yield from _filled(sound_cut(file, a - begins, b - begins), b - a, exact=number < last)


def open_footage(files: Footage | Path | Sequence[Path], told: Coverage | None = None) -> Footage:
    """What files hold; told: what part of the sphere they show, where a person says so. Footage is given back as it is.

    Raises ClipError where one cannot be used, is no sphere, or parts differ in size or rate.
    """
    if isinstance(files, Footage):
        return files
    files = (files,) if isinstance(files, Path) else tuple(files)
    if files[0].suffix.lower() in SUFFIXES:
        size, coverage = sphere_size(files[0], told)
        return Footage(
            files=files[:1],
            kind="photo",
            lengths_s=(PHOTO_S,),
            size_px=size,
            coverage=coverage,
            rate=PHOTO_RATE,
            time_base=1 / PHOTO_RATE,
        )
    infos = [probe(file) for file in files]
    first = infos[0]
    for before, after in pairwise(infos):
        if (before.width_px, before.height_px, before.rate) != (after.width_px, after.height_px, after.rate):
            raise ClipError(
                f"{after.path.name} does not go on where {before.path.name} ends: its size or rate is another.",
                unharmed="Nothing was changed.",
                advice="Open it as a recording of its own.",
            )
    return Footage(
        files=files,
        kind="film",
        lengths_s=tuple(_length_s(info) for info in infos) if len(infos) > 1 else (first.duration_s,),
        size_px=(first.width_px, first.height_px),
        coverage=sphere_of(first, told),
        rate=first.rate,
        time_base=first.time_base,
        has_sound=any(info.has_sound for info in infos),
    )


def _length_s(info: ClipInfo) -> float:
    """Of a part that others follow: whole frames, so that no rounding adds up."""
    return float((info.frames or round(info.duration_s * info.rate)) / info.rate)


def _filled(blocks: Iterator[NDArray[np.float32]], length_s: float, *, exact: bool) -> Iterator[NDArray[np.float32]]:
    """Sound that lasts exactly so long: the rest is silence."""
    left = round(length_s * RATE_HZ)
    for block in blocks:
        yield block[:, :left] if exact else block
        left -= block.shape[1]
    if exact and left > 0:
        yield np.zeros((2, left), np.float32)


class _JoinedReader(Reader):
    """The parts of one recording as one: one file open at a time."""

    def __init__(self, footage: Footage) -> None:
        super().__init__()
        self.name, self.size_px, self.frame_s = footage.name, footage.size_px, 1 / footage.rate
        self._files = footage.files
        self._starts = [Fraction(start).limit_denominator(10**6) for start in footage.starts_s]
        self._at = -1
        self._part: ClipReader | None = None

    def _open(self, number: int) -> ClipReader:
        if self._part is None or self._at != number:
            self.close()
            self._at, self._part = number, ClipReader(self._files[number])
        return self._part

    def every_from(self, start_s: float) -> Iterator[Decoded]:
        first = max((n for n, start in enumerate(self._starts) if float(start) <= start_s + 1e-6), default=0)
        for number in range(first, len(self._files)):
            begins, part = self._starts[number], self._open(number)
            for decoded in part.every_from(start_s - float(begins)):
                self.last = decoded.time + begins
                yield replace(decoded, time=self.last, until=decoded.until + begins)
            self.faults_s += [place + float(begins) for place in part.faults_s]

    def close(self) -> None:
        if self._part is not None:
            self._part.close()
            self._part = None


class _PhotoReader(Reader):
    """A photo as a film that stands still."""

    def __init__(self, file: Path, coverage: Coverage, duration_s: float) -> None:
        super().__init__()
        self.name, self.frame_s = file.name, 1 / PHOTO_RATE
        self._count = round(duration_s * PHOTO_RATE)
        pixels, _ = read_sphere(file, coverage)
        if pixels.dtype == np.uint16:
            pixels = (pixels >> 8).astype(np.uint8)
        self._picture = colour.fine_yuv(shown(pixels) if pixels.dtype.kind == "f" else pixels)
        self.size_px = (pixels.shape[1], pixels.shape[0])

    def every_from(self, start_s: float) -> Iterator[Decoded]:
        first = min(max(int(start_s * PHOTO_RATE + Fraction(1, 1000)), 0), self._count - 1)
        for number in range(first, self._count):
            self.last = number * self.frame_s
            yield Decoded(self.last, self._picture, self.last + self.frame_s)
