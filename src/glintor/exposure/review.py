"""What an exposure setting will break, by how much, and what cures it."""

from functools import partial

import numpy as np

from glintor.exposure import flicker, motion
from glintor.exposure.aims import LAMP_EV, Answer
from glintor.exposure.course import Course
from glintor.exposure.metering import Light
from glintor.exposure.modes import SPIN_FPS, Mode
from glintor.exposure.noise import HEADROOM_STOPS
from glintor.exposure.schools import Run
from glintor.exposure.solve import Sensor, solve
from glintor.exposure.values import ev100, nd_text, shutter_text
from glintor.finding import Cure, Finding, Level

STEP_LIMIT_STOPS = 2.0  # judgement, no source: above, one exposure for each lens is worth its step at the seam
ERROR_LIMIT_STOPS = 1.0
SHORT_ANGLE_DEG = 90.0  # judgement, no source: below, even slow pans show gaps
CLIPPED_SHARE, DROWNED_SHARE, PUMPING_STOPS_S = 0.03, 0.25, 1.0  # from which on they are worth a word (judgement)
PAN_DEG_S, FRAME_PX_PER_DEG = 30.0, 19.2  # a usual pan, seen in a 1920 px frame of 100 degrees


def exposure_findings(
    light: Light,
    sensor: Sensor,
    *,
    rate_fps: float,
    shutter_s: float,
    iso: float,
    nd_stops: float,
    mains_hz: float,
    interval_s: float = 0.0,
    follows: bool = False,
    best: Answer | None = None,
) -> list[Finding]:
    """Every finding about a setting in a metered light. follows: whether the camera sets its exposure by itself; best: what the solver
    found for the shot's aim, which the cures set."""
    setting_ev = float(ev100(sensor.f_number, shutter_s, iso=iso, nd_stops=nd_stops))
    if best is None:
        plain = solve(light.mean, rate_fps, sensor)
        best_s, best_iso, best_nd = plain.shutter_s, plain.iso, plain.nd_stops
    else:
        best_s, best_iso, best_nd = best.shutter_s, best.iso, best.nd_stops
    same = (
        abs(float(np.log2(best_s / shutter_s))) < 0.1 and abs(best_nd - nd_stops) < 0.02 and abs(best_iso - iso) < 1.0
    )
    cure = (  # at night the best may be what is set already
        None
        if same
        else Cure(f"Set {shutter_text(best_s)}, ISO {best_iso:.0f}, filter {nd_text(best_nd)}", "exposure.solve", 0.0)
    )
    out = (
        []
        if follows
        else [_brightness(light.mean - setting_ev, cure), _highlights(light.high - setting_ev - HEADROOM_STOPS)]
    )
    if not interval_s and not follows:
        out.append(_shutter(rate_fps, shutter_s, cure))
    if light.mean < LAMP_EV and not flicker.is_safe(mains_hz, shutter_s):
        out.append(_flicker(rate_fps, shutter_s, mains_hz))
    if light.step > STEP_LIMIT_STOPS:
        out.append(
            Finding(
                desk="expose", kind="step", level=Level.CAUTION, title="Two lights", value=light.step, limit=STEP_LIMIT_STOPS, unit="stops",
                reason=f"Front EV {light.front:.1f}, rear {light.rear:.1f}. One exposure for each lens leaves a step of this size at the seam.",
                explained="EV100 of the front hemisphere less that of the rear one, each the mean over its solid angle. The limit is a judgement.",
            )
        )  # fmt: skip
    if light.span > sensor.stops:
        out.append(
            Finding(
                desk="expose", kind="span", level=Level.CAUTION, title="More light than one frame holds", value=light.span,
                limit=sensor.stops, unit="stops", reason="Expose for what matters; the rest burns out or sinks. A bracket would hold it.",
                explained="From the half per cent that is darkest to the half per cent that is brightest, by solid angle, against what a frame of this "
                "camera holds (the kit's).",
            )
        )  # fmt: skip
    return [finding for finding in out if finding is not None]


