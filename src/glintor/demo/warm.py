"""Compiles the kernels once, so that nobody waits for it in front of the window: python -m glintor.demo.warm."""

from glintor.demo.day import CAMERA, SHOTS, SITE
from glintor.pixels import colour
from glintor.pixels.reproject import Filter, Reprojector
from glintor.reframing.looks import LOOKS
from glintor.simulation.camera import foresight
from glintor.sphere.view import View


def main() -> None:
    """Draws one small picture of every kind; what numba compiles is kept on disk."""
    for width_px in (128, 960):
        sphere, _, _ = foresight(SHOTS[0], SITE, CAMERA, width_px)
    planes = colour.yuv(sphere)
    for look in LOOKS:
        colour.rgb32(Reprojector((128, 72), Filter.FAST).draw(planes, look.on(View())))


if __name__ == "__main__":
    main()
