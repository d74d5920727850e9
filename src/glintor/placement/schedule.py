"""In which order a day's shots are filmed: their windows, their places along the route, fitting, and battery changes.

Up to `EXACT` shots every order is weighed (dynamic programming over sets of shots, keeping all ends that no other
betters). Longer days are filled in the order in which their windows close, which is usual and not proven best.
"""

from collections.abc import Sequence

from msgspec import Struct

from glintor.placement.windows import Span

EXACT = 10
NEVER = float("inf")


class Task(Struct, frozen=True, kw_only=True):
    """One shot. place: its number along the route; windows: spans that must hold the whole shot."""

    id: str
    place: int
    length_min: float
    fit_min: float
    windows: tuple[Span, ...]


class Day(Struct, frozen=True, kw_only=True):
    """leg_min: from one place of the route to the next; battery_min, card_min: of recording; swap_min: to change one."""

    begins_min: float
    leg_min: float = 15.0
    battery_min: float = 80.0
    card_min: float = NEVER
    swap_min: float = 5.0


class Slot(Struct, frozen=True):
    """When a shot begins, and whether battery or card are changed before."""

    id: str
    start_min: float
    swap: bool
    card: bool = False


class Order(Struct, frozen=True):
    """The slots in order; who found no room; legs gone back along the route; when the last shot ends."""

    slots: tuple[Slot, ...]
    left_out: tuple[str, ...]
    legs_back: int
    ends_min: float

    @property
    def cost(self) -> tuple[int, int, float]:
        """Worse is greater: shots without room, then legs back, then the end of the day."""
        return len(self.left_out), self.legs_back, self.ends_min


class _State(Struct, frozen=True):
    back: int
    now_min: float
    used_min: float
    filled_min: float
    slots: tuple[Slot, ...]


def earliest(task: Task, ready_min: float) -> float:
    """The first minute from which the whole shot fits a window; inf without one."""
    for begin, end in sorted(task.windows):
        start = max(begin, ready_min)
        if start + task.length_min <= end + 1e-9:
            return start
    return NEVER


def _then(state: _State, last: Task | None, task: Task, day: Day) -> _State | None:
    """The day after one more shot; None where it has no room any more."""
    legs = 0 if last is None else task.place - last.place
    swap, card = needs_change(state.used_min, task, day.battery_min), needs_change(state.filled_min, task, day.card_min)
    ready = state.now_min + abs(legs) * day.leg_min + task.fit_min + day.swap_min * (swap + card)
    start = earliest(task, ready)
    if start == NEVER:
        return None
    used = (0.0 if swap else state.used_min) + task.length_min
    filled = (0.0 if card else state.filled_min) + task.length_min
    slots = (*state.slots, Slot(task.id, start, swap, card))
    return _State(state.back + max(-legs, 0), start + task.length_min, used, filled, slots)


def needs_change(used_min: float, task: Task, full_min: float) -> bool:
    """Whether battery or card, so much used, do not last through one more shot; a fresh one is not changed."""
    return used_min > 0.0 and used_min + task.length_min > full_min


def _worth(state: _State) -> tuple[float, float, float, float]:
    return state.back, state.now_min, state.used_min, state.filled_min


def _kept(states: list[_State]) -> list[_State]:
    """Those that no other betters in legs back, time, battery and card at once."""
    best: list[_State] = []
    for state in sorted(states, key=_worth):
        if not any(all(a <= b for a, b in zip(_worth(o), _worth(state), strict=True)) for o in best):
            best.append(state)
    return best


def plan_day(tasks: Sequence[Task], day: Day) -> Order:
    """The order of least cost."""
    if len(tasks) > EXACT:
        return _filled(tasks, day)
    begun = _State(0, day.begins_min, 0.0, 0.0, ())
    fronts: dict[tuple[int, int], list[_State]] = {(0, -1): [begun]}
    best = _order(tasks, begun)
    for _ in tasks:
        grown: dict[tuple[int, int], list[_State]] = {}
        for (done, last), states in fronts.items():
            for number, task in enumerate(tasks):
                if done >> number & 1:
                    continue
                for state in states:
                    after = _then(state, tasks[last] if last >= 0 else None, task, day)
                    if after is not None:
                        grown.setdefault((done | 1 << number, number), []).append(after)
        fronts = {key: _kept(states) for key, states in grown.items()}
        for states in fronts.values():
            best = min([best, *(_order(tasks, state) for state in states)], key=lambda order: order.cost)
    return best


def _filled(tasks: Sequence[Task], day: Day) -> Order:
    state, last = _State(0, day.begins_min, 0.0, 0.0, ()), None
    for task in sorted(tasks, key=lambda t: (max((b for _, b in t.windows), default=NEVER), t.place)):
        after = _then(state, last, task, day)
        if after is not None:
            state, last = after, task
    return _order(tasks, state)


def _order(tasks: Sequence[Task], state: _State) -> Order:
    placed = {slot.id for slot in state.slots}
    return Order(state.slots, tuple(t.id for t in tasks if t.id not in placed), state.back, state.now_min)


def why_left_out(task: Task) -> str:
    """In words, why a shot found no room."""
    if not task.windows:
        return "its light does not come on this day"
    longest = max(end - begin for begin, end in task.windows)
    if longest < task.length_min:
        return f"its light lasts {longest:.0f} min at a time, and it takes {task.length_min:.0f}"
    return "the other shots fill its time"
