"""The solver: for what one wants of a take, the best time, ISO and filter in its light, what each costs, and what stands in the way."""

from typing import Literal

import numpy as np
from msgspec import Struct

from glintor.exposure import flicker, motion
from glintor.exposure.course import Course
from glintor.exposure.metering import EVS
from glintor.exposure.noise import HEADROOM_STOPS, grey_noise_percent
from glintor.exposure.schools import lost
from glintor.exposure.solve import Sensor
from glintor.exposure.values import ev100, nd_text, shutter_text

Aim = Literal["highlights", "look", "clean", "freeze"]
AIMS: dict[Aim, str] = {"highlights": "keep highlights", "look": "film look", "clean": "clean", "freeze": "freeze"}
LAMP_EV = 9.0  # below, lamps and not the sky light the scene
_TOP_SHARE, _TOP_SPARE = 0.995, 0.07  # of the planned views that must not clip; 95 % of full scale in stops
_MOST_UNDER = 2.5  # stops that highlights may darken the rest by (judgement)
_FITS, _THIRD = 0.5, 1.0 / 3.0  # stops
_FREEZE_PX, _WANTED_DEG = 1.0, 180.0  # of blur that looks sharp (judgement); of shutter angle, the film look
# What a stop of error, of shutter angle off the wanted one, of ISO, of filter and of unsafe lamps count, by aim (judgement).
_WEIGHTS: dict[Aim, tuple[float, float, float, float, float]] = {
    "highlights": (12.0, 1.0, 0.6, 0.05, 2.0),
    "look": (8.0, 3.0, 0.5, 0.03, 2.0),
    "clean": (8.0, 0.3, 3.0, 0.10, 1.0),
    "freeze": (8.0, 0.0, 0.4, 0.20, 1.0),
}


class Moves(Struct, frozen=True):
    """What moves in the frame, degrees a second: what passes by, the stick's sway, planned pans; and pixels a degree of the frame."""

    passing_deg_s: float = 0.0
    sway_deg_s: float = 0.0
    pan_deg_s: float = 30.0
    px_per_deg: float = 19.2

    @property
    def fastest_deg_s(self) -> float:
        """Of what smears: a turn of the view is made afterwards and only leaves gaps."""
        return float(np.hypot(self.passing_deg_s, self.sway_deg_s))


class Cost(Struct, frozen=True):
    """What a setting costs: blur of what moves and gap of a pan in frame pixels, noise of mid grey in per cent, clipped share of
    front lens, rear lens and planned views over the take, drowned share of the views, the beat of lamps at 50 and at 60 Hz (0 where
    whole pulses are seen), and how far the lenses' lights lie apart."""

    angle_deg: float
    blur_px: float
    gap_px: float
    noise_percent: float
    clipped: tuple[float, float, float]
    drowned: float
    beat_hz: tuple[float, float]
    step_stops: float


class Answer(Struct, frozen=True):
    """A setting for an aim. error_stops: how much brighter than wanted it comes out; limit: what stands in the way, "" where nothing
    does; would_move: what would take it away."""

    aim: Aim
    shutter_s: float
    iso: float
    nd_stops: float
    error_stops: float
    cost: Cost
    limit: str = ""
    would_move: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        return f"{shutter_text(self.shutter_s)}, ISO {self.iso:.0f}, filter {nd_text(self.nd_stops)}"


def wanted_ev(aim: Aim, course: Course) -> float:
    """The EV100 to expose for: the take's mean; to keep the highlights at least so much that the brightest of the planned views, at
    the take's brightest moment, stays under 95 % of full scale."""
    mean = float(course.metered[:, 0].mean())
    if aim != "highlights":
        return mean
    return float(np.clip(top_ev(course) - HEADROOM_STOPS + _TOP_SPARE, mean, mean + _MOST_UNDER))


def top_ev(course: Course) -> float:
    """The EV100 that nearly all of the planned views stays under at every moment."""
    share = np.cumsum(course.shown, axis=1)
    share = share / np.maximum(share[:, -1:], 1e-12)
    return float(EVS[np.argmax(share >= _TOP_SHARE, axis=1)].max())


