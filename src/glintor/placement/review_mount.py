"""What a placement does to mount and arm: load, sway, the tube it clamps on, holding, and room above and below."""

import math
from functools import partial

import numpy as np

from glintor.finding import Cure, Finding, Level
from glintor.placement.figures import goes_through, over_m, roofed
from glintor.placement.given import Given
from glintor.placement.holding import STRENGTH_NM, endurance_min, shoulder_moment_nm
from glintor.placement.inside import stuck_in, subject_in
from glintor.placement.layout import CLEARANCE_M, Layout
from glintor.placement.load import load_of
from glintor.placement.replan import Search, Trial, best_cure, leans, places

BELOW_M = 0.10  # judgement, no source: room over ground and water for bump and wave
SWAY_MM = 5.0  # of the tip in gusts (judgement, no source)
RIDER_M = 2.2  # over the ground, about as high as somebody rides or stands on a deck (judgement, no source)
SAFE = 0.6  # of a mount's moment that may be used (judgement, no source)
_made = partial(Finding, desk="place")


def _shorter(plan: Layout, most_m: float) -> Cure | None:
    fits = [s for s in plan.setup.sticks_m if s <= most_m]
    return Cure(f"Stick to {max(fits):g} m", "placement.stick_m", max(fits)) if fits else None


def _air_m_s(plan: Layout, given: Given) -> float:
    """Head wind and way together; what stands still has only the wind, what is under a roof that moves along none."""
    if plan.carrier.moves and roofed(plan):
        return 0.0
    way = (given.speed_m_s or plan.carrier.speed_m_s) if plan.carrier.moves else 0.0
    return given.wind_m_s + way


def _lean_deg(plan: Layout, given: Given) -> float:
    """How far the carrier leans here: the site's number for what usually leans so little, else its own; who walks does not."""
    if plan.carrier.step_hz > 0.0:
        return 0.0
    return max(given.lean_deg, plan.carrier.lean_deg)


def overhead_finding(plan: Layout, given: Given) -> Finding | None:
    """Room overhead: of what moves, for all that hangs over its way; of what stands still, for what is described over it."""
    if plan.carrier.on == "air" or (plan.carrier.moves and roofed(plan)):
        return None
    told = (given.lowest_m if plan.carrier.afloat else given.branches_m) if plan.carrier.moves else None
    described = over_m(plan)
    lowest = min((one for one in (told, described) if one is not None), default=None)
    over = "water" if plan.carrier.afloat else "ground"
    if lowest is None:
        return _overhead_unknown(plan, given, over) if plan.carrier.moves else None
    lean = _lean_deg(plan, given) if plan.carrier.moves else 0.0
    room = plan.clearance_m(lowest, lean)
    level = Level.STOP if room < 0 else Level.CAUTION if room < CLEARANCE_M else Level.NOTE
    if plan.carrier.step_hz > 0.0:
        level = min(level, Level.CAUTION)  # who walks can stop and lower it
    bridge = plan.carrier.afloat or lowest == described
    what = "bridge or roof" if lowest == described else "lowest obstacle"
    return _made(
        kind="clearance", level=level,
        title=("Bridge clearance" if bridge else "Branches overhead") if level is not Level.NOTE else f"Clear of the {'bridges' if bridge else 'branches'}",
        reason=f"Camera's top {lowest - room:.2f} m over the {over}, {what} {lowest:.2f} m. Bump and wave need some.",
        value=room, limit=CLEARANCE_M, unit="m", digits=2,
        cure=_shorter(plan, given.stick_m - (CLEARANCE_M - room)) if level > Level.NOTE else None,
        explained=f"Lowest obstacle - (height x cos(lean) + side x sin(lean)) with {lean:g}° of lean. Heights add up from the surface; "
        "the obstacle is the site's, or what the place is described with. The margin is a judgement.",
    )  # fmt: skip


def _overhead_unknown(plan: Layout, given: Given, over: str) -> Finding:
    """What nobody measured is no clearance."""
    top = -plan.clearance_m(0.0, _lean_deg(plan, given))
    high = top > RIDER_M
    return _made(
        kind="clearance",
        level=Level.CAUTION if high else Level.NOTE,
        title="Overhead not known",
        value=top,
        unit="m",
        digits=2,
        reason=f"Camera's top {top:.2f} m over the {over}; nobody said yet what hangs over the way. Measure it, and tell the site (Ctrl+T).",
        explained=f"Height of the camera's top. Higher than {RIDER_M:g} m it stands above a rider, where branches and bridges are (judgement).",
    )


