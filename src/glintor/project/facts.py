"""What is known of a take, in words, and where each fact is known from. What nobody knows is said to be unknown."""

from typing import Literal

from msgspec import Struct

from glintor.exposure.values import nd_text, shutter_text
from glintor.media.taken import WORDS as SHOWN
from glintor.placement.clock import clock
from glintor.placement.mounts import setup_by_id
from glintor.placement.scenery import CANAL
from glintor.project.model import Exposure, Project
from glintor.project.site import Site
from glintor.project.take import Take

Origin = Literal["planned", "told by the file", "seen in it", "typed", "proven", "unsure", "unknown"]
UNKNOWN = "unknown"


class Fact(Struct, frozen=True):
    """One thing that is known, or not known, of a take."""

    name: str
    words: str
    origin: Origin


def when_of(take: Take) -> str:
    """The hour at which a take began."""
    return UNKNOWN if take.began_min is None else clock(take.began_min)


def exposed_words(exposure: Exposure | None) -> str:
    """Shutter, ISO and filter in one line."""
    if exposure is None:
        return UNKNOWN
    return f"{shutter_text(exposure.shutter_s)}, ISO {exposure.iso:.0f}, {nd_text(exposure.nd_stops)}"


def place_words(site: Site, stage: str) -> str:
    """What a place is called; unknown where nobody described it."""
    place = site.place(stage)
    return place.name if place is not None else CANAL.get(stage, UNKNOWN)


def _filmed_at(take: Take) -> str | None:
    """The hour on the day, or the moment that its file tells, which may be of another day."""
    if take.began_min is not None:
        return clock(take.began_min)
    return take.began[:19].replace("T", " ") + (" UTC" if take.began.endswith("+00:00") else "") if take.began else None


def picture_words(take: Take) -> str:
    """How large its sphere is, or the part of it, and how long it lasts; photos that stand have no length."""
    wide = take.width_px // 2 if take.told in ("half", "half-beside") else take.width_px
    count = len(take.files)
    lasts = f"{take.duration_s:.1f} s at {take.rate_fps:g} frames a second"
    what = {"photo": "photo", "bracket": f"bracket of {count} photos"}.get(take.kind, lasts)
    return f"{wide} x {take.width_px // 2} px, {what}"


def facts_of(project: Project, take: Take) -> tuple[Fact, ...]:
    """Everything that a filmer may ask of a take."""
    planned: Origin = "planned"

    def fact(name: str, words: str | None, origin: Origin = planned) -> Fact:
        return Fact(name, UNKNOWN, "unknown") if words is None else Fact(name, words, origin)

    placed = take.placement
    kit_camera = project.kit.camera(take.camera)
    lapse = take.exposure is not None and take.exposure.interval_s > 0.0
    return (
        fact("Picture", picture_words(take), "told by the file"),
        fact(
            "Shows",
            SHOWN.get(take.told, "a sphere"),
            ("typed" if take.told_by == "person" else "seen in it") if take.told else "told by the file",
        ),
        fact("Filmed at", _filmed_at(take), "told by the file" if take.began else planned),
        *([fact("In this shot", take.matched, "told by the file")] if take.matched else []),
        fact("Place", project.site.name if project.site.known and placed is not None else None),
        fact("Camera", kit_camera.name)
        if kit_camera is not None
        else fact("Camera", take.filmed_by or None, "told by the file"),
        fact("Camera held", None if placed is None else setup_by_id(placed.setup).words),
        *([fact("Exposed", take.exposed, "told by the file")] if take.exposed else []),
        fact("Set to", None if take.exposure is None else exposed_words(take.exposure)),
        *(
            [fact("Time-lapse", f"one frame every {take.exposure.interval_s:g} s")]
            if lapse and take.exposure is not None
            else []
        ),
    )
