"""Two lenses against a sphere of equal pixels: rendering, with the seam mended, held still, and late seeks; and how quickly a
recording's turning is found."""

import subprocess
import tempfile
import time
from functools import partial
from pathlib import Path

from msgspec.structs import replace

from bench.engine import KEYS
from bench.measure import Times, alternate, ratio_table
from glintor.export.film import Output
from glintor.export.render import render
from glintor.media.encoding import Encoding
from glintor.media.footage import Footage, open_footage
from glintor.media.lens_profile import find_lenses
from glintor.media.opened import open_for_scrubbing
from glintor.media.orientation import by_picture
from glintor.media.taken import TakenAs
from glintor.reframing.course import Course
from glintor.reframing.path import ViewPath
from glintor.sphere.lenses import TWIN, Eye
from glintor.sphere.turn import TurnTrack

_HALF_DEG = 95.0
TRUE = replace(TWIN, eyes=(Eye(half_deg=_HALF_DEG), Eye(half_deg=_HALF_DEG, turn_deg=(180.0, 0.0, 0.0))))


def pair_of(source: Path, target: Path) -> Path:
    """The same sphere as two fisheyes side by side, of equal size and bit rate, by ffmpeg's filter; with key frames as often."""
    field = f"{2 * _HALF_DEG:g}"
    filters = f"v360=e:dfisheye:h_fov={field}:v_fov={field}:w=5760:h=2880:interp=cubic"
    rate = ["-b:v", "100M", "-maxrate", "150M", "-bufsize", "200M", "-g", "24", "-preset", "veryfast"]
    subprocess.run(
        ["ffmpeg", "-v", "error", "-y", "-i", str(source), "-vf", filters, *rate, "-c:a", "copy", str(target)],
        check=True,
    )
    return target


def small_of(source: Path, target: Path) -> Path:
    command = [
        "ffmpeg",
        "-v",
        "error",
        "-y",
        "-i",
        str(source),
        "-vf",
        "scale=1920:960",
        "-g",
        "24",
        "-crf",
        "18",
        str(target),
    ]
    subprocess.run(command, check=True)
    return target


def _one(footage: Footage, folder: Path, turns: TurnTrack | None = None) -> None:
    course = Course(ViewPath(KEYS, (0.0, 3.0)), turns=turns)
    render(footage, [Output(target=folder / "out.mp4", size_px=(1920, 1080), course=course, encoding=Encoding(crf=19))])


def report(source: Path, runs: int) -> list[str]:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        again = folder / "sphere.mp4"  # packed by the same encoder as the pair
        rate = [
            "-b:v",
            "100M",
            "-maxrate",
            "150M",
            "-bufsize",
            "200M",
            "-g",
            "24",
            "-preset",
            "veryfast",
            "-c:a",
            "copy",
        ]
        subprocess.run(["ffmpeg", "-v", "error", "-y", "-i", str(source), *rate, str(again)], check=True)
        pair = pair_of(source, folder / "pair.mp4")
        sphere = open_footage(again)
        plain, mended = (open_footage(pair, TakenAs("side", TRUE, mends)) for mends in (False, True))
        turns = TurnTrack(
            [0.0, 1.0, 2.0, 3.0], [[0, 0, 0, 1], [0, 0, 0.1, 0.995], [0.02, 0, 0.05, 0.998], [0, 0, 0, 1]]
        )
        base = "from a sphere"
        times = alternate(
            {
                base: partial(_one, sphere, folder),
                "straight from two lenses": partial(_one, plain, folder),
                "and the seam mended": partial(_one, mended, folder),
                "from a sphere, held still": partial(_one, sphere, folder, turns),
            },
            runs,
        )
        seeks = {"a sphere": _seeks((again,), TakenAs()), "two lenses": _seeks((pair,), TakenAs("side", TRUE))}
        small = open_footage(small_of(source, folder / "small.mp4"))
        began = time.perf_counter()
        by_picture(small)
        found_s = time.perf_counter() - began
        began = time.perf_counter()
        find_lenses(open_footage(pair, TakenAs("side")))
        lenses_s = time.perf_counter() - began
    return [
        "## Two lenses, and held still",
        "",
        "One moving output of 1920x1080 from 5760x2880:",
        "",
        *ratio_table(times, base),
        "",
        "| late seek in the original of | median s | worst |",
        "|---|---|---|",
        *[f"| {what} | {t.median:.2f} | {max(t.seconds):.2f} |" for what, t in seeks.items()],
        "",
        f"How a film 1920 wide turned is found at {small.duration_s / found_s:.2f} times real time (24 frames a second); "
        f"a lens profile of a pair 5760 wide in {lenses_s:.1f} s.",
    ]


def _seeks(files: tuple[Path, ...], taken_as: TakenAs) -> Times:
    footage, reader = open_for_scrubbing(files, taken_as)
    spent = []
    for at in (2.7, 0.3, 2.9, 1.6, 0.9):
        began = time.perf_counter()
        decoded = reader.at(at)
        assert decoded is not None
        footage.sphere(decoded)
        spent.append(time.perf_counter() - began)
    reader.close()
    return Times(tuple(spent))
