"""The command `glintor`: opens the window, or does one job with the same code as the window.

Exit code 0 when done; 2 for bad input and 1 for work that failed, each with a message on standard error.
"""

import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from glintor import __version__
from glintor.errors import GlintorError, InputError
from glintor.quantities import absurd

if TYPE_CHECKING:
    import argparse


def main(arguments: Sequence[str] | None = None) -> int:
    """Runs one command and returns its exit code."""
    words = list(sys.argv[1:] if arguments is None else arguments)
    commands = {"demo": _demo, "reframe": _reframe, "still": _still, "export": _export, "check": _check}
    try:
        if words and words[0] in commands:
            done = commands[words[0]](words[1:])
            compiling = sys.modules.get("glintor.pixels.compiling")
            if compiling is not None and compiling.Kernels.words:
                print(f"glintor: {compiling.Kernels.words}.", file=sys.stderr)
            return done
        return _window(words)
    except GlintorError as error:
        print(f"glintor: {error}", file=sys.stderr)
        return error.exit_code
    except BrokenPipeError:  # whoever read the words has seen enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except Exception as error:
        from glintor.report import fault, log_file

        print(f"glintor: {fault(' '.join(['The command', *words[:1]]), error)} It is in {log_file()}.", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        print("glintor: stopped. Nothing half written is left.", file=sys.stderr)
        return 1


def _parser(name: str, words: str) -> "argparse.ArgumentParser":
    import argparse  # the window opens without it

    return argparse.ArgumentParser(prog=f"glintor {name}".strip(), description=words)


def size_px(text: str) -> tuple[int, int]:
    """A size such as 1920x1080. Raises InputError."""
    try:
        width, height = (int(part) for part in text.lower().split("x"))
    except ValueError as error:
        raise InputError(f"{text} is not a size.", advice="Write it as 1920x1080.") from error
    if not (16 <= width <= 16384 and 16 <= height <= 16384):
        raise InputError(f"{text} is out of range.", advice="Use 16 to 16384 pixels each way.")
    return width, height


def _mbit(text: str) -> float:
    value = text.strip().upper().removesuffix("BIT/S").strip()
    factor = {"M": 1.0, "K": 1e-3}.get(value[-1:], 1e-6)
    try:
        rate = float(value.rstrip("MK")) * factor
    except ValueError as error:
        raise InputError(f"{text} is not a bit rate.", advice="Write it as 50M.") from error
    if absurd("mbit_s", rate) is not None:
        raise InputError(f"{text} is not a bit rate.", advice="Write it as 50M.")
    return rate


def _sound_numbers(**values: float) -> None:
    """Raises InputError for the first number that cannot be."""
    for name, value in values.items():
        wrong = absurd(name, value)
        if wrong is not None:
            raise InputError(f"{wrong}.", advice="Give a plain number.")


def _progress(share: float) -> None:
    if sys.stderr.isatty():
        print(f"\r{share:4.0%}", end="\n" if share >= 1.0 else "", file=sys.stderr, flush=True)


class Asked(NamedTuple):
    """What a call without a command asks of the window."""

    files: tuple[str, ...] = ()
    demo: bool = False
    close_after: float | None = None


def asked(words: list[str]) -> Asked:
    """Reads the call; the usual one, with a project or nothing, needs no parser, which would hold the window up."""
    if not any(word.startswith("-") for word in words):
        return Asked(tuple(words))
    parser = _parser("", "Plan, expose, record, offload, reframe and export 360 footage.")
    parser.add_argument(
        "files",
        nargs="*",
        help="day to open (.glintor), or films, photos and folders to begin one with; without it the last day",
    )
    parser.add_argument("--demo", action="store_true", help="open the demo day")
    parser.add_argument("--close-after", type=float, metavar="S", help="close the window by itself after S seconds")
    parser.add_argument("--version", action="version", version=f"glintor {__version__}")
    parser.epilog = "Other commands: demo, reframe, still, export, check; each has --help."
    chosen = parser.parse_args(words)
    return Asked(tuple(chosen.files), chosen.demo, chosen.close_after)


def _window(words: list[str]) -> int:
    wanted = asked(words)
    from glintor.desktop.app import run

    return run(wanted.files, demo=wanted.demo, close_after_s=wanted.close_after)


def _demo(words: list[str]) -> int:
    parser = _parser("demo", "Write the demo day (project, card and footage) into a folder.")
    parser.add_argument("folder", type=Path)
    chosen = parser.parse_args(words)
    from glintor.demo.day import PROJECT_NAME, write_demo_day

    there = (chosen.folder / PROJECT_NAME).exists()
    print(write_demo_day(chosen.folder, _progress))
    if there:
        print("glintor: a day lies there already; it was left as it is.", file=sys.stderr)
    return 0


def _encoding_options(parser: "argparse.ArgumentParser") -> None:
    group = parser.add_mutually_exclusive_group()
    group.add_argument("--bitrate", metavar="50M", help="bit rate of the picture")
    group.add_argument("--crf", type=int, metavar="N", help="constant quality, 0 (lossless) to 51; 19 without either")
    parser.add_argument("--preset", default="veryfast", help="how long the encoder thinks (default veryfast)")
    parser.add_argument("--codec", default="h264", help="h264, h265, h265-10, prores or ffv1 (default h264)")
    parser.add_argument("--pcm", action="store_true", help="uncompressed sound (ProRes and FFV1 only)")


def _encoding(chosen: "argparse.Namespace"):  # type: ignore[no-untyped-def]
    from glintor.media.encoding import Encoding

    mbit = _mbit(chosen.bitrate) if chosen.bitrate else None
    crf = 19 if chosen.crf is None else chosen.crf
    return Encoding(mbit_s=mbit, crf=crf, preset=chosen.preset, codec=chosen.codec, pcm=chosen.pcm)


def _told_options(parser: "argparse.ArgumentParser") -> None:
    group = parser.add_mutually_exclusive_group()
    group.add_argument("--as-sphere", action="store_true", help="take the picture for a full sphere whatever its shape")
    group.add_argument("--as-half", action="store_true", help="take the picture for one lens's half, unrolled")


def _told(chosen: "argparse.Namespace"):  # type: ignore[no-untyped-def]
    from glintor.sphere.equirect import TOLD

    return TOLD.get("sphere" if chosen.as_sphere else "half" if chosen.as_half else "")


def _view_options(parser: "argparse.ArgumentParser") -> None:
    for name, default, words in (
        ("yaw", 0.0, "degrees, positive right"),
        ("pitch", 0.0, "degrees, positive up"),
        ("roll", 0.0, "degrees, clockwise"),
        ("fov", 100.0, "full horizontal angle of the frame in degrees"),
        ("bend", 0.15, "curvature: 0 straight, 1 planet, over 1 a ball"),
    ):
        parser.add_argument(f"--{name}", type=float, default=default, help=f"{words} (default {default:g})")


def _reframe(words: list[str]) -> int:
    parser = _parser("reframe", "Render one flat film from a sphere along a path.")
    parser.add_argument("source", type=Path, metavar="IN.mp4")
    parser.add_argument("target", type=Path, metavar="OUT.mp4")
    parser.add_argument(
        "--path", type=Path, required=True, metavar="PATH.csv", help="time_s,yaw_deg,pitch_deg,roll_deg,fov_deg,bend"
    )
    parser.add_argument("--size", default="1920x1080", metavar="WxH")
    parser.add_argument("--in", dest="in_s", type=float, default=0.0, metavar="S")
    parser.add_argument("--out", dest="out_s", type=float, default=float("inf"), metavar="S")
    parser.add_argument("--fast", action="store_true", help="bilinear instead of cubic resampling")
    _told_options(parser)
    _encoding_options(parser)
    chosen = parser.parse_args(words)
    _sound_numbers(in_s=chosen.in_s, out_s=0.0 if chosen.out_s == float("inf") else chosen.out_s)
    from glintor.export.film import Output
    from glintor.export.render import render
    from glintor.media.footage import open_footage
    from glintor.pixels.reproject import Filter
    from glintor.reframing.course import Course
    from glintor.reframing.path import ViewPath
    from glintor.reframing.table import read_path

    keys = read_path(chosen.path)
    footage = open_footage(chosen.source, _told(chosen))
    end = min(chosen.out_s, footage.duration_s)
    output = Output(
        target=chosen.target,
        size_px=size_px(chosen.size),
        course=Course(ViewPath(keys, (chosen.in_s, end))),
        encoding=_encoding(chosen),
        quality=Filter.FAST if chosen.fast else Filter.FINE,
    )
    result = render(footage, [output], start_s=chosen.in_s, end_s=chosen.out_s, report=_progress)
    for note in result.notes:
        print(f"glintor: {note}", file=sys.stderr)
    print(f"{chosen.target}: {result.frames} frames, {result.duration_s:.3f} s")
    return 0


def _still(words: list[str]) -> int:
    parser = _parser("still", "Render one flat picture from a sphere: a photo, or a moment of a clip.")
    parser.add_argument("source", type=Path, metavar="IN")
    parser.add_argument("target", type=Path, metavar="OUT.png")
    _view_options(parser)
    parser.add_argument("--size", default="1920x1080", metavar="WxH")
    parser.add_argument("--at", type=float, default=0.0, metavar="S", help="moment of a clip in seconds")
    _told_options(parser)
    chosen = parser.parse_args(words)
    _sound_numbers(at_s=chosen.at, yaw_deg=chosen.yaw, roll_deg=chosen.roll)
    from glintor.export.still import still
    from glintor.sphere.view import View

    view = View(yaw_deg=chosen.yaw, pitch_deg=chosen.pitch, roll_deg=chosen.roll, fov_deg=chosen.fov, bend=chosen.bend)
    still(chosen.source, view, size_px(chosen.size), chosen.target, at_s=chosen.at, told=_told(chosen))
    print(chosen.target)
    return 0


def _export(words: list[str]) -> int:
    parser = _parser("export", "Render the cuts of a project as flat films.")
    parser.add_argument("file", type=Path)
    parser.add_argument("--cut", metavar="NAME", help="only the cut of this name or id")
    parser.add_argument("--format", metavar="16:9", help="only this format (16:9 and 9:16 without it)")
    parser.add_argument("--to", type=Path, required=True, metavar="DIR")
    _encoding_options(parser)
    chosen = parser.parse_args(words)
    from glintor.export.cut import Wanted, render_cuts, target_file
    from glintor.export.formats import USUAL, format_by_name
    from glintor.project.store import footage_of, read_project

    project = read_project(chosen.file)
    keep = footage_of(chosen.file, project.shots)
    shapes = [format_by_name(chosen.format)] if chosen.format else list(USUAL)
    cuts = [(s, c) for s in project.shots for c in s.cuts if chosen.cut in (None, c.name, c.id)]
    if not cuts:
        known = ", ".join(c.name for s in project.shots for c in s.cuts) or "none yet"
        raise InputError(f"There is no cut {chosen.cut or ''} in {chosen.file.name}.", advice=f"Cuts: {known}.")
    packing = _encoding(chosen)
    for shot in {s.id: s for s, _ in cuts}.values():
        wanted = [
            Wanted(cut, shape, target_file(chosen.to, chosen.file, cut, shape, packing.suffix), packing)
            for s, cut in cuts if s.id == shot.id for shape in shapes
        ]  # fmt: skip
        results = render_cuts(chosen.file, shot, wanted, keep=keep, report=_progress)
        for note in {note: None for result in results.values() for note in result.notes}:
            print(f"glintor: {note}", file=sys.stderr)
        for w in wanted:
            print(f"{w.target}: {results[w.cut.id].frames} frames, {results[w.cut.id].duration_s:.3f} s")
    return 0


def _check(words: list[str]) -> int:
    parser = _parser("check", "Print everything found about the shots of a project.")
    parser.add_argument("file", type=Path)
    parser.add_argument("--json", action="store_true", help="print the findings as JSON")
    chosen = parser.parse_args(words)
    from glintor.finding import worst_first
    from glintor.plan.timetable import time_findings
    from glintor.project.store import read_project
    from glintor.review import findings

    project = read_project(chosen.file)
    table = {
        shot.id: worst_first(
            findings(project, shot, chosen.file) + (time_findings(project, shot) if shot in project.planned else [])
        )
        for shot in project.shots
    }
    if chosen.json:
        import json

        print(json.dumps({shot: [_plain(f) for f in found] for shot, found in table.items()}, indent=2))
        return 0
    for shot in project.shots:
        print(shot.name + ("" if shot in project.planned else ": not planned, so only its recordings are looked at"))
        for found in table[shot.id]:
            when = "" if found.start_s != found.start_s else f" {found.start_s:.1f} to {found.end_s:.1f} s"
            print(f"  {found.level.word:8}{found.desk:9}{found.title}{when}: {found.measure or '-'}. {found.reason}")
    return 0


def _plain(finding: object) -> dict[str, object]:
    """A finding as JSON values; a number that is not there is null."""
    import msgspec

    values = msgspec.to_builtins(finding)
    values["level"] = finding.level.word  # type: ignore[attr-defined]
    return {name: None if isinstance(value, float) and value != value else value for name, value in values.items()}


if __name__ == "__main__":
    sys.exit(main())
