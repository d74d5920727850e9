"""The simulated camera: what each frame of a take looks like, in order, because its exposure follows the light."""

import msgspec
import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.exposure.metering import meter
from glintor.exposure.program import Follower, Setting, setting_for
from glintor.exposure.values import ev_of_luminance
from glintor.project.model import Exposure
from glintor.simulation import optics
from glintor.simulation.motion import Motion, motion_of
from glintor.simulation.place import Scene, Truth, build, see
from glintor.simulation.pose import Pose
from glintor.simulation.recording import Recording
from glintor.simulation.rig import Rig, light_of, rig_of
from glintor.simulation.sensor import Finish, develop

HDR_STOPS = 3.0  # by which the second exposure of an HDR film is shorter (judgement, no source)


class Frame(Struct, frozen=True):
    """One exposed picture (H, W, 3), what it was exposed with (front lens, back lens), and the truth beside it."""

    picture: NDArray[np.uint8]
    settings: tuple[Setting, Setting]
    truth: Truth


class Roll:
    """A take while it is recorded: frames in order, because the exposure follows the light with a lag."""

    def __init__(self, recording: Recording) -> None:
        self.recording = recording
        self.rig: Rig = rig_of(recording.shot.placement, recording.camera, recording.site)
        self.motion: Motion = motion_of(self.rig, recording.seed)
        self._followers = (Follower(), Follower())
        self._last_s: float | None = None

    def frame(self, number: int) -> Frame:
        recording = self.recording
        moment = recording.moment_s(number)
        luminance, scene = self._light(moment)
        settings = self._settings(luminance, moment)
        options = recording.set_to
        hdr = HDR_STOPS if options.mode.kind == "hdr film" else 0.0
        finish = Finish(options.white_k, options.sharpen, hdr)
        rng = np.random.default_rng([recording.seed, number])
        pictures = [
            develop(luminance, recording.camera, exposed(recording, setting), rng, finish)
            for setting in dict.fromkeys(settings)
        ]
        front = self._front_columns(luminance.shape[1])[None, :, None]
        picture = pictures[0] if len(pictures) == 1 else np.where(front, pictures[0], pictures[1])
        return Frame(picture, settings, scene.truth)

    def _front_columns(self, width: int) -> NDArray[np.bool_]:
        columns = np.arange(width)
        return columns < width // 2 if self.recording.circles else (columns >= width // 4) & (columns < width * 3 // 4)

    def _settings(self, luminance: NDArray[np.float32], moment_s: float) -> tuple[Setting, Setting]:
        recording, exposure = self.recording, self.recording.exposure
        options = recording.set_to
        if options.program == "manual":
            own = Setting(exposure.shutter_s, exposure.iso)
            return own, own
        passed = moment_s - self._last_s if self._last_s is not None else 0.0
        self._last_s = moment_s
        found = []
        for seen, follower in zip(self._metered(luminance, options.each_lens), self._followers, strict=False):
            ev = follower.follow(seen, passed)
            found.append(setting_for(options.program, ev, exposure.held, recording.camera.sensor, options.offset_stops))
        return found[0], found[-1]

    def _metered(self, luminance: NDArray[np.float32], each_lens: bool) -> tuple[float, ...]:
        """EV100 of the whole picture, or of the front and the back lens; of every fourth pixel, which is enough."""
        coarse = luminance[::4, ::4]
        if self.recording.circles or self.recording.across_deg:
            ev = ev_of_luminance(np.maximum(coarse[..., 1], 1e-4))
            seen, front = coarse[..., 1] > 0, self._front_columns(coarse.shape[1])[None, :]
            parts = (seen & front, seen & ~front) if each_lens else (seen,)
            return tuple(float(ev[part].mean()) for part in parts)
        light = meter(coarse)
        return (light.front, light.rear) if each_lens else (light.mean,)

    def _light(self, moment_s: float) -> tuple[NDArray[np.float32], Scene]:
        """The mean luminance over the time of a frame, each row at its own time where the sensor is read in rows."""
        recording = self.recording
        count, shutter = recording.blur_samples, recording.exposure.shutter_s
        offsets = [shutter * ((k + 0.5) / count - 0.5) for k in range(count)] if count > 1 else [0.0]
        first = self._scene(moment_s)
        if recording.readout_s <= 0.0:
            return self._mean(moment_s, offsets, first), first
        bands = 8
        rows = recording.size_px[1]
        out = np.empty((rows, recording.width_px, 3), np.float32)
        for band in range(bands):
            part = slice(rows * band // bands, rows * (band + 1) // bands)
            late = recording.readout_s * ((band + 0.5) / bands - 0.5)
            out[part] = self._mean(moment_s + late, offsets, None)[part]
        return out, first

    def _mean(self, moment_s: float, offsets: list[float], known: Scene | None) -> NDArray[np.float32]:
        total: NDArray[np.float32] | None = None
        for offset in offsets:
            scene = known if known is not None and len(offsets) == 1 else self._scene(moment_s + offset)
            seen = picture_of(self.recording, scene)
            total = seen if total is None else total + seen
        assert total is not None
        return total / np.float32(len(offsets))

    def _scene(self, time_s: float) -> Scene:
        recording = self.recording
        moved: Pose | None = None if recording.steady else self.motion.at(time_s)
        light = light_of(recording.site, recording.shot.start_min + time_s / 60.0, recording.shot.placement)
        apart = recording.two_lenses or recording.circles or bool(recording.across_deg)
        return build(self.rig, light, time_s, moved=moved, apart=apart)


def exposed(recording: Recording, setting: Setting) -> Exposure:
    return msgspec.structs.replace(recording.exposure, shutter_s=setting.shutter_s, iso=setting.iso)


def picture_of(recording: Recording, scene: Scene) -> NDArray[np.float32]:
    """The light on the picture that this camera makes of a scene, cd/m2."""
    width, height = recording.size_px
    if not (recording.two_lenses or recording.circles or recording.across_deg):
        return see(scene, (width, height)).luminance
    lens, gap = recording.lens, recording.camera.gap_m
    side = height if recording.circles else max(width // 2, 64)
    front, back = optics.circles(scene, side, lens, gap, drops=recording.drops)
    if recording.circles:
        return np.concatenate([front.luminance, back.luminance], axis=1)
    ahead, behind = (optics.evened(seen.luminance, lens) for seen in (front, back))
    if recording.across_deg:
        return optics.single(ahead, lens, (width, height), recording.across_deg)
    level = optics.level_of(scene)
    return optics.stitch(ahead, behind, width, lens, gap, far_m=recording.stitch_far_m, level=level)
