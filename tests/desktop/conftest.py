"""What several desks are tried on in the window."""

import subprocess

import numpy as np
import pytest
from PyQt6.QtGui import QImage

from tests import foreign
from tests.conftest import make_clip
from tests.media.test_align import RATE_HZ, horns, on_another_clock


@pytest.fixture(scope="session")
def home(tmp_path_factory):
    """A film in two parts with sound and a GPX, a pair, a recorder, what is broken and what is flat."""
    folder, world = tmp_path_factory.mktemp("home"), foreign.World()
    scene = horns(12, 5, 1.5)
    for name, x in (("cam", scene[2 * RATE_HZ : 5 * RATE_HZ]), ("rec", on_another_clock(scene, 0.0, 30.0, 11))):
        (folder / f"{name}.f32").write_bytes(x.astype(np.float32).tobytes())
    raw = ["ffmpeg", "-v", "error", "-f", "f32le", "-ar", str(RATE_HZ), "-ac", "1", "-i"]
    silent = foreign.shaken(folder / "silent.mp4", world, width=512)
    whole = folder / "whole.mp4"
    joins = ["-i", folder / "cam.f32", "-i", silent, "-map", "1:v", "-map", "0:a", "-c:v", "copy", "-c:a", "aac"]
    subprocess.run([*raw[:-1], *joins, whole], check=True)
    foreign.in_parts(whole, "1.5")
    subprocess.run([*raw, folder / "rec.f32", folder / "VOICE_3.wav"], check=True)
    for name in ("cam.f32", "rec.f32", "silent.mp4", "whole.mp4"):
        (folder / name).unlink()
    (folder / "REC_0007.gpx").write_text(
        '<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg><trkpt lat="-41.2" lon="174.7">'
        "<time>2026-03-04T01:02:03Z</time></trkpt></trkseg></trk></gpx>"
    )
    foreign.pair(folder / "PAIR_1.mp4", world, 30)
    (folder / "torn.mp4").write_bytes(b"no film")
    make_clip(folder / "flat.mp4", width=320, height=180, frames=4)
    return folder


def pictured(view) -> bool:
    """Whether a frame or a sphere on the screen shows a picture: one with something in it, not a blank of any colour."""
    if view._image is None:
        return False
    image = view._image.convertToFormat(QImage.Format.Format_Grayscale8)
    rows = np.frombuffer(image.constBits().asarray(image.sizeInBytes()), np.uint8).reshape(image.height(), -1)
    return float(rows[:, : image.width()].std()) > 4.0
