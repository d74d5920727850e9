"""Ready moves: makers of keyframes with a few handles. A move stays one until a keyframe of it is changed by hand."""

from collections.abc import Callable

from msgspec import Struct
from msgspec.structs import replace

from glintor.reframing.arranging import turned
from glintor.reframing.course import NOTHING, Targets, key_showing, shared
from glintor.reframing.cut import Cut, Move, MoveKind
from glintor.reframing.looks import LOOKS
from glintor.reframing.path import Keyframe
from glintor.sphere.angle import nearest_turn_deg
from glintor.sphere.view import View, within_limits

_GLOBE = next(look for look in LOOKS if look.name == "Globe")
_WHIP_S, _PASS_S = 0.4, 0.8


class Kind(Struct, frozen=True):
    """A kind of move: its words, what its amount is with unit, usual value and limits, how long it usually lasts, and whether a way to
    the left or right can be chosen. turns: whole turns of yaw and roll that it leaves behind, of its amount and way."""

    words: str
    tip: str
    amount: str
    unit: str
    usual: float
    least: float
    most: float
    usual_s: float
    keys: Callable[[Move], list[Keyframe]]
    sided: bool = True
    yaw_turns: Callable[[Move], float] = lambda _move: 0.0
    roll_turns: Callable[[Move], float] = lambda _move: 0.0


def _at(move: Move, share: float, view: View, **how: object) -> Keyframe:
    when = move.start_s + (move.end_s - move.start_s) * share
    return replace(Keyframe.of(round(when, 4), view), on=move.on, move=move.id, **how)


def _turn(view: View, yaw: float = 0.0, pitch: float = 0.0, roll: float = 0.0, wider: float = 1.0) -> View:
    return within_limits(
        view,
        yaw_deg=view.yaw_deg + yaw,
        pitch_deg=view.pitch_deg + pitch,
        roll_deg=view.roll_deg + roll,
        fov_deg=view.fov_deg * wider,
    )


def _look_round(m: Move) -> list[Keyframe]:
    end = _turn(replace(m.opening, fov_deg=m.closing.fov_deg, bend=m.closing.bend), 360.0 * m.amount * m.way)
    return [_at(m, 0.0, m.opening, leaves="soft"), _at(m, 1.0, end, arrives="soft")]


def _tilt(m: Move) -> list[Keyframe]:
    return [_at(m, 0.0, _turn(m.closing, pitch=m.amount), leaves="soft"), _at(m, 1.0, m.closing, arrives="soft")]


def _reveal_turn(m: Move) -> list[Keyframe]:
    away = _turn(m.closing, -m.way * m.amount)
    return [_at(m, 0.0, away, leaves="soft"), _at(m, 1.0, m.closing, arrives="soft")]


def _draw_back(m: Move) -> list[Keyframe]:
    return [_at(m, 0.0, _turn(m.closing, wider=1.0 / m.amount), leaves="soft"), _at(m, 1.0, m.closing, arrives="soft")]


def _whip(m: Move) -> list[Keyframe]:
    half = min(_WHIP_S / max(m.end_s - m.start_s, 1e-6), 0.8) / 2.0
    rear = _turn(m.opening, m.way * m.amount)
    return [
        _at(m, 0.0, m.opening),
        _at(m, 0.5 - half, m.opening, leaves="soft"),
        _at(m, 0.5 + half, rear, arrives="soft"),
        _at(m, 1.0, rear),
    ]


def _corkscrew(m: Move) -> list[Keyframe]:
    end = replace(m.closing, roll_deg=m.closing.roll_deg + 360.0 * m.amount * m.way)
    middle = within_limits(
        m.opening,
        yaw_deg=(m.opening.yaw_deg + m.closing.yaw_deg) / 2.0,
        pitch_deg=(m.opening.pitch_deg + m.closing.pitch_deg) / 2.0,
        roll_deg=(m.opening.roll_deg + end.roll_deg) / 2.0,
        fov_deg=max(m.opening.fov_deg, m.closing.fov_deg) * 1.25,
        bend=max(m.opening.bend, m.closing.bend, 0.4),
    )
    return [_at(m, 0.0, m.opening, leaves="soft"), _at(m, 0.5, middle), _at(m, 1.0, end, arrives="soft")]


