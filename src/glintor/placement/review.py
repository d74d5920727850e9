"""What is wrong with a placement, by how much, and what cures it."""

import math
from collections.abc import Callable
from functools import partial

import numpy as np

from glintor.finding import Cure, Finding, Level
from glintor.placement import seam
from glintor.placement.holding import STRENGTH_NM, endurance_min, shoulder_moment_nm
from glintor.placement.layout import START_FRAME, Layout
from glintor.placement.load import BUMP_M_S2, load_of
from glintor.placement.stick import generic_stick
from glintor.sphere.equirect import direction
from glintor.sphere.view import in_frame

CLEARANCE_M = 0.30  # judgement, no source: hands' breadth for bump and wave
SWAY_MM = 5.0  # of the tip in gusts (judgement, no source)
BLOATED_M = 0.6  # made practice, no source: about an arm's length


def clock(minute: float) -> str:
    """Minutes after midnight as 09:20."""
    whole = int(round(minute)) % 1440
    return f"{whole // 60:02d}:{whole % 60:02d}"


def seam_finding(plan: Layout, *, gap_m: float, overlap_deg: float, width_px: int) -> Finding:
    """How far the seam would tear the subject, and whether the subject is on it."""
    yaw, pitch = plan.chest_yaw_pitch_deg
    off = seam.seam_angle_deg(yaw, pitch)
    worst = seam.seam_offset_px(plan.subject_m, gap_m=gap_m, width_px=width_px)
    band = seam.seam_band_deg(plan.subject_m, gap_m=gap_m, width_px=width_px, overlap_deg=overlap_deg)
    near = seam.near_limit_m(gap_m=gap_m, width_px=width_px)
    made = partial(Finding, desk="place", kind="seam", value=worst, limit=seam.SEAM_LIMIT_PX, unit="px", digits=0)
    if off < band:
        facing = plan.heading_deg + yaw if abs(yaw) < 180 else plan.heading_deg
        turned = (facing + 180.0) % 360.0 - 180.0
        return made(
            level=Level.STOP,
            title="Subject on the seam",
            reason=f"At {plan.subject_m:.1f} m, {off:.0f}° off the seam, the two lenses disagree. Nearer than {near:.1f} m shows.",
            cure=Cure("Face a lens to the subject", "placement.heading_deg", round(turned, 1)),
        )
    return made(
        level=Level.NOTE,
        title="Seam clear of the subject" if worst > seam.SEAM_LIMIT_PX else "Seam harmless here",
        reason=f"Subject {off:.0f}° off the seam; on it, {plan.subject_m:.1f} m away, it would tear by this much.",
    )


def tilt_finding(plan: Layout, *, gap_m: float, stick_m: float, tilt_deg: float) -> Finding | None:
    """Whether the stick still hides between the lenses."""
    if stick_m <= 0:
        return None
    half = plan.setup.half_width_m
    limit = seam.hidden_tilt_deg(stick_m, gap_m=gap_m, half_thickness_m=half)
    made = partial(Finding, desk="place", kind="tilt", value=abs(tilt_deg), limit=limit, unit="°", digits=1)
    if abs(tilt_deg) <= limit:
        return made(
            level=Level.NOTE, title="Stick hidden", reason=f"All {stick_m:.1f} m stand in the gap between the lenses."
        )
    shown = stick_m - seam.hidden_length_m(tilt_deg, gap_m=gap_m, half_thickness_m=half)
    return made(
        level=Level.CAUTION,
        title="Stick shows",
        reason=f"It leaves the camera's line: the lowest {shown:.2f} m of {stick_m:.1f} m come out of the gap.",
        cure=Cure("Straighten the joint", "placement.tilt_deg", 0.0),
    )


