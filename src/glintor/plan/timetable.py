"""The day's shots in time: when each one's light is there, in which order they go, and what is wrong with the present times."""

import math
from functools import lru_cache, partial
from typing import Literal

import msgspec

from glintor.finding import Cure, Finding, Level
from glintor.placement.clock import clock
from glintor.placement.figures import WALK_M_S
from glintor.placement.schedule import NEVER, Day, Order, Task, earliest, least_change, plan_day, why_left_out
from glintor.placement.sun import day_span
from glintor.placement.windows import Span, Wanted, spans
from glintor.plan.budget import budget_of
from glintor.project.kit import USUAL_BATTERY_MIN, USUAL_CARD_GB
from glintor.project.model import Project, Shot
from glintor.project.placed import layout_of
from glintor.project.site import Placement, Site
from glintor.project.track import way_of
from glintor.project.zone import hours_off, zone_at
from glintor.recording.power import USUAL_AIR_C, battery_min, card_min

_EXPLAINED, _WEIGHED = 4, 40  # shots without room that are told what would give it, in days of at most so many
ON_FOOT_M_S = 3.5  # who goes no faster goes on foot, and climbs slowly (judgement)
CLIMB_M_MIN = (
    10.0  # metres of ascent that cost a minute. Source: Naismith's rule (1892): an hour more for 2000 feet (610 m)
)
_LIKE = 2.5  # a pace that is within so much of a carrier's usual one is its own


@lru_cache(maxsize=128)
def _spans(site: Site, placement: Placement, wanted: Wanted) -> tuple[Span, ...]:
    light = day_span(site.lat_deg, site.lon_deg, site.day, site.zone)
    return spans(wanted, lambda minute: layout_of(site, placement, minute), light)


def windows_of(project: Project, shot: Shot) -> tuple[Span, ...]:
    """Spans of the day in which the light that a shot asks for is there; none of a shot without a plan."""
    if not shot.planned:
        return ()
    return _spans(project.site, shot.placement, shot.light)


def place_number(site: Site, shot: Shot) -> int:
    """Where a shot is along the route; 0 where its story place is not one of it."""
    return site.route.index(shot.story) if shot.story in site.route else 0


def task_of(project: Project, shot: Shot) -> Task:
    """What the order of the day needs to know of a shot."""
    return Task(
        id=shot.id,
        place=_place(project, shot),
        length_min=shot.length_min,
        fit_min=shot.fit_min,
        windows=windows_of(project, shot),
        fixed_min=shot.start_min if shot.fixed else None,
        after=shot.after,
        anytime=_spans(project.site, shot.placement, Wanted()),
    )


def _on_track(project: Project) -> bool:
    """Whether every planned shot is somewhere along a track: places count in metres then."""
    return way_of(project.site) is not None and all(shot.along_m is not None for shot in project.planned)


def _place(project: Project, shot: Shot) -> float:
    return shot.along_m or 0.0 if _on_track(project) else float(place_number(project.site, shot))


def way_min(project: Project, a: Shot, b: Shot) -> float:
    """Minutes from one shot to another: along the track as it was gone where that is the pace of what carries the second one,
    else at its usual speed or on foot; without a track by the legs of the route."""
    site, way = project.site, way_of(project.site)
    if way is None or a.along_m is None or b.along_m is None:
        return abs(place_number(site, a) - place_number(site, b)) * site.leg_min
    far = abs(a.along_m - b.along_m)
    carrier = site.carrier(b.placement.carrier)
    usual = carrier.speed_m_s if carrier is not None and carrier.on == "land" and carrier.moves else WALK_M_S
    recorded = way.minutes_between(a.along_m, b.along_m)
    if recorded and usual / _LIKE < far / (60.0 * recorded) < usual * _LIKE:
        return recorded
    climbs = way.climb_m(a.along_m, b.along_m) if usual <= ON_FOOT_M_S else 0.0
    return far / usual / 60.0 + climbs / CLIMB_M_MIN


