"""What stands in the simulated place between a camera and the sun: bridge, tunnel, trees, houses."""

from functools import lru_cache

from msgspec.structs import replace

from glintor.placement.carrier import Carrier
from glintor.placement.layout import Layout
from glintor.placement.scenery import Place
from glintor.placement.sun import Sun
from glintor.project.model import Camera
from glintor.project.site import Placement, Site
from glintor.simulation.light import Light
from glintor.simulation.place import Scene, build
from glintor.simulation.rig import ANYWHERE, rig_in

_CHEST_M = 1.3  # over the feet of who carries the camera


def in_shade(site: Site, placement: Placement, camera: Camera, plan: Layout) -> bool:
    """Whether the place keeps the sun of a worked-out placement from its camera, its stick and who carries it, as the shot
    begins: where only one of them is in a tree's shade, the others still throw their shadows."""
    from glintor.simulation.raytrace import blocked

    place = site.place(placement.stage)
    if place is not None and place.photo:  # by what is said to stand in it; the photo itself need not be read for that
        place = replace(place, photo="")
    faced = replace(placement, way_bearing_deg=site.bearing_of(placement))
    scene = _scene(place, faced, camera, site.carriers)
    eye, way = scene.pose.position_m, plan.to_sun
    points = [eye, eye + plan.foot - plan.camera]
    if plan.carrying is not None:
        points.append(eye + plan.carrying + [0.0, 0.0, _CHEST_M] - plan.camera)
    return all(blocked(*(float(v) for v in (*point, *way)), scene.world) for point in points)


@lru_cache(maxsize=32)
def _scene(place: Place | None, placement: Placement, camera: Camera, carriers: tuple[Carrier, ...]) -> Scene:
    """The place round a camera; where the sun stands plays no part."""
    scene = build(
        rig_in(place, placement, camera, replace(ANYWHERE, carriers=carriers)), Light(Sun(180.0, 45.0), 0.0), 0.0
    )
    scene.world.setflags(write=False)
    return scene
