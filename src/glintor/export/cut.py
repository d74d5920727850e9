"""Rendering the cuts of a shot in several formats, those of one take from one decode; and films that join cuts."""

import threading
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from glintor.errors import InputError
from glintor.export.film import Film, Output, film_of, joined
from glintor.export.formats import Format, course_for
from glintor.export.render import RenderResult, render_films
from glintor.export.strand import Strand
from glintor.media.encoding import Encoding
from glintor.media.footage import Footage, open_footage
from glintor.media.orientation import orientation_of
from glintor.pixels.picture import Dipped, Flat, Picture, Smeared, Tiled
from glintor.pixels.reproject import Filter
from glintor.project import model
from glintor.project.clocks import Sound, instead_of, sound_of
from glintor.project.films import pieces_of
from glintor.project.followed import Around, around_footage, needs_world, targets_of
from glintor.project.held import found_turns
from glintor.project.identity import proven_clips
from glintor.project.model import Project, Shot, take_of
from glintor.project.store import clip_files, footage_of
from glintor.project.take import Recorder, Take
from glintor.reframing.beside import parts_of
from glintor.reframing.course import Course, course_of
from glintor.reframing.cut import Cut
from glintor.reframing.joins import Join, Seam
from glintor.reframing.path_clock import PathClock
from glintor.sphere.turn import Sight, TurnTrack
from glintor.types import Report


def target_file(folder: Path, project_file: Path, what: Cut | model.Film, shape: Format, suffix: str = ".mp4") -> Path:
    """The name a film gets: project, cut (or film that joins cuts) and format."""
    return folder / f"{project_file.stem}-{what.id}-{shape.in_file_names}{suffix}"


class Form(Struct, frozen=True):
    """In which shape, where to and how packed."""

    shape: Format
    target: Path
    encoding: Encoding


class Wanted(Struct, frozen=True):
    """One film of a cut."""

    cut: Cut
    form: Form


def render_cuts(
    project_file: Path,
    shot: Shot,
    wanted: Sequence[Wanted],
    *,
    keep: Sequence[Path] = (),
    project: Project | None = None,
    report: Report = lambda _share: None,
    stop: threading.Event | None = None,
) -> dict[str, RenderResult]:
    """Renders films of a shot, those of one take from one decode; results by the cut's id. Raises as `render` does.

    keep    footage that must not be written over, beside the takes themselves
    project the day: its recorders' sound may take the place of a take's, and its plan tells where north is
    """
    cuts = {w.cut.id: w.cut for w in wanted}
    takes = list(dict.fromkeys(cut.take_id for cut in cuts.values()))
    results: dict[str, RenderResult] = {}
    for number, take_id in enumerate(takes):
        mine = [cut for cut in cuts.values() if cut.take_id == take_id]

        def share(of_take: float, number: int = number) -> None:
            report((number + of_take) / len(takes))

        take = take_of(shot, take_id)
        footage = _footage(project_file, take, stop)
        with_it = _With.of(project_file, project, take, footage, mine, stop)
        films = [
            _film(footage, with_it, cut, [w.form for w in wanted if w.cut.id == cut.id], shot=shot) for cut in mine
        ]
        done = render_films(films, keep=keep, report=share, stop=stop)
        results |= {cut.id: result for cut, result in zip(mine, done, strict=True)}
    return results


def render_joined(
    project_file: Path,
    project: Project,
    film: model.Film,
    forms: Sequence[Form],
    *,
    report: Report = lambda _share: None,
    stop: threading.Event | None = None,
) -> RenderResult:
    """Renders cuts in a row as one film in every form, at the rate of the first. Raises as `render` does."""
    films = _in_a_row(project_file, project, film, forms, lambda take: _footage(project_file, take, stop), stop)
    keep = footage_of(project_file, project.shots)
    return render_films([joined(films)], keep=keep, report=report, stop=stop)[0]


