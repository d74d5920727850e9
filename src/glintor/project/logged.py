"""Recordings put to the logs that they were rolled for: what was logged goes to the take, and the take to its shot."""

from collections.abc import Mapping

from msgspec.structs import replace

from glintor.project.log import Log
from glintor.project.matching import NEAR_S, Match, Offered, began_at, matches
from glintor.project.model import Piece, Project, Shot, fresh_id, with_take
from glintor.project.take import Take


def with_match(project: Project, found: Match, take: Take, from_shot: str) -> Project:
    """The day with a take put to a log: in the log's shot with its cuts, marked where the log has marks, rated and noted where nobody
    did otherwise since; camera and clock as they are known now."""
    shot = project.shot(found.shot_id)
    log = next((one for one in shot.logs if one.id == found.log_id), None)
    if log is None:
        return project
    moved = [cut for cut in project.shot(from_shot).cuts if cut.take_id == take.id] if from_shot != shot.id else []
    late = _begins_late_s(project, found, take, log)
    events = [log.since_s(event.at) - late for event in log.events if event.what in ("mark", "good")]
    marks = {round(at, 3) for at in events if 0.0 <= at <= take.duration_s} if take.kind == "film" else set()
    camera = take.camera or (log.cameras[0] if len(log.cameras) == 1 else "")
    fresh = replace(
        take,
        id=take.id if from_shot == shot.id else fresh_id(take.id, {t.id for t in shot.takes}),
        camera=camera,
        clock_s=found.clock_s if found.clock_s is not None else take.clock_s,
        rating=take.rating or log.rating,
        note=take.note or log.note,
        verdict=take.verdict or ("keep" if log.favourite else ""),
        marks_s=tuple(sorted(set(take.marks_s) | marks)),
        placement=take.placement or (shot.placement if shot in project.planned else None),
        matched=found.words,
    )
    taken = {cut.id for cut in shot.cuts}
    cuts = []
    for cut in moved:
        cuts.append(replace(cut, id=fresh_id(cut.id, taken), take_id=fresh.id))
        taken.add(cuts[-1].id)
    logged = replace(log, takes=(*log.takes, fresh.id), matched=found.words)

    def gone(old: Shot) -> Shot:
        return replace(
            old,
            takes=tuple(t for t in old.takes if t.id != take.id),
            cuts=tuple(c for c in old.cuts if c.take_id != take.id),
        )

    def come(old: Shot) -> Shot:
        with_logs = replace(old, logs=tuple(logged if one.id == log.id else one for one in old.logs))
        return replace(with_take(with_logs, fresh), cuts=(*old.cuts, *cuts))

    if from_shot != shot.id:
        project = project.with_shot(from_shot, gone)
        project = _tidied(project, from_shot, {old.id: (shot.id, new.id) for old, new in zip(moved, cuts, strict=True)})
    return project.with_shot(shot.id, come)


def _tidied(project: Project, left: str, moved: Mapping[str, tuple[str, str]]) -> Project:
    """The day after cuts went to another shot: its films have them there, and a shot that was made for the recording alone is gone."""
    films = tuple(
        replace(
            film,
            pieces=tuple(
                Piece(shot_id=moved[p.cut_id][0], cut_id=moved[p.cut_id][1])
                if p.shot_id == left and p.cut_id in moved
                else p
                for p in film.pieces
            ),
        )
        for film in project.films
    )
    shots = tuple(s for s in project.shots if s.id != left or s.planned or s.takes or s.logs)
    return replace(project, films=films, shots=shots)


def _begins_late_s(project: Project, found: Match, take: Take, log: Log) -> float:
    """By how much the film began after the log did; 0 where that is not known."""
    began = began_at(project, take)
    if began is None or found.clock_s is None:
        return 0.0
    late = (began - log.began_at).total_seconds() - found.clock_s
    return late if abs(late) <= NEAR_S else 0.0


def without_match(project: Project, shot_id: str, take_id: str) -> Project:
    """The day with a take taken off its log again; where it lies, and what it got from it, stay."""

    def off(shot: Shot) -> Shot:
        logs = tuple(replace(log, takes=tuple(t for t in log.takes if t != take_id)) for log in shot.logs)
        takes = tuple(replace(t, matched="") if t.id == take_id else t for t in shot.takes)
        return replace(shot, logs=logs, takes=takes)

    return project.with_shot(shot_id, off)


def key_of(shot_id: str, take: Take) -> str:
    return f"{shot_id}/{take.id}"


def open_takes(project: Project) -> list[tuple[str, Take]]:
    """The takes of a day, with their shots, that no log has yet."""
    logged = {(shot.id, take) for shot in project.shots for log in shot.logs for take in log.takes}
    return [(s.id, t) for s in project.shots for t in s.takes if (s.id, t.id) not in logged]


def met(project: Project, heard: Mapping[str, tuple[float, ...]] | None = None) -> tuple[Project, tuple[Match, ...]]:
    """The day with every recording put to its log where that is sure, and the others that come into question. heard: when sudden
    sounds are heard in recordings, by `key_of`."""
    takes = {key_of(shot_id, take): (shot_id, take) for shot_id, take in open_takes(project)}
    offered = [Offered(key, take, (heard or {}).get(key)) for key, (_, take) in takes.items()]
    unsure = []
    for found in matches(project, offered):
        if found.sure:
            shot_id, take = takes[found.key]
            project = with_match(project, found, take, shot_id)
        else:
            unsure.append(found)
    return project, tuple(unsure)
