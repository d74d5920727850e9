"""A sheet in which something is chosen from small pictures and seen large; own ones are read from files and written."""

from pathlib import Path

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QDialog, QFileDialog, QWidget

from glintor.desktop.controls import label
from glintor.desktop.frame_view import FrameView
from glintor.desktop.jobs import Jobs, Newest
from glintor.desktop.place.open_files import write_or_say
from glintor.desktop.place.tiles import Tiles

_INSIDE_PX, _WIDE_PX = 30, 1120  # smaller than the window that it stands over
_REST_MS = 120  # after the last change before the large picture is drawn
NEXT_S = 0.005  # between small pictures, so that the large one is not kept waiting


class TileSheet(QDialog):
    """`taken` gives the day's own ones and the id of the chosen one. Pictures come from the workers as QImage, by their id."""

    taken = pyqtSignal(object, str)

    def __init__(
        self, title: str, word: str, high_px: int, tiles: Tiles, picture: FrameView, jobs: Jobs, parent: QWidget
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        over = parent.window() or parent
        self.resize(min(_WIDE_PX, over.width() - _INSIDE_PX), min(high_px, over.height() - _INSIDE_PX))
        self._word, self._caption = word, ""
        self.own: tuple = ()
        self.chosen = ""
        self.tiles, self.picture = tiles, picture
        self.words, self.trouble = label("", "soft"), label("", "stopwords")
        self.words.setWordWrap(True)
        self.trouble.setWordWrap(True)
        self._small, self._large = Newest(f"small {word}s", jobs.trouble.emit), Newest(word, jobs.trouble.emit)
        self._small.finished.connect(self._show_tile)
        self._large.finished.connect(self._show_large)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self._draw_large)

    def _show_tile(self, key: object, image: object) -> None:
        raise NotImplementedError

    def _draw_large(self) -> None:
        raise NotImplementedError

    def _content(self) -> bytes | None:
        """The chosen one as a file; None where it is none that can be written."""
        raise NotImplementedError

    def read(self, file: Path) -> None:
        """Adds one from a file to the day's own, or says why not."""
        raise NotImplementedError

    def _show_large(self, key: object, image: object) -> None:
        if key == self.chosen:
            assert isinstance(image, QImage)
            self.picture.show_frame(image, self._caption)

    @property
    def settled(self) -> bool:
        return self._small.idle and self._large.idle and not self._rest.isActive()

    @property
    def _files(self) -> str:
        return f"{self._word.capitalize()}s (*.json)"

    def _ask_read(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, f"Read a {self._word}", "", self._files)
        if name:
            self.read(Path(name))

    def _ask_write(self) -> None:
        content = self._content()
        name, _ = QFileDialog.getSaveFileName(self, f"Write this {self._word}", f"{self.chosen}.json", self._files)
        if name and content is not None:
            write_or_say(Path(name), content, self.trouble)

    def take(self) -> None:
        """Hands over what is chosen."""
        self.taken.emit(self.own, self.chosen)
        self.accept()

    def done(self, result: int) -> None:
        self._rest.stop()
        self._small.close()
        self._large.close()
        super().done(result)
