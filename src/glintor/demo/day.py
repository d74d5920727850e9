"""The day as a project, and its clips: shipped ones, and how they were recorded."""

import shutil
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from glintor.exposure.modes import MODES
from glintor.exposure.program import Program
from glintor.files import file_hash, whole_file
from glintor.media.encoding import Encoding
from glintor.offload.card import beside
from glintor.offload.copy import bring_over
from glintor.offload.manifest import write_manifest
from glintor.placement.subject import Subject
from glintor.placement.windows import Wanted
from glintor.places import own_folder
from glintor.project.journal import journal_file, opened
from glintor.project.kit import default_kit
from glintor.project.model import Camera, Exposure, Project, Shot
from glintor.project.site import Placement, Site
from glintor.project.store import write_project
from glintor.recording.link import CardFile, options_for
from glintor.recording.session import take_of_file
from glintor.reframing.cut import Cut
from glintor.reframing.path import Keyframe
from glintor.simulation.body import SimulatedCamera
from glintor.simulation.onto_card import record
from glintor.simulation.recording import Recording
from glintor.simulation.sound import Clock, Heard
from glintor.types import Report

PROJECT_NAME = "hollin-cut.glintor"
CLIPS = Path(__file__).parent / "clips"

SITE = Site(
    name="Hollin Cut", day="2026-09-26", zone="Europe/London", lat_deg=52.9, lon_deg=-1.9, way_bearing_deg=110.0,
    lowest_m=2.95, permission="free",
    hazards="Low bridges, deep water at the lock, darkness in the tunnel", route=("Fennel Wharf", "Pell Lock", "Cobdale tunnel", "Ashby Reach"),
)  # fmt: skip
CAMERA = Camera()
_MIRA = Subject(name="Mira")
_BRIGHT = Exposure(rate_fps=24.0, shutter_s=1.0 / 50.0, iso=100.0, nd_stops=6.0)

SHOTS = (
    Shot(
        id="wharf-portrait", name="Wharf portrait", start_min=8 * 60 + 10, length_min=25,
        purpose="who steers today", story="Fennel Wharf", film_s=10.0, light=Wanted(not_after_min=600.0),
        placement=Placement(
            setup="mini_tripod", stage="wharf", ahead_m=-1.2, left_m=0.4, stick_m=1.2, heading_deg=-15.0,
            subjects=(replace(_MIRA, ahead_m=0.8, left_m=0.9),),
        ),
        exposure=Exposure(rate_fps=24.0, shutter_s=1.0 / 50.0, iso=100.0, nd_stops=4.0),
    ),
    Shot(
        id="towpath-walk", name="Towpath walk", start_min=9 * 60 + 20, length_min=40,
        purpose="from planet to path: where we are", story="Fennel Wharf", film_s=12.0,
        placement=Placement(
            setup="held_stick", carrier="walker", stage="towpath", ahead_m=0.95, left_m=0.05, stick_m=1.2, heading_deg=180.0,
            subjects=(_MIRA,),
        ),
        exposure=_BRIGHT,
    ),
    Shot(
        id="roof-cobdale", name="Roof through Cobdale", start_min=10 * 60 + 36, length_min=65,
        purpose="into the dark with her", story="Cobdale tunnel", film_s=15.0, fit_min=15.0,
        placement=Placement(
            setup="rail_clamp", carrier="boat", stage="cobdale", ahead_m=-2.9, left_m=0.74, stick_m=0.7, heading_deg=180.0,
            subjects=(replace(_MIRA, ahead_m=-6.15, left_m=0.30, up_m=-0.845),),
        ),
        exposure=_BRIGHT,
    ),
    Shot(
        id="pell-lock", name="Pell Lock rising", start_min=12 * 60 + 25, length_min=55,
        purpose="the boat rises", story="Pell Lock", film_s=12.0, aspects=("16:9", "1:1"), fit_min=10.0,
        placement=Placement(
            setup="weighted_foot", stage="lock", ahead_m=-7.6, left_m=0.2, stick_m=1.6, heading_deg=60.0,
            subjects=(replace(_MIRA, ahead_m=-5.75, left_m=-3.3, up_m=-1.575),),
        ),
        exposure=Exposure(rate_fps=24.0, shutter_s=1.0 / 50.0, iso=100.0, nd_stops=6.0, interval_s=1.0),
    ),
    Shot(
        id="stern-third-person", name="Stern, third person", start_min=14 * 60 + 10, length_min=50,
        purpose="she and the way, seen as by a companion", story="Cobdale tunnel", film_s=20.0, fit_min=15.0,
        placement=Placement(
            setup="rail_clamp", carrier="boat", stage="cobdale", ahead_m=-4.3, left_m=-0.74, stick_m=1.2, heading_deg=205.0, tilt_deg=1.5,
            subjects=(replace(_MIRA, ahead_m=-6.15, left_m=0.30, up_m=-0.845),),
        ),
        exposure=Exposure(rate_fps=30.0, shutter_s=1.0 / 800.0, iso=100.0, nd_stops=2.0),
    ),
    Shot(
        id="tunnel-mouth", name="Tunnel mouth", start_min=16 * 60 + 15, length_min=35,
        purpose="a picture that holds dark and bright", story="Cobdale tunnel", film_s=5.0, light=Wanted(not_before_min=900.0),
        placement=Placement(
            setup="mini_tripod", stage="cobdale", ahead_m=15.0, left_m=-0.3, stick_m=0.7, heading_deg=20.0,
            subjects=(replace(_MIRA, ahead_m=16.6, left_m=0.1),),
        ),
        exposure=Exposure(rate_fps=24.0, shutter_s=1.0 / 50.0, iso=100.0, nd_stops=4.0),
    ),
)  # fmt: skip

