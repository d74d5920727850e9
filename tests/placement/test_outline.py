"""Outlines against the rays that findings and pictures are made of: what a ray from far away meets lies inside them."""

import numpy as np
import pytest

from glintor.placement.carrier import parts_of, ready_carriers
from glintor.placement.outline import hull, outlines
from glintor.placement.person import add_person
from glintor.placement.solids import Parts, Solids


def inside(corners, points):
    """Whether points (n, 2) lie in a convex polygon (crossings, even and odd)."""
    a, b = corners, np.roll(corners, -1, axis=0)
    x, y = points[:, None, 0], points[:, None, 1]
    with np.errstate(divide="ignore", invalid="ignore"):
        crosses = ((a[:, 1] > y) != (b[:, 1] > y)) & (
            x < (b[:, 0] - a[:, 0]) * (y - a[:, 1]) / (b[:, 1] - a[:, 1]) + a[:, 0]
        )
    return crosses.sum(axis=1) % 2 == 1


def person():
    parts = Parts()
    add_person(parts, (0.3, 0.2, 0.0), 0.7, 0.4, stride=0.42)
    return [parts]


@pytest.mark.parametrize("way", ["above", "side"])
@pytest.mark.parametrize(
    "groups", [*(list(parts_of(ready_carriers()[name])) for name in ("boat", "cycle", "car", "wing")), person()]
)
def test_what_parallel_rays_meet_is_what_is_outlined(groups, way):
    found = outlines(groups, way)
    assert [o.near for o in found] == sorted(o.near for o in found)
    axes, depth, eye = ([0, 1], 2, 50.0) if way == "above" else ([0, 2], 1, -50.0)
    every = np.concatenate([o.corners for o in found])
    rng = np.random.default_rng(3)
    spots = rng.uniform(every.min(axis=0) - 0.1, every.max(axis=0) + 0.1, (4000, 2))
    origins, rays = np.zeros((4000, 3)), np.zeros((4000, 3))
    origins[:, axes], origins[:, depth] = spots, eye
    rays[:, depth] = -np.sign(eye)
    met = np.isfinite(Solids(groups).distance(origins, rays))
    drawn = np.any([inside(o.corners, spots) for o in found], axis=0)
    assert met.mean() > 0.02 and (met == drawn).mean() > 0.985  # circles are drawn with twenty corners


def test_a_hull_is_the_least_convex_ring():
    square = np.array([(0, 0), (1, 0), (1, 1), (0, 1), (0.5, 0.5), (0.5, 0.0)])
    assert sorted(map(tuple, hull(square))) == [(0, 0), (0, 1), (1, 0), (1, 1)]
