"""What is known of the take on the Reframe desk, in the frame that its views are meant in. Nothing of it is Qt's."""

from pathlib import Path

import numpy as np

from glintor.desktop.reframe.course_sheet import AS_HELD, Frame, Line
from glintor.errors import GlintorError, InputError
from glintor.media.footage import Footage
from glintor.media.orientation import known_orientation
from glintor.project.followed import Around, around_of, needs_world, targets_of
from glintor.project.held import needs_turning, turns_of
from glintor.project.model import Project
from glintor.project.subjects import subjects_of, track_of
from glintor.project.take import Take
from glintor.reframing.anchor import Anchor
from glintor.reframing.course import NOTHING, Targets
from glintor.reframing.cut import Cut
from glintor.reframing.path_clock import PLAIN
from glintor.reframing.track import Track
from glintor.sphere.equirect import direction, lonlat_deg
from glintor.sphere.steady import Orientation
from glintor.sphere.turn import TurnTrack

_UNSURE = 0.3
_COMPASS = ("180 S", "090 E", "000 N", "270 W", "180 S")


class Known:
    """How an open take's picture turned and where things are in it.

    turns    from its picture to the frame that views are meant in; front: the camera's own bearing in it; words: how that is known
    tracks   what was tracked, by name; the take's own subject is ""
    travel   the way of travel in it; frames: in which bearings can be told
    targets  where what a cut is held on is, by its anchors' names; missing: in words what of it nobody knows
    unsought whether it is asked for and not known yet how the camera turned
    """

    def __init__(self) -> None:
        self.turns: TurnTrack | None = None
        self.front: Line | None = None
        self.travel: Line | None = None
        self.frames: list[Frame] = [AS_HELD]
        self.words = ""
        self.tracks: dict[str, Track] = {}
        self.targets: Targets = NOTHING
        self.missing: list[str] = []
        self.unsought = False
        self.around: Around | None = None
        self._orientation: Orientation | None = None
        self._turned_by: object = None
        self._held: object = None
        self._other: tuple[object, Targets] | None = None

    @property
    def turning_known(self) -> bool:
        """Whether it is known how the camera turned."""
        return self._orientation is not None

    @property
    def track(self) -> Track | None:
        """Where the take's own subject is."""
        return self.tracks.get("")

    def take(self, take: Take, footage: Footage) -> str:
        """Reads how a take is held still, as far as it is known how it turned; what is wrong with that, in words."""
        key = (take.steady, take.horizon, footage)
        self.unsought = False
        if key == self._turned_by:
            return ""
        self.turns, self.front, self.words = None, None, ""
        self._orientation = known_orientation(footage)
        orientation = self._orientation if needs_turning(take) else None
        try:
            self.turns = turns_of(take, orientation)
        except GlintorError as error:
            self._turned_by = key
            return f"Not held still: {error.what}"
        if needs_turning(take) and orientation is None:
            self.words, self.unsought = "How it turned is being found", True
            return ""
        if orientation is not None and self.turns is not None:
            yaw, _ = lonlat_deg(self.turns.at(orientation.time_s)[:, :, 0])
            self.front = Line(orientation.time_s, yaw, orientation.trust)
            unsure = float((orientation.trust < _UNSURE).mean())
            self.words = f"How it turned is from {orientation.made_by}" + (
                f"; {unsure:.0%} of it is unsure" if unsure > 0.0 else ""
            )
        self._turned_by = key
        return ""

    def find(self, project_file: Path, project: Project, take: Take, footage: Footage, cut: Cut | None) -> None:
        """Reads where things are: what was tracked, and what a cut is held on."""
        found = {name: track_of(project_file, take, name) for name in ("", *subjects_of(project_file, take))}
        known = {name: track for name, track in found.items() if track is not None}
        if cut is not None and needs_world(cut) and self._orientation is None:
            self._orientation = known_orientation(footage)
            self.unsought = self.unsought or self._orientation is None
        anchors = cut.anchors if cut is not None else ()
        clock, tracked = (cut.clock if cut is not None else PLAIN), tuple(map(id, known.values()))
        key = (project_file, take, anchors, clock, self.turns, self._orientation, tracked, project.site)
        if key == self._held:
            return
        self._held, self._tracks_kept = key, known  # kept, so that no other track can have their identity
        turns = self.turns
        self.tracks = {name: track if turns is None else track.turned(turns) for name, track in known.items()}
        self.around = around_of(project_file, project, take, turns, self._orientation)
        self.targets, self.missing = targets_of(cut, self.around) if cut is not None else (NOTHING, [])
        self.travel = self._travel(self.around)
        self.frames = self._frames(self.around)

    @staticmethod
    def _travel(around: Around) -> Line | None:
        """The way of travel as a line, where it is known."""
        try:
            bearings = around.travel_deg
        except InputError:
            return None
        yaw, _ = lonlat_deg(around.from_world(around.times, direction(bearings, np.zeros_like(bearings))))
        return Line(around.times, np.degrees(np.unwrap(np.radians(yaw))), np.ones(len(yaw)))

    def _frames(self, around: Around) -> list[Frame]:
        """In which frames bearings can be told: as the recording is held, by the camera's front, by the compass."""
        out = [AS_HELD]
        if self.front is not None:
            yaw = np.degrees(np.unwrap(np.radians(self.front.yaw_deg)))
            out.append(Frame("from the front lens", AS_HELD.words, self.front.time_s, -yaw))
        try:
            north = around.north_deg
        except InputError:
            return out
        yaw, _ = lonlat_deg(around.from_world(around.times, np.tile(direction(north, 0.0), (len(around.times), 1))))
        return [*out, Frame("from north", _COMPASS, around.times, -np.degrees(np.unwrap(np.radians(yaw))))]

    def targets_of(self, cut: Cut) -> Targets:
        """Where what another cut of the take is held on is, as far as anybody knows."""
        if self.around is None or not cut.anchors:
            return NOTHING
        key = (cut.anchors, cut.clock, self._held)
        if self._other is None or self._other[0] != key:
            self._other = (key, targets_of(cut, self.around)[0])
        return self._other[1]

    def with_anchor(self, cut: Cut, anchor: Anchor) -> Targets:
        """The targets of a cut that is to be held on one thing more. Raises InputError where that is not known."""
        from glintor.project.followed import target_of

        assert self.around is not None, "a take is open"
        return {**self.targets, anchor.id: target_of(anchor, self.around).on(cut.clock)}
