"""What part of the sphere a file says that it shows.

Films: the boxes `sv3d` / `proj` / `equi` of Spherical Video V2 and the XML of V1 in a `uuid` box; photos: GPano XMP.
Sources: Google's open documents "Spherical Video V2 RFC", "Spherical Video V1 RFC" and "Photo Sphere XMP Metadata"
(layout from memory; read here against files written by the published reference code and by exiftool).
"""

import re
import struct
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import BinaryIO, Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from glintor.errors import InputError
from glintor.sphere.angle import wrap_deg
from glintor.sphere.equirect import WHOLE, Coverage
from glintor.sphere.rotation import view_matrix

_INSIDE = {b"moov", b"trak", b"mdia", b"minf", b"stbl", b"sv3d", b"proj"}
_V1 = bytes.fromhex("ffcc8263f8554a938814587a02521fdd")
_DEEPEST = 16  # boxes in one another: no writer nests half as deep
_MOST_XML = 1 << 20
_PHOTO_HEAD = 1 << 18


class ProjectionError(InputError):
    """A sphere stored in a way that is not equirectangular."""


Angles = tuple[float, float, float]
Eyes = Literal["", "over", "beside"]
_EYES: dict[int, Eyes] = {1: "over", 2: "beside"}  # of the box st3d
_NO_EQUIRECT = "The film stores its sphere as a cube or a mesh."
_EXPORT_FIRST = "Export it as an equirectangular film first."


class SphereNote(Struct, frozen=True):
    """What a file says of its sphere.

    coverage        what part it shows
    pose_deg        how it was held: bearing of its middle (0 where nobody measured it), height of its middle over the horizon,
                    roll clockwise; None where it does not say
    first_view_deg  heading, height and roll that are to be seen first; None where it does not say
    eyes            how the pictures of two eyes lie in it: "over" one another or "beside" each other; "" for one picture
    """

    coverage: Coverage = WHOLE
    pose_deg: Angles | None = None
    first_view_deg: Angles | None = None
    eyes: Eyes = ""

    @property
    def level_turn(self) -> "NDArray[np.float64] | None":
        """(3, 3) from the picture's axes to a level frame that looks the same way; None where it is level or nothing is said."""
        if self.pose_deg is None or not any(self.pose_deg[1:]):
            return None
        return view_matrix(0.0, *self.pose_deg[1:])

    @property
    def first_yaw_pitch_deg(self) -> tuple[float, float] | None:
        """The first view in the level frame: bearings count from north where the file knows it."""
        if self.first_view_deg is None:
            return None
        north = self.pose_deg[0] if self.pose_deg is not None else 0.0
        return float(wrap_deg(self.first_view_deg[0] - north)), float(np.clip(self.first_view_deg[1], -90.0, 90.0))


def film_note(path: Path) -> SphereNote | None:
    """What an MP4 or MOV film says; None where it says nothing. Raises ProjectionError for other projections."""
    with path.open("rb") as file:
        file.seek(0, 2)
        try:
            return _from_boxes(file, 0, file.tell())
        except struct.error:
            return None  # no MP4, or cut off: its decoder has better words for that


def film_coverage(path: Path) -> Coverage | None:
    """What part of the sphere a film says that it shows."""
    note = film_note(path)
    return None if note is None else note.coverage


def _boxes(file: BinaryIO, start: int, end: int) -> Iterator[tuple[bytes, int, int]]:
    """(kind, first byte of the content, end) of the boxes between two places."""
    while start + 8 <= end:
        file.seek(start)
        size, kind = struct.unpack(">I4s", file.read(8))
        head = 8
        if size == 1:
            size, head = struct.unpack(">Q", file.read(8))[0], 16
        size = size or end - start
        if size < head or start + size > end:
            return
        yield kind, start + head, start + size
        start += size