SECOND_CAMERA = Camera(id="second", name="second twin-lens 5.7K", gap_m=0.030)
KIT = replace(default_kit(), cameras=(CAMERA, SECOND_CAMERA))
SECOND_CLOCK = Clock(offset_s=-37.4, drift_ppm=18.0)  # nobody set it right
HORN_S = 63.5  # true seconds after the lock shot begins
_FAR_SIDE = Placement(
    setup="mini_tripod", stage="lock", ahead_m=-2.0, left_m=-7.3, stick_m=0.7, heading_deg=225.0,
    subjects=(replace(_MIRA, ahead_m=-5.75, left_m=-3.3, up_m=-1.575),),
)  # fmt: skip


class Clip(Struct, frozen=True):
    """One shipped recording of the day.

    card    the folder that stands for its camera's card; a clip of the second camera is only in the footage
    safe    whether it has been brought over
    live    films a shot that is set to a time-lapse in real time
    """

    shot_id: str
    number: int
    film_s: float
    width_px: int = 1920
    card: str = "card"
    safe: bool = True
    rating: int = 0
    live: bool = False
    program: Program = "manual"
    camera: Camera = CAMERA
    placement: Placement | None = None
    clock: Clock = Clock()
    begins_s: float = 0.0
    horns_s: tuple[float, ...] = ()
    crf: int = 25

    @property
    def file(self) -> Path:
        return CLIPS / f"clip-{self.number:04d}.mp4"

    @property
    def shot(self) -> Shot:
        shot = next(s for s in SHOTS if s.id == self.shot_id)
        exposure = replace(shot.exposure, interval_s=0.0 if self.live else shot.exposure.interval_s)
        return replace(shot, exposure=exposure, placement=self.placement or shot.placement)

    def recording(self, width_px: int | None = None, film_s: float | None = None) -> Recording:
        shot = self.shot
        options = options_for(shot.exposure, program=self.program)
        return Recording(
            shot, SITE, self.camera, film_s or self.film_s, width_px or self.width_px, seed=self.number, options=options,
            clock=self.clock, heard=Heard(horns_s=self.horns_s), begins_s=self.begins_s,
        )  # fmt: skip


DAY_CLIPS = (
    Clip("wharf-portrait", 1, 6.0, 1440, rating=3, program="auto", crf=27),
    Clip("towpath-walk", 2, 12.0, rating=4),
    Clip("roof-cobdale", 3, 15.0, rating=4),
    Clip("pell-lock", 4, 12.0, safe=False),
    Clip("pell-lock", 5, 7.0, 1440, safe=False, live=True, begins_s=60.0, horns_s=(HORN_S,), crf=27),
    Clip(
        "pell-lock", 101, 7.0, 1440, card="card-2", live=True, camera=SECOND_CAMERA, placement=_FAR_SIDE, clock=SECOND_CLOCK,
        begins_s=61.2, horns_s=(HORN_S,), crf=27,
    ),
    Clip("stern-third-person", 6, 8.0, 1440, rating=2, crf=27),
)  # fmt: skip
BRACKET_SHOT, BRACKET = "tunnel-mouth", ("photo-0001.jpg", "photo-0002.jpg", "photo-0003.jpg", "bracket-0001.csv")
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


