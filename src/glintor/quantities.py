"""One validator for numbers that come in from outside: what no filmer's day can hold is refused by its name.

Every field carries its unit at the end of its name, so the unit says what is possible. The bounds are wide on purpose
(judgement, no source): they keep out what breaks arithmetic, not what is unusual.
"""

import math
from collections.abc import Iterator
from functools import cache
from typing import Any

import msgspec

# Greatest magnitude by the end of a field's name; the longest end that fits counts.
BOUNDS = {
    "_m": 1e5, "_mm": 1e5, "_deg": 1e6, "_s": 1e7, "clock_s": 4e9, "_min": 1e5, "_kg": 1e3, "_px": 1e6, "_fps": 1e4, "_hz": 1e4, "_m_s": 400.0, "_nm": 1e5,
    "_stops": 100.0, "mbit_s": 1e5, "_bytes": 1e18, "_gb": 1e6, "iso": 1e7, "iso_min": 1e7, "iso_max": 1e7, "stops": 100.0,
}  # fmt: skip
# Least magnitude, but for nothing at all: what is divided by.
LEAST = {"_fps": 1e-3}
LAID_OUT_M = 1000.0  # a placement's own lengths: farther from its carrier nothing belongs to a shot
ANY = 1e9


def bound(name: str) -> float:
    """The greatest magnitude that a field of this name may have."""
    fits = [end for end in BOUNDS if name.endswith(end)]
    return BOUNDS[max(fits, key=len)] if fits else ANY


@cache
def _limits(name: str) -> tuple[float, float]:
    """The least magnitude of a field of this name, but for nothing at all, and the greatest."""
    return next((least for end, least in LEAST.items() if name.endswith(end)), 0.0), bound(name)


def absurd(name: str, value: float) -> str | None:
    """What is wrong with a number of that name, in words; None where nothing is."""
    if not math.isfinite(value):
        return f"{name} is not a number"
    least, limit = _limits(name)
    if 0.0 < abs(value) < least:
        return f"{name} is {value:g}, under {least:g}"
    return f"{name} is {value:g}, beyond {limit:g}" if abs(value) > limit else None


def first_absurd(value: Any, known: Any = None) -> str | None:
    """The first number in a tree of structs that no day can hold, with its place; None where all are sound. known: an earlier state of
    it that is sound; what both share is not looked at again."""
    if _sound(value, known, ""):
        return None
    return next((f"{place}: {words}" if place else words for place, words in _walk(value, known, "", "")), None)


def _sound(value: Any, known: Any, name: str) -> bool:
    """Whether `_walk` would find nothing: told without a place, since a large day holds a hundred thousand numbers."""
    kind = type(value)
    if kind is float or kind is int:
        least, limit = _limits(name)
        return value == 0 or least <= abs(value) <= limit
    if value is known:
        return True
    if isinstance(value, msgspec.Struct):
        same = known if type(known) is kind else None
        for field in value.__struct_fields__:
            inner = getattr(value, field)
            if inner is None or type(inner) is str:
                continue
            if not _sound(inner, getattr(same, field, None), field):
                return False
    elif isinstance(value, tuple | list):
        shared = {id(item) for item in known} if isinstance(known, tuple | list) else set()
        for number, item in enumerate(value):
            same = known[number] if shared and number < len(known) else None
            if id(item) not in shared and not _sound(item, same, name):
                return False
    return True


def _walk(value: Any, known: Any, place: str, name: str) -> Iterator[tuple[str, str]]:
    if value is known:
        return
    if isinstance(value, float | int) and not isinstance(value, bool):
        words = absurd(name, float(value))
        if words is not None:
            yield place.rpartition(".")[0], words
    elif isinstance(value, msgspec.Struct):
        same = known if type(known) is type(value) else None
        for field in value.__struct_fields__:
            inner = f"{place}.{field}" if place else field
            yield from _walk(getattr(value, field), getattr(same, field, None), inner, field)
    elif isinstance(value, tuple | list):
        shared = {id(item) for item in known} if isinstance(known, tuple | list) else set()
        for number, item in enumerate(value):
            if id(item) in shared:
                continue
            same = known[number] if shared and number < len(known) else None
            yield from _walk(item, same, f"{place}[{number}]", name)
