"""What the work on files, clips and takes needs of the window, and nothing more of it."""

from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from PyQt6.QtWidgets import QWidget

from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.jobs import Jobs
from glintor.desktop.telling import Answers
from glintor.errors import GlintorError

if TYPE_CHECKING:
    from glintor.desktop.reframe.desk import ReframeDesk


class Opener(Protocol):
    """Opens another day in place of this one; a fresh one with the sheet that asks for its place."""

    def __call__(self, file: Path, *, fresh: bool = False, take_over: bool = False) -> None: ...


class Host(Protocol):
    """Who holds the day, runs the jobs, speaks to the person and brings desks into sight."""

    document: Document
    jobs: Jobs
    open_file: Opener

    @property
    def parent_widget(self) -> QWidget:
        """What sheets and questions lie over."""

    @property
    def desk(self) -> Desk:
        """The desk in sight."""

    @property
    def reframe(self) -> "ReframeDesk": ...

    @property
    def films(self) -> Path:
        """Where this day's films go."""

    def say(self, words: str) -> None:
        """A line of what was done."""

    def tell(self, error: GlintorError, answers: Answers | None = None) -> None:
        """Shows what happened, what is unharmed and what to do; answers: buttons that do something about it."""

    def show_desk(self, number: int) -> None:
        """Brings a desk into sight, 0 to 5."""

    def show_card(self, folder: Path) -> None:
        """Brings the Offload desk into sight, with what lies on a card."""

    def show_actions(self) -> None:
        """What can be undone and done again."""

    def close(self) -> bool:
        """Closes the window, unless something still asks; whether it did."""

    def leave(self, *, unsaved: bool, rolling: bool = False) -> None:
        """Closes the window; `unsaved`: even where something could not be saved; `rolling`: even while a camera rolls."""
