"""The list before rolling: one line under the other, large enough to be ticked at arm's length."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QHBoxLayout,
    QScrollArea,
    QSizePolicy,
    QStyle,
    QStyleOptionButton,
    QStylePainter,
    QVBoxLayout,
    QWidget,
)

from glintor.desktop.controls import Elided, label
from glintor.finding import Finding, Level
from glintor.project.log import Tick
from glintor.recording.logbook import clock_words
from glintor.recording.ready import Line

_SIGNS = {Level.STOP: "stop", Level.CAUTION: "look", Level.NOTE: ""}


class _Box(QCheckBox):
    """A box whose words end in dots where they do not fit; the whole is its tool tip."""

    def paintEvent(self, _event: object) -> None:
        option = QStyleOptionButton()
        self.initStyleOption(option)
        style = self.style()
        assert style is not None, "a widget has a style"
        room = style.subElementRect(QStyle.SubElement.SE_CheckBoxContents, option, self).width()
        option.text = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, room)
        QStylePainter(self).drawControl(QStyle.ControlElement.CE_CheckBox, option)


class _Row(QWidget):
    """One line: a box, its words, when it was passed, and what was found that concerns it."""

    def __init__(self, view: "ReadyView", line: Line) -> None:
        super().__init__()
        self.line = line
        self.box = _Box(line.words)
        self.box.setObjectName("tick")
        self.box.setToolTip(line.words)
        self.box.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.box.clicked.connect(lambda on: view.turned.emit(line.id, bool(on)))
        self.when = label("", "soft")
        self.why = Elided("", "soft")
        head = QHBoxLayout()
        head.addWidget(self.box, 1)
        head.addWidget(self.when)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 5, 4, 5)
        column.setSpacing(1)
        column.addLayout(head)
        column.addWidget(self.why)

    def show_tick(self, tick: Tick | None) -> None:
        self.box.setChecked(tick is not None)
        self.box.setProperty("done", "true" if tick is not None else "false")
        self.box.style().polish(self.box)
        self.when.setText(
            ""
            if tick is None
            else clock_words(tick.at)[:5]
            if tick.by == "hand"
            else f"read back {clock_words(tick.at)[:5]}"
        )
        told = _told(self.line.said)
        if tick is not None and tick.why:
            told = f"Passed all the same: {tick.why}. {told}"
        self.why.setVisible(bool(told))
        self.why.setObjectName("soft" if tick is not None or self.line.level is Level.NOTE else self.line.level.word)
        self.why.style().polish(self.why)
        self.why.setContentsMargins(39, 0, 0, 0)
        self.why.show_words(told)


def _told(said: Sequence[Finding]) -> str:
    words = []
    for finding in said[:2]:
        sign = f" ({_SIGNS[finding.level]})" if _SIGNS[finding.level] else ""
        words.append(f"{finding.title}{sign}: {finding.measure or finding.reason}")
    return "; ".join(words) + (f"; {len(said) - 2} more" if len(said) > 2 else "")


class ReadyView(QScrollArea):
    """Follows the lines and ticks of a shot. turned: line, whether it is ticked."""

    turned = pyqtSignal(str, bool)

    def __init__(self) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Ready?")
        self.rows: list[_Row] = []
        self._inside = QWidget()
        self._column = QVBoxLayout(self._inside)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        self._column.addStretch(1)
        self.setWidget(self._inside)

    def show_lines(self, lines: Sequence[Line], ticks: Sequence[Tick]) -> None:
        if [row.line for row in self.rows] != list(lines):
            focused = next((row.line.id for row in self.rows if row.box.hasFocus()), "")
            for row in self.rows:
                self._column.removeWidget(row)
                row.hide()
                row.deleteLater()
            self.rows = [_Row(self, line) for line in lines]
            for at, row in enumerate(self.rows):
                self._column.insertWidget(at, row)
                if row.line.id == focused:
                    row.box.setFocus()
        by_line = {tick.line: tick for tick in ticks}
        for row in self.rows:
            row.show_tick(by_line.get(row.line.id))

    def row(self, line: str) -> _Row:
        return next(row for row in self.rows if row.line.id == line)
