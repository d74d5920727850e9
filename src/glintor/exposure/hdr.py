"""A series of exposures of one sphere: read, exposures known or found, lined up by rotation, ghosts resolved, merged."""

from collections.abc import Sequence
from itertools import pairwise
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from glintor.errors import InputError
from glintor.exposure.metering import LUMA
from glintor.media.exif import Shot, read_exif
from glintor.media.picture import read_sphere
from glintor.pixels.curves import CURVES, Curve, guessed, table_of
from glintor.pixels.merging import merge
from glintor.sphere.equirect import direction, lonlat_deg, lonlat_of_pixel, pixel, solid_angle_weight
from glintor.types import Array, Report

_ALIGN_PX = {
    256: 12,
    512: 5,
    1024: 2,
}  # wide copies on which the rotation is found, one after the other, in so many steps
_GHOST_PX, _GHOST_STOPS = 720, 0.45  # wide copies on which what moved is found; by more than this (judgement)
_LOW, _HIGH = 0.02, 0.90  # of full scale, linear: between them a value can be compared
_TURN_MOST_DEG = 12.0  # a held stick moves less; more is another place
_FIT_STOPS = 0.12  # median difference of frames that show the same place, stops (judgement)
_LEAST_SHARED = 0.01  # of the sphere that two frames must both expose well


class Frame(Struct, frozen=True):
    """One exposure of a series: its file, how much light it took relative to the reference (stops), by what that is known, and how far
    it was turned from the reference, degrees; ghosts: share of the sphere in which it was set aside."""

    file: Path
    stops: float
    known_by: str
    turned_deg: float
    ghosts: float


class Merged(Struct, frozen=True, eq=False):
    """Light of a sphere (H, W, 3), 1 at the reference's full scale; cd_m2 of such a unit, None where no file says how it was exposed.

    too_bright, too_dark  share of the sphere that no frame holds
    """

    light: NDArray[np.float32]
    cd_m2: float | None
    frames: tuple[Frame, ...]
    reference: int
    curve: str
    too_bright: float
    too_dark: float


