"""Every finding about a placement, from the rooms of picture, mount and safety."""

from collections.abc import Mapping

from msgspec.structs import replace

from glintor.finding import Finding, Level
from glintor.placement import review_light as light
from glintor.placement import review_mount as mount
from glintor.placement import review_picture as picture
from glintor.placement import review_safety as safety
from glintor.placement.given import Given
from glintor.placement.layout import Layout
from glintor.placement.replan import Replan, Search, Trial

_OF_GIVEN = ("stick_m", "tilt_deg")  # fields of a placement that the rest of what is given repeats


def quick_findings(plan: Layout, given: Given, replan: Replan | None = None) -> list[Finding]:
    """What can be said about one moment alone; everything that can stop a shot is among it. replan: to search cures with; none of them
    brings or raises another of these findings."""
    if replan is None:
        return _found(plan, given, None)

    def worst(tried: Layout, trial: Trial | None) -> Mapping[str, Level]:
        changed = {trial.field: trial.value} if trial is not None and trial.field in _OF_GIVEN else {}
        levels: dict[str, Level] = {}
        for finding in _found(tried, replace(given, **changed), None):
            levels[finding.kind] = max(finding.level, levels.get(finding.kind, Level.NOTE))
        return levels

    search = Search(plan, replan, worst)
    return [_with_safe_cure(finding, search) for finding in _found(plan, given, search)]


def _with_safe_cure(finding: Finding, search: Search) -> Finding:
    """Without its cure where that brings trouble elsewhere."""
    cure = finding.cure
    room, _, field = cure.field.partition(".") if cure is not None else ("", "", "")
    if cure is None or room != "placement" or field == "reach" or not isinstance(cure.value, float):
        return finding
    return replace(finding, cure=None) if search.harms(Trial(cure.label, field, cure.value), finding.kind) else finding


def _found(plan: Layout, given: Given, search: Search | None) -> list[Finding]:
    found = [
        safety.reach_finding(plan),
        safety.water_finding(plan, given),
        picture.together_finding(plan, given),
        picture.hidden_finding(plan, given, search),
        picture.seam_finding(plan, given, search),
        picture.tilt_finding(plan, given),
        picture.clamp_finding(plan, given),
        mount.through_finding(plan, search),
        mount.subject_inside_finding(plan),
        mount.overhead_finding(plan, given),
        mount.below_finding(plan, given),
        *picture.shape_findings(plan, given),
        light.sun_finding(plan),
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
    shadow = light.shadow_finding(plan, given, replan)
    return quick_findings(plan, given, replan) + ([] if shadow is None else [shadow])
