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

from glintor.media.kept_rows import known_rows
from glintor.media.parts import Part, parts_of, whole_length_s
from glintor.media.picture import SUFFIXES, picture_size, read_flat, shown, sphere_size
from glintor.media.probe import ClipError, ClipInfo, sphere_of
from glintor.media.proxy import proxy_of, wants_proxy
from glintor.media.read import Decoded, Reader
from glintor.media.sound import RATE_HZ, sound_cut
from glintor.media.spherical import SphereNote, photo_note
from glintor.media.taken import Inset, Paired, TakenAs, inset_of
from glintor.pixels import colour
from glintor.pixels.foot import patched
from glintor.pixels.join import Joiner
from glintor.pixels.spheres import Sphere
from glintor.pixels.yuv import Yuv
from glintor.sphere.foot import Patch
from glintor.sphere.lenses import Lenses, Projection
from glintor.sphere.rolling import Rows
from glintor.sphere.turn import TurnTrack

Kind = Literal["film", "photo", "series"]
PHOTO_RATE = Fraction(30)
PHOTO_S = 15.0  # a photo is a film that stands still; so much of it is offered
SERIES_RATE = Fraction(25)  # of photos that are played as a film


class Footage(Struct, frozen=True, kw_only=True, dict=True):
    """The pictures of one take.

    files     its parts in order: those of one recording follow each other without a gap; of a pair of films front, rear,
              front, rear; of a series its photos
    lengths_s how long each part is
    shows     what part of the sphere they show, and how
    rate      frames a second; time_base: the unit of its time stamps
    note      what its metadata say of the sphere; patch: what covers its foot
    rows      how the rows of fisheyes were read while the camera turned, where that is known
    inset     what part of its stored pictures is shown; None where it is all of them
    """

    files: tuple[Path, ...]
    kind: Kind
    lengths_s: tuple[float, ...]
    size_px: tuple[int, int]
    shows: Projection
    rate: Fraction
    time_base: Fraction
    has_sound: bool = False
    paired: Paired = ""
    mends: bool = True
    note: SphereNote | None = None
    patch: Patch | None = None
    rows: Rows | None = None
    inset: Inset | None = None

    @property
    def parts(self) -> tuple[Part, ...]:
        """What is read as one film each."""
        return parts_of(self.files, self.paired)

    @property
    def name(self) -> str:
        more = f" and {len(self.files) - 1} more" if len(self.files) > 1 else ""
        return f"{self.files[0].name}{more}"

    @property
    def duration_s(self) -> float:
        return sum(self.lengths_s)

    @property
    def sphere_px(self) -> int:
        """Width of the whole sphere at its own sharpness."""
        if isinstance(self.shows, Lenses):
            return self.shows.sphere_px(self.size_px)
        return round(self.size_px[0] * 360.0 / self.shows.lon_deg)

    @cached_property
    def starts_s(self) -> tuple[float, ...]:
        """When each part begins."""
        return (0.0, *list(accumulate(self.lengths_s))[:-1])

    @property
    def size_bytes(self) -> int:
        return sum(file.stat().st_size for file in self.files)

    @property
    def level(self) -> TurnTrack | None:
        """How the picture lies in a level frame, as the file says; None where it says nothing or is level."""
        turn = self.note.level_turn if self.note is not None else None
        return None if turn is None else TurnTrack.still(turn)

    @cached_property
    def _joiner(self) -> Joiner | None:
        return Joiner(self.shows, mends=self.mends, rows=self.rows) if isinstance(self.shows, Lenses) else None

    def sphere(self, decoded: Decoded) -> Sphere:
        """What is drawn from at a moment: two lenses brought together as they are then."""
        joiner = self._joiner
        join = joiner.join(decoded.picture, float(decoded.time)) if joiner is not None else None
        return Sphere(self.covered(decoded.picture), join)

    def covered(self, picture: Yuv) -> Yuv:
        """A picture of it with its foot covered, where it is to be."""
        return picture if self.patch is None else patched(picture, self.shows, self.patch)

    def reader(self) -> Reader:
        """Its frames from the originals. Raises ClipError."""
        whole = self._whole_reader()
        return whole if self.inset is None else _InsetReader(whole, self.inset)

    def _whole_reader(self) -> Reader:
        if self.kind == "photo":
            return _PhotoReader(self.files[0], self.duration_s)
        if self.kind == "series":
            return _SeriesReader(self)
        parts = self.parts
        return parts[0].reader() if len(parts) == 1 else _JoinedReader(self)

    @property
    def wants_proxy(self) -> bool:
        """Whether it is too heavy to be scrubbed as it is."""
        return self.kind == "film" and wants_proxy(self.size_px[0])

    def draft(self) -> "Footage | None":
        """The same, small, where the stand-ins of all files are there."""
        small = [proxy_of(part) for part in self.parts] if self.kind == "film" else [None]
        known = tuple(file for file in small if file is not None)
        return replace(self, files=known, paired="") if len(known) == len(small) else None

    def photo(self) -> NDArray[Any]:
        """(H, W, 3) of a photo in its own depth. Raises ClipError."""
        picture = read_flat(self.files[0])
        if self.inset is None:
            return picture
        left, top, width, height = self.inset.px((picture.shape[1], picture.shape[0]))
        return np.ascontiguousarray(picture[top : top + height, left : left + width])

    def sound(self, start_s: float, end_s: float) -> Iterator[NDArray[np.float32]]:
        """Blocks (2, n) at 48 kHz from a moment to another; exact across the joins."""
        parts = self.parts
        if len(parts) == 1:
            yield from sound_cut(self.files[0], start_s, end_s)
            return
        last = len(parts) - 1
        for number, (part, begins) in enumerate(zip(parts, self.starts_s, strict=True)):
            ends = begins + self.lengths_s[number] if number < last else float("inf")
            a, b = max(start_s, begins), min(end_s, ends)
            if a < b:
                yield from _filled(sound_cut(part.files[0], a - begins, b - begins), b - a, exact=number < last)


