"""A lane: one output's way from pictures through its encoder, on a thread of its own."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.errors import GlintorError
from glintor.export.strand import RenderError
from glintor.files import write_error
from glintor.media.channel import Channel
from glintor.media.encoding import Encoding
from glintor.media.write import FilmWriter
from glintor.pixels.picture import Picture
from glintor.pixels.spheres import Sphere

if TYPE_CHECKING:
    import av

Sound = Iterator[NDArray[np.float32]] | None


class Packing(Struct, frozen=True):
    """Where one output goes and how it is packed; sphere: whether its pictures are whole spheres."""

    target: Path
    encoding: Encoding = Encoding()
    sphere: bool = False


class Lane:
    """Draws frames into new ones and hands them to its encoder. sound: asked for when the first frame is there."""

    def __init__(
        self, packing: Packing, part: Path, rate: Fraction, time_base: Fraction, sound: Callable[[], Sound]
    ) -> None:
        self.target, self._part, self._packing = packing.target, part, packing
        self._rate, self._time_base, self._sound = rate, time_base, sound
        self._writer: FilmWriter | None = None
        self.channel: Channel[tuple[av.VideoFrame, int]] = Channel()
        self.end_s = 0.0

    def draw(self, picture: Picture, sphere: Sphere, view_s: float, pts: int) -> None:
        if self._writer is None:
            with _writing(self.target):
                self._writer = FilmWriter(
                    self._part,
                    picture.size_px,
                    rate=self._rate,
                    time_base=self._time_base,
                    encoding=self._packing.encoding,
                    sphere=self._packing.sphere,
                    tags=sphere.picture.tags,
                    source_bits=sphere.picture.bits,
                    sound=self._sound(),
                )
        frame, planes = self._writer.new_frame()
        picture.draw(sphere, view_s, planes)
        self.channel.put((frame, pts))

    def encode(self, abort: Callable[[BaseException], None]) -> None:
        try:
            for frame, pts in self.channel:
                assert self._writer is not None
                with _writing(self.target):
                    self._writer.write(frame, pts, self._time_base)
            if self._writer is not None:
                with _writing(self.target):
                    self._writer.close(self.end_s)
        except BaseException as error:
            abort(error)
            if self._writer is not None:
                self._writer.abandon()


@contextmanager
def _writing(target: Path) -> Iterator[None]:
    """Says what goes wrong while one output is written, by that output's own name."""
    try:
        yield
    except GlintorError:
        raise
    except OSError as error:
        raise write_error(target, error) from error
    except Exception as error:
        import av.error

        if not isinstance(error, av.error.FFmpegError):
            raise
        raise RenderError(
            f"The encoder of {target.name} stopped: {error}.",
            unharmed="The source is unharmed.",
            advice="Try another preset or size.",
        ) from error
