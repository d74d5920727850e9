"""What nobody foresaw: written to a log in the person's state folder, and told in words with its report."""

import sys
import threading
import traceback
from datetime import datetime
from pathlib import Path

from glintor import __version__
from glintor.errors import GlintorError
from glintor.places import own_folder

_MOST_BYTES = 1_000_000
_writing = threading.Lock()


class Fault(GlintorError):
    """A bug in Glintor. report: its trace, to be handed on."""

    def __init__(self, where: str, error: BaseException, report: str) -> None:
        super().__init__(
            f"{where} met a fault in Glintor: {type(error).__name__}: {error}.",
            unharmed="Your work is kept and you can go on.",
            advice="Copy the report and hand it to whoever keeps Glintor.",
        )
        self.report = report


def log_file() -> Path:
    """Where faults are written down."""
    return own_folder("state") / "faults.log"


def fault(where: str, error: BaseException) -> Fault:
    """Writes a fault down and gives it in words. Never raises: where the log cannot be written, stderr has it."""
    trace = "".join(traceback.format_exception(error))
    when = datetime.now().isoformat(timespec="seconds")
    report = f"{when} Glintor {__version__}, Python {sys.version.split()[0]}\n{where}\n{trace}"
    _keep(report)
    return Fault(where, error, report)


def in_words(where: str, error: BaseException) -> GlintorError:
    """An error as it is told: as it is where somebody foresaw it, else as a fault."""
    return error if isinstance(error, GlintorError) else fault(where, error)


def _keep(report: str) -> None:
    text = report.encode("utf-8", "replace") + b"\n"
    try:
        with _writing:
            file = log_file()
            file.parent.mkdir(parents=True, exist_ok=True)
            if file.exists() and file.stat().st_size > _MOST_BYTES:
                file.replace(file.with_suffix(".old.log"))
            with file.open("ab") as log:
                log.write(text)
    except OSError:
        sys.stderr.buffer.write(text)
