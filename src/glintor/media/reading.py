"""What a file is: by its metadata first, then by shape, then by what is to be seen. What stays unsure is said to be so, with the
other ways to read it."""

from collections.abc import Sequence
from datetime import datetime
from pathlib import Path
from typing import Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from glintor.errors import GlintorError
from glintor.media.exif import read_exif
from glintor.media.first_bytes import sort_of
from glintor.media.footage import open_footage
from glintor.media.lens_profile import find_lenses
from glintor.media.looks_like import edges_meet, fisheye_in
from glintor.media.picture import LIGHT, glance, sphere_or_flat_size
from glintor.media.picture import SUFFIXES as PHOTOS
from glintor.media.probe import ClipInfo, NoPictures, probe
from glintor.media.read import ClipReader
from glintor.media.sound import RATE_HZ, sound_length_s
from glintor.media.spherical import SphereNote, photo_note
from glintor.media.taken import TakenAs, Told
from glintor.names import text_of
from glintor.pixels.yuv import Plane
from glintor.report import fault
from glintor.sphere.equirect import HALF, WHOLE
from glintor.sphere.lenses import Lenses

FILMS = {".mp4", ".mov", ".m4v", ".mkv", ".webm", ".avi", ".mts", ".m2ts", ".ts", ".mpg"}
SOUNDS = {".wav", ".flac", ".mp3", ".m4a", ".aac", ".ogg", ".opus", ".aif", ".aiff"}
COMPANIONS = {".gpx", ".csv", ".srt", ".vtt", ".json", ".txt", ".xml", ".mhl"}
Kind = Literal[
    "sphere", "half", "cropped", "two-lenses", "one-lens", "flat", "photo", "bracket", "series", "sound", "broken"
]
_BLACK = 20.0  # mean of a half in which nothing is seen
_SMALL_PX = 1440  # pictures are looked at no larger


