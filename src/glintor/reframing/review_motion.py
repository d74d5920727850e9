"""A path looked at for how it moves and what it leaves at the frame's edge: jerks, roll, zoom, stretch, holds against moves."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from glintor.finding import Cure, Finding, Level
from glintor.reframing.arranging import Stage, softened, stages, with_moves_spread
from glintor.reframing.course import Course, shared
from glintor.reframing.cut import Cut, MoveKind
from glintor.reframing.motion import Motion, motion_of
from glintor.types import Array

JERK_DEG_S3 = (
    900.0  # judgement, no source: a turn of 90 degrees in 1.4 s at the least jerk has 2000 at its ends, in 2 s 700
)
ROLL_DEG_S, ZOOM_S = (
    25.0,
    0.9,
)  # judgement, no source: quicker and a viewer holds on to the chair; factor e in so many seconds
STRETCH = 2.6  # judgement, no source: what stands at the frame's edge is drawn so many times as wide as in the middle
MOVES_A_MINUTE = 20.0  # about one in three seconds is the most that people follow (common practice, no source)
STILL_S = 12.0  # judgement, no source: so long a hold of a fixed view is looked at twice
LEAN_DEG = 2.5  # of the horizon in a hold: less is not seen (judgement, no source)
_SHORTEST_S = 0.25
_CLEARLY = 0.75  # of the jerk is left: then a softer move is felt


def runs(flags: NDArray[np.bool_], times_s: Array, shortest_s: float = _SHORTEST_S) -> list[tuple[float, float]]:
    """Stretches of time in which a flag holds, leaving out the very short ones."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], flags, [False]]).astype(int)))
    spans = [(float(times_s[a]), float(times_s[min(b, len(times_s)) - 1])) for a, b in edges.reshape(-1, 2)]
    return [(a, b) for a, b in spans if b - a >= shortest_s]


def in_stretches(
    spans: Sequence[tuple[float, float]], kind: str, level: Level, title: str, reason: str, cure: Cure | None = None
) -> Finding:
    """What holds for some stretches (seconds) of a cut, one at least: how long together, from the first to the last."""
    return Finding(
        desk="reframe",
        kind=kind,
        level=level,
        title=title,
        value=sum(b - a for a, b in spans),
        unit="s",
        start_s=spans[0][0],
        end_s=spans[-1][1],
        reason=reason,
        cure=cure,
    )


# Ready moves that are made for what would be a fault elsewhere, by the kind of finding.
_MEANT: dict[str, tuple[MoveKind, ...]] = {
    "roll": ("corkscrew", "pendulum"),
    "zoom": ("from_globe", "into_globe", "back"),
}


def is_meant(cut: Cut | None, start_s: float, end_s: float, kinds: Sequence[MoveKind]) -> bool:
    """Whether a ready move of one of these kinds holds a stretch."""
    moves = cut.moves if cut is not None else ()
    return any(m.kind in kinds and m.start_s <= start_s + 0.1 and m.end_s >= end_s - 0.1 for m in moves)


def motion_findings(course: Course, cut: Cut, times: Array, values: Array) -> list[Finding]:
    """Findings of how a cut's course moves, at times (n,) with its values (n, 5)."""
    motion = motion_of(course, times)
    fast = cut.timeline.pace(times)
    return [
        *_jerks(cut, motion, times, fast),
        *_quick(
            cut,
            motion.roll_deg_s * fast,
            times,
            ROLL_DEG_S,
            "roll",
            "Rolls too quickly",
            "°/s",
            "The horizon tips over faster than one can follow.",
        ),
        *_quick(
            cut,
            motion.zoom_s * fast,
            times,
            ZOOM_S,
            "zoom",
            "Zooms too quickly",
            "×/s",
            "The width changes faster than one can follow.",
        ),
        *_leaning(values, times, motion),
        *_holds(cut),
    ]


def _jerks(cut: Cut, motion: Motion, times: Array, fast: Array) -> list[Finding]:
    """Where softer moves would jerk clearly less: a quick one always does."""
    jerk, gentle = motion.jerk_deg_s3 * fast**3, softened(cut)
    if gentle == cut:
        return []
    jerk = np.where(_free(cut, times), jerk, 0.0)  # how a held view moves is not its keyframes' doing
    eased = motion_of(shared(gentle), times).jerk_deg_s3 * fast**3
    out = []
    for start, end in runs(jerk > JERK_DEG_S3, times, 0.0):
        part = (times >= start - 0.1) & (times <= end + 0.1)
        worst = float(jerk[part].max())
        if worst > 2.0 * JERK_DEG_S3 and float(eased[part].max()) < _CLEARLY * worst:
            out.append((worst, start, end))
    if not out:
        return []
    worst, start, end = max(out)
    return [
        Finding(
            desk="reframe",
            kind="jerk",
            level=Level.NOTE,
            title="Sets off or stops with a jerk",
            value=worst,
            limit=2.0 * JERK_DEG_S3,
            unit="°/s³",
            digits=0,
            start_s=start,
            end_s=max(end, start + 0.1),
            reason="Moves that begin and end softly are not felt.",
            cure=Cure("Soften all moves", "cut.soften", start),
        )
    ]


def _free(cut: Cut, times: Array) -> NDArray[np.bool_]:
    """(n,) whether the view is held on nothing at a moment, nor goes over to or from it."""
    held = np.array([bool(key.on) for key in cut.keys])
    after = np.searchsorted([key.time_s for key in cut.keys], times)
    return ~(held[np.clip(after, 0, len(held) - 1)] | held[np.clip(after - 1, 0, len(held) - 1)])


