"""What the benches measure on: a textured sphere that moves, as large and heavy as a camera's clip.

Leaves of random size, place and grey are laid over each other: the dead leaves model, whose statistics are close to
those of photographs (Lee, Mumford & Huang, Int. J. Computer Vision 41, 2001), with sizes that fall off with their
third power from about a source pixel up, so that there is detail at every scale.
"""

import subprocess
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

Grey = NDArray[np.uint8]
LEAVES = 260_000


def leaves(width_px: int, seed: int = 7, count: int = LEAVES) -> Grey:
    """A sphere (W/2, W) of overlapping grey leaves, drawn so that they look round on the sphere."""
    rng, height = np.random.default_rng(seed), width_px // 2
    out = np.full((height, width_px), 128, np.uint8)
    least = width_px / 5760 * 0.8
    sizes = np.minimum(least / np.sqrt(rng.uniform(0, 1, count)), width_px / 12)
    lats = np.arcsin(rng.uniform(-1, 1, count))
    columns, greys = rng.integers(0, width_px, count), rng.integers(20, 236, count)
    for size, lat, column, grey in zip(sizes[np.argsort(-sizes)], lats, columns, greys, strict=True):
        across = min(size / max(np.cos(lat), 0.02), width_px / 4)
        row = int((0.5 - lat / np.pi) * height)
        for shift in (-width_px, 0, width_px) if not across < column < width_px - across else (0,):
            axes = (max(int(across), 1), max(int(size), 1))
            cv2.ellipse(out, (int(column) + shift, row), axes, 0, 0, 360, int(grey), -1, cv2.LINE_AA)
    return out


def make_source(path: Path, seconds: float, *, rate: int = 24, megabits: int = 100, width_px: int = 5760) -> None:
    """H.264 of the sphere turning by half a degree a frame, with grain, at about the bit rate asked for; with sound."""
    sphere, height = leaves(width_px), width_px // 2
    tint = cv2.GaussianBlur(np.roll(sphere, width_px // 3, axis=1), (0, 0), width_px / 300)
    size = f"{width_px}x{height}"
    command = ["ffmpeg", "-v", "error", "-y", "-f", "rawvideo", "-pix_fmt", "yuv420p", "-s", size, "-r", f"{rate}"]
    command += ["-i", "-", "-f", "lavfi", "-i", "sine=440:r=48000", "-t", f"{seconds}", "-c:v", "libx264"]
    command += ["-preset", "veryfast", "-bf", "0", "-g", f"{rate}", "-b:v", f"{megabits}M", "-maxrate", f"{megabits}M"]
    command += ["-bufsize", f"{megabits}M", "-c:a", "aac", str(path)]
    rng = np.random.default_rng(1)
    grain = rng.integers(-6, 7, (height, width_px), dtype=np.int8)
    u = cv2.resize(tint, (width_px // 2, height // 2))
    with subprocess.Popen(command, stdin=subprocess.PIPE) as process:
        assert process.stdin is not None
        for frame in range(round(seconds * rate)):
            turn = frame * width_px // 720
            moved = np.roll(sphere, turn, axis=1)
            noisy = cv2.add(moved, np.roll(grain, int(rng.integers(0, width_px)), axis=1), dtype=cv2.CV_8U)
            process.stdin.write(noisy.tobytes())
            process.stdin.write(np.roll(u, turn // 2, axis=1).tobytes())
            process.stdin.write(np.roll(255 - u, turn // 2, axis=1).tobytes())
    if process.returncode:
        raise RuntimeError("the source could not be made")
