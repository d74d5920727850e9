"""Everything that Glintor finds about a shot, desk by desk: the same for the window and for `glintor check`."""

from collections.abc import Sequence
from contextlib import suppress
from functools import lru_cache, partial
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec
import numpy as np
from msgspec import Struct

from glintor.errors import GlintorError
from glintor.exposure.aims import Answer, Moves, answer, wanted_ev
from glintor.exposure.course import Course
from glintor.exposure.frame_light import measured_frame
from glintor.exposure.metering import Light, light_of, meter
from glintor.exposure.motion import pan_limit_deg_s, shutter_angle_deg
from glintor.exposure.review import exposure_findings, mode_findings, take_findings
from glintor.exposure.schools import run, school_of
from glintor.exposure.values import ev100
from glintor.finding import Finding, Level, worst_first
from glintor.media.footage import open_footage
from glintor.placement import seam
from glintor.placement.layout import Layout, axis_of
from glintor.placement.mounts import setup_by_id
from glintor.placement.review_picture import passers_finding
from glintor.placement.shadow import stick_shadow
from glintor.placement.wish import Candidate, Proposal, Wish, proposals
from glintor.project.followed import around_footage, around_of, targets_of
from glintor.project.held import known_turns
from glintor.project.model import Camera, Exposure, Project, Shot, take_of
from glintor.project.placed import carrier_of, given_of, in_reach, in_sun, laid_out, layout_of, placing, replanned
from glintor.project.site import Placement, Site
from glintor.project.store import clip_files
from glintor.project.subjects import track_of
from glintor.project.take import Take
from glintor.reframing.course import NOTHING, Targets, course_of
from glintor.reframing.cut import Cut
from glintor.reframing.review import Limits, review_path
from glintor.reframing.track import Track
from glintor.sphere.equirect import lonlat_deg

if TYPE_CHECKING:
    from glintor.simulation.light_course import Frames


def at_place(site: Site, placement: Placement, candidate: Candidate, heading_deg: float) -> Placement:
    """A placement with the free values of a proposal in it, its foot where the set-up can hold it."""
    values = msgspec.structs.replace(
        placement,
        setup=candidate.setup.id,
        on=candidate.setup.on if candidate.setup.on != setup_by_id(candidate.setup.id).on else "",
        stick_m=candidate.stick_m,
        ahead_m=round(candidate.ahead_m, 2),
        left_m=round(candidate.left_m, 2),
        lean_deg=candidate.lean_deg,
        heading_deg=heading_deg,
        tilt_deg=0.0,
    )
    return in_reach(site, values)


def wished(project: Project, shot: Shot, wish: Wish) -> list[Proposal]:
    """Placements of this shot's carrier that come nearest to a wished look, the best of each set-up first."""
    placement = shot.placement
    levels = project.camera_of(shot).levels

    def planner(candidate: Candidate, heading_deg: float) -> Layout:
        return layout_of(
            project.site, at_place(project.site, placement, candidate, heading_deg), shot.start_min, levels=levels
        )

    subject = placement.subject.feet[:2]
    return proposals(carrier_of(project.site, placement), wish, given_of(project, shot), planner, subject)


@lru_cache(maxsize=64)
def scene_light(shot_id: str, placement: Placement, start_min: float, site: Site, camera: Camera) -> Light:
    """The light of the simulated place round the camera, metered in a small sphere."""
    shot = Shot(id=shot_id, name="", start_min=start_min, length_min=1, placement=placement, exposure=Exposure())
    from glintor.simulation.foresight import foresight  # the window starts without it

    _, luminance, _ = foresight(shot, site, camera, 240)
    return meter(luminance)


def light_of_shot(project: Project, shot: Shot) -> Light:
    """The metered light of a shot as it begins: as somebody told, else of the simulated place."""
    told = next((one for one in shot.exposure.light if one.from_s == 0.0 and one.kind != "place"), None)
    if told is not None and told.kind != "frame":
        return light_of(told.measured)
    if told is not None:
        with suppress(GlintorError, OSError):  # of one that is gone the place stands, as in the course
            return light_of(measured_frame(told))
    return scene_light(shot.id, shot.placement, shot.start_min, project.site, project.camera_of(shot))


@lru_cache(maxsize=32)
def _course(shot: Shot, site: Site, camera: Camera, frames: "Frames") -> Course:
    from glintor.simulation.light_course import light_course

    return light_course(shot, site, camera, shot.exposure.take_s, frames)


def course_of_shot(project: Project, shot: Shot) -> Course:
    """The light along a shot's take, quickly."""
    from glintor.simulation.light_course import planned_frames

    e = Exposure(light=shot.exposure.light, take_s=shot.exposure.take_s)  # all that the light depends on
    bare = msgspec.structs.replace(shot, exposure=e, takes=(), cuts=(), name="", purpose="")
    return _course(bare, project.site, project.camera_of(shot), planned_frames(project, shot))


