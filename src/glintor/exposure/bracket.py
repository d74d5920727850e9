"""The plan of an HDR photo: how many frames, how far apart, how long it takes, what moves meanwhile."""

from msgspec import Struct

from glintor.exposure.course import Course
from glintor.exposure.modes import Mode
from glintor.exposure.solve import Sensor

OVERLAP_STOPS = 3.0  # that two neighbours must share to be matched (judgement)
STEPS = (1.0, 4.0 / 3.0, 5.0 / 3.0, 2.0, 8.0 / 3.0, 3.0)
GAP_S = 0.25  # between frames, while the camera writes (common practice, no source)
GHOST_PX = 3.0  # of movement in the time of a bracket that is seen as a ghost (judgement)


class Bracket(Struct, frozen=True):
    """A planned series. holds: stops that all frames hold together; span: what the scene holds; order: from the middle outwards;
    moves_px: how far what moves gets in that time, in pixels of the sphere; limit: what stands in the way, "" where nothing does."""

    frames: int
    step_stops: float
    holds_stops: float
    span_stops: float
    total_s: float
    order: tuple[float, ...]
    moves_px: float
    limit: str = ""

    @property
    def ghosts(self) -> bool:
        return self.moves_px > GHOST_PX


def planned(course: Course, moment: int, sensor: Sensor, mode: Mode, middle_s: float, deg_s: float) -> Bracket:
    """The smallest series that holds a moment's light: a frame covers R stops, n frames s apart R + (n - 1) s; neighbours overlap by at
    least OVERLAP_STOPS. middle_s: time of the middle frame; deg_s: how fast what moves passes by."""
    low, high = (float(v) for v in course.held[moment])
    span, range_ = high - low, sensor.stops
    offered = [
        (n, s)
        for n in mode.brackets
        for s in STEPS
        if (n - 1) / 2.0 * s <= mode.most_stops + 1e-9 and range_ - s >= OVERLAP_STOPS
    ]
    if not offered:
        return Bracket(1, 0.0, range_, span, middle_s, (0.0,), 0.0, f"{mode.words} offers no bracket")
    enough = [(n, s) for n, s in offered if range_ + (n - 1) * s >= span - 1e-9]
    frames, step = min(enough) if enough else max(offered, key=lambda o: ((o[0] - 1) * o[1], -o[0]))
    stops = [(k - (frames - 1) / 2.0) * step for k in range(frames)]
    times = [middle_s * 2.0**k for k in stops]
    limit = (
        ""
        if enough
        else f"even {frames} frames {step:g} stops apart hold {range_ + (frames - 1) * step:.0f} of {span:.0f} stops"
    )
    if min(times) < sensor.shutter_min_s * 0.999:
        limit = (
            limit
            or f"the darkest frame would take 1/{1.0 / min(times):.0f} s, the shortest is 1/{1.0 / sensor.shutter_min_s:.0f} s: put a filter on"
        )
    total = sum(times) + GAP_S * (frames - 1)
    order = tuple(sorted(stops, key=lambda k: (abs(k), k)))
    return Bracket(
        frames, step, range_ + (frames - 1) * step, span, total, order, deg_s * total * mode.width_px / 360.0, limit
    )