def _from_globe(m: Move) -> list[Keyframe]:
    globe = within_limits(_GLOBE.on(m.closing), yaw_deg=m.closing.yaw_deg - m.way * m.amount)
    return [_at(m, 0.0, globe, leaves="soft"), _at(m, 1.0, m.closing, arrives="soft")]


def _into_globe(m: Move) -> list[Keyframe]:
    globe = within_limits(_GLOBE.on(m.opening), yaw_deg=m.opening.yaw_deg + m.way * m.amount)
    return [_at(m, 0.0, m.opening, leaves="soft"), _at(m, 1.0, globe, arrives="soft")]


def _third_person(m: Move) -> list[Keyframe]:
    """Ahead, then the one who films or rides, then ahead again."""
    ahead = m.opening
    behind = within_limits(m.closing, fov_deg=m.amount)
    behind = replace(behind, yaw_deg=_sided(behind.yaw_deg, ahead.yaw_deg, m.way))
    quick = min(1.0 / max(m.end_s - m.start_s, 1e-6), 0.22)
    return [
        _at(m, 0.0, ahead),
        _at(m, 0.28 - quick / 2, ahead, leaves="soft"),
        _at(m, 0.28 + quick / 2, behind, arrives="soft", leaves="soft"),
        _at(m, 0.72 - quick / 2, behind, leaves="soft"),
        _at(m, 0.72 + quick / 2, ahead, arrives="soft"),
        _at(m, 1.0, ahead),
    ]


def _sided(yaw: float, start: float, way: int) -> float:
    near = nearest_turn_deg(yaw, start)
    if (near - start) * way >= 0.0 or abs(near - start) < 150.0:  # what is not behind is gone to the short way
        return near
    return near + 360.0 * way


def _round_subject(m: Move) -> list[Keyframe]:
    left, right = (_turn(m.closing, side * m.way * m.amount, wider=1.12) for side in (-1.0, 1.0))
    middle = _turn(m.closing, pitch=0.15 * m.amount, wider=0.92)
    return [_at(m, 0.0, left, leaves="soft"), _at(m, 0.5, middle), _at(m, 1.0, right, arrives="soft")]


def _drift(m: Move) -> list[Keyframe]:
    a, b = (_turn(m.opening, side * m.way * m.amount / 2.0, wider=1.0 - 0.03 * side) for side in (-1.0, 1.0))
    return [_at(m, 0.0, a, leaves="even"), _at(m, 1.0, b, arrives="even")]


def _pendulum(m: Move) -> list[Keyframe]:
    out, swings = [_at(m, 0.0, m.opening, leaves="soft")], (1.0, -0.7, 0.45, -0.25)
    for n, swing in enumerate(swings, start=1):
        view = _turn(m.opening, m.way * m.amount * swing, roll=m.way * m.amount * swing * 0.15)
        out.append(_at(m, n / (len(swings) + 1), view))
    return [*out, _at(m, 1.0, m.opening, arrives="soft")]


def _gap(m: Move) -> list[Keyframe]:
    tight = _turn(m.opening, wider=1.0 / m.amount)
    through = within_limits(m.opening, fov_deg=max(m.opening.fov_deg * 1.3, 130.0), bend=0.6)
    past = min(_PASS_S / max(m.end_s - m.start_s, 1e-6), 0.4)
    return [
        _at(m, 0.0, m.opening, leaves="soft"),
        _at(m, 1.0 - past, tight, arrives="soft", leaves="soft"),
        _at(m, 1.0 - past / 2, through, arrives="soft", leaves="soft"),
        _at(m, 1.0, m.closing, arrives="soft"),
    ]


def _turns(move: Move) -> float:
    return move.way * move.amount


