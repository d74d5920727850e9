"""A flat frame out of a sphere: one path for preview, stills and export; they differ only in size and filter."""

import sys
from collections.abc import Callable, Sequence
from enum import Enum
from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from glintor.pixels.bands import in_bands
from glintor.pixels.join import plain_join
from glintor.pixels.spheres import Join, Pyramid, Sphere, parts_of
from glintor.pixels.yuv import MAT_GREY, Plane, Yuv, blank
from glintor.sphere.equirect import WHOLE, Coverage
from glintor.sphere.lens import Lens
from glintor.sphere.lenses import Lenses, Projection, middle_px, pixel_of, share_of_first
from glintor.sphere.turn import Sight
from glintor.sphere.view import frame_direction

_SHRINK_FROM = 1.15  # source samples per frame pixel above which one sample a pixel aliases visibly
_LEVEL_FROM = 4.6  # the same above which a copy of half the size is sampled: it costs 4 dB, and saves half the time
_SAMPLE_EVERY = (
    1.6  # source samples between the samples of one frame pixel; nearer gains 0.3 dB and costs as much again
)
_TOP_LEVEL = 3
_MOST_SAMPLES = 4  # a side
_SHARPNESS = 0.75  # of Keys' cubic; measured best against a supersampled truth (0.4: -0.8 dB, 1.0: -0.4 dB)
_RIM_SAMPLES = 3
_KINDS = {1: (np.zeros(1, np.uint8), np.zeros(1, np.uint32)), 2: (np.zeros(1, np.uint16), np.zeros(1, np.uint64))}


def kernels_loaded() -> bool:
    """Whether drawing can begin at once; else the first frame waits for most of a second."""
    return "glintor.pixels.sampling" in sys.modules


class Filter(Enum):
    """How the source is sampled: one bilinear sample for the moving preview, cubic ones for what is kept."""

    FAST = 0.0
    FINE = _SHARPNESS


def shrink(
    lens: Lens, frame_width_px: int, source_width_px: float, radius_px: NDArray[np.float32]
) -> NDArray[np.float32]:
    """Source pixels per frame pixel at a distance from the frame's centre (the geometric mean of both directions).

    With k = r / (f (1 + d)): dt/dr and sin t / r of the lens give radial and tangential scale.
    """
    focal = lens.focal * frame_width_px
    if lens.unrolls:
        return np.full_like(radius_px, source_width_px / (2.0 * np.pi * focal))
    d = lens.bend
    k = radius_px / np.float32(focal * (1.0 + d))
    q2 = 1.0 + k * k
    cos_b = np.sqrt(np.maximum(1.0 - k * k * d * d / q2, 1e-6))
    radial = (1.0 / q2 + d / (q2 * np.sqrt(q2) * cos_b)) / (focal * (1.0 + d))
    tangential = (cos_b + d / np.sqrt(q2)) / np.sqrt(q2) / (focal * (1.0 + d))
    return (np.sqrt(radial * tangential) * source_width_px / (2.0 * np.pi)).astype(np.float32)


class _Plan(Struct, frozen=True, eq=False):
    """How each chunk of each row is sampled: (h, chunks) of the copy used, samples a side, and their spread."""

    levels: NDArray[np.int64]
    counts: NDArray[np.int64]
    spreads: NDArray[np.float32]
    top: int


