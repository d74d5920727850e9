"""The commands that render."""

import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from glintor.cli.options import (
    encoding,
    encoding_options,
    footage_told,
    parser,
    progress,
    size_px,
    sound_numbers,
    steady_option,
    steady_turns,
    told_options,
    view_options,
)
from glintor.errors import InputError

if TYPE_CHECKING:
    from glintor.export.render import RenderResult
    from glintor.project.model import Film, Project
    from glintor.project.take import Take
    from glintor.reframing.cut import Cut


def reframe(words: list[str]) -> int:
    read = parser(
        "reframe", "Render one flat film from a sphere along a path, or with --whole the sphere itself, unrolled."
    )
    read.add_argument("source", type=Path, metavar="IN.mp4")
    read.add_argument("target", type=Path, metavar="OUT.mp4")
    what = read.add_mutually_exclusive_group(required=True)
    what.add_argument("--path", type=Path, metavar="PATH.csv", help="time_s,yaw_deg,pitch_deg,roll_deg,fov_deg,bend")
    what.add_argument(
        "--whole", action="store_true", help="the whole sphere, joined from its lenses and held still as told"
    )
    read.add_argument("--size", metavar="WxH", help="1920x1080 without it; of a whole sphere its own width")
    read.add_argument("--in", dest="in_s", type=float, default=0.0, metavar="S")
    read.add_argument("--out", dest="out_s", type=float, default=float("inf"), metavar="S")
    read.add_argument("--fast", action="store_true", help="bilinear instead of cubic resampling")
    told_options(read)
    steady_option(read)
    encoding_options(read)
    chosen = read.parse_args(words)
    sound_numbers(in_s=chosen.in_s, out_s=0.0 if chosen.out_s == float("inf") else chosen.out_s)
    from glintor.export.film import Output, sphere_film
    from glintor.export.render import render, render_films
    from glintor.pixels.reproject import Filter
    from glintor.reframing.course import Course
    from glintor.reframing.path import ViewPath
    from glintor.reframing.table import read_path

    keys = read_path(chosen.path) if chosen.path is not None else []
    footage = footage_told(chosen, chosen.source)
    footage, turns = steady_turns(chosen, footage)
    quality = Filter.FAST if chosen.fast else Filter.FINE
    if chosen.whole:
        wide = footage.sphere_px // 4 * 4
        size = size_px(chosen.size or f"{wide}x{wide // 2}")
        film = sphere_film(
            footage,
            chosen.target,
            size,
            turns=turns,
            encoding=encoding(chosen),
            start_s=chosen.in_s,
            end_s=chosen.out_s,
            quality=quality,
        )
        _tell([(chosen.target, render_films([film], report=progress)[0])])
        return 0
    end = min(chosen.out_s, footage.duration_s)
    output = Output(
        target=chosen.target,
        size_px=size_px(chosen.size or "1920x1080"),
        course=Course(ViewPath(keys, (chosen.in_s, end)), turns=turns),
        encoding=encoding(chosen),
        quality=quality,
    )
    result = render(footage, [output], start_s=chosen.in_s, end_s=chosen.out_s, report=progress)
    _tell([(chosen.target, result)])
    return 0


def still(words: list[str]) -> int:
    read = parser("still", "Render one flat picture from a sphere: a photo, or a moment of a clip.")
    read.add_argument("source", type=Path, metavar="IN")
    read.add_argument("target", type=Path, metavar="OUT.png")
    view_options(read)
    read.add_argument("--size", default="1920x1080", metavar="WxH")
    read.add_argument("--at", type=float, default=0.0, metavar="S", help="moment of a clip in seconds")
    told_options(read)
    steady_option(read)
    chosen = read.parse_args(words)
    sound_numbers(at_s=chosen.at, yaw_deg=chosen.yaw, roll_deg=chosen.roll)
    from glintor.export.still import still
    from glintor.sphere.turn import turned
    from glintor.sphere.view import View

    view = View(yaw_deg=chosen.yaw, pitch_deg=chosen.pitch, roll_deg=chosen.roll, fov_deg=chosen.fov, bend=chosen.bend)
    footage = footage_told(chosen, chosen.source)
    footage, turns = steady_turns(chosen, footage)
    sight = view if turns is None else turned(view, turns.at(chosen.at))
    still(footage, sight, size_px(chosen.size), chosen.target, at_s=chosen.at)
    print(chosen.target)
    return 0


