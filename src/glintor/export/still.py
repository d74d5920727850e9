"""One flat picture out of a sphere: a photo, or a moment of a clip."""

from pathlib import Path

import numpy as np

from glintor.errors import InputError
from glintor.media.picture import SUFFIXES, read_rgb, write_png
from glintor.media.probe import ClipError, need_sphere, probe
from glintor.media.read import ClipReader
from glintor.pixels import colour
from glintor.pixels.reproject import Reprojector
from glintor.sphere.view import View


def still(
    source: Path, view: View, size_px: tuple[int, int], target: Path, *, at_s: float = 0.0, as_sphere: bool = False
) -> None:
    """Writes the frame that `view` gives of a picture or of a clip at a moment. Raises ClipError, WriteError."""
    if target.suffix.lower() != ".png":
        raise InputError(f"{target.name} does not end in .png.", advice="Stills are written as PNG.")
    drawer = Reprojector(size_px)
    if source.suffix.lower() in SUFFIXES:
        sphere = read_rgb(source)
        height, width = sphere.shape[:2]
        if abs(width - 2 * height) > 1 and not as_sphere:
            raise ClipError(
                f"{source.name} is {width}x{height}: a full sphere is twice as wide as high.",
                advice="If it is a sphere all the same, say so (--as-sphere).",
            )
        picture = drawer.draw_rgb(sphere, view).astype(np.uint8)
    else:
        need_sphere(probe(source), as_sphere=as_sphere)
        with ClipReader(source) as reader:
            picture = colour.rgb(drawer.draw(reader.at(at_s).picture, view))
    write_png(target, picture)
