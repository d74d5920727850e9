"""The pictures that a placement would give: the sphere, and the flat frames of a view in it."""

from collections.abc import Sequence
from functools import lru_cache

import msgspec
import numpy as np
from numpy.typing import NDArray

from glintor.export.formats import format_by_name
from glintor.exposure.solve import solve
from glintor.project.model import Camera, Shot
from glintor.project.site import Site
from glintor.sphere.view import View, for_shape

Picture = NDArray[np.uint8]
_KEPT = 24  # spheres; of the largest 2.5 MB each


def sphere_of(shot: Shot, site: Site, camera: Camera, width_px: int, *, walked: float = 0.0) -> Picture:
    """The sphere (H, W, 3), exposed so that the place can be seen whatever the shot is set to. The last ones are kept: going back to a
    shot, and undo, show them at once."""
    place = site.place(shot.placement.stage)
    bare = Shot(
        id=shot.id,
        name="",
        start_min=shot.start_min,
        length_min=1,
        placement=shot.placement,
        exposure=msgspec.structs.replace(shot.exposure, light=()),
    )
    if place is not None and place.pictured:  # its photo may change, or be gone, behind our back
        return _sphere(bare, site, camera, width_px, walked)
    return _kept(bare, site, camera, width_px, walked)


def _sphere(shot: Shot, site: Site, camera: Camera, width_px: int, walked: float) -> Picture:
    from glintor.review import scene_light
    from glintor.simulation.foresight import foresight

    light = scene_light(shot.id, shot.placement, shot.start_min, site, camera)
    fit = solve(light.mean, shot.exposure.rate_fps, camera.sensor)
    exposure = msgspec.structs.replace(shot.exposure, shutter_s=fit.shutter_s, iso=fit.iso, nd_stops=fit.nd_stops)
    picture = foresight(shot, site, camera, width_px, exposure=exposure, walked=walked)[0]
    picture.flags.writeable = False
    return picture


_kept = lru_cache(maxsize=_KEPT)(_sphere)


def frames_of(sphere: Picture, view: View, aspects: Sequence[str], long_px: int = 640) -> dict[str, Picture]:
    """Each format's frame of a view, its longer side so many pixels."""
    from glintor.pixels.reproject import Filter, Reprojector

    frames = {}
    for name in aspects:
        size = format_by_name(name).size_px
        scale = long_px / max(size)
        small = (2 * round(size[0] * scale / 2), 2 * round(size[1] * scale / 2))
        frames[name] = Reprojector(small, Filter.FAST).draw_rgb(sphere, for_shape(view, size))
    return frames
