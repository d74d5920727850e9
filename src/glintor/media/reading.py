"""What a file is: by its metadata first, then by shape, then by what is to be seen. What stays unsure is said to be so, with the
other ways to read it."""

from collections.abc import Iterator, Sequence
from contextlib import suppress
from datetime import datetime
from fractions import Fraction
from itertools import chain
from pathlib import Path

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from glintor.errors import GlintorError
from glintor.media.by_content import by_content
from glintor.media.exif import read_exif, told_exposure
from glintor.media.first_bytes import sort_of
from glintor.media.footage import open_footage
from glintor.media.lens_profile import find_lenses, how_it_moves
from glintor.media.looks_like import shows_circle
from glintor.media.picture import LIGHT, glance, sphere_or_flat_size
from glintor.media.picture import SUFFIXES as PHOTOS
from glintor.media.probe import ClipInfo, NoPictures, probe
from glintor.media.read import ClipReader, Decoded
from glintor.media.sound import RATE_HZ, sound_length_s
from glintor.media.spherical import SphereNote, photo_note
from glintor.media.taken import Kind, TakenAs, Told
from glintor.names import text_of
from glintor.pixels.yuv import Plane
from glintor.report import fault
from glintor.sphere.equirect import HALF, WHOLE
from glintor.sphere.lenses import Lenses

FILMS = {".mp4", ".mov", ".m4v", ".mkv", ".webm", ".avi", ".mts", ".m2ts", ".ts", ".mpg"}
SOUNDS = {".wav", ".flac", ".mp3", ".m4a", ".aac", ".ogg", ".opus", ".aif", ".aiff"}
COMPANIONS = {".gpx", ".csv", ".srt", ".vtt", ".json", ".txt", ".xml", ".mhl"}
_SMALL_PX = 1440  # pictures are looked at no larger


class Reading(Struct, frozen=True, kw_only=True):
    """A recording: what it is taken for, out of which files, and why.

    told        how it is opened; sure: whether it is taken for that without asking; also: other ways to read it
    missing     parts of it that ought to be there; faults: what else is wrong with it, in words
    began       by its camera's own clock
    lenses      the profile of its lenses, as far as its pictures tell at once
    exposed, camera  how photos were exposed and by what, as their files say; "" where they do not
    """

    reading: Kind
    files: tuple[Path, ...]
    why: str
    told: Told = ""
    sure: bool = True
    also: tuple[Told, ...] = ()
    size_px: tuple[int, int] = (0, 0)
    rate: float = 0.0
    duration_s: float = 0.0
    note: SphereNote | None = None
    began: datetime | None = None
    companions: tuple[Path, ...] = ()
    missing: tuple[str, ...] = ()
    faults: tuple[str, ...] = ()
    lenses: Lenses | None = None
    exposed: str = ""
    camera: str = ""

    @property
    def taken_as(self) -> TakenAs:
        return TakenAs(self.told, self.lenses, stands=self.reading == "bracket")

    @property
    def name(self) -> str:
        """What its take is called: the name that its parts share."""
        first = text_of(self.files[0].stem)
        if len(self.files) == 1:
            return first
        return text_of(_shared(self.files).rstrip("_- .")) or first


def _shared(files: Sequence[Path]) -> str:
    stems = [file.stem for file in files]
    length = next((n for n in range(min(map(len, stems))) if len({s[n].lower() for s in stems}) > 1), len(stems[0]))
    return stems[0][:length].rstrip("0123456789") if length < len(stems[0]) else stems[0]


def read_one(file: Path) -> Reading:
    """What one file is by itself."""
    try:
        kind = file.suffix.lower()
        known = kind in PHOTOS | SOUNDS | FILMS
        sort = "photo" if kind in PHOTOS else "sound" if kind in SOUNDS else None if known else sort_of(file)
        if sort == "photo":
            return _photo(file)
        if sort == "sound":
            return _sound(file)
        try:
            return _film(file)
        except NoPictures:
            return _sound(file)
    except GlintorError as error:
        return Reading(reading="broken", files=(file,), why=error.what)
    except OSError as error:
        return Reading(reading="broken", files=(file,), why=f"It cannot be read: {error.strerror}.")
    except Exception as error:  # one odd file never stops a card
        fault(f"Looking at {text_of(file.name)}", error)
        why = f"It is built in a way that Glintor does not understand ({type(error).__name__})."
        return Reading(reading="broken", files=(file,), why=why)


