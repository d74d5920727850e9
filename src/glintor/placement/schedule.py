"""In which order a day's shots are filmed: their windows, fixed hours and what comes before what, the ways between them, fitting,
rests, and battery changes; and what would have to change for one that finds no room.

Up to `EXACT` shots every order is weighed (dynamic programming over sets of shots, keeping all ends that no other
betters). Longer days are filled in the order in which their windows close, which is usual and not proven best.
"""

from collections.abc import Callable, Iterator, Sequence
from operator import le
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from glintor.placement.windows import Span

EXACT = 9
NEVER = float("inf")
_SHORTER = (0.85, 0.7, 0.55, 0.4, 0.25)  # of its length, tried one after the other


class Task(Struct, frozen=True, kw_only=True):
    """One shot. place: where along the route, a number or metres; windows: spans that must hold the whole shot.

    fixed_min  the minute at which it must begin, None where it may move; after: shots that must be done before it
    anytime    spans that hold it if nothing is asked of the light
    """

    id: str
    place: float
    length_min: float
    fit_min: float
    windows: tuple[Span, ...]
    fixed_min: float | None = None
    after: tuple[str, ...] = ()
    anytime: tuple[Span, ...] = ()


class Day(Struct, frozen=True, kw_only=True):
    """leg_min: from one place of the route to the next, where `ways_min` does not say how long it is from shot to shot, by their ids;
    battery_min, card_min: of recording; swap_min: to change one.

    to_first_min, home_min  the way to the first shot and back from the last; home_by_min: when one must be back
    rests      spans in which nothing is done
    order      light: whichever order fits best; way: never back along the route
    """

    begins_min: float
    leg_min: float = 15.0
    battery_min: float = 80.0
    card_min: float = NEVER
    swap_min: float = 5.0
    ways_min: Callable[[str, str], float] | None = None
    to_first_min: float = 0.0
    home_min: float = 0.0
    home_by_min: float = NEVER
    rests: tuple[Span, ...] = ()
    order: Literal["light", "way"] = "light"

    def way_min(self, a: "Task", b: "Task") -> float:
        """Minutes from one shot to the next."""
        return self.ways_min(a.id, b.id) if self.ways_min is not None else abs(a.place - b.place) * self.leg_min


class Slot(Struct, frozen=True):
    """When a shot begins, and whether battery or card are changed before."""

    id: str
    start_min: float
    swap: bool
    card: bool = False


class Order(Struct, frozen=True):
    """The slots in order; who found no room; how far one goes back along the route, in legs or metres; when the last shot ends."""

    slots: tuple[Slot, ...]
    left_out: tuple[str, ...]
    legs_back: float
    ends_min: float

    @property
    def cost(self) -> tuple[int, float, float]:
        """Worse is greater: shots without room, then legs back, then the end of the day."""
        return len(self.left_out), self.legs_back, self.ends_min


class _State(Struct, frozen=True):
    back: float
    now_min: float
    used_min: float
    filled_min: float
    slots: tuple[Slot, ...]


def earliest(task: Task, ready_min: float, rests: Sequence[Span] = ()) -> float:
    """The first minute from which the whole shot fits a window and meets no rest; inf without one."""
    if task.fixed_min is not None:
        ends = task.fixed_min + task.length_min
        met = any(a < ends and task.fixed_min < b for a, b in rests)
        return task.fixed_min if ready_min <= task.fixed_min + 1e-9 and not met else NEVER
    for begin, end in sorted(task.windows):
        start = max(begin, ready_min)
        for a, b in sorted(rests):
            if a < start + task.length_min and start < b:
                start = b
        if start + task.length_min <= end + 1e-9:
            return start
    return NEVER


def _later(now_min: float, work_min: float, rests: Sequence[Span]) -> float:
    """When work that begins now is done, with the rests in between."""
    done = now_min + work_min
    for a, b in sorted(rests):
        if a < done and now_min < b:
            done += b - max(a, now_min)
    return done


