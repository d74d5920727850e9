"""A path looked at as a viewer would: what pans too fast, loses the subject or puts it on the seam."""

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.finding import Cure, Finding, Level
from glintor.reframing.arranging import with_moves_spread
from glintor.reframing.course import Course
from glintor.reframing.cut import Cut
from glintor.reframing.motion import speed_deg_s
from glintor.reframing.retime import Timeline
from glintor.reframing.review_motion import in_stretches, is_meant, motion_findings, runs, stretch_findings
from glintor.reframing.track import Track
from glintor.sphere import lens
from glintor.sphere.equirect import direction
from glintor.sphere.view import in_frames
from glintor.types import Array

SAMPLES_HZ = 12.0
SOFT_SHARE = 0.5  # judgement, no source: under half of the frame's pixels are real
SMALL_SHARE = 0.06  # judgement, no source: of the frame's height
QUICK_TURN_S = 1.5  # judgement: people take about 1 s to move between two holds; so short a turn is meant as one
# In shares of a person's height from the middle: eyes, shoulders aside, and what of the body is asked for (drawing canon, from memory).
_EYES, _SHOULDER, _BODY = 0.43, 0.13, (-0.45, -0.3, -0.15, 0.0, 0.15, 0.3)
_TALLEST_DEG = 120.0  # more is nobody's height, but somebody at the lens
_QUICKEST_S = 0.1  # shorter is no turn of anybody's, but the rounding of samples


class Limits(Struct, frozen=True):
    """What the review measures against; all from other desks, as plain values.

    seam_band_deg  half-width of the seam band for the subject; None where nobody knows how the lenses lay
    seam_axis    where the front lens looks in the picture: the seam is at right angles to it
    sun, foot, filmer  bearings and heights of the sun, the stick's foot and whoever films; None where nobody knows; shadow: of points of the camera's
    pan_share_s  fastest smooth pan in frame widths a second (the crossing rule for this rate and shutter angle)
    """

    pan_share_s: float
    source_width_px: int
    seam_band_deg: float | None
    seam_axis: tuple[float, float, float] = (1.0, 0.0, 0.0)
    size_px: tuple[int, int] = (1920, 1080)
    sun: tuple[float, float] | None = None
    foot: tuple[float, float] | None = None
    filmer: tuple[float, float] | None = None
    shadow: tuple[tuple[float, float], ...] = ()


def review_path(
    course: Course,
    timeline: Timeline,
    limits: Limits,
    track: Track | None,
    subject: str = "Subject",
    cut: Cut | None = None,
) -> list[Finding]:
    """The findings of a course between a cut's in and out, in order of the path's time; pans as fast as the film shows them. cut: whose
    it is, for what its keyframes say."""
    clock = timeline.clock
    span = float(clock.path_s(timeline.in_s)), float(clock.path_s(timeline.out_s, after=True))
    times = np.arange(*span, 1.0 / SAMPLES_HZ)
    if len(times) < 2:
        return []
    values = course.values(times)
    out = _pans(course, timeline, times, values, limits, cut) + _softness(times, values, limits)
    out += stretch_findings(values, times) + _unwanted(times, values, limits)
    if cut is not None:
        out += motion_findings(course, cut, times, values)
    if track is not None and len(track.time_s):
        out += _subject(times, values, limits, track.on(clock).at(times), subject)
    return sorted(out, key=lambda finding: finding.start_s)


def _unwanted(times: Array, values: Array, limits: Limits) -> list[Finding]:
    """What stands in the frame that should not: the sun, the foot of the stick, whoever films."""
    out = []
    for places, kind, title, reason, lift in (
        (_one(limits.sun), "sun", "Sun in the frame", "It flares, and all else goes dark.", 0.0),
        (
            _one(limits.foot),
            "stick",
            "Foot of the stick in the frame",
            "The stick itself is hidden; its foot and clamp are not.",
            1.0,
        ),
        (
            _one(limits.filmer),
            "filmer",
            "Whoever films is in the frame",
            "If that is not meant: look elsewhere, or higher.",
            0.0,
        ),
        (
            limits.shadow,
            "shadow",
            "Shadow of stick and camera in the frame",
            "As it fell when the take began; look higher.",
            1.0,
        ),
    ):
        seen = _in_sight(values, limits, places)
        found = runs(seen & (values[:, 3] < 200.0), times, 0.5)  # a globe shows its foot
        if found:
            cure = Cure("Look higher", "cut.lift", found[0][0]) if lift else None
            out.append(in_stretches(found, kind, Level.NOTE, title, reason, cure))
    return out


