"""The sound of a clip: as a stream cut to the sample, and as an array for playing and for measuring."""

import contextlib
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from glintor.media.probe import ClipError, NoPictures, open_clip

if TYPE_CHECKING:
    import av

RATE_HZ = 48000
_GAP_S = 0.05  # a leap of the time stamps that is no rounding: packets were lost


def sound_cut(
    path: Path, start_s: float, end_s: float, *, origin_s: float | None = None
) -> Iterator[NDArray[np.float32]]:
    """Blocks (2, n) of float sound at 48 kHz from start_s to end_s; silence where the track has a gap.

    Times are counted from the picture's first frame, so sound and picture stay in step. A fault ends the sound early.
    """
    import av.error

    first, last = round(start_s * RATE_HZ), round(end_s * RATE_HZ) if end_s != float("inf") else None
    with _opened(path) as container:
        if not any(track.codec_context is not None for track in container.streams.audio):
            return
        stream = container.streams.audio[0]
        origin = origin_s or 0.0
        if container.streams.video and origin_s is None:
            video = container.streams.video[0]
            origin = float((video.start_time or 0) * (video.time_base or 1))
        resampler = av.AudioResampler(format="fltp", layout="stereo", rate=RATE_HZ)
        if start_s > 1.0:
            with contextlib.suppress(av.error.FFmpegError):  # then it is decoded from the beginning
                container.seek(int((start_s - 0.5 + origin) * av.time_base), backward=True, any_frame=False)
        position: int | None = None
        sent = first
        for block, time_s in _decoded(container, stream, resampler):
            stamp = round((time_s - origin) * RATE_HZ)
            if position is None or stamp - position > _GAP_S * RATE_HZ:
                position = stamp
                until = position if last is None else min(position, last)
                if until > sent:
                    yield np.zeros((2, until - sent), np.float32)
                    sent = until
            low, high = max(sent - position, 0), block.shape[1]
            if last is not None:
                high = min(high, last - position)
            if high > low:
                yield block[:, low:high]
                sent = position + high
            position += block.shape[1]
            if last is not None and position >= last:
                return


def _opened(path: Path) -> "av.container.InputContainer":
    import av
    import av.error

    try:
        return open_clip(path)
    except NoPictures:
        return av.open(str(path), metadata_errors="replace")


def _decoded(
    container: "av.container.InputContainer", stream: "av.AudioStream", resampler: "av.AudioResampler"
) -> Iterator[tuple[NDArray[np.float32], float]]:
    import av.error

    time_s = 0.0
    try:
        for frame in container.decode(stream):
            if frame.pts is not None:
                time_s = float(frame.pts * Fraction(frame.time_base or 1))
            for out in resampler.resample(frame):
                yield np.asarray(out.to_ndarray(), np.float32), time_s
        for out in resampler.resample(None):
            yield np.asarray(out.to_ndarray(), np.float32), time_s
    except av.error.FFmpegError:
        return


def sound_length_s(path: Path) -> float:
    """How long a recording's sound is, by its header. Raises ClipError where it has none that can be read."""
    import av
    import av.error

    try:
        with av.open(str(path), metadata_errors="replace") as container:
            tracks = [track for track in container.streams.audio if track.codec_context is not None]
            if tracks:
                track = tracks[0]
                if track.duration and track.time_base:
                    return float(track.duration * track.time_base)
                return (container.duration or 0) / 1e6
    except (av.error.FFmpegError, OSError) as error:
        raise ClipError(
            f"{path.name} cannot be read as sound: it is damaged or no sound.",
            unharmed="It was not changed.",
            advice="Copy it from the card again.",
        ) from error
    raise ClipError(f"{path.name} has no sound.", unharmed="It was not changed.", advice="Choose another recording.")


def whole_sound(path: Path) -> NDArray[np.float32]:
    """(2, n) of the whole track at 48 kHz; (2, 0) without one."""
    blocks = list(sound_cut(path, 0.0, float("inf")))
    return np.concatenate(blocks, axis=1) if blocks else np.zeros((2, 0), np.float32)
