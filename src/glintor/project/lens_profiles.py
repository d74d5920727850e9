"""Lens profiles of the kit: kept with the camera, and tried on recordings that come in."""

from collections.abc import Sequence

from msgspec.structs import replace

from glintor.errors import InputError
from glintor.media.footage import Footage, open_footage
from glintor.media.lens_profile import WRONG_PX, find_lenses, misfit_px
from glintor.media.taken import TakenAs
from glintor.pixels.calibrate import Found
from glintor.project.model import Project
from glintor.project.take import Take
from glintor.sphere.lenses import Lenses
from glintor.types import Report

_MOST = 24  # profiles that a kit keeps by itself


def with_profile(project: Project, lenses: Lenses) -> Project:
    """The project with a profile in its kit; one of the same name is put in its place."""
    others = tuple(known for known in project.kit.lenses if known.name != lenses.name)
    return replace(project, kit=replace(project.kit, lenses=(*others, lenses)[-_MOST:]))


def renamed(project: Project, old: str, name: str) -> Project:
    """The project with a profile called otherwise, in its kit and on the takes that are drawn with it. Raises InputError where there is
    one of that name."""
    if any(lenses.name == name for lenses in project.kit.lenses if lenses.name != old):
        raise InputError(f"There is a lens profile {name} already.", advice="Choose another name.")

    def called(lenses: Lenses | None) -> Lenses | None:
        return replace(lenses, name=name) if lenses is not None and lenses.name == old else lenses

    kept = tuple(replace(known, name=name) if known.name == old else known for known in project.kit.lenses)
    shots = tuple(
        replace(shot, takes=tuple(replace(take, lenses=called(take.lenses)) for take in shot.takes))
        for shot in project.shots
    )
    return replace(project, kit=replace(project.kit, lenses=kept), shots=shots)


def fitting(footage: Footage, profiles: Sequence[Lenses]) -> tuple[Lenses, float] | None:
    """Of a kit's profiles the one that fits a recording best, and how far apart it leaves things at the seam in pixels of a sphere
    5760 wide; None where none fits. Raises ClipError."""
    if not isinstance(footage.shows, Lenses) or footage.shows.alone:
        return None
    tried = [(lenses, misfit_px(footage, lenses.laid(footage.shows.layout))) for lenses in profiles if not lenses.alone]
    known = [(lenses, off) for lenses, off in tried if off is not None and off < WRONG_PX]
    return min(known, key=lambda pair: pair[1]) if known else None


def found_or_fitting(
    take: Take, footage: Footage, profiles: Sequence[Lenses], *, report: Report = lambda _share: None
) -> tuple[Lenses, Found | None]:
    """A profile for a take: one of the kit's that fits, else one found from the recording. Raises InputError, ClipError."""
    known = fitting(footage, profiles)
    if known is not None:
        return known[0], None
    bare = open_footage(footage.files, TakenAs(take.told))
    found = find_lenses(bare, report=report)
    return found.lenses, found
