"""One flat picture out of a sphere: a photo, or a moment of a clip."""

from collections.abc import Sequence
from pathlib import Path

from glintor.files import refuse_sources
from glintor.media.footage import Footage, open_footage
from glintor.media.picture import write_picture
from glintor.media.taken import TakenAs
from glintor.pixels import colour
from glintor.pixels.picture import Flat, drawn, steady
from glintor.pixels.reproject import Reprojector
from glintor.sphere.turn import Sight

_DEEP = {".png", ".tif", ".tiff"}  # kinds of still that hold 16 bits


def still(
    source: Footage | Path,
    view: Sight,
    size_px: tuple[int, int],
    target: Path,
    *,
    at_s: float = 0.0,
    taken_as: TakenAs = TakenAs(),
    keep: Sequence[Path] = (),
) -> None:
    """Writes the frame that `view` gives of a picture or of a clip at a moment, packed as the target's name says.

    keep  other footage that must not be written over, beside the source itself

    A source of more than 8 bits keeps its depth in PNG and TIFF, linear light in EXR.
    Raises ClipError, WriteError, InputError.
    """
    refuse_sources(target, (*([source] if isinstance(source, Path) else source.files), *keep))  # before any work
    footage = open_footage(source, taken_as)
    sources = (*footage.files, *keep)
    if footage.kind == "photo" and footage.patch is None:  # its own depth and colour, without going through planes
        flat = Reprojector(size_px, shows=footage.shows).draw_rgb(footage.photo(), view)
        write_picture(target, flat, sources=sources)
        return
    with footage.reader() as reader:
        sphere = footage.sphere(reader.at(at_s))
    deep = sphere.picture.bits > 8 and target.suffix.lower() in _DEEP
    frame = drawn(Flat(size_px, steady(view), shows=footage.shows), sphere, at_s, deep=deep)
    write_picture(target, colour.rgb16(frame) if deep else colour.rgb(frame), sources=sources)
