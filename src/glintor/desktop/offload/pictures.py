"""Small pictures of takes, made one after the other on a thread of low priority; those in sight first."""

import contextlib
import os
import threading
from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QImage

from glintor.desktop.charts import marks
from glintor.errors import GlintorError
from glintor.project.model import Project, Shot
from glintor.project.take import Take
from glintor.report import in_words

_NICE = 10
_MOST = 4000  # kept at a time: of a day with more the oldest are made anew


class Wanted(Struct, frozen=True):
    """A picture that is asked for: of which entry, out of what. shot: that the take belongs to, None where the day does not have it."""

    key: str
    files: tuple[Path, ...]
    take: Take
    project: Project
    shot: Shot | None

    @property
    def made_of(self) -> object:
        """What the picture depends on, as far as it is known without looking at a disk: it is made anew where this changes."""
        take, shot = self.take, self.shot
        holds = tuple(file.quick for file in take.files)
        looks = None
        if shot is not None:
            cut = next((c.keys[:1] for c in shot.cuts if c.take_id == take.id), ())
            looks = shot.planned, shot.placement, shot.start_min, cut
        own = take.taken_as, take.steady, take.horizon, take.part_s, take.first_view, take.placement
        return holds if all(holds) else self.files, own, looks


class Pictures(QObject):
    """`made` says for which entry a picture is there."""

    made = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self._kept: dict[str, tuple[object, QImage | None, QImage | None, str]] = {}
        self._waiting: list[Wanted] = []
        self._changed = threading.Condition()
        self._busy = self._closing = False
        self._thread = threading.Thread(target=self._run, name="small pictures", daemon=True)

    def of(self, key: str) -> tuple[QImage | None, QImage | None, str]:
        """The flat picture, the sphere unrolled, and what was wrong; nothing of any where it is not made yet."""
        kept = self._kept.get(key)
        return kept[1:] if kept is not None else (None, None, "")

    def ask(self, wanted: Sequence[Wanted]) -> None:
        """From now on these are made, in this order; what was asked for before and is not among them is left."""
        with self._changed:
            self._waiting = [one for one in wanted if self._kept.get(one.key, (None,))[0] != one.made_of]
            if self._waiting and self._thread.ident is None:
                self._thread.start()
            self._changed.notify()

    @property
    def idle(self) -> bool:
        with self._changed:
            return not self._busy and not self._waiting

    def close(self) -> None:
        with self._changed:
            self._closing = True
            self._waiting = []
            self._changed.notify()
        if self._thread.ident is not None:
            self._thread.join()

    def _run(self) -> None:
        with contextlib.suppress(OSError):  # and with it every thread that decodes for it
            os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), _NICE)
        while True:
            with self._changed:
                self._busy = False
                self._changed.wait_for(lambda: self._waiting or self._closing)
                if self._closing:
                    return
                wanted = self._waiting.pop(0)
                self._busy = True
            flat, band, wrong = _made(wanted)
            with self._changed:
                if len(self._kept) >= _MOST:
                    self._kept.pop(next(iter(self._kept)))
                self._kept[wanted.key] = wanted.made_of, flat, band, wrong
            self.made.emit(wanted.key)


def _made(wanted: Wanted) -> tuple[QImage | None, QImage | None, str]:
    from glintor.project.pictured import guesses, pictured

    try:
        view = next(iter(guesses(wanted.project, wanted.shot, wanted.take).values()))
        small = pictured(wanted.files, wanted.take, view)
    except GlintorError as error:
        return None, None, error.what
    except Exception as error:
        return None, None, in_words("Small pictures", error).what
    return marks.image(small.flat), marks.image(small.band), ""
