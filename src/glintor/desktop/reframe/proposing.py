"""Proposals for the cut at hand: what is known is gathered, paths are made, one is taken."""

from threading import Event
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtWidgets import QWidget

from glintor.desktop.jobs import Jobs
from glintor.desktop.reframe.cut_work import CutWork
from glintor.desktop.reframe.edit_context import EditContext
from glintor.desktop.reframe.plotting import Plotting
from glintor.desktop.reframe.proposals_sheet import ProposalsSheet
from glintor.media.footage import Footage
from glintor.reframing.course import Course, Targets, course_of
from glintor.reframing.cut import Cut
from glintor.reframing.proposals import Given, Proposal, part_taken, proposals
from glintor.review import subject_of
from glintor.types import Report

if TYPE_CHECKING:
    from glintor.media.changing import Changing


_EVERYWHERE = "No path that holds on what changes: the camera moves, so all of the picture does."
_NOWHERE = "No path that holds on what changes: nothing does."


class Proposing:
    """Offers paths to begin from."""

    def __init__(self, context: EditContext, work: CutWork, plotting: Plotting, jobs: Jobs, parent: QWidget) -> None:
        self._context, self._hand, self._known = context, context.hand, context.known
        self._work, self._plotting, self._jobs, self._parent = work, plotting, jobs, parent
        self.sheet: ProposalsSheet | None = None

    def found(self, changes: "Changing | None" = None) -> list[Proposal]:
        """Paths for the cut at hand, from what is known of its take and, where that was looked for, where its picture changes; none
        without a cut."""
        hand = self._hand
        cut, take = hand.cut, hand.take
        if cut is None or take is None:
            return []
        travel, sun = self._known.travel, self._plotting.lie.sun
        return proposals(
            Given(
                cut,
                hand.path_view(),
                self._known.track,
                subject_of(take) if take.placement is not None else "the subject",
                None if travel is None else float(np.interp(cut.begins_s, travel.time_s, travel.yaw_deg)),
                None if sun is None else sun[0],
                take.marks_s,
                None if changes is None or changes.everywhere else (changes.time_s, changes.amount),
            )
        )

    def open(self) -> None:
        """Plays the proposals side by side; one that needs the pictures to be looked through comes when it is known."""
        found, footage, cut = self.found(), self._context.footage, self._hand.cut
        if not found or footage is None or footage.kind != "film":
            self._context.say("There is no film here to propose paths for")
            return
        self._context.player.stop()
        self.sheet = ProposalsSheet(
            found, [self._course(p) for p in found], footage, self._hand.part, self._jobs.trouble.emit, self._parent
        )
        self.sheet.taken.connect(self._take)
        self.sheet.show()
        if cut is not None:
            self._look_through(self.sheet, footage, cut)

    def _look_through(self, sheet: ProposalsSheet, footage: Footage, cut: Cut) -> None:
        """Looks for where the picture changes, and adds the path that holds on that, or says why there is none."""
        turns = self._known.turns

        def work(report: Report, stop: Event) -> "Changing":
            from glintor.media.changing import changing

            return changing(footage, (cut.in_s, cut.out_s), turns, report=report, stop=stop)

        self._jobs.start("Looking for what changes", work, lambda found: self.known(sheet, cut, found))

    def known(self, sheet: ProposalsSheet, cut: Cut, changes: "Changing") -> None:
        """Where the picture changes is known: what that gives is offered too, while the sheet is open and the cut the same."""
        if sheet is not self.sheet or not sheet.isVisible() or self._hand.cut != cut:
            return
        had = [one.name for one in sheet.found]
        new = [one for one in self.found(changes) if one.name not in had]
        for one in new:
            sheet.add(one, self._course(one))
        if not new:
            sheet.say(_EVERYWHERE if changes.everywhere else _NOWHERE)

    def _course(self, one: Proposal) -> Course:
        targets: Targets = self._hand.targets
        for anchor in one.cut.anchors:
            targets = {**targets, **self._known.with_anchor(one.cut, anchor)}
        return course_of(one.cut, "16:9", (16, 9), targets=targets, turns=self._known.turns)

    def _take(self, one: Proposal, part: bool) -> None:
        cut, marked = self._hand.cut, self._hand.part
        if cut is None:
            return
        new = part_taken(cut, one.cut, marked) if part and marked is not None else one.cut
        self._work.edit_cut(f"Begin from: {one.name}", new)
