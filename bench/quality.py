"""How near a frame comes to a supersampled truth, ours and by ffmpeg's v360 filter: python -m bench.quality.

The sphere is drawn four times as large as the source: leaves of random size, place and grey laid over each other,
whose statistics are close to those of photographs (the dead leaves model; Lee, Mumford & Huang, Int. J. Computer
Vision 41, 2001). The source is its area average. The truth of a frame pixel is the mean of 8x8 samples of the large
sphere (a box), or their mean under a Gaussian of half a pixel (a second opinion). A candidate may lie up to half a
pixel off: the best of all shifts by eighths counts, as pixel centres differ between programs.
"""

import subprocess
from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from glintor.pixels.reproject import Filter, Reprojector, positions
from glintor.sphere.view import View

SIZE = (1920, 1080)
_FINE = 8
Grey = NDArray[np.uint8]


def leaves(width_px: int, seed: int = 7) -> Grey:
    """A sphere (W/2, W) of overlapping grey leaves with a little grain."""
    rng, height = np.random.default_rng(seed), width_px // 2
    out = np.full((height, width_px), 128, np.uint8)
    for _ in range(24000):
        lat = np.arcsin(rng.uniform(-1, 1))
        size = 0.004 / rng.uniform(0.008, 1.0) * width_px / (2 * np.pi)
        across = min(size / max(np.cos(lat), 0.02), width_px / 4)
        centre = (int(rng.integers(0, width_px)), int((0.5 - lat / np.pi) * height))
        grey, turn = int(rng.integers(20, 235)), 0 if abs(lat) > 0.7 else int(rng.integers(0, 180))
        for shift in (-width_px, 0, width_px):
            place = (centre[0] + shift, centre[1])
            cv2.ellipse(out, place, (int(across) + 1, int(size * rng.uniform(0.4, 1)) + 1), turn, 0, 360, grey, -1)
    grain = cv2.resize(rng.integers(0, 24, (height // 4, width_px // 4), dtype=np.uint8), (width_px, height))
    return cv2.add(out, grain)


@dataclass(frozen=True)
class Truth:
    """A frame sampled eight times finer each way."""

    fine: Grey

    def at_shift(self, right: int, down: int, weigh: str) -> NDArray[np.float32]:
        """The frame moved by eighths of a pixel, without its outermost two pixels."""
        kernel = np.full(_FINE, 1 / _FINE, np.float32)
        if weigh == "gauss":
            x = (np.arange(3 * _FINE) - 1.5 * _FINE + 0.5) / _FINE
            kernel = np.exp(-(x**2) / (2 * 0.5**2)).astype(np.float32)
            kernel /= kernel.sum()
        smooth = cv2.sepFilter2D(self.fine, cv2.CV_32F, kernel, kernel, anchor=(len(kernel) // 2,) * 2)
        first = _FINE // 2
        return smooth[first + 2 * _FINE + down :: _FINE, first + 2 * _FINE + right :: _FINE]


def truth(large: Grey, view: View) -> Truth:
    """Samples the large sphere at the exact positions."""
    fine = (SIZE[0] * _FINE, SIZE[1] * _FINE)
    u, v = positions(view, fine, large.shape[::-1])
    return Truth(cv2.remap(large, u, np.clip(v, 0, large.shape[0] - 1), cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP))


def best_psnr(frame: Grey, real: Truth, weigh: str = "box", *, reach: int = 5) -> tuple[float, tuple[int, int]]:
    """PSNR at the best shift, found by walking downhill in eighths of a pixel, and that shift."""
    inner = frame[2:-4, 2:-4].astype(np.float32)

    def error(right: int, down: int) -> float:
        moved = real.at_shift(right, down, weigh)[: inner.shape[0], : inner.shape[1]]
        return float(np.mean((inner - moved) ** 2))

    here, known = (0, 0), {(0, 0): error(0, 0)}
    while True:
        around = [(here[0] + a, here[1] + b) for a, b in ((1, 0), (-1, 0), (0, 1), (0, -1))]
        for place in around:
            if place not in known and max(map(abs, place)) <= reach:
                known[place] = error(*place)
        best = min(known, key=known.__getitem__)
        if best == here:
            return float(10 * np.log10(255.0**2 / known[best])), best
        here = best


def v360(sphere: Grey, projection: str, fov: float, pitch: float, method: str) -> Grey:
    """The same frame by ffmpeg's filter."""
    ratio, half = SIZE[1] / SIZE[0], np.radians(fov / 2)
    v_fov = 2 * np.arctan(np.tan(half) * ratio) if projection == "flat" else 4 * np.arctan(np.tan(half / 2) * ratio)
    view = f"w={SIZE[0]}:h={SIZE[1]}:h_fov={fov}:v_fov={np.degrees(v_fov)}:pitch={pitch}:interp={method}"
    size = f"{sphere.shape[1]}x{sphere.shape[0]}"
    command = ["ffmpeg", "-v", "error", "-f", "rawvideo", "-pix_fmt", "gray", "-s", size, "-i", "-"]
    command += ["-vf", f"v360=e:{projection}:{view}", "-f", "rawvideo", "-pix_fmt", "gray", "-"]
    done = subprocess.run(command, input=sphere.tobytes(), capture_output=True, check=True)
    return np.frombuffer(done.stdout, np.uint8).reshape(SIZE[1], SIZE[0])


def ours(sphere: Grey, view: View, quality: Filter) -> Grey:
    return np.asarray(Reprojector(SIZE, quality).draw_rgb(sphere[..., None], view)[..., 0], np.uint8)


VIEWS = {
    "view of 100 degrees": (View(fov_deg=100, bend=0, pitch_deg=-10), "flat"),
    "planet of 280 degrees": (View(fov_deg=280, bend=1, pitch_deg=-90), "sg"),
}


def table(report: Callable[[str], None] = print) -> list[tuple[str, str, float, float]]:
    """Rows of (view, candidate, PSNR against the box, PSNR against the Gaussian)."""
    large = leaves(23040)
    source = cv2.resize(large, (5760, 2880), interpolation=cv2.INTER_AREA)
    rows = []
    for name, (view, projection) in VIEWS.items():
        real = truth(large, view)
        frames = {f"Glintor, {quality.name.lower()}": ours(source, view, quality) for quality in Filter}
        for method in ("near", "linear", "cubic", "lanczos", "spline16", "gaussian", "mitchell"):
            frames[f"v360, {method}"] = v360(source, projection, view.fov_deg, view.pitch_deg, method)
        for candidate, frame in frames.items():
            (box, shift), (gauss, _) = (best_psnr(frame, real, weigh) for weigh in ("box", "gauss"))
            rows.append((name, candidate, box, gauss))
            report(
                f"{name}: {candidate}: {box:.1f} dB against the box, {gauss:.1f} dB against the Gaussian, at {shift}"
            )
    return rows


if __name__ == "__main__":
    table()
