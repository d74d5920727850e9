"""What the simulated camera is to record: the shot, how the camera is set, and what its lenses and clock are like."""

import math

from msgspec import Struct, field

from glintor.project.model import Camera, Exposure, Shot
from glintor.project.site import Site
from glintor.recording.link import Options, options_for
from glintor.simulation import optics
from glintor.simulation.sound import Clock, Heard
from glintor.sphere.fisheye import Fisheye, Guard

CLIP_WIDTHS_PX = (960, 1440, 1920, 2880)


class Recording(Struct, frozen=True):
    """What is to be recorded: the shot as it is set up, for so many seconds of film.

    options       what the camera is set to; None locks the shot's own exposure, in the mode that it asks for
    two_lenses    renders both lenses from their own centres and stitches them, as the real thing; twice as slow
    circles       leaves them unstitched, side by side
    stitch_far_m  the distance that the stitch is right for
    steady        the camera keeps its pictures level and still by itself; else they move as its body does
    blur_samples  pictures averaged over the time of a frame; 1 stops all motion
    readout_s     from the first row of the sensor to the last; 0 reads all at once
    begins_s      true seconds after the shot's start at which this camera begins
    """

    shot: Shot
    site: Site
    camera: Camera
    film_s: float
    width_px: int = 1920
    seed: int = 1
    options: Options | None = None
    two_lenses: bool = False
    circles: bool = False
    stitch_far_m: float = math.inf
    steady: bool = True
    blur_samples: int = 1
    readout_s: float = 0.0
    guard: Guard | None = None
    drops: tuple[optics.Drop, ...] = ()
    clock: Clock = field(default_factory=Clock)
    heard: Heard = field(default_factory=Heard)
    begins_s: float = 0.0

    @property
    def set_to(self) -> Options:
        return self.options or options_for(self.shot.exposure, self.camera.mode_of(self.shot.exposure))

    @property
    def exposure(self) -> Exposure:
        return self.set_to.exposure

    @property
    def rate_fps(self) -> float:
        return self.exposure.rate_fps

    @property
    def interval_s(self) -> float:
        """True seconds between frames of a time-lapse; 0 for film."""
        return self.set_to.interval_s

    @property
    def across_deg(self) -> float:
        """What one lens's frame shows across; 0 for spheres."""
        return self.set_to.mode.single_deg

    @property
    def size_px(self) -> tuple[int, int]:
        height = self.width_px * 9 // 16 if self.across_deg else self.width_px // 2
        return self.width_px, height // 2 * 2

    @property
    def lens(self) -> Fisheye:
        return Fisheye(math.radians(90.0 + self.camera.overlap_deg), guard=self.guard)

    def moment_s(self, frame: int) -> float:
        """True time of a frame after the shot's start: a time-lapse leaps by its interval."""
        return self.begins_s + frame * (self.interval_s or 1.0 / self.rate_fps) / self.clock.pace