def shadow_finding(
    plan: Layout, start_min: float, layout_at: Callable[[float], Layout], sunset_min: float
) -> Finding | None:
    """Whether the stick's shadow is in the first 16:9 frame, and when it leaves. None with the sun down."""
    if plan.sun.elevation_deg < 1.0:
        return None
    view = plan.start_view
    seen = plan.shadow_in_frame_m(view, START_FRAME)
    made = partial(Finding, desk="place", kind="shadow", value=seen, limit=0.0, unit="m")
    if seen < 0.05:
        reach = float(np.linalg.norm(plan.stick_shadow()[-1] - plan.foot))
        return made(
            level=Level.NOTE,
            title="Shadow out of 16:9",
            reason=f"The camera's shadow, {reach:.1f} m long, falls outside the first frame.",
        )
    for minute in np.arange(start_min + 5, sunset_min, 5.0):
        later = layout_at(float(minute))
        if later.sun.elevation_deg > 1.0 and later.shadow_in_frame_m(view, START_FRAME) < 0.05:
            when = f"It leaves the frame at {clock(minute)}."
            cure = Cure(f"Move the shot to {clock(minute)}", "start_min", float(minute))
            break
    else:
        when, cure = "It stays in the frame until sunset.", None
    return made(
        level=Level.CAUTION,
        title="Shadow in 16:9",
        reason=f"Nothing removes the shadow of stick and camera. {when}",
        cure=cure,
    )


def clearance_finding(plan: Layout, *, lowest_m: float, sticks_m: tuple[float, ...], stick_m: float) -> Finding | None:
    """Room overhead for what moves along the route; None for what stands still."""
    if plan.carrier.id != "boat":
        return None
    room = plan.clearance_m(lowest_m)
    shorter = [s for s in sticks_m if s < stick_m and room + (stick_m - s) >= CLEARANCE_M]
    level = Level.STOP if room < 0 else Level.CAUTION if room < CLEARANCE_M else Level.NOTE
    return Finding(
        desk="place",
        kind="clearance",
        level=level,
        title="Bridge clearance" if level is not Level.NOTE else "Clear of the bridges",
        reason=f"Camera's top {lowest_m - room:.2f} m over the water, lowest obstacle {lowest_m:.2f} m. Bump and wave need some.",
        value=room,
        limit=CLEARANCE_M,
        unit="m",
        digits=2,
        cure=Cure(f"Stick to {max(shorter):g} m", "placement.stick_m", max(shorter))
        if level > Level.NOTE and shorter
        else None,
    )


def framing_findings(plan: Layout) -> list[Finding]:
    """Nearness, the clamp's width and the sun in the first frame."""
    out = []
    if plan.subject_m < BLOATED_M:
        out.append(
            Finding(
                desk="place", kind="near", level=Level.CAUTION, title="Subject very near", value=plan.subject_m, limit=BLOATED_M,
                unit="m", digits=2, reason="What is nearer than an arm's length looks bloated.",
            )
        )  # fmt: skip
    sun_vector = direction(*plan.sun_yaw_pitch_deg)
    if plan.sun.elevation_deg > 0 and bool(in_frame(plan.start_view, START_FRAME, sun_vector)):
        out.append(
            Finding(
                desk="place", kind="sun", level=Level.NOTE, title="Sun in the first frame", value=plan.sun.elevation_deg, unit="°",
                digits=0, reason="The subject stands against the light; faces go dark.",
            )
        )  # fmt: skip
    return out


def load_finding(plan: Layout, *, stick_m: float, wind_m_s: float) -> Finding | None:
    """Whether wind and a bump turn the mount or throw it over."""
    if stick_m <= 0.0 or math.isinf(plan.setup.torque_nm):
        return None
    moving, air = plan.carrier.speed_m_s > 0.0, wind_m_s + plan.carrier.speed_m_s

    def moments(length_m: float) -> tuple[float, float]:
        load = load_of(generic_stick(length_m), air, bump_m_s2=BUMP_M_S2 if moving else 0.0)
        return load.wind_nm, load.bump_nm

    wind, bump = moments(stick_m)
    limit = plan.setup.torque_nm
    level = Level.STOP if wind + bump > limit else Level.CAUTION if wind + bump > 0.6 * limit else Level.NOTE
    shorter = [s for s in plan.setup.sticks_m if s < stick_m and sum(moments(s)) <= 0.6 * limit]
    return Finding(
        desk="place", kind="load", level=level, value=wind + bump, limit=limit, unit="N m", digits=2,
        title="Mount holds" if level is Level.NOTE else "Wind and bumps may turn the mount",
        reason=f"Air at {air:.1f} m/s gives {wind:.2f} N m"
        + (f", a bump {bump:.2f}" if moving else "") + f"; {plan.setup.words} stands {limit:g}.",
        cure=Cure(f"Stick to {max(shorter):g} m", "placement.stick_m", max(shorter)) if level > Level.NOTE and shorter else None,
    )  # fmt: skip


