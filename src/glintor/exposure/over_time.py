"""Takes whose film is shorter than they are: time-lapse, film that is sped up later, and which of the two serves."""

from msgspec import Struct

from glintor.exposure.motion import shutter_for_angle_s

SPEED_UP_MOST = 64.0  # times that a film can be sped up here
LAPSE_LEAST_S = 0.5  # shortest interval of a time-lapse
SMOOTH_PX = 24.0  # of the flat film between frames, under which movement still flows (judgement)
STAR_DEG_S = 360.0 / 86164.0  # the sky's turn: a sidereal day
TRAIL_PX = 1.5  # of a star in one exposure that is still a point (judgement)


class OverTime(Struct, frozen=True):
    """What a take over time gives. moves_px: of what passes, between two frames of the film; gigabytes of it; speed_up: how many times
    the film is faster than life; better: "film" or "lapse" or "" where both serve, with the reason in words."""

    frames: int
    film_s: float
    gigabytes: float
    moves_px: float
    speed_up: float
    shutter_s: float
    star_s: float
    better: str
    words: str


def over_time(
    take_s: float,
    interval_s: float,
    rate_fps: float,
    *,
    mbit_s: float,
    deg_s: float,
    px_per_deg: float,
    longest_battery_s: float,
) -> OverTime:
    """A take of so many seconds with a frame every so many; interval_s 0 is film that is sped up later, to as long as a lapse of 1 s
    would be. deg_s: how fast what matters passes by. The film's length is told at the rate that it plays at."""
    lapse = interval_s > 0.0
    step = interval_s or 1.0
    frames = int(take_s / step) + 1 if lapse else int(take_s * rate_fps)
    speed = step * rate_fps
    film = (frames / rate_fps) if lapse else take_s / min(speed, SPEED_UP_MOST)
    data_s = film if lapse else take_s
    moves = deg_s * step * px_per_deg
    if speed > SPEED_UP_MOST:
        better, why = "lapse", f"{speed:.0f} times life is more than a film is sped up"
    elif take_s > longest_battery_s and not lapse:
        better, why = "lapse", "filmed through, the take outlasts a battery"
    elif moves > SMOOTH_PX:
        better, why = (
            "film",
            f"what passes leaps {moves:.0f} px from frame to frame; of a film the frames between can be blended",
        )
    else:
        better, why = "", "either serves; a film can still be shown at the speed of life"
    return OverTime(
        frames,
        film,
        mbit_s / 8000.0 * data_s,
        moves,
        speed,
        shutter_for_angle_s(1.0 / step, 180.0) if lapse else shutter_for_angle_s(rate_fps, 180.0),
        TRAIL_PX / (STAR_DEG_S * px_per_deg),
        better,
        why,
    )


def in_words(one: OverTime, interval_s: float, rate_fps: float) -> str:
    """As it is told while the interval is chosen."""
    length = f"{one.film_s:.0f} s" if one.film_s < 120.0 else f"{one.film_s / 60.0:.1f} min"
    if interval_s > 0.0:
        head = f"{one.frames} frames become {length} of film at {rate_fps:g} fps, {one.speed_up:.0f} times life, {one.gigabytes:.1f} GB"
    else:
        head = f"sped up {one.speed_up:.0f} times it becomes {length}; {one.gigabytes:.0f} GB are filmed"
    return f"{head}; what passes moves {one.moves_px:.0f} px a frame: {one.words}."
