"""The day as a project, and its clips: shipped ones, and how they were recorded."""

import shutil
from collections.abc import Callable
from pathlib import Path

import msgspec
import platformdirs

from glintor.media.encoding import Encoding
from glintor.offload.copy import bring_over, file_hash
from glintor.offload.manifest import write_manifest
from glintor.project.model import Camera, Cut, Exposure, Placement, Project, Shot, Site, Take
from glintor.project.store import write_project
from glintor.reframing.path import Keyframe
from glintor.reframing.track import track_file
from glintor.simulation.camera import Recording, record

PROJECT_NAME = "hollin-cut.glintor"
CLIPS = Path(__file__).parent / "clips"

SITE = Site(
    name="Hollin Cut", day="2026-09-26", zone="Europe/London", lat_deg=52.9, lon_deg=-1.9, way_bearing_deg=110.0,
    lowest_m=2.95, route=("Fennel Wharf", "Pell Lock", "Cobdale tunnel", "Ashby Reach"),
)  # fmt: skip
CAMERA = Camera()
_BRIGHT = Exposure(rate_fps=24.0, shutter_s=1.0 / 50.0, iso=100.0, nd_stops=6.0)

SHOTS = (
    Shot(
        id="wharf-portrait", name="Wharf portrait", start_min=8 * 60 + 10, length_min=25,
        placement=Placement(
            setup="mini_tripod", stage="wharf", ahead_m=-1.2, left_m=0.4, stick_m=1.2, heading_deg=-15.0,
            subject_ahead_m=0.8, subject_left_m=0.9,
        ),
        exposure=Exposure(rate_fps=24.0, shutter_s=1.0 / 50.0, iso=100.0, nd_stops=4.0),
    ),
    Shot(
        id="towpath-walk", name="Towpath walk", start_min=9 * 60 + 20, length_min=40,
        placement=Placement(
            setup="held_stick", stage="towpath", ahead_m=0.95, left_m=0.05, stick_m=1.2, heading_deg=180.0,
            subject_ahead_m=0.0, subject_left_m=0.0,
        ),
        exposure=_BRIGHT,
    ),
    Shot(
        id="roof-cobdale", name="Roof through Cobdale", start_min=10 * 60 + 36, length_min=65,
        placement=Placement(
            setup="rail_clamp", stage="cobdale", ahead_m=-2.9, left_m=0.74, stick_m=0.7, heading_deg=180.0,
            subject_ahead_m=-6.15, subject_left_m=0.30, subject_up_m=-0.845,
        ),
        exposure=_BRIGHT,
    ),
    Shot(
        id="pell-lock", name="Pell Lock rising", start_min=12 * 60 + 25, length_min=55,
        placement=Placement(
            setup="weighted_foot", stage="lock", ahead_m=-7.6, left_m=0.2, stick_m=1.6, heading_deg=60.0,
            subject_ahead_m=-5.75, subject_left_m=-3.3, subject_up_m=-0.6,
        ),
        exposure=Exposure(rate_fps=24.0, shutter_s=1.0 / 50.0, iso=100.0, nd_stops=6.0, interval_s=1.0),
    ),
    Shot(
        id="stern-third-person", name="Stern, third person", start_min=14 * 60 + 10, length_min=50,
        placement=Placement(
            setup="rail_clamp", stage="cobdale", ahead_m=-4.3, left_m=-0.74, stick_m=1.2, heading_deg=205.0, tilt_deg=1.5,
            subject_ahead_m=-6.15, subject_left_m=0.30, subject_up_m=-0.845,
        ),
        exposure=Exposure(rate_fps=30.0, shutter_s=1.0 / 800.0, iso=100.0, nd_stops=2.0),
    ),
    Shot(
        id="tunnel-mouth", name="Tunnel mouth", start_min=16 * 60 + 15, length_min=35,
        placement=Placement(
            setup="mini_tripod", stage="cobdale", ahead_m=15.0, left_m=-0.3, stick_m=0.7, heading_deg=20.0,
            subject_ahead_m=16.6, subject_left_m=0.1,
        ),
        exposure=Exposure(rate_fps=24.0, shutter_s=1.0 / 50.0, iso=100.0, nd_stops=4.0),
    ),
)  # fmt: skip