def exposing(project: Project, shot: Shot, light: Light, course: Course | None = None) -> list[Finding]:
    """The findings of the Expose desk in a metered light, and over the whole take where its course is known."""
    e, camera = shot.exposure, project.camera_of(shot)
    mode = camera.mode_of(e)
    wrong = mode.excludes(
        rate_fps=e.rate_fps,
        program=e.program,
        each_lens=e.each_lens,
        interval_s=e.interval_s,
        codec=e.codec,
        frames=e.bracket_frames,
        step_stops=e.bracket_stops,
    )
    found = mode_findings(mode, wrong, spins=shot.placement.setup == "spin_cord")
    if course is not None:
        school = school_of(e.program, e.each_lens)
        set_ev = float(ev100(camera.f_number, e.shutter_s, iso=e.iso, nd_stops=e.nd_stops))
        metered = course.metered[
            :, 0
        ]  # a setting that is right somewhere in the take is not wrong; what it loses is told
        most = max(float(metered.max()), wanted_ev(e.aim, course))  # darker, where that keeps the highlights
        light = msgspec.structs.replace(light, mean=float(np.clip(set_ev, metered.min(), most)))
        found += take_findings(course, run(course, school, e.held, camera.sensor, e.offset_stops))
    return found + exposure_findings(
        light,
        project.camera_of(shot).sensor,
        rate_fps=e.rate_fps,
        shutter_s=e.shutter_s,
        iso=e.iso,
        nd_stops=e.nd_stops,
        mains_hz=project.site.mains_hz,
        interval_s=e.interval_s,
        follows=e.program != "manual",
        best=None if course is None else answer_for(project, shot, course),
    )


def answer_for(project: Project, shot: Shot, course: Course, moves: Moves | None = None) -> Answer:
    """What the solver finds for a shot's aim, with the filters of the kit. moves: what moves in the shot, where that is known."""
    from glintor.simulation.light_course import moves_of

    e, camera = shot.exposure, project.camera_of(shot)
    return answer(
        e.aim,
        course,
        camera.sensor,
        rate_fps=e.rate_fps,
        filters=tuple(item.value for item in project.kit.of_kind("filter")),
        moves=moves or moves_of(project, shot),
        mains_hz=project.site.mains_hz,
        longest_s=e.interval_s or None,
    )


class Lie(Struct, frozen=True):
    """How the lenses of a take, the sun, the stick's foot, who filmed and points of the camera's shadow lay, as far as anybody knows, as
    the take began: the front lens's axis, half the width of the seam band, and bearings and heights, degrees."""

    axis: tuple[float, float, float] = (1.0, 0.0, 0.0)
    band_deg: float | None = None
    sun: tuple[float, float] | None = None
    foot: tuple[float, float] | None = None
    filmer: tuple[float, float] | None = None
    shadow: tuple[tuple[float, float], ...] = ()


def lie_of(project: Project, take: Take, track: Track | None) -> Lie:
    """The lie of a take; nothing of one that is held another way than it was filmed, in which seam and sun move."""
    return _lie(project.site, project.camera_of(take), take, track)


@lru_cache(maxsize=32)
def _lie(site: Site, camera: Camera, take: Take, track: Track | None) -> Lie:
    plan = laid_out(site, camera, take)
    if plan is None or take.steady.mode != "off" or take.horizon is not None:
        return Lie()
    shines = plan.sun.elevation_deg > 0 and plan.sun.shines
    band = seam_band(camera, take, track)
    foot = plan.yaw_pitch_deg(plan.foot) if plan.stick_m > 0.0 else None
    filmer = plan.yaw_pitch_deg(plan.filmer_head) if plan.carrier_apart and plan.stick_m > 0.0 else None
    yaw, pitch = lonlat_deg(plan.directions(stick_shadow(plan)[::3]))
    shadow = tuple(zip(yaw.round(2).tolist(), pitch.round(2).tolist(), strict=True))
    return Lie(axis_of(plan), band, plan.sun_yaw_pitch_deg if shines else None, foot, filmer, shadow)


def pan_share_s(take: Take) -> float:
    """Fastest smooth pan of a take in frame widths a second; of a shutter that nobody knows the most that any allows."""
    angle = 180.0 if take.exposure is None else shutter_angle_deg(take.exposure.rate_fps, take.exposure.shutter_s)
    return pan_limit_deg_s(1.0, take.rate_fps, angle)


def seam_band(camera: Camera, take: Take, track: Track | None) -> float:
    """Half-width in degrees of the seam band for the subject of a take, at its nearest."""
    nearest = track.nearest_m if track is not None else None
    distance = 3.0 if nearest is None else nearest
    return seam.seam_band_deg(distance, gap_m=camera.gap_m, width_px=take.width_px, overlap_deg=camera.overlap_deg)


