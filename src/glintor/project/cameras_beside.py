"""Other cameras that ran beside a take, on one clock with it: when, and where they stood as it saw them."""

from msgspec import Struct

from glintor.project.clocks import same_moment
from glintor.project.model import Project, Shot
from glintor.project.placed import layout_of_take
from glintor.project.take import Take


class RanBeside(Struct, frozen=True):
    """Another take: from when to when of the first one's clip it ran, and its bearing and height there, None where nobody knows."""

    name: str
    start_s: float
    end_s: float
    look: tuple[float, float] | None = None


def cameras_beside(project: Project, shot: Shot, take: Take) -> tuple[RanBeside, ...]:
    """The other takes of a shot that are lined up with one and ran at its time."""
    out = []
    for other in shot.takes:
        span = _span(take, other) if other.id != take.id else None
        if span is not None:
            out.append(RanBeside(other.name, *span, _look(project, take, other)))
    return tuple(out)


def _span(take: Take, other: Take) -> tuple[float, float] | None:
    """From when to when of a take another ran."""
    start, end = same_moment(other, take, 0.0), same_moment(other, take, other.duration_s)
    if start is None and same_moment(take, other, 0.0) is not None:
        start = 0.0
    if end is None and same_moment(take, other, take.duration_s) is not None:
        end = take.duration_s
    return None if start is None or end is None or end <= start else (start, end)


def _look(project: Project, take: Take, other: Take) -> tuple[float, float] | None:
    """Where another camera stood in a take's picture, where both lie as they were planned on one carrier."""
    here, there = layout_of_take(project, take), layout_of_take(project, other)
    if here is None or there is None or take.steady.mode != "off" or take.horizon is not None:
        return None
    assert take.placement is not None and other.placement is not None, "they are laid out"
    one = [(p.carrier, p.stage) for p in (take.placement, other.placement)]
    if (
        one[0] != one[1]
        or here.way_bearing_deg != there.way_bearing_deg
        or float(((here.camera - there.camera) ** 2).sum()) < _ONE_PLACE_M**2
    ):
        return None
    yaw, pitch = here.yaw_pitch_deg(there.camera)
    return float(yaw), float(pitch)


_ONE_PLACE_M = 0.05