FILM_S = {"towpath-walk": 12.0, "roof-cobdale": 15.0, "pell-lock": 12.0}
_SHIPPED = Encoding(crf=25, preset="slow", aac_kbit_s=96, key_every_s=0.5)
_ROOF_KEYS = (
    Keyframe(time_s=0.0, yaw_deg=-6.0, pitch_deg=-4.0, fov_deg=78.0, bend=0.15),
    Keyframe(time_s=2.2, yaw_deg=-6.0, pitch_deg=-4.0, fov_deg=78.0, bend=0.15),
    Keyframe(time_s=5.6, yaw_deg=-165.0, pitch_deg=2.0, fov_deg=108.0, bend=0.25),
    Keyframe(time_s=10.4, yaw_deg=-174.0, pitch_deg=4.0, fov_deg=100.0, bend=0.15),
    Keyframe(time_s=11.7, yaw_deg=-357.0, pitch_deg=-3.0, fov_deg=70.0, bend=0.1),
    Keyframe(time_s=15.0, yaw_deg=-366.0, pitch_deg=-3.0, fov_deg=62.0, bend=0.1),
)
_TOWPATH_KEYS = (
    Keyframe(time_s=0.0, yaw_deg=0.0, pitch_deg=-90.0, fov_deg=280.0, bend=1.0),
    Keyframe(time_s=4.0, yaw_deg=-8.0, pitch_deg=-21.0, fov_deg=104.0, bend=0.2),
    Keyframe(time_s=12.0, yaw_deg=4.0, pitch_deg=-17.0, fov_deg=88.0, bend=0.1),
)


def clip_number(shot_id: str) -> int:
    """The number that the camera gave this shot's clip."""
    return list(FILM_S).index(shot_id) + 1


def record_clip(
    shot_id: str, folder: Path, report: Callable[[float], None] = lambda _s: None, width_px: int = 1920
) -> Take:
    """Records one of the shipped clips anew, exactly as it was recorded."""
    shot = next(s for s in SHOTS if s.id == shot_id)
    recording = Recording(shot, SITE, CAMERA, FILM_S[shot_id], width_px, seed=clip_number(shot_id))
    folder.mkdir(parents=True, exist_ok=True)
    return record(
        recording, folder, clip=folder / f"clip-{clip_number(shot_id):04d}.mp4", encoding=_SHIPPED, report=report
    )


def write_demo_day(folder: Path, report: Callable[[float], None] = lambda _s: None) -> Path:
    """Writes project, card and footage of the demo day into `folder`; returns the project's path.

    Two takes are safe and cut, one is still only on the card. What is there already with the same content is kept.
    """
    card, safe = folder / "card", folder / "footage"
    (card / "clips").mkdir(parents=True, exist_ok=True)
    shots = []
    for number, shot in enumerate(SHOTS):
        if shot.id in FILM_S:
            shot = _with_take(shot, folder, card, safe)
        shots.append(shot)
        report((number + 1) / len(SHOTS))
    write_manifest(safe)
    target = folder / PROJECT_NAME
    write_project(target, Project(site=SITE, camera=CAMERA, shots=tuple(shots)))
    return target


def demo_project() -> Path:
    """The demo day of this person, written at first use."""
    folder = platformdirs.user_data_path("glintor") / "demo"
    file = folder / PROJECT_NAME
    return file if file.exists() else write_demo_day(folder)


def _with_take(shot: Shot, folder: Path, card: Path, safe: Path) -> Shot:
    source = CLIPS / f"clip-{clip_number(shot.id):04d}.mp4"
    clip = card / "clips" / source.name
    for origin, target in ((source, clip), (track_file(source), track_file(clip))):
        if not target.exists() or file_hash(target) != file_hash(origin):
            shutil.copyfile(origin, target)
    take = Take(
        id=f"{shot.id}-1", name=f"{shot.name}, take 1", start_min=shot.start_min, duration_s=FILM_S[shot.id],
        width_px=1920, rate_fps=shot.exposure.rate_fps, size_bytes=source.stat().st_size,
        card_file=f"clips/{clip.name}", placement=shot.placement, exposure=shot.exposure,
        rating=0 if shot.id == "pell-lock" else 4, marks_s=(5.0,) if shot.id == "roof-cobdale" else (),
    )  # fmt: skip
    if shot.id == "pell-lock":
        return msgspec.structs.replace(shot, takes=(take,))
    copied = bring_over(clip, safe)
    take = msgspec.structs.replace(take, safe_file=str(copied.target.relative_to(folder)), xxh64=copied.xxh64)
    keys = _ROOF_KEYS if shot.id == "roof-cobdale" else _TOWPATH_KEYS
    name = "Into the dark" if shot.id == "roof-cobdale" else "Down to earth"
    cut = Cut(id=f"{shot.id}-cut", name=name, take_id=take.id, in_s=0.0, out_s=FILM_S[shot.id], keys=keys)
    return msgspec.structs.replace(shot, takes=(take,), cuts=(cut,))
