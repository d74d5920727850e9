"""Shared fixtures: small clips and pictures made on the spot, the demo day, and the real window."""

import os
import subprocess
import threading
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from hypothesis import settings
from numpy.typing import NDArray

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from glintor.demo.day import write_demo_day
from glintor.media.encoding import Encoding
from glintor.media.write import FilmWriter
from glintor.pixels import colour
from glintor.sphere.equirect import direction, lonlat_of_pixel

# A machine that is busy with something else must not fail a property.
settings.register_profile("patient", deadline=None)
# What lands is judged by the same examples each time; a developer's run looks for new ones.
settings.register_profile("repeated", deadline=None, derandomize=True)
settings.load_profile(os.environ.get("GLINTOR_PROPERTIES", "patient"))

DATA = Path(__file__).parent / "data"


@pytest.fixture(scope="session", autouse=True)
def _own_folders(tmp_path_factory: pytest.TempPathFactory) -> Iterator[None]:
    """Settings, queue, proxies and demo day of the tests never touch those of the person who runs them."""
    home = tmp_path_factory.mktemp("home")
    saved = {
        name: os.environ.get(name) for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CACHE_HOME")
    }
    for name in saved:
        os.environ[name] = str(home / name.lower())
    yield
    for name, value in saved.items():
        os.environ.pop(name, None) if value is None else os.environ.__setitem__(name, value)


@pytest.fixture(autouse=True)
def _no_threads_left() -> Iterator[None]:
    """A test that leaves a thread of work behind fails (pools that live as long as the program are named)."""
    before = set(threading.enumerate())
    yield
    left = [t for t in threading.enumerate() if t not in before and t.is_alive() and not t.name.startswith("rows")]
    for thread in left:
        thread.join(5.0)
    assert not [t.name for t in left if t.is_alive()]


def smooth_sphere(width_px: int) -> NDArray[np.uint8]:
    """An RGB sphere (H, W, 3) of slow waves, continuous over the seam and the poles."""
    height = width_px // 2
    lon, lat = lonlat_of_pixel(np.arange(width_px)[None, :], np.arange(height)[:, None], width_px, height)
    return smooth_at(direction(lon, lat))


def smooth_at(look: NDArray[np.float64], finer: float = 1.0) -> NDArray[np.uint8]:
    """The smooth sphere in directions (..., 3); `finer` times as many waves."""
    x, y, z = np.moveaxis(look * finer, -1, 0)
    waves = (np.sin(3 * x + y), np.sin(2.5 * y - z + 1), np.cos(3 * z + 2 * x))
    return (np.stack(waves, axis=-1) * 90 + 128 + 0.5).astype(np.uint8)


def make_clip(
    path: Path,
    *,
    width: int = 320,
    height: int = 160,
    frames: int = 24,
    rate: Fraction = Fraction(24),
    sound: bool = True,
) -> Path:
    """A small sphere clip whose brightness rises with the frame number, so that a frame can be told from the next."""
    tone = np.sin(np.arange(int(frames / rate * 48000) + 4800) * 2 * np.pi * 440 / 48000).astype(np.float32) * 0.3
    blocks = iter(np.array_split(np.stack([tone, tone]), 20, axis=1)) if sound else None
    writer = FilmWriter(
        path, (width, height), rate=rate, time_base=1 / rate, encoding=Encoding(crf=12, key_every_s=0.5), sound=blocks
    )
    for number in range(frames):
        frame, planes = writer.new_frame()
        planes.y[:] = 30 + (number * 7) % 200
        planes.u[:], planes.v[:] = 128, 128
        writer.write(frame, number, 1 / rate)
    writer.close(float(frames / rate))
    return path


def cut_off(clip: Path, share: float = 0.6) -> bytes:
    """A clip's bytes with its index and this share of its pictures and sound, as when a copy was interrupted."""
    content = clip.read_bytes()
    pictures = content.index(b"mdat")
    return content[: pictures + int(share * (len(content) - pictures))]


def frame_number(luma: NDArray[np.uint8]) -> float:
    """Which frame of `make_clip` a picture shows (for the first 28 frames)."""
    return (float(np.median(luma)) - 30.0) / 7.0


def psnr(a: NDArray[np.generic], b: NDArray[np.generic]) -> float:
    error = np.mean((a.astype(np.float64) - b.astype(np.float64)) ** 2)
    return float(10 * np.log10(255.0**2 / max(error, 1e-9)))


def ffprobe(path: Path, entries: str, stream: str = "v:0") -> list[str]:
    """What ffmpeg's own prober says, as values."""
    command = [
        "ffprobe",
        "-v",
        "error",
        "-select_streams",
        stream,
        "-count_frames",
        "-show_entries",
        entries,
        "-of",
        "csv=p=0",
    ]
    return subprocess.run([*command, str(path)], capture_output=True, text=True, check=True).stdout.strip().split(",")


@pytest.fixture
def clip(tmp_path: Path) -> Path:
    return make_clip(tmp_path / "sphere.mp4")


@pytest.fixture
def smooth_clip(tmp_path: Path) -> Path:
    """Twelve equal frames of the smooth sphere."""
    path = tmp_path / "smooth.mp4"
    drawn = colour.yuv(smooth_sphere(1024))
    writer = FilmWriter(path, (1024, 512), rate=Fraction(24), time_base=Fraction(1, 24), encoding=Encoding(crf=4))
    for number in range(12):
        frame, planes = writer.new_frame()
        planes.y[:], planes.u[:], planes.v[:] = drawn.y, drawn.u, drawn.v
        writer.write(frame, number, Fraction(1, 24))
    writer.close(0.5)
    return path


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo day, written once; tests that change it take a copy."""
    folder = tmp_path_factory.mktemp("demo")
    write_demo_day(folder)
    return folder


@pytest.fixture
def day(demo_folder: Path, tmp_path: Path) -> Path:
    """The project file of an own copy of the demo day."""
    import shutil

    target = tmp_path / "day"
    shutil.copytree(demo_folder, target)
    return target / "hollin-cut.glintor"


@pytest.fixture
def window(qtbot, day: Path, tmp_path: Path):
    """The real window with the demo day, shown offscreen and closed in the end."""
    from glintor.desktop.app import application
    from glintor.desktop.document import Document
    from glintor.desktop.window import Window
    from glintor.export.queue import Queue

    application()
    made = Window(Document(day), queue=Queue(tmp_path / "queue.json"))
    qtbot.addWidget(made)
    made.show()
    made.document.choose_shot("roof-cobdale")
    yield made
    made.close()


@pytest.fixture
def settle(qtbot, window) -> Callable[[], None]:
    """Waits until everything in sight is drawn and no work runs; in a fresh tree kernels are compiled first."""
    return lambda: qtbot.waitUntil(lambda: window.settled, timeout=180000)
