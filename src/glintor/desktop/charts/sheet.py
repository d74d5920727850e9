"""The sheet on which a chart is drawn, with its name as screen readers hear it."""

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QFocusEvent, QPainter
from PyQt6.QtWidgets import QSizePolicy, QWidget

from glintor.desktop import theme


class Sheet(QWidget):
    """A widget with a sheet of paper as background; `draw` does the chart."""

    def __init__(self, name: str, least: tuple[int, int] = (120, 60), *, keyboard: bool = True) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setMinimumSize(*least)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMouseTracking(True)
        self._by_keys = False
        if keyboard:
            self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def sizeHint(self) -> QSize:
        return QSize(400, 240)

    def paintEvent(self, _event: object) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.colours()["sheet"])
        self.draw(painter)
        painter.setPen(theme.colours()["course" if self.hasFocus() and self._by_keys else "line"])
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        painter.end()

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        keys = (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        self._by_keys = event is not None and event.reason() in keys
        super().focusInEvent(event)
        self.update()

    def draw(self, painter: QPainter) -> None:
        raise NotImplementedError
