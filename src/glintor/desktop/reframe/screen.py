"""Decoding and reprojecting for the window: newest request wins, turning the view never decodes."""

from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, pyqtSignal

from glintor.desktop.jobs import Newest
from glintor.media.read import LatestReader
from glintor.pixels import colour
from glintor.pixels.reproject import Filter, Reprojector
from glintor.pixels.yuv import Yuv
from glintor.sphere.view import View

SPHERE_PX = (800, 400)


@dataclass(frozen=True, slots=True)
class Drawn:
    """A frame for the window: 0xFFRRGGBB pixels, the view and moment it shows; the sphere where the moment is new."""

    frame: NDArray[np.uint32]
    sphere: NDArray[np.uint32] | None
    view: View
    time_s: float
    size_px: tuple[int, int]


class Screen(QObject):
    """One open clip and the worker that draws it."""

    drawn = pyqtSignal(object)
    failed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self._worker = Newest("screen")
        self._worker.finished.connect(lambda _key, drawn: self.drawn.emit(drawn))
        self._worker.failed.connect(self.failed)
        self._reader: LatestReader | None = None
        self._file: Path | None = None
        self._drawers: dict[tuple[int, int], Reprojector] = {}
        self._sphere_of: tuple[int, float] | None = None

    @property
    def file(self) -> Path | None:
        return self._file

    @property
    def idle(self) -> bool:
        return self._worker.idle

    def open_clip(self, file: Path) -> None:
        """Raises ClipError."""
        if file != self._file or self._reader is None:
            reader = LatestReader(file)
            self.close_clip()
            self._file, self._reader = file, reader

    def close_clip(self) -> None:
        self._file, self._reader, self._sphere_of = None, None, None

    def ask(self, time_s: float, view: View, size_px: tuple[int, int], *, sphere: bool = False) -> None:
        """Asks for the frame of a moment; a request still waiting is dropped."""
        reader = self._reader
        if reader is not None:
            self._worker.ask((time_s, view), lambda: self._draw(reader, time_s, view, size_px, sphere))

    def _draw(self, reader: LatestReader, time_s: float, view: View, size_px: tuple[int, int], sphere: bool) -> Drawn:
        decoded = reader.at(time_s)
        drawer = self._drawers.setdefault(size_px, Reprojector(size_px, Filter.FAST))
        frame = colour.rgb32(drawer.draw(decoded.picture, view))
        unrolled, key = None, (id(reader), float(decoded.time))
        if sphere and key != self._sphere_of:
            self._sphere_of = key
            unrolled = colour.rgb32(_smaller(decoded.picture, SPHERE_PX))
        return Drawn(frame, unrolled, view, float(decoded.time), size_px)

    def close(self) -> None:
        self._worker.close()
        if self._reader is not None:
            self._reader.close()


def _smaller(picture: Yuv, size_px: tuple[int, int]) -> Yuv:
    half = (size_px[0] // 2, size_px[1] // 2)
    y, u, v = (
        np.asarray(cv2.resize(plane, size, interpolation=cv2.INTER_AREA), np.uint8)
        for plane, size in ((picture.y, size_px), (picture.u, half), (picture.v, half))
    )
    return Yuv(y, u, v, picture.tags)
