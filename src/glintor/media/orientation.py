"""How a footage's camera lay at each moment: out of its pictures, and of the inertial log beside it where there is one.

The log's filter is VQF (Laidig & Seel, "VQF: highly accurate IMU orientation estimation with bias estimation and magnetic
disturbance rejection", Information Fusion 91, 2023), as its authors' package has it. It knows up and every shake; the
picture knows slow turns and never drifts far: each gives what it is good at. What was found is kept in the cache folder.
"""

import contextlib
import hashlib
import threading
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from msgspec.structs import replace

from glintor.errors import Cancelled, GlintorError, InputError
from glintor.files import whole_file, write_bytes
from glintor.media.footage import Footage
from glintor.media.inertial import Log, log_beside, read_log
from glintor.media.kept_arrays import read_arrays
from glintor.media.kept_rows import state_of
from glintor.media.rolling import find_rows
from glintor.pixels.yuv import Plane
from glintor.places import own_folder
from glintor.sphere.rotation import view_matrix
from glintor.sphere.steady import Orientation, smoothed
from glintor.sphere.turn import TurnTrack
from glintor.types import Array, Report

_VERSION = 5  # of what is kept
_HAND_OVER_S = 0.4  # what is quicker is the log's, what is slower the picture's
_SEARCH_S = 3.0  # log and picture are tried so far apart
_USUAL_S, _USUAL_GAIN, _CERTAIN = 0.35, 0.15, 0.85
_PLAIN_RAD_S = 0.06  # of turning, below which noise hides whether they fit
_FITS = 0.55  # correlation of their turning that two of one take have
_STILL_RAD_S = 0.02  # a camera that turns less gives nothing to compare
_UP_MOMENTS = 10
_MOST_GAIN = (
    1.35  # times that a log may turn more or less than its picture (judgement: pictures lose some of a quick shake)
)
_LEAST_LINES, _BY_CHANCE = 60, 1.2
_VERTICALS, _SKY = 0.21, 0.75  # the share of lines that agree (less was wrong), of brightness that height explains
_SKY_NEAR = float(
    np.cos(np.radians(12.0))
)  # the sky is lighter where the sun is: far from how it was held it is not believed
_WAY_DEG, _WAY_SHARE, _WAY_SMOOTH_S = 0.12, 0.4, 0.7


def turning_file(footage: Footage, log: Path | None) -> Path:
    """Where what is found of a footage as it is now is kept."""
    files = (*footage.files, *([log] if log is not None else []))
    names = [str(_VERSION), repr(footage.shows), footage.paired, state_of(files)]
    return own_folder("cache") / "turning" / f"{hashlib.sha256('|'.join(names).encode()).hexdigest()[:24]}.npz"


def orientation_of(
    footage: Footage,
    log: Path | None = None,
    *,
    report: Report = lambda _share: None,
    stop: threading.Event | None = None,
) -> Orientation:
    """How the camera lay, kept or found. log: what lies beside it where it is not told; one that belongs to another take is not
    used, and `made_by` says so. Raises ClipError, InputError, Cancelled."""
    given = log is not None
    log = log or log_beside(footage.files)
    kept = turning_file(footage, log)
    known = _read(kept)
    if known is not None:
        return known
    found = by_picture(footage, report=report, stop=stop)
    if log is not None:
        try:
            found = _logged(footage, found, log)
        except InputError as error:
            if given:
                raise
            found = replace(found, made_by=f"{found.made_by}; {error.what}")
    with contextlib.suppress(GlintorError, OSError):  # without room for it, it is found again the next time
        _write(kept, found)
    return found


def _logged(footage: Footage, seen: Orientation, file: Path) -> Orientation:
    """With a log's shake and upright, and what it tells of how the rows were read, which is kept by itself. Raises InputError."""
    log = read_log(file)
    found = with_log(seen, log, file.name)
    rows = find_rows(footage, found, log, log_offset_s(seen, log) or 0.0)
    if rows is None:
        return found
    longest_ms = float(np.abs(rows.readouts_s).max()) * 1000.0
    return replace(found, made_by=f"{found.made_by}; its rows, read in {longest_ms:.0f} ms, are put right")


def known_orientation(footage: Footage) -> Orientation | None:
    """How the camera lay, where that was found already."""
    try:
        return _read(turning_file(footage, log_beside(footage.files)))
    except OSError:
        return None


