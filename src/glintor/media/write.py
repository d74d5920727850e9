"""One flat film being written: pictures and sound in MP4, MOV or MKV."""

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from glintor.errors import InputError
from glintor.media.encoding import Codec, Encoding, codec_named
from glintor.media.read import frame_planes
from glintor.media.sound import RATE_HZ
from glintor.media.spherical import mark_film
from glintor.pixels.bands import CORES
from glintor.pixels.yuv import ColourTags, Yuv

if TYPE_CHECKING:
    import av

_MATRIX_CODE = {"bt709": 1, "bt601": 6, "bt2020": 9}  # ITU-T H.273, table 4


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
        source_bits: int = 8,
        sound: Iterator[NDArray[np.float32]] | None = None,
        sphere: bool = False,
    ) -> None:
        """sphere: whether its pictures are whole spheres, which the file then says."""
        import av

        codec = codec_named(encoding.codec)
        if size_px[0] % 2 or size_px[1] % 2:
            raise InputError(
                f"{size_px[0]}x{size_px[1]} cannot be packed as {codec.id}: both numbers must be even.",
                advice=f"Use {size_px[0] // 2 * 2}x{size_px[1] // 2 * 2}.",
            )
        if path.suffix.lower() != codec.suffix:
            raise InputError(f"{codec.words} is written as {codec.suffix}.", advice=f"End the name in {codec.suffix}.")
        self._size, self._tags = size_px, tags
        self._marked = path if sphere and codec.suffix != ".mkv" else None
        plain = codec.suffix == ".mkv" or sphere  # what a sphere says is written into an index that stands at the end
        self._container = av.open(str(path), "w", options={} if plain else {"movflags": "+faststart"})
        video = self._container.add_stream(codec.encoder, rate=rate)
        assert isinstance(video, av.VideoStream)
        self._video = video
        self._format = codec.pixel_format(source_bits)
        context = self._video.codec_context
        self._video.width, self._video.height, self._video.pix_fmt = *size_px, self._format
        if codec.encoder == "libx264":
            self._video.thread_type = "FRAME"  # PyAV asks for slices by default, which x264 codes slower and larger
            context.thread_count = CORES  # half as many again by default: 6 % slower where four films are packed
        context.time_base = self._video.time_base = time_base
        context.gop_size = max(1, round(float(rate) * encoding.key_every_s)) if codec.by_quality else 1
        context.color_range = 2 if tags.full_range else 1
        context.colorspace, context.color_primaries = _MATRIX_CODE[tags.matrix], tags.primaries
        context.color_trc = tags.transfer
        self._video.options = self._options(codec, encoding)
        self._sound = sound
        self._audio: av.AudioStream | None = None
        self._samples = 0
        self.packed_bytes = 0  # so far; the file itself grows later and in leaps
        if sound is not None:
            audio = self._container.add_stream("pcm_s24le" if encoding.pcm else "aac", rate=RATE_HZ, layout="stereo")
            assert isinstance(audio, av.AudioStream)
            if not encoding.pcm:
                audio.codec_context.bit_rate = encoding.aac_kbit_s * 1000
            self._audio = audio

    def _mux(self, packets: "list[av.Packet]") -> None:
        self.packed_bytes += sum(packet.size for packet in packets)
        self._container.mux(packets)

    def _options(self, codec: Codec, encoding: Encoding) -> dict[str, object]:
        if not codec.by_quality:
            return {"profile": "hq"} if codec.id == "prores" else {"level": "3", "slices": "4"}
        options: dict[str, object] = {"preset": encoding.preset}
        if codec.encoder == "libx265":
            self._video.codec_context.codec_tag = "hvc1"  # the name under which most players look for it
            # x265 takes the range from its own options only, and would print its banner.
            options["x265-params"] = f"log-level=none:range={'full' if self._tags.full_range else 'limited'}"
        if encoding.draft:
            options["x264-params"] = "me=dia:merange=4:subme=0:rc-lookahead=0:no-deblock=1"
        if encoding.mbit_s is None:
            return {**options, "crf": str(encoding.crf)}
        self._video.codec_context.bit_rate = round(encoding.mbit_s * 1e6)
        most, buffer = round(encoding.mbit_s * 1.5e6), round(encoding.mbit_s * 2e6)
        return {**options, "maxrate": str(most), "bufsize": str(buffer)}

    def new_frame(self) -> tuple["av.VideoFrame", Yuv]:
        """An empty frame and its planes, to be drawn into and handed to `write`."""
        import av

        frame = av.VideoFrame(*self._size, self._format)
        # ProRes writes them into the header of every frame from the frame itself (SMPTE RDD 36, 5.1), not from the stream.
        frame.color_range = 2 if self._tags.full_range else 1
        frame.colorspace = _MATRIX_CODE[self._tags.matrix]
        frame.color_primaries, frame.color_trc = self._tags.primaries, self._tags.transfer
        return frame, frame_planes(frame, self._tags)

    def write(self, frame: "av.VideoFrame", pts: int, time_base: Fraction) -> None:
        """Encodes one frame at pts x time_base, and the sound up to it."""
        frame.pts, frame.time_base = pts, time_base
        self._mux(self._video.encode(frame))
        self._write_sound(float(pts * time_base) + 0.5)

    def close(self, end_s: float) -> None:
        """Flushes pictures and sound up to `end_s` and closes the file whole."""
        self._mux(self._video.encode(None))
        self._write_sound(end_s)
        if self._audio is not None:
            self._mux(self._audio.encode(None))
        self._container.close()
        if self._marked is not None:
            mark_film(self._marked)

    def abandon(self) -> None:
        """Closes the file as it is; what was written is of no use."""
        import av.error

        try:
            self._container.close()
        except (av.error.FFmpegError, OSError):
            return

    def _write_sound(self, until_s: float) -> None:
        import av

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
            self._mux(self._audio.encode(sound))
