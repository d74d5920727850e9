"""Times of alternating candidates, and tables of them."""

import statistics
import subprocess
import time
from collections.abc import Callable, Mapping, Sequence

from msgspec import Struct


class Times(Struct, frozen=True):
    """Seconds of each run."""

    seconds: tuple[float, ...]

    @property
    def median(self) -> float:
        return statistics.median(self.seconds)

    def quantile(self, share: float) -> float:
        ordered = sorted(self.seconds)
        return ordered[min(int(share * len(ordered)), len(ordered) - 1)]

    def words(self, unit: float = 1.0) -> str:
        return f"{self.median * unit:.2f} | {min(self.seconds) * unit:.2f} | {max(self.seconds) * unit:.2f}"


def stolen_share(spin_s: float = 0.25) -> float:
    """The share of a busy thread's time that the machine gave to somebody else."""
    began, spent = time.perf_counter(), time.thread_time()
    while time.perf_counter() - began < spin_s:
        pass
    return 1.0 - (time.thread_time() - spent) / (time.perf_counter() - began)


def wait_for_calm(limit_s: float = 120.0) -> float:
    """Waits until the machine is ours, at most so long; the share that is stolen then."""
    end = time.perf_counter() + limit_s
    while (share := max(stolen_share() for _ in range(3))) > 0.05 and time.perf_counter() < end:
        time.sleep(2.0)
    return share


def seconds_of(work: Callable[[], object] | Sequence[str]) -> float:
    began = time.perf_counter()
    if callable(work):
        work()
    else:
        subprocess.run(work, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    return time.perf_counter() - began


def alternate(
    candidates: Mapping[str, Callable[[], object] | Sequence[str]], runs: int, *, warm: bool = True
) -> dict[str, Times]:
    """Every candidate once to warm up, then `runs` times in turn, each turn when the machine is ours."""
    spent: dict[str, list[float]] = {name: [] for name in candidates}
    for number in range(0 if warm else 1, runs + 1):
        wait_for_calm(30.0)
        for name, work in candidates.items():
            seconds = seconds_of(work)
            if number:
                spent[name].append(seconds)
            print(f"  {number or 'warm-up'} {name}: {seconds:.3f} s", flush=True)
    return {name: Times(tuple(seconds)) for name, seconds in spent.items()}


def ratio_table(times: Mapping[str, Times], over: str) -> list[str]:
    """Rows of what was measured with its ratio to one of them: of the medians, and the median of each run's own."""
    return _table(times, "ratio", lambda spent: (spent, times[over]))


def speed_table(times: Mapping[str, Times], slow: str) -> list[str]:
    """The same with how many times faster than the slow one each is."""
    return _table(times, "times faster", lambda spent: (times[slow], spent))


def _table(times: Mapping[str, Times], head: str, pair: Callable[[Times], tuple[Times, Times]]) -> list[str]:
    lines = [f"| what | median s | least | most | {head} |", "|---|---|---|---|---|"]
    for name, spent in times.items():
        upper, lower = pair(spent)
        each = statistics.median(a / b for a, b in zip(upper.seconds, lower.seconds, strict=True))
        lines.append(f"| {name} | {spent.words()} | {upper.median / lower.median:.2f} ({each:.2f} run by run) |")
    return lines
