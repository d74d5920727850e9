"""Starting the application: which project, and the window round it."""

import gc
import os
import sys
from pathlib import Path

import msgspec
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QMainWindow, QMessageBox, QWidget

from glintor.desktop import theme
from glintor.desktop.document import Document
from glintor.desktop.faults import Hooks
from glintor.desktop.window import Window
from glintor.errors import GlintorError, InputError
from glintor.files import same_file, write_bytes
from glintor.places import own_folder
from glintor.project.lock import InUse

_NAME = "Glintor"
_open: list[Window] = []
hooks = Hooks()
_REMEMBER_MS = 500  # not before the first picture
_SWITCH_S = 0.0005  # a hand that drags waits so long for background work to let the window draw, not 5 ms
_kept: list[QApplication] = []  # Qt ends when Python lets go of the application


class Settings(msgspec.Struct):
    """What is remembered between sessions."""

    last_file: str = ""


def _settings_file() -> Path:
    return own_folder("config") / "settings.json"


def _last_file() -> Path | None:
    try:
        settings = msgspec.json.decode(_settings_file().read_bytes(), type=Settings)
    except (OSError, msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        return None
    file = Path(settings.last_file)
    return file if settings.last_file and file.exists() else None


def _painted() -> None:
    """The first picture is there: Python may look for garbage again."""
    gc.freeze()  # what a start makes stays; looking through it again and again makes a drag stutter
    gc.enable()


def _demo() -> Path:
    from glintor.demo.day import demo_project

    return demo_project()


def _remember(file: Path) -> None:
    try:
        write_bytes(_settings_file(), msgspec.json.encode(Settings(str(file.resolve()))))
    except (GlintorError, UnicodeEncodeError):  # a name that is no text cannot be kept
        return  # only a convenience is lost


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


def run(path: str | None, *, demo: bool = False, close_after_s: float | None = None) -> int:
    """Opens the window and stays until it is closed; returns the exit code."""
    if (
        not os.environ.get("DISPLAY")
        and not os.environ.get("WAYLAND_DISPLAY")
        and not os.environ.get("QT_QPA_PLATFORM")
    ):
        raise InputError("There is no display to open a window on.", advice="Start it on a desktop, or under xvfb-run.")
    app = application()
    hooks.install()
    window = _open_or_ask(str(_demo()) if demo else path)
    if window is None:
        return 0
    _open[:] = [window]
    window.show()
    if close_after_s is not None:
        QTimer.singleShot(round(close_after_s * 1000), window.close)
    try:
        return app.exec()
    finally:
        hooks.remove()
