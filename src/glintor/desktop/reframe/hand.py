"""What a hand holds on the Reframe desk: the take and cut, the moment, the view, the marked part. Nothing of it is Qt's."""

from collections.abc import Callable

from glintor.desktop.document import Document
from glintor.errors import GlintorError
from glintor.export.cut import others_of
from glintor.export.formats import LANDSCAPE, Format
from glintor.media.footage import Footage
from glintor.project.cameras_beside import RanBeside, cameras_beside
from glintor.project.clocks import Sound, sound_of
from glintor.project.model import fresh_id
from glintor.project.subjects import track_of
from glintor.project.take import Take
from glintor.reframing import edits
from glintor.reframing.beside import Part, parts_of
from glintor.reframing.course import NOTHING, Course, Targets, course_of, shared
from glintor.reframing.cut import Cut
from glintor.reframing.path import Keyframe
from glintor.reframing.path_clock import PLAIN, PathClock
from glintor.reframing.retime import Stretch
from glintor.sphere.view import View, for_shape

_NO_STEP_S = 0.04
_COURSES = 6  # kept
_TAKE = "take:"  # before a take's id in the list of cuts, where it has none
_LEAST_PX, _MOST_PX = 640 * 360, 1312 * 738


class Hand:
    """The document as this desk sees it.

    now_s   the present moment of the path; shape: the frame in sight
    look    a view that is only looked at, not set; copied: one to be set elsewhere
    chosen  a keyframe's index, -1 for none; several: of all that are chosen, where it is more than that
    compared another path that is drawn beside this one, and its name
    part: of the path, marked for another speed
    targets where what the cut is held on is, targets_of: the same of another cut of the take; alone: whether edits are the shape's in sight alone
    instead is shown in place of the cut's own course; ghost: a course that is drawn beside it
    """

    def __init__(self, document: Document) -> None:
        self._document = document
        self.shape: Format = LANDSCAPE
        self.now_s = 0.0
        self.look: View | None = None
        self.copied: View | tuple[Keyframe, ...] | None = None
        self.chosen = -1
        self.several: frozenset[int] = frozenset()
        self.compared: tuple[str, Cut] | None = None
        self.part: tuple[float, float] | None = None
        self.targets: Targets = NOTHING
        self.targets_of: Callable[[Cut], Targets] = lambda _cut: NOTHING
        self.alone = False
        self.instead: Course | None = None
        self.ghost: Course | None = None
        self.ghost_words = "as flown"
        self._on: object = None  # the cut or take that marks and chosen keyframes belong to
        self._courses: list[tuple[tuple[Cut, str, tuple[int, int]], Targets, Course]] = []
        self._first: dict[object, Cut] = {}
        self._fresh: tuple[object, Cut] | None = None

    def follow(self) -> None:
        """After a change of the document: what was marked or chosen on another cut says nothing of this one."""
        on = (self.cut.id if self.cut is not None else "", self.take.id if self.take is not None else "")
        if on != self._on:
            self._on, self.part, self.chosen, self.look = on, None, -1, None
            self.several, self.compared, self.instead, self.ghost = frozenset(), None, None, None
        if self.cut is not None:
            self._first.setdefault((self._document.file, self.cut.id), self.cut)
            self.several = frozenset(n for n in self.several if n < len(self.cut.keys))

    def first_of(self, cut: Cut) -> Cut:
        """A cut as it was when it was first at hand."""
        return self._first.get((self._document.file, cut.id), cut)

    def keep(self, cut: Cut) -> None:
        """A fresh cut that joins the document is the one that was at hand."""
        self._on = (cut.id, cut.take_id)

    def moved_to(self, time_s: float) -> None:
        """Another moment, inside the clip."""
        self.now_s = min(max(time_s, 0.0), max(self.length_s - self.step_s, 0.0))

    @property
    def clock(self) -> PathClock:
        """The path's time against the clip's."""
        return self.cut.clock if self.cut is not None else PLAIN

    @property
    def length_s(self) -> float:
        """How long a path over the whole clip is."""
        return float(self.clock.path_s(self.take.duration_s, after=True)) if self.take is not None else 0.0

    @property
    def clip_s(self) -> float:
        """The present moment of the clip."""
        return float(self.clock.clip_s(self.now_s))

    @property
    def cut(self) -> Cut | None:
        """The cut at hand; of a take that has none a fresh one, which joins the document with its first change."""
        if self._document.cut is not None or self.take is None:
            return self._document.cut
        shot, take = self._document.shot, self.take
        key = (self._document.file, take, shot.opening, shot.closing, len(shot.cuts))
        if self._fresh is None or self._fresh[0] != key:
            self._fresh = (key, self.fresh_cut(take))
        return self._fresh[1]

    def fresh_cut(self, take: Take) -> Cut:
        """With the views that the shot was planned with, else looking at the subject."""
        shot, track = self._document.shot, track_of(self._document.file, take)
        known = track is not None and len(track.time_s) > 0
        return edits.fresh_cut(
            fresh_id(f"{shot.id}-cut", {c.id for c in shot.cuts}),
            f"Cut {len(shot.cuts) + 1}",
            take.id,
            take.duration_s,
            opening=shot.opening,
            closing=shot.closing,
            subject=(float(track.yaw_deg[0]), float(track.pitch_deg[0])) if known and track is not None else (0.0, 0.0),
        )

    @property
    def take(self) -> Take | None:
        return self._document.take

    @property
    def step_s(self) -> float:
        """One frame of the clip."""
        take = self.take
        return 1.0 / take.rate_fps if take is not None else _NO_STEP_S

    def path_view(self) -> View:
        """The view of the path at the present moment, as the 16:9 frame has it."""
        cut = self.cut
        return self.shared(cut).at(self.now_s) if cut is not None else View()

    @property
    def edits_own(self) -> bool:
        """Whether an edit of the view is of the shape in sight alone; 16:9 is what all share."""
        return self.alone and self.shape is not LANDSCAPE

    def course(self, cut: Cut) -> Course:
        """What the frame shape in sight shows of a cut, before the footage's turn."""
        if self.instead is not None:
            return self.instead
        frame_px = self.frame_px
        return self._made(
            (cut, self.shape.name, frame_px), lambda: course_of(cut, self.shape.name, frame_px, targets=self.targets)
        )

    def _made(self, key: tuple[Cut, str, tuple[int, int]], make: Callable[[], Course]) -> Course:
        """A course made once while the very cut, its frame and what it is held on stay the same."""
        for there, targets, course in self._courses:
            if there[0] is key[0] and there[1:] == key[1:] and targets is self.targets:
                return course
        course = make()
        self._courses = [*self._courses[-_COURSES:], (key, self.targets, course)]
        return course

    def shared(self, cut: Cut) -> Course:
        """What all shapes share of a cut."""
        return self._made((cut, "", (0, 0)), lambda: shared(cut, self.targets))

    @property
    def frame_px(self) -> tuple[int, int]:
        """The pixels of the cut's own view in a film of the shape in sight: all of them, or its part of a picture of several views."""
        cut = self.cut
        if cut is None or cut.beside is None or not others_of(self._document.shot, cut):
            return self.shape.size_px
        return parts_of(cut.beside, self.shape.size_px)[0].size_px

    def shown_view(self) -> View:
        """The view as the chosen frame shape shows it."""
        cut = self.cut
        if self.look is None and cut is not None:
            return self.course(cut).at(self.now_s)
        return for_shape(self.look or View(), self.frame_px)

    def sound(self, footage: Footage) -> tuple[Sound | None, str]:
        """What is heard, a recorder's sound where it was put in place of the camera's; and what is wrong with that, in words."""
        take = self.take
        if take is None:
            return None, ""
        try:
            return sound_of(self._document.file, self._document.project.sounds, take, footage), ""
        except GlintorError as error:
            return footage.sound if footage.has_sound else None, error.what

    def cameras_beside(self, take: Take) -> tuple[RanBeside, ...]:
        """The other cameras of the shot that ran beside a take."""
        return cameras_beside(self._document.project, self._document.shot, take)

    def parts(self, cut: Cut, time_s: float, view: View, size_px: tuple[int, int]) -> tuple[tuple[View, Part], ...]:
        """The views of a picture that is of several, and their places in one of that size; () where it is of one."""
        others = others_of(self._document.shot, cut)
        if cut.beside is None or not others:
            return ()
        own, *rest = parts_of(cut.beside, size_px)
        out = [(view, own)]
        for other, part in zip(others, rest, strict=True):
            theirs_s = float(other.clock.path_s(cut.clock.clip_s(time_s)))
            out.append((course_of(other, "", part.size_px, targets=self.targets_of(other)).at(theirs_s), part))
        return tuple(out)

    def preview_px(self, seen_px: float) -> tuple[int, int]:
        """The frame's shape at about the pixels that it has in the window, in steps: not too many, so that it plays."""
        width, height = self.shape.size_px
        pixels = min(max(seen_px, _LEAST_PX), _MOST_PX)
        across = round((pixels * width / height) ** 0.5 / 32) * 32
        return across, round(across * height / width / 2) * 2

    def cuts(self) -> tuple[list[tuple[str, str]], str]:
        """What can be worked on in this shot, with its words: cuts, takes without one, a new cut (""); and what is."""
        shot, cut, take = self._document.shot, self.cut, self.take
        bare = [t for t in shot.takes if all(c.take_id != t.id for c in shot.cuts)]
        entries = [(c.id, c.name) for c in shot.cuts] + [(f"{_TAKE}{t.id}", f"{t.name}, not cut yet") for t in bare]
        if take is None or not (shot.cuts or len(bare) > 1):
            return [], ""
        return [*entries, ("", "New cut")], cut.id if cut is not None and cut in shot.cuts else f"{_TAKE}{take.id}"

    def choose(self, entry: str) -> bool:
        """Works on a cut or a take of that list; whether there was any."""
        if entry.startswith(_TAKE):
            self._document.choose_take(entry.removeprefix(_TAKE))
        elif entry:
            self._document.choose_cut(entry)
        return bool(entry)

    def stretch(self) -> Stretch | None:
        """The change of speed at the middle of the marked part, or at the present moment."""
        at = float(self.clock.clip_s(sum(self.part) / 2)) if self.part is not None else self.clip_s
        return edits.stretch_at(self.cut, at) if self.cut is not None else None

    def blur_until(self, time_s: float) -> float | None:
        """The end of the clip's time that the film frame at a moment of the path averages; None where it shows one frame."""
        cut, step_s = self.cut, self.step_s
        if cut is None or not cut.blur:
            return None
        ahead = float(cut.timeline.pace(time_s)[0]) * step_s
        return float(cut.clock.clip_s(time_s)) + ahead if ahead > 1.5 * step_s else None