def _one(place: tuple[float, float] | None) -> tuple[tuple[float, float], ...]:
    return () if place is None else (place,)


def _in_sight(values: Array, limits: Limits, places: tuple[tuple[float, float], ...]) -> NDArray[np.bool_]:
    """(n,) whether any of some places (bearing and height, degrees) lies in the frame."""
    seen = np.zeros(len(values), bool)
    for place in places:
        seen |= in_frames(values, limits.size_px, np.broadcast_to(direction(*place), (len(values), 3)))
    return seen


def _pans(
    course: Course, timeline: Timeline, times: Array, values: Array, limits: Limits, cut: Cut | None
) -> list[Finding]:
    speed = speed_deg_s(course, times) * timeline.pace(times)
    limit = np.minimum(values[:, 3], 170.0) * limits.pan_share_s
    out = []
    for start, end in runs(speed > limit, times, _QUICKEST_S):
        part = (times >= start) & (times <= end)
        worst = int(np.argmax(np.where(part, speed / limit, 0.0)))
        quick = end - start < QUICK_TURN_S
        if quick and (
            _turned_deg(values[_with_neighbours(part)]) <= values[worst, 3] or is_meant(cut, start, end, ("whip",))
        ):
            continue  # what was seen before is still in sight, or it is meant so
        needed = (end - start) * float(speed[worst] / limit[worst])
        room = _has_room(cut, timeline, start, end, needed)
        level = Level.STOP if speed[worst] > 3.5 * limit[worst] and not quick else Level.CAUTION
        out.append(
            Finding(
                desk="reframe",
                kind="pan",
                level=level,
                title="Quick turn" if quick else "Pan too fast",
                value=float(speed[worst]),
                limit=float(limit[worst]),
                unit="°/s",
                digits=0,
                start_s=start,
                end_s=end,
                reason=(
                    f"{'Nothing that was seen before is in sight after it' if quick else 'Things cross the frame too quickly to be seen'}; "
                    f"it wants {needed:.1f} s{'' if room else ', and the cut has no room for that: turn less, or let it end later'}."
                ),
                cure=Cure(f"Spread over {needed:.1f} s", "cut.spread", needed) if room else None,
            )
        )
    return out


