"""The light along a take in the simulated place, in small spheres: enough to judge an exposure by, quickly."""

from collections.abc import Callable, Sequence
from functools import partial

import numpy as np
from numpy.typing import NDArray

from glintor.exposure.course import Course, course_of, refined
from glintor.exposure.metering import Measured, measured
from glintor.exposure.sources import LightFrom
from glintor.project.model import Camera, Shot, Site
from glintor.simulation.place import build, see
from glintor.simulation.rig import light_of, rig_of
from glintor.sphere.equirect import direction, lonlat_of_pixel
from glintor.sphere.view import View, in_frame

QUICK_PX, FINE_PX = 96, 192  # wide spheres: as one drags, and afterwards
_QUICK, _FINE = 13, 61  # moments


Frames = tuple[tuple[View, tuple[int, int]], ...]  # views with the sizes of their frames


def light_course(
    shot: Shot,
    site: Site,
    camera: Camera,
    take_s: float,
    frames: Frames,
    *,
    fine: bool = False,
    frame: Callable[[LightFrom], Measured] | None = None,
) -> Course:
    """The course of a shot's light over so many seconds of its take. frames: its planned views; frame: measures a test frame."""  # fmt: skip
    rig, width = rig_of(shot.placement, camera, site), FINE_PX if fine else QUICK_PX
    shown = shown_in(frames, width)
    spans = spans_of(shot.exposure.light)

    def place(time_s: float) -> Measured:
        light = light_of(site, shot.start_min + time_s / 60.0, shot.placement)
        return measured(see(build(rig, light, time_s), (width, width // 2), smooth=False).luminance, shown)

    def measure(time_s: float, told: LightFrom) -> Measured:
        if told.kind == "place":
            return place(time_s)
        return frame(told) if told.kind == "frame" and frame is not None else told.measured

    times: list[float] = []
    found: list[Measured] = []
    for told, begins, ends in spans:
        if begins >= take_s:
            continue
        last = min(ends, take_s)
        if told.kind == "place":
            count = max(round((_FINE if fine else _QUICK) * (last - begins) / take_s), 2)
            some = np.linspace(begins, last if last < ends else take_s, count).tolist()
            mine = [place(t) for t in some]
            some, mine = refined(some, mine, place, count + (_FINE // 2 if fine else _QUICK))
        else:
            one = measure(begins, told)
            some, mine = [begins, max(last - 1e-3, begins)], [one, one]
        times += [t if t < last or last >= take_s else last - 1e-3 for t in some]
        found += mine
    return course_of(times, found, tuple((begins, told.source) for told, begins, _ in spans if begins < take_s))


def spans_of(light: Sequence[LightFrom]) -> list[tuple[LightFrom, float, float]]:
    """What is told about a take's light, each with its begin and end in seconds; before the first the simulated place."""
    told = sorted(light, key=lambda one: one.from_s)
    if not told or told[0].from_s > 0.0:
        told = [LightFrom(kind="place"), *told]
    ends = [one.from_s for one in told[1:]] + [float("inf")]
    return [(one, one.from_s, end) for one, end in zip(told, ends, strict=True) if end > one.from_s]


def shown_in(frames: Frames, width_px: int) -> NDArray[np.bool_] | None:
    """(H, W) what planned views show of an unrolled sphere; None without any."""
    if not frames:
        return None
    height = width_px // 2
    looks = direction(*lonlat_of_pixel(*np.meshgrid(np.arange(width_px), np.arange(height)), width_px, height))
    inside: Callable[[View, tuple[int, int]], NDArray[np.bool_]] = partial(in_frame, vector=looks)
    return np.logical_or.reduce([inside(view, size) for view, size in frames])
