"""What a file is by its first bytes, where its ending does not tell."""

from pathlib import Path
from typing import Literal

Sort = Literal["film", "photo", "sound"]
_READ = 16
# Sources: ISO 14496-12 (ftyp, at 4), RFC 8794 (EBML of Matroska), RIFF, JPEG (T.81), PNG, TIFF 6.0, OpenEXR, MPEG-TS (188-byte packets),
# FLAC, Ogg, ID3.
_BEGINS: tuple[tuple[bytes, Sort], ...] = (
    (b"\x1a\x45\xdf\xa3", "film"),
    (b"\xff\xd8\xff", "photo"),
    (b"\x89PNG\r\n", "photo"),
    (b"II*\x00", "photo"),
    (b"MM\x00*", "photo"),
    (b"\x76\x2f\x31\x01", "photo"),
    (b"#?RADIANCE", "photo"),
    (b"fLaC", "sound"),
    (b"OggS", "sound"),
    (b"ID3", "sound"),
)
_INSIDE: dict[bytes, Sort] = {b"AVI ": "film", b"WAVE": "sound", b"WEBP": "photo"}


def sort_of(file: Path) -> Sort | None:
    """Film, photo or sound by the first bytes; None for anything else. Raises OSError."""
    with file.open("rb") as handle:
        begins = handle.read(_READ)
    if begins[4:8] in (b"ftyp", b"moov", b"mdat", b"wide"):
        return "photo" if begins[8:12] in (b"heic", b"avif", b"mif1") else "film"
    if begins[:4] == b"RIFF":
        return _INSIDE.get(begins[8:12])
    return next((sort for magic, sort in _BEGINS if begins.startswith(magic)), None)


def matroska_bytes(file: Path) -> int:
    """How long a Matroska file is by its own head; 0 where it does not say. Source: RFC 8794, 4 to 6: the head, then one segment."""
    with file.open("rb") as handle:
        begins = handle.read(256)
    at = 0
    for name in (b"\x1a\x45\xdf\xa3", b"\x18\x53\x80\x67"):
        if begins[at : at + 4] != name or len(begins) < at + 12:
            return 0
        length = 9 - begins[at + 4].bit_length()
        if length > 8:
            return 0
        size = int.from_bytes(begins[at + 4 : at + 4 + length], "big") & ((1 << 7 * length) - 1)
        if size == (1 << 7 * length) - 1:  # not known when it was begun
            return 0
        at += 4 + length + size
    return at
