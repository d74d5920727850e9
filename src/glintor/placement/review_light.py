"""What the sun does to a placement's picture: the shadow of stick and camera, and from where the light comes."""

from functools import partial

import msgspec
import numpy as np

from glintor.finding import Cure, Finding, Level
from glintor.placement.clock import clock
from glintor.placement.given import Given
from glintor.placement.layout import START_FRAME, Layout
from glintor.placement.replan import Replan
from glintor.placement.shadow import seen_shadow_m, shines, stick_shadow
from glintor.placement.sight import what_is_before
from glintor.placement.sun import BEHIND_DEG
from glintor.placement.windows import SHADOW_M
from glintor.sphere.equirect import direction
from glintor.sphere.view import in_frame

LAST_LIGHT_MIN = 10.0  # before sunset, when nobody begins a shot (judgement)
_made = partial(Finding, desk="place")


def shadow_finding(plan: Layout, given: Given, replan: Replan) -> Finding | None:
    """Whether the camera's shadow is in the first 16:9 frame, and when it leaves. None without a sun that shines."""
    if not shines(plan):
        return None
    view = plan.start_view
    seen = seen_shadow_m(plan, view, START_FRAME)
    made = partial(
        _made, kind="shadow", value=seen, unit="m",
        explained=f"Straight lines from stick and camera away from the sun, which stands {plan.sun.elevation_deg:.0f}° high, to the ground, the water or "
        "the carrier that catches them; the length of it that the first frame shows. Source: sun by the astral package, checked against pvlib and "
        "NREL/TP-560-34302; shadows against rendered pictures.",
    )  # fmt: skip
    if seen < SHADOW_M:
        points = stick_shadow(plan)
        reach = f", {np.linalg.norm(points[-1] - plan.foot):.1f} m long," if len(points) else ""
        return msgspec.structs.replace(
            made(
                level=Level.NOTE,
                title="Shadow out of 16:9",
                reason=f"The camera's shadow{reach} falls where the first frame does not show it.",
            ),
            value=float("nan"),
            unit="",
        )
    when, cure = "It stays in the frame until sunset.", None
    leaves = _shadow_leaves(plan, given, replan)
    if leaves is not None:
        when = f"It leaves the frame at {clock(leaves)}."
        cure = Cure(f"Move the shot to {clock(leaves)}", "start_min", leaves)
    return made(
        level=Level.CAUTION,
        title="Shadow in 16:9",
        reason=f"Nothing removes the shadow of stick and camera. {when}",
        cure=cure,
    )


def _shadow_leaves(plan: Layout, given: Given, replan: Replan) -> float | None:
    """The first minute, to five, from which on the shadow is out of the first frame for a quarter of an hour: looked at in
    each of those minutes."""

    def out(minute: float) -> bool:
        later = replan(minute=minute)
        return not shines(later) or seen_shadow_m(later, plan.start_view, START_FRAME) < SHADOW_M

    minutes = np.arange(np.ceil((given.start_min + 1.0) / 5.0) * 5.0, given.sunset_min - LAST_LIGHT_MIN, 5.0)
    free = 0
    for minute in minutes:
        free = free + 1 if out(float(minute)) else 0
        if free == 4:
            return float(minute) - 15.0
    return None


def sun_finding(plan: Layout) -> Finding | None:
    """Where the sun stands to the first frame: in it, behind the camera, or aside. None with the sun down."""
    if plan.sun.elevation_deg <= 0 or not plan.sun.shines:
        return None
    off, in_it = plan.sun_off_back_deg, bool(in_frame(plan.start_view, START_FRAME, direction(*plan.sun_yaw_pitch_deg)))
    before = what_is_before(plan, plan.to_sun) if in_it else ""
    title = (
        "Sun hidden in the first frame"
        if before
        else "Sun in the first frame"
        if in_it
        else "Sun behind the camera"
        if off <= BEHIND_DEG
        else "Sun from ahead"
        if off > 135
        else "Sun from the side"
    )
    reason = {
        "Sun hidden in the first frame": f"Before it stands {before}: past its edge it flares, and the subject is against the light.",
        "Sun in the first frame": "The subject stands against the light; faces go dark.",
        "Sun behind the camera": "Two lenses look best like this: bright and colourful.",
        "Sun from ahead": "The side of the subject that the camera sees is in shade; the other lens has the bright half.",
        "Sun from the side": "Half the subject is lit; shapes stand out.",
    }[title]  # fmt: skip
    return _made(
        kind="sun", level=Level.NOTE, title=title, value=off, unit="°", digits=0, reason=reason,
        explained="Level angle between the sun and the direction from the subject to the camera, 0 right behind. Sun by the astral package; "
        "sun behind the filmer is common practice, no source.",
    )  # fmt: skip