def _then(state: _State, last: Task | None, task: Task, day: Day) -> list[_State]:
    """The day after one more shot, with battery and card changed before it where they must be, and where they may be: one that is
    changed while one waits is not changed in a hurry. None of them where it has no room any more."""
    back = 0.0 if last is None else max(last.place - task.place, 0.0)
    if day.order == "way" and back > 0.0:
        return []
    swaps, cards = (
        (True,)
        if needs_change(done_min, task, full_min)
        else (False, True)
        if done_min > 0.0 < full_min < NEVER
        else (False,)
        for done_min, full_min in ((state.used_min, day.battery_min), (state.filled_min, day.card_min))
    )
    found = [_with(state, last, task, day, back, swap, card) for swap in swaps for card in cards]
    return [after for after in found if after is not None]


def _with(state: _State, last: Task | None, task: Task, day: Day, back: float, swap: bool, card: bool) -> _State | None:
    way = day.to_first_min if last is None else day.way_min(last, task)
    ready = _later(state.now_min, way + task.fit_min + day.swap_min * (swap + card), day.rests)
    start = earliest(task, ready, day.rests)
    if start == NEVER or _later(start + task.length_min, day.home_min, day.rests) > day.home_by_min + 1e-9:
        return None
    used = (0.0 if swap or day.battery_min == NEVER else state.used_min) + task.length_min
    filled = (0.0 if card or day.card_min == NEVER else state.filled_min) + task.length_min
    slots = (*state.slots, Slot(task.id, start, swap, card))
    return _State(state.back + back, start + task.length_min, used, filled, slots)


def _free(task: Task, done: Sequence[str], tasks: Sequence[Task]) -> bool:
    """Whether all that must come before a shot is done."""
    return all(name in done or all(other.id != name for other in tasks) for name in task.after)


def needs_change(used_min: float, task: Task, full_min: float) -> bool:
    """Whether battery or card, so much used, do not last through one more shot; a fresh one is not changed."""
    return used_min > 0.0 and used_min + task.length_min > full_min


def _changes_in(slots: Sequence[Slot]) -> int:
    return sum(slot.swap + slot.card for slot in slots)


Worth = tuple[float, ...]


def _worth(state: _State) -> Worth:
    return state.back, state.now_min, state.used_min, state.filled_min


def _with_changes(state: _State) -> Worth:
    return (*_worth(state), _changes_in(state.slots))


def _kept(states: list[_State], worth: Callable[[_State], Worth] = _worth) -> list[_State]:
    """Those that no other betters in all that counts at once: legs back, time, battery and card."""
    best: list[tuple[Worth, _State]] = []
    for mine, _, state in sorted((worth(state), n, state) for n, state in enumerate(states)):
        if not any(all(map(le, other, mine)) for other, _ in best):
            best.append((mine, state))
    return [state for _, state in best]


def _fewest_changes(best: Order, tasks: Sequence[Task], day: Day) -> Order:
    """The same order with battery and card changed no more often than it needs."""
    by_id, last = {task.id: task for task in tasks}, None
    states = [_State(0, day.begins_min, 0.0, 0.0, ())]
    for slot in best.slots:
        task = by_id[slot.id]
        states = _kept([after for state in states for after in _then(state, last, task, day)], _with_changes)
        last = task
    ends = [state for state in states if state.now_min <= best.ends_min + 1e-9]
    return _order(tasks, min(ends, key=lambda state: _changes_in(state.slots), default=states[0]))


def plan_day(tasks: Sequence[Task], day: Day) -> Order:
    """The order of least cost."""
    if len(tasks) > EXACT:
        return _filled(tasks, day)
    whole_min = sum(task.length_min for task in tasks)
    lasting = {name: NEVER for name in ("battery_min", "card_min") if getattr(day, name) >= whole_min}
    day = replace(day, **lasting)  # what lasts through all of it is never changed: nothing to weigh
    begun = _State(0, day.begins_min, 0.0, 0.0, ())
    fronts: dict[tuple[int, int], list[_State]] = {(0, -1): [begun]}
    best = _order(tasks, begun)
    for _ in tasks:
        grown: dict[tuple[int, int], list[_State]] = {}
        for (done, last), states in fronts.items():
            for number, task in enumerate(tasks):
                if done >> number & 1:
                    continue
                if task.after and not _free(task, [o.id for n, o in enumerate(tasks) if done >> n & 1], tasks):
                    continue
                for state in states:
                    after = _then(state, tasks[last] if last >= 0 else None, task, day)
                    grown.setdefault((done | 1 << number, number), []).extend(after)
        fronts = {key: _kept(states) for key, states in grown.items()}
        for states in fronts.values():
            best = min([best, *(_order(tasks, state) for state in states)], key=lambda order: order.cost)
    return _fewest_changes(best, tasks, day)