class Reading(Struct, frozen=True, kw_only=True):
    """A recording: what it is taken for, out of which files, and why.

    told        how it is opened; sure: whether nothing else comes into question; also: other ways to read it
    missing     parts of it that ought to be there; faults: what else is wrong with it, in words
    began       by its camera's own clock
    lenses      the profile of its lenses, as far as its pictures tell at once
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
    size, note, taken = sphere_or_flat_size(file), photo_note(file), read_exif(file).taken
    made = Reading(reading="photo", files=(file,), why="", size_px=size, note=note, began=taken)
    if note is not None:
        part = "a whole sphere" if note.coverage.whole == (True, True) else "part of a sphere"
        return replace(made, why=f"its photo-sphere metadata say that it is {part}")
    if file.suffix.lower() in LIGHT:
        return replace(made, why="it holds light and is twice as wide as high", sure=abs(size[0] - 2 * size[1]) <= 1)
    luma = glance(file)
    seen = _by_content([luma], size, film=False) if luma is not None else None
    if seen is None:
        twice = abs(size[0] - 2 * size[1]) <= 1
        return replace(made, reading="photo" if twice else "flat", why="by its shape", sure=False)
    kind: Kind = "photo" if seen.reading == "sphere" else seen.reading
    return replace(made, reading=kind, why=seen.why, told=seen.told, sure=seen.sure, also=seen.also)


def _film(file: Path) -> Reading:
    info = probe(file)
    made = Reading(
        reading="sphere",
        files=(file,),
        why="",
        size_px=(info.width_px, info.height_px),
        rate=float(info.rate),
        duration_s=info.duration_s,
        note=info.note,
        began=info.began,
        faults=(f"it has {info.channels} channels of sound; films get two, mixed from all of them",)
        if info.channels > 2
        else (),
    )
    tracks = _looked_at(file, info)
    if info.alike > 1 and len(tracks) > 1:
        circles = [fisheye_in(track) is not None for track in tracks]
        if all(circles):
            faults: tuple[str, ...] = ()
            if abs(info.lengths_s[0] - info.lengths_s[1]) > 1.5 / float(info.rate):
                faults = (
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
        return replace(made, reading=kind, why=f"its metadata say that it is {words}")
    seen = _by_content(tracks[0], made.size_px, film=True)
    made = replace(made, reading=seen.reading, why=seen.why, told=seen.told, sure=seen.sure, also=seen.also)
    return _by_turning(made) if made.reading == "flat" and made.sure else made


def _by_turning(made: Reading) -> Reading:
    """A film that looks flat may be of one wide lens whose circle lies outside the picture: how it turns tells."""
    try:
        found = find_lenses(open_footage(made.files, TakenAs("lens")), moments=4)
    except GlintorError:
        return made
    wide = 2.0 * found.lenses.eyes[0].half_deg * min(0.5 / found.lenses.eyes[0].radius, 1.0)
    return replace(
        made,
        reading="one-lens",
        told="lens",
        lenses=found.lenses,
        why=f"when the camera turns, its picture turns as that of a lens of about {wide:.0f} degrees does, not as a flat one",
    )


def _looked_at(file: Path, info: ClipInfo) -> list[list[Plane]]:
    """Small luma of some moments of each picture track. Raises ClipError where nothing decodes."""
    found = []
    for track in range(min(info.alike, 2)):
        with ClipReader(file, track=track) as reader:
            step = max(1, info.width_px // _SMALL_PX)
            moments = [0.0] if info.duration_s < 1.0 else [0.0, 0.5 * info.duration_s]
            lumas: list[Plane] = []
            for moment in moments:
                try:
                    picture = reader.at(moment).picture
                except GlintorError:
                    if not lumas:
                        raise
                    break
                lumas.append((picture.y[::step, ::step] >> (picture.bits - 8)).astype(np.uint8))
            found.append(lumas)
    return found


def _by_content(frames: list[Plane], size_px: tuple[int, int], *, film: bool) -> Reading:
    """A reading without files: by the picture's shape and by what is seen in it."""
    width, height = size_px
    seen = Reading(reading="flat", files=(), why="")
    rows, columns = frames[0].shape
    if abs(width - 2 * height) <= 2:
        halves = [[f[:, : columns // 2] for f in frames], [f[:, columns // 2 : columns // 2 * 2] for f in frames]]
        circles = [fisheye_in(half) is not None for half in halves]
        if all(circles):
            return replace(seen, reading="two-lenses", told="side", why="two image circles lie side by side in it")
        meets, poles = edges_meet(frames)
        dark = min(float(np.mean([part.mean() for part in half])) for half in halves) < _BLACK
        if meets and not (any(circles) and dark):
            also: tuple[Told, ...] = () if poles else ("side",)
            why = "it is twice as wide as high and its sides meet" + (", its poles are even" if poles else "")
            return replace(seen, reading="sphere", also=also, why=why)
        if any(circles):
            return replace(
                seen,
                reading="two-lenses",
                told="side",
                sure=False,
                also=("sphere",),
                why="an image circle is seen in one half only: is a lens black?",
            )
        if poles:
            return replace(
                seen,
                reading="sphere",
                sure=False,
                also=("side",),
                why="it is twice as wide as high and its poles are even, but its sides do not meet",
            )
        return replace(
            seen,
            sure=False,
            also=("sphere", "side"),
            why="it is twice as wide as high, but its sides do not meet and its poles are not even",
        )
    if abs(height - 2 * width) <= 2:
        halves = [[f[: rows // 2] for f in frames], [f[rows // 2 : rows // 2 * 2] for f in frames]]
        if all(fisheye_in(half) is not None for half in halves):
            return replace(
                seen, reading="two-lenses", told="under", why="two image circles lie in it, one under the other"
            )
    circle = fisheye_in(frames)
    if circle is not None:
        return replace(seen, reading="one-lens", told="lens", why="one image circle is seen in it", also=("half",))
    if abs(width - height) <= 2:
        return replace(
            seen,
            reading="half" if film else "flat",
            told="half" if film else "",
            sure=False,
            also=("half", "lens"),
            why="it is as high as wide and shows no image circle",
        )
    return replace(
        seen,
        also=("lens", "sphere"),
        why=f"it is {width}x{height}, shows no image circle, and no metadata say that it is a sphere",
    )