def merge_series(files: Sequence[Path], *, curve: str = "", report: Report = lambda _share: None) -> Merged:
    """Merges a series into light. Raises InputError, ClipError with what is wrong: one frame, mixed sizes, another place, all clipped."""
    if len(files) < 2:
        raise InputError("One photo is no series.", advice="Choose at least two exposures of the same sphere.")
    pixels: list[NDArray[Any]] = []
    for number, file in enumerate(files):
        picture, coverage = read_sphere(file)
        if not coverage.whole:
            raise InputError(
                f"{file.name} does not show the whole sphere.",
                unharmed="Nothing was changed.",
                advice="Only whole spheres are merged.",
            )
        if picture.dtype.kind == "f":
            raise InputError(
                f"{file.name} is light already.",
                unharmed="Nothing was changed.",
                advice="Merge the camera's own photos.",
            )
        if pixels and (picture.shape != pixels[0].shape or picture.dtype != pixels[0].dtype):
            wide, high = pixels[0].shape[1], pixels[0].shape[0]
            raise InputError(
                f"{file.name} is {picture.shape[1]}x{picture.shape[0]}, the first is {wide}x{high}.",
                unharmed="Nothing was changed.",
                advice="A series has one size: leave out what does not belong to it.",
            )
        pixels.append(picture)
        report(0.2 * (number + 1) / len(files))
    chosen: Curve = next((one for one in CURVES if one == curve), guessed(pixels[len(pixels) // 2])[0])
    table = table_of(chosen, 8 if pixels[0].dtype == np.uint8 else 16)
    told = [read_exif(file) for file in files]
    stops, known = _stops(files, pixels, table, told)
    order = np.argsort(stops, kind="stable")
    files, pixels, told = [files[n] for n in order], [pixels[n] for n in order], [told[n] for n in order]
    stops = stops[order]
    best = _reference(pixels, table)
    stops = stops - stops[best]
    turns = _turns(files, pixels, table, stops, best)
    report(0.45)
    small = [_small(picture, table, _GHOST_PX) for picture in pixels]
    ghosts = _ghosts(small, stops, turns, best)
    report(0.55)
    light, state = merge(np.stack(pixels), table, np.stack([t.as_matrix() for t in turns]), 2.0**stops, ghosts)
    report(1.0)
    weight = np.repeat(solid_angle_weight(len(state))[:, None], state.shape[1], axis=1)
    bright, dark = (float(weight[state == n].sum() / weight.sum()) for n in (1, 2))
    if bright > 0.98:
        raise InputError(
            "All frames are white almost everywhere.", unharmed="Nothing was changed.", advice="Take darker frames too."
        )
    frames = tuple(
        Frame(file, float(s), known, float(np.degrees(t.magnitude())), float(1.0 - ghosts[n].mean()))
        for n, (file, s, t) in enumerate(zip(files, stops, turns, strict=True))
    )
    return Merged(light, told[best].cd_m2, frames, best, CURVES[chosen], bright, dark)


def _stops(
    files: Sequence[Path], pixels: list[NDArray[Any]], table: NDArray[np.float32], told: list[Shot]
) -> tuple[Array, str]:
    """(n,) relative exposures, and by what they are known: by the files, else from the pictures."""
    by_file = [one.stops for one in told]
    if all(value is not None for value in by_file):
        found = np.array([float(value or 0.0) for value in by_file])
        if np.ptp(found) < 0.05:
            raise InputError(
                "All frames have the same exposure.",
                unharmed="Nothing was changed.",
                advice="Choose a bracket: the same sphere, darker and brighter.",
            )
        return found, "its file"
    ranked = [_ranked(_small(picture, table, 512)) for picture in pixels]
    order = sorted(range(len(pixels)), key=lambda n: float(np.median(ranked[n])))
    found = np.zeros(len(pixels))
    for before, after in pairwise(order):
        a, b = ranked[before], ranked[after]
        both = (a > _LOW) & (a < _HIGH) & (b > _LOW) & (b < _HIGH)
        if both.mean() < _LEAST_SHARED:
            raise InputError(
                f"{files[before].name} and {files[after].name} have nothing in common that both expose well, and their files do not say how they "
                "were exposed.",
                unharmed="Nothing was changed.",
                advice="Add the frames between them, or files with their EXIF.",
            )
        found[after] = found[before] + float(np.median(np.log2(b[both] / a[both])))
    return found, "the pictures"


def _ranked(small: NDArray[np.float32]) -> Array:
    """Brightness of so many equal shares of the sphere, rising: the same for a sphere however it is turned."""
    luma = (small @ LUMA.astype(np.float32)).ravel()
    order = np.argsort(luma)
    share = np.cumsum(np.repeat(solid_angle_weight(len(small)), small.shape[1])[order])
    return np.interp((np.arange(2000) + 0.5) / 2000.0, share / share[-1], luma[order])


def _small(picture: NDArray[Any], table: NDArray[np.float32], width_px: int) -> NDArray[np.float32]:
    """A linear copy (H, W, 3) so wide."""
    width = picture.shape[1]
    step = max(width // (2 * width_px), 1)
    linear = table[picture[::step, ::step]]
    return np.asarray(cv2.resize(linear, (width_px, width_px // 2), interpolation=cv2.INTER_AREA))


def _reference(pixels: list[NDArray[Any]], table: NDArray[np.float32]) -> int:
    """The frame that exposes most of the sphere well."""
    said = []
    for picture in pixels:
        small = _small(picture, table, 256)
        good = (small.max(axis=2) < _HIGH) & (small.mean(axis=2) > _LOW)
        said.append(float((good * solid_angle_weight(128)[:, None]).sum()))
    return int(np.argmax(said))


def _turns(
    files: Sequence[Path], pixels: list[NDArray[Any]], table: NDArray[np.float32], stops: Array, best: int
) -> list[Rotation]:
    """How each frame is turned against the reference: neighbours in exposure against one another, out from the reference."""
    turns = [Rotation.identity() for _ in pixels]
    levels = [[_small(picture, table, width) for width in _ALIGN_PX if width <= picture.shape[1]] for picture in pixels]
    for way in (1, -1):
        number = best + way
        while 0 <= number < len(pixels):
            near = number - way
            turn = Rotation.identity()
            off = 0.0
            for a, b in zip(levels[near], levels[number], strict=True):
                turn, off = _turn_between(a, b, float(stops[number] - stops[near]), turn, _ALIGN_PX[a.shape[1]])
            if np.degrees(turn.magnitude()) > _TURN_MOST_DEG or off > _FIT_STOPS:
                raise InputError(
                    f"{files[number].name} does not show what {files[near].name} shows.",
                    unharmed="Nothing was changed.",
                    advice="Leave it out: a series is one sphere from one place.",
                )
            turns[number] = turn * turns[near]
            number += way
    return turns


def _turn_between(
    a: NDArray[np.float32], b: NDArray[np.float32], stops: float, turn: Rotation, steps: int
) -> tuple[Rotation, float]:
    """The rotation that takes directions of `a` to those of `b`, by Gauss and Newton on the difference of their logarithms, and the
    median difference left in stops. stops: by how much b is brighter."""
    height, width = a.shape[:2]
    luma = LUMA.astype(np.float32)
    mine = a @ luma
    log_a, log_b = np.log2(np.maximum(mine, 1e-4)), np.log2(np.maximum(b @ luma, 1e-4)) - np.float32(stops)
    top = b.max(axis=2)
    looks = direction(*lonlat_of_pixel(*np.meshgrid(np.arange(width), np.arange(height)), width, height))
    weight = solid_angle_weight(height)[:, None] * ((a.max(axis=2) < _HIGH) & (mine > _LOW))
    ring = cv2.copyMakeBorder(log_b, 0, 0, 1, 1, cv2.BORDER_WRAP)
    per_rad = width / (2.0 * np.pi)
    along = cv2.Sobel(ring, cv2.CV_32F, 1, 0, ksize=3)[:, 1:-1] * (per_rad / 8.0)
    down = cv2.Sobel(ring, cv2.CV_32F, 0, 1, ksize=3)[:, 1:-1] * (per_rad / 8.0)
    left = np.inf
    for _ in range(steps):
        there = looks @ turn.as_matrix().T
        u, v = (at.astype(np.float32) for at in pixel(*lonlat_deg(there), width, height))
        sampled, gu, gv, high = (
            cv2.remap(np.ascontiguousarray(plane), u, v, cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP)
            for plane in (log_b, along, down, top)
        )
        good = (weight > 0.0) & (high < _HIGH) & (sampled > np.log2(_LOW) - stops) & (np.abs(there[..., 2]) < 0.985)
        if good.mean() < _LEAST_SHARED:
            return turn, 0.0  # nothing to go by: as the neighbour
        off = (sampled - log_a)[good]
        middle = float(np.median(off))
        off = off - middle
        left = float(np.median(np.abs(off)))
        x, y, z = (there[..., n][good] for n in range(3))
        flat = np.maximum(np.hypot(x, y), 1e-3)
        # d(lon)/d(turn) and d(lat)/d(turn) of a direction for small turns about its axes; columns go with -lon, rows with -lat.
        d_lon = np.stack([-x * z / flat**2, -y * z / flat**2, np.ones_like(x)], axis=1)
        d_lat = np.stack([y / flat, -x / flat, np.zeros_like(x)], axis=1)
        slope = -(gu[good][:, None] * d_lon + gv[good][:, None] * d_lat)
        say = weight[good] / np.maximum(np.abs(off), 0.05)  # large differences are things that moved
        square = (slope * say[:, None]).T @ slope + 1e-6 * np.eye(3)
        step = -np.linalg.solve(square, (slope * say[:, None]).T @ off)
        size = float(np.linalg.norm(step))
        turn = Rotation.from_rotvec(step * min(1.0, 0.05 / max(size, 1e-9))) * turn
        if size < 2e-6:
            break
    return turn, left


def _ghosts(small: list[NDArray[np.float32]], stops: Array, turns: list[Rotation], best: int) -> NDArray[np.float32]:
    """(n, h, w) how much each frame counts: nothing where it shows something else than the frames nearer to the reference."""
    height, width = small[0].shape[:2]
    looks = direction(*lonlat_of_pixel(*np.meshgrid(np.arange(width), np.arange(height)), width, height))
    luma = LUMA.astype(np.float32)
    say = np.ones((len(small), height, width), np.float32)
    known = np.full((height, width), np.nan)
    for number in sorted(range(len(small)), key=lambda n: abs(n - best)):
        there = looks @ turns[number].as_matrix().T
        u, v = (at.astype(np.float32) for at in pixel(*lonlat_deg(there), width, height))
        linear = cv2.remap(small[number], u, v, cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP)
        good = (linear.max(axis=2) < _HIGH) & (linear @ luma > _LOW)
        light = np.log2(np.maximum(linear @ luma, 1e-5)) - stops[number]
        off = np.where(good & np.isfinite(known), np.abs(light - known), 0.0)
        moved = cv2.morphologyEx((off > _GHOST_STOPS).astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
        if moved.any():
            wide = cv2.dilate(moved, np.ones((7, 7), np.uint8)).astype(np.float32)
            ring = cv2.copyMakeBorder(wide, 0, 0, 8, 8, cv2.BORDER_WRAP)
            say[number] = 1.0 - cv2.GaussianBlur(ring, (0, 0), 2.0)[:, 8:-8]
        known = np.where(np.isnan(known) & good, light, known)
    return say


def matched(merged: Merged) -> NDArray[np.float32]:
    """The light in cd/m2 where it is known, else as it is; never anything but finite numbers."""
    unit = 1.0 if merged.cd_m2 is None else merged.cd_m2
    return np.nan_to_num(merged.light * np.float32(unit), nan=0.0, posinf=3e38, neginf=0.0)
