"""What is wrong, by how much, and what cures it: one line a finding, the worst first."""

from collections.abc import Sequence

from PyQt6.QtCore import QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.controls import Elided, button, label
from glintor.finding import Finding, Level

_ROW, _TALL = 27, 780
_AT_ONCE, _REST_MS = 3, 30  # lines out of sight are made a moment later


class Sign(QWidget):
    def __init__(self, level: Level) -> None:
        super().__init__()
        self._level = level
        self.setFixedSize(18, 22)

    def show_level(self, level: Level) -> None:
        if level is not self._level:
            self._level = level
            self.update()

    def paintEvent(self, _event: object) -> None:
        painter = QPainter(self)
        marks.level_sign(painter, 9, 11, self._level)
        painter.end()


class _Line(QFrame):
    """One finding; a click shows its place, the button applies its cure."""

    clicked = pyqtSignal(object)
    cured = pyqtSignal(object)

    def __init__(self, finding: Finding) -> None:
        super().__init__()
        self.setFixedHeight(_ROW)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(7)
        self._sign, self._title, self._measure = Sign(finding.level), label("", "head"), label("")
        self._reason, self._cure = Elided("", "soft"), QPushButton()
        self._cure.setObjectName("cure")
        self._cure.setToolTip("Apply this cure; undo takes it back")
        self._cure.clicked.connect(lambda: self.cured.emit(self._finding))
        for part in (self._sign, self._title, self._measure):
            row.addWidget(part)
        row.addWidget(self._reason, 1)
        row.addWidget(self._cure)
        self.show_finding(finding)

    def show_finding(self, finding: Finding) -> None:
        """Says another finding, or the same one with other numbers."""
        self._finding = finding
        self._sign.show_level(finding.level)
        self._title.setText(finding.title)
        when = "" if finding.start_s != finding.start_s else f"{finding.start_s:.1f} to {finding.end_s:.1f} s: "
        self._measure.setText(f"{when}{finding.measure}")
        self._measure.setVisible(bool(finding.measure or when))
        self._reason.show_words(finding.reason)
        self._cure.setVisible(finding.cure is not None)
        self._cure.setText("" if finding.cure is None else finding.cure.label)
        self.setAccessibleName(f"{finding.level.word}: {finding.title}")
        self.setToolTip(f"{finding.reason}\n\n{finding.explained}" if finding.explained else finding.reason)

    def mousePressEvent(self, _event: QMouseEvent | None) -> None:
        self.clicked.emit(self._finding)


class FindingsStrip(QFrame):
    """The findings of the desk in sight; two lines in a low window, three in a high one, the rest by scrolling."""

    finding_clicked = pyqtSignal(object)
    cure_asked = pyqtSignal(object)
    fold_asked = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("strip")
        self._findings: list[Finding] | None = None
        outer = QHBoxLayout(self)
        outer.setContentsMargins(12, 3, 8, 3)
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setAccessibleName("Findings")
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._fold = button("Fold", self.fold_asked.emit, tip="Fold the findings to one line (Ctrl+F)")
        self._count: QLabel = label("", "soft")
        outer.addWidget(self._area, 1)
        side = QVBoxLayout()
        side.setSpacing(2)
        side.addWidget(self._count, 0, Qt.AlignmentFlag.AlignRight)
        side.addWidget(self._fold)
        outer.addLayout(side)
        page = QWidget()
        self._lines: list[_Line] = []  # kept and said anew: a hand that drags changes them thirty times a second
        self._column = QVBoxLayout(page)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self._add_missing)
        self._none = label("Nothing found here.", "soft")
        self._none.hide()
        self._column.addWidget(self._none)
        self._column.addStretch(1)
        self._area.setWidget(page)
        self.show_height(_TALL)

    def show_height(self, window_px: int) -> None:
        """A low window keeps room for what is decided."""
        rows = 3 if window_px >= _TALL else 2
        self.setFixedHeight(rows * _ROW + 8)

    def _add_missing(self, most: int | None = None) -> None:
        """Makes the lines that are still missing, up to so many."""
        for finding in (self._findings or [])[len(self._lines) : most]:
            line = _Line(finding)
            line.clicked.connect(self.finding_clicked)
            line.cured.connect(self.cure_asked)
            self._lines.append(line)
            self._column.insertWidget(len(self._lines) - 1, line)

    def show_findings(self, findings: Sequence[Finding]) -> None:
        if list(findings) == self._findings:
            return
        self._findings = list(findings)
        for line, finding in zip(self._lines, self._findings, strict=False):
            line.show_finding(finding)
            line.show()
        self._add_missing(_AT_ONCE)
        if len(self._lines) < len(self._findings):
            self._rest.start()
        for line in self._lines[len(self._findings) :]:
            line.hide()
        self._none.setVisible(not self._findings)
        grave = sum(f.level > Level.NOTE for f in self._findings)
        self._count.setText(f"{len(self._findings)} found, {grave} to mend" if self._findings else "")

    def sizeHint(self) -> QSize:
        return QSize(600, self.height())