def battery_of(project: Project) -> float:
    """Minutes that the day's weakest battery lasts: as stated, less in cold and with wireless on."""
    air_c = USUAL_AIR_C if project.site.air_c is None else project.site.air_c
    stated = project.kit.smallest("battery", USUAL_BATTERY_MIN)
    return battery_min(air_c, wireless=project.site.wireless, stated_min=stated)


def day_of(project: Project, order: Literal["light", "way"] = "light") -> Day:
    """From when the day can begin, and what ways, rests and batteries cost."""
    site = project.site
    card_gb = project.kit.smallest("card", USUAL_CARD_GB)
    shots = {shot.id: shot for shot in project.planned}
    return Day(
        begins_min=leave_min(project),
        leg_min=site.leg_min,
        ways_min=lambda a, b: way_min(project, shots[a], shots[b]),
        to_first_min=site.to_first_min,
        home_min=site.home_min,
        home_by_min=NEVER if site.home_by_min is None else site.home_by_min,
        rests=tuple((rest.start_min, rest.start_min + rest.length_min) for rest in site.rests),
        order=order,
        battery_min=battery_of(project),
        card_min=card_min(
            card_gb * 1e9,
            max((project.camera_of(s).mbit_s for s in project.planned), default=project.kit.cameras[0].mbit_s),
        ),
    )


def leave_min(project: Project) -> float:
    """When one leaves home: as the site says; else early enough for the first light that a shot asks for and for what has its hour,
    and not before sunrise for anything else. A shot for the night waits for the evening: who wants to be out before dawn says so."""
    site = project.site
    if site.leave_min is not None:
        return site.leave_min
    rise, _ = day_span(site.lat_deg, site.lon_deg, site.day, site.zone)
    before = [(s, s.start_min) for s in project.planned if s.fixed]
    before += [(s, span[0]) for s in project.planned if s.light.golden for span in windows_of(project, s)[:1]]
    early = [begins - s.fit_min - site.to_first_min for s, begins in before]
    return max(5.0 * math.floor(min([5.0 * math.ceil(rise / 5.0), *early]) / 5.0), 0.0)


def planned(project: Project, by: Literal["light", "way"] = "light") -> tuple[Project, Order, list[str]]:
    """The project with its shots at the times of the best order, that order, and who found no room, why, and what would give it."""
    tasks, day = [task_of(project, shot) for shot in project.planned], day_of(project, by)
    order = plan_day(tasks, day)
    starts = {slot.id: slot.start_min for slot in order.slots}
    shots = tuple(
        msgspec.structs.replace(shot, start_min=starts.get(shot.id, shot.start_min)) for shot in project.shots
    )
    names = {shot.id: shot.name for shot in project.shots}
    words: list[str] = []
    for task in tasks:
        if task.id in order.left_out:
            change = least_change(task.id, tasks, day) if len(words) < _EXPLAINED and len(tasks) <= _WEIGHED else ""
            for shot_id, name in names.items():
                change = (
                    change.replace(f"leave out {shot_id}", f"leave out {name}") if change.endswith(shot_id) else change
                )
            words.append(f"{names[task.id]}: {why_left_out(task)}" + (f"; least change: {change}" if change else ""))
    return msgspec.structs.replace(project, shots=shots), order, words


def changes(project: Project) -> list[tuple[float, str]]:
    """Minutes of the shots before which "battery" or "card" are changed if they are filmed at their present times."""
    begins = {shot.start_min - shot.fit_min: shot.start_min for shot in project.planned}
    return [(begins[minute], what) for minute, what in budget_of(project).changes]


def _neighbours(project: Project, shot: Shot) -> list[Shot]:
    """The shots before and after in time, and those that run at the same time; farther ones have a shot between them."""
    others = [s for s in project.planned if s.id != shot.id]
    ends = shot.start_min + shot.length_min
    at_once = [s for s in others if s.start_min < ends and shot.start_min < s.start_min + s.length_min]
    before = [s for s in others if s not in at_once and s.start_min < shot.start_min]
    after = [s for s in others if s not in at_once and s.start_min >= shot.start_min]
    last, first = (
        max(before, key=lambda s: s.start_min, default=None),
        min(after, key=lambda s: s.start_min, default=None),
    )
    return [*at_once, *(s for s in (last, first) if s is not None)]


