"""The sphere as it will come out at a moment, with what is clipped and what drowns marked in it, and the flat frames of it."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from glintor.desktop.place.foresee import frames_of
from glintor.exposure.metering import meter
from glintor.exposure.noise import HEADROOM_STOPS, floor_ev
from glintor.exposure.values import ev100, ev_of_luminance
from glintor.pixels.colour import LUMA_709
from glintor.project.model import Camera, Exposure, Shot
from glintor.project.site import Site
from glintor.sphere.view import View

Picture = NDArray[np.uint8]
_RED, _INK = np.array([163, 38, 27], np.uint8), np.array([255, 255, 255], np.uint8)
_LUMA = np.array(LUMA_709, np.float32)


def exposed_sphere(
    shot: Shot,
    site: Site,
    camera: Camera,
    settings: Sequence[Exposure],
    time_s: float,
    view: View,
    width_px: int,
    told_ev: float | None = None,
) -> tuple[Picture, dict[str, Picture]]:
    """The sphere (H, W, 3) and the frames of a view. settings: of the front lens, and of the rear one where it has its own; told_ev:
    the mean of light that somebody told, in which the place is shown then. Clipped parts are hatched red, drowned ones dotted."""
    from glintor.simulation.foresight import foresight
    from glintor.simulation.sensor import develop

    picture, luminance, _ = foresight(shot, site, camera, width_px, time_s, exposure=settings[0])
    if told_ev is not None:
        luminance = luminance * np.float32(2.0 ** (told_ev - meter(luminance).mean))
        picture = develop(luminance, camera, settings[0])
    ev = ev_of_luminance(np.maximum(luminance @ _LUMA, 1e-6))
    tops, floors = [], []
    for one in settings:
        set_ev = float(ev100(camera.f_number, one.shutter_s, iso=one.iso, nd_stops=one.nd_stops))
        tops.append(set_ev + HEADROOM_STOPS)
        floors.append(float(floor_ev(set_ev, one.iso, camera.stops, camera.iso_min)))
    columns = np.arange(width_px)
    front = ((columns >= width_px // 4) & (columns < width_px * 3 // 4))[None, :]
    if len(settings) > 1:
        picture = np.where(front[..., None], picture, develop(luminance, camera, settings[1]))
    clipped = ev > np.where(front, tops[0], tops[-1])
    drowned = ev < np.where(front, floors[0], floors[-1])
    frames = frames_of(np.ascontiguousarray(picture), view, shot.aspects, 420)
    rows = np.arange(len(picture))[:, None]
    marked = picture.copy()
    marked[clipped & ((rows + columns) % 7 < 2)] = _RED
    marked[drowned & (rows % 6 == 0) & (columns % 6 == 0)] = _INK
    return np.ascontiguousarray(marked), frames
