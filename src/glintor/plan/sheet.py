"""The day on paper: one page a shot, the kit, the hours; what every form of it is made from."""

from itertools import pairwise

import numpy as np
from msgspec import Struct

from glintor.exposure.motion import shutter_angle_deg
from glintor.exposure.schools import SCHOOLS, school_of
from glintor.exposure.values import nd_text, shutter_text
from glintor.finding import Finding, Level, worst_first
from glintor.placement.clock import clock
from glintor.placement.mounts import setup_by_id
from glintor.placement.sun import day_span
from glintor.plan.budget import budget_findings
from glintor.plan.kit_check import Need, mass_kg, needs
from glintor.plan.timetable import changes, place_number, time_findings, way_min, windows_of
from glintor.plan.variety import ANGLES, angle_of, shares
from glintor.project.model import Project, Shot
from glintor.project.placed import carrier_of, plan_of
from glintor.project.track import way_of
from glintor.review import course_of_shot, exposing, light_of_shot, placing_there
from glintor.sphere.angle import bearing_text


class ShotPage(Struct, frozen=True):
    """One shot: its head, named numbers, what to look at before rolling, and cautions, worst first."""

    shot: Shot
    head: str
    about: str
    numbers: tuple[tuple[str, str], ...]
    findings: tuple[Finding, ...]
    before: tuple[str, ...]
    lat_lon_deg: tuple[float, float]


class DaySheet(Struct, frozen=True):
    """The whole day."""

    project: Project
    title: str
    about: tuple[str, ...]
    pages: tuple[ShotPage, ...]
    needs: tuple[Need, ...]
    mass_kg: float
    hours: tuple[tuple[str, str], ...]  # a time and what happens
    settings: tuple[tuple[str, ...], ...]  # a row a shot, as SETTINGS names its columns


def day_sheet(project: Project) -> DaySheet:
    """Everything that goes on paper, in the order of the clock."""
    site = project.site
    shots = sorted(project.planned, key=lambda s: s.start_min)
    mix = ", ".join(f"{ANGLES[kind]} {share:.0%}" for kind, share in shares(project).items())
    about = (
        f"{site.day}, {coordinates(site.lat_deg, site.lon_deg)}, way ahead {bearing_text(site.way_bearing_deg)}",
        f"Wind {site.wind_m_s:g} m/s, clouds {site.cloud_share:.0%}, {_overhead(project)}",
        f"Angles: {mix}",
        *([f"Hazards: {site.hazards}"] if site.hazards else []),
    )
    return DaySheet(
        project,
        f"{site.name}, {site.day}",
        about,
        tuple(_page(project, s) for s in shots),
        tuple(needs(project)),
        mass_kg(project.kit),
        tuple(_hours(project, shots)),
        tuple(_settings(project, shot) for shot in shots),
    )


# In the order in which one sets them on a camera.
SETTINGS = ("Shot", "Mode", "fps", "Exposure", "Time", "ISO", "Filter", "White", "Profile", "Codec")


def _settings(project: Project, shot: Shot) -> tuple[str, ...]:
    e = shot.exposure
    mode = project.camera_of(shot).mode_of(e)
    school = SCHOOLS[school_of(e.program, e.each_lens)]
    offset = f", {e.offset_stops:+.1f}" if e.program != "manual" and e.offset_stops else ""
    follows = {"auto": ("follows", "follows"), "iso": ("follows", ""), "shutter": ("", "follows"), "manual": ("", "")}[
        e.program
    ]
    words = f"{mode.words}, {e.bracket_frames} x {e.bracket_stops:g} stops" if mode.kind == "bracket" else mode.words
    return (
        f"{clock(shot.start_min)} {shot.name}",
        words,
        f"one in {e.interval_s:g} s" if e.interval_s else f"{e.rate_fps:g}",
        f"{school}{offset}",
        follows[0] or shutter_text(e.shutter_s),
        follows[1] or f"{e.iso:g}",
        nd_text(e.nd_stops),
        "camera" if e.white_k is None else f"{e.white_k:g} K",
        e.curve,
        "" if mode.is_photo else e.codec,
    )


def _overhead(project: Project) -> str:
    """What stands over the way of what moves in this day: bridges over a boat, branches over the rest."""
    site = project.site
    afloat = [carrier_of(site, shot.placement).afloat for shot in project.planned]
    water = _height_words("lowest obstacle", site.lowest_m, "water")
    land = _height_words("lowest branch", site.branches_m, "ground")
    return f"{water}, {land}" if any(afloat) and not all(afloat) else water if any(afloat) else land


def _height_words(what: str, height_m: float | None, over: str) -> str:
    return f"{what} over the {over}: not measured" if height_m is None else f"{what} {height_m:g} m over the {over}"


def coordinates(lat_deg: float, lon_deg: float) -> str:
    """As 52.9000 N 1.9000 W."""
    return f"{abs(lat_deg):.4f} {'N' if lat_deg >= 0 else 'S'} {abs(lon_deg):.4f} {'E' if lon_deg >= 0 else 'W'}"


def place_of(project: Project, shot: Shot) -> tuple[float, float]:
    """Degrees north and east of a shot: where it was put along the track, else its waypoint's own, else by its place of the route,
    else the site's."""
    site, way = project.site, way_of(project.site)
    if way is not None and shot.along_m is not None:
        spot = way.at(shot.along_m)
        return spot.lat_deg, spot.lon_deg
    for waypoint in site.waypoints:
        if waypoint.name == shot.story:
            return waypoint.lat_deg, waypoint.lon_deg
    if len(site.track) < 2 or len(site.route) < 2:
        return site.lat_deg, site.lon_deg
    share = place_number(site, shot) / (len(site.route) - 1)
    point = site.track[round(share * (len(site.track) - 1))]
    return point.lat_deg, point.lon_deg


