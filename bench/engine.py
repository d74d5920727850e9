"""The render engine against its floor and against ffmpeg's v360 filter."""

import tempfile
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from bench.measure import alternate, ratio_table
from glintor.export.render import Output, render
from glintor.media.encoding import Encoding
from glintor.media.proxy import make_proxy, proxy_file
from glintor.media.read import ClipReader
from glintor.pixels.reproject import Filter
from glintor.reframing.path import Keyframe, ViewPath, focal_scale

ENCODE = ["-c:v", "libx264", "-preset", "veryfast", "-crf", "19", "-pix_fmt", "yuv420p", "-c:a", "aac"]
SHAPES = {"16:9": (1920, 1080), "9:16": (1080, 1920), "1:1": (1080, 1080), "12:5": (1920, 800)}
KEYS = [
    Keyframe(time_s=0.0, yaw_deg=-60, fov_deg=100, bend=0.0),
    Keyframe(time_s=1.5, yaw_deg=40, pitch_deg=-15, roll_deg=5, fov_deg=90, bend=0.0),
    Keyframe(time_s=3.0, yaw_deg=120, pitch_deg=10, fov_deg=100, bend=0.0),
]
PLANET = [Keyframe(time_s=t, yaw_deg=20 * t, pitch_deg=-90, fov_deg=280, bend=1.0) for t in (0.0, 3.0)]
_SHORT_S = 0.75  # for what packs four films
_STILL = "v360=e:flat:w={w}:h={h}:h_fov=100:v_fov={v:.2f}:interp=cubic"


def _outputs(folder: Path, names: Sequence[str], quality: Filter, keys: Sequence[Keyframe] = KEYS) -> list[Output]:
    return [
        Output(
            target=folder / f"{name.replace(':', 'x')}.mp4", size_px=SHAPES[name], quality=quality, encoding=Encoding(crf=19),
            path=ViewPath(keys, (0.0, 3.0), focal_scale=focal_scale(SHAPES[name])),
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


def report(source: Path, runs: int) -> list[str]:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        out, short = folder / "ffmpeg.mp4", folder / "short.mp4"
        _run(["ffmpeg", "-v", "error", "-i", str(source), "-t", str(_SHORT_S), "-c", "copy", str(short)])
        one = alternate(
            {
                "floor: ffmpeg decode and encode": _ffmpeg(source, "scale=1920:1080:flags=neighbor", out),
                "engine, cubic, moving": lambda: render(source, _outputs(folder, ["16:9"], Filter.FINE)),
                "engine, bilinear, moving": lambda: render(source, _outputs(folder, ["16:9"], Filter.FAST)),
                "engine, planet of 280 degrees, turning": lambda: render(source, _outputs(folder, ["16:9"], Filter.FINE, PLANET)),
                "v360, cubic, still view": _ffmpeg(source, _v360("16:9"), out),
            },
            runs,
        )  # fmt: skip
        moving = alternate(
            {
                "engine, cubic, moving": lambda: render(source, _outputs(folder, ["16:9"], Filter.FINE)),
                "v360, cubic, moved each frame": _ffmpeg(source, _moving(folder, "16:9"), out),
            },
            runs,
            warm=False,
        )
        four = alternate(
            {
                "engine, four outputs in one pass, moving": lambda: render(short, _outputs(folder, list(SHAPES), Filter.FINE)),
                "one ffmpeg, split=4, still views": _split(short, folder),
                "four v360 runs, still views": lambda: [_run(_ffmpeg(short, _v360(n), out)) for n in SHAPES],
            },
            runs,
        )  # fmt: skip
        four_moving = alternate(
            {
                "engine, four outputs in one pass, moving": lambda: render(short, _outputs(folder, list(SHAPES), Filter.FINE)),
                "four v360 runs, moved each frame": lambda: [_run(_ffmpeg(short, _moving(folder, n), out)) for n in SHAPES],
            },
            max(runs // 3, 1),  # minutes each, and far from its limit
            warm=False,
        )  # fmt: skip
        proxy = alternate(
            {"decoding alone": lambda: _decode(source), "making the proxy": lambda: _proxy(source)}, max(runs, 5)
        )
    return [
        "## One output of 1920x1080, x264 veryfast, crf 19", "", *ratio_table(one, "floor: ffmpeg decode and encode"), "",
        *ratio_table(moving, "engine, cubic, moving"), "", f"The four outputs below: the first {_SHORT_S} s of the source.", "",
        "## Four outputs (16:9, 9:16, 1:1, 12:5)", "",
        *ratio_table(four, "engine, four outputs in one pass, moving"), "",
        *ratio_table(four_moving, "engine, four outputs in one pass, moving"), "", "## The proxy", "", *ratio_table(proxy, "decoding alone"),
    ]  # fmt: skip


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
