"""Ways of exposing a take, run through its light: what each loses, how it pumps, what it leaves at the seam."""

from typing import Literal

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from glintor.exposure.course import Course
from glintor.exposure.metering import BINS, LOW_EV, STEP_EV
from glintor.exposure.noise import HEADROOM_STOPS, floor_ev, grey_noise_percent
from glintor.exposure.program import LAG_S, Held, Program, Setting, setting_for, shown_ev
from glintor.exposure.solve import Sensor
from glintor.exposure.values import ev100, nd_text
from glintor.types import Array

School = Literal["locked", "auto", "iso", "shutter", "each lens"]
SCHOOLS: dict[School, str] = {
    "locked": "all locked",
    "auto": "automatic",
    "iso": "ISO fixed",
    "shutter": "time fixed",
    "each lens": "a setting each lens",
}
_PROGRAM: dict[School, Program] = {
    "locked": "manual", "auto": "auto", "iso": "iso", "shutter": "shutter", "each lens": "auto",
}  # fmt: skip
_MUCH_LOST = 0.1  # of the planned views, from which on another filter is worth a word (judgement)
_TICK_S = 0.05  # of the camera's own loop in this reckoning
# What one per cent clipped, one drowned, a stop a second of pumping, a stop of step and a per cent of noise count (judgement):
# what is blown cannot be brought back, what is dark can to a degree, pumping and a step are seen by everybody.
_COST = {"clipped": 1.0, "drowned": 0.35, "pumping": 2.0, "step": 4.0, "noise": 0.5}
# What is easier to do and to cut counts so much less (judgement).
_TROUBLE: dict[School, float] = {"locked": 0.0, "auto": 1.0, "iso": 1.0, "shutter": 1.0, "each lens": 1.5}
_STEP_FREE, _PUMP_FREE = 0.3, 0.3  # stops, and stops a second, that nobody sees (judgement)


class Run(Struct, frozen=True, eq=False):
    """A school through the light of a take: at each moment of the course what each lens exposes to mid grey (n, 2) and its ISO,
    and what comes of it. Shares are of what the planned views show, over the take."""

    school: School
    offset_stops: float
    ev: Array
    iso: Array
    clipped: float
    drowned: float
    pumping: float
    step: float
    noise_percent: float

    @property
    def words(self) -> str:
        offset = (
            f", {self.offset_stops:+.1f}".replace("-", "−") if self.offset_stops and self.school != "locked" else ""
        )
        return SCHOOLS[self.school] + offset

    @property
    def cost(self) -> float:
        """One number to weigh schools by."""
        return (
            _COST["clipped"] * 100.0 * self.clipped
            + _COST["drowned"] * 100.0 * self.drowned
            + _COST["pumping"] * max(self.pumping - _PUMP_FREE, 0.0)
            + _COST["step"] * max(self.step - _STEP_FREE, 0.0)
            + _COST["noise"] * self.noise_percent
            + _TROUBLE[self.school]
        )


def run(course: Course, school: School, held: Held, sensor: Sensor, offset_stops: float = 0.0) -> Run:
    """A school through the light. The automatic ones believe a lens's or the whole sphere's meter, LAG_S late."""
    if school == "locked":
        setting = Setting(held.shutter_s, held.iso)
        ev = np.full((len(course.time_s), 2), shown_ev(setting, held, sensor))
        return _judged(course, school, 0.0, ev, np.full(ev.shape, held.iso), sensor)
    meters = [course.metered[:, 1], course.metered[:, 2]] if school == "each lens" else [course.metered[:, 0]] * 2
    program, kept = _PROGRAM[school], np.empty((len(course.time_s), 2, 2))
    for lens, seen in enumerate(meters if school == "each lens" else meters[:1]):
        believed = followed(course.time_s, seen)
        for n, value in enumerate(believed):
            setting = setting_for(program, float(value), held, sensor, offset_stops)
            kept[n, lens] = setting.shutter_s, setting.iso
    if school != "each lens":
        kept[:, 1] = kept[:, 0]
    ev = ev100(sensor.f_number, kept[..., 0], iso=kept[..., 1], nd_stops=held.nd_stops)
    return _judged(course, school, offset_stops, ev, kept[..., 1], sensor)


def followed(time_s: Array, seen_ev: Array, lag_s: float = LAG_S) -> Array:
    """(n,) the EV that a camera believes in at each moment: the light before, first-order late.

    Between moments the light is taken to change evenly, for which the lag's equation is solved exactly:
    b(t) = s(t) - r L + (b0 - s0 + r L) exp(-t / L), r the light's rate.
    """
    out = np.empty(len(time_s))
    believed = out[0] = float(seen_ev[0])
    for n in range(1, len(time_s)):
        passed = float(time_s[n] - time_s[n - 1])
        rate = float(seen_ev[n] - seen_ev[n - 1]) / max(passed, 1e-9)
        late = rate * lag_s
        believed = seen_ev[n] - late + (believed - seen_ev[n - 1] + late) * float(np.exp(-passed / lag_s))
        out[n] = believed
    return out


