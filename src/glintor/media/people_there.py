"""The people that a moment's picture shows, all round: by the shipped detector, on upright patches that overlap."""

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.media.footage import Footage
from glintor.pixels.appearance import Patch
from glintor.pixels.people import SIDE_PX, people_in
from glintor.pixels.reproject import Filter, Reprojector
from glintor.sphere.equirect import direction, lonlat_deg
from glintor.sphere.turn import TurnTrack
from glintor.types import Array

_PATCHES = ((80.0, 0.0, 8), (80.0, -38.0, 6), (38.0, -4.0, 14))  # fov, height, how many round: near, below, far
_EDGE = 0.02  # of the side: what is cut there is whole in the patch beside it
_LEAST = 0.45  # of being a person
_SAME = 0.45  # of its height: nearer than that is the same one
_THUMB_PX = 96


class Person(Struct, frozen=True, eq=False):
    """Somebody: yaw and pitch in the picture, height in degrees, how sure, 0 to 1, and a small picture (H, W, 3) BGR."""

    yaw_deg: float
    pitch_deg: float
    size_deg: float
    sure: float
    picture: NDArray[np.uint8]


def people_there(footage: Footage, time_s: float, turns: TurnTrack | None = None) -> list[Person]:
    """Who is in the picture at a moment, the surest first. turns: how the picture lies, so that patches are upright. Raises ClipError."""
    small = footage.draft() or footage
    turn = np.eye(3) if turns is None else turns.at(time_s)
    with small.reader() as reader:
        sphere = small.sphere(reader.at(time_s))
    drawer = Reprojector((SIDE_PX, SIDE_PX), Filter.FAST, shows=small.shows)
    found: list[tuple[Array, Person]] = []
    for fov, height, count in _PATCHES:
        for n in range(count):
            patch = Patch(drawer, sphere, direction(360.0 * n / count, height), fov, turn)
            for box in people_in(patch.bgr, _LEAST):
                edge = _EDGE * patch.side
                if (
                    box.x < edge
                    or box.x + box.w > patch.side - edge
                    or (box.y < edge and box.y + box.h > patch.side - edge)
                ):
                    continue
                look = turn.T @ patch.look_at(*box.middle)
                yaw, pitch = (float(v) for v in lonlat_deg(look))
                rows, columns = (
                    slice(max(int(box.y), 0), int(box.y + box.h)),
                    slice(max(int(box.x), 0), int(box.x + box.w)),
                )
                picture = np.ascontiguousarray(patch.bgr[rows, columns])
                if min(picture.shape[:2]) > 2:
                    found.append((look, Person(yaw, pitch, patch.deg_of(box.h), float(box.score), picture)))
    found.sort(key=lambda one: -one[1].sure)
    kept: list[tuple[Array, Person]] = []
    for look, person in found:
        apart = [np.degrees(np.arccos(np.clip(float(look @ other), -1.0, 1.0))) for other, _ in kept]
        near = [off < _SAME * max(person.size_deg, one.size_deg) for off, (_, one) in zip(apart, kept, strict=True)]
        if not any(near):
            kept.append((look, person))
    return [person for _, person in kept]
