"""A small picture of each way in which a recording can be read, so that a person can tell which is right."""

import numpy as np
from numpy.typing import NDArray

from glintor.errors import GlintorError
from glintor.media.footage import open_footage
from glintor.media.lens_profile import guess_lenses
from glintor.media.reading import Reading
from glintor.media.taken import TakenAs, Told
from glintor.pixels import colour
from glintor.pixels.picture import Flat, drawn, steady
from glintor.pixels.reproject import Filter
from glintor.sphere.lenses import Lenses
from glintor.sphere.view import View

SMALL_PX = (224, 126)


def ways(reading: Reading) -> tuple[Told, ...]:
    """What a recording may be taken for, the likeliest first."""
    usual: Told = {"half": "half", "sphere": "sphere", "photo": "sphere"}.get(reading.reading, "")  # type: ignore[assignment]
    first = reading.told or usual
    return tuple(dict.fromkeys(told for told in (first, *reading.also) if told))


def seen_as(reading: Reading, told: Told) -> NDArray[np.uint32] | None:
    """What a frame straight ahead shows (h, w), 0xFFRRGGBB, when the recording is read so; None where it cannot be."""
    try:
        footage = open_footage(
            reading.files[:2] if told == "files" else reading.files[:1], TakenAs(told, reading.lenses)
        )
        if isinstance(footage.shows, Lenses) and reading.lenses is None:
            footage = open_footage(footage.files, TakenAs(told, guess_lenses(footage)))
        with footage.reader() as reader:
            sphere = footage.sphere(reader.at(min(0.5, footage.duration_s / 2.0)))
    except GlintorError:
        return None
    return colour.rgb32(drawn(Flat(SMALL_PX, steady(View(fov_deg=90.0)), Filter.FAST, shows=footage.shows), sphere))