def open_footage(files: Footage | Path | Sequence[Path], taken_as: TakenAs = TakenAs()) -> Footage:
    """What files hold. Footage is given back as it is.

    Raises ClipError where one cannot be used, is no sphere, or parts differ in size or rate.
    """
    if isinstance(files, Footage):
        return files
    files = (files,) if isinstance(files, Path) else tuple(files)
    if files[0].suffix.lower() in SUFFIXES:
        return _photos(files, taken_as)
    paired = taken_as.paired
    parts = parts_of(files, paired)
    infos = [part.info for part in parts]
    for before, after in pairwise(infos):
        if not follows(before, after):
            raise ClipError(
                f"{after.path.name} does not go on where {before.path.name} ends: its size or rate is another.",
                unharmed="Nothing was changed.",
                advice="Open it as a recording of its own.",
            )
    first = infos[0]
    shows = taken_as.projection or sphere_of(first)
    inset = inset_of(taken_as.told or first.eyes, (first.width_px, first.height_px))
    return Footage(
        files=files,
        kind="film",
        lengths_s=tuple(whole_length_s(info) for info in infos) if len(infos) > 1 else (first.duration_s,),
        size_px=_shown_px((first.width_px, first.height_px), inset),
        inset=inset,
        shows=shows,
        rows=known_rows(files) if isinstance(shows, Lenses) else None,
        rate=first.rate,
        time_base=first.time_base,
        has_sound=any(info.has_sound for info in infos),
        paired=paired,
        mends=taken_as.mends,
        patch=taken_as.patch,
        note=first.note,
    )


def follows(before: ClipInfo, after: ClipInfo) -> bool:
    """Whether a film can be the next part of another's recording: its pictures are of one kind."""
    return (before.width_px, before.height_px, before.rate) == (after.width_px, after.height_px, after.rate)


def _photos(files: tuple[Path, ...], taken_as: TakenAs) -> Footage:
    """A photo; of several that are named a series, played as a film."""
    told = taken_as.projection
    size, shows = (picture_size(files[0]), told) if isinstance(told, Lenses) else sphere_size(files[0], told)
    series = len(files) > 1 and not taken_as.stands
    inset = inset_of(taken_as.told, size)
    return Footage(
        files=files,
        kind="series" if series else "photo",
        lengths_s=tuple([1.0 / float(SERIES_RATE)] * len(files)) if series else (PHOTO_S,),
        size_px=_shown_px(size, inset),
        inset=inset,
        shows=shows,
        rate=SERIES_RATE if series else PHOTO_RATE,
        time_base=1 / (SERIES_RATE if series else PHOTO_RATE),
        mends=taken_as.mends,
        patch=taken_as.patch,
        note=photo_note(files[0]) if not isinstance(told, Lenses) else None,
    )


def _shown_px(size_px: tuple[int, int], inset: Inset | None) -> tuple[int, int]:
    return size_px if inset is None else inset.px(size_px)[2:]


