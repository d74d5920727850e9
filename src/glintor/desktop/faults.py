"""What no slot and no thread foresaw: one hook for the window's thread and one for all others. The program goes on."""

import sys
import threading
from types import TracebackType

from PyQt6.QtCore import QCoreApplication, QObject, pyqtSignal

from glintor.report import fault


class Hooks(QObject):
    """`happened` gives each fault in the window's thread, one that comes again and again only once."""

    happened = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self._told: set[tuple[str, str]] = set()
        self._before = (sys.excepthook, threading.excepthook, sys.unraisablehook)

    def install(self) -> None:
        """Takes the place of Python's own hooks; without one PyQt ends the program at an error in a slot."""
        self._before = (sys.excepthook, threading.excepthook, sys.unraisablehook)
        sys.excepthook = self._in_window
        threading.excepthook = lambda args: self._say(
            f"The thread {args.thread.name if args.thread else ''}", args.exc_value
        )
        sys.unraisablehook = lambda args: self._say("Cleaning up", args.exc_value)

    def remove(self) -> None:
        sys.excepthook, threading.excepthook, sys.unraisablehook = self._before

    def _in_window(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            QCoreApplication.quit()
            return
        self._say("The window", error.with_traceback(trace))

    def _say(self, where: str, error: BaseException | None) -> None:
        if error is None or isinstance(error, SystemExit):
            return
        found = fault(where, error)
        last = error.__traceback__
        while last is not None and last.tb_next is not None:
            last = last.tb_next
        place = (
            type(error).__name__,
            f"{last.tb_frame.f_code.co_filename}:{last.tb_lineno}" if last is not None else "",
        )
        if place not in self._told:
            self._told.add(place)
            self.happened.emit(found)