def _with_neighbours(part: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """A stretch of samples with those just before and after it, between which it began and ended."""
    return part | np.append(part[1:], False) | np.append(False, part[:-1])


def _turned_deg(values: Array) -> float:
    """How far the axis of a view is turned from the first of some moments to the last."""
    first, last = direction(values[[0, -1], 0], values[[0, -1], 1])
    return float(np.degrees(np.arccos(np.clip(first @ last, -1.0, 1.0))))


def _has_room(cut: Cut | None, timeline: Timeline, start_s: float, end_s: float, needed_s: float) -> bool:
    """Whether what moves between two moments can be given that length inside the cut."""
    clock = timeline.clock
    ends_s = float(clock.path_s(timeline.out_s, after=True))
    if cut is None:
        return start_s + needed_s <= ends_s
    return with_moves_spread(cut, start_s, end_s, needed_s, ends_s) is not None


def _softness(times: Array, values: Array, limits: Limits) -> list[Finding]:
    width = limits.size_px[0]
    rims = np.array([lens.edge_deg(float(b)) for b in values[:, 4]])
    true = np.minimum(values[:, 3], rims) * limits.source_width_px / 360.0
    soft = runs(true < SOFT_SHARE * width, times, 0.5)
    if not soft:
        return []
    least = float(true.min())
    return [
        Finding(
            desk="reframe",
            kind="soft",
            level=Level.NOTE,
            title="True width",
            value=least,
            limit=float(width),
            unit="px",
            digits=0,
            start_s=soft[0][0],
            end_s=soft[-1][1],
            reason="So many source pixels lie across the frame; a wider view is sharper.",
        )
    ]


def _subject(times: Array, values: Array, limits: Limits, track: Track, subject: str) -> list[Finding]:
    where = direction(track.yaw_deg, track.pitch_deg)
    known, sure = track.known, track.sure
    seen = in_frames(values, limits.size_px, where) & known
    off = np.degrees(np.arcsin(np.minimum(np.abs(where @ np.array(limits.seam_axis)), 1.0)))
    out = []
    band = limits.seam_band_deg
    for start, end in runs(seen & (off < band), times) if band is not None else ():
        out.append(
            Finding(
                desk="reframe",
                kind="seam",
                level=Level.CAUTION,
                title=f"{subject} on the seam",
                value=float(off[(times >= start) & (times <= end)].min()),
                limit=band or 0.0,
                unit="°",
                start_s=start,
                end_s=end,
                reason="The two lenses' pictures do not meet there; look elsewhere.",
            )
        )
    for there, kind, title, reason in (
        (
            ~known,
            "lost",
            f"{subject} lost",
            "It was not found in the pictures there; point at it, and it is followed anew.",
        ),
        (
            known & ~sure,
            "unsure",
            f"Not sure that it is {subject.lower()}",
            "Something like it was found there, which may be another: look, and point at it. Nothing is held on it meanwhile.",
        ),
    ):
        spans = runs(there, times, 0.5)
        if spans and known.any():
            out.append(in_stretches(spans, kind, Level.NOTE, title, reason))
    out += _placed(times, values, limits, track, subject)
    away = runs(~seen & known, times, 1.0)
    if away:
        never = not seen.any()
        stretches = f"In {len(away)} stretch{'es' if len(away) > 1 else ''} of the cut."
        out.append(
            in_stretches(
                away,
                "away",
                Level.CAUTION if never else Level.NOTE,
                f"{subject} never in frame" if never else f"{subject} out of frame",
                "It is known where it is, and the cut shows it at no time." if never else stretches,
                Cure("Hold on to it there", "cut.hold", away[0][0]),
            )
        )
    return out


def _placed(times: Array, values: Array, limits: Limits, track: Track, subject: str) -> list[Finding]:
    """A subject whose head or side the frame's edge cuts, or that is too small to be seen."""
    if track.size_deg is None:
        return []
    height = np.minimum(track.size_deg, _TALLEST_DEG)
    tall = (
        np.radians(track.size_deg)
        * lens.focal_per_width(values[:, 3], values[:, 4])
        * limits.size_px[0]
        / limits.size_px[1]
    )

    def shown(up: float, aside: float = 0.0) -> NDArray[np.bool_]:
        """Whether the frame shows what is so far over the middle of the body and aside, in shares of its height."""
        pitch = np.clip(track.pitch_deg + up * height, -89.0, 89.0)
        yaw = track.yaw_deg + aside * height / np.maximum(np.cos(np.radians(pitch)), 0.05)
        return in_frames(values, limits.size_px, direction(yaw, pitch)) & track.known

    body = [shown(up) for up in _BODY]
    some, seen, eyes = np.any(body, axis=0), shown(0.0), shown(_EYES)
    large = (tall > SMALL_SHARE) & (values[:, 3] < 200.0)  # a globe shows everybody
    sides = eyes & (shown(_EYES, -_SHOULDER) ^ shown(_EYES, _SHOULDER))
    out = []
    for there, level, title, reason in (
        (
            some & ~eyes & large,
            Level.CAUTION,
            f"{subject}'s head cut off",
            "The frame shows the body without its face: look higher, or wider.",
        ),
        (sides & large, Level.NOTE, f"{subject} cut by the edge", "Half in, half out: show all of it or none."),
    ):
        cut = runs(there, times, 0.4)
        if cut:
            out.append(in_stretches(cut, "edge", level, title, reason, Cure("Wider there", "cut.wider", cut[0][0])))
    small = runs(seen & (tall < SMALL_SHARE) & (values[:, 3] < 200.0), times, 1.5)
    if small:
        least = float(tall[(times >= small[0][0]) & (times <= small[0][1])].min()) * 100.0
        out.append(
            Finding(
                desk="reframe",
                kind="small",
                level=Level.NOTE,
                title=f"{subject} small",
                value=least,
                limit=SMALL_SHARE * 100.0,
                unit="% of the height",
                digits=0,
                start_s=small[0][0],
                end_s=small[0][1],
                reason="Closer, it would be seen.",
                cure=Cure("Closer there", "cut.closer", small[0][0]),
            )
        )
    return out
