"""What a day must hold together: names that are used once and lead somewhere, views and places that exist."""

from collections.abc import Container, Iterator

from glintor.errors import InputError
from glintor.placement.mounts import setup_by_id
from glintor.placement.scenery import CANAL
from glintor.placement.sun import local_time
from glintor.project.films import pieces_of
from glintor.project.model import Project, Shot
from glintor.reframing.cut import Cut
from glintor.reframing.path import in_order


def first_fault(project: Project, sound: Container[int] = ()) -> str | None:
    """The first thing that does not fit together, with its place; None where all does. sound: ids of shots of which is known that they
    hold together by themselves."""
    return next(_faults(project, sound), None)


def _faults(project: Project, sound: Container[int]) -> Iterator[str]:
    try:
        local_time(project.site.day, project.site.zone, 0.0)
    except InputError as error:
        yield f"site: {error.what}"
    yield from _twice("shots", [shot.id for shot in project.shots])
    cameras = [camera.id for camera in project.kit.cameras]
    yield from _twice("kit.cameras", cameras)
    yield from _twice("films", [film.id for film in project.films])
    for number, film in enumerate(project.films):
        if len(pieces_of(project, film)) < len(film.pieces):
            yield f"films[{number}]: one of its cuts is not in the day"
    for number, shot in enumerate(project.shots):
        for camera in (shot.camera, *(take.camera for take in shot.takes)):
            if camera and camera not in cameras:
                yield f"shots[{number}]: there is no camera {camera} in the kit"
        for placement in (shot.placement, *(take.placement for take in shot.takes if take.placement is not None)):
            if project.site.place(placement.stage) is None and placement.stage not in CANAL:
                yield f"shots[{number}].placement: nobody described the place {placement.stage}"
            for carrier in (placement.carrier, *(one.carrier for one in placement.subjects if one.what == "carrier")):
                if project.site.carrier(carrier) is None:
                    yield f"shots[{number}].placement: nobody described the carrier {carrier}"
        for words in _faults_of(shot) if id(shot) not in sound else ():
            yield f"shots[{number}].{words}"


def _faults_of(shot: Shot) -> Iterator[str]:
    try:
        setup_by_id(shot.placement.setup)
    except InputError as error:
        yield f"placement: {error.what}"
    yield from _twice("takes", [take.id for take in shot.takes])
    yield from _twice("cuts", [cut.id for cut in shot.cuts])
    for name, key in (("opening", shot.opening), ("closing", shot.closing)):
        try:
            if key is not None:
                key.check()
        except InputError as error:
            yield f"{name}: {error.what}"
    takes = {take.id for take in shot.takes}
    for number, cut in enumerate(shot.cuts):
        if cut.take_id not in takes:
            yield f"cuts[{number}]: there is no take {cut.take_id}"
        try:
            _check_cut(cut)
        except InputError as error:
            yield f"cuts[{number}]: {error.what}"


def _check_cut(cut: Cut) -> None:
    if cut.out_s <= cut.in_s:
        raise InputError(f"it ends at {cut.out_s:g} s and begins at {cut.in_s:g} s.")
    in_order(cut.keys)
    _ = cut.timeline.duration_s


def _twice(what: str, ids: list[str]) -> Iterator[str]:
    for number, name in enumerate(ids):
        if name in ids[:number]:
            yield f"{what}[{number}]: the id {name} is there twice"
