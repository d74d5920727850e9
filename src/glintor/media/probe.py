"""What a clip is, read from its header, and whether it is a sphere."""

from bisect import bisect_right
from contextlib import suppress
from datetime import datetime
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from glintor.errors import InputError
from glintor.media.first_bytes import matroska_bytes
from glintor.media.spherical import Eyes, SphereNote, film_note, note_of_frame
from glintor.quantities import absurd
from glintor.sphere.equirect import WHOLE, Coverage

if TYPE_CHECKING:
    import av

_FIT = 0.02  # how far a picture's shape may differ from what its metadata says


class ClipError(InputError):
    """A clip that cannot be used, in words."""


class NoPictures(ClipError):
    """A clip that opens and has no picture track."""


class NoSphere(ClipError):
    """A picture whose shape is no sphere's: a person may say what it shows."""

    def __init__(self, path: Path, size_px: tuple[int, int]) -> None:
        self.path, self.size_px = path, size_px
        super().__init__(
            f"{path.name} is {size_px[0]}x{size_px[1]}: a full sphere is twice as wide as high.",
            unharmed="Nothing was written.",
            advice="If it is a sphere all the same, say so (--as-sphere, or --as-half for one lens's half).",
        )


class ClipInfo(Struct, frozen=True):
    """A clip as its header states it; `frames` is 0 where the header does not say."""

    path: Path
    width_px: int
    height_px: int
    rate: Fraction
    time_base: Fraction
    duration_s: float
    frames: int
    codec: str
    has_sound: bool
    size_bytes: int
    said: Coverage | None = None  # by the file's own metadata
    alike: int = 1  # picture tracks of the first one's size
    lengths_s: tuple[float, ...] = ()  # of its picture tracks
    note: SphereNote | None = None  # what else its metadata say of its sphere
    began: datetime | None = None  # when, by its own clock, where the file says
    channels: int = 0  # of its fullest track of sound
    told_s: float = 0.0  # how long it says that it is, where its end is missing

    @property
    def eyes(self) -> Eyes:
        """How the pictures of two eyes lie in it, by its metadata."""
        return self.note.eyes if self.note is not None else ""

    @property
    def coverage(self) -> Coverage | None:
        """What part of the sphere it shows; None where neither its shape nor its metadata makes it one."""
        return self.said if self.eyes else coverage_of((self.width_px, self.height_px), self.said)

    @property
    def bit_rate(self) -> float:
        """Average bits per second of the whole file."""
        return self.size_bytes * 8.0 / self.duration_s if self.duration_s > 0 else 0.0


def coverage_of(size_px: tuple[int, int], said: Coverage | None) -> Coverage | None:
    """The part of the sphere that a picture shows: as its metadata says where that fits its shape, a full sphere where
    it is twice as wide as high (within a pixel, for odd sizes), else None."""
    width, height = size_px
    if said is not None and abs(width / height / (said.lon_deg / said.lat_deg) - 1.0) < _FIT:
        return said
    return WHOLE if abs(width - 2 * height) <= 1 else None


def open_clip(path: Path) -> "av.container.InputContainer":
    """An open container with at least one picture track. Raises ClipError with what is wrong and what to do."""
    import av.error  # slow to import: see docs/architecture.md, "Start"

    if not path.exists():
        raise ClipError(f"There is no file {path}.", advice="Check the name, or put the card or disk back.")
    if path.is_dir():
        raise ClipError(f"{path} is a folder.", advice="Choose a clip inside it.")
    if path.stat().st_size == 0:
        raise ClipError(f"{path.name} is empty (0 bytes).", advice="Copy it from the card again.")
    try:
        container = _by_header(path) or av.open(str(path), metadata_errors="replace")
    except (av.error.FFmpegError, OSError) as error:
        raise ClipError(
            f"{path.name} cannot be read as a film: {_plain(error)}.",
            unharmed="The file was not changed.",
            advice="If the recording was cut off before the camera closed it, its index is missing: "
            "try the copy still on the card.",
        ) from error
    if not container.streams.video:
        container.close()
        raise NoPictures(f"{path.name} has no picture track.", advice="Choose a film.")
    return container


def _by_header(path: Path) -> "av.container.InputContainer | None":
    """A film whose header says everything, opened without decoding a look into it, which takes half a second at 5.7K: MP4
    and its kin, which also state in which order pictures come. None for all others."""
    import av.error

    try:
        container = av.open(str(path), metadata_errors="replace", options={"probesize": "32"})
    except (av.error.FFmpegError, OSError):
        return None
    told = [
        "mp4" in container.format.name
        and stream.codec_context is not None
        and stream.codec_context.width > 0
        and bool(stream.average_rate and stream.duration and stream.time_base)
        and stream.start_time is not None
        for stream in container.streams.video[:1]
    ]
    heard = all(track.codec_context is None or track.codec_context.sample_rate > 0 for track in container.streams.audio)
    if told == [True] and heard:
        return container
    container.close()
    return None


def probe(path: Path) -> ClipInfo:
    """What the clip's header says; read again where the file changed. Raises ClipError."""
    try:
        state = path.stat()
    except OSError:
        return _probe(path)  # says what is wrong
    return _probed(path, state.st_size, state.st_mtime_ns, state.st_ino)


