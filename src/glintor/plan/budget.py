"""Battery, card and heat over the whole day: how full each is minute by minute, where a change falls, and which take cannot end."""

import math
from functools import lru_cache

from msgspec import Struct

from glintor.finding import Finding, Level, counted
from glintor.placement.clock import clock
from glintor.project.kit import USUAL_BATTERY_MIN, USUAL_CARD_GB, Camera
from glintor.project.model import Exposure, Project, Shot
from glintor.recording.power import HOT_C, STANDBY_SHARE, USUAL_AIR_C, V30_MB_S, Body, battery_min

_SPARE = 0.03  # of a battery that nobody plans to use (judgement)
_STEP_MIN = 1.0


class WhatIf(Struct, frozen=True):
    """What could be otherwise: wireless off, a power bank on the camera, a share of the bit rate."""

    wireless: bool | None = None
    power_bank: bool = False
    smaller: float = 1.0


class Budget(Struct, frozen=True):
    """The day's supplies.

    charge   (minute, share) of the battery in the camera; changes: (minute, "battery" or "card")
    short    ids of takes that the battery ends before they do, with the minutes missing; hot: with the minute it stops; full: that a
             whole card ends, with the gigabytes missing
    batteries, cards  how many the day takes; have_...: how many there are; gigabytes of the whole day
    """

    charge: tuple[tuple[float, float], ...]
    changes: tuple[tuple[float, str], ...]
    short: tuple[tuple[str, float], ...]
    hot: tuple[tuple[str, float], ...]
    batteries: int
    have_batteries: int
    cards: int
    have_cards: int
    gigabytes: float
    full: tuple[tuple[str, float], ...] = ()

    def short_min(self, shot_id: str) -> float:
        return dict(self.short).get(shot_id, 0.0)


def mbit_of(project: Project, shot: Shot) -> float:
    """The bit rate that a shot is recorded with: its mode's, else its camera's."""
    return _mbit(project.camera_of(shot), shot.exposure)


@lru_cache(maxsize=1024)  # asked for every shot of the day and for every "what if"; a day holds few settings
def _mbit(camera: Camera, e: Exposure) -> float:
    rate = camera.mode_of(e).mbit_s or camera.mbit_s
    if e.interval_s > 0.0:  # its frames are written as a film, and there are fewer of them
        rate *= min(1.0 / (e.interval_s * e.rate_fps), 1.0)
    return rate * (0.5 if e.codec == "H.265" else 1.0)


def budget_of(project: Project, what_if: WhatIf = WhatIf()) -> Budget:
    """The day as it is planned: the camera is off between shots, stands by while it is fitted, and is changed before a shot that
    the battery in it would not outlast."""
    site, kit = project.site, project.kit
    air = USUAL_AIR_C if site.air_c is None else site.air_c
    wireless = site.wireless if what_if.wireless is None else what_if.wireless
    full = battery_min(air, wireless=wireless, stated_min=kit.smallest("battery", USUAL_BATTERY_MIN))
    room = kit.smallest("card", USUAL_CARD_GB)
    charge, used_gb, gigabytes, warm = 1.0, 0.0, 0.0, air
    points: list[tuple[float, float]] = []
    changes: list[tuple[float, str]] = []
    short: list[tuple[str, float]] = []
    hot: list[tuple[str, float]] = []
    full_: list[tuple[str, float]] = []
    left_off: float | None = None
    for shot in sorted(project.planned, key=lambda s: s.start_min):
        begins = shot.start_min - shot.fit_min
        need = (shot.length_min + STANDBY_SHARE * shot.fit_min) / full
        if what_if.power_bank:
            need = 0.0
        if charge - need < _SPARE and charge < 1.0:
            points += [(begins, charge), (begins, 1.0)]
            changes.append((begins, "battery"))
            charge = 1.0
        points += [(begins, charge)]
        if charge - need < 0.0:
            lasts = charge * full - STANDBY_SHARE * shot.fit_min
            short.append((shot.id, shot.length_min - lasts))
        charge = max(charge - need, 0.0)
        points += [(shot.start_min + shot.length_min, charge)]
        gb = mbit_of(project, shot) * what_if.smaller * 60.0 / 8000.0 * shot.length_min
        if used_gb > 0.0 and used_gb + gb > room:
            changes.append((begins, "card"))
            used_gb = 0.0
        if gb > room:
            full_.append((shot.id, gb - room))
        used_gb, gigabytes = used_gb + gb, gigabytes + gb
        cooled = 0.0 if left_off is None else max(begins - left_off, 0.0)
        body = Body(inner_c=warm).after(cooled, air, recording=False, wireless=False)
        warm, too_hot = _warmed(body, shot.length_min, air, wireless=wireless)
        if too_hot is not None:
            hot.append((shot.id, shot.start_min + too_hot))
        left_off = shot.start_min + shot.length_min
    count = {kind: sum(item.count for item in kit.of_kind(kind)) for kind in ("battery", "card")}
    taken = {kind: sum(what == kind for _, what in changes) + bool(points) for kind in ("battery", "card")}
    return Budget(
        tuple(points),
        tuple(changes),
        tuple(short),
        tuple(hot),
        taken["battery"],
        count["battery"],
        max(taken["card"], math.ceil(gigabytes / max(room, 1e-9)) if points else 0),
        count["card"],
        gigabytes,
        tuple(full_),
    )