def _read(file: Path) -> Orientation | None:
    kept = read_arrays(file, ("time_s", "quaternions", "trust", "up", "heading_deg", "made_by", "up_sure"))
    if kept is None or kept["quaternions"].shape != (*kept["time_s"].shape, 4) or not len(kept["time_s"]):
        return None
    up, heading = kept["up"], kept["heading_deg"]
    return Orientation(
        kept["time_s"],
        kept["quaternions"],
        kept["trust"],
        up if len(up) else None,
        heading if len(heading) else None,
        str(kept["made_by"]),
        bool(kept["up_sure"]),
    )


def _write(file: Path, found: Orientation) -> None:
    file.parent.mkdir(parents=True, exist_ok=True)
    nothing = np.zeros(0)
    with whole_file(file) as part, part.open("wb") as out:
        np.savez(
            out,
            time_s=found.time_s,
            quaternions=found.quaternions,
            trust=found.trust,
            up=nothing if found.up is None else found.up,
            heading_deg=nothing if found.heading_deg is None else found.heading_deg,
            made_by=np.array(found.made_by),
            up_sure=np.array(found.up_sure),
        )


def wanted_share(lines: float) -> float:
    """The share of straight lines that must agree on one upright before that is called sure; lines: as many as one picture shows. Few
    agree by chance: in dim and noisy spheres up to 63 of a hundred of eleven lines did, all of them wrong; at 60 and more nothing was
    wrong beyond this (three spheres, down to 6 stops under, tilted by up to 15 degrees)."""
    return _VERTICALS + _BY_CHANCE / float(np.sqrt(lines)) if lines >= _LEAST_LINES else float("inf")


def by_picture(
    footage: Footage, *, report: Report = lambda _share: None, stop: threading.Event | None = None
) -> Orientation:
    """Out of the pictures alone; of a large film its stand-in's where there is one. Raises ClipError, Cancelled."""
    from scipy.spatial.transform import Rotation

    from glintor.pixels.turning import Seen, Turning, upright_of, verticals_in
    from glintor.pixels.unrolled import unrolled_level

    looked = footage.draft() or footage
    follow, seen = Turning(looked.shows), list[Seen]()
    lines, weights, skies = [], [], []
    length = max(footage.duration_s, 1e-6)
    moments = [length * (n + 0.5) / _UP_MOMENTS for n in range(_UP_MOMENTS)]
    with looked.reader() as reader:
        for decoded in reader.frames():
            if stop is not None and stop.is_set():
                raise Cancelled
            sphere = looked.sphere(decoded)
            one = follow.push(sphere, float(decoded.time))
            seen.append(one)
            if moments and one.time_s >= moments[0] - 0.5 / float(footage.rate):
                moments.pop(0)
                normals, long = verticals_in(sphere, looked.shows, one.turn)
                lines.append(normals)
                weights.append(long)
                skies.append(unrolled_level(sphere, (96, 48), looked.shows, one.turn).y)
            report(min(one.time_s / length, 1.0))
    if not seen:
        raise InputError(f"No picture of {footage.name} could be decoded.", advice="Copy it from the card again.")
    near = np.mean([one.turn[:, 2] for one in seen], axis=0)
    near /= max(float(np.linalg.norm(near)), 1e-9)
    up, how = near, "how it was held on the whole: unsure"
    found = upright_of(np.concatenate(lines), np.concatenate(weights), near) if lines else None
    seen_lines = sum(len(one) for one in lines) / max(len(lines), 1)
    if found is not None and found[1] > wanted_share(seen_lines):
        up, how = found[0], "the verticals in it"
    else:
        sky = sky_up(skies, near) if skies else None
        if sky is not None and sky[1] > _SKY and float(sky[0] @ near) > _SKY_NEAR:
            up, how = sky[0], "the sky: unsure"
    words = f"its own picture, up from {how}"
    time = np.array([one.time_s for one in seen])
    turns = Rotation.from_matrix(np.stack([one.turn for one in seen]))
    trust = np.array([one.trust for one in seen])
    made = Orientation(time, turns.as_quat(), trust, up, None, words, up_sure="unsure" not in how)
    return replace(
        made, heading_deg=_heading(time, np.stack([one.way for one in seen]), up if up is not None else near)
    )


