"""Memory of an export of 5.7K: a short one, and one along half an hour."""

import subprocess
import sys
import tempfile
from pathlib import Path

_CODE = """
import sys, threading, resource
from pathlib import Path
from glintor.export.film import Output, film_of
from glintor.export.render import render_films
from glintor.media.encoding import Encoding
from glintor.media.footage import open_footage
from glintor.reframing.course import Course
from glintor.reframing.path import Keyframe, ViewPath
source, target, size = Path(sys.argv[1]), Path(sys.argv[2]), (int(sys.argv[3]), int(sys.argv[4]))
def resident():
    pages = int(Path('/proc/self/statm').read_text().split()[1])
    return pages * resource.getpagesize() / 1e6
marks = {}
def report(share):
    marks[int(share * 4)] = resident()
output = Output(target=target, size_px=size, course=Course(ViewPath([Keyframe(time_s=0)])), encoding=Encoding(crf=19))
render_films([film_of(open_footage(source), [output])], report=report)
status = Path('/proc/self/status').read_text()  # ru_maxrss would count the process that started this one
peak = int(status.split("VmHWM:")[1].split()[0]) * 1024 / 1e6
print(' '.join(f'{marks[k]:.0f}' for k in sorted(marks)[:4]), f'{peak:.0f}')
"""


def _run(source: Path, target: Path, size_px: tuple[int, int]) -> list[str]:
    command = [sys.executable, "-c", _CODE, str(source), str(target), *map(str, size_px)]
    return subprocess.run(command, check=True, capture_output=True, text=True).stdout.split()


def report(source: Path, _runs: int) -> list[str]:
    lines = _head("Memory")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for words, seconds in (("source as it is", 0), ("15 s, the source repeated", 15)):
            clip = _repeated(source, folder, seconds) if seconds else source
            lines.append(_row(words, _run(clip, folder / "out.mp4", (1920, 1080))))
    return lines


def report_long(source: Path, _runs: int) -> list[str]:
    """Half an hour of 5.7K at its own speed: a still of the source, which decodes quickly, repeated; a small film."""
    lines = _head("Memory along half an hour")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        still = folder / "still.mp4"
        picture = "select=eq(n\\,0),loop=240:1:0,setpts=N/24/TB"
        command = [
            "ffmpeg",
            "-v",
            "error",
            "-y",
            "-i",
            str(source),
            "-an",
            "-vf",
            picture,
            "-t",
            "10",
            "-r",
            "24",
            "-g",
            "48",
        ]
        subprocess.run([*command, "-c:v", "libx264", "-preset", "ultrafast", "-crf", "32", str(still)], check=True)
        clip = _repeated(still, folder, 1800)
        lines.append(_row("30 min, 43200 frames of 5760x2880 to 640x360", _run(clip, folder / "out.mp4", (640, 360))))
    return lines


def _repeated(source: Path, folder: Path, seconds: int) -> Path:
    clip = folder / f"{seconds}.mp4"
    command = ["ffmpeg", "-v", "error", "-y", "-stream_loop", "-1", "-i", str(source), "-t", f"{seconds}"]
    subprocess.run([*command, "-map", "0:v", "-c", "copy", str(clip)], check=True)
    return clip


def _head(title: str) -> list[str]:
    return [f"## {title}", "", "| what | MB in the quarters of the work | peak MB |", "|---|---|---|"]


def _row(words: str, found: list[str]) -> str:
    *quarters, peak = found
    line = f"| {words} | {', '.join(quarters)} | {peak} |"
    print(line, flush=True)
    return line