def _warmed(body: Body, length_min: float, air_c: float, *, wireless: bool) -> tuple[float, int | None]:
    """How warm a camera is inside after a take, or when it is too hot to go on, and in which minute that is; None where it is not."""
    steps = math.ceil(length_min / _STEP_MIN)
    ended = body.after(steps * _STEP_MIN, air_c, recording=True, wireless=wireless)
    if max(body.inner_c, ended.inner_c) < HOT_C:  # warmth goes one way: it is hot in between only if it is at an end
        return ended.inner_c, None
    for minute in range(steps):
        body = body.after(_STEP_MIN, air_c, recording=True, wireless=wireless)
        if body.inner_c >= HOT_C:
            return body.inner_c, minute
    return body.inner_c, None


def charge_at(budget: Budget, minute: float) -> float:
    """How full the battery in the camera is planned to be at a minute of the day; full before the first shot."""
    if not budget.charge:
        return 1.0
    before = [charge for at, charge in budget.charge if at <= minute + 1e-6]
    return before[-1] if before else 1.0


def what_helps(project: Project, budget: Budget) -> list[str]:
    """What would change the day's supplies, each tried."""
    out = []
    if project.site.wireless:
        other = budget_of(project, WhatIf(wireless=False))
        if len(other.changes) < len(budget.changes) or len(other.short) < len(budget.short):
            out.append(
                f"wireless off: {counted(other.batteries, 'battery', 'batteries')} instead of {budget.batteries}"
            )
    if budget.short or budget.batteries > budget.have_batteries:
        out.append("a power bank on the camera: no battery change at all")
    smaller = budget_of(project, WhatIf(smaller=0.5))
    if smaller.cards < budget.cards:
        out.append(
            f"half the bit rate (H.265 or a smaller mode): {counted(smaller.cards, 'card', 'cards')} instead of {budget.cards}"
        )
    return out


def _card_too_small(budget: Budget, shot: Shot) -> Finding | None:
    """A take that no card of the kit holds."""
    beyond = dict(budget.full).get(shot.id)
    if beyond is None:
        return None
    return Finding(
        desk="expose",
        kind="card",
        level=Level.STOP,
        title="No card holds this take",
        value=beyond,
        unit="GB",
        digits=1,
        reason=f"So much more than the smallest card of the kit it takes in {shot.length_min:.0f} min. Take it in parts, or with fewer bits.",
        explained="Bit rate of its mode x its length, against the smallest card of the kit.",
    )


def _battery_change(budget: Budget, shot: Shot) -> Finding | None:
    """A battery to be changed before a shot."""
    change = next(
        (minute for minute, what in budget.changes if what == "battery" and minute == shot.start_min - shot.fit_min),
        None,
    )
    if change is None:
        return None
    return Finding(
        desk="expose",
        kind="change",
        level=Level.NOTE,
        title="Change the battery",
        value=float("nan"),
        unit="",
        reason=f"At {clock(change)}, before this shot: the one in the camera would not outlast it.",
        explained="The day's shots one after the other, the camera off between them.",
    )


def budget_findings(project: Project, shot: Shot, budget: Budget | None = None) -> list[Finding]:
    """A take that cannot end before the battery does, heat, supplies that the kit has not, a card too slow. budget: the day's, where it
    is known."""
    found = []
    budget = budget or budget_of(project)
    missing = budget.short_min(shot.id)
    if missing > 0.0:
        helps = "; ".join(what_helps(project, budget))
        found.append(
            Finding(
                desk="expose",
                kind="battery",
                level=Level.STOP,
                title="Battery ends before the take",
                value=missing,
                unit="min",
                digits=0,
                reason=f"So much is missing of the {shot.length_min:.0f} min that are planned. "
                + (f"What helps: {helps}." if helps else ""),
                explained="Stated time of the kit's weakest battery x what cold and wireless leave of it, less standby while the camera is fitted.",
            )
        )
    found += [one for one in (_card_too_small(budget, shot), _battery_change(budget, shot)) if one is not None]
    stops = dict(budget.hot).get(shot.id)
    if stops is not None:
        found.append(
            Finding(
                desk="expose",
                kind="heat",
                level=Level.CAUTION,
                title="It will grow too hot",
                value=HOT_C,
                unit="°C",
                digits=0,
                reason=f"At about {clock(stops)} it stops to cool down: shade it, give it wind, or film in parts.",
                explained="Warmth goes towards the air's plus what recording adds, with the camera model's own time constant (judgement).",
            )
        )
    if shot.exposure.interval_s == 0.0 and mbit_of(project, shot) / 8.0 > V30_MB_S:
        found.append(
            Finding(
                desk="expose",
                kind="card speed",
                level=Level.CAUTION,
                title="Card must be faster",
                value=mbit_of(project, shot) / 8.0,
                limit=V30_MB_S,
                unit="MB/s",
                digits=0,
                reason="A card of class V30 takes no more for certain: use V60 or a lower bit rate.",
                explained="Bit rate / 8. Source: SD speed classes, V30 guarantees 30 MB/s of sustained writing (SD Association).",
            )
        )
    return found
