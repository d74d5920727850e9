"""Where what a cut's view is held on is at each moment of its take, as far as anybody knows: in the frame that views are meant in."""

from contextlib import suppress
from pathlib import Path

import numpy as np
from msgspec import Struct

from glintor.errors import InputError
from glintor.media.footage import Footage
from glintor.media.orientation import known_orientation
from glintor.project.model import Project
from glintor.project.placed import layout_of_take
from glintor.project.subjects import track_of
from glintor.project.take import Take
from glintor.project.way_gone import way_gone
from glintor.reframing.anchor import Anchor, Spot
from glintor.reframing.course import Targets
from glintor.reframing.cut import Cut
from glintor.reframing.following import Following, followed
from glintor.reframing.track import Track
from glintor.sphere.equirect import direction, lonlat_deg
from glintor.sphere.steady import Orientation, headings_deg, upright
from glintor.sphere.turn import TurnTrack
from glintor.types import Array

_HZ = 12.5


class Around(Struct, frozen=True, eq=False):
    """What is known round a take: where it lies, how its picture lies in the frame that views are meant in, how its camera turned, and
    the bearing, clockwise from north, of its picture's middle as it begins. None where nobody knows."""

    project_file: Path
    take: Take
    turns: TurnTrack | None = None
    orientation: Orientation | None = None
    front_bearing_deg: float | None = None

    @property
    def times(self) -> Array:
        return np.arange(0.0, self.take.duration_s + 1.0 / _HZ, 1.0 / _HZ)

    def track(self, name: str) -> Track:
        """A subject's track in the frame that views are meant in. Raises InputError."""
        found = track_of(self.project_file, self.take, name)
        if found is None or not found.sure.any():
            who = name or "The subject"
            raise InputError(f"{who} was not tracked in {self.take.name}.", advice="Turn to it and press J.")
        return found if self.turns is None else found.turned(self.turns)

    def from_picture(self, times: Array) -> Array:
        """(n, 3, 3) from the picture to the frame that views are meant in."""
        return np.broadcast_to(np.eye(3), (len(times), 3, 3)) if self.turns is None else self.turns.at(times)

    def to_world(self, times: Array) -> Array:
        """(n, 3, 3) from the picture to a level world that stands still; the picture's own where nobody knows how it turned."""
        if self.orientation is None:
            return np.broadcast_to(np.eye(3), (len(times), 3, 3))
        known = self.orientation
        level = np.eye(3) if known.up is None else upright(known.up)
        return np.asarray(level @ TurnTrack(known.time_s, known.quaternions).at(times))

    def from_world(self, times: Array, looks: Array) -> Array:
        """Directions (n, 3) of that world in the frame that views are meant in."""
        return np.einsum("nij,nkj,nk->ni", self.from_picture(times), np.swapaxes(self.to_world(times), 1, 2), looks)

    @property
    def travel_deg(self) -> Array:
        """(n,) the way of travel in that world, clockwise, at `times`: by the GPX beside its clip where north is known too, else as its
        picture or its log tells. Raises InputError where nobody knows."""
        known = self.orientation
        if known is None:
            raise InputError(
                f"Which way {self.take.name} travels is not known yet.",
                advice="It is found when the recording is held level or still (Ctrl+3, Ctrl+4).",
            )
        gone = way_gone(self.project_file, self.take)
        if gone is not None:
            with suppress(InputError):
                return np.interp(self.times, gone.time_s, gone.bearing_deg) + self.north_deg
        if known.heading_deg is None and gone is not None:
            raise InputError(
                f"{gone.file.name} tells which way {self.take.name} went, but nobody knows where north is in its picture.",
                advice="Turn to where north is and say so: Take, North is here.",
            )
        if known.heading_deg is None:
            raise InputError(
                f"Which way {self.take.name} travels is not known: its picture does not tell.",
                advice="Hold on to something else, or set keyframes.",
            )
        return np.interp(self.times, known.time_s, known.heading_deg)

    @property
    def north_deg(self) -> float:
        """The bearing of north in that world, clockwise from its first axis. Raises InputError."""
        if self.take.north is not None:
            return self.world_bearing_deg(self.take.north)
        if self.front_bearing_deg is None:
            raise InputError(
                f"Nobody knows where north is in {self.take.name}.",
                advice="Turn to where it is and say so: Take, North is here.",
            )
        return float(headings_deg(self.to_world(np.zeros(1)))[0]) - self.front_bearing_deg

    def bearing_at(self, yaw_deg: float, time_s: float) -> float:
        """Clockwise from north, the bearing of a yaw in the frame that views are meant in, at a moment. Raises InputError."""
        when = np.array([time_s])
        world = self.to_world(when)[0] @ self.from_picture(when)[0].T @ direction(yaw_deg, 0.0)
        return float(lonlat_deg(world)[0]) - self.north_deg

    def world_bearing_deg(self, spot: Spot) -> float:
        """Where something that was pointed at in the picture lies in that world."""
        yaw, _ = lonlat_deg(self.world_look(spot))
        return float(yaw)

    def world_look(self, spot: Spot) -> Array:
        """(3,) its direction."""
        when = np.array([spot.time_s])
        return np.asarray(self.to_world(when)[0] @ direction(spot.yaw_deg, spot.pitch_deg))