def _brightness(error_stops: float, cure: Cure | None) -> Finding:
    over = error_stops > 0
    level = (
        Level.NOTE if abs(error_stops) <= ERROR_LIMIT_STOPS else Level.CAUTION if abs(error_stops) <= 2 else Level.STOP
    )
    title = "Exposure fits" if level is Level.NOTE else "Too bright" if over else "Too dark"
    reason = "Mean of the whole sphere against the setting." if level is Level.NOTE else (
        "Blown highlights cannot be brought back." if over else "Lifting it later brings noise and bands."
    )  # fmt: skip
    return Finding(
        desk="expose", kind="brightness", level=level, title=title, reason=reason, value=error_stops, limit=ERROR_LIMIT_STOPS,
        unit="stops", cure=None if level is Level.NOTE else cure,
        explained="Mean EV100 of the sphere, weighted by solid angle, less the EV100 of the setting: log2(N^2 / t) - log2(ISO / 100) + filter. "
        "Source: APEX relations (Exif, CIPA DC-008). The limit is a judgement.",
    )  # fmt: skip


def _highlights(over_stops: float) -> Finding | None:
    if over_stops <= 0:
        return None
    return Finding(
        desk="expose", kind="highlights", level=Level.NOTE if over_stops < 1.5 else Level.CAUTION, title="Brightest half per cent clips",
        value=over_stops, limit=0.0, unit="stops", reason="Near the sun that cannot be helped; elsewhere take a stronger filter.",
        explained=f"The EV100 that 99.5 % of the sphere stays under, less the setting's, less {HEADROOM_STOPS:g} stops from mid grey to full scale.",
    )  # fmt: skip


def _shutter(rate_fps: float, shutter_s: float, cure: Cure | None) -> Finding | None:
    angle = motion.shutter_angle_deg(rate_fps, shutter_s)
    gap = motion.stutter_px(PAN_DEG_S, rate_fps, shutter_s, FRAME_PX_PER_DEG)
    if shutter_s > 1.0 / rate_fps + 1e-9:
        return Finding(
            desk="expose", kind="shutter", level=Level.STOP, title="Shutter longer than a frame", value=shutter_s * 1000,
            limit=1000 / rate_fps, unit="ms", digits=0, reason=f"{rate_fps:g} frames a second leave no more time.", cure=cure,
            explained=f"A frame lasts 1 / {rate_fps:g} s = {1000 / rate_fps:.1f} ms.",
        )  # fmt: skip
    if angle >= SHORT_ANGLE_DEG:
        return None
    return Finding(
        desk="expose", kind="stutter", level=Level.CAUTION, title="Motion will stutter", value=angle, limit=SHORT_ANGLE_DEG, unit="°",
        digits=0, reason=f"Shutter angle too small: a pan of {PAN_DEG_S:.0f}°/s leaves gaps of {gap:.0f} px between frames.", cure=cure,
        explained=f"Shutter angle = 360 x rate x time = 360 x {rate_fps:g} x {shutter_s:.5f} = {angle:.0f}°. The gap is the step of the pan between frames "
        f"less its blur, at {FRAME_PX_PER_DEG:g} px a degree (1920 px of 100°). The limit is a judgement.",
    )  # fmt: skip