def reframing(
    project: Project,
    shot: Shot,
    cut: Cut,
    track: Track | None,
    shape: str = "16:9",
    size_px: tuple[int, int] = (1920, 1080),
    targets: Targets = NOTHING,
    missing: Sequence[str] = (),
) -> list[Finding]:
    """The findings of a cut's course in a frame of some shape; targets: where what it is held on is, missing: what of it nobody knows."""
    take = take_of(shot, cut.take_id)
    lie = lie_of(project, take, track)
    limits = Limits(
        pan_share_s(take), take.width_px, lie.band_deg, lie.axis, size_px, lie.sun, lie.foot, lie.filmer, lie.shadow
    )
    unknown = [msgspec.structs.replace(_UNKNOWN, reason=words) for words in missing]
    course = course_of(cut, shape, size_px, targets=targets)
    return [*unknown, *review_path(course, cut.timeline, limits, track, subject_of(take), cut)]


_UNKNOWN = Finding(
    desk="reframe",
    kind="unknown",
    level=Level.STOP,
    title="Held on something that nobody knows",
    reason="",
    explained="The view stays where its keyframes say, as far as that can be shown; a film is not made of it.",
)


def subject_of(take: Take) -> str:
    """What the subject of a take is called."""
    return take.placement.subject.name if take.placement is not None else "Subject"


def offloading(*shots: Shot) -> list[Finding]:
    """Takes of these shots that exist only on the card."""
    waiting = [take for shot in shots for take in shot.takes if take.only_on_card]
    if not waiting:
        return []
    return [
        Finding(
            desk="offload",
            kind="unsafe",
            level=Level.CAUTION,
            title="Only on the card",
            value=len(waiting),
            limit=0,
            digits=0,
            unit="take" if len(waiting) == 1 else "takes",
            reason="A card is lost, formatted or broken easily: bring it over.",
        )
    ]


def placing_there(project: Project, shot: Shot) -> list[Finding]:
    """The findings of the Place desk in the simulated place, whose bridges and trees keep the sun off. Looked for once while all that
    they depend on stays the same."""
    from glintor.simulation.photo import what_is_wrong

    place = project.site.place(shot.placement.stage)
    bare = msgspec.structs.replace(
        shot,
        takes=(),
        cuts=(),
        logs=(),
        ticks=(),
        name="",
        purpose="",
        exposure=msgspec.structs.replace(shot.exposure, light=()),
    )
    day = msgspec.structs.replace(project, shots=(bare,), films=(), sounds=())
    found = _placing_there(day, bare)
    wrong = what_is_wrong(place)
    if wrong:
        words = f"{wrong} Level ground stands for the place meanwhile."
        return [*found, msgspec.structs.replace(_NO_PHOTO, reason=words)]
    return list(found)


@lru_cache(maxsize=32)
def _placing_there(project: Project, shot: Shot) -> tuple[Finding, ...]:
    from glintor.simulation.shade import in_shade  # loads the compiler

    shaded = partial(in_shade, project.site)
    found = placing(project, shot, shaded)
    if in_sun(plan := replanned(project, shot)()) and shaded(shot.placement, project.camera_of(shot), plan):
        found.append(_SHADED)
    place = project.site.place(shot.placement.stage)
    if place is not None and (passers := passers_finding(place)) is not None:
        found.append(passers)
    return tuple(found)


_SHADED = Finding(
    desk="place",
    kind="shaded",
    level=Level.NOTE,
    title="Sun kept off by what stands here",
    reason="In the place as drawn something stands between camera and sun as the shot begins: neither sun nor shadow is reckoned "
    "with. Look there whether it is so.",
    explained="A ray from the camera to the sun through the drawn place: bridge, tunnel, trees, houses and the land.",
)


def findings(project: Project, shot: Shot, project_file: Path | None = None) -> list[Finding]:
    """Every finding about a shot, worst first."""
    found = offloading(shot)
    if shot in project.planned:
        found += placing_there(project, shot) + exposing(
            project, shot, light_of_shot(project, shot), course_of_shot(project, shot)
        )
    for cut in shot.cuts:
        found += _of_cut(project_file, project, shot, cut)
    return worst_first(found)


def _of_cut(project_file: Path | None, project: Project, shot: Shot, cut: Cut) -> list[Finding]:
    """The findings of a cut, with what is known of its take by what was found of it before."""
    if project_file is None:
        return reframing(project, shot, cut, None)
    take = take_of(shot, cut.take_id)
    around = around_of(project_file, project, take)
    with suppress(GlintorError):
        footage = open_footage(clip_files(project_file, take), take.taken_as)
        around = around_footage(project_file, project, take, footage, known_turns(take, footage))
    track = track_of(project_file, take)
    track = track if track is None or around.turns is None else track.turned(around.turns)
    targets, missing = targets_of(cut, around)
    return reframing(project, shot, cut, track, targets=targets, missing=missing)


_NO_PHOTO = Finding(
    desk="place",
    kind="photo",
    level=Level.CAUTION,
    title="Photo of the place missing",
    reason="",
    explained="The photo sphere that stands for the place is read from where it lies each time the place is drawn.",
)
