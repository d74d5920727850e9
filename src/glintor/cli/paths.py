"""The command on the path of a cut."""

from pathlib import Path
from typing import TYPE_CHECKING

from glintor.cli.options import parser, sound_numbers
from glintor.errors import InputError

if TYPE_CHECKING:
    from glintor.project.model import Project, Shot
    from glintor.reframing.course import Targets
    from glintor.reframing.cut import Cut


def path(words: list[str]) -> int:
    read = parser("path", "Write the path of a cut into a file, or put the path of a file into a cut.")
    read.add_argument("day", type=Path, metavar="DAY.glintor")
    read.add_argument("cut", metavar="CUT", help="its name or id")
    read.add_argument("out", type=Path, nargs="?", metavar="OUT.csv|OUT.json")
    read.add_argument("--every", type=float, metavar="S", help="as CSV: the view at even steps, whatever it is held on")
    read.add_argument("--from", dest="source", type=Path, metavar="IN.csv|IN.json", help="put this path into the cut")
    chosen = read.parse_args(words)
    if (chosen.out is None) == (chosen.source is None):
        raise InputError("It is not clear what to do.", advice="Name a file to write, or one to read with --from.")
    if chosen.every is not None:
        sound_numbers(every_s=chosen.every)
    from glintor.project.journal import opened
    from glintor.reframing.path_file import write_path_of

    if chosen.source is not None:
        return _put_in(chosen.day, chosen.cut, chosen.source)
    project = opened(chosen.day).project
    shot, cut = _cut(project, chosen.cut, chosen.day)
    held = bool(cut.anchors) and chosen.every is not None
    targets = _targets(chosen.day, project, shot, cut) if held else {}
    lacking = write_path_of(chosen.out, cut, every_s=chosen.every, targets=targets)
    print(f"{chosen.out}" + (f". {lacking}" if lacking else ""))
    return 0


def _cut(project: "Project", name: str, day: Path) -> "tuple[Shot, Cut]":
    found = [(shot, cut) for shot in project.shots for cut in shot.cuts if name in (cut.name, cut.id)]
    if len(found) == 1:
        return found[0]
    there = ", ".join(cut.id for shot in project.shots for cut in shot.cuts) or "none yet"
    how = f"There is no cut {name}" if not found else f"{len(found)} cuts are called {name}"
    raise InputError(f"{how} in {day.name}.", advice=f"Give one of these: {there}.")


def _put_in(day: Path, name: str, source: Path) -> int:
    """Puts a path into a cut of the day as it is, with what a killed session had not saved, while no window has it."""
    from glintor.project.journal import taken_up
    from glintor.project.lock import Lock
    from glintor.project.model import with_cut
    from glintor.project.store import fault_of, write_project
    from glintor.reframing.path_file import with_path_of

    lock = Lock(day)
    lock.acquire()
    try:
        opened, words = taken_up(day)
        shot, cut = _cut(opened.project, name, day)
        new = with_path_of(cut, source)
        project = opened.project.with_shot(shot.id, lambda s: with_cut(s, new))
        wrong = fault_of(project)
        if wrong is not None:
            raise InputError(
                f"{source.name} does not fit into {cut.name}: {wrong}.", unharmed=f"{day.name} is as it was."
            )
        write_project(day, project)
    finally:
        lock.release()
    print(f"{cut.name}: {len(new.keys)} keyframes" + (f". {words}" if words else ""))
    return 0


def _targets(day: Path, project: "Project", shot: "Shot", cut: "Cut") -> "Targets":
    from glintor.media.footage import open_footage
    from glintor.project.followed import around_footage, targets_of
    from glintor.project.held import known_turns
    from glintor.project.model import take_of
    from glintor.project.store import clip_files

    take = take_of(shot, cut.take_id)
    footage = open_footage(clip_files(day, take), take.taken_as)
    targets, missing = targets_of(cut, around_footage(day, project, take, footage, known_turns(take, footage)))
    if missing:
        raise InputError(f"{cut.name} is held on something that nobody knows: {missing[0]}", advice="")
    return targets