def export(words: list[str]) -> int:
    read = parser("export", "Render the cuts of a project, or a film that joins them, as flat films.")
    read.add_argument("file", type=Path)
    only = read.add_mutually_exclusive_group()
    only.add_argument("--cut", metavar="NAME", help="only the cut of this name or id")
    only.add_argument("--film", metavar="NAME", help="the film of this name or id: its cuts in a row")
    read.add_argument("--format", metavar="16:9", help="only this format (16:9 and 9:16 without it)")
    read.add_argument("--to", type=Path, required=True, metavar="DIR")
    read.add_argument("--lenses", type=Path, metavar="PROFILE.json", help="lens profile for the takes of fisheyes")
    steady_option(read)
    encoding_options(read)
    chosen = read.parse_args(words)
    from glintor.export.cut import Form, Wanted, render_cuts, render_joined, target_file
    from glintor.export.formats import USUAL, format_by_name
    from glintor.project.store import footage_of, read_project

    project, packing = _held(read_project(chosen.file), chosen.lenses, chosen.steady), encoding(chosen)
    shapes = [format_by_name(chosen.format)] if chosen.format else list(USUAL)

    def forms(what: "Cut | Film") -> list[Form]:
        return [Form(s, target_file(chosen.to, chosen.file, what, s, packing.suffix), packing) for s in shapes]

    if chosen.film is not None:
        films = [film for film in project.films if chosen.film in (film.name, film.id)]
        _need(films, f"film {chosen.film}", chosen.file, [film.name for film in project.films])
        for film in films:
            done = render_joined(chosen.file, project, film, forms(film), report=progress)
            _tell([(form.target, done) for form in forms(film)])
        return 0
    cuts = [(s, c) for s in project.shots for c in s.cuts if chosen.cut in (None, c.name, c.id)]
    _need(cuts, f"cut {chosen.cut or ''}", chosen.file, [c.name for s in project.shots for c in s.cuts])
    keep = footage_of(chosen.file, project.shots)
    for shot in {s.id: s for s, _ in cuts}.values():
        wanted = [Wanted(cut, form) for s, cut in cuts if s.id == shot.id for form in forms(cut)]
        results = render_cuts(chosen.file, shot, wanted, keep=keep, project=project, report=progress)
        _tell([(w.form.target, results[w.cut.id]) for w in wanted])
    return 0


def _held(project: "Project", lenses: Path | None, steady: str | None) -> "Project":
    """The day with all takes drawn by a profile, and held another way; keyframes are then meant in that frame as they are."""
    from msgspec.structs import replace

    from glintor.media.lens_profile import read_lenses
    from glintor.project.take import Steady

    profile = read_lenses(lenses) if lenses is not None else None

    def take_with(take: "Take") -> "Take":
        if profile is not None and take.told in ("side", "under", "streams", "files", "lens"):
            take = replace(take, lenses=profile)
        return take if steady is None else replace(take, steady=Steady(mode=steady))  # type: ignore[arg-type]

    shots = tuple(replace(s, takes=tuple(take_with(t) for t in s.takes)) for s in project.shots)
    return replace(project, shots=shots)


def _need(found: Sequence[object], what: str, file: Path, there: list[str]) -> None:
    if not found:
        raise InputError(f"There is no {what} in {file.name}.", advice=f"There are: {', '.join(there) or 'none yet'}.")


def _tell(written: "Sequence[tuple[Path, RenderResult]]") -> None:
    """What went amiss once each, then every film."""
    for note in {note: None for _, result in written for note in result.notes}:
        print(f"glintor: {note}", file=sys.stderr)
    for target, result in written:
        print(f"{target}: {result.frames} frames, {result.duration_s:.3f} s")
