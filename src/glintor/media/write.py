"""One flat film being written: H.264 pictures and AAC sound in MP4."""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import av.error
import numpy as np
from numpy.typing import NDArray

from glintor.errors import InputError
from glintor.media.read import plane_rows
from glintor.media.sound import RATE_HZ
from glintor.pixels.yuv import ColourTags, Yuv

PRESETS = ("ultrafast", "superfast", "veryfast", "faster", "fast", "medium", "slow", "slower")


@dataclass(frozen=True, slots=True, kw_only=True)
class Encoding:
    """How a film is packed: a bit rate in Mbit/s, or a constant quality where it is None; AAC in kbit/s."""

    mbit_s: float | None = None
    crf: int = 19
    preset: str = "veryfast"
    aac_kbit_s: int = 256
    key_every_s: float = 2.0

    def __post_init__(self) -> None:
        if self.mbit_s is not None and not 0.1 <= self.mbit_s <= 400.0:
            raise InputError(f"A bit rate of {self.mbit_s:g} Mbit/s is out of range.", advice="Choose 0.1 to 400.")
        if not 0 <= self.crf <= 51:
            raise InputError(f"A quality of {self.crf} is out of range.", advice="Choose 0 (lossless) to 51.")
        if self.preset not in PRESETS:
            raise InputError(f"There is no preset {self.preset}.", advice=f"Choose one of {', '.join(PRESETS)}.")


class FilmWriter:
    """Encodes planes handed over in order into one file. Sound is interleaved as the pictures advance."""

    def __init__(
        self,
        path: Path,
        size_px: tuple[int, int],
        *,
        rate: Fraction,
        time_base: Fraction,
        encoding: Encoding,
        tags: ColourTags = ColourTags(),
        sound: Iterator[NDArray[np.float32]] | None = None,
    ) -> None:
        if size_px[0] % 2 or size_px[1] % 2:
            raise InputError(
                f"{size_px[0]}x{size_px[1]} cannot be packed as H.264: both numbers must be even.",
                advice=f"Use {size_px[0] // 2 * 2}x{size_px[1] // 2 * 2}.",
            )
        self._size = size_px
        self._container = av.open(str(path), "w", options={"movflags": "+faststart"})
        self._video = self._container.add_stream("libx264", rate=rate)
        self._video.width, self._video.height = size_px
        self._video.pix_fmt = "yuv420p"
        self._video.thread_type = "FRAME"  # PyAV asks for slices by default, which x264 codes slower and larger
        self._video.codec_context.time_base = time_base
        self._video.time_base = time_base
        self._video.codec_context.gop_size = max(1, round(float(rate) * encoding.key_every_s))
        self._video.codec_context.color_range = 2 if tags.full_range else 1
        for field, value in (
            ("colorspace", 6 if tags.matrix == "bt601" else 1),
            ("color_primaries", 1),
            ("color_trc", 1),
        ):
            setattr(self._video.codec_context, field, value)
        options: dict[str, object] = {"preset": encoding.preset}
        if encoding.mbit_s is None:
            options["crf"] = str(encoding.crf)
        else:
            self._video.codec_context.bit_rate = round(encoding.mbit_s * 1e6)
            options |= {"maxrate": str(round(encoding.mbit_s * 1.5e6)), "bufsize": str(round(encoding.mbit_s * 2e6))}
        self._video.options = options
        self._sound = sound
        self._audio = None
        self._samples = 0
        if sound is not None:
            self._audio = self._container.add_stream("aac", rate=RATE_HZ, layout="stereo")
            self._audio.codec_context.bit_rate = encoding.aac_kbit_s * 1000

    def new_frame(self) -> tuple["av.VideoFrame", Yuv]:
        """An empty frame and its planes, to be drawn into and handed to `write`."""
        width, height = self._size
        frame = av.VideoFrame(width, height, "yuv420p")
        half = (width // 2, height // 2)
        return frame, Yuv(
            plane_rows(frame.planes[0], width, height),
            plane_rows(frame.planes[1], *half),
            plane_rows(frame.planes[2], *half),
        )

    def write(self, frame: "av.VideoFrame", pts: int, time_base: Fraction) -> None:
        """Encodes one frame at pts x time_base, and the sound up to it."""
        frame.pts, frame.time_base = pts, time_base
        self._container.mux(self._video.encode(frame))
        self._write_sound(float(pts * time_base) + 0.5)

    def close(self, end_s: float) -> None:
        """Flushes pictures and sound up to `end_s` and closes the file whole."""
        self._container.mux(self._video.encode(None))
        self._write_sound(end_s)
        if self._audio is not None:
            self._container.mux(self._audio.encode(None))
        self._container.close()

    def abandon(self) -> None:
        """Closes the file as it is; what was written is of no use."""
        try:
            self._container.close()
        except (av.error.FFmpegError, OSError):
            return

    def _write_sound(self, until_s: float) -> None:
        if self._sound is None or self._audio is None:
            return
        while self._samples < until_s * RATE_HZ:
            block = next(self._sound, None)
            if block is None:
                self._sound = None
                return
            sound = av.AudioFrame.from_ndarray(np.ascontiguousarray(block), format="fltp", layout="stereo")
            sound.sample_rate, sound.pts, sound.time_base = RATE_HZ, self._samples, Fraction(1, RATE_HZ)
            self._samples += block.shape[1]
            self._container.mux(self._audio.encode(sound))