def _flicker(rate_fps: float, shutter_s: float, mains_hz: float) -> Finding:
    safe = flicker.safe_times_s(mains_hz, 1.0 / rate_fps) or (1.0 / (2.0 * mains_hz),)
    near = min(safe, key=lambda t: abs(t - shutter_s))
    beat, pulses = flicker.beat_hz(mains_hz, rate_fps), 2.0 * mains_hz * shutter_s
    rolls = (
        f"their brightness rolls {beat:.1f} times a second"
        if beat > 0.05
        else "bands stand still in the picture, darker or brighter by chance"
    )
    return Finding(
        desk="expose", kind="flicker", level=Level.CAUTION, title="Lamps will flicker", value=pulses, unit="pulses", digits=1,
        reason=f"So much of their light falls into a frame at {mains_hz:g} Hz: {rolls}; {shutter_text(near)} sees whole pulses.",
        cure=Cure(f"Shutter {shutter_text(near)}", "exposure.shutter_s", near) if near <= 1.0 / rate_fps + 1e-9 else None,
        explained=f"Lamps pulse 2 x {mains_hz:g} times a second; time x pulses = {shutter_s:.5f} x {2 * mains_hz:g} = {pulses:.2f}, whole numbers are safe. "
        "Beat = |n x rate - 2 f| for the nearest n. Source: alternating current.",
    )  # fmt: skip


def take_findings(course: Course, run: Run) -> list[Finding]:
    """What a school loses over the whole take in the planned views, and whether it is seen to follow the light."""
    out = []
    made = partial(Finding, desk="expose")
    if run.clipped > CLIPPED_SHARE:
        out.append(
            made(
                kind="clipped",
                level=Level.CAUTION,
                title="Highlights lost in the planned views",
                value=100.0 * run.clipped,
                limit=100.0 * CLIPPED_SHARE,
                unit="%",
                digits=1,
                reason="So much of what the film will show is white without drawing: a stronger filter, or a school that follows.",
                explained="Share of the planned views over full scale, by solid angle, over the take. The limit is a judgement.",
            )
        )
    if run.drowned > DROWNED_SHARE:
        dark = float(course.time_s[int(np.argmin(course.metered[:, 0]))])
        out.append(
            made(
                kind="drowned",
                level=Level.CAUTION,
                title="Drowns in noise",
                value=100.0 * run.drowned,
                limit=100.0 * DROWNED_SHARE,
                unit="%",
                digits=0,
                reason=f"So much of the planned views, worst at {dark:.0f} s: a weaker filter, another school, or a cut there.",
                explained="Share of the planned views under the camera's floor, by solid angle, over the take. The floor is the kit's range under full "
                "scale, a stop less with each stop of ISO. The limit is a judgement.",
            )
        )
    if run.pumping > PUMPING_STOPS_S:
        out.append(
            made(
                kind="pumping",
                level=Level.NOTE,
                title="Brightness will pump",
                value=run.pumping,
                limit=PUMPING_STOPS_S,
                unit="stops/s",
                digits=1,
                reason="The camera follows the light half a second late: seen where the view looks at what does not change.",
                explained="Steepest change of the exposure over the take, of a first-order lag of 0.5 s (judgement). Hold the view in the dark part, "
                "or lock and accept what is lost.",
            )
        )
    return out


def mode_findings(mode: Mode, wrong: list[str], *, spins: bool) -> list[Finding]:
    """A mode that does not allow what is set, or does not serve the shot."""
    made = partial(Finding, desk="expose", kind="mode", level=Level.STOP)
    out = []
    if wrong:
        out.append(
            made(
                title="The mode does not allow it",
                reason=f"{mode.words}: {'; '.join(wrong)}.",
                explained="The camera's own list of modes in the kit: what each offers and excludes.",
            )
        )
    if spins and (mode.is_photo or SPIN_FPS not in mode.rates_fps):
        out.append(
            made(
                title="Wrong mode for a spin",
                value=max(mode.rates_fps, default=0.0),
                limit=SPIN_FPS,
                unit="fps",
                digits=0,
                reason="A turn on a cord is over in a second: in any other mode than the one for slow motion it is lost.",
                cure=Cure(f"Set {SPIN_FPS:g} fps", "exposure.rate_fps", SPIN_FPS),
                explained="Common practice, no source: at 30 fps a quick turn leaves a dozen blurred frames.",
            )
        )
    return out