def _from_boxes(file: BinaryIO, start: int, end: int, deep: int = 0) -> SphereNote | None:
    if deep > _DEEPEST:
        return None
    pose: Angles | None = None
    for kind, first, last in _boxes(file, start, end):
        found: SphereNote | None = None
        if kind in _INSIDE:
            found = _from_boxes(file, first, last, deep + 1)
        elif kind == b"stsd":
            for _, entry, entry_end in _boxes(file, first + 8, last):
                if found is None:  # after the fields of a picture's entry
                    found = _from_boxes(file, entry + 78, entry_end, deep + 1)
                    eyes = _eyes_in(file, entry + 78, entry_end)
                    found = replace(found, eyes=eyes) if found is not None and eyes else found
        elif kind == b"equi":
            file.seek(first + 4)
            found = SphereNote(_from_bounds(*struct.unpack(">4I", file.read(16))), pose)
        elif kind == b"prhd":  # fixed-point degrees, counter-clockwise about up, right and forward
            file.seek(first + 4)
            yaw, pitch, roll = (value / 65536.0 for value in struct.unpack(">3i", file.read(12)))
            pose = _pose(yaw, pitch, roll)
        elif kind in (b"cbmp", b"mshp"):
            raise ProjectionError(_NO_EQUIRECT, advice=_EXPORT_FIRST)
        elif kind == b"uuid":
            file.seek(first)
            if file.read(16) == _V1:
                found = _from_fields(_fields(file.read(min(last - first - 16, _MOST_XML)), b"GSpherical"))
        if found is not None:
            return found
    return None


def _eyes_in(file: BinaryIO, start: int, end: int) -> Eyes:
    """How two eyes' pictures lie, by the box `st3d` of a picture's entry."""
    for kind, first, last in _boxes(file, start, end):
        if kind == b"st3d" and last - first >= 5:
            file.seek(first + 4)
            return _EYES.get(file.read(1)[0], "")
    return ""


def note_of_frame(side_data: Mapping[str, bytes]) -> SphereNote | None:
    """What FFmpeg tells of a decoded frame, for the kinds of films whose own notes are not read here (Matroska): its `SPHERICAL` and
    `STEREO3D` side data. Raises ProjectionError. Source: libavutil/spherical.h and stereo3d.h of FFmpeg (layout from memory)."""
    mapped = side_data.get("SPHERICAL", b"")
    if len(mapped) < 32:
        return None
    kind, yaw, pitch, roll, left, top, right, bottom = struct.unpack("<4i4I", mapped[:32])
    if kind not in (0, 2, 3):
        raise ProjectionError(_NO_EQUIRECT, advice=_EXPORT_FIRST)
    stereo = side_data.get("STEREO3D", b"")
    eyes: Eyes = {1: "beside", 2: "over"}.get(struct.unpack("<i", stereo[:4])[0] if len(stereo) >= 4 else 0, "")  # type: ignore[assignment]
    turned = (yaw / 65536.0, pitch / 65536.0, roll / 65536.0)
    coverage = Coverage(lon_deg=180.0) if kind == 3 else _from_bounds(top, bottom, left, right)
    return SphereNote(coverage, _pose(*turned), eyes=eyes)


def _pose(yaw: float, pitch: float, roll: float) -> Angles | None:
    """Of degrees counter-clockwise about up, right and forward."""
    return (-yaw % 360.0, pitch, roll) if any((yaw, pitch, roll)) else None


def _from_bounds(top: int, bottom: int, left: int, right: int) -> Coverage:
    """The four shares cut off at the sides, as fractions of 2^32."""
    t, b, l, r = (value / 2.0**32 for value in (top, bottom, left, right))
    return _checked(l, 1.0 - l - r, t, 1.0 - t - b)


def _checked(left: float, width: float, top: float, height: float) -> Coverage:
    if not (left >= 0.0 and 0.0 < width <= 1.0 - left + 1e-6 and top >= 0.0 and 0.0 < height <= 1.0 - top + 1e-6):
        raise ProjectionError(
            "The file's note of which part of the sphere it shows makes no sense.",
            advice="If it is a full sphere, say so (--as-sphere).",
        )
    return Coverage(
        360.0 * width, 180.0 * height, 360.0 * (left + width / 2) - 180.0, 90.0 - 180.0 * (top + height / 2)
    )


