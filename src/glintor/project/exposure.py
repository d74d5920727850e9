"""What a shot's camera is set to."""

from typing import Annotated

import msgspec
from msgspec import Meta

from glintor.exposure.aims import Aim
from glintor.exposure.modes import Codec
from glintor.exposure.program import Held, Program
from glintor.exposure.sources import LightFrom

Positive = Annotated[float, Meta(gt=0)]
NotNegative = Annotated[float, Meta(ge=0)]
Identity = Annotated[str, Meta(min_length=1, max_length=64, pattern="^[A-Za-z0-9_-]+$")]


class Exposure(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """What the camera is set to. interval_s above 0 is a time-lapse: one frame every so many seconds.

    mode       by its id, "" for the one that rate and interval ask for
    program    what follows the light; offset_stops: brighter above 0; each_lens: one exposure for each lens
    white_k    white balance, None where the camera finds it; sharpen: in the camera, 0 to 1
    aim        what the solver looks for; preset: the name of the kit's own setting that it was taken from
    light      what is known of the light along the take beside the simulated place
    take_s     how long one take is
    """

    rate_fps: Positive = 24.0
    shutter_s: Positive = 1.0 / 48.0
    iso: Positive = 100.0
    nd_stops: NotNegative = 0.0
    curve: Identity = "standard"
    interval_s: NotNegative = 0.0
    mode: str = ""
    program: Program = "manual"
    offset_stops: Annotated[float, Meta(ge=-5, le=5)] = 0.0
    each_lens: bool = False
    white_k: Annotated[float, Meta(ge=2000, le=15000)] | None = None
    sharpen: Annotated[float, Meta(ge=0, le=1)] = 0.0
    codec: Codec = "H.264"
    bracket_frames: Annotated[int, Meta(ge=2, le=15)] = 3
    bracket_stops: Annotated[float, Meta(gt=0, le=4)] = 2.0
    aim: Aim = "highlights"
    preset: str = ""
    light: Annotated[tuple[LightFrom, ...], Meta(max_length=12)] = ()
    take_s: Annotated[float, Meta(gt=0, le=86400)] = 60.0

    @property
    def held(self) -> Held:
        """What of it is held while the light changes."""
        return Held(self.rate_fps, self.shutter_s, self.iso, self.nd_stops)

    @property
    def bracket_offsets(self) -> tuple[float, ...]:
        """Stops of each frame of a series from its middle."""
        middle = (self.bracket_frames - 1) / 2.0
        return tuple((n - middle) * self.bracket_stops for n in range(self.bracket_frames))
