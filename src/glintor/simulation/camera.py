"""The simulated camera: records a take of the simulated place onto a folder that stands for the memory card."""

import math
import threading
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

import msgspec
import numpy as np
from msgspec import Struct, field
from numpy.typing import NDArray

from glintor.errors import Cancelled
from glintor.exposure.metering import meter
from glintor.exposure.values import ev_of_luminance
from glintor.files import whole_file
from glintor.media.encoding import Encoding
from glintor.media.inertial import inertial_file, write_inertial
from glintor.media.write import FilmWriter
from glintor.pixels import colour
from glintor.placement.carriers import CARRIERS
from glintor.project.model import Camera, Exposure, Shot, Site
from glintor.recording.link import CardFile, CardGone, Options, options_for
from glintor.reframing.track import track_file, write_track
from glintor.simulation import optics
from glintor.simulation.motion import Motion, inertial_log, motion_of
from glintor.simulation.place import Rig, Scene, Truth, build, see
from glintor.simulation.pose import Pose
from glintor.simulation.programs import Follower, Setting, setting_for
from glintor.simulation.rig import light_of, rig_of
from glintor.simulation.route import route_file, write_route
from glintor.simulation.sensor import Finish, develop
from glintor.simulation.sound import Clock, Heard, place_sound
from glintor.sphere.fisheye import Fisheye, Guard

CLIP_WIDTHS_PX = (960, 1440, 1920, 2880)
ON_CARD = Encoding(crf=23, preset="veryfast", aac_kbit_s=128, key_every_s=0.5)
HDR_STOPS = 3.0  # by which the second exposure of an HDR film is shorter (judgement, no source)
_AIR_M_S = {carrier.id: max(carrier.speed_m_s, 0.6) for carrier in CARRIERS.values()}


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
        return self.options or options_for(self.shot.exposure)

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


def next_clip(card: Path) -> Path:
    """The next free numbered name on the card."""
    number = 1
    while (clip := card / "clips" / f"clip-{number:04d}.mp4").exists():
        number += 1
    return clip


class Frame(Struct, frozen=True):
    """One exposed picture (H, W, 3), what it was exposed with (front lens, back lens), and the truth beside it."""

    picture: NDArray[np.uint8]
    settings: tuple[Setting, Setting]
    truth: Truth


class Roll:
    """A take while it is recorded: frames in order, because the exposure follows the light with a lag."""

    def __init__(self, recording: Recording) -> None:
        self.recording = recording
        self.rig: Rig = rig_of(recording.shot.placement, recording.camera)
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
            develop(luminance, recording.camera, _exposure(recording, setting), rng, finish)
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
            found.append(setting_for(options.program, ev, exposure, recording.camera, options.offset_stops))
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
        light = light_of(recording.site, recording.shot.start_min + time_s / 60.0)
        apart = recording.two_lenses or recording.circles or bool(recording.across_deg)
        return build(self.rig, light, time_s, moved=moved, apart=apart)


def _exposure(recording: Recording, setting: Setting) -> Exposure:
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


def record(
    recording: Recording,
    card: Path,
    *,
    clip: Path | None = None,
    encoding: Encoding = ON_CARD,
    report: Callable[[float], None] = lambda _share: None,
    stop: threading.Event | None = None,
    ends: Callable[[float, int], bool] = lambda _film_s, _bytes: False,
) -> CardFile:
    """Records onto the card and tells what lies there. Cancelled leaves nothing on the card.

    ends(film seconds and bytes so far) says after each frame whether the recording ends there; what is
    recorded by then is kept. Beside the clip lie its track, its inertial log and its route (see docs/formats.md).
    """
    if not card.is_dir():
        raise CardGone(f"There is no card at {card}.", advice="Put the card in, or choose its folder.")
    stop = stop or threading.Event()
    rate = Fraction(recording.rate_fps).limit_denominator(1001)
    frames = max(round(recording.film_s * recording.rate_fps), 1)
    target = clip or next_clip(card)
    roll, done = Roll(recording), 0
    rows: list[tuple[float, ...]] = []
    first: Setting | None = None
    with whole_file(target) as part:
        writer = FilmWriter(
            part,
            recording.size_px,
            rate=rate,
            time_base=1 / rate,
            encoding=encoding,
            sound=_sound_blocks(recording, roll.rig, frames / recording.rate_fps),
        )
        try:
            for number in range(frames):
                if stop.is_set():
                    raise Cancelled
                shown = roll.frame(number)
                first = first or shown.settings[0]
                truth = shown.truth
                rows.append(
                    (number / recording.rate_fps, truth.subject_yaw_deg, truth.subject_pitch_deg, truth.subject_m)
                )
                frame, planes = writer.new_frame()
                drawn = colour.yuv(shown.picture)
                planes.y[:], planes.u[:], planes.v[:] = drawn.y, drawn.u, drawn.v
                writer.write(frame, number, 1 / rate)
                done = number + 1
                report(done / frames)
                if ends(done / recording.rate_fps, writer.packed_bytes):
                    break
            writer.close(done / recording.rate_fps)
        except BaseException:
            writer.abandon()
            raise
    film_s = done / recording.rate_fps
    write_track(track_file(target), rows)
    if not recording.interval_s:
        write_inertial(inertial_file(target), inertial_log(roll.motion, film_s, recording.seed))
    write_route(route_file(target), recording.site, roll.rig, recording.shot.start_min, recording.moment_s(done), recording.clock,
                begins_s=recording.begins_s)  # fmt: skip
    return CardFile(
        path=target.relative_to(card).as_posix(),
        size_bytes=target.stat().st_size,
        began_min=recording.shot.start_min + recording.clock.shown_s(recording.begins_s) / 60.0,
        film_s=film_s,
        width_px=recording.width_px,
        exposure=_exposure(recording, first) if first is not None else recording.exposure,
    )


def _sound_blocks(recording: Recording, rig: Rig, film_s: float) -> Iterator[NDArray[np.float32]]:
    air = Heard(recording.heard.horns_s, recording.heard.claps_s, recording.heard.air_m_s or _AIR_M_S[rig.carrier])
    sound = place_sound(
        rig.stage, rig.carrier, film_s, recording.seed, heard=air, begins_s=recording.begins_s, clock=recording.clock
    )
    for start in range(0, sound.shape[1], 4800):
        yield sound[:, start : start + 4800]