# One file
def _sound(file: Path) -> Reading:
    return Reading(
        reading="sound",
        files=(file,),
        why="it has sound and no picture",
        duration_s=sound_length_s(file),
        rate=float(RATE_HZ),
    )


def _photo(file: Path) -> Reading:
    size, note, told = sphere_or_flat_size(file), photo_note(file), read_exif(file)
    made = Reading(
        reading="photo",
        files=(file,),
        why="",
        size_px=size,
        note=note,
        began=told.taken,
        exposed=told_exposure([told]),
        camera=told.camera,
    )
    if note is not None:
        part = "a whole sphere" if note.coverage.whole == (True, True) else "part of a sphere"
        return replace(made, why=f"its photo-sphere metadata say that it is {part}")
    if file.suffix.lower() in LIGHT:
        return replace(made, why="it holds light and is twice as wide as high", sure=abs(size[0] - 2 * size[1]) <= 1)
    luma = glance(file)
    seen = by_content([luma], size, film=False) if luma is not None else None
    if seen is None:
        twice = abs(size[0] - 2 * size[1]) <= 1
        return replace(made, reading="photo" if twice else "flat", why="by its shape", sure=False)
    kind: Kind = "photo" if seen.reading == "sphere" else seen.reading
    return replace(made, reading=kind, why=seen.why, told=seen.told, sure=seen.sure, also=seen.also)


def _film(file: Path) -> Reading:
    info = probe(file)
    with ClipReader(file, glance=True) as reader:
        looked, begun = _looked_at(reader, info)
        made = _filmed(file, info, looked, reader.turned_deg)
        if made.reading == "flat" and made.sure and not reader.turned_deg:
            return _by_turning(made, reader, begun, looked)
        return made


def _filmed(file: Path, info: ClipInfo, looked: list[Plane], turned_deg: int) -> Reading:
    """By its metadata and by what is seen at some moments."""
    made = Reading(
        reading="sphere",
        files=(file,),
        why="",
        size_px=(info.width_px, info.height_px),
        rate=float(info.rate),
        duration_s=info.duration_s,
        note=info.note,
        began=info.began,
        faults=_faults_of(info),
    )
    if info.alike > 1:
        with ClipReader(file, glance=True, track=1) as other:
            circles = [shows_circle(track) for track in (looked, _looked_at(other, info)[0])]
        if all(circles):
            faults = made.faults
            if abs(info.lengths_s[0] - info.lengths_s[1]) > 1.5 / float(info.rate):
                faults += (
                    f"its two tracks are not equally long ({info.lengths_s[0]:.2f} and {info.lengths_s[1]:.2f} s): "
                    "what both show is used",
                )
            return replace(
                made,
                reading="two-lenses",
                told="streams",
                why="it holds two picture tracks of one size with an image circle in each",
                size_px=(2 * info.width_px, info.height_px),
                duration_s=min(info.lengths_s[:2]),
                faults=faults,
            )
        if any(circles):
            return replace(
                made,
                reading="two-lenses",
                told="streams",
                sure=False,
                also=("lens", "sphere"),
                why="it holds two picture tracks of one size, but an image circle is seen in one of them only: is a lens black?",
                size_px=(2 * info.width_px, info.height_px),
            )
    if info.said is not None and info.coverage == info.said:
        whole, half = info.said == WHOLE, info.said == HALF
        kind: Kind = "sphere" if whole else "half" if half else "cropped"
        words = {"sphere": "a whole sphere", "half": "one half of a sphere", "cropped": "part of a sphere"}[kind]
        eye = {"over": ", for each eye one over the other: the upper one is shown",
               "beside": ", for each eye one side by side: the left one is shown"}.get(info.eyes, "")  # fmt: skip
        return replace(made, reading=kind, why=f"its metadata say that it is {words}{eye}")
    size = made.size_px if turned_deg % 180 == 0 else made.size_px[::-1]
    seen = by_content(looked, size, film=True)
    made = replace(made, reading=seen.reading, why=seen.why, told=seen.told, sure=seen.sure, also=seen.also)
    if turned_deg:
        return _turned(made, size, turned_deg)
    return made


