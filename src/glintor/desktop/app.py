"""Starting the application: which project, and the window round it."""

import gc
import os
import sys
from collections.abc import Callable, Sequence
from datetime import date
from pathlib import Path

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QMainWindow, QMessageBox, QWidget

from glintor.desktop import theme
from glintor.desktop.document import Document
from glintor.desktop.faults import Hooks
from glintor.desktop.settings import keep_settings, read_settings
from glintor.desktop.welcome import Welcome
from glintor.desktop.window import REFRAME, Window
from glintor.errors import GlintorError, InputError
from glintor.files import same_file
from glintor.project.lock import InUse
from glintor.project.store import SUFFIX

_NAME = "Glintor"
_open: list[Window] = []
hooks = Hooks()
_REMEMBER_MS = 500  # not before the first picture
_SWITCH_S = 0.0005  # a hand that drags waits so long for background work to let the window draw, not 5 ms
_kept: list[QApplication] = []  # Qt ends when Python lets go of the application


def _last_file() -> Path | None:
    last = read_settings().last_file
    file = Path(last)
    return file if last and file.exists() else None


def _painted() -> None:
    """The first picture is there: Python may look for garbage again."""
    gc.freeze()  # what a start makes stays; looking through it again and again makes a drag stutter
    gc.enable()


def _demo() -> Path:
    from glintor.demo.day import demo_project

    return demo_project()


def _remember(file: Path) -> None:
    keep_settings(last_file=str(file.resolve()))


def application() -> QApplication:
    """The one QApplication, styled."""
    app = QApplication.instance()
    if isinstance(app, QApplication) and app.applicationName() == _NAME:
        return app
    if isinstance(app, QApplication):
        app.setStyle("Fusion")
    else:  # as an option, since a style that Python sees costs a tenth of the start
        app = QApplication([*sys.argv[:1], "-style", "Fusion"])
        _kept.append(app)
    app.setApplicationName(_NAME)
    sys.setswitchinterval(_SWITCH_S)
    theme.apply(app)
    return app


def build_window(path: str | None = None, *, look: bool = False, take_over: bool = False) -> QMainWindow:
    """The whole window with a project opened; without a path the last one, else the demo day.

    look, take_over   what is to be done where another window works on the day
    Raises ProjectError where the file cannot be opened, InUse where another window works on it.
    """
    application()
    file = Path(path) if path else (_last_file() or _demo())
    document = Document(file, look=look, take_over=take_over)
    window = Window(document, open_file=_replace, paint_first=True)
    hooks.happened.connect(window.tell_fault)
    window.painted.connect(_painted)
    QTimer.singleShot(_REMEMBER_MS, lambda: _remember(file))
    return window


def _ask_in_use(error: InUse, over: QWidget | None) -> dict[str, bool] | None:
    """What to do where another window works on the day: options of `build_window`, or None to leave it."""
    box = QMessageBox(QMessageBox.Icon.Question, _NAME, error.what, QMessageBox.StandardButton.NoButton, over)
    box.setInformativeText(f"{error.unharmed} {error.advice}")
    look = box.addButton("Look only", QMessageBox.ButtonRole.AcceptRole)
    over_it = box.addButton("Take it over", QMessageBox.ButtonRole.ActionRole)
    box.addButton("Leave it", QMessageBox.ButtonRole.RejectRole)
    box.exec()
    return {look: {"look": True}, over_it: {"take_over": True}}.get(box.clickedButton())  # type: ignore[arg-type]


def _open_or_ask(path: str | None, over: QWidget | None = None, *, take_over: bool = False) -> Window | None:
    """A window on a day, asking where another one works on it; None where the person leaves it. Raises ProjectError."""
    try:
        window = build_window(path, take_over=take_over)
    except InUse as error:
        chosen = _ask_in_use(error, over)
        if chosen is None:
            return None
        window = build_window(path, **chosen)
    assert isinstance(window, Window)
    return window


def begin_with(places: Sequence[Path]) -> Window:
    """A window on a day that is begun for these recordings. Raises WriteError where it cannot be kept."""
    from glintor.project.recordings import begin_day

    window = build_window(str(begin_day(date.today())))
    assert isinstance(window, Window)
    window.show_desk(REFRAME)
    window.clip_work.take_in(places)
    return window


def _welcome() -> Welcome:
    """The page of a first start; it goes when a window is there."""

    def opened(make: Callable[[], Window | None]) -> None:
        try:
            window = make()
        except GlintorError as error:
            page.tell(error)
            return
        if window is not None:
            _open[:] = [window]
            window.show()
            page.close()

    def plan() -> None:
        from glintor.project.recordings import begin_day

        def make() -> Window | None:
            window = _open_or_ask(str(begin_day(date.today())))
            if window is not None:
                window.shot_work.plan()
                window.painted.connect(window.day_work.edit_site)
            return window

        opened(make)

    page = Welcome(
        lambda places: opened(lambda: begin_with(places)), plan, lambda: opened(lambda: _open_or_ask(str(_demo())))
    )
    return page


def _replace(file: Path, *, fresh: bool = False, take_over: bool = False) -> None:
    """Opens another project in a new window and closes the old one; of a fresh day it asks for the place."""
    old = list(_open)
    if old and not old[-1].document.looking and same_file(old[-1].document.file, file):
        old[-1].work.say("This day is open already")
        return
    try:
        window = _open_or_ask(str(file), old[-1] if old else None, take_over=take_over)
    except GlintorError as error:
        if old:
            old[-1].tell(error)
        return
    if window is None:
        return
    _open[:] = [window]
    window.show()
    for other in old:
        other.close()
    if fresh:
        window.work.say(f"The new day lies in {file.parent}")
        window.day_work.edit_site()


def _first(paths: Sequence[str], demo: bool) -> QWidget | None:
    if demo:
        return _open_or_ask(str(_demo()))
    if len(paths) == 1 and (paths[0].endswith(SUFFIX) or not Path(paths[0]).exists()):
        return _open_or_ask(paths[0])
    if any(path.endswith(SUFFIX) for path in paths):
        raise InputError("A window shows one day.", advice="Name one day, or recordings only.")
    if paths:
        return begin_with([Path(path) for path in paths])
    return _open_or_ask(None) if _last_file() is not None else _welcome()


def run(paths: Sequence[str] = (), *, demo: bool = False, close_after_s: float | None = None) -> int:
    """Opens the window on a day, or on recordings, and stays until it is closed; without either on the last day, or on the
    welcome of a first start. Returns the exit code."""
    if (
        not os.environ.get("DISPLAY")
        and not os.environ.get("WAYLAND_DISPLAY")
        and not os.environ.get("QT_QPA_PLATFORM")
    ):
        raise InputError("There is no display to open a window on.", advice="Start it on a desktop, or under xvfb-run.")
    app = application()
    hooks.install()
    window = _first(paths, demo)
    if window is None:
        return 0
    if isinstance(window, Window):
        _open[:] = [window]
    window.show()
    if close_after_s is not None:
        QTimer.singleShot(round(close_after_s * 1000), window.close)
    try:
        return app.exec()
    finally:
        hooks.remove()
