"""Films of the day: cuts that are joined, and what becomes of them when a cut goes."""

import numpy as np
from msgspec.structs import replace

from glintor.project.model import Film, Piece, Project, Shot, take_of
from glintor.reframing.course import shared
from glintor.reframing.cut import Cut

_WAYS = ("ahead", "right", "behind", "left")
_MOST_OF_ONE = 0.5  # of a film in one angle is too much (common practice, no source)


def pieces_of(project: Project, film: Film) -> list[tuple[Piece, Shot, Cut]]:
    """The pieces of a film in their order, each with its shot and cut; without what the day no longer has."""
    cuts = {(shot.id, cut.id): (shot, cut) for shot in project.shots for cut in shot.cuts}
    return [(piece, *cuts[key]) for piece in film.pieces if (key := (piece.shot_id, piece.cut_id)) in cuts]


def length_s(project: Project, film: Film) -> float:
    """How long a film is."""
    return sum(cut.timeline.duration_s for _, _, cut in pieces_of(project, film))


def angles(project: Project, film: Film) -> list[tuple[str, float]]:
    """What a film is seen from, in words, and for which share of it, the longest first: by take, and by whether it looks ahead, right,
    behind or left of the camera."""
    shares: dict[str, float] = {}
    for _, shot, cut in pieces_of(project, film):
        times = np.linspace(*cut.span_s, 60)
        pace = 1.0 / np.maximum(cut.timeline.pace(times), 1e-3)
        yaw, take = shared(cut).values(times)[:, 0], take_of(shot, cut.take_id)
        for way, weight in zip((np.round(yaw / 90.0).astype(int) % 4).tolist(), pace.tolist(), strict=True):
            words = (
                f"{take.name}, {_WAYS[way]}" if not any(k.on for k in cut.keys) else f"{take.name}, held on the subject"
            )
            shares[words] = shares.get(words, 0.0) + weight * (cut.ends_s - cut.begins_s) / len(times)
    whole = sum(shares.values()) or 1.0
    return sorted(((words, share / whole) for words, share in shares.items()), key=lambda one: -one[1])


def with_film(project: Project, film: Film) -> Project:
    """The project with a film, in place of one of the same id."""
    there = any(f.id == film.id for f in project.films)
    films = tuple(film if f.id == film.id else f for f in project.films) if there else (*project.films, film)
    return replace(project, films=films)


def film_findings(project: Project, film: Film) -> list[str]:
    """What is to be said of a film, in words: its length against what was wanted, and where it lacks variety."""
    length, said = length_s(project, film), list[str]()
    if film.wanted_s is not None and abs(length - film.wanted_s) > 0.05 * film.wanted_s:
        off = length - film.wanted_s
        said.append(f"{abs(off):.1f} s too {'long' if off > 0 else 'short'}")
    seen = angles(project, film)
    if seen and seen[0][1] > _MOST_OF_ONE and len(film.pieces) > 1:
        said.append(f"over half of it is one angle: {seen[0][0]}, {seen[0][1]:.0%}")
    return said


def tied(project: Project) -> Project:
    """The project whose films have only cuts that are there; a film without any is gone."""
    if not project.films:
        return project
    there = {(shot.id, cut.id) for shot in project.shots for cut in shot.cuts}

    def left(film: Film) -> tuple[Piece, ...]:
        return tuple(piece for piece in film.pieces if (piece.shot_id, piece.cut_id) in there)

    films = tuple(
        film if (kept := left(film)) == film.pieces else replace(film, pieces=kept)
        for film in project.films
        if left(film)
    )
    return project if films == project.films else replace(project, films=films)
