"""The pre-roll list, made for this very shot."""

from dataclasses import dataclass
from pathlib import Path
from shutil import disk_usage

from glintor.finding import Finding, Level
from glintor.project.model import Camera
from glintor.recording.power import card_min


@dataclass(frozen=True, slots=True)
class Check:
    """One line of the list: what, in which state, and a word on it."""

    what: str
    level: Level
    words: str


def pre_roll(findings: list[Finding], card: Path, camera: Camera, length_min: float) -> list[Check]:
    """What to look at before this shot: room on the card, then everything found about placement and exposure."""
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
        for f in findings
        if f.desk in ("place", "expose")
    ]
    return [room, *rest]
