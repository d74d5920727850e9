"""Every finding about a placement, from the rooms of picture, mount and safety."""

from glintor.finding import Finding
from glintor.placement import review_mount as mount
from glintor.placement import review_picture as picture
from glintor.placement import review_safety as safety
from glintor.placement.given import Given
from glintor.placement.layout import Layout
from glintor.placement.replan import Replan


def quick_findings(plan: Layout, given: Given, replan: Replan | None = None) -> list[Finding]:
    """What can be said about one moment alone; everything that can stop a shot is among it. replan: to search cures with."""
    found = [
        safety.reach_finding(plan),
        safety.water_finding(plan, given),
        picture.together_finding(plan, given),
        picture.hidden_finding(plan, given, replan),
        picture.seam_finding(plan, given, replan),
        picture.tilt_finding(plan, given),
        picture.clamp_finding(plan, given),
        mount.through_finding(plan, replan),
        mount.overhead_finding(plan, given),
        mount.below_finding(plan, given),
        *picture.shape_findings(plan, given),
        picture.sun_finding(plan),
        mount.load_finding(plan, given),
        mount.sway_finding(plan, given),
        mount.tube_finding(plan),
        mount.holding_finding(plan, given),
        safety.power_finding(given),
        safety.spin_finding(plan, given),
        safety.tether_finding(plan, given),
        *safety.body_findings(plan, given),
        safety.permission_finding(given),
        safety.caution_finding(plan),
    ]
    return [finding for finding in found if finding is not None]


def place_findings(plan: Layout, given: Given, replan: Replan) -> list[Finding]:
    """Every finding; `replan` gives the placement at another minute of the day or with other values."""
    shadow = picture.shadow_finding(plan, given, replan)
    return quick_findings(plan, given, replan) + ([] if shadow is None else [shadow])