def _judged(course: Course, school: School, offset: float, ev: Array, iso: Array, sensor: Sensor) -> Run:
    clipped, drowned = lost(course.shown, ev.mean(axis=1), iso.mean(axis=1), sensor)
    if school == "each lens":
        parts = [lost(course.lenses[:, k], ev[:, k], iso[:, k], sensor) for k in range(2)]
        whole = lost(course.whole, ev.mean(axis=1), iso.mean(axis=1), sensor)
        # What the views show of either lens is not known apart: as much better as the whole sphere becomes.
        clipped, drowned = (
            mine * np.where(one > 1e-6, (a + b) / 2.0 / np.maximum(one, 1e-6), 1.0)
            for mine, one, a, b in zip((clipped, drowned), whole, parts[0], parts[1], strict=True)
        )
    weight = _weights(course.time_s)
    rate = (
        np.abs(np.diff(ev.mean(axis=1))) / np.maximum(np.diff(course.time_s), _TICK_S) if len(ev) > 1 else np.zeros(1)
    )
    return Run(
        school,
        offset,
        ev,
        iso,
        float(np.clip(clipped, 0.0, 1.0) @ weight),
        float(np.clip(drowned, 0.0, 1.0) @ weight),
        float(rate.max(initial=0.0)),
        float(np.abs(ev[:, 0] - ev[:, 1]).max()),
        float(grey_noise_percent(iso).mean(axis=1) @ weight),
    )


def lost(shares: Array, ev: Array, iso: Array, sensor: Sensor) -> tuple[Array, Array]:
    """(..., n) of pictures with so much of each brightness (..., n, bins): the share over full scale, and that under the noise."""
    top, floor = ev + HEADROOM_STOPS, floor_ev(ev, iso, sensor.stops, sensor.iso_min)
    summed = np.cumsum(shares, axis=-1)
    whole = summed[..., -1]
    return whole - _under(summed, top), _under(summed, floor)


def _under(summed: Array, ev: Array) -> Array:
    """(..., n) of pictures whose shares are summed (..., n, bins), what lies under (n,) EV100s; a bin that one lies in in part."""
    place = np.clip((ev - LOW_EV) / STEP_EV, 0.0, BINS)
    full = np.minimum(place.astype(np.intp), BINS - 1)
    moments = np.arange(len(ev))
    before = np.where(full > 0, summed[..., moments, full - 1], 0.0)
    return before + (place - full) * (summed[..., moments, full] - before)


def _weights(time_s: Array) -> Array:
    """(n,) how much of the take each moment stands for; together 1."""
    if len(time_s) == 1:
        return np.ones(1)
    edges = np.concatenate([time_s[:1], (time_s[1:] + time_s[:-1]) / 2.0, time_s[-1:]])
    return np.asarray(np.diff(edges) / max(float(edges[-1] - edges[0]), 1e-9))


def all_runs(course: Course, held: Held, sensor: Sensor, offset_stops: float) -> tuple[Run, ...]:
    """Every school through the light, in their usual order."""
    return tuple(run(course, school, held, sensor, offset_stops) for school in SCHOOLS)


def recommended(runs: tuple[Run, ...], course: Course, solved: Run | None = None) -> tuple[Run, str]:
    """The run that loses least, and why in a sentence. solved: all locked at what the solver found, where that is something else
    than what is set."""
    choice = (*runs, solved) if solved is not None else runs
    locked = next(one for one in runs if one.school == "locked")
    best = min(choice, key=lambda one: one.cost)
    span = float(np.ptp(course.metered[:, 0]))
    apart = float(np.abs(course.metered[:, 1] - course.metered[:, 2]).max())
    if best.school == "locked":
        why = (
            f"the light stays within {span:.1f} stops, so nothing needs to follow it and nothing pumps when the view turns"
            if span < 3.0
            else f"the light changes by {span:.1f} stops, but following it would cost more than it saves"
        )
        if best is solved:
            why += ". First solve for this light: as it is set now it would lose " + _lost_words(locked)
    elif best.school == "each lens":
        why = f"the lenses see up to {apart:.1f} stops apart; a step of {best.step:.1f} stops at the seam is the price"
    else:
        why = f"the light changes by {span:.1f} stops; locked as now would lose {_lost_words(locked)} of the planned views, this {_lost_words(best)}"
        if best.pumping > _PUMP_FREE:
            why += f". It pumps by up to {best.pumping:.1f} stops a second"
    words = best.words[0].upper() + best.words[1:]
    return best, f"{words}: {why}."


def _lost_words(one: Run) -> str:
    return f"{100.0 * (one.clipped + one.drowned):.0f} %"


def lighter_filter(course: Course, best: Run, held: Held, sensor: Sensor, filters: tuple[float, ...]) -> str:
    """Which other filter would lose much less with the same school, in a sentence; "" where none would."""
    now = best.clipped + best.drowned
    if now < _MUCH_LOST:
        return ""
    tried = {
        nd: run(course, best.school, replace(held, nd_stops=nd), sensor, best.offset_stops)
        for nd in {0.0, *filters}
        if nd != held.nd_stops
    }
    nd, other = min(tried.items(), key=lambda item: item[1].cost, default=(0.0, best))
    if now - other.clipped - other.drowned < _MUCH_LOST / 2.0:
        return ""
    instead = "Without a filter" if nd <= 0.0 else f"With {nd_text(nd)} on the lenses"
    return f"{instead} it would lose {_lost_words(other)} instead of {_lost_words(best)}."


def school_of(program: Program, each_lens: bool) -> School:
    """The school that a camera set so follows."""
    if program == "manual":
        return "locked"
    return "each lens" if each_lens else program


def set_for(school: School) -> tuple[Program, bool]:
    """What a camera is set to for a school: the program, and whether each lens has its own exposure."""
    return _PROGRAM[school], school == "each lens"