def strands_of(
    project_file: Path, project: Project, film: model.Film, shape: Format, stop: threading.Event | None = None
) -> tuple[Strand, ...]:
    """What a film shows, cut after cut with its joins, to be looked at before it is made; of large clips by their proxies, with the
    clips' own sound. Raises ClipError, InputError, Cancelled."""
    of_proxy: dict[Footage, Footage] = {}

    def opened(take: Take) -> Footage:
        footage = open_footage(clip_files(project_file, take), take.taken_as)
        small = footage.draft()
        if small is not None:
            of_proxy[small] = footage
        return small or footage

    def heard(strand: Strand) -> Strand:
        whole = of_proxy.get(strand.footage)
        return strand if whole is None or strand.heard or not whole.has_sound else replace(strand, heard=whole.sound)

    form = Form(shape, project_file.with_suffix(".not-written.mp4"), Encoding())
    return tuple(map(heard, joined(_in_a_row(project_file, project, film, [form], opened, stop)).strands))


def _in_a_row(
    project_file: Path,
    project: Project,
    film: model.Film,
    forms: Sequence[Form],
    opened: Callable[[Take], Footage],
    stop: threading.Event | None,
) -> list[Film]:
    """The cuts of a film as films of their own, with the joins in them."""
    pieces = pieces_of(project, film)
    if not pieces:
        raise InputError(f"The film {film.name} has no cut.", advice="Put a cut into it.")
    takes = {(shot.id, cut.take_id): take_of(shot, cut.take_id) for _, shot, cut in pieces}
    footages = {key: opened(take) for key, take in takes.items()}
    with_it = {
        key: _With.of(project_file, project, take, footages[key], [cut for _, _, cut in pieces], stop)
        for key, take in takes.items()
    }
    joins = [piece.join for piece, _, _ in pieces] + [None]
    films, last = list[Film](), None
    for n, (_, shot, cut) in enumerate(pieces):
        key = (shot.id, cut.take_id)
        ends = _Ends(joins[n] if n else None, joins[n + 1], last)
        films.append(_film(footages[key], with_it[key], cut, forms, ends, shot=shot))
        last = (cut, with_it[key])
    return films


class _Ends(Struct, frozen=True, eq=False):
    """How a cut of a film is come to and left, and the cut before it."""

    before: Join | None = None
    after: Join | None = None
    last: "tuple[Cut, _With] | None" = None

    def seam(self, cut: Cut, shape: Format) -> Seam:
        """What that does to what a shape shows of it."""
        seen = None
        if self.before is not None and self.before.kind == "match" and self.last is not None:
            other, with_it = self.last
            course = course_for(other, shape, with_it.turns, targets_of(other, with_it.around)[0])
            seen = course.through_lens(other.timeline.path_time(other.timeline.duration_s))[0]
        return Seam(cut.timeline, self.before, self.after, seen)


def _footage(project_file: Path, take: Take, stop: threading.Event | None) -> Footage:
    return open_footage(proven_clips(project_file, take, stop=stop), take.taken_as)


class _With(Struct, frozen=True, eq=False):
    """How a take is held still, what is heard in place of its own sound, and what is known round it."""

    turns: TurnTrack | None
    heard: Sound | None
    around: Around

    @staticmethod
    def of(
        project_file: Path,
        project: Project | None,
        take: Take,
        footage: Footage,
        cuts: Sequence[Cut],
        stop: threading.Event | None,
    ) -> "_With":
        turns = found_turns(take, footage, stop=stop)
        if any(needs_world(cut) for cut in cuts):
            orientation_of(footage, stop=stop)
        heard = _heard(project_file, () if project is None else project.sounds, take, footage)
        return _With(turns, heard, around_footage(project_file, project, take, footage, turns))


def _heard(project_file: Path, sounds: Sequence[Recorder], take: Take, footage: Footage) -> Sound | None:
    return sound_of(project_file, sounds, take, footage) if instead_of(take, sounds) is not None else None


