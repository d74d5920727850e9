"""A test frame measured: a photo, or a frame of a clip, of this or another camera."""

from collections.abc import Callable
from functools import lru_cache, partial
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.exposure.metering import LUMA, Measured, measured
from glintor.exposure.sources import LightFrom
from glintor.exposure.values import luminance_cd_m2
from glintor.media.exif import read_exif
from glintor.media.picture import SUFFIXES, read_sphere
from glintor.pixels.curves import CURVES, Curve, guessed, linear_of, table_of
from glintor.sphere.equirect import direction, lonlat_of_pixel, solid_angle_weight
from glintor.sphere.view import View, in_frame

MID_GREY = 0.18
_SMALL_PX, _SAMPLED_PX = 1024, 1440
_TOP_SHARE, _TOP_CODE = 0.995, 0.95  # of the sphere that must stay under this share of full scale
_CLIPPED_CODE = 0.985
_PERCENTS = (1.0, 5.0, 25.0, 50.0, 75.0, 95.0, 99.0, 99.5)

Frames = tuple[tuple[View, tuple[int, int]], ...]  # views with the sizes of their frames


class TestFrame(Struct, frozen=True, eq=False):
    """linear (H, W, 3) of evenly chosen pixels, 1 at full scale of the file (light has no such end); curve, and by what it is known; ev100 that it was
    exposed for, None where nobody knows: then everything is told against mid grey of the frame itself."""

    __test__ = False  # a name, and nothing for pytest

    linear: NDArray[np.float32]
    curve: Curve
    known_by: str
    ev100: float | None
    light: bool  # a file of light, whose values may go past 1

    @property
    def luminance(self) -> NDArray[np.float32]:
        """(H, W, 3) in cd/m2; of an unknown exposure as if it had been exposed for EV 12."""
        ev = 12.0 if self.ev100 is None else self.ev100
        return self.linear * np.float32(float(luminance_cd_m2(ev)) / MID_GREY)


class Reading(Struct, frozen=True):
    """What a test frame holds. Stops are against mid grey of the frame; EV100 where its exposure is known.

    percentiles   of brightness by solid angle: (per cent, stops); shift: that keeps the highlights, below 0: darker; at_least: where
                  they are clipped already, and nobody can tell by how much
    """

    curve: str
    known_by: str
    ev100: float | None
    mean_stops: float
    front_stops: float
    rear_stops: float
    percentiles: tuple[tuple[float, float], ...]
    clipped_share: float
    clipped_front: float
    clipped_rear: float
    clipped_shown: float | None
    shift_stops: float
    shift_at_least: bool


