"""Open JSON with a version number in it: read strictly, and refused in words that name the place."""

import re
from collections.abc import Callable, Mapping
from typing import Any, TypeVar

import msgspec

from glintor.errors import InputError
from glintor.quantities import first_absurd

_T = TypeVar("_T")


def decode(
    content: bytes,
    kind: type[_T],
    *,
    key: str,
    version: int,
    name: str,
    what: str,
    unharmed: str,
    error: type[InputError] = InputError,
    newer: type[InputError] | None = None,
    upgrades: Mapping[int, Callable[[dict[str, Any]], dict[str, Any]]] = {},
) -> _T:
    """The value of a type in this JSON; `key` holds its version. what: "a Glintor project". Raises `error`, or `newer`
    where a newer Glintor wrote it. upgrades: from each older version to the next."""
    try:
        raw = msgspec.json.decode(content)
    except RecursionError as fault:
        raise error(
            f"{name} is not {what}: it is nested too deeply.", unharmed=unharmed, advice="Choose another."
        ) from fault
    except (msgspec.DecodeError, UnicodeDecodeError) as fault:
        raise error(f"{name} is not {what}: {fault}.", unharmed=unharmed, advice="Choose another.") from fault
    found = raw.get(key) if isinstance(raw, dict) else None
    if not isinstance(found, int):
        raise error(
            f"{name} is not {what}: it has no version number.", unharmed=unharmed, advice="Choose another file."
        )
    if found < 1 or isinstance(found, bool):
        raise error(
            f"{name} is not {what}: there is no format {found}.", unharmed=unharmed, advice="Choose another file."
        )
    if found > version:
        raise (newer or error)(
            f"{name} was written by a newer Glintor (format {found}; this one reads up to {version}).",
            unharmed=unharmed,
            advice="Update Glintor to open it.",
        )
    try:
        for old in range(found, version):
            raw = {**upgrades.get(old, dict)(raw), key: old + 1}
    except (AttributeError, KeyError, TypeError, ValueError) as fault:
        raise error(
            f"{name} is not {what} of format {found}, as it says: it is built otherwise.",
            unharmed=unharmed,
            advice="Choose another file.",
        ) from fault
    try:
        value = msgspec.convert(raw, kind)
    except (msgspec.ValidationError, RecursionError) as fault:
        text, _, place = str(fault).partition(" - at ")
        where = re.sub(r"[`$]", "", place).lstrip(".") or "its top"
        raise error(f"{name}, at {where}: {text}.", unharmed=unharmed, advice="Mend that value.") from fault
    wrong = first_absurd(value)
    if wrong is not None:
        raise error(f"{name}, at {wrong}.", unharmed=unharmed, advice="Mend that value.")
    return value
