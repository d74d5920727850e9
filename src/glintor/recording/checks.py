"""The pre-roll list, made for this very shot."""

from pathlib import Path
from shutil import disk_usage

from msgspec import Struct

from glintor.finding import Finding, Level, worst_first
from glintor.project.model import Camera
from glintor.recording.power import card_min

# Notes on the placement that ask for a hand's check before rolling; the others only tell a number.
_BY_HAND = frozenset({"tilt", "tether", "guard", "tube", "hands", "spin", "safety"})


class Check(Struct, frozen=True):
    """One line of the list: what, in which state, and a word on it."""

    what: str
    level: Level
    words: str


def pre_roll(findings: list[Finding], card: Path, camera: Camera, length_min: float) -> list[Check]:
    """What to look at before this shot: room on the card, then what is wrong, worst first, and what a hand must check."""
    if not card.is_dir():
        room = Check("Card", Level.STOP, f"No card at {card}: put it in or choose its folder.")
    else:
        minutes = card_min(disk_usage(card).free, camera.mbit_s)
        enough = minutes >= length_min
        room = Check(
            "Card",
            Level.NOTE if enough else Level.STOP,
            f"{minutes:.0f} min left at {camera.mbit_s:g} Mbit/s, the shot wants {length_min:g}.",
        )
    rest = [
        Check(f.title, f.level, f"{f.measure}. {f.reason}" if f.measure else f.reason)
        for f in worst_first(findings)
        if (f.desk == "place" and (f.level > Level.NOTE or f.kind in _BY_HAND)) or f.desk == "expose"
    ]
    return [room, *rest]
