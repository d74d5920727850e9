"""Following a person through a simulated film 1920 wide, against playing it and against decoding it alone."""

import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np

from bench.measure import alternate


def report(_source: Path, runs: int) -> list[str]:
    from glintor.demo.day import write_demo_day
    from glintor.media.footage import open_footage
    from glintor.media.tracked import Pointed, follow_subject
    from glintor.reframing.track import read_track, track_file

    with tempfile.TemporaryDirectory() as folder:
        write_demo_day(Path(folder))
        clip = Path(folder) / "card" / "clips" / "clip-0003.mp4"
        footage, truth = open_footage(clip), read_track(track_file(clip))
        now = truth.at(np.array([1.0]))
        point = Pointed(1.0, float(now.yaw_deg[0]), float(now.pitch_deg[0]), 20.0)

        def decode() -> None:
            with footage.reader() as reader:
                for _ in reader.frames():
                    pass

        candidates: dict[str, Callable[[], object]] = {
            "decoding it": decode,
            "following somebody through it": lambda: follow_subject(footage, [point]),
        }
        took = alternate(candidates, runs)
    length = footage.duration_s
    lines = ["## Tracking", "", f"A simulated film of {length:.0f} s, 1920 x 960; medians of {runs}.", ""]
    lines += ["| | s | of its own length |", "|---|---|---|"]
    for name, times in took.items():
        lines.append(f"| {name} | {times.median:.2f} | {length / times.median:.2f} x real time |")
    return [*lines, ""]
