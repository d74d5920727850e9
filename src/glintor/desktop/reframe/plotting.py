"""What the course is to show of the cut at hand: its paths, made once while they stay the same, and what is known round them."""

from collections.abc import Sequence
from typing import Any, TypeVar

import numpy as np
from msgspec.structs import replace

from glintor.desktop.reframe.course_sheet import Frame, Line, Plot
from glintor.desktop.reframe.hand import Hand
from glintor.desktop.reframe.known import Known
from glintor.desktop.sphere_view import SphereMarks
from glintor.finding import Finding
from glintor.project.cameras_beside import RanBeside
from glintor.project.take import Take
from glintor.reframing.anchor import Anchor
from glintor.reframing.cut import Cut
from glintor.reframing.holding import anchor_of, stretch_of
from glintor.reframing.own import own_of
from glintor.reframing.path_clock import PathClock
from glintor.reframing.track import Track
from glintor.review import Lie, pan_share_s, subject_of
from glintor.sphere.view import View

Told = TypeVar("Told", Track, Line, Frame, Line | None)
_KEPT = 32  # of what is told in a path's time


class Plotting:
    """Makes plots of what a hand holds; lie: how lenses, sun and stick of the take lay."""

    def __init__(self, hand: Hand, known: Known) -> None:
        self._hand, self._known = hand, known
        self._told_from = 0
        self.lie = Lie()
        self._on_paths: dict[tuple[object, PathClock], Any] = {}

    def _on(self, told: Told, clock: PathClock) -> Told:
        """What is told in the clip's time in a path's, made once while both stay the same: the chart is drawn anew for what is new."""
        if told is None or not clock.freezes:
            return told
        if (told, clock) not in self._on_paths:
            while len(self._on_paths) >= _KEPT:
                del self._on_paths[next(iter(self._on_paths))]
            self._on_paths[told, clock] = told.on(clock)
        made: Told = self._on_paths[told, clock]
        return made

    def plot(self, cut: Cut, take: Take, findings: Sequence[Finding]) -> Plot:
        """All that the course shows of a cut."""
        hand, known = self._hand, self._known
        other = hand.compared[1] if hand.compared is not None else None
        return Plot(
            cut=cut,
            length_s=hand.length_s,
            course=hand.shared(cut),
            pan_share=pan_share_s(take),
            own=hand.course(cut) if own_of(cut, hand.shape.name) else None,
            other=hand.shared(other) if other is not None else hand.ghost,
            other_words=hand.compared[0] if hand.compared is not None else hand.ghost_words,
            holds=_holds(cut, take),
            tracks={name or subject_of(take): self._on(track, cut.clock) for name, track in known.tracks.items()},
            lie=self.lie,
            findings=tuple(findings),
            chosen=hand.chosen,
            several=hand.several,
            marks_s=tuple(float(cut.clock.path_s(mark)) for mark in take.marks_s),
            front=self._on(known.front, cut.clock),
            travel=self._on(known.travel, cut.clock),
            cameras=self._cameras(cut, take),
            frame=self._on(known.frames[self._told_from % len(known.frames)], cut.clock),
        )

    def _cameras(self, cut: Cut, take: Take) -> tuple[RanBeside, ...]:
        """Other cameras that ran beside a take, in the path's time."""
        clock, found = cut.clock, self._hand.cameras_beside(take)
        return tuple(
            replace(c, start_s=float(clock.path_s(c.start_s)), end_s=float(clock.path_s(c.end_s))) for c in found
        )

    def marks(self, shown: View) -> SphereMarks:
        """What is drawn over the sphere unrolled, the frame's outline and the path first."""
        hand, known = self._hand, self._known
        over = SphereMarks(outlines=[(shown, hand.frame_px, "")])
        cut, take = hand.cut, hand.take
        if cut is None or take is None:
            return over
        over.seam_deg, over.seam_axis, over.sun = self.lie.band_deg, self.lie.axis, self.lie.sun
        values = hand.course(cut).values(np.linspace(*cut.span_s, 240))
        over.path_yaw, over.path_pitch = values[:, 0], values[:, 1]
        if known.track is not None and len(known.track.time_s):
            now = known.track.at(np.array([hand.clip_s]))
            over.subject_name = subject_of(take)
            over.subject = (float(now.yaw_deg[0]), float(now.pitch_deg[0]))
        return over

    def tell_otherwise(self) -> str:
        """Bearings told in the next frame in which they are known; which, in words."""
        self._told_from = (self._told_from + 1) % len(self._known.frames)
        more = "" if len(self._known.frames) > 1 else ". North is not known here: turn to it and say so (Take menu)"
        return f"Bearings are told {self._known.frames[self._told_from].name}{more}"


def anchor_words(anchor: Anchor, take: Take) -> str:
    """What a view is held on, in words."""
    named = [name or subject_of(take) for name in anchor.subjects]
    return {
        "subject": named[0],
        "pair": " and ".join(named),
        "travel": "the way of travel",
        "compass": f"bearing {anchor.bearing_deg:03.0f}°",
        "point": "a point",
    }[anchor.on]


def _holds(cut: Cut, take: Take) -> tuple[tuple[float, float, str], ...]:
    """From when to when the view is held on what: from the first keyframe to the last, and on to the cut's end where none follows."""
    out = []
    for number, key in enumerate(cut.keys):
        if not key.on or (number and cut.keys[number - 1].on == key.on):
            continue
        anchor = anchor_of(cut, key.on)
        if anchor is None:
            continue
        last = stretch_of(cut, number)[1]
        end = cut.ends_s if last >= len(cut.keys) else cut.keys[last - 1].time_s
        start = cut.begins_s if number == 0 else key.time_s
        out.append((start, end, anchor_words(anchor, take)))
    return tuple(out)
