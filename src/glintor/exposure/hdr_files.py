"""A merged sphere on disk: light as Radiance or OpenEXR, or tone-mapped as JPEG that says it is a sphere, or as 16-bit TIFF."""

from collections.abc import Sequence
from pathlib import Path

from glintor.errors import InputError
from glintor.exposure.hdr import Merged, matched
from glintor.files import whole_file
from glintor.media.picture import LIGHT, packed, shown
from glintor.media.spherical import with_photo_fields

KINDS = (".exr", ".hdr", ".jpg", ".tif")


def write_merged(merged: Merged, target: Path, sources: Sequence[Path]) -> None:
    """Writes the sphere whole, never over one of its sources. Raises InputError, WriteError."""
    kind = {".jpeg": ".jpg", ".tiff": ".tif"}.get(target.suffix.lower(), target.suffix.lower())
    if kind not in KINDS:
        raise InputError(
            f"A merged sphere is not written as {target.suffix or 'that'}.", advice=f"Use {', '.join(KINDS)}."
        )
    light = matched(merged) if kind in LIGHT else merged.light
    content = packed(light if kind in LIGHT else shown(merged.light, 16 if kind == ".tif" else 8), kind)
    if kind == ".jpg":
        content = with_photo_fields(content, (light.shape[1], light.shape[0]))
    with whole_file(target, sources=sources) as part:
        part.write_bytes(content)


def in_words(merged: Merged) -> list[str]:
    """What was done, a line a frame and one for the whole."""
    out = []
    for number, one in enumerate(merged.frames):
        what = "reference" if number == merged.reference else f"turned {one.turned_deg:.2f} degrees back"
        ghosts = f", {one.ghosts:.1%} set aside as moved" if one.ghosts > 0.0005 else ""
        out.append(f"{one.file.name}: {one.stops:+.2f} stops by {one.known_by}, {what}{ghosts}")
    beyond = (merged.too_bright, "too bright for the darkest"), (merged.too_dark, "too dark for the brightest")
    lost = [f"{share:.1%} {words}" for share, words in beyond if share > 0.0005]
    out.append(f"curve {merged.curve}; " + (", ".join(lost) if lost else "every part is held by a frame"))
    return out
