"""What is done to the day as a whole: its site, its kit, its order, and what is taken along of it."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Literal

import msgspec
from PyQt6.QtWidgets import QFileDialog, QWidget

from glintor.desktop.document import Document
from glintor.desktop.jobs import Jobs
from glintor.errors import GlintorError
from glintor.placement.clock import clock
from glintor.project.model import Project

if TYPE_CHECKING:
    from glintor.placement.schedule import Order
    from glintor.project.kit import Kit


class DayWork:
    """Opens the day's sheets over a window and puts what they give into its document. Sheets load when first opened."""

    def __init__(
        self,
        document: Document,
        jobs: Jobs,
        over: QWidget,
        say: Callable[[str], None],
        tell: Callable[[GlintorError], None],
    ) -> None:
        self._document, self._jobs, self._over, self._say, self._tell = document, jobs, over, say, tell

    def edit_site(self) -> None:
        """Opens the sheet with place, day and weather."""
        from glintor.desktop.place.site_sheet import SiteSheet

        sheet = SiteSheet(self._document.project.site, self._over)
        sheet.taken.connect(
            lambda site: self._document.edit(
                "Change the site", msgspec.structs.replace(self._document.project, site=site)
            )
        )
        sheet.show()

    def edit_kit(self) -> None:
        """Opens the sheet of the bag."""
        from glintor.desktop.place.kit_sheet import KitSheet

        def take(kit: "Kit") -> None:
            self._document.edit("Change the kit", self._document.project.with_kit(kit))

        sheet = KitSheet(self._document.project, self._over)
        sheet.taken.connect(take)
        sheet.show()

    def plan(self, by: Literal["light", "way"] = "light") -> None:
        """Puts the shots at the times of the best order, as one undo step, and says what has no room."""
        from glintor.plan.timetable import planned

        project = self._document.project

        def done(found: "tuple[Project, Order, list[str]]") -> None:
            new, order, left_out = found
            if self._document.project is not project:
                self._say("The day was changed meanwhile: plan it again")
                return
            self._document.edit("Plan the day", new)
            back = _back_words(order.legs_back)
            self._say(f"{len(order.slots)} shots in order{back}, the last ends at {clock(order.ends_min)}")
            if left_out:
                self._tell(
                    GlintorError(
                        "No room for " + _few(left_out) + ".",
                        unharmed="Those shots kept their times.",
                        advice="Ask less of their light, shorten them, or leave them to another day.",
                    )
                )

        self._jobs.start("Planning the day", lambda _report, _stop: planned(project, by), done)

    def ask_carry(self) -> None:
        """Asks for a folder and writes the day into it."""
        folder = QFileDialog.getExistingDirectory(
            self._over, "Take the day along: into which folder?", str(self._document.file.parent)
        )
        if folder:
            self.carry(Path(folder))

    def carry(self, folder: Path) -> None:
        """Writes the printed sheet, the page for a phone, calendar, waypoints and table into a folder."""
        from glintor.desktop.place.day_sheet import Seen, write_day

        work, finish = write_day(self._document.project, folder)

        def done(seen: Seen) -> None:
            try:
                files = finish(seen)
            except GlintorError as error:
                self._tell(error)
            else:
                self._say(f"{len(files)} files in {folder}: {', '.join(f.suffix[1:].upper() for f in files)}")

        self._jobs.start("Writing the day sheet", work, done)


def _back_words(back: float) -> str:
    """How far one goes back: places of the route, or metres where the shots are on a track."""
    if not back:
        return ", no way back"
    return f", {back / 1000:.1f} km back" if back > 50.0 else f", {back:.0f} legs back"


def _few(words: list[str], most: int = 4) -> str:
    """The first few, and how many more there are."""
    more = f"; and {len(words) - most} more" if len(words) > most else ""
    return "; ".join(words[:most]) + more
