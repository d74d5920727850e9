"""Rendering the cuts of a shot in several formats, those of one take from one decode."""

import threading
from collections.abc import Callable, Sequence
from pathlib import Path

from msgspec import Struct

from glintor.export.film import Film, Output, film_of
from glintor.export.formats import Format, course_for
from glintor.export.render import RenderResult, render_films
from glintor.media.encoding import Encoding
from glintor.media.footage import Footage, open_footage
from glintor.project.identity import proven_clips
from glintor.project.model import Shot, take_of
from glintor.reframing.cut import Cut


def target_file(folder: Path, project_file: Path, cut: Cut, shape: Format, suffix: str = ".mp4") -> Path:
    """The name a film gets: project, cut and format."""
    return folder / f"{project_file.stem}-{cut.id}-{shape.in_file_names}{suffix}"


class Wanted(Struct, frozen=True):
    """One film of a cut: its shape, where it goes and how it is packed."""

    cut: Cut
    shape: Format
    target: Path
    encoding: Encoding


def render_cuts(
    project_file: Path,
    shot: Shot,
    wanted: Sequence[Wanted],
    *,
    keep: Sequence[Path] = (),
    report: Callable[[float], None] = lambda _share: None,
    stop: threading.Event | None = None,
) -> dict[str, RenderResult]:
    """Renders films of a shot, those of one take from one decode; results by the cut's id. Raises as `render` does.

    keep  footage that must not be written over, beside the takes themselves
    """
    cuts = {w.cut.id: w.cut for w in wanted}
    takes = list(dict.fromkeys(cut.take_id for cut in cuts.values()))
    results: dict[str, RenderResult] = {}
    for number, take_id in enumerate(takes):
        take = take_of(shot, take_id)
        mine = [cut for cut in cuts.values() if cut.take_id == take_id]

        def share(of_take: float, number: int = number) -> None:
            report((number + of_take) / len(takes))

        footage = open_footage(proven_clips(project_file, take, stop=stop), take.coverage)
        films = [_film(footage, cut, [w for w in wanted if w.cut.id == cut.id]) for cut in mine]
        done = render_films(films, keep=keep, report=share, stop=stop)
        results |= {cut.id: result for cut, result in zip(mine, done, strict=True)}
    return results


def _film(footage: Footage, cut: Cut, wanted: Sequence[Wanted]) -> Film:
    """What the engine needs to know of a cut."""
    outputs = tuple(
        Output(target=w.target, size_px=w.shape.size_px, course=course_for(cut, w.shape), encoding=w.encoding)
        for w in wanted
    )
    return film_of(
        footage, outputs, start_s=cut.in_s, end_s=cut.out_s, stretches=cut.speeds, average=cut.blur, sound=cut.sound
    )