KINDS: dict[MoveKind, Kind] = {
    "round": Kind(
        "Look round once",
        "All the way round, and where it was again",
        "turns",
        "",
        1.0,
        0.5,
        4.0,
        12.0,
        _look_round,
        yaw_turns=_turns,
    ),
    "tilt": Kind(
        "Reveal by tilt",
        "From the sky or the ground to what is to be seen",
        "from",
        "°",
        55.0,
        -80.0,
        80.0,
        4.0,
        _tilt,
        sided=False,
    ),
    "turn": Kind(
        "Reveal by turn", "Looks elsewhere first, and turns to it", "from", "°", 110.0, 20.0, 180.0, 6.0, _reveal_turn
    ),
    "back": Kind(
        "Reveal by drawing back",
        "Close at first, then all of it",
        "closer",
        "×",
        2.5,
        1.1,
        6.0,
        5.0,
        _draw_back,
        sided=False,
    ),
    "whip": Kind(
        "Whip to the rear",
        "Two holds and a turn that is too quick to be seen",
        "by",
        "°",
        180.0,
        60.0,
        180.0,
        4.0,
        _whip,
    ),
    "corkscrew": Kind(
        "Corkscrew", "Rolls over while it looks on", "turns", "", 1.0, 1.0, 3.0, 3.0, _corkscrew, roll_turns=_turns
    ),
    "from_globe": Kind(
        "Open from the globe",
        "A small planet at first, then on the ground",
        "spins",
        "°",
        90.0,
        0.0,
        360.0,
        4.0,
        _from_globe,
    ),
    "into_globe": Kind(
        "End in the globe", "From the ground up to a small planet", "spins", "°", 90.0, 0.0, 360.0, 4.0, _into_globe
    ),
    "third": Kind(
        "First person to third and back",
        "Ahead, then whoever films or rides, then ahead",
        "view",
        "°",
        95.0,
        40.0,
        150.0,
        8.0,
        _third_person,
    ),
    "subject": Kind(
        "Round the subject", "Passes along it, closest in the middle", "by", "°", 24.0, 5.0, 70.0, 7.0, _round_subject
    ),
    "drift": Kind("Slow drift", "Hardly seen, but not dead", "by", "°", 8.0, 2.0, 40.0, 8.0, _drift),
    "pendulum": Kind("Pendulum", "Swings out and comes to rest", "by", "°", 30.0, 5.0, 90.0, 5.0, _pendulum),
    "gap": Kind(
        "Push through a gap",
        "Closes in, is through, and opens up",
        "closer",
        "×",
        2.2,
        1.2,
        5.0,
        5.0,
        _gap,
        sided=False,
    ),
}  # fmt: skip (a table, read by its rows)


def make_move(
    cut: Cut,
    kind: MoveKind,
    part_s: tuple[float, float],
    *,
    name: str,
    subject: tuple[float, float] | None = None,
    cost: Callable[[Cut], float] | None = None,
    targets: Targets = NOTHING,
) -> Cut:
    """A cut with a move over a part of it, fitted to what is there. subject: yaw and pitch of who is filmed as it ends, in the frame that
    views are meant in; cost: of a cut, by which left or right is chosen."""
    how = KINDS[kind]
    on = next((k.on for k in reversed(cut.keys) if k.time_s <= part_s[0] + 1e-6), cut.keys[0].on)
    course, (start, end) = shared(cut, targets), part_s
    opening, closing = (key_showing(t, course.at(t), on, targets).view for t in (start, end))
    if on and kind in ("turn", "back", "subject", "third"):
        closing = replace(closing, yaw_deg=0.0, pitch_deg=0.0)  # what it is held on
    elif subject is not None and kind in ("turn", "back", "subject", "third", "tilt"):
        yaw = nearest_turn_deg(subject[0], opening.yaw_deg)
        closing = within_limits(closing, yaw_deg=yaw, pitch_deg=subject[1])
    elif kind == "third":  # nobody knows where whoever films is: behind, until the view is turned to them
        closing = replace(closing, yaw_deg=opening.yaw_deg + 180.0)
    made = [
        Move(
            id=name,
            kind=kind,
            start_s=start,
            end_s=end,
            amount=how.usual,
            way=way,
            opening=opening,
            closing=closing,
            on=on,
        )
        for way in ((1, -1) if how.sided else (1,))
    ]
    cuts = [with_move(cut, move) for move in made]
    return cuts[0] if cost is None or len(cuts) == 1 else min(cuts, key=cost)


def move_of(cut: Cut, move_id: str) -> Move | None:
    """The move of that name."""
    return next((move for move in cut.moves if move.id == move_id), None)


