"""Small pictures with their words, one of them chosen."""

from collections.abc import Sequence

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QIcon, QImage, QPixmap
from PyQt6.QtWidgets import QListView, QListWidget, QListWidgetItem

_GAP_PX, _WORDS_PX, _BAR_PX = 14, 34, 26


class Tiles(QListWidget):
    """A list of pictures; each entry keeps its id."""

    def __init__(self, name: str, size: QSize, *, columns: int) -> None:
        super().__init__()
        self._size = size
        self.setAccessibleName(name)
        self.setViewMode(QListView.ViewMode.IconMode)
        self.setIconSize(size)
        self.setGridSize(QSize(size.width() + _GAP_PX, size.height() + _WORDS_PX))
        self.setResizeMode(QListView.ResizeMode.Adjust)
        self.setMovement(QListView.Movement.Static)
        self.setUniformItemSizes(True)
        self.setFixedWidth(columns * (size.width() + _GAP_PX) + _BAR_PX)

    def show_entries(self, entries: Sequence[tuple[str, str, str]], chosen: str) -> None:
        """Id, words and tool tip of each, still without pictures; nobody is told."""
        self.blockSignals(True)
        self.clear()
        blank = QPixmap(self._size)
        blank.fill(Qt.GlobalColor.lightGray)
        for entry_id, words, tip in entries:
            item = QListWidgetItem(QIcon(blank), words)
            item.setData(Qt.ItemDataRole.UserRole, entry_id)
            item.setToolTip(tip)
            self.addItem(item)
            if entry_id == chosen:
                self.setCurrentItem(item)
        self.blockSignals(False)

    def show_picture(self, entry_id: str, image: QImage) -> None:
        """The picture of an entry, as it is whether chosen or not."""
        for at in range(self.count()):
            item = self.item(at)
            if item is not None and item.data(Qt.ItemDataRole.UserRole) == entry_id:
                picture = QPixmap.fromImage(image)
                icon = QIcon(picture)
                icon.addPixmap(picture, QIcon.Mode.Selected)
                item.setIcon(icon)
