"""A wished look: what is asked for, what the search proposes, and what each proposal costs."""

import msgspec
from PyQt6.QtWidgets import QDialog, QVBoxLayout, QWidget

from glintor.desktop.controls import Chips, Number, button, fill, label, row, table
from glintor.desktop.document import Document
from glintor.desktop.jobs import Jobs
from glintor.export.formats import FORMATS, LANDSCAPE, format_by_name
from glintor.placement.inside import subject_in
from glintor.placement.wish import LOOKS, Proposal, Wish
from glintor.project.model import Shot
from glintor.project.placed import carrier_of, plan_of
from glintor.review import at_place, wished
from glintor.sphere.view import for_shape, vertical_fov_deg


class WishSheet(QDialog):
    """Ask, search, take one; a taken proposal is one undo step of the document."""

    def __init__(self, document: Document, jobs: Jobs, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Wish for a look")
        self.resize(900, 480)
        self._document, self._jobs, self._shot_id = document, jobs, document.shot.id
        self._look, self._aspect = "ahead", LANDSCAPE.name
        self.found: list[Proposal] = []
        self.looks = Chips("See the subject", [(look, words) for look, (words, _, _) in LOOKS.items()], columns=3)
        self.looks.show_value(self._look)
        self.share = Number("High in the frame", " %", 10, 200, 5, 0)
        self.share.show_value(50.0)
        self.aspects = Chips("Format", [(f.name, f.name) for f in FORMATS])
        self.aspects.show_value(self._aspect)
        self.list = table("Proposals", ("Set-up", "Stick", "Camera", "Points", "Costs"))
        self.words = label("Fewer points come nearer to the wish. None breaks a stop.", "soft")
        self.take_button = button("Take this one", self.take, main=True)
        self.search_button = button("Search", self.search)
        self._lay()
        self.looks.chosen.connect(self._choose_look)
        self.aspects.chosen.connect(self._choose_aspect)
        self.list.itemSelectionChanged.connect(self._choose_row)
        self._choose_row()
        self.search()

    def _lay(self) -> None:
        page = QVBoxLayout(self)
        page.setContentsMargins(18, 14, 18, 14)
        page.setSpacing(10)
        page.addLayout(row(self.looks))
        page.addLayout(row(self.aspects, self.share, None, self.search_button, stretch=False, spacing=10))
        page.addWidget(self.list, 1)
        page.addWidget(self.words)
        page.addLayout(row(None, button("Leave it", self.reject), self.take_button, stretch=False, spacing=8))

    def _choose_look(self, look: object) -> None:
        self._look = str(look)
        self.search()

    def _choose_aspect(self, name: object) -> None:
        self._aspect = str(name)
        self.search()

    def search(self) -> None:
        """Searches in the background; the list fills when it is done."""
        project = self._document.project
        shot = project.shot(self._shot_id)  # not another that was chosen meanwhile
        size = format_by_name(self._aspect).size_px
        plan = plan_of(project, shot)
        stuck = subject_in(plan)
        if stuck is not None:  # nothing can be found, and looking would last
            self._show([])
            self.words.setText(f"{stuck.what} is inside {stuck.where}: move it on the plan first, then wish again.")
            return
        natural = plan.start_view
        view = for_shape(natural, size)
        high = vertical_fov_deg(view, size)
        wish = Wish(look=self._look, share=self.share.box.value() / 100.0, frame_high_deg=high)
        self.words.setText("Searching…")
        self._jobs.start("Searching for the look", lambda _report, _stop: wished(project, shot, wish), self._show)

    def _show(self, found: list[Proposal]) -> None:
        self.found = found
        rows = []
        for proposal in found:
            c = proposal.candidate
            side = "left" if c.left_m >= 0 else "right"
            place = f"{c.ahead_m:+.2f} m ahead, {abs(c.left_m):.2f} {side}" + (
                f", leans {c.lean_deg:g}°" if c.lean_deg else ""
            )
            rows.append(
                (
                    c.setup.words,
                    f"{c.stick_m:g} m" if c.stick_m else "none",
                    place,
                    f"{proposal.score:.1f}",
                    proposal.trade_off,
                )
            )
        fill(self.list, rows)
        shot = self._document.project.shot(self._shot_id)
        carrier = carrier_of(self._document.project.site, shot.placement).words
        self.words.setText(
            "Fewer points come nearer to the wish. None breaks a stop."
            if found
            else f"Nothing without a stop can be done with this carrier ({carrier}): choose another set-up first."
        )
        if found:
            self.list.selectRow(0)

    def _choose_row(self) -> None:
        self.take_button.setEnabled(bool(self.found) and self.list.currentRow() >= 0)

    def take(self) -> None:
        """Puts the chosen proposal into the shot."""
        proposal = self.found[self.list.currentRow()]
        project = self._document.project

        def change(shot: Shot) -> Shot:
            placement = at_place(project.site, shot.placement, proposal.candidate, proposal.heading_deg)
            return msgspec.structs.replace(shot, placement=placement)

        self._document.edit("Take the proposed place", project.with_shot(self._shot_id, change))
        self.accept()
