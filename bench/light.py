"""How fast light is measured, weighed and merged."""

import tempfile
from pathlib import Path

import cv2
import numpy as np

from bench.measure import Times, seconds_of, wait_for_calm


def report(_source: Path, runs: int) -> list[str]:
    from glintor.demo.day import CAMERA, SHOTS, SITE
    from glintor.exposure.aims import AIMS, answer
    from glintor.exposure.frame_light import histogram
    from glintor.exposure.hdr import merge_series
    from glintor.exposure.schools import all_runs
    from glintor.media.picture import read_sphere
    from glintor.simulation.light_course import light_course

    shot = next(s for s in SHOTS if s.id == "stern-third-person")
    course = light_course(shot, SITE, CAMERA, 60.0, ())
    frame = np.random.default_rng(1).integers(0, 256, (2880, 5760, 3), np.uint8)
    light = np.maximum(read_sphere(Path("tests/data/bridge-light.exr"))[0].astype(np.float32), 1e-5)
    light = cv2.resize(light, (5760, 2880), interpolation=cv2.INTER_LINEAR).clip(1e-5)
    light *= 0.18 / np.exp(np.log(light).mean())
    lines = ["## Light", "", "| what | median s | least | most |", "|---|---|---|---|"]
    with tempfile.TemporaryDirectory() as folder:
        files = []
        for number, stops in enumerate((-4, -2, 0, 2, 4)):
            x = np.clip(light * np.float32(2.0**stops), 0.0, 1.0)
            code = np.where(x <= 0.0031308, 12.92 * x, 1.055 * x ** (1 / 2.4) - 0.055)
            files.append(Path(folder) / f"{number}.jpg")
            cv2.imwrite(str(files[-1]), (code * 255.0 + 0.5).astype(np.uint8)[..., ::-1])
        works = {
            "the solver, one aim": lambda: answer(
                "look", course, CAMERA.sensor, rate_fps=24.0, filters=(2.0, 4.0, 6.0)
            ),
            "five schools through a minute": lambda: all_runs(course, shot.exposure.held, CAMERA.sensor, -0.7),
            "light course of a minute, first": lambda: light_course(shot, SITE, CAMERA, 60.0, ()),
            "the same, refined": lambda: light_course(shot, SITE, CAMERA, 60.0, (), fine=True),
            "histogram of a decoded 5.7K frame": lambda: histogram(frame),
            "five 5.7K frames merged, from their files": lambda: merge_series(files),
        }
        for words, work in works.items():
            work()
            wait_for_calm(30.0)
            spent = Times(tuple(seconds_of(work) for _ in range(3 if "merged" in words else max(runs, 5))))
            lines.append(f"| {words} | {spent.words()} |")
            print(lines[-1], flush=True)
    lines.append(f"\nSolver for all {len(AIMS)} aims: four times the first line. Merging takes 1.6 GB at its most.")
    return lines
