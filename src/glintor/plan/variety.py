"""Which kinds of angle a day has, and whether one of them carries it all."""

from functools import lru_cache

import numpy as np

from glintor.finding import Finding, Level
from glintor.placement.layout import Layout
from glintor.project.model import Project, Shot
from glintor.project.placed import layout_of
from glintor.project.site import Placement, Site

MOST = 0.5  # of the day in one kind of angle: boring (common practice, no source)
ANGLES = {
    "ahead": "from ahead",
    "behind": "from behind",
    "beside": "from beside",
    "above": "from above",
    "low": "from low down",
    "own": "first person",
}
_ABOVE_DEG, _LOW_M = 35.0, 0.7
_ANYWHERE = Site(name="", day="2026-06-21", zone="UTC", lat_deg=0.0, lon_deg=0.0)


def angle_of(plan: Layout) -> str:
    """The kind of angle of a placement, an id of `ANGLES`. The subject faces the way ahead."""
    if plan.wearer_apart:
        return "own"
    _, pitch = plan.chest_yaw_pitch_deg
    if pitch < -_ABOVE_DEG:
        return "above"
    if float(plan.camera[2] - plan.subject[2]) < _LOW_M:
        return "low"
    ahead, left = plan.camera[:2] - plan.subject[:2]
    off = np.degrees(np.arctan2(abs(left), ahead))
    return "ahead" if off < 60.0 else "behind" if off > 120.0 else "beside"


@lru_cache(maxsize=4096)
def _kind(placement: Placement) -> str:
    """`angle_of` a placement; neither hour nor site changes it."""
    return angle_of(layout_of(_ANYWHERE, placement, 720.0))


def shares(project: Project) -> dict[str, float]:
    """Share of the planned minutes of each kind of angle; empty without shots."""
    total: dict[str, float] = {}
    for shot in project.planned:
        kind = _kind(shot.placement)
        total[kind] = total.get(kind, 0.0) + (shot.film_s or shot.length_min)
    whole = sum(total.values())
    return {kind: minutes / whole for kind, minutes in sorted(total.items(), key=lambda kv: -kv[1])}


def variety_finding(project: Project, shot: Shot) -> Finding | None:
    """Whether one kind of angle carries more than half of the day, said at its shots."""
    found = shares(project)
    kind = _kind(shot.placement)
    if len(project.planned) < 2 or found[kind] <= MOST:
        return None
    missing = ", ".join(words for name, words in ANGLES.items() if name not in found)
    return Finding(
        desk="place", kind="variety", level=Level.CAUTION, title="One angle carries the day", value=100.0 * found[kind], limit=100.0 * MOST,
        unit="%", digits=0, reason=f"So much is seen {ANGLES[kind]}. Not yet used: {missing or 'none'}.",
        explained="Share of the film lengths wanted (of planned minutes where none is), by where the camera is to the subject. Common practice, no source.",
    )  # fmt: skip
