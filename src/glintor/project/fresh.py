"""A day that begins empty: what the last one leaves to it, and one shot to work on."""

from datetime import date
from pathlib import Path

import msgspec

from glintor.placement.mounts import setup_by_id
from glintor.placement.scenery import UNKNOWN
from glintor.placement.subject import Subject
from glintor.project.model import Exposure, Project, Shot, fresh_id
from glintor.project.site import Placement, Site

_NOON_MIN, _SHOT_MIN = 720.0, 30.0
FIRST_SHOT = "First shot"


def own_folder(file: Path) -> Path:
    """Where a new day of that name is written: card, footage and films lie beside a day, so it gets a folder of its own
    where the one chosen has anything in it."""
    try:
        taken = any(file.parent.iterdir())
    except OSError:
        taken = False  # writing will say what is wrong with that folder
    return file.parent / file.stem / file.name if taken else file


def fresh_day(last: Project, shot: Shot, day: date, name: str) -> Project:
    """A new day after another one: the same camera and kit, the same part of the world, one shot placed and exposed as `shot`.

    What was found out about the last place (what it looks like, its route and waypoints, branches, power lines, hazards, permission) is not
    carried over; descriptions of places and carriers are kept to choose from.
    """
    old = last.site
    site = Site(
        name=name,
        day=day.isoformat(),
        zone=old.zone,
        lat_deg=old.lat_deg,
        lon_deg=old.lon_deg,
        mains_hz=old.mains_hz,
        places=old.places,
        carriers=old.carriers,
    )
    first = Shot(
        id="shot",
        name=FIRST_SHOT,
        start_min=_NOON_MIN,
        length_min=_SHOT_MIN,
        placement=msgspec.structs.replace(shot.placement, stage=UNKNOWN, way_bearing_deg=None, speed_m_s=None),
        exposure=msgspec.structs.replace(shot.exposure, interval_s=0.0),
    )
    return msgspec.structs.replace(last, site=site, shots=(first,))


def next_shot(shot: Shot, others: tuple[Shot, ...]) -> Shot:
    """A new shot after another one: as it is placed and exposed, with nothing of what that one was for: no purpose, no place
    in the story, no views, no walk, no light of its own."""
    placement = shot.placement.with_subject(goes_ahead_m=0.0, goes_left_m=0.0)
    return Shot(
        id=fresh_id("shot", {s.id for s in others}),
        name="New shot",
        start_min=min(shot.start_min + shot.length_min, 1430.0),
        length_min=_SHOT_MIN,
        placement=placement,
        exposure=msgspec.structs.replace(shot.exposure, interval_s=0.0),
    )


def with_a_shot(project: Project) -> Project:
    """The project, with a first shot where it has none: a window works on a shot."""
    if project.shots:
        return project
    return msgspec.structs.replace(
        project, shots=(msgspec.structs.replace(placeless_shot("shot", FIRST_SHOT), planned=True),)
    )


def placeless_shot(shot_id: str, name: str) -> Shot:
    """A shot that nobody planned; where its plan would begin."""
    setup = setup_by_id("mini_tripod")
    placement = Placement(
        setup=setup.id,
        stage=UNKNOWN,
        ahead_m=0.0,
        left_m=0.0,
        stick_m=setup.sticks_m[1],
        heading_deg=0.0,
        subjects=(Subject(ahead_m=2.0, left_m=0.5),),
    )
    return Shot(
        id=shot_id,
        name=name,
        start_min=_NOON_MIN,
        length_min=_SHOT_MIN,
        placement=placement,
        exposure=Exposure(),
        planned=False,
    )