def _fields(content: bytes, space: bytes) -> dict[str, str]:
    """XMP fields of a name space, whether written as attributes or as elements."""
    pattern = rb"(?<!/)" + space + rb":(\w+)\s*(?:=\s*[\"']([^\"']*)[\"']|>\s*([^<]*?)\s*<)"
    return {name.decode(): (a or b).decode("ascii", "replace") for name, a, b in re.findall(pattern, content)}


def _angles(fields: dict[str, str], start: str, end: str = "Degrees") -> Angles | None:
    names = [f"{start}{name}{end}" for name in ("Heading", "Pitch", "Roll")]
    if not any(name in fields for name in names):
        return None
    try:
        heading, pitch, roll = (float(fields.get(name) or 0.0) for name in names)
    except ValueError:
        return None
    if not np.isfinite([heading, pitch, roll]).all() or abs(pitch) > 90.0:
        return None
    return heading, pitch, roll


def _from_fields(fields: dict[str, str]) -> SphereNote | None:
    if not fields:
        return None
    return SphereNote(_area(fields), _angles(fields, "Pose"), _angles(fields, "InitialView"))


def _area(fields: dict[str, str]) -> Coverage:
    kind = fields.get("ProjectionType", "equirectangular").lower()
    if kind != "equirectangular":
        raise ProjectionError(f"The file says its sphere is stored as {kind}.", advice="Convert it first.")
    names = (
        "FullPanoWidthPixels",
        "FullPanoHeightPixels",
        "CroppedAreaLeftPixels",
        "CroppedAreaTopPixels",
        "CroppedAreaImageWidthPixels",
        "CroppedAreaImageHeightPixels",
    )
    if not all(name in fields for name in names):
        return WHOLE
    try:
        full_w, full_h, left, top, width, height = (float(fields[name]) for name in names)
    except ValueError:
        return WHOLE
    if full_w <= 0 or full_h <= 0:
        return WHOLE
    return _checked(left / full_w, width / full_w, top / full_h, height / full_h)


def photo_note(path: Path) -> SphereNote | None:
    """What a photo's XMP says; None where it says nothing. Raises ProjectionError."""
    with path.open("rb") as file:
        return _from_fields(_fields(file.read(_PHOTO_HEAD), b"GPano"))


def photo_coverage(path: Path) -> Coverage | None:
    """What part of the sphere a photo says that it shows."""
    note = photo_note(path)
    return None if note is None else note.coverage


_V1_WORDS = (
    '<?xml version="1.0"?><rdf:SphericalVideo xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#" '
    'xmlns:GSpherical="http://ns.google.com/videos/1.0/spherical/"><GSpherical:Spherical>true</GSpherical:Spherical>'
    "<GSpherical:Stitched>true</GSpherical:Stitched><GSpherical:ProjectionType>equirectangular</GSpherical:ProjectionType>"
    "</rdf:SphericalVideo>"
)  # the addresses are the open format's own names; nothing is fetched from them


def _box(kind: bytes, content: bytes) -> bytes:
    return struct.pack(">I4s", 8 + len(content), kind) + content


class Marks(Struct, frozen=True):
    """What says in a film's index what its pictures show: boxes of a picture's entry (V2) and of its track (V1)."""

    entry: bytes
    track: bytes


def _whole_marks() -> Marks:
    sphere = _box(b"svhd", bytes(4) + b"Glintor\x00")
    sphere += _box(b"proj", _box(b"prhd", bytes(16)) + _box(b"equi", bytes(20)))
    return Marks(_box(b"st3d", bytes(5)) + _box(b"sv3d", sphere), _box(b"uuid", _V1 + _V1_WORDS.encode()))


