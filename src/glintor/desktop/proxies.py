"""Stand-ins of large clips, made one after the other at low priority: what is looked at comes first."""

import contextlib
import os
import threading
from collections.abc import Sequence
from pathlib import Path
from threading import Event

from msgspec import Struct
from PyQt6.QtCore import QObject, pyqtSignal

from glintor.desktop.jobs import Job, Jobs
from glintor.media.taken import Paired
from glintor.types import Report

_NICE = 10
_NEARLY = 0.5  # a stand-in that is made so far is finished first


class Clip(Struct, frozen=True):
    """Files of a recording, and whether they are pairs."""

    files: tuple[Path, ...]
    paired: Paired = ""


class Proxies(QObject):
    """`made` says that another one is there."""

    made = pyqtSignal()

    def __init__(self, jobs: Jobs) -> None:
        super().__init__()
        self._jobs = jobs
        self._waiting: list[Clip] = []
        self._seen: set[Clip] = set()
        self._now: tuple[Clip, Job] | None = None

    def first(self, clip: Clip) -> None:
        """Somebody looks at this one."""
        if clip in self._seen and clip not in self._waiting:
            return
        self._seen.add(clip)
        self._waiting = [clip, *(one for one in self._waiting if one != clip)]
        if self._now is not None and self._now[0] != clip and self._now[1].share < _NEARLY:
            self._waiting.insert(1, self._now[0])
            self._now[1].cancel()
        self._next()

    def then(self, clips: Sequence[Clip]) -> None:
        """And these after what was asked for already."""
        fresh = [clip for clip in clips if clip not in self._seen]
        self._seen.update(fresh)
        self._waiting += fresh
        self._next()

    def _next(self) -> None:
        if self._now is not None or not self._waiting or self._jobs.closing:
            return
        clip = self._waiting.pop(0)
        more = f", {len(self._waiting)} to come" if self._waiting else ""
        job = self._jobs.start(
            f"Making {clip.files[0].name} light to scrub{more}",
            lambda report, stop: _make(clip, report, stop),
            self._ended,
            failed=lambda _error: self._ended(False),  # what is wrong with a clip is said where it is looked at
            cancelled=lambda: self._ended(False),
        )
        self._now = clip, job

    def _ended(self, made: bool) -> None:
        self._now = None
        if made:
            self.made.emit()
        self._next()


def _make(clip: Clip, report: Report, stop: Event) -> bool:
    """Makes what is missing of a clip's stand-ins; whether anything was made."""
    from glintor.media.parts import parts_of
    from glintor.media.proxy import make_proxy, proxy_of, wants_proxy

    with contextlib.suppress(OSError):  # and with it every thread that decodes and packs for it
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), _NICE)
    parts = parts_of(clip.files, clip.paired)
    missing = [part for part in parts if wants_proxy(part.info.width_px) and proxy_of(part) is None]
    for number, part in enumerate(missing):

        def of_all(share: float, done: int = number) -> None:
            report((done + share) / len(missing))

        make_proxy(part, report=of_all, stop=stop)
    return bool(missing)
