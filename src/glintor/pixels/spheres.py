"""What frames are drawn from: a picture with smaller copies of its planes, and how those of two lenses are brought together in it."""

import cv2
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.pixels.yuv import Plane, Yuv
from glintor.sphere.lenses import Lenses
from glintor.sphere.rolling import Moment

Field = NDArray[np.float32]


class Join(Struct, frozen=True, eq=False):
    """What the kernel looks up.

    tone   (lenses, 3, 2, T, A): gain and lift of Y, U, V off and round each lens's axis, in codes of 8 bits
    shift  (lenses, 2, T, A): by so many radians outward and round; T = 1 where nothing is moved
    band   (first angle off the axis, rows a radian) of shift
    step_stops  what was levelled on the whole, in stops
    rows   how its rows were read while the camera turned; None where nobody knows
    """

    tone: Field
    shift: Field
    band: tuple[float, float] = (0.0, 1.0)
    step_stops: float = 0.0
    rows: Moment | None = None


def parts_of(lenses: Lenses, picture: Yuv) -> list[tuple[Plane, Plane, Plane]]:
    """Each lens's own part of the planes, not copied."""
    found = []
    for eye in range(len(lenses.eyes)):
        planes = []
        for plane in (picture.y, picture.u, picture.v):
            size = (plane.shape[1], plane.shape[0])
            (x, y), (width, height) = lenses.corner_px(eye, size), lenses.part_px(size)
            planes.append(plane[y : y + height, x : x + width])
        found.append((planes[0], planes[1], planes[2]))
    return found


class Pyramid:
    """A plane and its copies at half, quarter and eighth size, each made when first asked for and then kept."""

    def __init__(self, plane: Plane) -> None:
        whole_samples = plane.strides[1] == plane.itemsize and plane.strides[0] % plane.itemsize == 0
        self._levels: list[Plane] = [plane if whole_samples else np.ascontiguousarray(plane)]

    def level(self, number: int) -> Plane:
        """The copy at 1 / 2^number, an area average."""
        while len(self._levels) <= number:
            last = self._levels[-1]
            size = ((last.shape[1] + 1) // 2, (last.shape[0] + 1) // 2)
            self._levels.append(np.asarray(cv2.resize(last, size, interpolation=cv2.INTER_AREA), last.dtype))
        return self._levels[number]


class Sphere:
    """A picture with the smaller copies of its planes: what several frames of one moment are drawn from.

    join  how two lenses' pictures in it are brought together; None leaves it to their profile
    """

    def __init__(self, picture: Yuv, join: Join | None = None) -> None:
        self.picture, self.join = picture, join
        self.planes = (Pyramid(picture.y), Pyramid(picture.u), Pyramid(picture.v))
        self._parts: list[tuple[Pyramid, Pyramid, Pyramid]] | None = None

    def parts(self, lenses: Lenses) -> list[tuple[Pyramid, Pyramid, Pyramid]]:
        """The planes of each lens's own part, of a picture of fisheyes."""
        if self._parts is None:
            self._parts = [(Pyramid(y), Pyramid(u), Pyramid(v)) for y, u, v in parts_of(lenses, self.picture)]
        return self._parts
