"""Films of the day: cuts that are joined, and what becomes of them when a cut goes."""

from msgspec.structs import replace

from glintor.project.model import Film, Piece, Project, Shot
from glintor.reframing.cut import Cut


def pieces_of(project: Project, film: Film) -> list[tuple[Shot, Cut]]:
    """The cuts of a film in their order, each with its shot; without what the day no longer has."""
    cuts = {(shot.id, cut.id): (shot, cut) for shot in project.shots for cut in shot.cuts}
    return [cuts[key] for piece in film.pieces if (key := (piece.shot_id, piece.cut_id)) in cuts]


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
