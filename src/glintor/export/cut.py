"""Rendering one cut in several formats from one decode."""

import threading
from collections.abc import Callable, Sequence
from pathlib import Path

from glintor.errors import InputError
from glintor.export.formats import Format, path_for
from glintor.export.render import Film, Output, RenderResult, render_films
from glintor.media.write import Encoding
from glintor.project.model import Cut, Shot, Take, take_of


def clip_file(project_file: Path, take: Take) -> Path:
    """Where the pictures of a take are: the safe copy where there is one, else the card. Raises InputError."""
    for name, folder in ((take.safe_file, project_file.parent), (take.card_file, project_file.parent / "card")):
        if name and (folder / name).exists():
            return folder / name
    raise InputError(
        f"The clip of {take.name} is not where it was.",
        unharmed="The project is unharmed.",
        advice="Put the card or the folder back.",
    )


def target_file(folder: Path, project_file: Path, cut: Cut, shape: Format, suffix: str = ".mp4") -> Path:
    """The name a film gets: project, cut and format."""
    return folder / f"{project_file.stem}-{cut.id}-{shape.in_file_names}{suffix}"


def render_cut(
    project_file: Path,
    shot: Shot,
    cut: Cut,
    wanted: Sequence[tuple[Format, Path]],
    encoding: Encoding,
    *,
    report: Callable[[float], None] = lambda _share: None,
    stop: threading.Event | None = None,
) -> RenderResult:
    """Renders the cut into each wanted (format, target) in one decoding pass. Raises as `render` does."""
    take = take_of(shot, cut.take_id)
    source = clip_file(project_file, take)
    return render_films(source, [film_of(cut, wanted, encoding)], told=take.coverage, report=report, stop=stop)[0]


def film_of(cut: Cut, wanted: Sequence[tuple[Format, Path]], encoding: Encoding) -> Film:
    """What the engine needs to know of a cut."""
    outputs = tuple(
        Output(target=target, size_px=shape.size_px, path=path_for(cut, shape), encoding=encoding)
        for shape, target in wanted
    )
    return Film(
        outputs=outputs, start_s=cut.in_s, end_s=cut.out_s, stretches=cut.speeds, average=cut.blur, sound=cut.sound
    )
