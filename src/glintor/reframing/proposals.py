"""First paths for a take that differ in kind, each with its reason: to begin from, not to be obeyed."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from glintor.reframing.anchor import Anchor
from glintor.reframing.attention import watched
from glintor.reframing.curve import SAME_TIME_S
from glintor.reframing.cut import Cut
from glintor.reframing.looks import LOOKS
from glintor.reframing.path import Keyframe
from glintor.reframing.track import Track
from glintor.sphere import lens
from glintor.sphere.angle import nearest_turn_deg, wrap_deg
from glintor.sphere.view import View, within_limits
from glintor.types import Array

_EYE = next(look for look in LOOKS if look.name == "Eye")
_GLOBE = next(look for look in LOOKS if look.name == "Globe")
_TALL = 0.4  # of the frame's height that a followed subject has at its usual size
_TURN_S, _HOLD_S = 2.6, 2.4  # of looking about
_GLANCE_S = 1.2  # from one thing to another people take about a second (common practice, no source)
_LEAST_KNOWN = 0.3  # of the cut in which a subject must be known to be followed
_ASIDE_DEG = 75.0


class Given(Struct, frozen=True, eq=False):
    """What a proposal may be made from; None where nobody knows: the subject's track and name, bearings of travel as it begins and of
    the sun, marked moments, the view that the cut has now, and how much changes where: moments of the clip (n,) and amounts as
    `attention.watched` takes them."""

    cut: Cut
    view: View
    track: Track | None = None
    subject: str = "the subject"
    travel_deg: float | None = None
    sun_deg: float | None = None
    marks_s: Sequence[float] = ()
    changes: tuple[Array, Array] | None = None


class Proposal(Struct, frozen=True):
    """A path with its name and, in a sentence, why."""

    name: str
    reason: str
    cut: Cut


def proposals(given: Given) -> list[Proposal]:
    """At least four paths for a cut, of different kinds."""
    clock = given.cut.clock
    track = None if given.track is None else given.track.on(clock)
    given = replace(given, track=track, marks_s=[float(clock.path_s(m)) for m in given.marks_s])
    made = [_follow(given), _what_changes(given), _look_about(given), _reveal(given), _wide(given), _planet(given)]
    return [replace(p, reason=p.reason[0].upper() + p.reason[1:]) for p in made if p is not None]


def _with(given: Given, *keys: Keyframe, anchors: tuple[Anchor, ...] = ()) -> Cut:
    ordered, last = [], -np.inf
    for key in sorted(keys, key=lambda k: k.time_s):
        if key.time_s - last > SAME_TIME_S:
            ordered.append(key)
            last = key.time_s
    return replace(given.cut, keys=tuple(ordered), anchors=anchors, own=(), moves=())


def _key(time_s: float, view: View, **how: object) -> Keyframe:
    return replace(Keyframe.of(round(time_s, 4), view), **how)


def _known(given: Given) -> tuple[Array, Array] | None:
    """Times (n,) of the cut, and where the subject is then (n, 2); None where that is not known for long enough."""
    track, cut = given.track, given.cut
    if track is None or not len(track.time_s):
        return None
    times = np.linspace(cut.begins_s, cut.ends_s, 80)
    there = track.at(times)
    if there.known.mean() < _LEAST_KNOWN:
        return None
    return times[there.known], np.stack([there.yaw_deg, there.pitch_deg], axis=1)[there.known]


def _ahead(given: Given) -> tuple[float, str]:
    """The bearing that a film would look to by itself, and what it is."""
    known = _known(given)
    if known is not None:
        return float(known[1][0, 0]), given.subject
    if given.travel_deg is not None:
        return given.travel_deg, "the way ahead"
    return given.view.yaw_deg, "where the cut looks now"


def _width(given: Given) -> float:
    """A field of view in which the subject is as tall as it should be, else the natural one."""
    track = given.track
    if track is None or track.size_deg is None or not track.known.any():
        return _EYE.fov_deg
    size = float(np.median(track.size_deg[track.known]))
    focal = _TALL * (9.0 / 16.0) / (2.0 * np.tan(np.radians(size) / 2.0))
    return float(np.clip(lens.fov_of_focal(focal, _EYE.bend), 45.0, 110.0))


def _follow(given: Given) -> Proposal | None:
    known = _known(given)
    if known is None:
        return None
    anchor = Anchor(id="proposed", on="subject", dead_deg=2.0, smooth_s=0.7)
    view = within_limits(View(bend=_EYE.bend), fov_deg=_width(given))
    cut = _with(given, _key(given.cut.begins_s, view, on=anchor.id), anchors=(anchor,))
    assert given.track is not None, "it is known"
    share = float(given.track.at(np.linspace(given.cut.begins_s, given.cut.ends_s, 80)).known.mean())
    return Proposal(
        "Follow", f"{given.subject} is known for {share:.0%} of it, and stays in the middle without being chased.", cut
    )


def _look_about(given: Given) -> Proposal:
    """Ahead, to the side that the sun lights, and back; where moments were marked, it is ahead then."""
    cut, (yaw, name) = given.cut, _ahead(given)
    side, why = 1.0, "to the right"
    if given.sun_deg is not None:  # with the sun in one's back
        side = -1.0 if float(wrap_deg(given.sun_deg - yaw)) > 0.0 else 1.0
        why = "to the side that the sun lights"
    home = within_limits(
        View(yaw_deg=yaw, bend=_EYE.bend), pitch_deg=min(max(given.view.pitch_deg, -12.0), 12.0), fov_deg=_EYE.fov_deg
    )
    away = replace(home, yaw_deg=yaw + side * _ASIDE_DEG)
    length = cut.ends_s - cut.begins_s
    hold, turn = (min(s, length / 6.0) for s in (_HOLD_S, _TURN_S))
    start = cut.begins_s + max((length - 2 * turn - hold) * 0.4, hold * 0.5)
    inside = [m for m in given.marks_s if cut.begins_s < m < cut.ends_s]
    if inside:  # looked about before or after what was marked, not while it is there
        first = min(inside)
        if first - cut.begins_s > 2 * turn + hold:
            start = first - 2 * turn - hold
        elif cut.ends_s - max(inside) > 2 * turn + hold:
            start = max(inside) + 0.5
        why += ", not while something marked happens"
    keys = [
        _key(cut.begins_s, home),
        _key(start, home, leaves="soft"),
        _key(start + turn, away, arrives="soft"),
        _key(start + turn + hold, away, leaves="soft"),
        _key(min(start + 2 * turn + hold, cut.ends_s), home, arrives="soft"),
    ]
    return Proposal(
        "Look about and return", f"Begins and ends on {name}; in between it looks {why}.", _with(given, *keys)
    )


def _what_changes(given: Given) -> Proposal | None:
    """Holds on what changes in the picture, one after the other."""
    if given.changes is None:
        return None
    cut = given.cut
    times, amount = given.changes
    holds = watched(cut.clock.path_s(times), amount, cut.span_s)
    if not holds:
        return None
    keys = []
    for n, hold in enumerate(holds):
        view = within_limits(View(yaw_deg=hold.yaw_deg, bend=_EYE.bend), pitch_deg=hold.pitch_deg, fov_deg=_EYE.fov_deg)
        begin = hold.start_s + (_GLANCE_S / 2.0 if n else 0.0)
        keys.append(_key(begin, view, arrives="soft"))
        if n + 1 < len(holds):
            keys.append(_key(hold.end_s - _GLANCE_S / 2.0, view, leaves="soft"))
    lasts = [hold.end_s - hold.start_s for hold in holds]
    share = float(np.average([hold.share for hold in holds], weights=lasts))
    words = ", then ".join(_bearing_words(hold.yaw_deg) for hold in holds[:3]) + (" and on" if len(holds) > 3 else "")
    return Proposal(
        "What changes",
        f"Holds on where the picture changes: {words}; {share:.0%} of it is in sight.",
        _with(given, *keys),
    )


def _bearing_words(yaw_deg: float) -> str:
    """Such as "40° right"."""
    yaw = round(float(wrap_deg(yaw_deg)))
    return "ahead" if abs(yaw) < 8 else "behind" if abs(yaw) > 172 else f"{abs(yaw)}° {'right' if yaw > 0 else 'left'}"


def _reveal(given: Given) -> Proposal:
    """From elsewhere to what it is about, which it then rests on."""
    cut, (yaw, name) = given.cut, _ahead(given)
    length, known = cut.ends_s - cut.begins_s, _known(given)
    moment = next(
        (m for m in given.marks_s if cut.begins_s + 1.5 < m < cut.ends_s - 1.0), cut.begins_s + min(0.35 * length, 4.0)
    )
    if known is not None:
        at = int(np.argmin(np.abs(known[0] - moment)))
        yaw = nearest_turn_deg(float(known[1][at, 0]), yaw)
    end = within_limits(
        View(yaw_deg=yaw, bend=_EYE.bend),
        fov_deg=_width(given),
        pitch_deg=float(known[1][0, 1]) if known is not None else 0.0,
    )
    start = within_limits(
        replace(end, yaw_deg=yaw - 60.0), pitch_deg=end.pitch_deg + 35.0, fov_deg=min(end.fov_deg * 1.25, 120.0)
    )
    begun = max(moment - 3.2, cut.begins_s)
    keys = [_key(cut.begins_s, start), _key(begun + 0.01, start, leaves="soft"), _key(moment, end, arrives="soft")]
    told = (
        "the first marked moment"
        if any(abs(m - moment) < 1e-6 for m in given.marks_s)
        else f"{moment - cut.begins_s:.1f} s"
    )
    return Proposal("Reveal", f"Begins in sky and surroundings and comes to {name} at {told}.", _with(given, *keys))


def _wide(given: Given) -> Proposal:
    """One view that holds all of it."""
    (yaw, name), known = _ahead(given), _known(given)
    spread = 0.0
    if known is not None:
        looks = np.unwrap(np.radians(known[1][:, 0]))
        yaw, spread = float(np.degrees((looks.max() + looks.min()) / 2.0)), float(np.degrees(np.ptp(looks)))
    bend = 0.45
    view = within_limits(
        View(yaw_deg=yaw, bend=bend), fov_deg=float(np.clip(spread * 1.2 + 60.0, 115.0, 150.0)), pitch_deg=-4.0
    )
    why = f"{name} stays inside it all the time" if spread < 110.0 else f"it faces the middle of where {name} goes"
    return Proposal("Wide and still", f"One view without a move; {why}.", _with(given, _key(given.cut.begins_s, view)))


def _planet(given: Given) -> Proposal:
    """From the globe down to eye level."""
    cut, (yaw, name) = given.cut, _ahead(given)
    end = within_limits(View(yaw_deg=yaw, bend=_EYE.bend), fov_deg=_EYE.fov_deg, pitch_deg=-3.0)
    globe = within_limits(_GLOBE.on(end), yaw_deg=yaw - 100.0)
    land = cut.begins_s + min(5.0, 0.5 * (cut.ends_s - cut.begins_s))
    keys = [_key(cut.begins_s, globe, leaves="soft"), _key(land, end, arrives="soft")]
    return Proposal("Planet", f"The place as a small planet at first; it lands looking at {name}.", _with(given, *keys))


def part_taken(cut: Cut, proposal: Cut, part_s: tuple[float, float]) -> Cut:
    """A cut with a proposal's path in a part of it: keyframes are set where the part begins and ends."""
    from glintor.reframing.path import path_of

    start, end = part_s
    if any(key.on for key in proposal.keys):
        inside = [k for k in proposal.keys if start < k.time_s < end]
        first = next((k for k in reversed(proposal.keys) if k.time_s <= start), proposal.keys[0])
        keys = [replace(first, time_s=start), *inside]
    else:
        path = path_of(proposal.keys, proposal.span_s)
        keys = [
            Keyframe.of(start, path.at(start)),
            *(k for k in proposal.keys if start + SAME_TIME_S < k.time_s < end - SAME_TIME_S),
            Keyframe.of(end, path.at(end)),
        ]
    outside = [k for k in cut.keys if not start - SAME_TIME_S <= k.time_s <= end + SAME_TIME_S]
    back = next((k for k in cut.keys if k.time_s > end), None)
    if back is None and any(k.on for k in keys):
        outside.append(replace(cut.keys[-1], time_s=end, on=cut.keys[-1].on))
    anchors = {a.id: a for a in (*cut.anchors, *proposal.anchors)}
    used = {k.on for k in (*outside, *keys)}
    return replace(
        cut,
        keys=tuple(sorted([*outside, *keys], key=lambda k: k.time_s)),
        anchors=tuple(a for name, a in anchors.items() if name in used),
    )
