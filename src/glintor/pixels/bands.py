"""Row-wise work on every core. The compiled kernels let go of the interpreter, so plain threads are enough.

An own pool instead of the compiler's parallel loops: those wait by spinning, which takes the cores from the decoder
and the encoders beside them.
"""

import os
from collections.abc import Callable
from functools import cache
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from concurrent.futures import ThreadPoolExecutor

CORES = os.cpu_count() or 2


@cache
def _pool() -> "ThreadPoolExecutor":
    from concurrent.futures import ThreadPoolExecutor  # slow to load, and a window starts without it

    return ThreadPoolExecutor(CORES, thread_name_prefix="rows")


def in_bands(height: int, work: Callable[[int, int], object], *, least: int = 8, alone: bool = False) -> None:
    """Calls work(first, last) for bands of rows, at least `least` high, until all are done. Raises what it raises.

    Several bands a core: rows differ in cost, and a core may be busy with something else. alone: in this thread only,
    for work beside which a window has to stay quick.
    """
    if alone:
        work(0, height)
        return
    count = max(1, min(4 * CORES, height // least))
    edges = [height * number // count for number in range(count + 1)]
    list(_pool().map(work, edges[:-1], edges[1:]))
