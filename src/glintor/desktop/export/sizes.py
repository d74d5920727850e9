"""How large films will be, measured when asked."""

from collections.abc import Callable, Iterable
from threading import Event

from glintor.desktop.document import Document
from glintor.desktop.jobs import Jobs
from glintor.export.formats import Format
from glintor.export.probe import probed_bytes
from glintor.media.encoding import Encoding
from glintor.project.model import Shot
from glintor.reframing.cut import Cut
from glintor.types import Report

_Key = tuple[str, Cut, str, Encoding]  # shot's id, the cut as it was, the shape's name, how it is packed


class Sizes:
    """Keeps what was measured as long as cut and packing stay as they were."""

    def __init__(self, document: Document, jobs: Jobs) -> None:
        self._document, self._jobs = document, jobs
        self._known: dict[_Key, int] = {}

    def of(self, shot: Shot, cut: Cut, shape: Format, packing: Encoding) -> int | None:
        """Bytes; None where nobody measured it."""
        return self._known.get((shot.id, cut, shape.name, packing))

    def measure(
        self, films: Iterable[tuple[Shot, Cut, Format]], packing: Encoding, done: Callable[[int], None]
    ) -> None:
        """Measures films as a job; `done` is told how many."""
        file, project = self._document.file, self._document.project
        cuts: dict[tuple[str, str], tuple[Shot, Cut, list[Format]]] = {}
        for shot, cut, shape in films:
            cuts.setdefault((shot.id, cut.id), (shot, cut, []))[2].append(shape)

        def work(report: Report, stop: Event) -> dict[_Key, int]:
            found: dict[_Key, int] = {}
            for number, (shot, cut, shapes) in enumerate(cuts.values()):
                report(number / len(cuts))
                told = probed_bytes(file, project, shot, cut, shapes, packing, stop)
                found |= {(shot.id, cut, name, packing): size for name, size in told.items()}
            return found

        def came(found: dict[_Key, int]) -> None:
            self._known |= found
            done(len(found))

        self._jobs.start("Measuring sizes", work, came)
