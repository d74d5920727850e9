"""How the pictures of two lenses are brought together at a moment: their tone levelled, near things laid on one another.

Both are measured in the band that both lenses see, unrolled round the first lens's axis: one row an angle off it, one
column an angle round it. The flow between the two is OpenCV's DIS (Kroeger et al., "Fast Optical Flow using Dense
Inverse Search", ECCV 2016).
"""

from functools import lru_cache

import cv2
import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from glintor.pixels.colour import LUMA_709
from glintor.pixels.spheres import Field, Join, parts_of
from glintor.pixels.yuv import Plane, Yuv
from glintor.sphere.lenses import Lenses, pixel_of
from glintor.sphere.rolling import Moment, Rows, as_read

_ROUND, _ACROSS = 24, 20  # cells of the tone tables: round the axis and off it
_FADE_RAD = (0.6, 1.45)  # a step that differs round the seam is taken out from here outwards
_DARK, _BRIGHT = 8.0, 200.0  # luma above black that tells of the tone (of 219)
_MOST_LOG = 0.7  # of a step in tone: a whole stop; more is a covered lens
_WAVES = 2  # how finely a step may vary round the seam
_TONE_S, _FLOW_S, _LEAP_S = 0.6, 0.12, 0.5  # how quickly tone and seam follow; a longer leap begins anew
_PER_DEG = 5.0  # rows and columns a degree in which the flow is looked for
_BESIDE_DEG = 3.0  # a thing 0.6 m off 30 mm between the lenses
_EVENED_PX = 6.0  # over which the flow is evened
_FILLED = 0.15  # share of what is trusted near by from which on the rest takes after it (judgement)
_CELLS = (24, 360)  # of the table of what is moved
_PAD = 64
_GRID_ROWS = 24  # least height of the flow's pictures


@lru_cache(maxsize=16)
def plain_join(lenses: Lenses, black: float = 16.0) -> Join:
    """Levelled by the profile's own gains, nothing moved."""
    tone = np.zeros((len(lenses.eyes), 3, 2, 2, 2), np.float32)
    for number, eye in enumerate(lenses.eyes):
        red, green, blue = eye.gain
        gain = LUMA_709[0] * red + LUMA_709[1] * green + LUMA_709[2] * blue
        tone[number, :, 0] = gain
        tone[number, 0, 1] = black * (1.0 - gain)
        for plane, by in ((1, blue), (2, red)):
            tone[number, plane, 1] = 128.0 * (1.0 - gain) + 50.0 * (by - gain)  # of a grey of 100 codes
    return Join(tone, np.zeros((len(lenses.eyes), 2, 1, 1), np.float32))


def band_looks(lenses: Lenses, half_deg: float, rows: int, columns: int) -> NDArray[np.float64]:
    """(rows, columns, 3) directions in the camera: angles off the first lens's axis from 90 - half to 90 + half degrees, and
    round it from behind its left side."""
    off = np.radians(90.0 + half_deg * ((np.arange(rows) + 0.5) / rows * 2.0 - 1.0))[:, None]
    around = ((np.arange(columns) + 0.5) / columns - 0.5)[None, :] * 2.0 * np.pi
    own = np.stack(
        np.broadcast_arrays(np.cos(off), -np.sin(off) * np.cos(around), np.sin(off) * np.sin(around)), axis=-1
    )
    return own @ lenses.eyes[0].matrix.T


Maps = tuple[Field, Field]


@lru_cache(maxsize=16)
def _maps(lenses: Lenses, part_px: tuple[int, int], half_deg: float, rows: int, columns: int) -> tuple[Maps, Maps]:
    looks = band_looks(lenses, half_deg, rows, columns)
    found = [pixel_of(eye, part_px, looks)[:2] for eye in lenses.eyes]
    one, two = ((u.astype(np.float32), v.astype(np.float32)) for u, v in found)
    return one, two


def _read_maps(
    lenses: Lenses, part_px: tuple[int, int], half_deg: float, shape: tuple[int, int], moment: Moment
) -> tuple[Maps, Maps]:
    looks = band_looks(lenses, half_deg, *shape)
    found = [pixel_of(eye, part_px, as_read(eye, n, moment, looks)) for n, eye in enumerate(lenses.eyes)]
    one, two = ((u.astype(np.float32), v.astype(np.float32)) for u, v, _ in found)
    return one, two


def band(
    lenses: Lenses, planes: list[Plane], half_deg: float, rows: int, columns: int, moment: Moment | None = None
) -> tuple[Field, Field]:
    """(rows, columns) of the band as each lens shows it, from one plane of each."""
    part_px = (planes[0].shape[1], planes[0].shape[0])
    if moment is None:
        maps = _maps(lenses, part_px, half_deg, rows, columns)
    else:
        maps = _read_maps(lenses, part_px, half_deg, (rows, columns), moment)
    one, two = (
        cv2.remap(plane, *places, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE).astype(np.float32)
        for plane, places in zip(planes, maps, strict=True)
    )
    return one, two