@lru_cache(maxsize=256)
def _probed(path: Path, _size_bytes: int, _changed_ns: int, _inode: int) -> ClipInfo:
    return _probe(path)


def _probe(path: Path) -> ClipInfo:
    with open_clip(path) as container:
        stream = container.streams.video[0]
        if stream.codec_context is None:  # FFmpeg knows the container, not what is in it
            raise ClipError(
                f"The pictures of {path.name} are packed in a way that cannot be read here.",
                unharmed="The file was not changed.",
                advice="Convert it to H.264 or H.265 first.",
            )
        width, height = stream.codec_context.width, stream.codec_context.height
        if not width or not height:
            raise ClipError(
                f"{path.name} does not say how large its picture is.", advice="Copy it from the card again."
            )
        rate = stream.average_rate or stream.guessed_rate or Fraction(25)
        time_base = stream.time_base or Fraction(1, 90000)
        duration = _told_s(container, path)
        note = film_note(path) or (_note_of_frame(container) if "matroska" in container.format.name else None)
        there = _whole_frames(container, path)
        told_s, frames = (0.0, stream.frames) if there is None else (duration, there)
        lengths = [
            float(track.duration * track.time_base) if track.duration and track.time_base else duration
            for track in container.streams.video
        ]
        duration = duration if there is None else min(duration, float(there / Fraction(rate)))
        return ClipInfo(
            path=path,
            width_px=width,
            height_px=height,
            rate=Fraction(rate),
            time_base=Fraction(time_base),
            duration_s=duration,
            frames=frames,
            told_s=told_s,
            codec=stream.codec_context.name,
            channels=max(
                (track.codec_context.channels for track in container.streams.audio if track.codec_context is not None),
                default=0,
            ),
            has_sound=any(track.codec_context is not None for track in container.streams.audio),
            size_bytes=path.stat().st_size,
            said=note.coverage if note is not None else None,
            note=note,
            lengths_s=tuple(lengths if there is None else (min(length, duration) for length in lengths)),
            began=_began(container.metadata.get("creation_time", "")),
            alike=sum(
                (track.codec_context.width, track.codec_context.height) == (width, height)
                for track in container.streams.video
                if track.codec_context is not None
            ),
        )


def _told_s(container: "av.container.InputContainer", path: Path) -> float:
    """How long a film says that it is; 0 where it does not. Raises ClipError where that, or its rate, makes no sense."""
    stream = container.streams.video[0]
    duration = (container.duration or 0) / 1e6
    if stream.duration:
        duration = float(stream.duration * (stream.time_base or Fraction(1, 90000)))
    rate = float(stream.average_rate or stream.guessed_rate or Fraction(25))
    for name, value in (("duration_s", duration), ("rate_fps", rate)):
        wrong = absurd(name, value) or (f"{name} is {value:g}" if value < 0.0 else None)
        if wrong is not None:
            raise ClipError(
                f"{path.name} says of itself that {wrong}.",
                unharmed="It was not changed.",
                advice="Copy it from the card again.",
            )
    return duration


def _note_of_frame(container: "av.container.InputContainer") -> SphereNote | None:
    """What the first frame tells of its sphere; None where it tells nothing or does not decode."""
    import av.error

    try:
        frame = next(container.decode(video=0), None)
    except av.error.FFmpegError:
        return None
    if frame is None:
        return None
    side_data: Any = frame.side_data  # its types say less than it holds
    return note_of_frame({one.type.name: bytes(one) for one in side_data})


def _whole_frames(container: "av.container.InputContainer", path: Path) -> int | None:
    """How many frames of a film whose file ends too early are there; None where all are, or where its head does not tell."""
    size_bytes = path.stat().st_size
    if "matroska" in container.format.name:
        return _packets(container) if matroska_bytes(path) > size_bytes else None
    if "mp4" not in container.format.name:
        return None
    counts = []
    for stream in container.streams.video:
        index = stream.index_entries
        if len(index) > 0 and index[-1].pos + index[-1].size > size_bytes:
            counts.append(bisect_right([index[n].pos + index[n].size for n in range(len(index))], size_bytes))
    return min(counts, default=None)


def _packets(container: "av.container.InputContainer") -> int:
    import av.error

    count = 0
    with suppress(av.error.FFmpegError):
        container.seek(0)
        for packet in container.demux(video=0):
            count += packet.size > 0
    return count


def _began(text: str) -> datetime | None:
    try:
        return datetime.fromisoformat(text) if text else None
    except ValueError:
        return None


def need_sphere(path: Path, size_px: tuple[int, int], said: Coverage | None, told: Coverage | None = None) -> Coverage:
    """The part of the sphere that a picture shows; `told` by the person counts before everything else.

    Raises NoSphere where it is no sphere and nobody said to treat it as one.
    """
    coverage = told or coverage_of(size_px, said)
    if coverage is None:
        raise NoSphere(path, size_px)
    return coverage


def sphere_of(info: ClipInfo, told: Coverage | None = None) -> Coverage:
    """`need_sphere` for a clip."""
    of_eye = info.said if info.eyes else None
    return need_sphere(info.path, (info.width_px, info.height_px), info.said, told or of_eye)


def _plain(error: Exception) -> str:
    text = getattr(error, "strerror", None) or str(error)
    return "it is not a film, or its index is missing" if "Invalid data" in text else text
