"""A placement tried with other values: what cures are searched with."""

from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import Protocol

from msgspec import Struct

from glintor.finding import Cure, Level
from glintor.placement.layout import Layout
from glintor.sphere.angle import wrap_deg


class Replan(Protocol):
    """The placement at another minute or with other values of its fields (`stick_m`, `heading_deg`, ...), held where the
    set-up can hold it."""

    def __call__(self, *, minute: float | None = None, **fields: object) -> Layout: ...


class Trial(Struct, frozen=True):
    """One change: what its button says, the field and its value."""

    label: str
    field: str
    value: float


Worst = Callable[
    [Layout, Trial | None], Mapping[str, Level]
]  # the worst level of each kind of finding of a placement as tried


class Search:
    """Tries a placement with other values. What brings trouble elsewhere is no cure: worst tells it of the placement with a trial, of
    the present one where that is None."""

    def __init__(self, plan: Layout, replan: Replan, worst: Worst) -> None:
        self._plan, self.replan, self._worst = plan, replan, worst
        self._now: Mapping[str, Level] | None = None
        self._harms: dict[Trial, bool] = {}

    def tried(self, trial: Trial) -> Layout:
        return self.replan(**{trial.field: trial.value})

    def harms(self, trial: Trial, kind: str) -> bool:
        """Whether a trial raises a finding of another kind, or brings one."""
        if self._now is None:
            self._now = self._worst(self._plan, None)
        if trial not in self._harms:
            after = self._worst(self.tried(trial), trial)
            others = {other: level for other, level in after.items() if other != kind}
            self._harms[trial] = any(
                level > max(self._now.get(other, Level.NOTE), Level.NOTE) for other, level in others.items()
            )
        return self._harms[trial]


def turned_to(plan: Layout, yaw_deg: float) -> float:
    """The heading that points the front lens at a yaw of the present picture."""
    return round(float(wrap_deg(plan.heading_deg + yaw_deg)), 1)


def longer_sticks(plan: Layout) -> Iterator[Trial]:
    for stick in plan.setup.sticks_m:
        if stick > plan.stick_m + 1e-6:
            yield Trial(f"Stick to {stick:g} m", "stick_m", stick)


def leans(plan: Layout) -> Iterator[Trial]:
    """Other leans of a stick that stands or is clamped."""
    if plan.setup.hand is None and plan.stick_m > 0.0 and not plan.setup.fixed:
        for lean in (10.0, -10.0, 20.0, -20.0):
            yield Trial(f"Lean it by {lean:+.0f}°", "lean_deg", lean)


def places(plan: Layout) -> Iterator[Trial]:
    """Other places of the foot: along the carrier, on another rail, or round the subject."""
    if plan.setup.hand is not None or plan.setup.fixed:
        return
    here = float(plan.camera[0])
    for step in (0.3, -0.3, 0.6, -0.6, 1.0, -1.0, 1.5, -1.5, 2.2, -2.2, 3.0, -3.0):
        yield Trial(f"Move it {abs(step):g} m {'ahead' if step > 0 else 'back'}", "ahead_m", round(here + step, 2))
    for rail in plan.setup.sides:
        if abs(rail - float(plan.camera[1])) > 0.1:
            yield Trial(f"Take the {'left' if rail > 0 else 'right'} side", "left_m", rail)


def best_cure(
    trials: Iterable[Trial],
    search: Search,
    judge: Callable[[Layout], tuple[Level, float]],
    now: tuple[Level, float],
    kind: str,
) -> Cure | None:
    """The first change that leaves nothing worse than a note and brings no trouble elsewhere, else the one that mends most; None where
    none helps.

    judge   how bad a placement is: its level and, among equals, how much of the trouble is left
    """
    best: tuple[tuple[Level, float], Trial] | None = None
    for trial in trials:
        found = judge(search.tried(trial))
        if found[0] < now[0] and (best is None or found < best[0]) and not search.harms(trial, kind):
            best = (found, trial)
            if found[0] is Level.NOTE:
                break
    if best is None:
        return None
    return Cure(best[1].label, f"placement.{best[1].field}", best[1].value)
