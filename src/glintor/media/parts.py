"""A part of a recording: one film, or two that the lenses of a camera left beside each other, in one file or in two."""

from collections.abc import Iterator, Sequence
from fractions import Fraction
from pathlib import Path

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from glintor.media.probe import ClipError, ClipInfo, probe
from glintor.media.read import ClipReader, Decoded, Reader
from glintor.media.taken import Paired
from glintor.pixels.yuv import Plane, Yuv


class Part(Struct, frozen=True):
    """files: one, or the front lens's and the rear lens's."""

    files: tuple[Path, ...]
    paired: Paired = ""

    @property
    def name(self) -> str:
        return " and ".join(file.name for file in self.files)

    @property
    def info(self) -> ClipInfo:
        """What the headers say; of a pair as one picture with the lenses side by side, as long as the shorter of both. Raises
        ClipError where they do not belong together."""
        first = probe(self.files[0])
        if not self.paired:
            return first
        second = probe(self.files[-1])
        track = 1 if self.paired == "streams" else 0
        if self.paired == "streams" and first.alike < 2:
            raise ClipError(f"{first.path.name} has one picture track only.", advice="Say what else it is.")
        if (first.width_px, first.height_px) != (second.width_px, second.height_px) or first.rate != second.rate:
            raise ClipError(
                f"{self.name} are no pair: their size or rate differs.",
                unharmed="They were not changed.",
                advice="Open each as a recording of its own.",
            )
        lengths = [info.lengths_s[min(n, len(info.lengths_s) - 1)] for info, n in ((first, 0), (second, track))]
        told = {"duration_s": min(lengths), "size_bytes": sum(f.stat().st_size for f in self.files)}
        return replace(first, width_px=2 * first.width_px, said=None, frames=0, **told)

    def reader(self, *, draft: bool = False) -> Reader:
        """Its frames. Raises ClipError."""
        if not self.paired:
            return ClipReader(self.files[0], draft=draft)
        return PairReader(
            ClipReader(self.files[0], draft=draft),
            ClipReader(self.files[-1], draft=draft, track=1 if self.paired == "streams" else 0),
        )


def parts_of(files: Sequence[Path], paired: Paired = "") -> tuple[Part, ...]:
    """A recording's files as what is read as one film each."""
    step = 2 if paired == "files" else 1
    return tuple(Part(tuple(files[n : n + step]), paired) for n in range(0, len(files), step))


class PairReader(Reader):
    """Two films in step as one picture, side by side; it ends with the shorter. Where one of them is damaged the other waits."""

    def __init__(self, first: Reader, second: Reader) -> None:
        super().__init__()
        self._both = (first, second)
        self.name, self.frame_s = first.name, first.frame_s
        self.size_px = (2 * first.size_px[0], first.size_px[1])

    def close(self) -> None:
        for reader in self._both:
            reader.close()

    def answer_at_once(self) -> None:
        for reader in self._both:
            reader.answer_at_once()

    def every_from(self, start_s: float) -> Iterator[Decoded]:
        one, two = (reader.every_from(start_s) for reader in self._both)
        slack = self.frame_s / 2
        a, b = next(one, None), next(two, None)
        while a is not None and b is not None:
            if a.time < b.time - slack:
                a = next(one, None)
            elif b.time < a.time - slack:
                b = next(two, None)
            else:
                self.last = a.time
                yield replace(a, picture=beside(a.picture, b.picture))
                a, b = next(one, None), next(two, None)
        self.faults_s = sorted({place for reader in self._both for place in reader.faults_s})


def beside(left: Yuv, right: Yuv) -> Yuv:
    """Two pictures of one size as one."""

    def joined(a: Plane, b: Plane) -> Plane:
        out = np.empty((a.shape[0], 2 * a.shape[1]), a.dtype)
        out[:, : a.shape[1]], out[:, a.shape[1] :] = a, b
        return out

    return Yuv(joined(left.y, right.y), joined(left.u, right.u), joined(left.v, right.v), left.tags, left.bits)


def whole_length_s(info: ClipInfo) -> float:
    """Of a part that others follow: whole frames, so that no rounding adds up."""
    return float(Fraction(info.frames or round(info.duration_s * info.rate)) / info.rate)