def read_frame(path: Path, curve: str = "", ev100: float | None = None) -> TestFrame:
    """A test frame of a photo or of the first frame of a clip. curve: of CURVES, "" guesses; ev100: what it was exposed for, where its
    file does not say. Raises ClipError."""
    whole = _pixels(path)
    guess, by = guessed(whole)
    chosen: Curve = next((one for one in CURVES if one == curve), guess)
    known_by = "named" if curve == chosen and curve else f"guessed: {by}"
    step = max(
        round(whole.shape[1] / _SAMPLED_PX), 1
    )  # of a large picture every so many pixels each way: no share can tell
    pixels = np.ascontiguousarray(whole[step // 2 :: step, step // 2 :: step])
    light = pixels.dtype.kind == "f"
    linear = pixels.astype(np.float32) if light else table_of(chosen, 8 * pixels.dtype.itemsize)[pixels]
    linear = np.nan_to_num(linear, nan=0.0, posinf=1e6, neginf=0.0)
    told = read_exif(path).ev100
    return TestFrame(np.maximum(linear, 0.0), chosen, known_by, told if told is not None else ev100, light)


def _pixels(path: Path) -> NDArray[Any]:
    if path.suffix.lower() in SUFFIXES:
        return read_sphere(path)[0]
    from glintor.media.footage import open_footage
    from glintor.pixels import colour

    with open_footage(path).reader() as reader:
        picture = reader.at(0.0).picture
    return colour.rgb16(picture) if picture.bits > 8 else colour.rgb(picture)


def reading_of(frame: TestFrame, frames: Frames = ()) -> Reading:
    """What a frame holds; frames: planned views, of which the clipped share is told apart."""
    linear = frame.linear
    height, width = linear.shape[:2]
    luma = linear @ LUMA.astype(np.float32)
    most = linear.max(axis=2)
    weight = np.repeat(solid_angle_weight(height)[:, None], width, axis=1)
    lon, _ = lonlat_of_pixel(np.arange(width), 0.0, width, height)
    front = np.broadcast_to(np.abs(lon) < 90.0, luma.shape)
    stops = np.log2(np.maximum(luma, 1e-6) / MID_GREY)
    clipped = np.zeros(luma.shape, bool) if frame.light else most >= linear_of(np.array(_CLIPPED_CODE), frame.curve)

    def mean(values: NDArray[Any], part: NDArray[np.bool_]) -> float:
        return float((values * weight)[part].sum() / weight[part].sum())

    everywhere = np.full(luma.shape, True)
    edges = np.linspace(-20.0, 20.0, 4001)
    share = np.cumsum(np.histogram(stops, edges, weights=weight)[0])
    places = np.searchsorted(share / share[-1], np.array(_PERCENTS) / 100.0)
    found = [(q, float(edges[min(at, 3999)] + 0.005)) for q, at in zip(_PERCENTS, places.tolist(), strict=True)]
    peak = float(np.partition(most.ravel(), int(_TOP_SHARE * (most.size - 1)))[int(_TOP_SHARE * (most.size - 1))])
    full = linear_of(np.array(_TOP_CODE), frame.curve) if not frame.light else np.float32(MID_GREY * 16.0)
    shown = shown_in(frames, width, height)
    return Reading(
        CURVES[frame.curve],
        frame.known_by,
        frame.ev100,
        mean(stops, everywhere),
        mean(stops, front),
        mean(stops, ~front),
        tuple(found),
        mean(clipped, everywhere),
        mean(clipped, front),
        mean(clipped, ~front),
        None if shown is None else mean(clipped, shown),
        min(float(np.log2(float(full) / max(peak, 1e-9))), 0.0),
        not frame.light and peak >= float(linear_of(np.array(_CLIPPED_CODE), frame.curve)),
    )


def measured_frame(told: LightFrom, frames: Frames = ()) -> Measured:
    """The light of a test frame as a course takes it. Raises ClipError."""
    path = Path(told.file)
    state = path.stat() if path.exists() else None
    return _measured(path, told.curve, told.frame_ev, frames, state.st_mtime_ns if state else 0)


@lru_cache(maxsize=8)
def _measured(path: Path, curve: str, ev100: float | None, frames: Frames, _changed_ns: int) -> Measured:
    frame = read_frame(path, curve, ev100)
    small: NDArray[Any] = cv2.resize(frame.luminance, (_SMALL_PX, _SMALL_PX // 2), interpolation=cv2.INTER_AREA)
    return measured(small, shown_in(frames, _SMALL_PX, _SMALL_PX // 2))


def shown_in(frames: Frames, width_px: int, height_px: int | None = None) -> NDArray[np.bool_] | None:
    """(H, W) what planned views show of an unrolled sphere; None without any."""
    if not frames:
        return None
    height = height_px or width_px // 2
    looks = direction(*lonlat_of_pixel(*np.meshgrid(np.arange(width_px), np.arange(height)), width_px, height))
    inside: Callable[[View, tuple[int, int]], NDArray[np.bool_]] = partial(in_frame, vector=looks)
    return np.logical_or.reduce([inside(view, size) for view, size in frames])


def histogram(pixels: NDArray[np.uint8], shown: NDArray[np.bool_] | None = None, bins: int = 64) -> NDArray[np.float64]:
    """(2, bins) share of front and rear lens by code value of luma, weighted by solid angle; (3, bins) with that of the planned views
    where `shown` (H, W) says what they show. Of every second row and column of a large picture, which no share can tell."""
    step = 2 if pixels.shape[1] > 3000 else 1
    some = cv2.cvtColor(np.ascontiguousarray(pixels[::step, ::step]), cv2.COLOR_RGB2GRAY)
    height, width = some.shape
    code = (some.astype(np.uint16) * bins) >> 8
    seen = None if shown is None else shown[::step, ::step]
    out = np.zeros((2 if seen is None else 3, bins))
    quarter = width // 4
    for row, say in enumerate(solid_angle_weight(height)):
        front = np.bincount(code[row, quarter : width - quarter], minlength=bins)
        out[0] += say * front
        out[1] += say * (np.bincount(code[row], minlength=bins) - front)
        if seen is not None:
            out[2] += say * np.bincount(code[row][seen[row]], minlength=bins)
    return out / np.maximum(out.sum(axis=1, keepdims=True), 1e-12)