def _page(project: Project, shot: Shot) -> ShotPage:
    plan = plan_of(project, shot)
    setup, p, e = setup_by_id(shot.placement.setup), shot.placement, shot.exposure
    windows = ", ".join(f"{clock(a)} to {clock(b)}" for a, b in windows_of(project, shot)) or "not on this day"
    rate = f"one frame in {e.interval_s:g} s" if e.interval_s else f"{e.rate_fps:g} fps"
    angle = shutter_angle_deg(e.rate_fps, e.shutter_s)
    numbers = (
        ("Set-up", f"{setup.words}; {plan.carrier.words}"),
        ("Stick", f"{p.stick_m:g} m, {len(project.kit.sections(p.stick_m))} tubes out" if p.stick_m else "none"),
        (
            "Camera",
            f"{p.ahead_m:+.2f} m ahead, {abs(p.left_m):.2f} m {'left' if p.left_m >= 0 else 'right'}, {plan.camera[2]:.2f} m up",
        ),
        (
            "Front lens",
            f"{p.heading_deg:+.0f}° from the way ahead, {bearing_text((project.site.bearing_of(p) + p.heading_deg) % 360.0)}",
        ),
        ("Lean, joint", f"{p.lean_deg:g}°, {p.tilt_deg:g}°" + (", upside down" if setup.hangs else "")),
        (
            p.subject.name,
            f"{plan.subject_m:.2f} m away, {plan.person_deg:.0f}° high, head : feet {plan.head_to_feet:.2f}",
        ),
        ("Sun", f"{bearing_text(plan.sun.azimuth_deg)}, {plan.sun.elevation_deg:.0f}° high"),
        ("Light there", windows),
        (
            "Setting",
            f"{rate}, {shutter_text(e.shutter_s)} ({angle:.0f}°), ISO {e.iso:g}, ND {e.nd_stops:g} stops, {e.curve}",
        ),
        ("Angle", ANGLES[angle_of(plan)]),
        ("Formats", ", ".join(shot.aspects)),
    )
    exposed = exposing(project, shot, light_of_shot(project, shot), course_of_shot(project, shot))
    exposed += budget_findings(project, shot)
    found = worst_first(placing_there(project, shot) + time_findings(project, shot) + exposed)
    before = (
        "Lenses wiped, guard as planned",
        "Camera, stick and mount in one line",
        f"Front lens on {p.subject.name}",
        "Mode, exposure and card as above",
        *(("Tethered",) if "tether" in setup.needs else ()),
        setup.cure,
    )
    length = f"{shot.length_min:g} min" + (f", {shot.film_s:g} s of it in the film" if shot.film_s else "")
    about = ". ".join(part for part in (_sentence(shot.purpose), _sentence(setup.shows), length) if part)
    head = f"{clock(shot.start_min)} to {clock(shot.start_min + shot.length_min)}  {shot.name}"
    head += f", {shot.story}" if shot.story else ""
    return ShotPage(shot, head, about, numbers, tuple(found), before, place_of(project, shot))


def _sentence(words: str) -> str:
    return words[:1].upper() + words[1:]


class Caution(Struct, frozen=True):
    """A line of what is wrong, or of what is usually to be minded. grave: it is wrong here and now."""

    words: str
    grave: bool


def cautions(page: ShotPage) -> list[Caution]:
    """What is wrong or to be minded, worst first."""
    told = [f for f in page.findings if f.level > Level.NOTE or f.kind == "safety"]
    return [
        Caution(f"{f.title}: {f.measure + '. ' if f.measure else ''}{f.reason}", f.level > Level.NOTE) for f in told
    ]


def _hours(project: Project, shots: list[Shot]) -> list[tuple[str, str]]:
    due, site = changes(project), project.site
    rows: list[tuple[float, str]] = []
    rise, sets = day_span(site.lat_deg, site.lon_deg, site.day, site.zone)
    if sets - rise < 1440.0:
        rows += [(rise, "sunrise"), (sets, "sunset")]
    if shots and site.to_first_min:
        first = shots[0]
        rows.append((first.start_min - first.fit_min - site.to_first_min, f"set out, {site.to_first_min:.0f} min"))
    for before, after in pairwise(shots):
        minutes = way_min(project, before, after)
        if minutes >= 1.0:
            rows.append(
                (before.start_min + before.length_min, f"way to {after.story or after.name}, {minutes:.0f} min")
            )
    rows += [(rest.start_min, f"rest, {rest.length_min:g} min") for rest in site.rests]
    if shots and site.home_min:
        rows.append((shots[-1].start_min + shots[-1].length_min, f"way home, {site.home_min:.0f} min"))
    for shot in shots:
        for at, what in due:
            if at == shot.start_min:
                rows.append((at - shot.fit_min, f"change the {what}"))
        rows.append((shot.start_min - shot.fit_min, f"fit the camera for {shot.name}"))
        rows.append((shot.start_min, f"{shot.name}, {shot.length_min:g} min"))
    return [(clock(float(np.clip(at, 0.0, 1439.0))), words) for at, words in sorted(rows, key=lambda row: row[0])]
