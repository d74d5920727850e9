"""Measures the render engine against its floor and writes docs/benchmarks.md: python -m bench.run [--runs N].

floor   ffmpeg decoding the same source and encoding an equally large picture with the same encoder settings,
        without reprojection (scaled by nearest neighbour, the cheapest way to that size)
v360    ffmpeg's v360 filter with a still view

Figures are medians; the runs of the candidates alternate, so that a machine that slows down slows all of them.
"""

import argparse
import os
import platform
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from pathlib import Path

ROOT = Path(__file__).parents[1]
GLINTOR = str(Path(sys.executable).parent / "glintor")
ENCODE = ["-c:v", "libx264", "-preset", "veryfast", "-crf", "19", "-pix_fmt", "yuv420p"]
PATH_CSV = """time_s,yaw_deg,pitch_deg,roll_deg,fov_deg,bend
0,-60,0,0,100,0.15
{half},40,-15,5,90,0.1
{end},120,10,0,100,0.15
"""


def make_source(path: Path, seconds: float) -> None:
    """A textured, moving 5760x2880 sphere at about 100 Mbit/s."""
    picture = "testsrc2=s=5760x2880:r=24,noise=alls=18:allf=t"
    command = [
        "ffmpeg",
        "-v",
        "error",
        "-y",
        "-f",
        "lavfi",
        "-i",
        picture,
        "-f",
        "lavfi",
        "-i",
        "sine=440:r=48000",
        "-t",
        f"{seconds}",
    ]
    command += [
        "-c:v",
        "libx264",
        "-preset",
        "ultrafast",
        "-b:v",
        "100M",
        "-maxrate",
        "110M",
        "-bufsize",
        "100M",
        "-pix_fmt",
        "yuv420p",
    ]
    subprocess.run([*command, "-c:a", "aac", str(path)], check=True)


def seconds_of(command: Sequence[str]) -> float:
    began = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    return time.perf_counter() - began


def peak_mb(command: Sequence[str]) -> float:
    """Largest resident memory of a command, megabytes."""
    code = "import resource, subprocess, sys; subprocess.run(sys.argv[1:], check=True, stdout=subprocess.DEVNULL); "
    code += "print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss)"
    done = subprocess.run([sys.executable, "-c", code, *command], check=True, capture_output=True, text=True)
    return float(done.stdout.split()[-1]) / 1024.0


def in_process(source: Path, path_csv: Path, target: Path, quality: str) -> Callable[[], float]:
    """Renders inside this process, so that starting Python and loading compiled code is not counted."""
    from glintor.export.render import Output, render
    from glintor.media.write import Encoding
    from glintor.pixels.reproject import Filter
    from glintor.reframing.path import ViewPath
    from glintor.reframing.table import read_path

    output = Output(
        target=target,
        size_px=(1920, 1080),
        path=ViewPath(read_path(path_csv)),
        encoding=Encoding(crf=19),
        quality=Filter[quality],
    )

    def run() -> float:
        began = time.perf_counter()
        render(source, [output])
        return time.perf_counter() - began

    return run


def machine() -> str:
    model = next(
        (line.split(":")[1].strip() for line in Path("/proc/cpuinfo").read_text().splitlines() if "model name" in line),
        "?",
    )
    return f"{os.cpu_count()} cores, {model}, Linux {platform.release()}, Python {platform.python_version()}"


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--runs", type=int, default=5)
    options.add_argument("--seconds", type=float, default=4.0)
    chosen = options.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        work = Path(folder)
        source, long_source, path_csv, target = work / "in.mp4", work / "long.mp4", work / "path.csv", work / "out.mp4"
        print("making the sources")
        make_source(source, chosen.seconds)
        path_csv.write_text(PATH_CSV.format(half=chosen.seconds / 2, end=chosen.seconds))
        base = ["ffmpeg", "-v", "error", "-y", "-i", str(source)]
        floor = [*base, "-vf", "scale=1920:1080:flags=neighbor", *ENCODE, "-c:a", "aac", str(target)]
        v360 = [
            *base,
            "-vf",
            "v360=e:flat:w=1920:h=1080:h_fov=100:v_fov=67.7:interp=cubic",
            *ENCODE,
            "-c:a",
            "aac",
            str(target),
        ]
        reframe = [GLINTOR, "reframe", str(source), "--path", str(path_csv), "--size", "1920x1080", str(target)]
        candidates: dict[str, Callable[[], float]] = {
            "floor: ffmpeg decode and encode": lambda: seconds_of(floor),
            "v360, still view": lambda: seconds_of(v360),
            "glintor reframe, moving view (the whole command)": lambda: seconds_of(reframe),
            "render engine, cubic, moving view": in_process(source, path_csv, target, "FINE"),
            "render engine, bilinear, moving view": in_process(source, path_csv, target, "FAST"),
        }
        times: dict[str, list[float]] = {name: [] for name in candidates}
        for number in range(chosen.runs + 1):
            for name, run in candidates.items():
                spent = run()
                if number:
                    times[name].append(spent)
                print(f"{number if number else 'warm-up'} {name}: {spent:.2f} s", flush=True)
        make_source(long_source, chosen.seconds * 4)
        memory = [peak_mb([*reframe[:2], str(s), *reframe[3:]]) for s in (source, long_source)]
    write(times, memory, chosen.seconds)


def write(times: dict[str, list[float]], memory: list[float], seconds: float) -> None:
    floor = statistics.median(next(iter(times.values())))
    lines = [
        "# Benchmarks",
        "",
        "Written by `make bench`. Ratios to the floor, measured side by side in one run; medians, least and most.",
        f"Source: 5760x2880, 24 fps, about 100 Mbit/s, {seconds:g} s; output 1920x1080, x264 veryfast, crf 19.",
        f"Machine: {machine()}.",
        "",
        "| what | median s | least | most | ratio to the floor |",
        "|---|---|---|---|---|",
    ]
    for name, spent in times.items():
        middle = statistics.median(spent)
        lines.append(f"| {name} | {middle:.2f} | {min(spent):.2f} | {max(spent):.2f} | {middle / floor:.2f} |")
    lines += [
        "",
        f"Peak memory of `glintor reframe`: {memory[0]:.0f} MB for {seconds:g} s of source, {memory[1]:.0f} MB for {4 * seconds:g} s.",
        "",
    ]
    (ROOT / "docs" / "benchmarks.md").write_text("\n".join(lines))
    print("\n".join(lines))


if __name__ == "__main__":
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    main()
