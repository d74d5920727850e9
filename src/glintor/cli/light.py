"""The commands that measure and merge light."""

import json
import sys
from pathlib import Path

import msgspec

from glintor.cli.options import parser, progress


def hdr(words: list[str]) -> int:
    read = parser("hdr", "Merge a series of exposures of one sphere into its light.")
    read.add_argument(
        "files", nargs="+", type=Path, metavar="FILE", help="the series, then OUT.exr, .hdr, .jpg or .tif"
    )
    read.add_argument(
        "--curve", default="", choices=("", "display", "log"), help="of the photos; guessed where it is not given"
    )
    chosen = read.parse_args(words)
    from glintor.errors import InputError
    from glintor.exposure.hdr import merge_series
    from glintor.exposure.hdr_files import KINDS, in_words, write_merged
    from glintor.files import refuse_sources

    *files, target = chosen.files
    if target.suffix.lower() not in (*KINDS, ".jpeg", ".tiff"):
        raise InputError(
            f"A merged sphere is not written as {target.name}.", advice=f"End with a file of {', '.join(KINDS)}."
        )
    refuse_sources(target, files)
    merged = merge_series(files, curve=chosen.curve, report=progress)
    write_merged(merged, target, files)
    print("\n".join(in_words(merged)))
    return 0


def meter(words: list[str]) -> int:
    read = parser("meter", "Measure the light of a sphere: a photo, a picture of light, or the first frame of a clip.")
    read.add_argument("file", type=Path, metavar="FILE")
    read.add_argument("--curve", default="", choices=("", "display", "log", "linear"))
    read.add_argument("--ev", type=float, help="EV100 that it was exposed for, where its file does not say")
    read.add_argument("--json", action="store_true")
    chosen = read.parse_args(words)
    from glintor.exposure.frame_light import read_frame, reading_of

    reading = reading_of(read_frame(chosen.file, chosen.curve, chosen.ev))
    known = reading.ev100
    rows: list[tuple[str, float | str | None, str]] = [
        ("curve", reading.curve, ""),
        ("curve_known_by", reading.known_by, ""),
        ("exposed_for", known, "EV100"),
        ("mean", reading.mean_stops, "stops from mid grey"),
        ("front", reading.front_stops, "stops from mid grey"),
        ("rear", reading.rear_stops, "stops from mid grey"),
        *((f"percentile_{q:g}", value, "stops from mid grey") for q, value in reading.percentiles),
        ("clipped", 100.0 * reading.clipped_share, "% of the sphere"),
        ("clipped_front", 100.0 * reading.clipped_front, "% of the front lens"),
        ("clipped_rear", 100.0 * reading.clipped_rear, "% of the rear lens"),
        ("shift_for_highlights", reading.shift_stops, "stops, at least" if reading.shift_at_least else "stops"),
    ]
    if known is not None:
        rows += [
            (f"{name}_ev100", known + value, "EV100")
            for name, value in (
                ("mean", reading.mean_stops),
                ("front", reading.front_stops),
                ("rear", reading.rear_stops),
            )
        ]
    if chosen.json:
        out = {name: {"value": value, "unit": unit} if unit else value for name, value, unit in rows}
        sys.stdout.write(msgspec.json.format(json.dumps(out), indent=2) + "\n")
        return 0
    for name, value, unit in rows:
        said = "not known" if value is None else value if isinstance(value, str) else f"{value:.2f}"
        print(f"{name.replace('_', ' '):24}{said} {unit if value is not None else ''}".rstrip())
    return 0
