"""What a person logs while filming: what was made ready, when it rolled, what happened. It is there before any file is."""

from datetime import datetime
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from glintor.project.kit import Identity, NotNegative

What = Literal[
    "good", "mark", "drop", "knock", "slipped", "stranger", "wind", "wrong mode", "beep", "no beep", "clap", "note"
]
WHATS: dict[What, str] = {
    "good": "good",
    "mark": "mark",
    "drop": "drop on the lens",
    "knock": "knocked",
    "slipped": "slipped",
    "stranger": "stranger",
    "wind": "wind",
    "wrong mode": "wrong mode",
    "beep": "beep heard",
    "no beep": "no beep heard",
    "clap": "clap or horn",
    "note": "note",
}
LOG_KEYS: tuple[tuple[str, What], ...] = (
    ("G", "good"), ("M", "mark"), ("D", "drop"), ("K", "knock"), ("S", "slipped"), ("P", "stranger"), ("W", "wind"),
    ("X", "wrong mode"), ("B", "beep"), ("U", "no beep"), ("C", "clap"), ("N", "note"),
)  # fmt: skip
FAULTS: frozenset[What] = frozenset({"drop", "knock", "slipped", "stranger", "wind", "wrong mode", "no beep"})
Stamp = Annotated[str, Meta(min_length=19, max_length=40)]  # ISO 8601 with its zone


class Tick(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One line of the list as it was passed. words: as it read then; by: a hand, or the camera that was read back; why: a stop was
    passed all the same."""

    line: Identity
    words: str
    at: Stamp
    by: Literal["hand", "camera"] = "hand"
    why: str = ""


class Event(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Something that happened at a moment of the day's clock. cameras: of the kit, that it concerns; none for all."""

    at: Stamp
    what: What
    words: str = ""
    cameras: tuple[Identity, ...] = ()

    @property
    def text(self) -> str:
        named = WHATS[self.what]
        if self.what == "note":
            return self.words or named
        return f"{named} · {self.words}" if self.words else named


class Log(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One rolling of one camera or several.

    began, ended  by the day's clock; ended "" while it rolls
    cameras       of the kit, that were rolling
    ticks         what was made ready before
    files         on their cards, as cameras on the link told: id:bytes:path
    takes         ids of the takes that its files became; matched: how that is known
    """

    id: Identity
    began: Stamp
    ended: str = ""
    cameras: tuple[Identity, ...] = ()
    ticks: tuple[Tick, ...] = ()
    events: tuple[Event, ...] = ()
    rating: Annotated[int, Meta(ge=0, le=5)] = 0
    favourite: bool = False
    note: str = ""
    files: tuple[str, ...] = ()
    takes: tuple[Identity, ...] = ()
    matched: str = ""

    @property
    def rolling(self) -> bool:
        return not self.ended

    @property
    def began_at(self) -> datetime:
        return datetime.fromisoformat(self.began)

    @property
    def length_s(self) -> NotNegative | None:
        """How long it rolled; None while it does."""
        return (datetime.fromisoformat(self.ended) - self.began_at).total_seconds() if self.ended else None

    def since_s(self, at: str) -> float:
        """Seconds from its beginning."""
        return (datetime.fromisoformat(at) - self.began_at).total_seconds()
