"""Memory of an export: of one of 5.7K at its own speed, and along a long source."""

import subprocess
import sys
import tempfile
from pathlib import Path

_CODE = """
import sys, threading, resource
from pathlib import Path
from glintor.export.render import Film, Output, render_films
from glintor.media.encoding import Encoding
from glintor.reframing.path import Keyframe, ViewPath
from glintor.reframing.retime import Stretch
source, target, speed = Path(sys.argv[1]), Path(sys.argv[2]), float(sys.argv[3])
def resident():
    pages = int(Path('/proc/self/statm').read_text().split()[1])
    return pages * resource.getpagesize() / 1e6
marks = {}
def report(share):
    marks[int(share * 4)] = resident()
output = Output(target=target, size_px=(1920, 1080), path=ViewPath([Keyframe(time_s=0)]), encoding=Encoding(crf=19))
stretches = (Stretch(start_s=0, end_s=1e5, speed=speed),) if speed != 1 else ()
render_films(source, [Film(outputs=(output,), stretches=stretches, average=False)], report=report)
status = Path('/proc/self/status').read_text()  # ru_maxrss would count the process that started this one
peak = int(status.split("VmHWM:")[1].split()[0]) * 1024 / 1e6
print(' '.join(f'{marks[k]:.0f}' for k in sorted(marks)[:4]), f'{peak:.0f}')
"""


def _run(source: Path, target: Path, speed: float) -> list[str]:
    command = [sys.executable, "-c", _CODE, str(source), str(target), str(speed)]
    return subprocess.run(command, check=True, capture_output=True, text=True).stdout.split()


def report(source: Path, _runs: int) -> list[str]:
    """The long source is the source repeated without coding it again, shown at 64 times, which passes along all of it."""
    lines = ["## Memory", "", "| what | MB in the quarters of the work | peak MB |", "|---|---|---|"]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for words, seconds, speed in (("source as it is", 0, 1), ("15 s", 15, 1), ("4 min at 64 times", 240, 64)):
            clip = source
            if seconds:
                clip = folder / f"{seconds}.mp4"
                command = ["ffmpeg", "-v", "error", "-y", "-stream_loop", "-1", "-i", str(source), "-t", f"{seconds}"]
                subprocess.run([*command, "-map", "0:v", "-c", "copy", str(clip)], check=True)
            *quarters, peak = _run(clip, folder / "out.mp4", speed)
            lines.append(f"| {words} | {', '.join(quarters)} | {peak} |")
            print(lines[-1], flush=True)
    return lines
