"""What speaks for one way to make a ready move: how long it wants to be, and for how long a side looks at the seam."""

from collections.abc import Callable

import numpy as np

from glintor.reframing.course import NOTHING, Targets, shared
from glintor.reframing.cut import Cut
from glintor.reframing.motion import speed_deg_s
from glintor.reframing.moves import move_of
from glintor.reframing.review import QUICK_TURN_S
from glintor.reframing.review_motion import runs
from glintor.sphere.equirect import direction


def wanted_s(cut: Cut, move_id: str, pan_share: float, targets: Targets = NOTHING) -> float | None:
    """How long a move wants to be so that things can be seen in it; None where it is long enough, or is not meant to be seen."""
    move = move_of(cut, move_id)
    if move is None:
        return None
    times = np.linspace(move.start_s, move.end_s, 120)
    course = shared(cut, targets)
    limit = np.minimum(course.values(times)[:, 3], 170.0) * pan_share
    over = speed_deg_s(course, times) / limit
    seen = [over[(times >= a) & (times <= b)].max() for a, b in runs(over > 1.0, times, QUICK_TURN_S)]
    return (move.end_s - move.start_s) * float(max(seen)) if seen else None


def seam_cost(axis: tuple[float, float, float], band_deg: float) -> Callable[[Cut], float]:
    """A cost of cuts: for how long the middle of the view lies on the seam."""

    def cost(cut: Cut) -> float:
        values = shared(cut).values(np.linspace(cut.begins_s, cut.ends_s, 240))
        off = np.degrees(np.arcsin(np.minimum(np.abs(direction(values[:, 0], values[:, 1]) @ np.array(axis)), 1.0)))
        return float((off < band_deg).mean())

    return cost
