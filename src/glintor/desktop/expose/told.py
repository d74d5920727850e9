"""What the Expose desk tells of a shot: its schools weighed, what its setting costs now, its series, its film over time."""

from msgspec import Struct
from msgspec.structs import replace

from glintor.exposure.aims import Aim, Cost, Moves, cost_of, cost_words
from glintor.exposure.bracket import Bracket, planned
from glintor.exposure.course import Course
from glintor.exposure.over_time import in_words, over_time
from glintor.exposure.program import PROGRAMS
from glintor.exposure.schools import Run, all_runs, lighter_filter, lost, recommended, run, school_of
from glintor.placement.review_safety import SPIN_PER_S
from glintor.plan.timetable import battery_of
from glintor.project.kit import USUAL_CARD_GB
from glintor.project.model import Project, Shot
from glintor.project.placed import plan_of
from glintor.recording.power import card_min
from glintor.review import answer_for
from glintor.simulation.light_course import exposed_at, moves_of

USUAL_OFFSET = -0.7  # that the automatic schools are compared with where the shot has none: rather under than over
_STARS_DEG = -12.0  # of the sun, under which stars are seen: the end of nautical twilight


class Judged(Struct, frozen=True, eq=False):
    """What follows from a course: every school's run, the best one and why, and the run that the shot has."""

    runs: tuple[Run, ...]
    best: Run
    why: str
    mine: Run


def judged(project: Project, shot: Shot, course: Course) -> Judged:
    """Every school through a shot's light, the best of them, and the one that the shot has."""
    e, sensor = shot.exposure, project.camera_of(shot).sensor
    runs = all_runs(course, e.held, sensor, e.offset_stops or USUAL_OFFSET)
    found = answer_for(project, shot, course)
    solved = run(
        course, "locked", replace(e.held, shutter_s=found.shutter_s, iso=found.iso, nd_stops=found.nd_stops), sensor
    )
    best, why = recommended(runs, course, solved)
    filters = tuple(item.value for item in project.kit.of_kind("filter"))
    more = lighter_filter(course, best, e.held, sensor, filters) if best is not solved else ""
    mine = run(course, school_of(e.program, e.each_lens), e.held, sensor, e.offset_stops)
    return Judged(runs, best, f"{why} {more}".strip(), mine)


def cost_now(project: Project, shot: Shot, course: Course, mine: Run, moment_s: float, moves: Moves) -> Cost:
    """What the camera's setting at a moment costs; what is lost is lost along its run."""
    camera, e = project.camera_of(shot), shot.exposure
    now = exposed_at(shot, camera, mine, course, moment_s)[0]
    cost = cost_of(course, camera.sensor, now.shutter_s, now.iso, now.nd_stops, e.rate_fps, moves)
    if e.program == "manual":
        return cost
    lens = [float(lost(course.lenses[:, k], mine.ev[:, k], mine.iso[:, k], camera.sensor)[0].mean()) for k in range(2)]
    return replace(cost, clipped=(lens[0], lens[1], mine.clipped), drowned=mine.drowned)


def aim_words(project: Project, shot: Shot, course: Course, aim: Aim, moves: Moves) -> str:
    """What the solver would set for an aim, what that costs, and what is in the way."""
    found = answer_for(project, replace(shot, exposure=replace(shot.exposure, aim=aim)), course, moves)
    limit = f"\nIn the way: {found.limit}. It would take {' or '.join(found.would_move)}." if found.limit else ""
    return f"{found.words}\n{cost_words(found.cost, moves)}{limit}"


def bracket_for(project: Project, shot: Shot, course: Course, moment_s: float) -> Bracket:
    """The series that a moment of a shot asks for."""
    e, camera = shot.exposure, project.camera_of(shot)
    mode, at = camera.mode_of(e), course.at(moment_s)
    return planned(course, at, camera.sensor, mode, e.shutter_s, moves_of(project, shot).fastest_deg_s)


def bracket_words(one: Bracket, stops: float) -> str:
    """A planned series in a line. stops: that one photo holds."""
    if one.span_stops <= stops:
        return f"HDR photo: one photo holds the {one.span_stops:.0f} stops here; a bracket only lessens the noise of its shade."
    if one.limit:
        return f"HDR photo: {one.limit}."
    ghosts = (
        f"what moves gets {one.moves_px:.0f} px in it and ghosts" if one.ghosts else "nothing moves far enough to ghost"
    )
    return (
        f"HDR photo: {one.frames} frames {one.step_stops:.2g} stops apart hold {one.holds_stops:.0f} of the {one.span_stops:.0f} stops "
        f"here, in {one.total_s:.1f} s; {ghosts}. Solve sets them."
    )


def lapse_words(project: Project, shot: Shot) -> str:
    """What a time-lapse gives, while its interval is chosen."""
    e = shot.exposure
    if e.interval_s <= 0.0:
        return ""
    moves, mode = moves_of(project, shot), project.camera_of(shot).mode_of(e)
    rate = mode.mbit_s or project.camera_of(shot).mbit_s
    given = over_time(
        shot.length_min * 60.0,
        e.interval_s,
        e.rate_fps,
        mbit_s=rate,
        deg_s=moves.fastest_deg_s,
        px_per_deg=moves.px_per_deg,
        longest_battery_s=60.0 * battery_of(project),
    )
    stars = ""
    if plan_of(project, shot).sun.elevation_deg < _STARS_DEG:
        points = e.shutter_s <= given.star_s
        stars = f" Stars {'stay points' if points else 'become trails'}: they are points up to {given.star_s:.0f} s an exposure."
    return (
        f"{shot.length_min:g} min, one frame in {e.interval_s:g} s: {in_words(given, e.interval_s, e.rate_fps)}{stars}"
    )


def spin_words(project: Project, shot: Shot) -> str:
    """What a turn on a cord becomes."""
    if shot.placement.setup != "spin_cord":
        return ""
    e = shot.exposure
    blur = 360.0 * SPIN_PER_S * e.shutter_s * moves_of(project, shot).px_per_deg
    return (
        f"A turn lasts {1.0 / SPIN_PER_S:.1f} s: {e.rate_fps / SPIN_PER_S:.0f} frames, {e.rate_fps / SPIN_PER_S / 24.0:.1f} s shown at 24 fps. "
        f"What stands still smears {blur:.0f} px; the pull on the cord and the clear circle stand at the Place desk."
    )


def mode_words(project: Project, shot: Shot) -> str:
    """What the chosen mode gives, and what it excludes."""
    mode = project.camera_of(shot).mode_of(shot.exposure)
    rate = mode.mbit_s or project.camera_of(shot).mbit_s
    out = [f"{mode.words}: {mode.width_px} px wide, {rate:g} Mbit/s"]
    if mode.loops:
        kept = card_min(project.kit.smallest("card", USUAL_CARD_GB) * 1e9, rate)
        out.append(f"It can loop: on a dash the card keeps the last {kept:.0f} min")
    out += [
        words
        for true, words in (
            (len(mode.programs) < len(PROGRAMS), f"Exposure only {' or '.join(PROGRAMS[p] for p in mode.programs)}"),
            (not mode.each_lens, "Both lenses have one exposure"),
        )
        if true
    ]
    return "\n".join(out)
