"""The render engine against its floor and against ffmpeg's v360 filter."""

import tempfile
from collections.abc import Sequence
from functools import partial
from pathlib import Path

import msgspec
import numpy as np

from bench.measure import alternate, ratio_table, speed_table
from glintor.export.film import Output
from glintor.export.render import render
from glintor.media.encoding import Encoding
from glintor.media.proxy import make_proxy, proxy_file
from glintor.media.read import ClipReader
from glintor.pixels.reproject import Filter
from glintor.reframing.course import Course
from glintor.reframing.path import Keyframe, ViewPath

ENCODE = ["-c:v", "libx264", "-preset", "veryfast", "-crf", "19", "-pix_fmt", "yuv420p", "-c:a", "aac"]
SHAPES = {"16:9": (1920, 1080), "9:16": (1080, 1920), "1:1": (1080, 1080), "12:5": (1920, 800)}
KEYS = [
    Keyframe(time_s=0.0, yaw_deg=-60, fov_deg=100, bend=0.0),
    Keyframe(time_s=1.5, yaw_deg=40, pitch_deg=-15, roll_deg=5, fov_deg=90, bend=0.0),
    Keyframe(time_s=3.0, yaw_deg=120, pitch_deg=10, fov_deg=100, bend=0.0),
]
PLANET = [Keyframe(time_s=t, yaw_deg=20 * t, pitch_deg=-90, fov_deg=280, bend=1.0) for t in (0.0, 3.0)]
_FLOOR = "scale=1920:1080:flags=neighbor"  # the cheapest way from a whole sphere to that size
_BOUND = "the bound: decoding, and packing the engine's own pictures"
_PART_S = 2.0  # for what packs four films
_SHORT_S = 0.75  # for what takes minutes
_STILL = "v360=e:flat:w={w}:h={h}:h_fov=100:v_fov={v:.2f}:interp=cubic"


def _outputs(folder: Path, names: Sequence[str], quality: Filter, keys: Sequence[Keyframe] = KEYS) -> list[Output]:
    return [
        Output(
            target=folder / f"{name.replace(':', 'x')}.mp4", size_px=SHAPES[name], quality=quality, encoding=Encoding(crf=19),
            course=Course(ViewPath(keys, (0.0, 3.0)), SHAPES[name]),
        )
        for name in names
    ]  # fmt: skip


def _v360(name: str) -> str:
    width, height = SHAPES[name]
    return _STILL.format(w=width, h=height, v=float(np.degrees(2 * np.arctan(np.tan(np.radians(50)) * height / width))))


def _ffmpeg(source: Path, filters: str, target: Path) -> list[str]:
    return ["ffmpeg", "-v", "error", "-y", "-i", str(source), "-vf", filters, *ENCODE, str(target)]


def _moving(folder: Path, name: str, frames: int = 72) -> str:
    """v360 told a new yaw and pitch at every frame."""
    file = folder / f"moves-{name.replace(':', 'x')}.cmd"
    path = ViewPath(KEYS, (0.0, 3.0))
    lines = []
    for n in range(frames):
        view = path.at(n / 24)
        lines.append(f"{n / 24:.5f} v360 reset_rot -1, v360 yaw {view.yaw_deg:.3f}, v360 pitch {view.pitch_deg:.3f};")
    file.write_text("\n".join(lines))
    return f"sendcmd=f={file},{_v360(name)}"


def _split(source: Path, folder: Path) -> list[str]:
    names = list(SHAPES)
    graph = f"[0:v]split={len(names)}" + "".join(f"[s{n}]" for n in range(len(names))) + ";"
    graph += ";".join(f"[s{n}]{_v360(name)}[o{n}]" for n, name in enumerate(names))
    command = ["ffmpeg", "-v", "error", "-y", "-i", str(source), "-filter_complex", graph]
    for n in range(len(names)):
        command += ["-map", f"[o{n}]", "-map", "0:a", *ENCODE, str(folder / f"split{n}.mp4")]
    return command