def needs_world(cut: Cut) -> bool:
    """Whether it must be known how a take's camera turned before it is known what a cut's view is held on."""
    return any(anchor.on in ("travel", "compass", "point") for anchor in cut.anchors)


def around_of(
    project_file: Path,
    project: Project | None,
    take: Take,
    turns: TurnTrack | None = None,
    orientation: Orientation | None = None,
) -> Around:
    """What is known round a take. The bearing of its front is the plan's, where its picture lies as it was planned."""
    planned = layout_of_take(project, take) if project is not None and take.horizon is None else None
    front = None if planned is None else (planned.way_bearing_deg + planned.heading_deg) % 360.0
    return Around(project_file, take, turns, orientation, front)


def around_footage(
    project_file: Path, project: Project | None, take: Take, footage: Footage, turns: TurnTrack | None
) -> Around:
    """The same, with what is known already of how the camera turned."""
    return around_of(project_file, project, take, turns, known_orientation(footage))


def target_of(anchor: Anchor, around: Around) -> Following:
    """Where what an anchor names is, in the clip's time. Raises InputError, which says what is not known."""
    if anchor.on == "subject":
        return _subject(anchor, around.track((*anchor.subjects, "")[0]))
    if anchor.on == "pair":
        if len(anchor.subjects) < 2:
            raise InputError("Two subjects are needed to hold on to both.", advice="Track the second one.")
        return _pair(anchor, around.track(anchor.subjects[0]), around.track(anchor.subjects[1]))
    times = around.times
    if anchor.on == "travel":
        bearings = around.travel_deg
        looks = direction(bearings, np.zeros_like(bearings))
    elif anchor.on == "compass":
        looks = np.tile(direction(anchor.bearing_deg + around.north_deg, 0.0), (len(times), 1))
    else:
        looks = _point(anchor.spots, around, times)
    yaw, pitch = lonlat_deg(around.from_world(times, looks))
    return followed(anchor, times, yaw, pitch)


def targets_of(cut: Cut, around: Around) -> tuple[Targets, list[str]]:
    """What a cut's keyframes are held on, by name and in the path's time; and in words what of it nobody knows."""
    out, missing = {}, []
    for anchor in cut.anchors:
        try:
            out[anchor.id] = target_of(anchor, around).on(cut.clock)
        except InputError as error:
            missing.append(str(error))
    return out, missing


def _subject(anchor: Anchor, track: Track) -> Following:
    tightness = None if track.size_deg is None else -np.log(np.maximum(track.size_deg, 0.2))
    if tightness is not None:
        tightness = tightness - float(np.median(tightness[track.sure if track.sure.any() else track.known]))
    return followed(anchor, track.time_s, track.yaw_deg, track.pitch_deg, tightness=tightness, known=track.sure)


def _pair(anchor: Anchor, one: Track, two: Track) -> Following:
    """Between two: where either is lost, where it was last seen to go stands for it."""
    times = np.union1d(one.time_s, two.time_s)
    known = one.at(times).sure & two.at(times).sure
    if not known.any():
        raise InputError("The two subjects are never seen at the same time.", advice="Hold on to one of them.")
    a, b = (direction(t.yaw_deg, t.pitch_deg) for t in (one.at(times), two.at(times)))
    yaw, pitch = lonlat_deg(a + b)
    apart = np.degrees(np.arctan2(np.linalg.norm(np.cross(a, b), axis=1), (a * b).sum(axis=1)))
    tightness = -np.log(np.clip(apart, 8.0, 150.0))
    return followed(anchor, times, yaw, pitch, tightness=tightness - float(np.median(tightness[known])), known=known)


def _point(spots: tuple[Spot, ...], around: Around, times: Array) -> Array:
    """(n, 3) directions in the world of what stands still. Pointed at once it is far away; pointed at twice, and with the way of travel
    known, it is where those sights meet, the way gone at an even pace (a pace is the unit of length)."""
    if not spots:
        raise InputError("No point was pointed at.", advice="Turn to it and hold on to it anew.")
    looks = np.stack([around.world_look(spot) for spot in spots])
    if len(spots) == 1:
        return np.tile(looks[0], (len(times), 1))
    bearings = around.travel_deg
    steps = direction(bearings, np.zeros_like(bearings)) / _HZ
    walked = np.concatenate([np.zeros((1, 3)), np.cumsum((steps[1:] + steps[:-1]) / 2.0, axis=0)])
    stood = np.stack([np.interp([s.time_s for s in spots], times, column) for column in walked.T], axis=1)
    across = np.eye(3) - looks[:, :, None] * looks[:, None, :]
    total, pulled = across.sum(axis=0), np.einsum("nij,nj->i", across, stood)
    if np.linalg.cond(total) > 1e5:
        raise InputError(
            "From both moments the point lies the same way: how far it is cannot be told.",
            advice="Point at it again at a moment when it is passed.",
        )
    away = np.linalg.solve(total, pulled) - walked
    return np.asarray(away / np.maximum(np.linalg.norm(away, axis=1, keepdims=True), 1e-9))
