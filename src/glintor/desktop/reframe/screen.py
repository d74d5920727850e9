"""Decoding and reprojecting for the window: newest request wins, turning the view never decodes.

Large clips are shown from their proxy at once and, when the hand rests, from the original.
"""

from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from glintor.desktop.jobs import Newest
from glintor.desktop.reframe.ahead import DEPTH, Ahead
from glintor.media.footage import Footage
from glintor.media.opened import open_for_scrubbing
from glintor.media.read import Decoded, LatestReader
from glintor.media.rolling import told_since
from glintor.media.taken import TakenAs
from glintor.pixels import colour
from glintor.pixels.glimpse import glimpse
from glintor.pixels.picture import Flat, Picture, Tiled, drawn, steady
from glintor.pixels.reproject import Filter, kernels_loaded
from glintor.pixels.unrolled import unrolled, unrolled_level
from glintor.reframing.beside import Part
from glintor.sphere.equirect import Coverage
from glintor.sphere.lenses import Projection
from glintor.sphere.turn import Sight, TurnTrack, turned
from glintor.sphere.view import View

SPHERE_PX = (800, 400)
_REST_MS = 150
MOST_AT_REST, MOST_PLAYING = 64, 4  # frames averaged for the blur of a speed-up


class Request(Struct, frozen=True):
    """What is to be drawn. until_s: the end of the clip's time that one film frame averages, where it does; turns: how the picture
    lies in the frame that the view is meant in, None where that is the picture's own; parts: views and their
    places where it is of several, its own first."""

    time_s: float
    view: View
    size_px: tuple[int, int]
    until_s: float | None = None
    sphere: bool = False
    playing: bool = False
    turns: TurnTrack | None = None
    parts: tuple[tuple[View, Part], ...] = ()

    def picture_at(self, time_s: float, shows: Projection) -> Picture:
        """The picture of a moment: one view, or several in their places."""
        if not self.parts:
            return Flat(self.size_px, steady(self.sight_at(time_s)), Filter.FAST, shows=shows)
        turn, tiles = self.turn_at(time_s), list[tuple[Picture, tuple[int, int]]]()
        for view, part in self.parts:
            sight: Sight = view if turn is None else turned(view, turn)
            tiles.append((Flat(part.size_px, steady(sight), Filter.FAST, shows=shows), part.corner_px))
        return Tiled(self.size_px, tiles)

    def turn_at(self, time_s: float) -> "NDArray[np.float64] | None":
        return None if self.turns is None else self.turns.at(time_s)

    def sight_at(self, time_s: float) -> Sight:
        """What is drawn of the picture of a moment."""
        turn = self.turn_at(time_s)
        return self.view if turn is None else turned(self.view, turn)


class Drawn(Struct, frozen=True):
    """A frame for the window: 0xFFRRGGBB pixels; the unrolled sphere where the moment is new; whether it is exact.

    rough  it was drawn before the compiled kernels were there, and is drawn again at once
    """

    frame: NDArray[np.uint32]
    sphere: NDArray[np.uint32] | None
    view: View
    time_s: float
    size_px: tuple[int, int]
    exact: bool
    rough: bool = False