def _bound(source: Path, folder: Path, names: Sequence[str]) -> list[str]:
    """One ffmpeg that decodes the source and packs the very pictures that the engine draws from it, ready as raw files:
    what is left when reprojecting costs nothing."""
    lossless = [
        msgspec.structs.replace(o, target=o.target.with_suffix(".mkv"), encoding=Encoding(codec="ffv1"))
        for o in _outputs(folder, names, Filter.FINE)
    ]
    render(source, lossless)
    command = ["ffmpeg", "-v", "error", "-y", "-i", str(source)]
    for output, name in zip(lossless, names, strict=True):
        raw = output.target.with_suffix(".yuv")
        _run(["ffmpeg", "-v", "error", "-y", "-i", str(output.target), "-an", "-f", "rawvideo", str(raw)])
        size = "x".join(str(side) for side in SHAPES[name])
        command += ["-f", "rawvideo", "-s", size, "-r", "24", "-pix_fmt", "yuv420p", "-i", str(raw)]
    command += ["-map", "0:v", "-f", "null", "-"]
    for number in range(len(names)):
        command += ["-map", f"{number + 1}:v", "-map", "0:a", *ENCODE, str(folder / f"bound{number}.mp4")]
    return command


def report(source: Path, runs: int) -> list[str]:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        out = folder / "ffmpeg.mp4"
        fine, fast = (
            partial(render, source, _outputs(folder, ["16:9"], quality)) for quality in (Filter.FINE, Filter.FAST)
        )
        one = alternate(
            {
                "floor: ffmpeg decode and encode": _ffmpeg(source, _FLOOR, out),
                "engine, cubic, moving": fine,
                "engine, bilinear, moving": fast,
                "engine, planet of 280 degrees, turning": partial(render, source, _outputs(folder, ["16:9"], Filter.FINE, PLANET)),
                "v360, cubic, still view": _ffmpeg(source, _v360("16:9"), out),
            },
            runs,
        )  # fmt: skip
        moving = alternate(
            {
                "v360, cubic, moved each frame": _ffmpeg(source, _moving(folder, "16:9"), out),
                "engine, cubic, moving": fine,
                "engine, bilinear, moving": fast,
                _BOUND: _bound(source, folder, ["16:9"]),
            },
            runs,
            warm=False,
        )
    return [
        "## One output of 1920x1080, x264 veryfast, crf 19", "", *ratio_table(one, next(iter(one))), "",
        "How many times faster than v360 moved each frame:", "", *speed_table(moving, next(iter(moving))),
    ]  # fmt: skip


def report_four(source: Path, runs: int) -> list[str]:
    with tempfile.TemporaryDirectory() as name:
        folder, names = Path(name), list(SHAPES)
        out, part, short = folder / "ffmpeg.mp4", folder / "part.mp4", folder / "short.mp4"
        for file, seconds in ((part, _PART_S), (short, _SHORT_S)):
            _run(["ffmpeg", "-v", "error", "-i", str(source), "-t", str(seconds), "-c", "copy", str(file)])
        engine = "engine, four outputs in one pass, moving"
        four = alternate(
            {
                "four v360 runs, still views": lambda: [_run(_ffmpeg(part, _v360(n), out)) for n in names],
                "one ffmpeg, split=4, still views": _split(part, folder),
                engine: partial(render, part, _outputs(folder, names, Filter.FINE)),
                _BOUND: _bound(part, folder, names),
            },
            runs,
        )
        moving = alternate(
            {
                "four v360 runs, moved each frame": lambda: [_run(_ffmpeg(short, _moving(folder, n), out)) for n in names],
                engine: partial(render, short, _outputs(folder, names, Filter.FINE)),
            },
            runs,
            warm=False,
        )  # fmt: skip
    return [
        "## Four outputs (16:9, 9:16, 1:1, 12:5)", "", f"The first {_PART_S:g} s of the source. How many times faster than four v360 runs with still views:",
        "", *speed_table(four, next(iter(four))), "", f"And with moved ones, of the first {_SHORT_S:g} s:", "", *speed_table(moving, next(iter(moving))),
    ]  # fmt: skip


def report_proxy(source: Path, runs: int) -> list[str]:
    times = alternate({"decoding alone": lambda: _decode(source), "making the proxy": lambda: _proxy(source)}, runs)
    return ["## The proxy", "", *ratio_table(times, "decoding alone")]


def _run(command: Sequence[str]) -> None:
    import subprocess

    subprocess.run(command, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


def _decode(source: Path) -> None:
    with ClipReader(source) as reader:
        for _ in reader.frames():
            pass


def _proxy(source: Path) -> None:
    proxy_file(source).unlink(missing_ok=True)
    make_proxy(source)