_CUTS = {"roof-cobdale": ("Into the dark", _ROOF_KEYS), "towpath-walk": ("Down to earth", _TOWPATH_KEYS)}


def record_clip(
    clip: Clip, folder: Path, report: Report = lambda _s: None, *, width_px: int | None = None,
    film_s: float | None = None,
) -> CardFile:  # fmt: skip
    """Records one of the shipped clips anew, exactly as it was recorded."""
    folder.mkdir(parents=True, exist_ok=True)
    encoding = Encoding(crf=clip.crf, preset="slow", aac_kbit_s=96, key_every_s=0.5)
    recording = clip.recording(width_px, film_s)
    return record(recording, folder, clip=folder / clip.file.name, encoding=encoding, report=report)


def record_bracket(folder: Path, *, width_px: int = 1920) -> None:
    """Photographs the tunnel mouth with a bracket of three, as shipped."""
    shot = next(s for s in SHOTS if s.id == BRACKET_SHOT)
    options = options_for(shot.exposure, MODES["bracket"], bracket_frames=3, bracket_stops=3.0)
    camera = SimulatedCamera(Recording(shot, SITE, CAMERA, 1.0, width_px, seed=7, options=options), folder)
    camera.take_picture()


def write_demo_day(folder: Path, report: Report = lambda _s: None) -> Path:
    """Writes project, card and footage of the demo day into `folder`; returns the project's path.

    Two takes are cut, some are safe, some still only on the card. What is there already with the same content is kept,
    and so is a project that somebody worked on. Raises WriteError, ProjectError where what lies there cannot be read.
    """
    target = folder / PROJECT_NAME
    if target.exists() or journal_file(target).exists():
        opened(target)  # a day that cannot be read is somebody's too
        return target
    shots = {shot.id: shot for shot in SHOTS}
    for number, clip in enumerate(DAY_CLIPS):
        shots[clip.shot_id] = _with_take(shots[clip.shot_id], clip, folder)
        report((number + 1) / len(DAY_CLIPS))
    for name in BRACKET:
        _lay(CLIPS / name, folder / "card" / "photos" / name)
    write_manifest(folder / "footage")
    write_project(target, Project(site=SITE, kit=KIT, shots=tuple(shots.values())), make_folder=True)
    return target


def demo_project() -> Path:
    """The demo day of this person, written at first use."""
    folder = own_folder("data") / "demo"
    file = folder / PROJECT_NAME
    return file if file.exists() else write_demo_day(folder)


def _lay(origin: Path, target: Path) -> None:
    if not target.exists() or file_hash(target) != file_hash(origin):
        with whole_file(target) as part:
            shutil.copyfile(origin, part)


def _with_take(shot: Shot, clip: Clip, folder: Path) -> Shot:
    on_card = folder / clip.card / "clips" / clip.file.name
    for origin in (clip.file, *beside(clip.file)):
        _lay(origin, on_card.with_name(origin.name))
    planned, options = clip.shot, clip.recording().set_to
    file = CardFile(
        f"clips/{on_card.name}" if clip.card == "card" else "", clip.file.stat().st_size, film_s=clip.film_s, width_px=clip.width_px,
        began_min=shot.start_min + clip.clock.shown_s(clip.begins_s) / 60.0, exposure=planned.exposure,
    )  # fmt: skip
    logged = replace(planned, takes=shot.takes)
    take = replace(
        take_of_file(logged, clip.camera, file, options, clip.clock.offset_s),
        rating=clip.rating,
        marks_s=(5.0,) if shot.id == "roof-cobdale" else (),
        note="second camera" if clip.card != "card" else "",
    )
    if clip.safe:
        copied = bring_over(on_card, folder / "footage", card=folder / clip.card)
        safe = replace(take.files[0], copy=str(copied.target.relative_to(folder)), xxh64=copied.xxh64)
        take = replace(take, files=(safe,))
    shot = replace(shot, takes=(*shot.takes, take))
    if shot.id not in _CUTS:
        return shot
    name, keys = _CUTS[shot.id]
    cut = Cut(id=f"{shot.id}-cut", name=name, take_id=take.id, in_s=0.0, out_s=clip.film_s, keys=keys)
    return replace(shot, cuts=(cut,))