def sky_up(skies: Sequence[Plane], near: Array) -> tuple[Array, float] | None:
    """The upward direction round which brightness depends most on the height alone, and how much of its variety that explains (0 to
    1); skies: small unrolled pictures in one frame. None where it is dark below and above alike."""
    from glintor.sphere.equirect import direction, lonlat_of_pixel

    height, width = skies[0].shape
    lon, lat = lonlat_of_pixel(np.arange(width)[None, :], np.arange(height)[:, None], width, height)
    look = direction(lon, lat).reshape(-1, 3)
    weight = np.repeat(np.cos(np.radians(lat)).reshape(-1), width)
    light = np.mean([np.log(np.maximum(sky.astype(np.float64) - 12.0, 2.0)).reshape(-1) for sky in skies], axis=0)
    mean = float(np.average(light, weights=weight))
    total = float(np.average((light - mean) ** 2, weights=weight))
    if total < 0.02:
        return None

    def explained(up: Array) -> float:
        bins = np.clip(((look @ up + 1.0) * 16.0).astype(int), 0, 31)
        share = np.bincount(bins, weight, 32)
        means = np.bincount(bins, weight * light, 32) / np.maximum(share, 1e-9)
        if np.average(means[18:], weights=share[18:] + 1e-9) < np.average(means[:14], weights=share[:14] + 1e-9):
            return 0.0  # lighter below: no sky
        return float(np.sum(share * (means - mean) ** 2) / share.sum() / total)

    best, reach = near, np.radians(24.0)
    score = explained(best)
    side = np.cross(best, [1.0, 0.0, 0.0] if abs(best[0]) < 0.7 else [0.0, 1.0, 0.0])
    for _ in range(7):
        side = side - best * float(side @ best)
        side /= np.linalg.norm(side)
        other = np.cross(best, side)
        tried = [
            best + np.tan(reach) * (np.cos(t) * side + np.sin(t) * other)
            for t in np.linspace(0, 2 * np.pi, 12, endpoint=False)
        ]
        tried += [
            best + np.tan(reach / 2.0) * (np.cos(t) * side + np.sin(t) * other)
            for t in np.linspace(0, 2 * np.pi, 8, endpoint=False)
        ]
        for candidate in tried:
            unit = candidate / np.linalg.norm(candidate)
            found = explained(unit)
            if found > score:
                best, score = unit, found
        reach /= 1.8
    return best, score


def _heading(time: Array, ways: Array, up: Array) -> Array | None:
    """(n,) bearings of travel in a level world; None where the picture does not tell it for long enough."""
    from glintor.sphere.steady import upright

    level = ways @ upright(up).T
    size = np.linalg.norm(ways, axis=1)
    flat = np.hypot(level[:, 0], level[:, 1])
    told = (size > _WAY_DEG) & (flat > 0.7 * size)
    if told.mean() < _WAY_SHARE:
        return None
    pull = smoothed(level[:, :2] / np.maximum(flat, 1e-9)[:, None] * told[:, None], time, _WAY_SMOOTH_S)
    return np.degrees(np.unwrap(np.arctan2(-pull[:, 1], pull[:, 0])))


def log_orientation(log: Log) -> tuple[Array, Array]:
    """Times and quaternions (n, 4) as x, y, z, w from the log's body axes to level ones, by the offline filter."""
    from vqf import offlineVQF

    step = float(np.median(np.diff(log.time_s)))
    even = np.arange(log.time_s[0], log.time_s[-1] + step / 2, step)
    gyro, accel = (
        np.stack([np.interp(even, log.time_s, c) for c in v.T], axis=1) for v in (log.gyro_rad_s, log.accel_m_s2)
    )
    found = offlineVQF(np.ascontiguousarray(gyro), np.ascontiguousarray(accel), None, step)
    return even, np.asarray(found["quat6D"])[:, [1, 2, 3, 0]]


def with_log(seen: Orientation, log: Log, name: str) -> Orientation:
    """What the picture knows, with the log's shake and upright. Raises InputError where the log is of another take."""
    from scipy.spatial.transform import Rotation, Slerp

    offset = log_offset_s(seen, log)
    if offset is None:
        raise InputError(
            f"{name} does not fit the picture's turning: it belongs to another take.",
            unharmed="It was not changed.",
            advice="The picture alone was used." if len(seen.time_s) > 1 else "Use the log of this take.",
        )
    times, quaternions = log_orientation(log)
    at = seen.time_s + offset
    inside = (at >= times[0]) & (at <= times[-1])
    if inside.sum() < 2:
        raise InputError(f"{name} ends before this recording begins.", advice="Use the log of this take.")
    felt = Slerp(times, Rotation.from_quat(quaternions))(np.clip(at, times[0], times[-1]))
    apart = (seen.turns * felt.inv()).as_quat()
    flips = np.cumsum(np.sum(apart[1:] * apart[:-1], axis=1) < 0) % 2
    apart[1:] *= np.where(flips, -1.0, 1.0)[:, None]
    slow = smoothed(apart, seen.time_s, _HAND_OVER_S)
    tie = Rotation.from_quat(slow / np.linalg.norm(slow, axis=1, keepdims=True))
    both = (tie * felt).as_quat()
    both[~inside] = seen.quaternions[~inside]
    up = np.mean(tie[np.nonzero(inside)[0]].apply([0.0, 0.0, 1.0]), axis=0)
    return replace(
        seen,
        quaternions=both,
        trust=np.where(inside, np.maximum(seen.trust, 0.8), seen.trust),
        up=up / np.linalg.norm(up),
        up_sure=True,
        made_by=f"{name}, {offset * 1000.0:+.0f} ms against the picture, and the picture",
    )


