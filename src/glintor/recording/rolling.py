"""What rolls, as far as it is known: for each camera of a log whether it says so, was only asked, or does not; and one light for all."""

from collections.abc import Mapping, Sequence
from typing import Literal

from msgspec import Struct

from glintor.project.kit import Camera
from glintor.recording.held_link import Seen

Standing = Literal["clock", "asked", "rolls", "lost", "not"]


class Rolls(Struct, frozen=True):
    """How one camera stands: nobody asks it and only a clock runs, it was asked and has not answered, it says that it rolls, it does not
    answer, it does not roll."""

    name: str
    standing: Standing
    words: str


class Light(Struct, frozen=True):
    """What the large control says. level: by the clock alone, asked, on, or an alarm."""

    level: Literal["clock", "asked", "on", "alarm"]
    cameras: tuple[Rolls, ...]

    @property
    def words(self) -> str:
        """Each camera that is asked, those that do not roll first; "" where all go by the clock."""
        order = {"not": 0, "lost": 1, "asked": 2, "rolls": 3, "clock": 4}
        told = sorted(self.cameras, key=lambda one: order[one.standing])
        return "" if self.level == "clock" else " · ".join(f"{one.name}: {one.words}" for one in told)


def light_of(cameras: Sequence[Camera], seen: Mapping[str, Seen]) -> Light:
    """How the cameras of a rolling log stand. seen: of those that are held on the link, by their ids."""
    told = tuple(_rolls(camera.name, seen.get(camera.id)) for camera in cameras)
    standings = {one.standing for one in told}
    if standings <= {"clock"}:
        return Light("clock", told)
    if standings & {"not", "lost"}:
        return Light("alarm", told)
    return Light("asked" if "asked" in standings else "on", told)


def _rolls(name: str, seen: Seen | None) -> Rolls:
    if seen is None:
        return Rolls(name, "clock", "by the clock")
    if seen.roll in ("refused", "ended"):
        return Rolls(name, "not", f"DOES NOT ROLL, {seen.why[:1].lower()}{seen.why[1:]}")
    if seen.lost:
        was = "rolled when it last answered" if seen.roll == "rolls" else "was asked to roll"
        return Rolls(name, "lost", f"NO ANSWER, {was}" if seen.roll != "idle" else "NO ANSWER")
    if seen.roll == "idle":
        return Rolls(name, "not", "DOES NOT ROLL, it was not asked to")
    return Rolls(name, "asked", "asked to roll") if seen.roll == "asked" else Rolls(name, "rolls", "rolls")
