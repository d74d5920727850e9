"""A still with a trail of copies of a subject, from a camera that stood still."""

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from glintor.errors import InputError
from glintor.files import refuse_sources
from glintor.media.footage import Footage
from glintor.media.picture import write_picture
from glintor.pixels import colour
from glintor.pixels.picture import Flat, drawn, steady
from glintor.pixels.reproject import Filter
from glintor.pixels.trail import Copy, Picture, background, spaced, stands_still, trail
from glintor.reframing.track import Track
from glintor.sphere.equirect import direction
from glintor.sphere.turn import TurnTrack, turned
from glintor.sphere.view import View, frame_position
from glintor.types import Report

_OF_BACKGROUND, _LOOKED_AT, _MOST = 17, 160, 40
_TALL = 0.5  # width of somebody over their height


def write_trail(
    target: Path,
    footage: Footage,
    view: View,
    size_px: tuple[int, int],
    track: Track,
    span_s: tuple[float, float],
    *,
    overlap: float = 0.15,
    turns: TurnTrack | None = None,
    keep: Sequence[Path] = (),
    report: Report = lambda _share: None,
) -> int:
    """Writes what a view sees, with the subject in it as often as it fits between two moments; how often that was. view and track are
    meant in the frame that turns lead to. Raises InputError where the camera moved or the subject is not in the frame, ClipError,
    WriteError."""
    refuse_sources(target, (*footage.files, *keep))
    times = np.linspace(*span_s, _LOOKED_AT)
    there = track.at(times)
    x, y = frame_position(view, size_px, direction(there.yaw_deg, there.pitch_deg))
    with np.errstate(invalid="ignore"):
        inside = there.known & (x > 0) & (x < size_px[0]) & (y > 0) & (y < size_px[1])
    if there.size_deg is None or inside.sum() < 2:
        raise InputError("The subject was not tracked in this frame.", advice="Track it (J), and look where it goes.")
    times, places = times[inside], np.stack([x, y], axis=1)[inside]
    tall = 2.0 * np.tan(np.radians(there.size_deg[inside]) / 2.0) * view.lens.focal * size_px[0]
    chosen = spaced(places, tall * _TALL, overlap)
    step = max(len(chosen) // _MOST, 1)
    chosen = chosen[::step]

    def seen(time_s: float) -> Picture:
        sphere = footage.sphere(reader.at(time_s))
        sight = view if turns is None else turned(view, turns.at(time_s))
        return colour.rgb(drawn(Flat(size_px, steady(sight), Filter.FINE, shows=footage.shows), sphere, time_s))

    with footage.reader() as reader:
        plain = []
        for n, at in enumerate(np.linspace(*span_s, _OF_BACKGROUND).tolist()):
            plain.append(seen(at))
            report(0.5 * (n + 1) / _OF_BACKGROUND)
        behind = background(plain)
        if not stands_still(plain, behind):
            raise InputError(
                "The camera moved: there is no background to lay copies on.",
                advice="Hold the world still (Ctrl+4) if it only turned, or take a part in which it stands.",
            )
        copies = []
        for n, at in enumerate(chosen):
            box = (float(tall[at]) * _TALL, float(tall[at]))
            copies.append(Copy(seen(float(times[at])), (float(places[at, 0]), float(places[at, 1])), box))
            report(0.5 + 0.5 * (n + 1) / len(chosen))
    write_picture(target, trail(behind, copies), sources=(*footage.files, *keep))
    return len(chosen)
