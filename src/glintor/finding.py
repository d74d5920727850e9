"""What every check returns: how bad, how much, against which limit, why, and what would cure it."""

from enum import IntEnum

import msgspec


class Level(IntEnum):
    """How bad a finding is; a higher value is worse."""

    NOTE = 0
    CAUTION = 1
    STOP = 2

    @property
    def word(self) -> str:
        return self.name.lower()


class Cure(msgspec.Struct, frozen=True):
    """One change that mends a finding: the field to set (a path in the shot, such as `placement.lean_deg`)."""

    label: str
    field: str
    value: float | str


class Finding(msgspec.Struct, frozen=True, kw_only=True):
    """One thing worth knowing about a shot.

    value, limit   in `unit`; NaN where the finding has no number
    explained      the formula in words, what goes into it, and its source
    start_s, end_s the part of the clip it concerns, NaN for the whole shot
    """

    desk: str
    kind: str
    level: Level
    title: str
    reason: str
    value: float = float("nan")
    limit: float = float("nan")
    unit: str = ""
    digits: int = 1
    start_s: float = float("nan")
    end_s: float = float("nan")
    cure: Cure | None = None
    explained: str = ""

    @property
    def measure(self) -> str:
        """The number with its limit and unit, such as "31 px of 4"; empty without a number."""
        if self.value != self.value:
            return ""
        gap = "" if self.unit in ("°", "") else " "
        text = f"{self.value:.{self.digits}f}{gap}{self.unit}"
        return text if self.limit != self.limit else f"{text}, limit {self.limit:.{self.digits}f}{gap}{self.unit}"


def worst_first(findings: list[Finding]) -> list[Finding]:
    """The findings with the worst first; order kept among equals."""
    return sorted(findings, key=lambda finding: -finding.level)


def counted(number: int, one: str, many: str) -> str:
    """A number with its noun: 1 card, 2 cards."""
    return f"{number} {one if number == 1 else many}"
