"""Edits of what a cut's view is held on."""

from msgspec.structs import replace

from glintor.reframing.anchor import Anchor
from glintor.reframing.course import NOTHING, Targets, key_showing, shared
from glintor.reframing.cut import Cut
from glintor.reframing.path import Keyframe
from glintor.sphere.angle import nearest_turn_deg


def anchor_of(cut: Cut, name: str) -> Anchor | None:
    """The anchor of that name."""
    return next((anchor for anchor in cut.anchors if anchor.id == name), None)


def stretch_of(cut: Cut, index: int) -> tuple[int, int]:
    """First and one past the last of the keyframes round one that are held on the same without a break."""
    on = cut.keys[index].on
    first = last = index
    while first > 0 and cut.keys[first - 1].on == on:
        first -= 1
    while last + 1 < len(cut.keys) and cut.keys[last + 1].on == on:
        last += 1
    return first, last + 1


def held_on(cut: Cut, index: int, anchor: Anchor | None, targets: Targets, *, centred: bool = False) -> Cut:
    """The cut held on something, or on nothing, from a keyframe on until it is held on something else. Every keyframe shows what it
    showed; centred: the first looks at the thing itself, and the others keep their distance from it. targets: with the new one's."""
    on = "" if anchor is None else anchor.id
    course = shared(cut, targets)
    keys: list[Keyframe] = list(cut.keys)
    for n in range(index, stretch_of(cut, index)[1]):
        key = keys[n]
        told = key_showing(key.time_s, course.at(key.time_s), on, targets)
        near = keys[n - 1].yaw_deg if n > index else told.yaw_deg if on else key.yaw_deg
        keys[n] = replace(
            key,
            on=on,
            yaw_deg=nearest_turn_deg(told.yaw_deg, near if n > index else (0.0 if on else near)),
            pitch_deg=told.pitch_deg,
            roll_deg=told.roll_deg,
            fov_deg=told.fov_deg,
            bend=told.bend,
        )
    if centred and on:
        aside = keys[index]
        for n in range(index, stretch_of(cut, index)[1]):
            keys[n] = replace(
                keys[n],
                yaw_deg=keys[n].yaw_deg - aside.yaw_deg,
                pitch_deg=min(max(keys[n].pitch_deg - aside.pitch_deg, -90.0), 90.0),
            )
    kept = cut.anchors if anchor is None else (*(a for a in cut.anchors if a.id != on), anchor)
    return swept(replace(cut, keys=tuple(keys), anchors=kept))


def swept(cut: Cut) -> Cut:
    """Without anchors that no keyframe is held on."""
    used = {key.on for key in cut.keys}
    return replace(cut, anchors=tuple(anchor for anchor in cut.anchors if anchor.id in used))


def with_anchor(cut: Cut, anchor: Anchor) -> Cut:
    """An anchor changed: its keyframes stay as far from it as they were."""
    return replace(cut, anchors=tuple(anchor if a.id == anchor.id else a for a in cut.anchors))


def let_go(cut: Cut, targets: Targets = NOTHING) -> Cut:
    """Nothing held on any more: every keyframe shows at its moment what it showed."""
    for index in range(len(cut.keys)):
        if cut.keys[index].on:
            cut = held_on(cut, index, None, targets)
    return cut
