"""Measures what the engine promises and writes docs/benchmarks.md: python -m bench.run [--runs N] [--only PART].

floor   ffmpeg decoding the same source and encoding an equally large picture with the same encoder settings, without
        reprojection (scaled by nearest neighbour, the cheapest way to that size)
v360    ffmpeg's v360 filter: with a still view, and with its view moved each frame by absolute yaw and pitch, for which
        the filter is set anew

Figures are medians; the runs of the candidates alternate, so that a machine that slows down slows all of them.
"""

import argparse
import os
import platform
import tempfile
from collections.abc import Callable
from pathlib import Path

from bench import (
    engine,
    flat_films,
    large,
    lenses,
    light,
    memory,
    offload,
    path,
    quality,
    simulated,
    start,
    tracking,
    window,
)
from bench.source import make_source

PARTS: dict[str, Callable[[Path, int], list[str]]] = {
    "engine": engine.report,
    "four": engine.report_four,
    "proxy": engine.report_proxy,
    "quality": quality.report,
    "memory": memory.report,
    "window": window.report,
    "large": large.report,
    "flat": lambda _source, _runs: flat_films.report(),
    "start": start.report,
    "simulation": simulated.report,
    "light": light.report,
    "lenses": lenses.report,
    "tracking": tracking.report,
    "path": path.report,
    "offload": lambda _source, runs: offload.report(2_000_000_000, min(runs, 3)),
    "long": memory.report_long,
}
_APART = ("long",)  # takes an hour or so; only where asked for
DOC = Path(__file__).parents[1] / "docs" / "benchmarks.md"


def machine() -> str:
    lines = Path("/proc/cpuinfo").read_text().splitlines()
    model = next((line.split(":")[1].strip() for line in lines if "model name" in line), "?")
    return f"{os.cpu_count()} cores, {model}, Linux {platform.release()}, Python {platform.python_version()}"


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--runs", type=int, default=5)
    options.add_argument("--seconds", type=float, default=3.0)
    options.add_argument("--only", choices=PARTS, help="one part, printed and not written")
    options.add_argument("--source", type=Path, help="keep the source here for the next time")
    chosen = options.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_CACHE_HOME"] = folder
        source = chosen.source or Path(folder) / "source.mp4"
        if not source.exists():
            print("making the source", flush=True)
            make_source(source, chosen.seconds)
        parts = [chosen.only] if chosen.only else [part for part in PARTS if part not in _APART]
        lines = [
            "# Benchmarks",
            "",
            "Written by `make bench`; ratios between things measured side by side in one run; medians, least and most.",
            f"Source: 5760x2880, 24 fps, 100 Mbit/s, {chosen.seconds:g} s (bench/source.py). Machine: {machine()}.",
        ]
        for part in parts:
            lines += ["", *PARTS[part](source, chosen.runs)]
            if not chosen.only:
                DOC.write_text("\n".join(lines) + "\n")  # after each part: the whole takes half an hour
    print("\n".join(lines))


if __name__ == "__main__":
    main()