def _faults_of(info: ClipInfo) -> tuple[str, ...]:
    """What of a film's header a person should know."""
    faults = []
    if info.channels > 2:
        faults.append(f"it has {info.channels} channels of sound; films get two, mixed from all of them")
    if info.told_s:
        faults.append(f"its end is missing: its index tells of {info.told_s:.1f} s, {info.duration_s:.1f} s are there")
    return tuple(faults)


def _turned(made: Reading, size_px: tuple[int, int], turned_deg: int) -> Reading:
    """Of a film whose header asks for its pictures to be turned, which were turned to be looked at; they are drawn from as they are stored."""
    words = f"its header turns its pictures by {turned_deg} degrees"
    if made.reading == "flat":
        return replace(made, size_px=size_px, why=f"{made.why} ({words})")
    return replace(
        made, sure=False, also=made.also or ("sphere",), why=f"{made.why}, but {words}, which is not done here"
    )


def _by_turning(made: Reading, reader: ClipReader, begun: Iterator[Decoded], looked: list[Plane]) -> Reading:
    """A film that looks flat may be of one wide lens whose circle lies outside the picture: how it turns tells. What tells neither is
    not asked about, as most films are flat; that it was not told is said."""
    try:
        moves = how_it_moves(reader, made.duration_s, begun, looked)
    except GlintorError:
        moves = "unknown"
    if moves == "flat":
        return replace(made, why=f"{made.why}; it moves as a flat picture does")
    if moves != "wide":
        still = "nothing moved" if moves == "still" else "how it moves tells nothing"
        return replace(made, why=f"{made.why}; where it was looked at {still}, so it may be a wide lens's")
    try:
        found = find_lenses(open_footage(made.files, TakenAs("lens")), moments=4)
    except GlintorError:
        return replace(
            made, sure=False, why=f"{made.why}, but in part it moves as a wide lens's picture does: is it one?"
        )
    wide = 2.0 * found.lenses.eyes[0].half_deg * min(0.5 / found.lenses.eyes[0].radius, 1.0)
    return replace(
        made,
        reading="one-lens",
        told="lens",
        lenses=found.lenses,
        why=f"when the camera turns, its picture turns as that of a lens of about {wide:.0f} degrees does, not as a flat one",
    )


def _looked_at(reader: ClipReader, info: ClipInfo) -> tuple[list[Plane], Iterator[Decoded]]:
    """Small luma of key frames near some moments, turned as the header asks; and the frames from the film's beginning on, of which the
    first is decoded already. Raises ClipError where nothing decodes."""
    step = max(1, info.width_px // _SMALL_PX)  # 1920 wide stays whole: a step of 2 there parts sides that meet

    def luma(decoded: Decoded) -> Plane:
        small = (decoded.picture.y[::step, ::step] >> (decoded.picture.bits - 8)).astype(np.uint8)
        return np.rot90(small, -reader.turned_deg // 90)

    later: list[tuple[Fraction, Plane]] = []
    if info.duration_s >= 1.0:
        with suppress(GlintorError, StopIteration):
            decoded = next(reader.every_from(0.5 * info.duration_s, after=True))
            later.append((decoded.time, luma(decoded)))
    frames = reader.every_from(0.0)
    first = next(frames)
    apart = [plane for time, plane in later if time > first.time]  # a film of one key frame gives its first again
    return [luma(first), *apart], chain([first], frames)
