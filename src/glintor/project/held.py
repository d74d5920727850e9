"""How a take is held still: the turn from its picture to the frame in which its views are meant, and takes held another way."""

import threading

from msgspec.structs import replace

from glintor.media.footage import Footage
from glintor.media.orientation import known_orientation, level_from, orientation_of
from glintor.project.model import Shot, with_cut, with_take
from glintor.project.take import Take
from glintor.reframing.edits import seen_as_before
from glintor.sphere.rotation import view_matrix
from glintor.sphere.steady import Orientation, held
from glintor.sphere.turn import TurnTrack
from glintor.types import Array, Report

WORDS = {
    "off": "as it was filmed",
    "smooth": "shake taken out",
    "level": "horizon level",
    "lock": "the world stands still",
    "heading": "ahead is the way",
}


def needs_turning(take: Take) -> bool:
    """Whether it must be known how a take's camera turned before it can be drawn as it is wanted."""
    return take.steady.mode != "off" and take.kind in ("film", "lapse")


def horizon_turn(take: Take) -> Array | None:
    """(3, 3) from the picture to a level frame, as far as the file or a hand tells it for the whole take; None where nobody does."""
    if take.horizon is None:
        return None
    return view_matrix(0.0, take.horizon.pitch_deg, take.horizon.roll_deg)


def turns_of(take: Take, orientation: Orientation | None) -> TurnTrack | None:
    """The turn from a take's picture to the frame that its views are meant in; None where both are the same, or where it is not
    known yet how the camera turned. Raises InputError where what a way of holding needs is not known."""
    if not needs_turning(take):
        level = horizon_turn(take)
        return None if level is None else TurnTrack.still(level)
    if orientation is None:
        return None
    if take.horizon is not None:
        turn = TurnTrack(orientation.time_s, orientation.quaternions).at(take.horizon.at_s)
        orientation = replace(
            orientation, up=level_from(turn, take.horizon.pitch_deg, take.horizon.roll_deg), up_sure=True
        )
    return held(orientation, take.steady.mode, take.steady.strength_s)


def known_turns(take: Take, footage: Footage) -> TurnTrack | None:
    """The same with what was found already; None where nothing was."""
    return turns_of(take, known_orientation(footage) if needs_turning(take) else None)


def found_turns(
    take: Take, footage: Footage, *, report: Report = lambda _share: None, stop: threading.Event | None = None
) -> TurnTrack | None:
    """The same; how the camera turned is found where nobody did. Raises ClipError, InputError, Cancelled."""
    return turns_of(take, orientation_of(footage, report=report, stop=stop) if needs_turning(take) else None)


def held_otherwise(shot: Shot, take: Take, before: TurnTrack | None, after: TurnTrack | None) -> Shot:
    """The shot with a take held another way: every keyframe still shows at its moment what it showed."""
    shot = with_take(shot, take)
    for cut in shot.cuts:
        if cut.take_id == take.id:
            shot = with_cut(shot, seen_as_before(cut, before, after))
    return shot
