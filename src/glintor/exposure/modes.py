"""What a generic two-lens camera can record: its modes, and what excludes what in each."""

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from glintor.exposure.program import PROGRAMS, Program

USUAL_WIDTH_PX = 5760  # of the largest sphere of a generic camera
Kind = Literal["film", "hdr film", "single", "lapse", "photo", "bracket"]
Codec = Literal["H.264", "H.265"]
_ALL: tuple[Program, ...] = ("manual", "auto", "iso", "shutter")
CODEC_ADVICE = (
    "H.265 needs about half the bit rate for the same picture, and about twice the work to decode: choose it where the card is short and the "
    "machine that cuts has a decoder for it in hardware; else H.264, which plays and scrubs anywhere (common practice, no source)."
)
SPIN_FPS = 100.0  # a turn on a cord is over in a second: fewer frames are a blur (common practice, no source)


class Mode(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """One mode.

    width_px    of the sphere (or of the single lens's frame); single_deg: what that frame sees across
    programs    what may follow the light; each_lens: whether each lens may have its own exposure
    mbit_s      of its films, 0 where the camera's own number counts; codecs that it writes
    loops       whether it can overwrite its oldest files; levels: whether it steadies its pictures
    brackets    numbers of frames of a bracket; most_stops: from the middle one to either end
    """

    id: Annotated[str, Meta(min_length=1, max_length=64, pattern="^[A-Za-z0-9_-]+$")]
    words: str
    kind: Kind
    width_px: Annotated[int, Meta(ge=640, le=16384)]
    rates_fps: tuple[Annotated[float, Meta(gt=0)], ...] = ()
    single_deg: Annotated[float, Meta(ge=0, le=220)] = 0.0
    programs: tuple[Program, ...] = _ALL
    each_lens: bool = True
    mbit_s: Annotated[float, Meta(ge=0)] = 0.0
    codecs: tuple[Codec, ...] = ("H.264", "H.265")
    loops: bool = False
    levels: bool = True
    brackets: tuple[int, ...] = ()
    most_stops: Annotated[float, Meta(ge=0)] = 0.0

    @property
    def is_photo(self) -> bool:
        return self.kind in ("photo", "bracket")

    def excludes(
        self,
        *,
        rate_fps: float,
        program: Program,
        each_lens: bool,
        interval_s: float,
        codec: Codec = "H.264",
        frames: int = 3,
        step_stops: float = 2.0,
    ) -> list[str]:
        """What of a setting this mode does not allow, in words; empty where all goes."""
        out = []
        if self.rates_fps and rate_fps not in self.rates_fps:
            out.append(f"it has no {rate_fps:g} fps, only {', '.join(f'{rate:g}' for rate in self.rates_fps)}")
        if program not in self.programs:
            allowed = " or ".join(PROGRAMS[one] for one in self.programs)
            out.append(f"exposure cannot be {PROGRAMS[program]}, only {allowed}")
        if each_lens and not self.each_lens:
            out.append("both lenses have one exposure")
        if self.kind == "lapse" and interval_s and not 0.5 <= interval_s <= 120.0:
            out.append(f"an interval of {interval_s:g} s is not offered, only 0.5 to 120 s")
        if not self.is_photo and codec not in self.codecs:
            out.append(f"it is not written as {codec}")
        if self.kind == "bracket":
            if frames not in self.brackets:
                out.append(f"a bracket has {', '.join(str(n) for n in self.brackets)} frames, not {frames}")
            elif (frames - 1) / 2 * step_stops > self.most_stops + 1e-9:
                out.append(f"its ends lie at most {self.most_stops:g} stops from the middle")
        return out


_FILMS = (24.0, 25.0, 30.0)
USUAL_MODES = (
    Mode("sphere-5k7", "5.7K sphere", "film", 5760, _FILMS, loops=True),
    Mode("sphere-4k", "4K sphere", "film", 3840, (30.0, 50.0), mbit_s=80.0, loops=True),
    Mode("sphere-3k", "3K sphere, slow motion", "film", 3008, (100.0,), each_lens=False),
    Mode("hdr-5k7", "HDR film, 5.7K sphere", "hdr film", 5760, (24.0, 25.0), programs=("auto",), each_lens=False),
    Mode("single-150", "one lens, 150°", "single", 2720, (*_FILMS, 50.0), 150.0, each_lens=False, mbit_s=60.0, loops=True),
    Mode("single-170", "one lens, 170°", "single", 2720, (*_FILMS, 50.0), 170.0, each_lens=False, mbit_s=60.0, loops=True),
    Mode("lapse", "time-lapse", "lapse", 5760, _FILMS),
    Mode("photo", "photo", "photo", 5760),
    Mode("bracket", "photo with bracket", "bracket", 5760, brackets=(3, 5, 7, 9), most_stops=4.0),
)  # fmt: skip
MODES = {mode.id: mode for mode in USUAL_MODES}


def mode_for(rate_fps: float, interval_s: float, modes: tuple[Mode, ...] = USUAL_MODES) -> Mode:
    """The sphere mode that a shot's own setting asks for: the largest that has its frame rate."""
    if interval_s > 0.0:
        lapse = next((mode for mode in modes if mode.kind == "lapse"), None)
        if lapse is not None:
            return lapse
    films = [mode for mode in modes if mode.kind == "film"] or list(modes)
    return next((mode for mode in films if rate_fps in mode.rates_fps), films[0])