def log_offset_s(seen: Orientation, log: Log) -> float | None:
    """Log time minus picture time, by how quickly both turn; None where they do not fit, or where one turns otherwise than the other, 0
    where neither turns."""
    from scipy.spatial.transform import Rotation

    time = seen.time_s
    if len(time) < 8:
        return 0.0
    turns = Rotation.from_quat(seen.quaternions)
    middle = (time[1:] + time[:-1]) / 2.0
    rate = (turns[:-1].inv() * turns[1:]).as_rotvec() / np.diff(time)[:, None]
    quick = float(np.percentile(np.linalg.norm(rate, axis=1), 90))
    if quick < _STILL_RAD_S:
        return 0.0
    span = float(np.median(np.diff(time)))
    # A picture's rate is the mean over the time between two frames: the same of the log, exactly, however often that was written.
    steps = np.diff(log.time_s)[:, None] * (log.gyro_rad_s[1:] + log.gyro_rad_s[:-1]) / 2.0
    turned = np.concatenate([np.zeros((1, 3)), np.cumsum(steps, axis=0)])

    def both(offset: float) -> tuple[Array, Array] | None:
        at = middle + offset
        inside = (at - span / 2.0 >= log.time_s[0]) & (at + span / 2.0 <= log.time_s[-1])
        if inside.sum() < max(8, 0.4 * len(middle)):
            return None
        ends = [
            np.stack([np.interp(at[inside] + by, log.time_s, c) for c in turned.T], axis=1)
            for by in (-span / 2.0, span / 2.0)
        ]
        there, here = (ends[1] - ends[0]) / span, rate[inside]
        return there - there.mean(axis=0), here - here.mean(axis=0)

    def score(offset: float) -> float:
        pair = both(offset)
        if pair is None:
            return -1.0
        a, b = pair
        return float((a * b).sum() / max(np.sqrt((a * a).sum() * (b * b).sum()), 1e-12))

    def alike(offset: float) -> bool:
        """Whether the log turns as far as the picture: one that shakes more or less is of another camera, or in other units."""
        pair = both(offset)
        assert pair is not None, "it fits there"
        gain = float((pair[0] * pair[1]).sum() / max(float((pair[0] ** 2).sum()), 1e-12))
        return 1.0 / _MOST_GAIN <= gain <= _MOST_GAIN

    coarse = np.arange(-_SEARCH_S, _SEARCH_S + 1e-9, min(span / 2.0, 0.02))
    scores = np.array([score(float(offset)) for offset in coarse])
    near = np.abs(coarse) < _USUAL_S  # a log begins with its film: elsewhere only where that fits for certain
    sure = scores.max() >= _CERTAIN and scores.max() > scores[near].max() + _USUAL_GAIN
    best = float(coarse[int(np.argmax(scores if sure else np.where(near, scores, -2.0)))])
    fine = best + np.arange(-20, 21) * (coarse[1] - coarse[0]) / 20.0
    finer = [score(float(offset)) for offset in fine]
    top = int(np.argmax(finer))
    if finer[top] >= _FITS:
        return float(fine[top]) if alike(float(fine[top])) else None
    return (
        0.0 if quick < _PLAIN_RAD_S and finer[top] > 0.0 else None
    )  # too little turning to tell, and nothing against it


def level_from(turn_at: Array, pitch_deg: float, roll_deg: float) -> Array:
    """(3,) the world's up where a picture that lies in it by `turn_at` (3, 3) is known to be held so."""
    return np.asarray(turn_at @ view_matrix(0.0, pitch_deg, roll_deg).T @ np.array([0.0, 0.0, 1.0]))


def write_turns(file: Path, track: TurnTrack, trust: Array) -> None:
    """A CSV of turns from the camera's axes (x ahead, y left, z up) to others, with how far each is to be trusted. Raises WriteError."""
    lines = ["time_s,qw,qx,qy,qz,trust"]
    for time, (x, y, z, w), sure in zip(track.time_s, track.quaternions, trust, strict=True):
        side = -1.0 if w < 0 else 1.0
        lines.append(f"{time:.6f}," + ",".join(f"{side * value:.9f}" for value in (w, x, y, z)) + f",{sure:.3f}")
    write_bytes(file, ("\n".join(lines) + "\n").encode())