@lru_cache(maxsize=64)
def _plan(lens: Lens, frame: tuple[int, int], aspect: float, turn_px: float, quality: Filter) -> _Plan:
    """The plan for a lens, whichever way it looks. turn_px: source width of 360 degrees."""
    from glintor.pixels.sampling import CHUNK

    width, height = frame
    left = np.arange(0, width, CHUNK, dtype=np.float32) - width / 2.0
    right = np.minimum(left + CHUNK, width / 2.0)
    up = aspect * np.abs(np.arange(height, dtype=np.float32) + 0.5 - height / 2.0)[:, None]
    near = np.hypot(np.maximum(np.maximum(left, -right), 0.0)[None, :], up)
    far = np.hypot(np.maximum(np.abs(left), np.abs(right))[None, :], up)
    rim = lens.focal * width * (1.0 + lens.bend) / np.sqrt(max(lens.bend**2 - 1.0, 1e-12))  # far away without a ball
    scale = np.maximum(
        *(shrink(lens, width, turn_px, np.minimum(r, 0.98 * rim).astype(np.float32)) for r in (near, far))
    )
    if quality is Filter.FAST:
        levels = np.clip(np.round(np.log2(np.maximum(scale, 1.0))), 0, _TOP_LEVEL)
        counts, spreads = np.ones_like(levels), np.zeros_like(scale)
    else:
        levels = np.clip(np.ceil(np.log2(np.maximum(scale / _LEVEL_FROM, 1.0))), 0, _TOP_LEVEL)
        rest = scale / 2.0**levels
        counts = np.where(rest > _SHRINK_FROM, np.clip(np.ceil(rest / _SAMPLE_EVERY), 2, _MOST_SAMPLES), 1)
        spreads = np.clip((scale - _SHRINK_FROM) / 0.35, 0.0, 1.0)  # no sudden change of sharpness where it begins
        rimmed = (near < rim) & (far > rim) if lens.bend > 1.0 else np.zeros(near.shape, bool)
        counts = np.where(rimmed, np.maximum(counts, _RIM_SAMPLES), counts)
        spreads = np.where(rimmed, 1.0, spreads)
    return _Plan(levels.astype(np.int64), counts.astype(np.int64), spreads.astype(np.float32), int(levels.max()))


def _kernel_lens(sight: Sight, width_px: int) -> tuple[tuple[np.float32, ...], tuple[np.float32, ...]]:
    lens = sight.lens
    k1 = np.float32(1.0 / (lens.focal * width_px * (1.0 if lens.unrolls else 1.0 + lens.bend)))
    return (k1, np.float32(lens.bend)), tuple(np.float32(value) for value in sight.matrix.reshape(-1))


def _flat(plane: Plane) -> tuple[Plane, int]:
    """A plane's memory as one flat array without copying, and its stride in samples."""
    height, width = plane.shape
    stride = plane.strides[0] // plane.itemsize
    return np.lib.stride_tricks.as_strided(plane, ((height - 1) * stride + width,), (plane.itemsize,)), stride


Rows = Callable[[int, int], None]  # draws the rows from one to another


class Drawing(Struct, frozen=True):
    """How planes are drawn: (source, frame) by how much samples lie to the left, gain, largest value and blank, height of a sample
    over its width."""

    siting: tuple[float, float]
    quality: Filter
    scale: tuple[float, float, float]
    aspect: float = 1.0


def _one_gain(lenses: Lenses, channel: int) -> Lenses:
    """The lenses of one colour channel alone: its gain is that of grey."""
    return replace(lenses, eyes=tuple(replace(eye, gain=(eye.gain[channel],) * 3) for eye in lenses.eyes))


