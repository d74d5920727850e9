"""A take of the simulated camera onto a folder that stands for the memory card, with its truth beside it."""

import threading
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from glintor.errors import Cancelled
from glintor.exposure.program import Setting
from glintor.files import whole_file
from glintor.media.encoding import Encoding
from glintor.media.inertial import inertial_file, write_inertial
from glintor.media.write import FilmWriter
from glintor.pixels import colour
from glintor.recording.link import CardFile, CardGone
from glintor.reframing.track import track_file, write_track
from glintor.simulation.camera import Roll, exposed
from glintor.simulation.motion import inertial_log
from glintor.simulation.recording import Recording
from glintor.simulation.rig import Rig
from glintor.simulation.route import route_file, write_route
from glintor.simulation.sound import Heard, place_sound
from glintor.types import Report

ON_CARD = Encoding(crf=23, preset="veryfast", aac_kbit_s=128, key_every_s=0.5)
_LEAST_AIR_M_S = 0.6  # past a microphone that stands still


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
    report: Report = lambda _share: None,
    stop: threading.Event | None = None,
    ends: Callable[[float, int], bool] = lambda _film_s, _bytes: False,
) -> CardFile:
    """Records onto the card and tells what lies there. Cancelled leaves nothing on the card.

    ends(film seconds and bytes so far) says after each frame whether the recording ends there; what is
    recorded by then is kept. Beside the clip lie its track, its inertial log and its route (see docs/formats.md).
    """
    if not card.is_dir():
        raise CardGone(f"There is no card at {card}.", advice="Put the card in, or choose its folder.")
    target, roll = clip or next_clip(card), Roll(recording)
    done, rows, first = _film(
        recording, roll, target, encoding, report=report, stop=stop or threading.Event(), ends=ends
    )
    film_s = done / recording.rate_fps
    write_track(track_file(target), rows)
    if not recording.interval_s:
        write_inertial(inertial_file(target), inertial_log(roll.motion, film_s, recording.seed))
    write_route(
        route_file(target),
        recording.site,
        recording.site.bearing_of(recording.shot.placement),
        roll.rig,
        recording.shot.start_min,
        recording.moment_s(done),
        recording.clock,
        begins_s=recording.begins_s,
    )
    return CardFile(
        path=target.relative_to(card).as_posix(),
        size_bytes=target.stat().st_size,
        began_min=recording.shot.start_min + recording.clock.shown_s(recording.begins_s) / 60.0,
        film_s=film_s,
        width_px=recording.width_px,
        exposure=exposed(recording, first) if first is not None else recording.exposure,
    )


def _film(
    recording: Recording,
    roll: Roll,
    target: Path,
    encoding: Encoding,
    *,
    report: Report,
    stop: threading.Event,
    ends: Callable[[float, int], bool],
) -> tuple[int, list[tuple[float, ...]], Setting | None]:
    """Writes the film: how many frames, where the subject was in each (seconds, yaw, pitch, metres), and what it began with."""
    rate = Fraction(recording.rate_fps).limit_denominator(1001)
    frames = max(round(recording.film_s * recording.rate_fps), 1)
    done = 0
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
    return done, rows, first


def _sound_blocks(recording: Recording, rig: Rig, film_s: float) -> Iterator[NDArray[np.float32]]:
    air = Heard(
        recording.heard.horns_s, recording.heard.claps_s, recording.heard.air_m_s or max(rig.speed_m_s, _LEAST_AIR_M_S)
    )
    sound = place_sound(
        rig.stage, rig.carrier, film_s, recording.seed, heard=air, begins_s=recording.begins_s, clock=recording.clock
    )
    for start in range(0, sound.shape[1], 4800):
        yield sound[:, start : start + 4800]