def _filled(tasks: Sequence[Task], day: Day) -> Order:
    state, last = _State(0, day.begins_min, 0.0, 0.0, ()), None
    closing = {t.id: t.fixed_min or max((b for _, b in t.windows), default=NEVER) for t in tasks}
    waiting = sorted(tasks, key=lambda t: (t.place if day.order == "way" else closing[t.id], t.place))
    while waiting:
        done = [slot.id for slot in state.slots]
        task = next((t for t in waiting if not t.after or _free(t, done, tasks)), waiting[0])
        waiting.remove(task)
        after = _then(state, last, task, day) if _free(task, done, tasks) else []
        if after:
            state, last = min(after, key=_worth), task
    return _order(tasks, state)


def _order(tasks: Sequence[Task], state: _State) -> Order:
    placed = {slot.id for slot in state.slots}
    return Order(state.slots, tuple(t.id for t in tasks if t.id not in placed), state.back, state.now_min)


def why_left_out(task: Task) -> str:
    """In words, why a shot found no room."""
    if not task.windows and task.fixed_min is None:
        return "its light does not come on this day"
    longest = max((end - begin for begin, end in task.windows), default=NEVER)
    if task.fixed_min is None and longest < task.length_min:
        return f"its light lasts {longest:.0f} min at a time, and it takes {task.length_min:.0f}"
    return "the other shots, the ways or the rests fill its time"


def least_change(task_id: str, tasks: Sequence[Task], day: Day) -> str:
    """What, changed alone, would give a shot room beside all that has it now; the least first. Empty where nothing does."""
    kept = len(plan_day(tasks, day).slots)
    for words, other_tasks, other_day in _changes(task_id, tasks, day):
        order = plan_day(other_tasks, other_day)
        if task_id not in order.left_out and len(order.slots) > kept - (len(tasks) - len(other_tasks)):
            return words
    return ""


def _changes(task_id: str, tasks: Sequence[Task], day: Day) -> Iterator[tuple[str, list[Task], Day]]:
    task = next(t for t in tasks if t.id == task_id)

    def with_it(**values: object) -> list[Task]:
        return [replace(t, **values) if t.id == task_id else t for t in tasks]

    for share in _SHORTER:
        minutes = max(5.0 * round(share * task.length_min / 5.0), 1.0)
        if minutes < task.length_min:
            yield f"film it in {minutes:.0f} min", with_it(length_min=minutes), day
    if task.fixed_min is not None:
        yield "let it move from its hour", with_it(fixed_min=None), day
    if task.after:
        yield "let it come before the others", with_it(after=()), day
    if day.order == "way":
        yield "go back along the way for it", list(tasks), replace(day, order="light")
    for a, b in day.rests:
        yield (
            f"leave out the rest of {b - a:.0f} min",
            list(tasks),
            replace(day, rests=tuple(r for r in day.rests if r != (a, b))),
        )
    if day.home_by_min < NEVER:
        for later in (15.0, 30.0, 60.0, 120.0):
            yield f"be back {later:.0f} min later", list(tasks), replace(day, home_by_min=day.home_by_min + later)
    for earlier in (15.0, 30.0, 60.0):
        yield f"set out {earlier:.0f} min earlier", list(tasks), replace(day, begins_min=day.begins_min - earlier)
    if task.anytime:
        yield "ask nothing of its light", with_it(windows=task.anytime), day
    for other in sorted(tasks, key=lambda t: t.length_min):
        if other.id != task_id:
            yield f"leave out {other.id}", [t for t in tasks if t.id != other.id], day