def _plane_rows(
    sources: Sequence[Pyramid], outs: Sequence[Plane], view: Sight, how: Drawing, *, coverage: Coverage
) -> Rows:
    """What draws some rows of one plane, or of two that lie alike."""
    from glintor.pixels.sampling import draw_planes

    height, width = outs[0].shape
    turn_px = sources[0].level(0).shape[1] * 360.0 / coverage.lon_deg
    plan = _plan(view.lens, (width, height), how.aspect, turn_px, how.quality)
    copies = [[source.level(min(number, plan.top)) for number in range(_TOP_LEVEL + 1)] for source in sources]
    places = np.array([[plane.ctypes.data for plane in levels] for levels in copies], np.int64)
    shapes = np.array([(p.strides[0] // p.itemsize, *p.shape[::-1]) for p in copies[0]], np.int64)
    flats = [_flat(out) for out in outs]
    arguments = (
        places,
        shapes,
        coverage.whole,
        coverage.radians,
        *_kernel_lens(view, width),
        how.siting,
        (plan.levels, plan.counts, plan.spreads),
        how.quality.value,
        how.scale,
        _KINDS[copies[0][0].itemsize],
        (flats[0][0], flats[-1][0]),
        (flats[0][1], width, height, how.aspect),
    )

    def rows(first: int, last: int, _alive: object = (copies, outs)) -> None:
        draw_planes(first, last, *arguments)  # works on bare addresses: their memory must outlive it

    return rows


def _twin_rows(
    sources: Sequence[Sequence[Pyramid]],
    outs: Sequence[Plane],
    view: Sight,
    how: Drawing,
    *,
    lenses: Lenses,
    join: Join,
    planes: slice,
    unit: float,
    tall: float = 1.0,
) -> Rows:
    """`_plane_rows` out of the pictures of fisheyes: sources by lens, then by plane; planes: which of a join's they are; tall: how much
    wider than high a sample is."""
    from glintor.pixels.twin_sampling import draw_twin

    height, width = outs[0].shape
    part_px = sources[0][0].level(0).shape[::-1]
    turn_px = float(lenses.eyes[0].focal * part_px[0] * 2.0 * np.pi)
    plan = _plan(view.lens, (width, height), how.aspect, turn_px, how.quality)
    copies = [
        [[source.level(min(number, plan.top)) for number in range(_TOP_LEVEL + 1)] for source in of_eye]
        for of_eye in sources
    ]
    shown = copies[0][0]
    places = np.array([[[p.ctypes.data for p in levels] for levels in of_eye] for of_eye in copies], np.int64)
    shapes = np.array([(p.strides[0] // p.itemsize, *p.shape[::-1]) for p in shown], np.int64)
    eyes = _eye_numbers(lenses, part_px, tuple(p.shape[::-1] for p in shown), how.siting[0], join.band, tall)
    if join.rows is not None:
        eyes = eyes.copy()
        eyes[..., 19:25] = join.rows.spin.ravel()
        for level, copy in enumerate(shown):
            eyes[:, level, 17:19] = join.rows.readouts_s / copy.shape[1]
    mix = _mix(lenses, join.shift.shape[-1] > 1)
    tone = join.tone[:, planes].copy()
    tone[:, :, 1] *= np.float32(unit)
    flats = [_flat(out) for out in outs]
    arguments = (
        places,
        shapes,
        eyes,
        mix,
        *_kernel_lens(view, width),
        how.siting[1],
        (plan.levels, plan.counts, plan.spreads),
        how.quality.value,
        how.scale,
        _KINDS[shown[0].itemsize],
        (flats[0][0], flats[-1][0]),
        (flats[0][1], width, height, how.aspect),
        tone,
        np.ascontiguousarray(join.shift),
    )

    def rows(first: int, last: int, _alive: object = (copies, outs)) -> None:
        draw_twin(first, last, *arguments)  # works on bare addresses: their memory must outlive it

    return rows


@lru_cache(maxsize=64)
def _mix(lenses: Lenses, moves: bool) -> NDArray[np.float32]:
    """(6,) what `twin_sampling` takes of how two lenses are mixed; moves: whether things are moved at their seam."""
    from glintor.pixels.twin_sampling import LEAVES_DEG

    one, two = lenses.eyes[0].matrix[:, 0], lenses.eyes[-1].matrix[:, 0]
    crooked = float(np.arccos(np.clip(-one @ two, -1.0, 1.0)))
    last = np.pi / 2.0 + np.radians(lenses.mixed_deg + 0.3) + crooked
    per = 1.0 / (4.0 * np.sin(np.radians(lenses.mixed_deg)))
    beside = 2.0 * np.sin(np.radians(lenses.mixed_deg + LEAVES_DEG)) * per - 0.5 if moves else 0.0
    return np.array([*(one - two), per, last, beside], np.float32)


@lru_cache(maxsize=64)
def _eye_numbers(
    lenses: Lenses,
    part_px: tuple[int, int],
    copies_px: tuple[tuple[int, int], ...],
    siting: float,
    band: tuple[float, float],
    tall: float,
) -> NDArray[np.float32]:
    """(lenses, copies, 26) what `twin_sampling` takes of each lens for each copy of its part; positions count from the copy's middle
    sample."""
    out = []
    for eye in lenses.eyes:
        (across, down), focal = middle_px(eye, (part_px[0], round(part_px[1] / tall))), eye.focal * part_px[0]
        middle = (across, (down + 0.5) * tall - 0.5)
        for level, (width, height) in enumerate(copies_px):
            u, v = ((at + 0.5) / whole * copy for at, whole, copy in zip(middle, part_px, (width, height), strict=True))
            centre = (u - 0.5 + siting / (1 << level) - width // 2, v - 0.5 - height // 2)
            scale = focal * width / part_px[0]
            out.append([*eye.matrix.T.ravel(), *centre, scale, eye.k3, eye.k5, eye.half_rad, *band, *[0.0] * 8, tall])
    return np.array(out, np.float32).reshape(len(lenses.eyes), len(copies_px), 26)


class Reprojector:
    """Draws frames of one size."""

    def __init__(self, size_px: tuple[int, int], quality: Filter = Filter.FINE, *, shows: Projection = WHOLE) -> None:
        self.size_px, self.quality, self._shows = size_px, quality, shows

    def draw(self, source: Sphere | Yuv, view: Sight, out: Yuv | None = None) -> Yuv:
        """The frame that `view` gives of a sphere, written to `out` where given (which may have another depth)."""
        sphere = source if isinstance(source, Sphere) else Sphere(source)
        picture = sphere.picture
        target = out if out is not None else blank(*self.size_px, picture.tags)
        # A limited-range code means the same at every depth but for zeros appended; full range ends at all ones.
        gain = 2.0 ** (target.bits - picture.bits)
        if picture.tags.full_range:
            gain = (2.0**target.bits - 1.0) / (2.0**picture.bits - 1.0)
        top = 2.0**target.bits - 1.0
        unit = 2.0 ** (picture.bits - 8)
        grey = MAT_GREY if picture.tags.full_range else 16 + MAT_GREY * 219 / 255
        shows, join = self._shows, sphere.join
        sitings = tuple(0.25 if p.u.shape[1] < p.y.shape[1] else 0.0 for p in (picture, target))

        aspect = 1.0 / target.tall

        def rows(planes: slice, outs: Sequence[Plane], siting: tuple[float, ...], around: float) -> Rows:
            how = Drawing(
                (siting[0], siting[1]),
                self.quality,
                (gain, top, float(round(around * unit))),
                1.0 if outs[0] is target.y else aspect,
            )
            if isinstance(shows, Coverage):
                return _plane_rows(list(sphere.planes)[planes], outs, view, how, coverage=shows)
            black = 0.0 if picture.tags.full_range else 16.0
            parts = [list(of_eye)[planes] for of_eye in sphere.parts(shows)]
            joined = join or plain_join(shows, black)
            tall = 1.0 if outs[0] is target.y else picture.tall
            return _twin_rows(parts, outs, view, how, lenses=shows, join=joined, planes=planes, unit=unit, tall=tall)

        luma = rows(slice(0, 1), (target.y,), (0.0, 0.0), grey)
        colour = rows(slice(1, 3), (target.u, target.v), sitings, 128.0)
        height, half = target.y.shape[0], target.u.shape[0]

        def both(first: int, last: int) -> None:
            luma(first, last)
            colour(first * half // height, last * half // height)

        in_bands(height, both)
        return target

    def draw_luma(self, sphere: Sphere, view: Sight, *, alone: bool = False) -> Plane:
        """Brightness alone, at 8 bits: for what looks at pictures without showing them."""
        picture, shows = sphere.picture, self._shows
        out = np.empty((self.size_px[1], self.size_px[0]), np.uint8)
        unit = 2.0 ** (picture.bits - 8)
        how = Drawing((0.0, 0.0), self.quality, (1.0 / unit, 255.0, float(MAT_GREY)))
        if isinstance(shows, Coverage):
            rows = _plane_rows(list(sphere.planes)[:1], (out,), view, how, coverage=shows)
        else:
            join = sphere.join or plain_join(shows)
            parts = [list(of_eye)[:1] for of_eye in sphere.parts(shows)]
            rows = _twin_rows(parts, (out,), view, how, lenses=shows, join=join, planes=slice(0, 1), unit=unit)
        in_bands(self.size_px[1], rows, alone=alone)
        return out

    def draw_rgb(self, source: NDArray[Any], view: Sight) -> NDArray[Any]:
        """The same for an interleaved picture (H, W, C) of 8 or 16 bits or of floating-point light."""
        out = np.empty((self.size_px[1], self.size_px[0], source.shape[2]), source.dtype)
        if source.dtype.kind == "f":
            return self._draw_light(source, view, out)
        top = float(np.iinfo(source.dtype).max)
        grey = float(round(MAT_GREY * top / 255.0))
        how, shows = Drawing((0.0, 0.0), self.quality, (1.0, top, grey)), self._shows
        for channel in range(source.shape[2]):
            plane, layer = np.empty(out.shape[:2], out.dtype), source[..., channel]
            if isinstance(shows, Coverage):
                rows = _plane_rows((Pyramid(layer),), (plane,), view, how, coverage=shows)
            else:
                parts = [[Pyramid(p[0])] for p in parts_of(shows, Yuv(layer, layer, layer))]
                join = plain_join(_one_gain(shows, channel), 0.0)
                rows = _twin_rows(parts, (plane,), view, how, lenses=shows, join=join, planes=slice(0, 1), unit=1.0)
            in_bands(self.size_px[1], rows)
            out[..., channel] = plane
        return out

    def _draw_light(self, source: NDArray[Any], view: Sight, out: NDArray[Any]) -> NDArray[Any]:
        """Floating-point light, for stills: sampled finely enough everywhere and averaged; black off the ball."""
        width, height = self.size_px
        source = source.astype(np.float32)
        if isinstance(self._shows, Lenses):
            mixed = _light_of_fisheyes(self._shows, source, view, (2 * width, 2 * height))
            out[:] = cv2.resize(mixed, (width, height), interpolation=cv2.INTER_AREA).reshape(out.shape)
            return out
        reach = np.linspace(0.0, np.hypot(width, height) / 2.0, 64, dtype=np.float32)
        turn_px = source.shape[1] * 360.0 / self._shows.lon_deg
        fine = int(np.clip(np.ceil(shrink(view.lens, width, turn_px, reach).max()), 1, _MOST_SAMPLES))
        u, v = positions(view, (width * fine, height * fine), source.shape[1::-1], coverage=self._shows)
        seen = (u > -2.0) & (v > -2.0)
        if not self._shows.whole[0]:
            seen &= (u >= -1.0) & (u < source.shape[1])
        drawn = cv2.remap(source, u, np.clip(v, 1, source.shape[0] - 2), cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP)
        drawn[~seen] = 0.0
        out[:] = cv2.resize(drawn, (width, height), interpolation=cv2.INTER_AREA).reshape(out.shape)
        return out


def _light_of_fisheyes(
    lenses: Lenses, source: NDArray[np.float32], view: Sight, size_px: tuple[int, int]
) -> NDArray[np.float32]:
    """One bilinear sample a pixel of each lens, mixed; black where none sees."""
    look = frame_direction(view, size_px, np.arange(size_px[0]), np.arange(size_px[1])[:, None])
    look = np.nan_to_num(look)
    share = share_of_first(lenses, look)
    out = np.zeros((*look.shape[:2], source.shape[2]), np.float32)
    for number, eye in enumerate(lenses.eyes):
        (left, top), part = lenses.corner_px(number, source.shape[1::-1]), lenses.part_px(source.shape[1::-1])
        u, v, theta = pixel_of(eye, part, look)
        own = np.ascontiguousarray(source[top : top + part[1], left : left + part[0]])
        drawn = cv2.remap(own, u.astype(np.float32), v.astype(np.float32), cv2.INTER_LINEAR)
        seen = (theta <= eye.half_rad) * (share if number == 0 else 1.0 - share)
        out += drawn.reshape(out.shape) * seen[..., None].astype(np.float32)
    return out


def positions(
    view: Sight, size_px: tuple[int, int], source_px: tuple[int, int], *, coverage: Coverage = WHOLE
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Source position (u, v), each (h, w), that every frame pixel shows; -1e9 off the ball."""
    from glintor.pixels.sampling import source_map

    u, v = (np.empty((size_px[1], size_px[0]), np.float32) for _ in range(2))
    arguments = (coverage.radians, *_kernel_lens(view, size_px[0]), source_px, u, v)
    in_bands(size_px[1], lambda first, last: source_map(first, last, *arguments))
    return u, v