def with_move(cut: Cut, move: Move) -> Cut:
    """A cut with a move, in place of one of the same name and of the keyframes that stand in its time; what follows turns along with
    whole turns."""
    cut = _cleared(cut, move.id)
    kept = [k for k in cut.keys if not move.start_s - 1e-4 <= k.time_s <= move.end_s + 1e-4]
    after = replace(cut, keys=tuple(kept)) if kept else cut
    later = [n for n, k in enumerate(after.keys) if kept and k.time_s > move.end_s]
    shifted = _turned_along(after, later, move, 1.0)
    keys = (*(shifted.keys if kept else ()), *KINDS[move.kind].keys(move))
    return replace(cut, keys=tuple(sorted(keys, key=lambda k: k.time_s)), moves=(*cut.moves, move))


def _turned_along(cut: Cut, later: list[int], move: Move, sign: float) -> Cut:
    how = KINDS[move.kind]
    yaw, roll = (sign * 360.0 * round(turns(move)) for turns in (how.yaw_turns, how.roll_turns))
    if not later or not (yaw or roll):
        return cut
    cut = turned(cut, later, yaw)
    keys = tuple(replace(k, roll_deg=k.roll_deg + roll) if n in set(later) else k for n, k in enumerate(cut.keys))
    return replace(cut, keys=keys)


def _cleared(cut: Cut, move_id: str) -> Cut:
    """Without a move, its keyframes and the turns that it left behind."""
    old = move_of(cut, move_id)
    if old is None:
        return cut
    later = [n for n, k in enumerate(cut.keys) if k.time_s > old.end_s + 1e-4]
    cut = _turned_along(cut, later, old, -1.0)
    keys = tuple(k for k in cut.keys if k.move != move_id)
    return replace(
        cut, keys=keys or (replace(cut.keys[0], move=""),), moves=tuple(m for m in cut.moves if m.id != move_id)
    )


def without_move(cut: Cut, move_id: str) -> Cut:
    """A cut without a move: where it was, the path goes on between what stands round it. The first view stays where nothing else does."""
    return _cleared(cut, move_id)


def dissolved(cut: Cut, move_id: str) -> Cut:
    """The keyframes of a move as plain ones."""
    keys = tuple(replace(k, move="") if k.move == move_id else k for k in cut.keys)
    return replace(cut, keys=keys, moves=tuple(m for m in cut.moves if m.id != move_id))


def _taken_by_its_end(move: Move, made: list[Keyframe], there: list[Keyframe]) -> Move | None:
    """The move with another view at the end that a hand turned on the frame; None where it was changed otherwise."""
    changed = [n for n, (a, b) in enumerate(zip(made, there, strict=False)) if a != b]
    if len(made) != len(there) or len(changed) != 1 or made[changed[0]].time_s != there[changed[0]].time_s:
        return None
    n = changed[0]
    ends = {0: ("opening", move.opening), len(made) - 1: ("closing", move.closing)}
    name, view = ends.get(n, ("", None))
    if view is None or made[n].view != view:  # its kind makes something else of that view
        return None
    return replace(move, **{name: there[n].view})


def settled(cut: Cut) -> Cut:
    """A cut after any edit: a move that was shifted in time, or turned on the frame at one of its ends, stays one; one of which a keyframe
    was changed otherwise is dissolved into plain keyframes."""
    for move in cut.moves:
        there = [k for k in cut.keys if k.move == move.id]
        by = there[0].time_s - move.start_s if there else 0.0
        shifted = replace(move, start_s=round(move.start_s + by, 4), end_s=round(move.end_s + by, 4))
        made = sorted(KINDS[move.kind].keys(shifted), key=lambda k: k.time_s)
        if made != there:
            turned_to = _taken_by_its_end(move, made, there)
            cut = dissolved(cut, move.id) if turned_to is None else with_move(cut, turned_to)
        elif by:
            cut = replace(cut, moves=tuple(shifted if m.id == move.id else m for m in cut.moves))
    known = {move.id for move in cut.moves}
    if any(k.move and k.move not in known for k in cut.keys):
        cut = replace(cut, keys=tuple(k if k.move in known else replace(k, move="") for k in cut.keys))
    return cut
