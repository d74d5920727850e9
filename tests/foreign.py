"""What another maker's camera might leave, made by other code than Glintor's: OpenCV's remap, scipy's rotations and ffmpeg,
from a CC0 photograph. Its axes are x right, y up, z ahead; angles have Glintor's signs."""

import subprocess
from collections.abc import Iterable
from functools import cache
from pathlib import Path

import cv2
import numpy as np
from scipy.spatial.transform import Rotation

from tests.conftest import DATA

WIDE = 2048
LENS = {
    "size": 480,
    "half_deg": 98.0,
    "k3": -0.02,
    "radius": 0.485,
    "front": ((241.6, 237.9), (0.0, 0.0, 0.0), 1.0),
    "rear": ((238.3, 241.2), (180.7, -0.5, 0.6), 0.86),
}


def turn(yaw: float, pitch: float, roll: float) -> np.ndarray:
    return Rotation.from_euler("YXZ", [yaw, -pitch, -roll], degrees=True).as_matrix()


def in_body(matrix: np.ndarray) -> np.ndarray:
    """The same turn in Glintor's axes: x ahead, y left, z up."""
    to = np.array([[0.0, 0.0, 1.0], [-1.0, 0.0, 0.0], [0.0, 1.0, 0.0]])
    return to @ matrix @ to.T


