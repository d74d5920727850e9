"""Rendering one cut in several formats from one decode."""

import threading
from collections.abc import Callable, Sequence
from pathlib import Path

from glintor.errors import InputError
from glintor.export.formats import Format, path_for
from glintor.export.render import Output, RenderResult, render
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


def target_file(folder: Path, project_file: Path, cut: Cut, shape: Format) -> Path:
    """The name a film gets: project, cut and format."""
    return folder / f"{project_file.stem}-{cut.id}-{shape.in_file_names}.mp4"


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
    source = clip_file(project_file, take_of(shot, cut.take_id))
    outputs = [
        Output(target=target, size_px=shape.size_px, path=path_for(cut, shape), encoding=encoding)
        for shape, target in wanted
    ]
    return render(source, outputs, start_s=cut.in_s, end_s=cut.out_s, report=report, stop=stop)