class Joiner:
    """Brings two lenses together frame after frame; smooth in time, begun anew after a leap.

    mends  whether near things at the seam are laid on one another
    rows   how rolling shutter read its rows, where that is known
    """

    def __init__(self, lenses: Lenses, *, mends: bool = True, rows: Rows | None = None) -> None:
        self.lenses, self._mends, self._rows = lenses, mends and not lenses.alone, rows
        self._last_s: float | None = None
        self._tones: NDArray[np.float64] | None = None
        self.flow: Field | None = None  # (2, *_CELLS) radians by which the second lens shows things elsewhere
        self._found: Join | None = None
        self._dis: cv2.DISOpticalFlow | None = None

    def join(self, picture: Yuv, time_s: float) -> Join:
        """What levels and mends this picture. The same moment asked for again gives the same."""
        black = 0.0 if picture.tags.full_range else 16.0
        moment = self._rows.at(time_s) if self._rows is not None else None
        if self.lenses.alone or self.lenses.overlap_deg < 1.0:
            return replace(plain_join(self.lenses, black), rows=moment)
        if self._found is not None and self._last_s == time_s:
            return self._found
        passed = np.inf if self._last_s is None or not 0.0 < time_s - self._last_s < _LEAP_S else time_s - self._last_s
        self._last_s = time_s
        planes = parts_of(self.lenses, picture)
        even = [(y, u[:: picture.tall], v[:: picture.tall]) for y, u, v in planes]  # a circle in each
        unit = 2.0 ** (picture.bits - 8)
        tones = _steps(self.lenses, even, black, unit, moment)
        if self._tones is not None and np.isfinite(passed):
            tones = self._tones + (tones - self._tones) * (1.0 - np.exp(-passed / _TONE_S))
        self._tones = tones
        shift, edges = np.zeros((2, 2, 1, 1), np.float32), (0.0, 1.0)
        if self._mends:
            flow = self._flow_of(planes, tones, unit, moment)
            if self.flow is not None and np.isfinite(passed):
                flow = self.flow + (flow - self.flow) * np.float32(1.0 - np.exp(-passed / _FLOW_S))
            self.flow = flow
            shift, edges = _moved(self.lenses, flow)
        self._found = Join(_table(tones, black, self.lenses), shift, edges, float(tones[0, 0] / np.log(2.0)), moment)
        return self._found

    def _flow_of(
        self, planes: list[tuple[Plane, Plane, Plane]], tones: NDArray[np.float64], unit: float, moment: Moment | None
    ) -> Field:
        """(2, *_CELLS) radians outward and round by which the second lens shows things elsewhere than the first, where the middle of the
        two sees them."""
        half = _looked_deg(self.lenses)
        rows = max(round(2.0 * half * _PER_DEG), _GRID_ROWS)
        columns = min(round(360.0 * _PER_DEG), 2 * planes[0][0].shape[1])
        one, two = band(self.lenses, [p[0] for p in planes], half, rows, columns, moment)
        around = np.exp(np.interp(np.arange(columns) / columns, np.arange(_ROUND + 1) / _ROUND, _waves(tones[:, 0])))
        two = two * around.astype(np.float32)[None, :]
        pair = [cv2.copyMakeBorder(p / np.float32(unit), 0, 0, _PAD, _PAD, cv2.BORDER_WRAP) for p in (one, two)]
        a, b = (np.clip(p, 0, 255).astype(np.uint8) for p in pair)
        if self._dis is None:
            self._dis = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_FAST)
            self._dis.setFinestScale(1)
        flow = np.asarray(self._dis.calc(a, b, np.zeros((*a.shape, 2), np.float32)))
        y, x = np.mgrid[:rows, : a.shape[1]].astype(np.float32)
        back = cv2.remap(b, x + flow[..., 0], y + flow[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        before, after = (cv2.blur(cv2.absdiff(a, other).astype(np.float32), (25, 9)) for other in (b, back))
        trust = np.clip((before - after - 1.0) / (0.3 * before + 1.0), 0.0, 1.0)[..., None]
        known = cv2.GaussianBlur(trust, (0, 0), _EVENED_PX)[..., None]
        even = cv2.GaussianBlur(flow * trust, (0, 0), _EVENED_PX) * ((1.0 + _FILLED) / (known + _FILLED))
        middle = even
        for _ in range(2):  # as seen from the middle of the two: half of the way from where the first lens shows it
            at = (x - 0.5 * middle[..., 0], y - 0.5 * middle[..., 1])
            middle = cv2.remap(even, *at, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        small = cv2.resize(middle[:, _PAD:-_PAD], _CELLS[::-1], interpolation=cv2.INTER_AREA)
        per_row, per_column = np.radians(2.0 * half) / rows, 2.0 * np.pi / columns
        return np.stack([small[..., 1] * per_row, small[..., 0] * per_column]).astype(np.float32)


def _looked_deg(lenses: Lenses) -> float:
    """Half of the band in which both pictures are compared: of what both see, as much as is mixed and _BESIDE_DEG on either side, since
    what one lens shows inside the mixing the other may show outside."""
    return float(np.clip(lenses.overlap_deg / 2.0 - 0.4, lenses.mixed_deg, lenses.mixed_deg + _BESIDE_DEG))


def _steps(
    lenses: Lenses, planes: list[tuple[Plane, Plane, Plane]], black: float, unit: float, moment: Moment | None
) -> NDArray[np.float64]:
    """(1 + 2 waves, 3) waves round the seam of the logarithm of first over second in luma, and of the differences of U and V."""
    half = max(min(lenses.overlap_deg / 2.0 - 0.4, 4.0), 0.3)
    seen = [
        [
            p.reshape(8, _ROUND, 4).mean(axis=2) / unit
            for p in band(lenses, [q[n] for q in planes], half, 8, 4 * _ROUND, moment)
        ]
        for n in range(3)
    ]
    one, two = (np.maximum(p - black, 0.0) for p in seen[0])
    told = ((one > _DARK) & (one < _BRIGHT) & (two > _DARK) & (two < _BRIGHT)).astype(np.float64)
    weight = told.sum(axis=0) + 1e-6
    ratio = np.log((one * told + 1e-6).sum(axis=0) / (two * told + 1e-6).sum(axis=0))
    ratio = np.clip(ratio, -_MOST_LOG, _MOST_LOG)
    scale = np.exp(ratio)[None, :]
    u, v = ((((a - 128.0) - (b - 128.0) * scale) * told).sum(axis=0) / weight for a, b in seen[1:])
    values = np.stack([ratio, u, v], axis=1)
    waves = _basis()
    damped = np.diag([1e-3] + [2.0] * (2 * _WAVES))
    return np.asarray(
        np.linalg.solve(waves.T @ (waves * weight[:, None]) + damped, waves.T @ (values * weight[:, None]))
    )


@lru_cache(maxsize=1)
def _basis() -> NDArray[np.float64]:
    around = ((np.arange(_ROUND) + 0.5) / _ROUND - 0.5) * 2.0 * np.pi
    return np.stack([np.ones(_ROUND)] + [f(k * around) for k in range(1, _WAVES + 1) for f in (np.cos, np.sin)], axis=1)


def _waves(coefficients: NDArray[np.float64]) -> NDArray[np.float64]:
    values = _basis() @ coefficients
    return np.append(values, values[0])


def _table(tones: NDArray[np.float64], black: float, lenses: Lenses) -> Field:
    """Half of the step is taken out of each lens: what is the same all round from all of it, the rest towards the seam."""
    out = np.empty((2, 3, 2, _ACROSS, _ROUND), np.float32)
    whole, rest = tones[0], _basis()[:, 1:] @ tones[1:]
    for eye, side in ((0, -0.5), (1, 0.5)):
        off = np.linspace(0.0, lenses.eyes[eye].half_rad, _ACROSS)
        fade = np.clip((off - _FADE_RAD[0]) / (_FADE_RAD[1] - _FADE_RAD[0]), 0.0, 1.0)
        fade = (fade * fade * (3.0 - 2.0 * fade))[:, None, None]
        own = rest if eye == 0 else rest[_turned(lenses, _ROUND)]
        values = (whole + fade * own) * side  # (T, A, 3)
        gain = np.exp(values[..., 0])
        out[eye, :, 0] = gain
        out[eye, 0, 1] = black * (1.0 - gain)
        out[eye, 1, 1], out[eye, 2, 1] = (128.0 * (1.0 - gain) + values[..., n] for n in (1, 2))
    return out


@lru_cache(maxsize=16)
def _turned(lenses: Lenses, columns: int) -> NDArray[np.intp]:
    """(columns,) which column round the first lens's axis each column round the second's is."""
    around = ((np.arange(columns) + 0.5) / columns - 0.5) * 2.0 * np.pi
    own = np.stack([np.zeros(columns), -np.cos(around), np.sin(around)], axis=-1)
    first = own @ lenses.eyes[1].matrix.T @ lenses.eyes[0].matrix
    turns = np.arctan2(first[:, 2], -first[:, 1]) / (2.0 * np.pi) + 0.5
    return np.round(turns * columns - 0.5).astype(np.intp) % columns


def _moved(lenses: Lenses, flow: Field) -> tuple[Field, tuple[float, float]]:
    """Tables of both lenses: a thing is drawn halfway between where either shows it, as it is seen from the middle of the two, and so
    keeps its width. The second lens looks the other way: its angles off and round its axis are those of the first, mirrored."""
    rows, columns = _CELLS
    own = flow * np.float32(-0.5)
    other = own[:, ::-1, _turned(lenses, columns)]
    half = np.radians(_looked_deg(lenses))
    first = np.pi / 2.0 - half * (1.0 - 1.0 / rows)
    return np.stack([own, other]), (float(first), float((rows) / (2.0 * half)))