def through_finding(plan: Layout, search: Search | None = None) -> Finding | None:
    """A camera, stick or foot that would have to be inside the carrier or the place, or a stick that goes through the carrier."""
    stuck = stuck_in(plan)
    if stuck is None and not goes_through(plan):
        return None

    def judge(other: Layout) -> tuple[Level, float]:
        inside = stuck_in(other)
        bad = inside is not None or goes_through(other)
        return (Level.STOP, 1.0 + (inside.deep_m if inside is not None else 0.0)) if bad else (Level.NOTE, 0.0)

    trials = [
        *(Trial(f"Stick to {s:g} m", "stick_m", s) for s in plan.setup.sticks_m if s < plan.stick_m),
        *leans(plan),
        *places(plan),
    ]
    cure = best_cure(trials, search, judge, judge(plan), "through") if search is not None else None
    if stuck is not None:
        return _made(
            kind="through",
            level=Level.STOP,
            title=f"{stuck.what} inside {stuck.where}",
            value=stuck.deep_m,
            limit=0.0,
            unit="m",
            digits=2,
            reason=f"{stuck.what} would be {stuck.deep_m:.2f} m deep in {stuck.where}.",
            cure=cure,
            explained="Distances from lens, stick and foot to the surfaces of carrier and place; below zero is inside.",
        )
    return _made(
        kind="through", level=Level.STOP, title="No room for the stick", cure=cure,
        reason=f"Between its foot and the camera stands a part of the {plan.carrier.words}.",
        explained="A straight line from foot to camera against the solids of the carrier.",
    )  # fmt: skip


def subject_inside_finding(plan: Layout) -> Finding | None:
    """A subject that would have to stand in a wall, or under the ground: nothing else that is said of it holds."""
    stuck = subject_in(plan)
    if stuck is None:
        return None
    return _made(
        kind="subject inside", level=Level.STOP, title=f"{stuck.what} inside {stuck.where}", value=stuck.deep_m, limit=0.0, unit="m", digits=2,
        reason=f"It would be {stuck.deep_m:.2f} m deep in {stuck.where}. Move it on the plan, or raise its feet: until then no finding about it holds.",
        explained="Distances from points over its body to walls, roofs, banks and the ground as described, as the shot begins; not along its way.",
    )  # fmt: skip


def below_finding(plan: Layout, given: Given) -> Finding | None:
    """Room under a low camera when its carrier leans; None for a camera well up."""
    lean = _lean_deg(plan, given) if plan.carrier.moves else 0.0
    room = plan.room_below_m(lean)
    if room > 0.8:
        return None
    level = Level.STOP if room < 0 else Level.CAUTION if room < BELOW_M else Level.NOTE
    shorter = _shorter(plan, given.stick_m - (BELOW_M - room)) if plan.setup.hangs and level > Level.NOTE else None
    wet = plan.over_water
    under = "water" if wet else "ground"
    return _made(
        kind="below", level=level, title=f"Touches the {under}" if level is Level.STOP else f"Close to the {under}" if level else f"Clear of the {under}",
        value=room, limit=BELOW_M, unit="m", digits=2, cure=shorter,
        reason=f"Left under the camera when it leans by {lean:g}°." + (" Spray stays on a lens: a guard, and wipe it." if wet else ""),
        explained="Height x cos(lean) - side x sin(lean), less half the camera. The margin is a judgement.",
    )  # fmt: skip


def load_finding(plan: Layout, given: Given) -> Finding | None:
    """Whether wind and a bump turn the mount or throw it over."""
    limit = given.torque_nm or plan.setup.torque_nm
    if given.stick_m <= 0.0 or math.isinf(limit):
        return None
    bump_m_s2, air = plan.carrier.bump_m_s2 if plan.carrier.moves else 0.0, _air_m_s(plan, given)

    def moments(length_m: float) -> tuple[float, float]:
        load = load_of(given.sections(length_m), air, bump_m_s2=bump_m_s2, tip_kg=given.camera_kg)
        return load.wind_nm, load.bump_nm

    wind, bump = moments(given.stick_m)
    if given.load_kg and given.camera_kg > given.load_kg:
        return _made(
            kind="load", level=Level.STOP, value=given.camera_kg, limit=given.load_kg, unit="kg", digits=2, title="Camera too heavy for the mount",
            reason="It carries less than the camera weighs: use another mount.", explained="Masses from the kit.",
        )  # fmt: skip
    level = Level.STOP if wind + bump > limit else Level.CAUTION if wind + bump > SAFE * limit else Level.NOTE
    shorter = [s for s in plan.setup.sticks_m if s < given.stick_m and sum(moments(s)) <= SAFE * limit]
    return _made(
        kind="load", level=level, value=wind + bump, limit=limit, unit="N m", digits=2,
        title="Mount holds" if level is Level.NOTE else "Wind and bumps may turn the mount",
        reason=f"Air at {air:.1f} m/s gives {wind:.2f} N m" + (f", a bump {bump:.2f}" if bump_m_s2 else "") + f"; {plan.setup.words} stands {limit:g}.",
        cure=Cure(f"Stick to {max(shorter):g} m", "placement.stick_m", max(shorter)) if level > Level.NOTE and shorter else None,
        explained="Air load 1/2 rho Cd A v^2 on camera and tubes x their heights, at wind + way; the carrier's bumps x masses x heights. "
        "rho 1.2 kg/m3, Cd 1.1 and 1.2 (handbook); the mount's moment is the kit's.",
    )  # fmt: skip


