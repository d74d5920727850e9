"""The flat formats, and what a film in one of them will be: true resolution, length and size, before rendering."""

from functools import lru_cache

from msgspec import Struct

from glintor.errors import InputError
from glintor.media.encoding import Encoding
from glintor.reframing.course import NOTHING, Course, Targets, course_of
from glintor.reframing.cut import Cut
from glintor.sphere.turn import TurnTrack
from glintor.sphere.view import true_width_px


class Format(Struct, frozen=True):
    """A shape with its size in pixels."""

    name: str
    size_px: tuple[int, int]
    words: str

    @property
    def in_file_names(self) -> str:
        return self.name.replace(":", "x")


FORMATS = (
    Format("16:9", (1920, 1080), "wide, for screens"), Format("9:16", (1080, 1920), "upright, for phones"),
    Format("1:1", (1080, 1080), "square"), Format("4:3", (1440, 1080), "nearly square"), Format("12:5", (1920, 800), "very wide"),
)  # fmt: skip


def format_by_name(name: str) -> Format:
    """The format of that name. Raises InputError."""
    for shape in FORMATS:
        if name in (shape.name, shape.in_file_names):
            return shape
    raise InputError(f"There is no format {name}.", advice=f"Choose one of {', '.join(f.name for f in FORMATS)}.")


LANDSCAPE = format_by_name("16:9")  # of which keyframes are set, and which stands for a cut where one picture does
USUAL = (LANDSCAPE, format_by_name("9:16"))


def course_for(cut: Cut, shape: Format, turns: TurnTrack | None = None, targets: Targets = NOTHING) -> Course:
    """The cut's course in this format; turns: how its take is held still; targets: where what it is held on is."""
    return course_of(cut, shape.name, shape.size_px, targets=targets, turns=turns)


class Forecast(Struct, frozen=True):
    """What will come out. The size is the bit rate's; at constant quality it is an estimate (`about`), `measured` on pieces of the film or,
    before that, of a usual scene, which may be a quarter or four times of it."""

    frames: int
    duration_s: float
    true_width_px: tuple[int, int]
    size_bytes: int
    about: bool
    measured: bool = False


@lru_cache(maxsize=4096)
def true_widths_px(cut: Cut, shape: Format, source_width_px: int) -> tuple[int, int]:
    """Least and most source pixels across the frame along a path, looked at in 25 places."""
    course = course_for(cut, shape)
    step = max((cut.ends_s - cut.begins_s) / 24.0, 1e-3)
    widths = [true_width_px(course.at(cut.begins_s + step * n), shape.size_px, source_width_px) for n in range(25)]
    return min(widths), max(widths)


_BITS_PER_PIXEL_CRF19 = 0.11  # measured on the demo cuts with veryfast; halves every six steps of crf (x264's scale)


def forecast(
    cut: Cut,
    shape: Format,
    encoding: Encoding,
    *,
    source_width_px: int,
    rate_fps: float,
    measured_bytes: int | None = None,
) -> Forecast:
    """True width (least and most along the path), length and expected size of one film; measured_bytes: by `probe.probed_bytes`."""
    timeline = cut.timeline
    frames = timeline.frames(rate_fps)
    duration = timeline.duration_s if timeline.plain else frames / rate_fps
    widths = true_widths_px(cut, shape, source_width_px)
    if encoding.mbit_s is not None:
        video = encoding.mbit_s * 1e6 * duration
    else:
        pixels = shape.size_px[0] * shape.size_px[1] * frames
        video = pixels * _BITS_PER_PIXEL_CRF19 * 2.0 ** ((19 - encoding.crf) / 6.0)
    size = round((video + encoding.aac_kbit_s * 1000 * duration) / 8)
    if encoding.mbit_s is None and measured_bytes is not None:
        return Forecast(frames, duration, widths, measured_bytes, True, measured=True)
    return Forecast(frames, duration, widths, size, encoding.mbit_s is None)