def answer(
    aim: Aim,
    course: Course,
    sensor: Sensor,
    *,
    rate_fps: float,
    filters: tuple[float, ...],
    moves: Moves = Moves(),
    mains_hz: float = 50.0,
    longest_s: float | None = None,
) -> Answer:
    """The best setting for an aim. filters: stops of those that there are; without one is always tried."""
    longest = longest_s or 1.0 / rate_fps
    ideal = motion.shutter_for_angle_s(rate_fps, _WANTED_DEG)
    times = np.unique(
        np.concatenate(
            [
                2.0 ** np.arange(np.log2(sensor.shutter_min_s), np.log2(longest), _THIRD),
                [t for t in (ideal, longest, *flicker.safe_times_s(mains_hz, longest)) if t <= longest + 1e-12],
            ]
        )
    )
    isos = sensor.iso_min * 2.0 ** np.arange(0.0, np.log2(sensor.iso_max / sensor.iso_min) + 1e-9, _THIRD)
    grey = np.array(sorted({0.0, *filters}))
    t, s, nd = np.meshgrid(times, isos, grey, indexing="ij")
    ev = ev100(sensor.f_number, t, iso=s, nd_stops=nd)
    wish = wanted_ev(aim, course)
    error = wish - ev  # above 0: too bright
    dark = float(course.metered[:, 0].min()) < LAMP_EV
    unsafe = np.array([[not flicker.is_safe(mains_hz, float(x))] for x in times]).reshape(-1, 1, 1) if dark else False
    per_stop, angle, iso, grey_cost, lamps = _WEIGHTS[aim]
    score = per_stop * np.where(error > 0.0, 2.0 * error, -error) + iso * np.log2(s / sensor.iso_min) + grey_cost * nd
    score = score + angle * np.abs(np.log2(t / ideal)) + lamps * np.asarray(unsafe)
    if aim == "freeze":
        smear = np.maximum(moves.fastest_deg_s, moves.pan_deg_s) * t * moves.px_per_deg
        score = score + 4.0 * np.maximum(np.log2(smear / _FREEZE_PX), 0.0)
    at = np.unravel_index(int(np.argmin(score)), score.shape)
    found, found_iso, found_nd = float(t[at]), float(s[at]), float(nd[at])
    exact = found * 2.0 ** float(-error[at])  # between the thirds, where nothing else asks for a time of its own
    held = aim == "look" or bool(dark) or abs(np.log2(found / ideal)) < 0.02 or abs(error[at]) > _THIRD
    if not held and sensor.shutter_min_s <= exact <= longest:
        found = exact
    left = wish - float(ev100(sensor.f_number, found, iso=found_iso, nd_stops=found_nd))
    limit, would = _in_the_way(aim, left, found, sensor, longest, ideal, float(grey.max()))
    return Answer(
        aim,
        found,
        found_iso,
        found_nd,
        left,
        cost_of(course, sensor, found, found_iso, found_nd, rate_fps, moves),
        limit,
        would,
    )


def cost_of(
    course: Course, sensor: Sensor, shutter_s: float, iso: float, nd_stops: float, rate_fps: float, moves: Moves
) -> Cost:
    """What a locked setting costs in a light."""
    ev = np.full(len(course.time_s), float(ev100(sensor.f_number, shutter_s, iso=iso, nd_stops=nd_stops)))
    isos = np.full(len(ev), iso)
    parts = np.concatenate([course.lenses.transpose(1, 0, 2), course.shown[None]])
    over, under = (part.mean(axis=1).tolist() for part in lost(parts, ev, isos, sensor))
    beats = [0.0 if flicker.is_safe(hz, shutter_s) else flicker.beat_hz(hz, rate_fps) for hz in (50.0, 60.0)]
    return Cost(
        motion.shutter_angle_deg(rate_fps, shutter_s),
        motion.blur_px(moves.fastest_deg_s, shutter_s, moves.px_per_deg),
        motion.stutter_px(moves.pan_deg_s, rate_fps, shutter_s, moves.px_per_deg),
        float(grey_noise_percent(iso)),
        (over[0], over[1], over[2]),
        under[2],
        (beats[0], beats[1]),
        float(np.abs(course.metered[:, 1] - course.metered[:, 2]).max()),
    )


def cost_words(cost: Cost, moves: Moves) -> str:
    """A line of what a setting costs."""
    lamps = [
        f"{hz} Hz steady" if beat == 0.0 else f"{hz} Hz {f'beat {beat:.0f}/s' if beat > 0.5 else 'bands'}"
        for hz, beat in zip((50, 60), cost.beat_hz, strict=True)
    ]
    front, rear, shown = (100.0 * share for share in cost.clipped)
    return (
        f"{cost.angle_deg:.0f}° · blur {cost.blur_px:.1f} px at {moves.fastest_deg_s:.0f}°/s · gap {cost.gap_px:.0f} px in pans of "
        f"{moves.pan_deg_s:.0f}°/s · noise {cost.noise_percent:.1f} % · clips front {front:.1f}, rear {rear:.1f}, views {shown:.1f} % · "
        f"lamps {', '.join(lamps)} · lenses {cost.step_stops:.1f} stops apart"
    )


def _in_the_way(
    aim: Aim, left: float, found: float, sensor: Sensor, longest: float, ideal: float, darkest: float
) -> tuple[str, tuple[str, ...]]:
    """Which limit a setting ran into, and what would move it."""
    if left > _FITS:
        return (
            f"{shutter_text(sensor.shutter_min_s)} at ISO {sensor.iso_min:.0f} with {nd_text(darkest)} is still {left:.1f} stops too bright",
            (f"a filter of {darkest + left:.0f} stops", "another hour", "the shady side"),
        )
    if left < -_FITS:
        return (
            f"ISO {sensor.iso_max:.0f} and {shutter_text(longest)} leave it {-left:.1f} stops too dark",
            ("a lower frame rate", "more light on it", "another hour"),
        )
    short = float(np.log2(ideal / found))
    if aim in ("look", "highlights") and short > 1.0:
        return (
            f"the darkest filter is {nd_text(darkest)}: the time is {short:.1f} stops shorter than half a frame",
            (f"a filter of {darkest + short:.0f} stops", "a higher frame rate", "a later hour"),
        )
    if aim == "freeze" and found > 2.0 * ideal:
        return ("there is too little light for a short time", ("more light", "a higher ISO"))
    return "", ()
