"""What a placement does to the picture: seam, stick, nearness, proportions, size, shadow, sun."""

from collections.abc import Callable
from functools import partial

import msgspec
import numpy as np
from msgspec.structs import replace

from glintor.finding import Cure, Finding, Level
from glintor.placement import seam
from glintor.placement.clock import clock
from glintor.placement.framing import PERSON_M
from glintor.placement.given import Given
from glintor.placement.layout import START_FRAME, Layout
from glintor.placement.sun import BEHIND_DEG
from glintor.sphere.equirect import direction
from glintor.sphere.view import focal_px, in_frame, vertical_fov_deg

BLOATED_M = 0.6  # common practice, no source: about an arm's length
TRUE_RATIO = 1.25  # of head to feet, above which a person looks out of shape (judgement, no source)
SMALL_PX = 150  # of true height, below which a face is a few pixels (judgement, no source)
OFF_AXIS_DEG = 60.0  # from a lens's axis, beyond which it draws softly (judgement, no source)
_ALONG = (0.0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
_made = partial(Finding, desk="place")


def _facing(plan: Layout, yaw_deg: float) -> Cure:
    turned = (plan.heading_deg + yaw_deg + 180.0) % 360.0 - 180.0
    return Cure("Face a lens to the subject", "placement.heading_deg", round(turned, 1))


def seam_finding(plan: Layout, given: Given) -> Finding:
    """How far the seam would tear the subject, and whether it is on it or far from either lens's axis; worst of its way."""
    if any(plan.subject_goes_m):
        along = [replace(plan.moved(share), subject_goes_m=(0.0, 0.0)) for share in _ALONG]
        found = [(share, seam_finding(p, given)) for share, p in zip(_ALONG, along, strict=True)]
        share, worst_there = max(found, key=lambda f: (f[1].level, f[1].value))
        told = f" {share:.0%} along its way." if share else ""
        return msgspec.structs.replace(worst_there, reason=worst_there.reason + told)
    yaw, pitch = plan.chest_yaw_pitch_deg
    off = seam.seam_angle_deg(yaw, pitch)
    worst = seam.seam_offset_px(plan.subject_m, gap_m=given.gap_m, width_px=given.width_px)
    band = seam.seam_band_deg(plan.subject_m, gap_m=given.gap_m, width_px=given.width_px, overlap_deg=given.overlap_deg)
    near = seam.near_limit_m(gap_m=given.gap_m, width_px=given.width_px)
    made = partial(
        _made, kind="seam", value=worst, limit=seam.SEAM_LIMIT_PX, unit="px", digits=0,
        explained="Offset on the seam = lens gap / distance x sphere width / 2 pi: "
        f"{1000 * given.gap_m:.0f} mm / {plan.subject_m:.2f} m x {given.width_px} / 6.283 = {worst:.0f} px. "
        "Source: parallax of two centres, checked against rendered pictures of both lenses. The limit is a judgement.",
    )  # fmt: skip
    if off < band:
        return made(
            level=Level.STOP,
            title="Subject on the seam",
            reason=f"At {plan.subject_m:.1f} m, {off:.0f}° off the seam, the two lenses disagree. Nearer than {near:.1f} m shows.",
            cure=_facing(plan, yaw),
        )
    if 90.0 - off > OFF_AXIS_DEG:
        return made(
            level=Level.CAUTION,
            title="No lens faces the subject",
            reason=f"It stands {90 - off:.0f}° off the nearest lens's axis, where lenses draw softly; the seam is {off:.0f}° away.",
            cure=_facing(plan, yaw),
        )
    return made(
        level=Level.NOTE,
        title="Seam clear of the subject" if worst > seam.SEAM_LIMIT_PX else "Seam harmless here",
        reason=f"Subject {off:.0f}° off the seam; on it, {plan.subject_m:.1f} m away, it would tear by this much.",
    )


def tilt_finding(plan: Layout, given: Given) -> Finding | None:
    """Whether the stick still hides between the lenses."""
    stick_m, half = given.stick_m, plan.setup.half_width_m
    if stick_m <= 0:
        return None
    limit = seam.hidden_tilt_deg(stick_m, gap_m=given.gap_m, half_thickness_m=half)
    made = partial(
        _made, kind="tilt", value=abs(given.tilt_deg), limit=limit, unit="°", digits=1,
        explained="Greatest angle = atan((gap / 2 - half thickness) / length): "
        f"atan(({500 * given.gap_m:.0f} - {1000 * half:.0f}) mm / {stick_m:g} m) = {limit:.2f}°. "
        "Source: the slab between the lenses that neither sees, checked against rendered pictures.",
    )  # fmt: skip
    if abs(given.tilt_deg) <= limit:
        return made(
            level=Level.NOTE, title="Stick hidden", reason=f"All {stick_m:.1f} m stand in the gap between the lenses."
        )
    shown = stick_m - seam.hidden_length_m(given.tilt_deg, gap_m=given.gap_m, half_thickness_m=half)
    return made(
        level=Level.CAUTION,
        title="Stick shows",
        reason=f"It leaves the camera's line: {shown:.2f} m of {stick_m:.1f} m come out of the gap.",
        cure=Cure("Straighten the joint", "placement.tilt_deg", 0.0),
    )


def clamp_finding(plan: Layout, given: Given) -> Finding | None:
    """How much of a clamp or foot wider than the lens gap shows under the camera."""
    half = plan.setup.clamp_half_m + given.offset_m
    if half <= 0.0:
        return None
    away = max(float(np.linalg.norm(plan.foot - plan.camera)), 0.05)
    excess = seam.excess_deg(half, away, gap_m=given.gap_m)
    level = Level.NOTE if excess < 3.0 else Level.CAUTION
    longer = [s for s in plan.setup.sticks_m if s > given.stick_m]
    return _made(
        kind="clamp", level=level, title="Clamp shows a little" if level is Level.NOTE else "Clamp shows", value=excess, limit=3.0,
        unit="°", reason=f"It is {2000 * half:.0f} mm wide, {away:.2f} m from the lenses. A planet view shows it; a level one does not.",
        cure=Cure(f"Stick to {longer[0]:g} m", "placement.stick_m", longer[0]) if level is Level.CAUTION and longer else None,
        explained=f"Angle each side = (half width - gap / 2) / distance: ({1000 * half:.0f} - {500 * given.gap_m:.0f}) mm"
        f" / {away:.2f} m = {excess:.1f}°. Source: the slab between the lenses. The limit is a judgement.",
    )  # fmt: skip


def shape_findings(plan: Layout, given: Given) -> list[Finding]:
    """Nearness, proportions, and how large the subject is in the frame in true pixels."""
    out = []
    if plan.subject_m < BLOATED_M:
        out.append(
            _made(
                kind="near", level=Level.CAUTION, title="Subject very near", value=plan.subject_m, limit=BLOATED_M, unit="m", digits=2,
                reason="What is nearer than an arm's length looks bloated.",
                explained=f"Distance from lenses to chest; a thing here is drawn {1.0 / max(plan.subject_m, 0.05):.1f} times as large as at 1 m. "
                "The limit is common practice, no source.",
            )
        )  # fmt: skip
    ratio = plan.head_to_feet
    off = ratio > TRUE_RATIO or ratio < 1.0 / TRUE_RATIO
    out.append(
        _made(
            kind="shape", level=Level.NOTE, value=ratio, limit=TRUE_RATIO, digits=2,
            title="Proportions true" if not off else "Head looks large" if ratio > 1.0 else "Head looks small",
            reason="Chest height draws a person truest; from overhead heads grow and legs shrink." + (" Wanted or not." if off else ""),
            explained="Distance to the feet / distance to the head, 1 at half a person's height. "
            f"Camera {plan.camera[2] - plan.subject[2]:.2f} m over the feet of a person of {PERSON_M:g} m. Source: geometry.",
        )
    )  # fmt: skip
    true_px = plan.person_deg * given.width_px / 360.0
    shown_px = plan.person_deg * focal_px(plan.start_view, given.frame_px[0]) / 57.2958
    small = true_px < SMALL_PX
    out.append(
        _made(
            kind="size", level=Level.CAUTION if small else Level.NOTE, title="Subject too small" if small else "Subject large enough",
            value=true_px, limit=SMALL_PX, unit="px", digits=0,
            reason=f"{plan.subject_m:.1f} m away a person is {plan.person_deg:.0f}° high; the frame draws it {shown_px:.0f} px high from so many true ones.",
            explained=f"True height = angle x sphere width / 360: {plan.person_deg:.1f}° x {given.width_px} / 360. "
            f"Angle = atan((H - c) / x) + atan(c / x); of the frame's height it is {plan.person_deg / vertical_fov_deg(plan.start_view, given.frame_px):.0%}. "
            "Source: geometry. The limit is a judgement.",
        )
    )  # fmt: skip
    return out


def shadow_finding(plan: Layout, given: Given, layout_at: Callable[[float], Layout]) -> Finding | None:
    """Whether the camera's shadow is in the first 16:9 frame, and when it leaves. None with the sun down."""
    if plan.sun.elevation_deg < 1.0:
        return None
    view = plan.start_view
    seen = plan.shadow_in_frame_m(view, START_FRAME)
    made = partial(
        _made, kind="shadow", value=seen, limit=0.0, unit="m",
        explained=f"A point h up throws its shadow h / tan(elevation) away from the sun, which stands {plan.sun.elevation_deg:.0f}° high; "
        "the part of it that falls in the first frame is measured. Source: sun by the astral package, checked against pvlib and NREL/TP-560-34302.",
    )  # fmt: skip
    if seen < 0.05:
        reach = float(np.linalg.norm(plan.stick_shadow()[-1] - plan.foot))
        return made(
            level=Level.NOTE,
            title="Shadow out of 16:9",
            reason=f"The camera's shadow, {reach:.1f} m long, falls outside the first frame.",
        )
    for minute in np.arange(given.start_min + 5, given.sunset_min, 5.0):
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


def sun_finding(plan: Layout) -> Finding | None:
    """Where the sun stands to the first frame: in it, behind the camera, or aside. None with the sun down."""
    if plan.sun.elevation_deg <= 0:
        return None
    off, in_it = plan.sun_off_back_deg, bool(in_frame(plan.start_view, START_FRAME, direction(*plan.sun_yaw_pitch_deg)))
    title = (
        "Sun in the first frame"
        if in_it
        else "Sun behind the camera"
        if off <= BEHIND_DEG
        else "Sun from ahead"
        if off > 135
        else "Sun from the side"
    )
    reason = {
        "Sun in the first frame": "The subject stands against the light; faces go dark.",
        "Sun behind the camera": "Two lenses look best like this: bright and colourful.",
        "Sun from ahead": "The side of the subject that the camera sees is in shade; the other lens has the bright half.",
        "Sun from the side": "Half the subject is lit; shapes stand out.",
    }[title]  # fmt: skip
    return _made(
        kind="sun", level=Level.NOTE, title=title, value=off, limit=BEHIND_DEG, unit="°", digits=0, reason=reason,
        explained="Level angle between the sun and the direction from the subject to the camera, 0 right behind. Sun by the astral package; "
        "sun behind the filmer is common practice, no source.",
    )  # fmt: skip