class Screen(QObject):
    """One open clip and the workers that draw it."""

    drawn = pyqtSignal(object)
    failed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self._worker, self._exact_worker = Newest("screen"), Newest("exact")
        self._worker.finished.connect(self._show)
        self._exact_worker.finished.connect(self._show_exact)
        for worker in (self._worker, self._exact_worker):
            worker.failed.connect(self.failed)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self._ask_exact)
        self._reader: LatestReader | None = None
        self._original: LatestReader | None = None  # only where a proxy stands in
        self._footage: Footage | None = None
        self._small: Footage | None = None  # its stand-in
        self._wanted: object = None
        self._last: Request | None = None
        self._ahead: Ahead[Drawn] | None = None
        self._sphere_of: tuple[int, float, int] | None = None
        self._glimpsed = False

    @property
    def footage(self) -> Footage | None:
        return self._footage

    @property
    def by_proxy(self) -> bool:
        return self._original is not None

    @property
    def idle(self) -> bool:
        return self._worker.idle and self._exact_worker.idle and not self._rest.isActive()

    def open_footage(self, files: Path | Sequence[Path], taken_as: TakenAs = TakenAs()) -> Footage:
        """Shows what the files hold from now on. Raises ClipError."""
        wanted = ((files,) if isinstance(files, Path) else tuple(files), taken_as)
        if (
            self._footage is not None
            and wanted == self._wanted
            and self.by_proxy == (self._footage.draft() is not None)
            and not told_since(self._footage)
        ):
            return self._footage
        footage, original = open_for_scrubbing(*wanted)
        small = footage.draft()
        reader = LatestReader(small.reader()) if small is not None else original
        self.close_clip()
        self._footage, self._wanted, self._reader, self._small = footage, wanted, reader, small
        self._original = original if small is not None else None
        return footage

    def close_clip(self) -> None:
        """Lets go of the clip; a request under way ends by itself and its readers with it."""
        self.end_film()
        self._rest.stop()
        self._footage = self._small = self._wanted = self._reader = self._original = self._last = self._sphere_of = None

    def ask(self, request: Request) -> None:
        """Asks for the frame of a moment; a request still waiting is dropped."""
        reader, self._last = self._reader, request
        if reader is None:
            return
        self._worker.ask(
            request, lambda: self._draw(reader, request, exact=self._original is None, stale=self._left(request))
        )
        if self._original is not None:
            self._rest.start()
        else:
            self._rest.stop()

    def _left(self, request: Request) -> "Callable[[], bool]":
        """Whether nobody waits for a moment any more: a decode under way is then given up. A view that turns at the same moment
        still waits for it."""

        def gone() -> bool:
            last = self._last
            return last is not None and abs(last.time_s - request.time_s) > 1e-6

        return gone

    def play_film(self, frames: Callable[[int], Request | None], depth: int = DEPTH) -> None:
        """Begins to draw the frames of a film ahead of time, so many at once; frames(n) asks for film frame n, None after the last."""
        self.end_film()
        reader = self._reader
        if reader is None:
            return
        self._rest.stop()

        def draw(number: int) -> Drawn | None:
            request = frames(number)
            return self._draw(reader, request, exact=self._original is None) if request is not None else None

        self._ahead = Ahead(draw, self.failed.emit, depth)

    def show_film_frame(self, due: int) -> Drawn | None:
        """Shows the newest film frame that is due; None where there is nothing new to show."""
        drawn = self._ahead.take(due) if self._ahead is not None else None
        if drawn is not None:
            self.drawn.emit(drawn)
        return drawn

    def end_film(self) -> None:
        if self._ahead is not None:
            self._ahead.close()
            self._ahead = None

    def _ask_exact(self) -> None:
        reader, request = self._original, self._last
        if reader is not None and request is not None:
            stale = lambda: self._last is not request  # noqa: E731
            self._exact_worker.ask(request, lambda: self._draw(reader, request, exact=True, stale=stale))

    def _draw(self, reader: LatestReader, request: Request, *, exact: bool, stale=lambda: False) -> Drawn | None:  # type: ignore[no-untyped-def]
        if request.until_s is None:
            decoded = reader.at(request.time_s, stale)
        else:
            most = MOST_PLAYING if request.playing else MOST_AT_REST
            decoded = reader.mean(request.time_s, request.until_s, most, stale)
        footage = self._footage if exact else self._small
        if decoded is None or footage is None:
            return None
        time_s = float(decoded.time)
        if not (self._glimpsed or kernels_loaded()):
            self._glimpsed = True
            return _rough(decoded, request, footage.shows)
        sphere = footage.sphere(decoded)
        picture = request.picture_at(time_s, footage.shows)
        frame = colour.rgb32(drawn(picture, sphere, time_s))
        flat, key = None, (id(reader), time_s, id(request.turns))
        if request.sphere and key != self._sphere_of:
            self._sphere_of = key
            flat = colour.rgb32(unrolled_level(sphere, SPHERE_PX, footage.shows, request.turn_at(time_s)))
        return Drawn(frame, flat, request.view, float(decoded.time), request.size_px, exact)

    def _show(self, request: object, drawn: object) -> None:
        if drawn is None:  # nobody waited for it any more
            return
        self.drawn.emit(drawn)
        if isinstance(drawn, Drawn) and isinstance(request, Request) and drawn.rough and request is self._last:
            self.ask(request)

    def _show_exact(self, request: object, drawn: object) -> None:
        if drawn is not None and request is self._last:
            self.drawn.emit(drawn)

    def close(self) -> None:
        self.end_film()
        self._rest.stop()
        self._last = None
        for worker in (self._worker, self._exact_worker):
            worker.close()
        for reader in (self._reader, self._original):
            if reader is not None:
                reader.close()


def _rough(decoded: Decoded, request: Request, shows: Projection) -> Drawn:
    sight = request.sight_at(float(decoded.time))
    frame = glimpse(decoded.picture, sight, request.size_px, shows)
    plain = request.sphere and request.turns is None and isinstance(shows, Coverage)
    flat = colour.rgb32_plain(unrolled(decoded.picture, SPHERE_PX, shows)) if plain else None  # type: ignore[arg-type]
    return Drawn(frame, flat, request.view, float(decoded.time), request.size_px, False, rough=True)
