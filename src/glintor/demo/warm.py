"""Compiles the kernels once, so that nobody waits for it in front of the window: python -m glintor.demo.warm."""

import numpy as np

from glintor.demo.day import CAMERA, SHOTS, SITE
from glintor.pixels import colour
from glintor.pixels.blend import Blend
from glintor.pixels.kernels import box_mean
from glintor.pixels.picture import Flat, drawn, steady
from glintor.pixels.reproject import Filter
from glintor.pixels.spheres import Sphere
from glintor.pixels.yuv import Yuv
from glintor.reframing.looks import LOOKS
from glintor.simulation.foresight import foresight
from glintor.sphere.view import View


def main() -> None:
    """Draws one small picture of every kind; what numba compiles is kept on disk."""
    for width_px in (128, 960):
        sphere, _, _ = foresight(SHOTS[0], SITE, CAMERA, width_px)
    plain = colour.yuv(sphere)
    y, u, v = (plane.astype(np.uint16) * 4 for plane in (plain.y, plain.u, plain.v))
    deep = Yuv(y, u, v, plain.tags, 10)
    for look in LOOKS:
        colour.rgb32(drawn(Flat((128, 72), steady(look.on(View())), Filter.FAST), Sphere(plain)))
    for picture in (plain, deep):
        for fine in (False, True):
            drawn(Flat((128, 72), steady(View()), Filter.FAST), Sphere(picture), deep=fine)
        blend = Blend()
        for _ in range(2):
            blend.add(Sphere(picture), 0.5)
        blend.take()
        box_mean(0, 8, picture.y, 3, picture.bits - 8, np.empty((8, 32), np.uint8))


if __name__ == "__main__":
    main()