def _film(
    footage: Footage, with_it: _With, cut: Cut, forms: Sequence[Form], ends: _Ends = _Ends(), *, shot: Shot
) -> Film:
    """What the engine needs to know of a cut. Raises InputError where it is held on something that nobody knows."""
    targets, missing = targets_of(cut, with_it.around)
    if missing:
        raise InputError(
            f"{cut.name} cannot be drawn as it is meant: {missing[0]}", advice="", unharmed="Nothing was written."
        )
    seams = [ends.seam(cut, f.shape) for f in forms]
    others = others_of(shot, cut)
    courses = [
        course_of(cut, f.shape.name, _own_px(cut, others, f.shape), targets=targets, turns=with_it.turns).joined(
            s, cut.begins_s
        )
        for f, s in zip(forms, seams, strict=True)
    ]
    outputs = tuple(
        Output(target=f.target, size_px=f.shape.size_px, course=course, encoding=f.encoding)
        for f, course in zip(forms, courses, strict=True)
    )
    film = film_of(
        footage,
        outputs,
        start_s=cut.in_s,
        end_s=cut.out_s,
        stretches=cut.speeds,
        average=cut.blur,
        sound=cut.sound,
        heard=with_it.heard,
    )
    strand = film.strands[0]
    frame_s = float(1 / footage.rate)
    pictures = tuple(
        _at_joins(_with_others(p, course, footage, with_it, cut, others, f.shape), seam, frame_s)
        for p, course, f, seam in zip(strand.pictures, courses, forms, seams, strict=True)
    )
    carry_s = ends.before.carry_s if ends.before is not None else 0.0
    return replace(film, strands=(replace(strand, pictures=pictures, carry_s=carry_s),))


def _at_joins(picture: Picture, seam: Seam, frame_s: float) -> Picture:
    """A picture with what the joins do to it: smeared in a whip, dark in a dip."""
    if seam.plain:
        return picture
    return Dipped(Smeared(picture, lambda t: seam.exposed(t, frame_s)), seam.brightness)


def others_of(shot: Shot, cut: Cut) -> list[Cut]:
    """The cuts whose views a cut's picture shows besides its own; none where one of them is gone."""
    if cut.beside is None:
        return []
    there = {c.id: c for c in shot.cuts if c.take_id == cut.take_id}
    found = [there[name] for name in cut.beside.cuts if name in there]
    return found if len(found) == (2 if cut.beside.kind == "bands" else 1) else []


def _sight_beside(theirs: Course, their_clock: PathClock, clock: PathClock, time_s: float) -> Sight:
    """What another cut shows at the moment of the clip that a cut's path shows at a moment."""
    return theirs.sight(float(their_clock.path_s(clock.clip_s(time_s))))


def _own_px(cut: Cut, others: Sequence[Cut], shape: Format) -> tuple[int, int]:
    """How large a cut's own view is in its picture."""
    if cut.beside is None or not others:
        return shape.size_px
    return parts_of(cut.beside, shape.size_px)[0].size_px


def _with_others(
    picture: Picture, course: Course, footage: Footage, with_it: _With, cut: Cut, others: Sequence[Cut], shape: Format
) -> Picture:
    """A picture with the other views in it."""
    if cut.beside is None or not others:
        return picture
    own, *rest = parts_of(cut.beside, shape.size_px)
    tiles: list[tuple[Picture, tuple[int, int]]] = [
        (Flat(own.size_px, course.sight, Filter.FINE, shows=footage.shows), own.corner_px)
    ]
    for other, part in zip(others, rest, strict=True):
        targets, _ = targets_of(other, with_it.around)
        theirs = course_of(other, "", part.size_px, targets=targets, turns=with_it.turns)
        sights = partial(_sight_beside, theirs, other.clock, cut.clock)
        tiles.append((Flat(part.size_px, sights, Filter.FINE, shows=footage.shows), part.corner_px))
    return Tiled(shape.size_px, tiles)
