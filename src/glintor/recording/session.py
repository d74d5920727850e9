"""One take from pressing the button to the line in the log, whatever camera stands behind the link."""

import threading

from msgspec import Struct

from glintor.errors import Cancelled
from glintor.project.model import Camera, Shot, fresh_id
from glintor.project.take import Take, TakeFile
from glintor.recording.link import CameraLink, CardFile, Options
from glintor.types import Report

LOOK_EVERY_S = 0.05  # how often the camera is asked how far it is


class Rolled(Struct, frozen=True):
    """A take, and why it ended by itself, "" where it did not."""

    take: Take
    ended: str


def roll(
    link: CameraLink,
    shot: Shot,
    camera: Camera,
    *,
    film_s: float,
    report: Report = lambda _share: None,
    end: threading.Event | None = None,
    stop: threading.Event | None = None,
) -> Rolled:
    """Records a take of a shot with a camera and waits for its end. `end` ends it and keeps it.

    film_s  how long it is expected to be, for the progress
    Raises what the link raises; Cancelled where `stop` was set, and then nothing is kept where the camera can do that.
    """
    end, stop = end or threading.Event(), stop or threading.Event()
    options = link.options()
    link.start()
    try:
        while (state := link.state()).recording:
            if stop.is_set():
                raise Cancelled
            report(min(state.recorded_s / film_s, 1.0) if film_s > 0.0 else 0.0)
            if end.wait(LOOK_EVERY_S):
                break
    except Cancelled:
        link.discard()
        raise
    file = link.stop()
    state = link.state()
    report(1.0)
    return Rolled(take_of_file(shot, camera, file, options, state.clock_offset_s), state.ended)


def take_of_file(shot: Shot, camera: Camera, file: CardFile, options: Options, clock_s: float | None = None) -> Take:
    """The line in the log for a file that a camera recorded of a shot. clock_s: how far its clock is ahead, None where nobody
    knows. What it was exposed with is what the camera tells, else its locked setting, else unknown."""
    number = len(shot.takes) + 1
    locked = options.exposure if options.program == "manual" else None
    return Take(
        id=fresh_id(f"{shot.id}-{number}", {take.id for take in shot.takes}),
        name=f"{shot.name}, take {number}",
        kind="lapse" if options.interval_s else "film",
        camera=camera.id,
        files=(TakeFile(card=file.path, size_bytes=file.size_bytes),),
        start_min=file.began_min,
        clock_s=clock_s,
        duration_s=file.film_s or 0.0,
        width_px=file.width_px or options.mode.width_px,
        rate_fps=options.rate_fps,
        placement=shot.placement,
        exposure=file.exposure or locked,
    )
