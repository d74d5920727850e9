"""Open JSON about places and carriers, read strictly: what is wrong is said with its place."""

from typing import TypeVar

import msgspec

from glintor.errors import InputError
from glintor.quantities import first_absurd

_T = TypeVar("_T")
_UNHARMED = "Nothing was changed."


def read_told(content: bytes, kind: type[_T], name: str, what: str) -> _T:
    """A value of a type in JSON. what: "place", as in "is no place". Raises InputError with what is wrong and where."""
    try:
        value = msgspec.json.decode(content, type=kind)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as fault:
        text, _, where = str(fault).partition(" - at ")
        at = f", at {where.strip('`').lstrip('$.')}" if where else ""
        words = f"{name} is no {what}{at}: {text.rstrip('.')}."
        raise InputError(words, unharmed=_UNHARMED, advice="Mend that value.") from fault
    wrong = first_absurd(value)
    if wrong is not None:
        raise InputError(f"{name} is no {what}, at {wrong}.", unharmed=_UNHARMED, advice="Mend that value.")
    return value


def write_told(value: object) -> bytes:
    """A value as indented JSON."""
    return msgspec.json.format(msgspec.json.encode(value), indent=2) + b"\n"
