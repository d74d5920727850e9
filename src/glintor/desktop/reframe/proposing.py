"""Proposals for the cut at hand: what is known is gathered, paths are made, one is taken."""

from typing import TYPE_CHECKING

import numpy as np

from glintor.desktop.reframe.proposals_sheet import ProposalsSheet
from glintor.project.followed import target_of
from glintor.reframing.course import Course, course_of
from glintor.reframing.proposals import Given, Proposal, part_taken, proposals
from glintor.review import subject_of

if TYPE_CHECKING:
    from glintor.desktop.reframe.desk import ReframeDesk


class Proposing:
    """Offers paths to begin from on a desk."""

    def __init__(self, desk: "ReframeDesk") -> None:
        self._desk = desk
        self.sheet: ProposalsSheet | None = None

    def found(self) -> list[Proposal]:
        """Paths for the cut at hand, from what is known of its take; none without a cut."""
        desk, hand = self._desk, self._desk.hand
        cut, take = hand.cut, hand.take
        if cut is None or take is None:
            return []
        travel, sun = desk.known.travel, desk.plotting.lie.sun
        return proposals(
            Given(
                cut,
                hand.path_view(),
                desk.known.track,
                subject_of(take) if take.placement is not None else "the subject",
                None if travel is None else float(np.interp(cut.begins_s, travel.time_s, travel.yaw_deg)),
                None if sun is None else sun[0],
                take.marks_s,
            )
        )

    def open(self) -> None:
        """Plays the proposals side by side."""
        desk = self._desk
        found, footage = self.found(), desk.projector.footage
        if not found or footage is None or footage.kind != "film":
            desk.said.emit("There is no film here to propose paths for")
            return
        desk.player.stop()
        self.sheet = ProposalsSheet(
            found, [self._course(p) for p in found], footage, desk.hand.part, desk.jobs.trouble.emit, desk
        )
        self.sheet.taken.connect(self._take)
        self.sheet.show()

    def _course(self, one: Proposal) -> Course:
        targets = dict(self._desk.hand.targets)
        for anchor in one.cut.anchors:
            assert self._desk.known.around is not None, "a take is open"
            targets[anchor.id] = target_of(anchor, self._desk.known.around)
        return course_of(one.cut, "16:9", (16, 9), targets=targets, turns=self._desk.known.turns)

    def _take(self, one: Proposal, part: bool) -> None:
        hand = self._desk.hand
        cut = hand.cut
        if cut is None:
            return
        new = part_taken(cut, one.cut, hand.part) if part and hand.part is not None else one.cut
        self._desk.work.edit_cut(f"Begin from: {one.name}", new)