def sway_finding(plan: Layout, given: Given) -> Finding | None:
    """How far the tip sways in gusts, how fast, and what pulling in the last section brings."""
    if given.stick_m <= 0.0 or plan.setup.spins:
        return None
    sections = given.sections(given.stick_m)
    load = load_of(sections, _air_m_s(plan, given), tip_kg=given.camera_kg)
    level = Level.CAUTION if load.sway_mm > SWAY_MM else Level.NOTE
    shorter = _shorter(plan, given.stick_m - sections[-1].length_m) if level > Level.NOTE else None
    return _made(
        kind="sway", level=level, value=load.sway_mm, limit=SWAY_MM, unit="mm", digits=1, cure=shorter,
        title="Stick sways" if level is Level.CAUTION else "Stick steady enough",
        reason=f"{load.sway_hz:.1f} times a second in gusts. Without its thinnest section {load.sway_without_last_mm:.1f} mm.",
        explained=f"Beam of {len(sections)} tubes held at its foot: give = sum of the integrals of (L - x)^2 / (E I), frequency by Rayleigh "
        "with the camera on top (Euler-Bernoulli; Blevins, from memory). Gusts of 40 % of the wind's force; the limit is a judgement.",
    )  # fmt: skip


def tube_finding(plan: Layout) -> Finding | None:
    """Whether the clamp takes the tubes of its carrier; where nobody knows them, what to look for."""
    if plan.setup.tube_mm is None:
        return None
    low, high = plan.setup.tube_mm
    on = next((tube for tube in plan.carrier.tubes if tube.id == plan.setup.on), None)
    tube, jaw = 0.0 if on is None else on.diameter_mm, f"It takes straight, unbent tubes of {low:.0f} to {high:.0f} mm."
    explained = "Jaw of the generic clamp against the tube of the generic carrier (common practice, no source)."
    if tube and not low <= tube <= high:
        return _made(
            kind="tube", level=Level.STOP, title="Tube too thin for the clamp" if tube < low else "Tube too thick for the clamp", value=tube,
            limit=low if tube < low else high, unit="mm", digits=0, reason=f"{jaw} Wrap it in rubber, or use another clamp.", explained=explained,
        )  # fmt: skip
    return _made(
        kind="tube", level=Level.NOTE, title="Tube for the clamp", value=tube or low, unit="mm", digits=0,
        reason=f"{jaw} A bent one turns in the jaw: twist it to test.", explained=explained,
    )  # fmt: skip


def holding_finding(plan: Layout, given: Given) -> Finding | None:
    """How long the arm holds it out, against the length of the shot. None where nobody holds it."""
    if plan.setup.hand is None:
        return None
    out = float(np.linalg.norm(plan.camera[:2] - plan.foot[:2]) + 0.3)  # the hand is not at the shoulder
    share = shoulder_moment_nm(given.stick_m, out, tip_kg=given.camera_kg) / STRENGTH_NM
    minutes = min(endurance_min(share), plan.setup.hold_min)
    explained = (
        f"Moment of arm, stick and camera about the shoulder is {share:.0%} of {STRENGTH_NM:g} N m (an average adult, judgement); "
        "and never longer than it is usually held (common practice). T = -1.5 + 2.1/f - 0.6/f^2 + 0.1/f^3 min. Source: Rohmert (1960), from memory."
    )
    if math.isinf(minutes):
        return _made(
            kind="holding", level=Level.NOTE, title="Easy to hold", explained=explained,
            reason=f"The camera is {out:.1f} m out from the shoulder; less than 15 % of an average arm's strength.",
        )  # fmt: skip
    tires = minutes < given.length_min
    return _made(
        kind="holding", level=Level.CAUTION if tires else Level.NOTE, value=minutes, unit="min", title="Arm tires" if tires else "Arm lasts",
        reason=f"Held {out:.1f} m out without rest; the shot is planned over {given.length_min:g} min. Take it in pieces, or hold it nearer.",
        explained=explained,
    )  # fmt: skip
