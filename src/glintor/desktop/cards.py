"""The shots' cards: their small pictures and findings, worked out one by one in the background."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtGui import QImage

from glintor.desktop.charts import marks
from glintor.desktop.document import Document
from glintor.desktop.jobs import Newest
from glintor.desktop.shot_column import ShotColumn
from glintor.errors import GlintorError
from glintor.finding import Level
from glintor.project.model import Camera, Project, Shot
from glintor.project.site import Site

_Card = tuple[QImage | None, dict[str, Level], float]  # picture, worst finding of each desk, share of its films
_SMALL_PX = (240, 136)
_SPHERE_PX = 420  # of the sphere that a small picture is taken from
_PAUSE_S = 1.0  # a recording that has just come is seen large before it is seen on its card


class ShotCards:
    """Keeps the cards in sight up to date; films: the folder that a day's films go to."""

    def __init__(
        self, document: Document, column: ShotColumn, films: Callable[[], Path], trouble: Callable[[object], object]
    ) -> None:
        self._document, self._column, self._films = document, column, films
        self.known: dict[str, object] = {}
        self._worker = Newest("shot cards", trouble)
        self._worker.finished.connect(self._show)

    @property
    def idle(self) -> bool:
        return self._worker.idle

    @property
    def begun(self) -> bool:
        """Whether its thread was ever needed."""
        return self._worker.begun

    def next(self) -> None:
        """Asks for the next card in sight whose picture or findings are out of date."""
        project, file = self._document.project, self._document.file
        for shot in sorted(self._column.in_sight(), key=lambda s: s.id != self._document.shot.id):
            if self.known.get(shot.id) != (shot, project.site, project.camera_of(shot)):
                work = partial(_card, project, shot, file, self._films())
                pause_s = 0.0 if shot in project.planned else _PAUSE_S
                self._worker.ask((shot, project.site, project.camera_of(shot)), work, pause_s=pause_s)
                return

    def redraw(self) -> None:
        self.known.clear()
        self.next()

    def _show(self, key: tuple[Shot, Site, Camera], card: _Card) -> None:
        shot, (picture, worst, exported) = key[0], card
        self.known[shot.id] = key
        if picture is not None:
            self._column.show_picture(shot.id, picture)
        self._column.show_findings(shot.id, worst, exported)
        self.next()

    def close(self) -> None:
        self._worker.close()


def _card(project: Project, shot: Shot, file: Path, films: Path) -> _Card:
    """A shot's small picture, the worst finding of each desk, and which share of its films is written."""
    from glintor.export.cut import target_file
    from glintor.export.formats import FORMATS
    from glintor.review import findings

    worst: dict[str, Level] = {}
    for finding in findings(project, shot, file):
        worst[finding.desk] = max(worst.get(finding.desk, Level.NOTE), finding.level)
    wanted = [target_file(films, file, cut, shape) for cut in shot.cuts for shape in FORMATS]
    exported = sum(target.exists() for target in wanted) / max(len(wanted), 1)
    return _picture(project, shot, file), worst, exported


def _picture(project: Project, shot: Shot, file: Path) -> QImage | None:
    """The foresight of a planned shot; of another one what was recorded, or nothing."""
    if shot in project.planned:
        from glintor.desktop.place.foresee import frames_of, sphere_of
        from glintor.export.formats import LANDSCAPE
        from glintor.project.placed import plan_of

        begins = shot.opening.view if shot.opening is not None else plan_of(project, shot).start_view
        pixels = sphere_of(shot, project.site, project.camera_of(shot), _SPHERE_PX)
        name = LANDSCAPE.name
        return marks.image(frames_of(pixels, begins, [name], _SMALL_PX[0])[name])
    from glintor.project.pictured import guesses, pictured
    from glintor.project.store import clip_files

    if not shot.takes:
        return None
    take = shot.takes[-1]
    try:
        view = next(iter(guesses(project, shot, take).values()))
        return marks.image(pictured(clip_files(file, take), take, view, size_px=_SMALL_PX, at_s=0.0).flat)
    except GlintorError:
        return None  # its desk says what is wrong with it
