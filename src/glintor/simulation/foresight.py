"""The picture that a placement would give, before anybody is there."""

import numpy as np
from numpy.typing import NDArray

from glintor.project.model import Camera, Exposure, Shot
from glintor.project.site import Site
from glintor.simulation.place import Truth, build, render_sphere
from glintor.simulation.rig import light_of, rig_of
from glintor.simulation.sensor import develop

_QUICK_PX = 600  # up to here it is drawn while a hand drags, and leaves one core to the window


def foresight(
    shot: Shot,
    site: Site,
    camera: Camera,
    width_px: int,
    time_s: float = 0.0,
    *,
    exposure: Exposure | None = None,
    walked: float = 0.0,
) -> tuple[NDArray[np.uint8], NDArray[np.float32], Truth]:
    """The picture that this placement would give, its luminance, and the truth: quickly, without noise. walked: how far the
    subject is along its way, 0 to 1."""
    scene = build(
        rig_of(shot.placement, camera, site, walked=walked), light_of(site, shot.start_min, shot.placement), time_s
    )
    luminance = render_sphere(scene, width_px, smooth=width_px >= 900, alone=width_px <= _QUICK_PX)
    return develop(luminance, camera, exposure or shot.exposure), luminance, scene.truth
