"""How files come to a window: dropped on it, or chosen."""

from pathlib import Path

from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QFileDialog, QWidget


def accept(event: QDragEnterEvent | None) -> None:
    """Says that files may be dropped here."""
    mime = event.mimeData() if event is not None else None
    if event is not None and mime is not None and mime.hasUrls():
        event.acceptProposedAction()


def dropped(event: QDropEvent | None) -> list[Path]:
    """The files and folders that were dropped."""
    mime = event.mimeData() if event is not None else None
    return [Path(url.toLocalFile()) for url in mime.urls() if url.isLocalFile()] if mime is not None else []


def ask_recordings(over: QWidget) -> list[Path]:
    """Asks for recordings; none where the person leaves it."""
    names, _ = QFileDialog.getOpenFileNames(over, "Which recordings?", str(Path.home()), "Films and photos (*)")
    return [Path(name) for name in names]