def marks_of(path: Path) -> Marks:
    """The boxes by which a film says what it shows, as they stand there; empty where it says nothing. Raises OSError."""
    with path.open("rb") as file:
        file.seek(0, 2)
        try:
            return _marks_in(file, 0, file.tell())
        except struct.error:
            return Marks(b"", b"")


def _marks_in(file: BinaryIO, start: int, end: int) -> Marks:
    entry = track = b""
    for kind, first, last in _boxes(file, start, end):
        if kind in _INSIDE - {b"sv3d", b"proj"}:
            inside = _marks_in(file, first, last)
            entry, track = entry or inside.entry, track or inside.track
        elif kind == b"stsd" and not entry:
            for _, own, own_end in _boxes(file, first + 8, last):
                for inner, begin, stop in _boxes(file, own + 78, own_end):
                    if inner in (b"st3d", b"sv3d") and stop - begin < _MOST_XML:
                        file.seek(begin)
                        entry += _box(inner, file.read(stop - begin))
        elif kind == b"uuid" and last - first < _MOST_XML:
            file.seek(first)
            content = file.read(last - first)
            track = track or (_box(kind, content) if content.startswith(_V1) else b"")
    return Marks(entry, track)


def _marked(kind: bytes, content: bytes, marks: Marks) -> bytes:
    """A box of a film's index with what says what its pictures show."""
    if kind == b"stsd":
        size = struct.unpack(">I", content[8:12])[0]
        entry, rest = content[8 : 8 + size], content[8 + size :]
        entry = entry[8:] + marks.entry
        return _box(kind, content[:8] + struct.pack(">I", 8 + len(entry)) + b"" + content[12:16] + entry + rest)
    if kind not in _INSIDE or (kind == b"trak" and b"vide" not in content):
        return _box(kind, content)
    out, at = b"", 0
    while at + 8 <= len(content):
        size, inner = struct.unpack(">I4s", content[at : at + 8])
        out += _marked(inner, content[at + 8 : at + size], marks)
        at += size
    if kind == b"trak":
        out += marks.track
    return _box(kind, out)


def mark_film(path: Path, marks: Marks | None = None) -> None:
    """Writes into a finished MP4 or MOV, whose index stands at its end, what its pictures show: whole spheres, or what another film says
    of itself. Others stay as they are."""
    marks = _whole_marks() if marks is None else marks
    if not (marks.entry or marks.track):
        return
    with path.open("r+b") as file:
        file.seek(0, 2)
        end = file.tell()
        for kind, first, last in _boxes(file, 0, end):
            if kind == b"moov" and last == end:
                file.seek(first)
                whole = _marked(kind, file.read(last - first), marks)
                file.seek(first - 8)
                file.write(whole)
                return


def with_photo_fields(jpeg: bytes, size_px: tuple[int, int]) -> bytes:
    """A JPEG of a whole sphere that says so: photo-sphere XMP in an APP1 segment after its head. The two addresses are the open
    format's own names of its fields; nothing is ever fetched from them."""
    width, height = size_px
    fields = {
        "ProjectionType": "equirectangular",
        "UsePanoramaViewer": "True",
        "FullPanoWidthPixels": width,
        "FullPanoHeightPixels": height,
        "CroppedAreaImageWidthPixels": width,
        "CroppedAreaImageHeightPixels": height,
        "CroppedAreaLeftPixels": 0,
        "CroppedAreaTopPixels": 0,
    }
    inside = "".join(f' GPano:{name}="{value}"' for name, value in fields.items())
    xmp = (
        '<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?><x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF '
        'xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about="" '
        f'xmlns:GPano="http://ns.google.com/photos/1.0/panorama/"{inside}/></rdf:RDF></x:xmpmeta><?xpacket end="w"?>'
    ).encode()
    body = b"http://ns.adobe.com/xap/1.0/\x00" + xmp
    return jpeg[:2] + b"\xff\xe1" + (len(body) + 2).to_bytes(2, "big") + body + jpeg[2:]
