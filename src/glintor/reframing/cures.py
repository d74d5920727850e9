"""What mends a finding of a path: each gives another cut, to be looked at before it is taken."""

from collections.abc import Callable

from msgspec.structs import replace

from glintor.finding import Finding
from glintor.reframing.anchor import Anchor
from glintor.reframing.arranging import softened, stages, turned, with_moves_spread, without
from glintor.reframing.course import Targets
from glintor.reframing.cut import Cut
from glintor.reframing.following import Following
from glintor.reframing.holding import OVER_S, held_over
from glintor.reframing.moves import make_move
from glintor.reframing.review_motion import MOVES_A_MINUTE, moves_a_minute
from glintor.sphere import lens
from glintor.sphere.view import within_limits

_WIDER, _CLOSER, _LIFT_DEG = 1.3, 0.65, 18.0
_BEND = 0.45


def cured(
    cut: Cut, finding: Finding, targets: Targets, *, step_s: float, duration_s: float, subject: Following | None = None
) -> Cut | None:
    """A cut without what was found, as far as its cure goes; None where there is none. subject: where the take's own is, so that it can
    be held on to."""
    if finding.cure is None:
        return None
    field, value = finding.cure.field, finding.cure.value
    if field == "cut.spread":
        return with_moves_spread(cut, finding.start_s, finding.end_s, float(value), min(duration_s, cut.ends_s))
    if field == "cut.hold":
        return None if subject is None else _hold(cut, finding, targets, step_s, subject)
    how = _CURES.get(field)
    return None if how is None else how(cut, finding, targets, step_s)


def _inside(cut: Cut, finding: Finding) -> set[int]:
    """The keyframes that make what was found: those in its time, and the nearest on both sides where none stands in it."""
    inside = {n for n, k in enumerate(cut.keys) if finding.start_s - 0.05 <= k.time_s <= finding.end_s + 0.05}
    before = max((n for n, k in enumerate(cut.keys) if k.time_s < finding.start_s), default=0)
    after = min((n for n, k in enumerate(cut.keys) if k.time_s > finding.end_s), default=len(cut.keys) - 1)
    return inside or {before, after}


def _level(cut: Cut, finding: Finding, _targets: Targets, _step_s: float) -> Cut:
    inside = _inside(cut, finding)
    return replace(
        cut,
        keys=tuple(
            replace(k, roll_deg=180.0 * round(k.roll_deg / 180.0)) if n in inside else k for n, k in enumerate(cut.keys)
        ),
    )


def _bend(cut: Cut, finding: Finding, _targets: Targets, _step_s: float) -> Cut:
    inside = {
        n for n, k in enumerate(cut.keys) if finding.start_s - 0.05 <= k.time_s <= finding.end_s + 0.05
    } or _inside(cut, finding)
    keys = tuple(
        replace(k, bend=max(k.bend, _BEND), fov_deg=min(k.fov_deg, lens.fov_limit_deg(max(k.bend, _BEND))))
        if n in inside
        else k
        for n, k in enumerate(cut.keys)
    )
    return replace(cut, keys=keys)


def _drop(cut: Cut, _finding: Finding, _targets: Targets, _step_s: float) -> Cut:
    """Without the shortest moves, until those that are left can be followed; the first and the last view stay."""
    while len(cut.keys) > 2 and moves_a_minute(cut) > MOVES_A_MINUTE:
        inner = [s for s in stages(cut.keys) if s.index + 1 < len(cut.keys) - 1]
        if not inner:
            break
        cut = without(cut, {min(inner, key=lambda s: s.end_s - s.start_s).index + 1})
    return cut


def _drift(cut: Cut, finding: Finding, targets: Targets, _step_s: float) -> Cut:
    return make_move(
        cut, "drift", (finding.start_s, finding.end_s), name=f"drift-{round(finding.start_s * 100)}", targets=targets
    )


def _hold(cut: Cut, finding: Finding, targets: Targets, step_s: float, subject: Following) -> Cut:
    """From just before it is lost the view is held on it."""
    start = max(finding.start_s - OVER_S, cut.begins_s)
    anchor = Anchor(id=f"subject-{round(start * 100)}", on="subject")
    end = finding.end_s + OVER_S if finding.end_s + 2.0 * OVER_S < cut.ends_s else None
    return held_over(cut, start, end, anchor, {**targets, anchor.id: subject}, step_s, centred=True)


def _scaled(factor: float) -> Callable[[Cut, Finding, Targets, float], Cut]:
    def scaled(cut: Cut, finding: Finding, _targets: Targets, _step_s: float) -> Cut:
        return turned(cut, _inside(cut, finding), tighter=1.0 / factor)

    return scaled


def _lift(cut: Cut, finding: Finding, _targets: Targets, _step_s: float) -> Cut:
    inside = _inside(cut, finding)
    keys = []
    for n, key in enumerate(cut.keys):
        lifted = within_limits(key.view, pitch_deg=key.pitch_deg + _LIFT_DEG)
        keys.append(replace(key, pitch_deg=lifted.pitch_deg) if n in inside else key)
    return replace(cut, keys=tuple(keys))


_CURES: dict[str, Callable[[Cut, Finding, Targets, float], Cut]] = {
    "cut.soften": lambda cut, _finding, _targets, _step_s: softened(cut),
    "cut.level": _level,
    "cut.bend": _bend,
    "cut.drop": _drop,
    "cut.drift": _drift,
    "cut.wider": _scaled(_WIDER),
    "cut.closer": _scaled(_CLOSER),
    "cut.lift": _lift,
}
