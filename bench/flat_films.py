"""What forty flat films cost to be looked at as they come in: processor time of each, beside ffmpeg decoding as much of it."""

import statistics
import subprocess
import tempfile
import time
from pathlib import Path

from bench.measure import wait_for_calm
from glintor.media.reading import read_one

_SCENE = Path(__file__).parents[1] / "tests" / "data" / "forest-sphere.jpg"
_RATE, _LENGTH_S = 30, 3
_CODED = [
    "-c:v",
    "libx264",
    "-preset",
    "veryfast",
    "-bf",
    "0",
    "-g",
    "30",
    "-b:v",
    "12M",
    "-maxrate",
    "12M",
    "-bufsize",
    "4M",
    "-pix_fmt",
    "yuv420p",
]
_DECODED_S = 0.4  # of which ffmpeg decodes every frame
# Where the film's 1920x1080 lie in a flat picture of 2880x1620, by the time in seconds
MOVES = {
    "on a tripod": ("480", "270"),
    "a slow pan": ("60*t", "270"),
    "a pan": ("300*t", "270"),
    "by hand": ("480+40*sin(6.9*t)", "270+28*sin(11*t)"),
}


def _film(file: Path, yaw_deg: float, moves: str, noise: int) -> Path:
    """ffmpeg's own flat picture out of a sphere, moved along; enlarged first, as the sphere is small."""
    flat = f"scale=4096:2048,v360=e:flat:h_fov=100:v_fov=67.6:w=2880:h=1620:yaw={yaw_deg:g},loop=-1:1:0,fps={_RATE}"
    x, y = MOVES[moves]
    filters = f"{flat},crop=1920:1080:'{x}':'{y}',noise=alls={noise}:allf=t"
    command = ["ffmpeg", "-v", "error", "-y", "-r", str(_RATE), "-i", str(_SCENE), "-vf", filters, "-t", str(_LENGTH_S)]
    subprocess.run([*command, *_CODED, str(file)], check=True, stdin=subprocess.DEVNULL)
    return file


def _decoded_s(file: Path) -> float:
    """Processor time of ffmpeg for the same bit of a film, by one thread."""
    script = "import os,subprocess,sys\nsubprocess.run(sys.argv[1:], check=True)\nt = os.times()\nprint(t.children_user + t.children_system)"
    command = ["ffmpeg", "-v", "error", "-threads", "1", "-t", str(_DECODED_S), "-i", str(file), "-f", "null", "-"]
    python = subprocess.run(["python3", "-c", script, *command], check=True, capture_output=True, text=True)
    return float(python.stdout)


def report(count: int = 40) -> list[str]:
    lines = [
        "## Flat films that come in",
        "",
        f"{count} films of 1920x1080, {_RATE} fps, {_LENGTH_S} s at 12 Mbit/s with noise as of a small sensor; processor time of each look, of all "
        f"threads, beside ffmpeg decoding {_DECODED_S:g} s of it by one:",
        "",
        "| how the camera was held | median s | least | most | ffmpeg, median s | taken for |",
        "|---|---|---|---|---|---|",
    ]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for moves in MOVES:
            each = count // len(MOVES)
            films = [_film(folder / f"{n}.mp4", 36.0 * n - 180.0, moves, 3 + n % 3) for n in range(each)]
            read_one(films[0])  # libraries are loaded
            wait_for_calm(30.0)
            spent, taken, plain = [], set(), []
            for film in films:
                began = time.process_time()
                taken.add(read_one(film).reading)
                spent.append(time.process_time() - began)
                plain.append(_decoded_s(film))
            lines.append(
                f"| {moves} | {statistics.median(spent):.2f} | {min(spent):.2f} | {max(spent):.2f} | {statistics.median(plain):.2f} "
                f"| {', '.join(sorted(taken))} |"
            )
    return lines
