"""Compiled kernels are kept on disk where there is a place for them; without one they are compiled anew each time."""

from collections.abc import Callable
from typing import Any

from numba import njit
from numba.core.caching import FunctionCache


class Kernels:
    """What is known of the keeping. words: what the person should know, empty while all is kept."""

    words = ""


class _Patient(FunctionCache):
    """A cache whose disk may be full, gone or damaged: then the kernel is compiled, and works all the same."""

    def load_overload(self, sig: object, target_context: object) -> Any:
        try:
            return super().load_overload(sig, target_context)
        except Exception:
            return None

    def save_overload(self, sig: object, data: object) -> None:
        try:
            super().save_overload(sig, data)
        except OSError:
            _not_kept()


def _not_kept() -> None:
    Kernels.words = "No room to keep compiled kernels: the first pictures of each session take longer"


def compiled(**options: Any) -> Callable[[Callable[..., Any]], Any]:
    """Numba's njit with these options, kept on disk where that can be."""

    def made(function: Callable[..., Any]) -> Any:
        dispatcher = njit(**options)(function)
        try:
            dispatcher._cache = _Patient(dispatcher.py_func)  # what njit(cache=True) does, with more patience
        except RuntimeError:  # no place at all
            _not_kept()
        return dispatcher

    return made