def _quick(
    cut: Cut, rate: Array, times: Array, limit: float, kind: str, title: str, unit: str, reason: str
) -> list[Finding]:
    out = []
    for start, end in runs(rate > limit, times):
        if is_meant(cut, start, end, _MEANT[kind]):
            continue
        worst = float(rate[(times >= start) & (times <= end)].max())
        needed = (end - start) * worst / limit
        room = with_moves_spread(cut, start, end, needed, cut.ends_s) is not None
        cure = Cure(f"Spread over {needed:.1f} s", "cut.spread", needed) if room else None
        out.append(
            Finding(
                desk="reframe",
                kind=kind,
                level=Level.CAUTION,
                title=title,
                value=worst,
                limit=limit,
                unit=unit,
                digits=1 if limit < 5 else 0,
                start_s=start,
                end_s=end,
                reason=reason,
                cure=cure,
            )
        )
    return out


def _leaning(values: Array, times: Array, motion: Motion) -> list[Finding]:
    """A horizon that leans while the view rests."""
    lean = np.abs((values[:, 2] + 90.0) % 180.0 - 90.0)
    rests = (motion.roll_deg_s < 1.0) & (motion.speed_deg_s < 3.0) & (np.abs(values[:, 1]) < 60.0)
    found = runs(rests & (lean > LEAN_DEG) & (lean < 20.0), times, 0.8)  # more is meant
    if not found:
        return []
    start, end = found[0]
    worst = float(lean[(times >= start) & (times <= end)].max())
    return [
        Finding(
            desk="reframe",
            kind="horizon",
            level=Level.NOTE,
            title="Horizon leans",
            value=worst,
            limit=LEAN_DEG,
            unit="°",
            start_s=start,
            end_s=end,
            reason="The view rests with its horizon off level.",
            cure=Cure("Set it level", "cut.level", start),
        )
    ]


def _in_cut(cut: Cut) -> list[Stage]:
    return [s for s in stages(cut.keys) if s.end_s > cut.begins_s and s.start_s < cut.ends_s]


def moves_a_minute(cut: Cut) -> float:
    """How many moves a minute of the film has."""
    return 60.0 * sum(not s.holds for s in _in_cut(cut)) / max(cut.timeline.duration_s, 1e-6)


def _holds(cut: Cut) -> list[Finding]:
    """Too much happening, or nothing: moves against holds."""
    inside, rate, out = _in_cut(cut), moves_a_minute(cut), list[Finding]()
    if sum(not s.holds for s in inside) >= 3 and rate > MOVES_A_MINUTE and not any(k.move or k.on for k in cut.keys):
        out.append(
            Finding(
                desk="reframe",
                kind="busy",
                level=Level.NOTE,
                title="Moves all the time",
                value=rate,
                limit=MOVES_A_MINUTE,
                unit="moves/min",
                digits=0,
                start_s=cut.begins_s,
                end_s=cut.ends_s,
                reason="Less is more: a view that rests is looked at.",
                cure=Cure("Leave the shortest out", "cut.drop", rate),
            )
        )
    still = _longest_rest(cut, inside)
    if still is not None and still[1] - still[0] > STILL_S and not any(k.on for k in cut.keys):
        out.append(
            Finding(
                desk="reframe",
                kind="still",
                level=Level.NOTE,
                title="Nothing moves",
                value=still[1] - still[0],
                limit=STILL_S,
                unit="s",
                start_s=still[0],
                end_s=still[1],
                reason="The view rests for long; if the picture does not live by itself, it may drift.",
                cure=Cure("Drift slowly", "cut.drift", still[0]),
            )
        )
    return out


def _longest_rest(cut: Cut, inside: Sequence[Stage]) -> tuple[float, float] | None:
    """The longest stretch of a cut in which the view rests, before its first keyframe and after its last too."""
    rests = [(max(s.start_s, cut.begins_s), min(s.end_s, cut.ends_s)) for s in inside if s.holds]
    rests += [(cut.begins_s, cut.keys[0].time_s), (cut.keys[-1].time_s, cut.ends_s)]
    if len(cut.keys) == 1:
        rests = [(cut.begins_s, cut.ends_s)]
    joined: list[tuple[float, float]] = []
    for start, end in sorted(r for r in rests if r[1] > r[0]):
        if joined and start <= joined[-1][1] + 1e-6:
            joined[-1] = (joined[-1][0], max(end, joined[-1][1]))
        else:
            joined.append((start, end))
    return max(joined, key=lambda r: r[1] - r[0], default=None)


def stretch_findings(values: Array, times: Array) -> list[Finding]:
    """Where the lens draws what stands at the frame's left and right edge far wider than in the middle. On the lens of shift d the
    drawn width of an angle t off the axis grows as (1 + d)(1 + d cos t) / (d + cos t)^2; at d = 0 that is 1 / cos^2 t."""
    half = np.radians(np.minimum(values[:, 3], 358.0) / 2.0)
    d = values[:, 4]
    with np.errstate(divide="ignore", invalid="ignore"):
        grows = (1.0 + d) * (1.0 + d * np.cos(half)) / (d + np.cos(half)) ** 2
    worth = np.where((values[:, 3] < 170.0) & (d < 0.9), grows, 0.0)  # a globe is meant
    found = runs(worth > STRETCH, times, 0.8)
    if not found:
        return []
    worst = float(worth.max())
    return [
        Finding(
            desk="reframe",
            kind="stretch",
            level=Level.NOTE,
            title="Stretched at the edges",
            value=worst,
            limit=STRETCH,
            unit="times",
            start_s=found[0][0],
            end_s=found[-1][1],
            reason="People near the edge look broad; more bend, or a narrower view, draws them true.",
            cure=Cure("Bend more", "cut.bend", found[0][0]),
        )
    ]
