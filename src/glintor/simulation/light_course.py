"""The light along a take in the simulated place, in small spheres: enough to judge an exposure by, quickly."""

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from msgspec.structs import replace

from glintor.errors import GlintorError
from glintor.export.formats import LANDSCAPE, format_by_name
from glintor.exposure.aims import Moves
from glintor.exposure.course import Course, course_of, refined
from glintor.exposure.frame_light import Frames, measured_frame, shown_in
from glintor.exposure.metering import Measured, measured
from glintor.exposure.schools import Run
from glintor.exposure.sources import LightFrom
from glintor.exposure.values import shutter_s
from glintor.placement.scenery import UNKNOWN, Place
from glintor.project.model import Camera, Exposure, Project, Shot
from glintor.project.placed import plan_of
from glintor.project.site import Site
from glintor.reframing.path import Keyframe
from glintor.simulation.place import build, see
from glintor.simulation.rig import light_of, rig_of
from glintor.sphere.angle import wrap_deg
from glintor.sphere.view import View, for_shape

QUICK_PX, FINE_PX = 96, 192  # wide spheres: as one drags, and afterwards
_QUICK, _FINE = 13, 61  # moments
_SETTLING_S = (
    0.0,
    0.1,
    0.25,
    0.5,
    0.8,
    1.2,
    1.8,
    2.6,
    4.0,
)  # after a step of the light, moments that show how the camera follows
_NEAR_M = 2.0  # what is passed nearer than this is not what one looks at (judgement)
_SWAY_DEG_S = 5.0  # of a hand on a stick (judgement, no source)


