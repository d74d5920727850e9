"""A wished look, and the placements that come nearest to it, by search over what each set-up can do.

The score is a sum of squares, each with the size that is worth one point (judgement, no source):
the side from which the subject is seen (30 degrees), the height of view (15 degrees), the subject's share of the frame's
height (0.15), head against feet (0.3), and the sway of the tip (10 mm). Less is better. A placement with a stop-level
finding is never proposed.
"""

from collections.abc import Callable, Iterator

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from glintor.finding import Level
from glintor.placement.carrier import Carrier
from glintor.placement.fitting import begins_at, fit, possible
from glintor.placement.given import Given
from glintor.placement.layout import START_BEND, Layout
from glintor.placement.load import load_of
from glintor.placement.mounts import Setup
from glintor.placement.reach import along_spans, held_in_reach
from glintor.placement.review import quick_findings
from glintor.sphere import lens

# Side in degrees from the subject's way ahead (None for any) and height of view in degrees over the chest.
LOOKS: dict[str, tuple[str, float | None, float]] = {
    "ahead": ("third person from ahead", 0.0, 12.0),
    "quarter": ("three-quarter from ahead", 40.0, 15.0),
    "beside": ("from beside", 90.0, 8.0),
    "behind": ("follow from behind", 180.0, 18.0),
    "above": ("from above", None, 55.0),
    "low": ("from low down", None, -18.0),
}
_PER_POINT = {"side": 30.0, "height": 15.0, "size": 0.15, "shape": 0.3, "sway": 10.0}
_COSTS = {
    "side": "seen from another side",
    "height": "at another height",
    "size": "another size in the frame",
    "shape": "head and feet out of proportion",
    "sway": "it sways",
}
_STEP_M = 0.3  # between places along a tube or a surface
_TRIED = 400  # of the best of each set-up that are looked at for stops


class Wish(Struct, frozen=True, kw_only=True):
    """look: an id of `LOOKS`; share of the frame's height that the person is to fill; the frame's height in degrees."""

    look: str
    share: float = 0.5
    frame_high_deg: float


class Candidate(Struct, frozen=True):
    """A placement's free values."""

    setup: Setup
    stick_m: float
    ahead_m: float
    left_m: float
    lean_deg: float


class Proposal(Struct, frozen=True):
    """A candidate, the turn that faces a lens to the subject, its points by kind, and their sum."""

    candidate: Candidate
    heading_deg: float
    points: dict[str, float]

    @property
    def score(self) -> float:
        return sum(self.points.values())

    @property
    def trade_off(self) -> str:
        """What costs it most, in words."""
        worst = max(self.points, key=lambda kind: self.points[kind])
        return _COSTS[worst] if self.points[worst] > 0.25 else "as wished"


Planner = Callable[[Candidate, float], Layout]  # a layout from a candidate and the front lens's heading


def candidates(setup: Setup, carrier: Carrier, subject: tuple[float, float]) -> Iterator[Candidate]:
    """What a set-up can do, on a grid: every stick, and where hand, rail or foot allow it."""
    for stick in setup.sticks_m:
        if setup.fixed:
            yield Candidate(setup, stick, *begins_at(setup, carrier), 0.0)
        elif setup.hand is not None and setup.grip is not None:
            for turn in np.radians(np.arange(0.0, 360.0, 10.0)):
                for out in (0.15, 0.35, 0.55, 0.75, 0.95):
                    place = (
                        setup.grip[0] + out * stick * float(np.cos(turn)),
                        setup.grip[1] + out * stick * float(np.sin(turn)),
                    )
                    yield Candidate(setup, stick, *held_in_reach(setup, stick, *place, 0.0), 0.0)
        elif not setup.spans:
            for turn in np.radians(np.arange(0.0, 360.0, 10.0)):
                for out in np.arange(0.8, 6.1, 0.4).tolist():
                    ahead, left = subject[0] + out * float(np.cos(turn)), subject[1] + out * float(np.sin(turn))
                    yield Candidate(setup, stick, ahead, left, 0.0)
        else:
            for ahead, left in along_spans(setup, _STEP_M):
                for lean in (-20.0, 0.0, 20.0):
                    yield Candidate(setup, stick, ahead, left, lean)


def share_of_frame(plan: Layout, frame_high_deg: float) -> float:
    """Share of the frame's height that the subject fills, through the lens: a frame so high, centred on the chest."""
    middle = plan.start_view.pitch_deg
    ends = [plan.yaw_pitch_deg(point)[1] - middle for point in (plan.head, plan.subject)]
    most = lens.edge_deg(START_BEND) / 2.0 - 1.0
    high, low = lens.radius([min(max(end, -most), most) for end in ends], START_BEND)
    return float((high - low) / (2.0 * lens.radius(frame_high_deg / 2.0, START_BEND)))


def points_of(plan: Layout, wish: Wish, sway_mm: float) -> dict[str, float]:
    """The score's parts."""
    _, side, height = LOOKS[wish.look]
    ahead, left = plan.camera[:2] - plan.subject[:2]
    off = 0.0 if side is None else abs(float(np.degrees(np.arctan2(abs(left), ahead))) - side)
    misses = {
        "side": off,
        "height": -plan.chest_yaw_pitch_deg[1] - height,
        "size": share_of_frame(plan, wish.frame_high_deg) - wish.share,
        "shape": plan.head_to_feet - 1.0,
        "sway": sway_mm,
    }
    return {kind: (miss / _PER_POINT[kind]) ** 2 for kind, miss in misses.items()}


def propose(
    setup: Setup, carrier: Carrier, wish: Wish, given: Given, planner: Planner, subject: tuple[float, float]
) -> Proposal | None:
    """The best placement of one set-up on its grid without a stop-level finding; None where every one has one."""
    sways = {
        stick: 0.0 if stick <= 0.0 else load_of(given.sections(stick), given.wind_m_s, tip_kg=given.camera_kg).sway_mm
        for stick in setup.sticks_m
    }
    found = []
    for candidate in candidates(setup, carrier, subject):
        facing = round(planner(candidate, 0.0).chest_yaw_pitch_deg[0], 1)
        plan = planner(candidate, facing)  # a leaning stick swings with the heading
        found.append(Proposal(candidate, facing, points_of(plan, wish, sways[candidate.stick_m])))
    for proposal in sorted(found, key=lambda p: p.score)[:_TRIED]:
        if not stops(proposal, given, planner):
            return proposal
    return None


def stops(proposal: Proposal, given: Given, planner: Planner) -> bool:
    """Whether a placement has a stop-level finding."""
    plan = planner(proposal.candidate, proposal.heading_deg)
    now = replace(given, stick_m=proposal.candidate.stick_m, tilt_deg=0.0)
    return any(finding.level is Level.STOP for finding in quick_findings(plan, now))


def proposals(
    carrier: Carrier, wish: Wish, given: Given, planner: Planner, subject: tuple[float, float]
) -> list[Proposal]:
    """The best of each set-up that a carrier takes, best first."""
    fitted = [fit(setup, carrier) for setup, why in possible(carrier) if not why and not setup.spins]
    found = [propose(setup, carrier, wish, given, planner, subject) for setup in fitted]
    return sorted((p for p in found if p is not None), key=lambda p: p.score)