def _filled(blocks: Iterator[NDArray[np.float32]], length_s: float, *, exact: bool) -> Iterator[NDArray[np.float32]]:
    """Sound that lasts exactly so long: the rest is silence."""
    left = round(length_s * RATE_HZ)
    for block in blocks:
        yield block[:, :left] if exact else block
        left -= block.shape[1]
    if exact and left > 0:
        yield np.zeros((2, left), np.float32)


class _InsetReader(Reader):
    """A part of another reader's pictures."""

    def __init__(self, whole: Reader, inset: Inset) -> None:
        super().__init__()
        self._whole, self._inset = whole, inset
        self.name, self.size_px, self.frame_s = whole.name, inset.px(whole.size_px)[2:], whole.frame_s

    def every_from(self, start_s: float) -> Iterator[Decoded]:
        for decoded in self._whole.every_from(start_s):
            self.last = decoded.time
            yield replace(decoded, picture=decoded.picture.part(*self._inset.px(decoded.picture.size_px)))
        self.faults_s = self._whole.faults_s

    def answer_at_once(self) -> None:
        self._whole.answer_at_once()

    def close(self) -> None:
        self._whole.close()


class _JoinedReader(Reader):
    """The parts of one recording as one: one part open at a time."""

    def __init__(self, footage: Footage) -> None:
        super().__init__()
        self.name, self.size_px, self.frame_s = footage.name, footage.size_px, 1 / footage.rate
        self._parts = footage.parts
        self._starts = [Fraction(start).limit_denominator(10**6) for start in footage.starts_s]
        self._at = -1
        self._part: Reader | None = None

    def _open(self, number: int) -> Reader:
        if self._part is None or self._at != number:
            self.close()
            self._at, self._part = number, self._parts[number].reader()
        return self._part

    def every_from(self, start_s: float) -> Iterator[Decoded]:
        first = max((n for n, start in enumerate(self._starts) if float(start) <= start_s + 1e-6), default=0)
        for number in range(first, len(self._parts)):
            begins, part = self._starts[number], self._open(number)
            for decoded in part.every_from(start_s - float(begins)):
                self.last = decoded.time + begins
                yield replace(decoded, time=self.last, until=decoded.until + begins)
            self.faults_s += [place + float(begins) for place in part.faults_s]

    def close(self) -> None:
        if self._part is not None:
            self._part.close()
            self._part = None


def _planes_of(file: Path) -> Yuv:
    pixels = read_flat(file)
    if pixels.dtype == np.uint16:
        pixels = (pixels >> 8).astype(np.uint8)
    return colour.fine_yuv(shown(pixels) if pixels.dtype.kind == "f" else pixels)


class _PhotoReader(Reader):
    """A photo as a film that stands still."""

    def __init__(self, file: Path, duration_s: float) -> None:
        super().__init__()
        self.name, self.frame_s = file.name, 1 / PHOTO_RATE
        self._count = round(duration_s * PHOTO_RATE)
        self._picture = _planes_of(file)
        self.size_px = self._picture.size_px

    def every_from(self, start_s: float) -> Iterator[Decoded]:
        first = min(max(int(start_s * PHOTO_RATE + Fraction(1, 1000)), 0), self._count - 1)
        for number in range(first, self._count):
            self.last = number * self.frame_s
            yield Decoded(self.last, self._picture, self.last + self.frame_s)


class _SeriesReader(Reader):
    """Photos one after the other as a film. One that cannot be read is left out, and its place noted."""

    def __init__(self, footage: Footage) -> None:
        super().__init__()
        self.name, self.size_px, self.frame_s = footage.name, footage.size_px, 1 / footage.rate
        self._files = footage.files

    def every_from(self, start_s: float) -> Iterator[Decoded]:
        first = min(max(int(start_s / self.frame_s + Fraction(1, 1000)), 0), len(self._files) - 1)
        shown_any = False
        for number in range(first, len(self._files)):
            try:
                picture = _planes_of(self._files[number])
                if picture.size_px != self.size_px:
                    raise ClipError(f"{self._files[number].name} is of another size.")
            except ClipError:
                self.faults_s.append(float(number * self.frame_s))
                continue
            self.last, shown_any = number * self.frame_s, True
            yield Decoded(self.last, picture, self.last + self.frame_s)
        if not shown_any and first == 0:
            raise ClipError(f"No photo of {self.name} can be read.", advice="Copy them from the card again.")
