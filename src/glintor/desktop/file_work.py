"""What is done with the day's file: begun, opened, kept where it cannot be saved, taken over from another window."""

from datetime import date
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog

from glintor.desktop.asking import ask
from glintor.desktop.host import Host
from glintor.desktop.telling import Answers
from glintor.errors import GlintorError, InputError
from glintor.project.keeper import Changed, TakenOver
from glintor.project.store import SUFFIX, write_project

_DAYS = "Glintor days (*.glintor)"


class FileWork:
    """Opens and keeps days for a window."""

    def __init__(self, host: Host) -> None:
        self._host, self._document = host, host.document

    def ask_new(self) -> None:
        beside = self._document.file.parent.parent / f"{date.today()}{SUFFIX}"
        name, _ = QFileDialog.getSaveFileName(self._host.parent_widget, "Begin a new day", str(beside), _DAYS)
        if name:
            self.begin_day(Path(name if name.endswith(SUFFIX) else name + SUFFIX))

    def begin_day(self, file: Path) -> None:
        """Makes a day with one shot by that name, opens it and asks for its place."""
        from glintor.project.fresh import fresh_day, own_folder

        target = own_folder(file)
        try:
            if file.exists() or target.exists():
                raise InputError(
                    f"There is a day in {file.name} already.",
                    unharmed="It was not touched.",
                    advice="Choose another name.",
                )
            write_project(
                target,
                fresh_day(self._document.project, self._document.shot, date.today(), file.stem),
                make_folder=True,
            )
        except GlintorError as error:
            self._host.tell(error)
            return
        self._host.open_file(target, fresh=True)

    def ask_open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self._host.parent_widget, "Open a day", str(self._document.file.parent), _DAYS
        )
        if name:
            self._host.open_file(Path(name))

    def open_demo(self) -> None:
        from glintor.demo.day import demo_project

        self._host.open_file(demo_project())

    # Keeping
    def tell_keeping(self, error: GlintorError) -> None:
        """Shows what is wrong with keeping the day, with what can be done about it."""
        answers: Answers = {}
        if isinstance(error, Changed):
            answers = {"Keep mine": self._document.keep_mine, "Take what is there": self._reopen}
        elif isinstance(error, TakenOver):
            answers = {"Take it back": self.take_over}
            self._host.jobs.when_seen(self._host.show_actions, longer=True)
        self._host.tell(error, answers)

    def _reopen(self) -> None:
        self._document.let_go()
        self._host.open_file(self._document.file)

    def take_over(self) -> None:
        self._document.let_go()
        self._host.open_file(self._document.file, take_over=True)

    def ask_where(self) -> None:
        """The window is to close and something is not saved: asks where it may be put."""
        ask(
            self._host.parent_widget,
            f"{self._document.file.name} cannot be saved where it lies.",
            "Your changes are still in this window. Where may they be put?",
            {
                "Put them elsewhere…": self._ask_elsewhere,
                "Try again": lambda: self._host.leave(unsaved=False),
                "Close without them": lambda: self._host.leave(unsaved=True),
            },
        )

    def _ask_elsewhere(self) -> None:
        beside = str(Path.home() / self._document.file.name)
        name, _ = QFileDialog.getSaveFileName(self._host.parent_widget, "Put the day elsewhere", beside, _DAYS)
        if name:
            self.save_elsewhere(Path(name))

    def save_elsewhere(self, target: Path) -> None:
        """Puts the day into another file and closes the window."""
        try:
            self._document.save_elsewhere(target)
        except GlintorError as error:
            self._host.tell(error)
            return
        self._host.close()
