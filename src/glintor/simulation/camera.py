"""The simulated camera: records a take of the simulated place onto a folder that stands for the memory card."""

import threading
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from glintor.errors import Cancelled, InputError
from glintor.files import whole_file
from glintor.media.encoding import Encoding
from glintor.media.write import FilmWriter
from glintor.pixels import colour
from glintor.project.model import Camera, Shot, Site, Take
from glintor.reframing.track import track_file, write_track
from glintor.simulation.place import Rig, Truth, build, render_sphere
from glintor.simulation.rig import light_of, rig_of
from glintor.simulation.sensor import develop
from glintor.simulation.sound import place_sound

CLIP_WIDTHS_PX = (960, 1440, 1920, 2880)
ON_CARD = Encoding(crf=23, preset="veryfast", aac_kbit_s=128, key_every_s=0.5)


@dataclass(frozen=True, slots=True)
class Recording:
    """What is to be recorded: the shot as it is set up, for so many seconds of film."""

    shot: Shot
    site: Site
    camera: Camera
    film_s: float
    width_px: int = 1920
    seed: int = 1

    def moment_s(self, frame: int) -> float:
        """Real time of a frame: a time-lapse leaps by its interval."""
        exposure = self.shot.exposure
        return frame * (exposure.interval_s or 1.0 / exposure.rate_fps)


def next_clip(card: Path) -> Path:
    """The next free numbered name on the card."""
    number = 1
    while (clip := card / "clips" / f"clip-{number:04d}.mp4").exists():
        number += 1
    return clip


def record(
    recording: Recording,
    card: Path,
    *,
    clip: Path | None = None,
    encoding: Encoding = ON_CARD,
    report: Callable[[float], None] = lambda _share: None,
    stop: threading.Event | None = None,
) -> Take:
    """Records onto the card and returns the take for the log. Cancelled leaves nothing on the card.

    Beside the clip lies its track: the subject's true direction and distance, which a real camera does not know.
    """
    if not card.is_dir():
        raise InputError(f"There is no card at {card}.", advice="Put the card in, or choose its folder.")
    stop = stop or threading.Event()
    exposure = recording.shot.exposure
    frames = max(round(recording.film_s * exposure.rate_fps), 1)
    target = clip or next_clip(card)
    rig = rig_of(recording.shot.placement, recording.camera)
    rate = Fraction(exposure.rate_fps).limit_denominator(1001)
    rows: list[tuple[float, ...]] = []
    with whole_file(target) as part:
        writer = FilmWriter(
            part,
            (recording.width_px, recording.width_px // 2),
            rate=rate,
            time_base=1 / rate,
            encoding=encoding,
            sound=_sound_blocks(recording, rig, frames / exposure.rate_fps),
        )
        try:
            for number in range(frames):
                if stop.is_set():
                    raise Cancelled
                picture, truth = photograph(recording, rig, recording.moment_s(number), number)
                rows.append(
                    (number / exposure.rate_fps, truth.subject_yaw_deg, truth.subject_pitch_deg, truth.subject_m)
                )
                frame, planes = writer.new_frame()
                drawn = colour.yuv(picture)
                planes.y[:], planes.u[:], planes.v[:] = drawn.y, drawn.u, drawn.v
                writer.write(frame, number, 1 / rate)
                report((number + 1) / frames)
            writer.close(frames / exposure.rate_fps)
        except BaseException:
            writer.abandon()
            raise
    write_track(track_file(target), rows)
    return Take(
        id=f"{recording.shot.id}-{len(recording.shot.takes) + 1}",
        name=f"{recording.shot.name}, take {len(recording.shot.takes) + 1}",
        start_min=recording.shot.start_min,
        duration_s=frames / exposure.rate_fps,
        width_px=recording.width_px,
        rate_fps=exposure.rate_fps,
        size_bytes=target.stat().st_size,
        card_file=str(target.relative_to(card)),
        placement=recording.shot.placement,
        exposure=exposure,
    )


def photograph(recording: Recording, rig: Rig, time_s: float, number: int) -> tuple[NDArray[np.uint8], Truth]:
    """One exposed picture of the sphere, and the truth beside it. The noise depends on seed and frame alone."""
    scene = build(rig, light_of(recording.site, recording.shot.start_min + time_s / 60.0), time_s)
    luminance = render_sphere(scene, recording.width_px)
    rng = np.random.default_rng([recording.seed, number])
    return develop(luminance, recording.camera, recording.shot.exposure, rng), scene.truth


def _sound_blocks(recording: Recording, rig: Rig, film_s: float) -> Iterator[NDArray[np.float32]]:
    sound = place_sound(rig.stage, rig.carrier, film_s, recording.seed)
    for start in range(0, sound.shape[1], 4800):
        yield sound[:, start : start + 4800]
