"""What is known of something that came home, each with where it is known from."""

from glintor.offload.contents import Entry
from glintor.offload.drives import size_words
from glintor.project.facts import Fact, Origin, facts_of
from glintor.project.log import FAULTS, Log
from glintor.project.matching import Match
from glintor.project.model import Project


def log_of(project: Project, entry: Entry) -> Log | None:
    """What was logged while a take was rolled."""
    take = entry.take
    shots = (shot for shot in project.shots if shot.id == entry.shot_id)
    return next((log for shot in shots for log in shot.logs if take is not None and take.id in log.takes), None)


def entry_facts(project: Project, entry: Entry) -> tuple[Fact, ...]:
    """Everything that a filmer may ask of it."""
    found: list[Fact] = []
    take, log = entry.take, log_of(project, entry)
    if take is not None:
        found += facts_of(project, take)
    if take is not None and not entry.files:
        found.append(Fact("Missing", entry.why, "seen in it"))
    elif entry.why:
        by: Origin = "typed" if take is not None and take.told_by == "person" and take.told else "seen in it"
        found.append(Fact("Taken for", entry.why, by))
    if entry.reading is not None:
        found += [Fact("Lacks", lost, "seen in it") for lost in entry.reading.missing]
        found += [Fact("Wrong", fault, "seen in it") for fault in entry.reading.faults]
        if entry.reading.companions:
            found.append(Fact("With it", ", ".join(f.name for f in entry.reading.companions), "told by the file"))
    if log is not None:
        faults = [event.text for event in log.events if event.what in FAULTS]
        words = f"{rolled_words(log)}, {len(log.events)} entries" + (f": {', '.join(faults)}" if faults else "")
        found.append(Fact("Logged", words, "typed"))
        if log.ticks:
            passed = [f"{tick.words} ({tick.why})" for tick in log.ticks if tick.why]
            words = f"{len(log.ticks)} lines ticked" + (f"; passed all the same: {', '.join(passed)}" if passed else "")
            found.append(Fact("Made ready", words, "typed"))
        if log.note:
            found.append(Fact("Note", log.note, "typed"))
    elif entry.match is not None:
        found.append(Fact("Log", match_words(project, entry.match), "unsure" if not entry.match.sure else "seen in it"))
    if take is not None and take.marks_s:
        found.append(Fact("Marks", ", ".join(f"{at:.1f} s" for at in take.marks_s), "typed"))
    if take is not None and take.part_s is not None:
        found.append(Fact("Worth keeping", f"{take.part_s[0]:.1f} to {take.part_s[1]:.1f} s", "typed"))
    return (*found, *_where(entry))


def match_words(project: Project, match: Match) -> str:
    """Which log that is, and by what."""
    shot = project.shot(match.shot_id)
    log = next(one for one in shot.logs if one.id == match.log_id)
    return f"{shot.name}, {rolled_words(log)}: {match.words}"


def rolled_words(log: Log) -> str:
    """When a log was rolled, and for how long."""
    length = log.length_s
    return f"rolled at {log.began_at:%H:%M:%S}" + (f" for {length:.0f} s" if length is not None else "")


def _where(entry: Entry) -> list[Fact]:
    """Its files on the card, and what of them is proven elsewhere."""
    found = []
    if entry.unit is not None:
        files = entry.unit.unit.files
        names = files[0].name if len(files) == 1 else f"{files[0].name} and {len(files) - 1} more"
        found.append(Fact("On the card", f"{names}, {size_words(entry.size_bytes)}", "told by the file"))
        for number, of_place in enumerate(entry.unit.proofs, start=1):
            first = of_place[0]
            if first is not None and all(proof is not None for proof in of_place):
                disk = "" if all(proof is not None and proof.from_disk for proof in of_place) else ", from memory only"
                words = f"{first.copy}, xxh64 {first.xxh64}{disk}"
                found.append(Fact(f"Copy {number}", words, "proven"))
    elif entry.take is not None:
        file = entry.take.files[0]
        if file.copy:
            found.append(Fact("Copy", f"{file.copy}, xxh64 {file.xxh64}", "proven"))
        elif file.lies:
            found.append(Fact("Lies in", file.lies, "told by the file"))
    return found
