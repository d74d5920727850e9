"""Ready? One list for a shot, in the order in which hands do it; what was found of the shot stands at the line that it concerns."""

from collections.abc import Sequence

from msgspec import Struct

from glintor.exposure.values import nd_text, shutter_text
from glintor.finding import Finding, Level, worst_first
from glintor.placement.mounts import setup_by_id
from glintor.project.log import Tick
from glintor.project.model import Project, Shot
from glintor.recording.power import USUAL_AIR_C, battery_min, card_min


class Line(Struct, frozen=True):
    """One line. said: what was found that concerns it, worst first; each: whether it is looked at for every take."""

    id: str
    words: str
    said: tuple[Finding, ...] = ()

    @property
    def level(self) -> Level:
        return max((finding.level for finding in self.said), default=Level.NOTE)


_FOR = {
    "lens": ("guard", "cloth"),
    "stick": ("tilt", "sway", "span", "through"),
    "hold": ("clamp", "tube", "holding", "stable", "load", "reach"),
    "tether": ("tether",),
    "clear": ("clearance", "below", "power", "water", "near"),
    "mode": ("mode", "shutter", "clipped", "drowned", "flicker", "pumping", "step", "filter", "highlights", "lapse", "series"),
    "power": ("battery", "heat", "card"),
    "hands": ("hands", "spin", "safety", "helmet"),
    "people": ("permission",),
}  # fmt: skip
_LINE_OF = {kind: line for line, kinds in _FOR.items() for kind in kinds}


def ready_list(
    project: Project,
    shot: Shot,
    findings: Sequence[Finding],
    *,
    card_free_bytes: float | None = None,
    battery_share: float | None = None,
    on_link: bool = False,
) -> tuple[Line, ...]:
    """The lines of a shot. card_free_bytes, battery_share: as the camera says, None where nobody knows; on_link: whether it is held on
    its wireless."""
    said: dict[str, list[Finding]] = {}
    for finding in worst_first(list(findings)):
        line = _LINE_OF.get(finding.kind)
        if line is not None and (finding.level > Level.NOTE or line in ("tether", "hands", "lens")):
            said.setdefault(line, []).append(finding)
    lines = [
        Line("lens", _lens(said.get("lens", ()))),
        *_holding(project, shot),
        Line("clear", "Branches, lines and people clear of the stick"),
        *_set(project, shot),
        Line("power", _power(project, shot, card_free_bytes, battery_share)),
        Line("sound", _sound(project, on_link)),
        *_together(project),
        Line("hands", _hands(project, shot)),
        Line("people", _people(project, shot)),
    ]
    if "tether" in said and not any(line.id == "tether" for line in lines):
        lines.insert(3, Line("tether", "Tether tied so that it fouls nothing"))
    return tuple(Line(line.id, line.words, tuple(said.get(line.id, ()))) for line in lines)


def elsewhere(findings: Sequence[Finding], lines: Sequence[Line]) -> list[Finding]:
    """The findings that no line tells."""
    told = {id(finding) for line in lines for finding in line.said}
    return [finding for finding in findings if id(finding) not in told and finding.level > Level.NOTE]


def open_lines(lines: Sequence[Line], ticks: Sequence[Tick]) -> list[Line]:
    done = {tick.line for tick in ticks}
    return [line for line in lines if line.id not in done]


def _lens(said: Sequence[Finding]) -> str:
    guard = any(f.kind == "guard" for f in said)
    return "Both lenses clean and dry, guard as planned" if guard else "Both lenses clean and dry, no guard"


def _holding(project: Project, shot: Shot) -> list[Line]:
    setup, p = setup_by_id(shot.placement.setup), shot.placement
    stick = f"Stick {p.stick_m:g} m, sections locked, camera in line with it"
    lines = [Line("stick", stick)] if p.stick_m > 0.0 and not setup.worn else []
    words = {
        "held": "Grip dry and firm, wrist strap on",
        "worn": "Straps tight, shaken to test",
        "clamped": "Clamp tight on a straight tube, twisted to test",
        "stood": "Foot stands firm and is weighted, pushed to test",
        "hung": "Hangs from something that holds, pulled to test",
    }[setup.family]
    lines.append(Line("hold", words))
    if setup.family in ("clamped", "hung"):
        lines.append(Line("tether", "Tether tied so that it fouls nothing"))
    return lines


def _set(project: Project, shot: Shot) -> list[Line]:
    e = shot.exposure
    mode = project.camera_of(shot).mode_of(e)
    pace = f"every {e.interval_s:g} s" if e.interval_s else f"at {e.rate_fps:g}"
    if e.program == "manual":
        how = f"everything locked: {shutter_text(e.shutter_s)}, ISO {e.iso:.0f}"
    else:
        how = f"exposure {e.program}" + (f", {e.offset_stops:+g} stops" if e.offset_stops else "")
    white = f", {e.white_k:.0f} K" if e.white_k else ""
    lines = [Line("filter", f"Filters {nd_text(e.nd_stops)} on both lenses")] if e.nd_stops else []
    return [*lines, Line("mode", f"{mode.words} {pace}, {how}{white}")]


def _power(project: Project, shot: Shot, card_free: float | None, battery: float | None) -> str:
    camera, air = project.camera_of(shot), project.site.air_c
    lasts = battery_min(USUAL_AIR_C if air is None else air, wireless=project.site.wireless)
    at = "" if air is None else f" at {air:g} °C"
    charge = (
        f"Battery full: {lasts:.0f} min{at}"
        if battery is None
        else f"Battery {battery:.0%}: {lasts * battery:.0f} min{at}"
    )
    card = (
        f"card for {shot.length_min * camera.mbit_s * 60 / 8000:.1f} GB"
        if card_free is None
        else f"card {card_min(card_free, camera.mbit_s):.0f} min"
    )
    return f"{charge}, {card}; {shot.length_min:g} min wanted"


def _sound(project: Project, on_link: bool) -> str:
    by_hand = "Wireless on for phone or remote" if project.site.wireless else "Wireless off"
    return f"{'Wireless on for the link' if on_link else by_hand}, beeps loud enough to hear"


def _together(project: Project) -> list[Line]:
    if len(project.kit.cameras) < 2:
        return []
    return [Line("clap", "Clap or sound the horn once all cameras run")]


def _hands(project: Project, shot: Shot) -> str:
    carrier, setup = project.site.carrier(shot.placement.carrier), setup_by_id(shot.placement.setup)
    needed = carrier.seats[0].needs_hands if carrier is not None and carrier.seats else 0
    if carrier is not None and needed:
        both = "Both hands" if needed > 1 else "A hand"
        return f"{both} for the {carrier.words}: roll first, hands off it under way"
    if setup.hands:
        return "One hand for the stick, eyes on the way"
    return "Hands free; start the camera, then go"


def _people(project: Project, shot: Shot) -> str:
    known = {"unknown": "permission not asked yet", "given": "permission given", "free": "no permission needed"}
    return f"People near asked; {known[project.site_of(shot).permission]}; local rules kept"