def light_course(
    shot: Shot, site: Site, camera: Camera, take_s: float, frames: Frames, *, fine: bool = False
) -> Course:
    """The course of a shot's light over so many seconds of its take. frames: its planned views."""
    place_there = site.place(shot.placement.stage)
    rig, width = rig_of(shot.placement, camera, site), FINE_PX if fine else QUICK_PX
    shown = shown_in(frames, width)
    spans = [(_there(told), begins, ends) for told, begins, ends in spans_of(shot.exposure.light)]

    def place(time_s: float) -> Measured:
        light = light_of(site, shot.start_min + time_s / 60.0, shot.placement)
        return measured(see(build(rig, light, time_s), (width, width // 2), smooth=False).luminance, shown)

    times: list[float] = []
    found: list[Measured] = []
    for told, begins, ends in spans:
        if begins >= take_s:
            continue
        last = min(ends, take_s)
        if told.kind == "place":
            count = max(round((_FINE if fine else _QUICK) * (last - begins) / take_s), 2)
            settling = [begins + late for late in _SETTLING_S if begins > 0.0 and begins + late < last]
            some = sorted({*np.linspace(begins, last, count).tolist(), *settling})
            mine = [place(t) for t in some]
            some, mine = refined(some, mine, place, count + (_FINE // 2 if fine else _QUICK))
        else:
            one = measured_frame(told, frames) if told.kind == "frame" else told.measured
            after = [begins + late for late in _SETTLING_S if begins + late < last]  # while the camera comes after
            some, mine = [*after, last], [one] * (len(after) + 1)
        times += [t if t < last or last >= take_s else last - 1e-3 for t in some]
        found += mine
    return course_of(
        times, found, tuple((begins, _source(told, place_there)) for told, begins, _ in spans if begins < take_s)
    )


def _there(told: LightFrom) -> LightFrom:
    """A source that can be used: the place stands for a test frame that is gone, and says so."""
    if told.kind != "frame":
        return told
    try:
        measured_frame(told)
    except (GlintorError, OSError):
        return LightFrom(
            kind="place", from_s=told.from_s, words=f"the place, since the test frame {told.words} cannot be read"
        )
    return told


def _source(told: LightFrom, place: Place | None) -> str:
    """Where the light is known from; of a place that nobody described, what stands for it."""
    if told.kind != "place":
        return told.source
    if told.words:  # a test frame that is gone
        return told.words
    if place is not None and place.id == UNKNOWN:
        return "level grass under the day's sky: nobody described the place"
    return "the photo of the place" if place is not None and place.pictured else told.source


def spans_of(light: Sequence[LightFrom]) -> list[tuple[LightFrom, float, float]]:
    """What is told about a take's light, each with its begin and end in seconds; before the first the simulated place."""
    told = sorted(light, key=lambda one: one.from_s)
    if not told or told[0].from_s > 0.0:
        told = [LightFrom(kind="place"), *told]
    ends = [one.from_s for one in told[1:]] + [float("inf")]
    return [(one, one.from_s, end) for one, end in zip(told, ends, strict=True) if end > one.from_s]


def planned_frames(project: Project, shot: Shot) -> Frames:
    """What a shot's film is planned to show, with the sizes of its shapes: the keyframes of its cuts, else its first and last view."""
    views = list(_views_of(tuple(cut.keys for cut in shot.cuts)))
    if not views:
        views = [frame.view for frame in (shot.opening, shot.closing) if frame is not None]
    if shot.opening is None and not shot.cuts:
        views.append(plan_of(project, shot).start_view)
    sizes = tuple(format_by_name(name).size_px for name in shot.aspects)
    return _in_shapes(tuple(dict.fromkeys(views)), sizes)


@lru_cache(maxsize=8)
def _views_of(keys: tuple[tuple[Keyframe, ...], ...]) -> tuple[View, ...]:
    return tuple(dict.fromkeys(key.view for of_cut in keys for key in of_cut))


@lru_cache(maxsize=8)
def _quickest_pan_deg_s(keys: tuple[tuple[Keyframe, ...], ...]) -> float:
    """Between two keyframes of any cut, as if each pan were even; that of usual pans where there is none."""
    quickest = []
    for of_cut in keys:
        if len(of_cut) > 1:
            yaw, time = (np.array([getattr(key, name) for key in of_cut]) for name in ("yaw_deg", "time_s"))
            quickest.append(float(np.max(np.abs(wrap_deg(np.diff(yaw))) / np.maximum(np.diff(time), 0.1))))
    return max(quickest, default=Moves().pan_deg_s)


@lru_cache(maxsize=8)  # asked again whenever a number of the same shot changes
def _in_shapes(views: tuple[View, ...], sizes: tuple[tuple[int, int], ...]) -> Frames:
    return tuple((for_shape(view, size), size) for view in views for size in sizes)


def moves_of(project: Project, shot: Shot) -> Moves:
    """What moves in a shot's frame: what its carrier passes at the subject's distance, a hand's sway, the quickest planned pan."""
    plan = plan_of(project, shot)
    speed = plan.carrier.speed_m_s if shot.placement.speed_m_s is None else shot.placement.speed_m_s
    passing = float(np.degrees((speed if plan.carrier.moves else 0.0) / max(plan.subject_m, _NEAR_M)))  # abeam, v / d
    pan = _quickest_pan_deg_s(tuple(cut.keys for cut in shot.cuts))
    view = plan.start_view if shot.opening is None else shot.opening.view
    sway = _SWAY_DEG_S if plan.setup.hand is not None else 0.0
    return Moves(passing, sway, pan, LANDSCAPE.size_px[0] / view.fov_deg)


def exposed_at(shot: Shot, camera: Camera, run: Run, course: Course, time_s: float) -> tuple[Exposure, ...]:
    """What the camera is set to at a moment of the course under a school: front lens, and the rear one where it has its own."""
    out = []
    for lens in range(2 if run.school == "each lens" else 1):
        ev = float(np.interp(time_s, course.time_s, run.ev[:, lens]))
        iso = float(np.interp(time_s, course.time_s, run.iso[:, lens]))
        time = shutter_s(ev, camera.f_number, iso=iso, nd_stops=shot.exposure.nd_stops)
        out.append(replace(shot.exposure, iso=iso, shutter_s=time))
    return tuple(out)
