"""How near a frame comes to a supersampled truth, ours and by ffmpeg's v360 filter: python -m bench.quality.

The sphere (bench/source.py) is drawn four times as large as the source, which is its area average. The truth of a frame
pixel is the mean of 8x8 samples of the large sphere (a box), or their mean under a Gaussian of half a pixel (a second
opinion). A candidate may lie up to half a pixel off: the best of all shifts by eighths counts, as pixel centres differ
between programs. Shimmer: the changes from frame to frame of a planet that turns slowly, against the truth's changes.
"""

import subprocess
from pathlib import Path

import cv2
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from bench.source import LEAVES, leaves
from glintor.pixels.reproject import Filter, Reprojector, positions
from glintor.pixels.yuv import Yuv
from glintor.sphere.view import View

SIZE = (1920, 1080)
HALF_SIZE = (960, 540)
_FINE = 8
_TURN_DEG = 0.05
Grey = NDArray[np.uint8]


class Truth(Struct, frozen=True):
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


def truth(large: Grey, view: View, size: tuple[int, int] = SIZE) -> Truth:
    """Samples the large sphere at the exact positions."""
    fine = (size[0] * _FINE, size[1] * _FINE)
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


def v360(sphere: Grey, projection: str, view: View, method: str, frame: tuple[int, int] = SIZE) -> Grey:
    """The same frame by ffmpeg's filter."""
    ratio, half = SIZE[1] / SIZE[0], np.radians(view.fov_deg / 2)
    v_fov = 2 * np.arctan(np.tan(half) * ratio) if projection == "flat" else 4 * np.arctan(np.tan(half / 2) * ratio)
    words = f"w={frame[0]}:h={frame[1]}:h_fov={view.fov_deg}:v_fov={np.degrees(v_fov)}:interp={method}"
    words += f":yaw={view.yaw_deg}:pitch={view.pitch_deg}"
    size = f"{sphere.shape[1]}x{sphere.shape[0]}"
    command = ["ffmpeg", "-v", "error", "-f", "rawvideo", "-pix_fmt", "gray", "-s", size, "-i", "-"]
    command += ["-vf", f"v360=e:{projection}:{words}", "-f", "rawvideo", "-pix_fmt", "gray", "-"]
    done = subprocess.run(command, input=sphere.tobytes(), capture_output=True, check=True)
    return np.frombuffer(done.stdout, np.uint8).reshape(frame[1], frame[0])


def ours(sphere: Grey, view: View, quality: Filter) -> Grey:
    return np.asarray(Reprojector(SIZE, quality).draw_rgb(sphere[..., None], view)[..., 0], np.uint8)


VIEWS = {
    "view of 100 degrees": (View(fov_deg=100, bend=0, pitch_deg=-10), "flat"),
    "planet of 280 degrees": (View(fov_deg=280, bend=1, pitch_deg=-90), "sg"),
}
METHODS = ("linear", "cubic", "lanczos", "spline16", "gaussian", "mitchell")


def colour(sphere: Grey, view: View, quality: Filter) -> Grey:
    """The colour plane of our frame, where the sphere is that of a 4:2:0 picture twice as large."""
    picture = Yuv(cv2.resize(sphere, (sphere.shape[1] * 2, sphere.shape[0] * 2)), sphere, sphere)
    out = Yuv(np.empty(SIZE[::-1], np.uint8), *(np.empty(HALF_SIZE[::-1], np.uint8) for _ in range(2)))
    return np.asarray(Reprojector(SIZE, quality).draw(picture, view, out).u, np.uint8)


def shimmer_db(frames: list[Grey], real: list[NDArray[np.float32]]) -> float:
    """PSNR of the changes from frame to frame against the truth's."""
    ours_, truth_ = (np.diff(np.stack([f.astype(np.float32) for f in row]), axis=0) for row in (frames, real))
    return float(10 * np.log10(255.0**2 / np.mean((ours_ - truth_) ** 2)))


def report(_source: Path, _runs: int) -> list[str]:
    large = leaves(23040, count=LEAVES)
    source = cv2.resize(large, (5760, 2880), interpolation=cv2.INTER_AREA)
    lines = [
        "## Picture quality: PSNR in dB against a supersampled truth",
        "",
        "| view | by | box | Gaussian |",
        "|---|---|---|---|",
    ]
    for name, (view, projection) in VIEWS.items():
        real = truth(large, view)
        frames = {f"Glintor, {quality.name.lower()}": ours(source, view, quality) for quality in Filter}
        frames |= {f"v360, {method}": v360(source, projection, view, method) for method in METHODS}
        for by, frame in frames.items():
            box, gauss = (best_psnr(frame, real, weigh)[0] for weigh in ("box", "gauss"))
            lines.append(f"| {name} | {by} | {box:.1f} | {gauss:.1f} |")
            print(lines[-1], flush=True)
    view, projection = VIEWS["view of 100 degrees"]
    sited = np.roll(large, 2, axis=1)  # colour samples lie a quarter of their distance to the left (MPEG-2)
    small, real = cv2.resize(sited, (2880, 1440), interpolation=cv2.INTER_AREA), truth(large, view, HALF_SIZE)
    planes = {f"Glintor, {quality.name.lower()}": colour(small, view, quality) for quality in Filter}
    planes |= {f"v360, {method}": v360(small, projection, view, method, HALF_SIZE) for method in METHODS}
    for by, plane in planes.items():
        box, gauss = (best_psnr(plane, real, weigh)[0] for weigh in ("box", "gauss"))
        lines.append(f"| view of 100 degrees, colour plane | {by} | {box:.1f} | {gauss:.1f} |")
        print(lines[-1], flush=True)
    projection = VIEWS["planet of 280 degrees"][1]
    turned = [View(fov_deg=280, bend=1, pitch_deg=-90, yaw_deg=n * _TURN_DEG) for n in range(3)]
    real_ = [truth(large, view).at_shift(0, 0, "box") for view in turned]
    candidates = {"Glintor, fine": [ours(source, view, Filter.FINE) for view in turned]}
    candidates |= {f"v360, {m}": [v360(source, projection, view, m) for view in turned] for m in METHODS}
    lines += ["", f"Shimmer of the planet turning by {_TURN_DEG} degrees a frame (higher is calmer):", ""]
    for by, drawn in candidates.items():
        inner = [f[2 : 2 + real_[0].shape[0], 2 : 2 + real_[0].shape[1]] for f in drawn]
        calm = shimmer_db(inner, [r[: i.shape[0], : i.shape[1]] for r, i in zip(real_, inner, strict=True)])
        lines.append(f"- {by}: {calm:.1f} dB")
        print(lines[-1], flush=True)
    return lines


if __name__ == "__main__":
    report(Path(), 1)
