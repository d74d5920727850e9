"""What can hurt someone, get lost or is not allowed. Local law, site rules and qualified people decide."""

from functools import partial

import numpy as np

from glintor.finding import Cure, Finding, Level
from glintor.placement import spin
from glintor.placement.given import Given
from glintor.placement.layout import CAMERA_HALF_M, Layout
from glintor.placement.reach import out_of_reach_m

REACH_SLACK_M = 0.03
POWER_LINE_M = 6.0  # default warning, legal limits are local (judgement, no source)
TETHER_M = 2.0  # over ground, from which a fall hurts (judgement, no source)
HELMET_KG = 0.15  # extra mass that needs the strap tighter (judgement, no source)
SPIN_PER_S = 1.5
_made = partial(Finding, desk="place")


def reach_finding(plan: Layout) -> Finding | None:
    """A camera where its set-up cannot hold it: out of the hand's reach, or its foot off what it stands on."""
    if plan.setup.why_not:
        return _made(
            kind="reach", level=Level.STOP, title="Cannot be fixed there", reason=f"{plan.setup.why_not} Choose another set-up or carrier.",
            explained="What a set-up goes on, against the tubes, surfaces and hands that the carrier has.",
        )  # fmt: skip
    lean = plan.foot - plan.camera
    aside = float(np.hypot(lean[0], lean[1]))
    if plan.setup.hand is not None:
        far = aside - 0.98 * plan.stick_m
        what = f"The hand is {aside:.1f} m away, the stick {plan.stick_m:g} m long."
    else:
        far = out_of_reach_m(plan.setup, (float(plan.foot[0]), float(plan.foot[1]), float(plan.foot[2])))
        what = "Its foot has nothing to stand on or hold on to there."
    if far <= REACH_SLACK_M:
        return None
    return _made(
        kind="reach", level=Level.STOP, title="Cannot be held there", value=far, limit=0.0, unit="m", digits=2, reason=what,
        cure=Cure("Bring it in reach", "placement.reach", 0.0),
        explained="How far the camera, or the foot of its stick, is from where this set-up can hold it.",
    )  # fmt: skip


def water_finding(plan: Layout, given: Given) -> Finding | None:
    """A boat where the place has no water."""
    if not plan.carrier.afloat or given.wet is not False:
        return None
    return _made(
        kind="water", level=Level.CAUTION, title="No water there", reason=f"The place as described has none for the {plan.carrier.words}: "
        "choose another place (F6), or say where its water is.",
        explained="What the carrier goes on against the ground and the water of the place's description.",
    )  # fmt: skip


def power_finding(given: Given) -> Finding | None:
    """The nearest power line that the site names."""
    if given.power_line_m <= 0.0:
        return None
    near = given.power_line_m - given.stick_m
    return _made(
        kind="power", level=Level.STOP if near < 1.0 else Level.CAUTION if near < POWER_LINE_M else Level.NOTE, title="Power line near",
        value=near, limit=POWER_LINE_M, unit="m", digits=1,
        reason="Left between a raised stick and the line. Legal distances are local: ask; when in doubt, go elsewhere.",
        explained="Distance of the line from the camera's place, less the stick. The warning below 6 m is a default, not a legal limit.",
    )  # fmt: skip


def spin_finding(plan: Layout, given: Given) -> Finding | None:
    """The clear circle and the pull on the cord of a spun camera."""
    if not plan.setup.spins:
        return None
    radius = given.stick_m + CAMERA_HALF_M
    pull = spin.pull_n(given.camera_kg, SPIN_PER_S, radius)
    return _made(
        kind="spin", level=Level.CAUTION, title="Clear circle", value=radius + spin.CLEAR_MARGIN_M, unit="m", digits=1,
        reason=f"Nobody within this of you. At {SPIN_PER_S:g} turns a second the cord is pulled by {pull:.0f} N: "
        f"it must be rated for {spin.CORD_FACTOR * pull:.0f} N. "
        f"The camera passes at {spin.rim_speed_m_s(SPIN_PER_S, radius):.0f} m/s.",
        explained=f"Cord + {spin.CLEAR_MARGIN_M:g} m; pull = m (2 pi n)^2 r with {given.camera_kg:g} kg, times {spin.CORD_FACTOR:g}. "
        "Source: circular motion; the factor is common practice.",
    )  # fmt: skip


def tether_finding(plan: Layout, given: Given) -> Finding | None:
    """Whether a dropped camera would be lost, and whether the kit has a tether for it."""
    if plan.setup.hand is not None and not plan.setup.spins:
        return None
    over_water = plan.over_water
    high = float(plan.camera[2]) > TETHER_M
    if not (over_water or high or "tether" in plan.setup.needs):
        return None
    has = "tether" in given.kit
    why = "over water" if over_water else "high up" if high else "on something that moves"
    return _made(
        kind="tether", level=Level.NOTE if has else Level.CAUTION, title="Tether it" if has else "No tether in the kit",
        reason=f"The camera hangs {why}: tie it so that, dropped, it fouls no wheel, propeller or rope.",
        explained="Over water, more than 2 m up or on a vehicle (judgement); whether there is one is the kit's.",
    )  # fmt: skip


def body_findings(plan: Layout, given: Given) -> list[Finding]:
    """Helmet, guard and hands."""
    out = []
    if "helmet" in plan.setup.needs:
        out.append(
            _made(
                kind="helmet", level=Level.CAUTION, title="Mass on a helmet", value=1000.0 * given.camera_kg, limit=1000.0 * HELMET_KG,
                unit="g", digits=0, reason="The neck carries it, the strap needs to be tighter, and it can change how the helmet protects.",
                explained="Mass of the camera from the kit. The limit is a judgement; ask who knows the helmet.",
            )
        )  # fmt: skip
    if "guard" in plan.setup.needs:
        has = "guard" in given.kit
        out.append(
            _made(
                kind="guard", level=Level.NOTE, title="Guard on" if has else "No lens guard in the kit",
                reason="Grit and spray reach the lenses here. A guard costs sharpness and needs its own stitch setting: write it down."
                if has else "Grit and spray reach the lenses here: a scratch stays in every picture.",
                explained="Low or wet set-ups ask for a guard (common practice, no source).",
            )
        )  # fmt: skip
    if plan.carrier.busy or plan.setup.hands >= 2:
        out.append(
            _made(
                kind="hands", level=Level.NOTE, title="Both hands busy",
                reason="Start the camera before, stop it after; never work it under way."
                if plan.carrier.busy
                else "Two hands on the stick: start by timer or voice.",
                explained="Steering, riding and long sticks need both hands (common practice; local law decides).",
            )
        )  # fmt: skip
    return out


def permission_finding(given: Given) -> Finding | None:
    """Whether somebody has to be asked first."""
    if given.permission != "unknown":
        return None
    return _made(
        kind="permission", level=Level.CAUTION, title="Permission not settled",
        reason="Some grounds forbid poles or filming, and people want to be asked. Settle it in the site (Ctrl+T).",
        explained="From the site's sheet. Local law and the owner decide.",
    )  # fmt: skip


def caution_finding(plan: Layout) -> Finding:
    """What to mind with this set-up."""
    return _made(
        kind="safety", level=Level.NOTE, title="Mind", reason=f"{plan.setup.caution} Local rules and site staff decide.",
        explained="The usual cautions of this set-up (common practice, no source).",
    )  # fmt: skip