def sway_finding(plan: Layout, *, stick_m: float, wind_m_s: float) -> Finding | None:
    """How far the tip sways in gusts, how fast, and what pulling in the last section brings."""
    if stick_m <= 0.0:
        return None
    load = load_of(generic_stick(stick_m), wind_m_s + plan.carrier.speed_m_s)
    level = Level.CAUTION if load.sway_mm > SWAY_MM else Level.NOTE
    return Finding(
        desk="place", kind="sway", level=level, value=load.sway_mm, limit=SWAY_MM, unit="mm", digits=1,
        title="Stick sways" if level is Level.CAUTION else "Stick steady enough",
        reason=f"{load.sway_hz:.1f} times a second in gusts. Without its thinnest section {load.sway_without_last_mm:.1f} mm.",
    )  # fmt: skip


def holding_finding(plan: Layout, *, stick_m: float, length_min: float) -> Finding | None:
    """How long the arm holds it out, against the length of the shot. None where nobody holds it."""
    if plan.setup.hand is None:
        return None
    out = float(np.linalg.norm(plan.camera[:2] - plan.foot[:2]) + 0.3)  # the hand is not at the shoulder
    minutes = endurance_min(shoulder_moment_nm(stick_m, out) / STRENGTH_NM)
    if math.isinf(minutes):
        return Finding(
            desk="place", kind="holding", level=Level.NOTE, title="Easy to hold",
            reason=f"The camera is {out:.1f} m out from the shoulder; less than 15 % of an average arm's strength.",
        )  # fmt: skip
    return Finding(
        desk="place", kind="holding", level=Level.CAUTION if minutes < length_min else Level.NOTE, value=minutes, unit="min",
        title="Arm tires" if minutes < length_min else "Arm lasts",
        reason=f"Held {out:.1f} m out without rest; the shot is planned over {length_min:g} min. Take it in pieces, or hold it nearer.",
    )  # fmt: skip


def caution_finding(plan: Layout) -> Finding:
    """What to mind with this set-up; local law, site rules and qualified people decide."""
    return Finding(
        desk="place",
        kind="safety",
        level=Level.NOTE,
        title="Mind",
        reason=f"{plan.setup.caution} Local rules and site staff decide.",
    )


def place_findings(
    plan: Layout,
    *,
    gap_m: float,
    overlap_deg: float,
    width_px: int,
    stick_m: float,
    tilt_deg: float,
    lowest_m: float,
    wind_m_s: float,
    length_min: float,
    start_min: float,
    sunset_min: float,
    layout_at: Callable[[float], Layout],
) -> list[Finding]:
    """Every finding about a placement; `layout_at` gives it at another minute of the day."""
    found = [
        seam_finding(plan, gap_m=gap_m, overlap_deg=overlap_deg, width_px=width_px),
        tilt_finding(plan, gap_m=gap_m, stick_m=stick_m, tilt_deg=tilt_deg),
        clearance_finding(plan, lowest_m=lowest_m, sticks_m=plan.setup.sticks_m, stick_m=stick_m),
        shadow_finding(plan, start_min, layout_at, sunset_min),
        *framing_findings(plan),
        load_finding(plan, stick_m=stick_m, wind_m_s=wind_m_s),
        sway_finding(plan, stick_m=stick_m, wind_m_s=wind_m_s),
        holding_finding(plan, stick_m=stick_m, length_min=length_min),
        caution_finding(plan),
    ]
    return [finding for finding in found if finding is not None]