def zone_findings(site: Site) -> list[Finding]:
    """A time zone that is not the place's: sun, light windows and hours are off by as much."""
    off = hours_off(site.lat_deg, site.lon_deg, site.day, site.zone)
    if not off:
        return []
    there = zone_at(site.lat_deg, site.lon_deg)
    return [
        Finding(
            desk="place",
            kind="zone",
            level=Level.CAUTION,
            title="Another time zone",
            value=off,
            unit="h",
            digits=1,
            reason=f"The place lies in {there}, the day is planned in {site.zone}. Set it right in the site (Ctrl+T).",
            explained="The place's coordinates in the map of time zones that the tzfpy package carries, at noon of the day.",
        )
    ]


def _order_findings(project: Project, shot: Shot) -> list[Finding]:
    """A shot before what it must come after, in a rest, or too late to be home."""
    site, ends, out = project.site, shot.start_min + shot.length_min, []
    made = partial(Finding, desk="place", level=Level.CAUTION)
    for other in project.planned:
        if other.id in shot.after and other.start_min + other.length_min > shot.start_min:
            reason = f"It is to be filmed after {other.name}."
            out.append(
                made(
                    kind="order",
                    title="Before what it follows",
                    reason=reason,
                    explained="What the shot says it comes after.",
                )
            )
    for rest in site.rests:
        if rest.start_min < ends and shot.start_min < rest.start_min + rest.length_min:
            reason = f"From {clock(rest.start_min)} to {clock(rest.start_min + rest.length_min)} nothing is to be done."
            out.append(made(kind="rest", title="In a rest", reason=reason, explained="The rests of the day's site."))
    if site.home_by_min is not None and ends + site.home_min > site.home_by_min:
        late = ends + site.home_min - site.home_by_min
        reason = f"With {site.home_min:.0f} min of way one is back after {clock(site.home_by_min)}."
        out.append(
            made(
                kind="home",
                title="Too late home",
                value=late,
                unit="min",
                digits=0,
                reason=reason,
                explained="End of the shot and the way home.",
            )
        )
    return out


def time_findings(project: Project, shot: Shot) -> list[Finding]:
    """What is wrong with the time of a shot: its light, and its neighbours."""
    out = zone_findings(project.site) + _order_findings(project, shot)
    ends = shot.start_min + shot.length_min
    windows = windows_of(project, shot)
    if not any(a <= shot.start_min and ends <= b + 1e-6 for a, b in windows):
        task = task_of(project, shot)
        start = earliest(task, shot.start_min)
        start = earliest(task, 0.0) if start == NEVER else start
        when = ", ".join(f"{clock(a)} to {clock(b)}" for a, b in windows) or "at no time of this day"
        out.append(
            Finding(
                desk="place",
                kind="light",
                level=Level.CAUTION,
                title="Its light is not there",
                reason=f"What this shot asks of the light holds {when}.",
                cure=Cure(f"Move the shot to {clock(start)}", "start_min", start) if start != NEVER else None,
                explained="Each five minutes of the day are worked out: sun against the view, shadow against the frame, times asked for.",
            )
        )
    for other in _neighbours(project, shot):
        gap = max(other.start_min - ends, shot.start_min - (other.start_min + other.length_min))
        need = shot.fit_min if other.start_min < shot.start_min else other.fit_min
        need += way_min(project, *((other, shot) if other.start_min < shot.start_min else (shot, other)))
        if gap < need - 1e-6:
            out.append(
                Finding(
                    desk="place",
                    kind="overlap",
                    level=Level.STOP if gap < 0 else Level.CAUTION,
                    value=gap,
                    limit=need,
                    unit="min",
                    digits=0,
                    title="Two shots at once" if gap < 0 else "Too little time between",
                    reason=f"Between this and {other.name}: the way along the route and the fitting need time.",
                    explained="Gap between the shots against fitting time + legs of the route x minutes a leg (both yours).",
                )
            )
    return out