class World:
    """A sphere that can be looked at along any directions (h, w, 3)."""

    def __init__(self, name: str = "forest-sphere.jpg", *, lighter: float = 2.2) -> None:
        picture = cv2.imread(str(DATA / name)).astype(np.float32)
        picture = 255.0 * (picture / 255.0) ** (1.0 / lighter)
        large = cv2.resize(picture, (WIDE, WIDE // 2), interpolation=cv2.INTER_CUBIC).clip(0, 255)
        self._picture = np.hstack([large[:, -8:], large, large[:, :8]])

    def at(self, look: np.ndarray) -> np.ndarray:
        lon, lat = np.arctan2(look[..., 0], look[..., 2]), np.arcsin(np.clip(look[..., 1], -1, 1))
        u, v = (lon / (2 * np.pi) + 0.5) * WIDE + 7.5, (0.5 - lat / np.pi) * WIDE / 2 - 0.5
        u, v = u.astype(np.float32), np.clip(v, 0, WIDE / 2 - 1).astype(np.float32)
        return cv2.remap(self._picture, u, v, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE).clip(0, 255)


@cache
def sphere_looks(width: int) -> np.ndarray:
    lon = (np.arange(width) + 0.5) / width * 2 * np.pi - np.pi
    lat = np.pi / 2 - (np.arange(width // 2) + 0.5) / (width // 2) * np.pi
    c = np.cos(lat)[:, None]
    return np.stack(np.broadcast_arrays(c * np.sin(lon), np.sin(lat)[:, None], c * np.cos(lon)), -1)


@cache
def lens_looks(side: str) -> tuple[np.ndarray, np.ndarray]:
    """Directions (n, n, 3) of one lens's pixels, and which of them lie in its circle."""
    n, half, k3 = LENS["size"], np.radians(LENS["half_deg"]), LENS["k3"]
    (cx, cy), angles, _ = LENS[side]
    focal = LENS["radius"] * n / (half + k3 * half**3)
    x, y = np.meshgrid(np.arange(n) - cx, cy - np.arange(n))
    r = np.hypot(x, y) / focal
    t = r.copy()
    for _ in range(15):
        t = t - (t + k3 * t**3 - r) / (1 + 3 * k3 * t * t)
    s = np.sin(t) / np.maximum(np.hypot(x, y), 1e-9)
    return np.stack([x * s, y * s, np.cos(t)], -1) @ turn(*angles).T, t <= half


def shake(t: float, big: float = 1.0) -> tuple[float, float, float]:
    """Yaw, pitch, roll in degrees of a walk."""
    return (
        big * (7 * np.sin(0.9 * t) + 2.5 * np.sin(4.3 * t + 1)),
        big * (2.2 * np.sin(3.7 * t) + 0.9 * np.sin(8.1 * t + 2)),
        big * (3.1 * np.sin(2.9 * t + 0.4) + 0.8 * np.sin(11 * t)),
    )


def film(path: Path, frames: Iterable[np.ndarray], rate: int, *more: object) -> Path:
    frames = iter(frames)
    first = next(frames)
    size = f"{first.shape[1]}x{first.shape[0]}"
    command = [
        "ffmpeg",
        "-y",
        "-v",
        "error",
        "-f",
        "rawvideo",
        "-pix_fmt",
        "bgr24",
        "-s",
        size,
        "-r",
        str(rate),
        "-i",
        "-",
    ]
    command += [
        *map(str, more),
        "-c:v",
        "libx264",
        "-preset",
        "veryfast",
        "-crf",
        "18",
        "-pix_fmt",
        "yuv420p",
        str(path),
    ]
    process = subprocess.Popen(command, stdin=subprocess.PIPE)
    rng = np.random.default_rng(2)
    for frame in (first, *frames):
        process.stdin.write((frame + rng.normal(0, 1.2, frame.shape)).clip(0, 255).astype(np.uint8).tobytes())
    process.stdin.close()
    assert process.wait() == 0
    return path


def shaken(path: Path, world: World, *, width: int = 768, frames: int = 60, rate: int = 20, big: float = 1.0) -> Path:
    looks = sphere_looks(width)
    return film(path, (world.at(looks @ turn(*shake(k / rate, big)).T) for k in range(frames)), rate, "-g", 10)


def lens_pictures(world: World, k: int, rate: int = 15, big: float = 0.5) -> list[np.ndarray]:
    out = []
    for side in ("front", "rear"):
        looks, seen = lens_looks(side)
        picture = world.at(looks @ turn(*shake(k / rate, big)).T) * LENS[side][2]
        out.append(np.where(seen[..., None], picture, 5.0))
    return out


def pair(path: Path, world: World, frames: int = 30) -> Path:
    return film(path, (np.hstack(lens_pictures(world, k)) for k in range(frames)), 15)


def rolled(path: Path, world: World, readouts_s: tuple[float, float], *, frames: int = 36, rate: int = 15) -> Path:
    """Two lenses side by side whose rows are read one after the other: the first's downwards, the second's from the right."""
    n, big, pictures = LENS["size"], 1.0, []
    for k in range(frames):
        parts = []
        for side, readout in zip(("front", "rear"), readouts_s, strict=True):
            looks, seen = lens_looks(side)
            cx, cy = LENS[side][0]
            late = (np.arange(n) - (cy if side == "front" else cx)) / n * readout * (1.0 if side == "front" else -1.0)
            turns = np.stack([turn(*shake(k / rate + by, big)) for by in late])
            turned = np.einsum("hij,hwj->hwi" if side == "front" else "wij,hwj->hwi", turns, looks)
            parts.append(np.where(seen[..., None], world.at(turned) * LENS[side][2], 5.0))
        pictures.append(np.hstack(parts))
    return film(path, pictures, rate, "-g", 12)


def say(file: Path, **fields: object) -> None:
    """Writes photo-sphere metadata into a JPEG."""
    inside = "".join(
        f' GPano:{name}="{value}"' for name, value in ({"ProjectionType": "equirectangular"} | fields).items()
    )
    xmp = b"http://ns.adobe.com/xap/1.0/\x00" + f"<x:xmpmeta><rdf:Description{inside}/></x:xmpmeta>".encode()
    raw = file.read_bytes()
    file.write_bytes(raw[:2] + b"\xff\xe1" + (len(xmp) + 2).to_bytes(2, "big") + xmp + raw[2:])


def in_parts(film_path: Path, at_s: str, name: str = "REC_0007_%03d.MP4") -> list[Path]:
    """A film cut at key frames into parts with numbered names, as cameras do at a size."""
    target = film_path.parent / name
    command = ["ffmpeg", "-y", "-v", "error", "-i", film_path, "-c", "copy", "-f", "segment", "-segment_times", at_s]
    subprocess.run(
        [*map(str, command), "-segment_start_number", "1", "-reset_timestamps", "1", str(target)], check=True
    )
    return sorted(film_path.parent.glob(name.replace("%03d", "*")))


def exif(file: Path, exposure_s: float, second: int) -> None:
    """Writes an exposure and a moment into a JPEG."""
    from PIL import Image

    with Image.open(file) as picture:
        told = picture.getexif()
        told.get_ifd(0x8769).update(
            {0x829A: exposure_s, 0x8827: 100, 0x829D: 2.0, 0x9003: f"2026:03:04 14:12:{10 + second:02d}"}
        )
        picture.save(file, exif=told, quality=92)


def card(folder: Path, world: World) -> Path:
    """A stranger's card: parts with capitals, a pair, one wide lens, a bracket, a series, a tilted photo, a recorder's sound, what is
    broken and what is flat."""
    whole = shaken(folder / "whole.mp4", world)
    in_parts(whole, "1,2")
    whole.unlink()
    (folder / "REC_0007.GPX").write_text("<gpx/>")
    pair(folder / "PAIR_0021.mp4", world, 20)
    looks = lens_looks("front")[0][100:380]
    film(folder / "ONE_0051.mp4", (world.at(looks @ turn(*shake(k / 20, 0.6)).T) for k in range(50)), 20)
    sphere = sphere_looks(512)
    for k in range(7):
        cv2.imwrite(str(folder / f"LAP_{k + 1:04d}.JPG"), world.at(sphere @ turn(0.5 * k, 0, 0).T))
    for n, stops in enumerate((-2, 0, 2)):
        picture = (world.at(sphere).astype(float) / 255.0) ** 2.2 * 2.0**stops
        file = folder / f"BKT_0031_{n + 1}.JPG"
        cv2.imwrite(str(file), (picture.clip(0, 1) ** (1 / 2.2) * 255).astype(np.uint8))
        exif(file, 2.0**stops / 60.0, n)
    cv2.imwrite(str(folder / "SPH_0041.jpg"), world.at(sphere @ turn(0, 12, 7).T))
    say(
        folder / "SPH_0041.jpg",
        PoseHeadingDegrees=75,
        PosePitchDegrees=12,
        PoseRollDegrees=7,
        InitialViewHeadingDegrees=20,
    )
    (folder / "CUT_0061.mp4").write_bytes((folder / "REC_0007_001.MP4").read_bytes()[:9000])
    subprocess.run(
        [
            "ffmpeg",
            "-v",
            "error",
            "-f",
            "lavfi",
            "-i",
            "testsrc2=s=320x180:r=25",
            "-t",
            "1",
            str(folder / "FLAT_0071.mp4"),
        ],
        check=True,
    )
    subprocess.run(
        ["ffmpeg", "-v", "error", "-f", "lavfi", "-i", "sine=f=300:d=2", str(folder / "RECORDER_03.flac")], check=True
    )
    return folder
