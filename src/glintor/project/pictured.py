"""Small pictures of a take: a flat frame, and the sphere unrolled."""

from collections.abc import Sequence
from pathlib import Path

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.media.footage import Footage, open_footage
from glintor.pixels import colour
from glintor.pixels.picture import Flat, drawn, steady
from glintor.pixels.reproject import Filter
from glintor.pixels.unrolled import unrolled_level
from glintor.project.held import known_turns
from glintor.project.model import Project, Shot
from glintor.project.placed import plan_of
from glintor.project.take import Take
from glintor.sphere.turn import TurnTrack, turned
from glintor.sphere.view import View

FLAT_PX = (240, 136)
BAND_SHARE = (0.3, 0.7)  # of the height of the sphere unrolled: what is about level
_MOST_S = 30.0  # into a take, from where its picture is


class Small(Struct, frozen=True):
    """0xFFRRGGBB pixels: the flat frame, and the middle band of the sphere unrolled."""

    flat: NDArray[np.uint32]
    band: NDArray[np.uint32]


def pictured(
    files: Sequence[Path], take: Take, view: View, *, size_px: tuple[int, int] = FLAT_PX, at_s: float | None = None
) -> Small:
    """A take's small pictures, by itself from where it has begun to show something. Raises ClipError, InputError."""
    footage = open_footage(files, take.taken_as)
    turns = known_turns(take, footage)
    with footage.reader() as reader:
        decoded = reader.at(moment_of(take) if at_s is None else at_s)
        sphere, time_s = footage.sphere(decoded), float(decoded.time)
    turn = None if turns is None else turns.at(time_s)
    wide = unrolled_level(sphere, (size_px[0], size_px[0] // 2), footage.shows, turn)
    low, high = (round(share * size_px[0] / 2) for share in BAND_SHARE)
    return Small(_flat(footage, sphere, view, turns, size_px, time_s), colour.rgb32(wide)[low:high])


def _flat(footage: Footage, sphere, view: View, turns: TurnTrack | None, size_px: tuple[int, int], time_s: float):  # type: ignore[no-untyped-def]
    sight = view if turns is None else turned(view, turns.at(time_s))
    return colour.rgb32(drawn(Flat(size_px, steady(sight), Filter.FAST, shows=footage.shows), sphere))


def moment_of(take: Take) -> float:
    """Where a take has begun to show something: a third into what is worth keeping of it."""
    if take.kind in ("photo", "bracket"):
        return 0.0
    begin, end = take.part_s or (0.0, take.duration_s)
    return begin + min((end - begin) / 3.0, _MOST_S)


def guesses(project: Project, shot: Shot | None, take: Take) -> dict[str, View]:
    """Where to look first, the best guess before others, in the frame that the take's views are meant in: at the subject where
    somebody planned one, where its own file wants to be seen, at who films where that is known, ahead and behind."""
    found: dict[str, View] = {}
    if shot is not None and shot in project.planned and take.placement is not None:
        plan = plan_of(project, shot)
        found["the subject"] = plan.start_view
        yaw, pitch = plan.yaw_pitch_deg(plan.filmer_head)
        found["who films"] = View(yaw_deg=yaw, pitch_deg=pitch, fov_deg=plan.start_view.fov_deg)
    if take.first_view is not None:
        found["as its file wants"] = View(yaw_deg=take.first_view[0], pitch_deg=take.first_view[1])
    cut = next((one for one in shot.cuts if one.take_id == take.id and one.keys), None) if shot is not None else None
    if cut is not None and cut.keys[0].view not in found.values() and cut.keys[0].view != View():
        found["as its cut begins"] = cut.keys[0].view
    return found | {"ahead": View(), "behind": View(yaw_deg=180.0)}
