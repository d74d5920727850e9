"""What is wrong, by how much, and what cures it: one line a finding, the worst first."""

from collections.abc import Sequence

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.controls import Elided, button, label
from glintor.finding import Finding, Level

_ROW = 27


class _Sign(QWidget):
    def __init__(self, level: Level) -> None:
        super().__init__()
        self._level = level
        self.setFixedSize(18, 22)

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
        self._finding = finding
        self.setFixedHeight(_ROW)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(7)
        row.addWidget(_Sign(finding.level))
        row.addWidget(label(finding.title, "head"))
        when = "" if finding.start_s != finding.start_s else f"{finding.start_s:.1f} to {finding.end_s:.1f} s: "
        if finding.measure or when:
            row.addWidget(label(f"{when}{finding.measure}"))
        row.addWidget(Elided(finding.reason, "soft"), 1)
        if finding.cure is not None:
            cure = QPushButton(finding.cure.label)
            cure.setObjectName("cure")
            cure.setToolTip("Apply this cure; undo takes it back")
            cure.clicked.connect(lambda: self.cured.emit(self._finding))
            row.addWidget(cure)
        self.setAccessibleName(f"{finding.level.word}: {finding.title}")
        self.setToolTip(f"{finding.reason}\n\n{finding.explained}" if finding.explained else finding.reason)

    def mousePressEvent(self, _event: QMouseEvent | None) -> None:
        self.clicked.emit(self._finding)


class FindingsStrip(QFrame):
    """Folds to one line, opens to four."""

    finding_clicked = pyqtSignal(object)
    cure_asked = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self._findings: Sequence[Finding] = ()
        self._rows = 2
        outer = QHBoxLayout(self)
        outer.setContentsMargins(12, 3, 8, 3)
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setAccessibleName("Findings")
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._fold = button("Unfold", self.fold, tip="Show more or fewer findings (Ctrl+F)")
        self._count: QLabel = label("", "soft")
        outer.addWidget(self._area, 1)
        side = QVBoxLayout()
        side.setSpacing(2)
        side.addWidget(self._count, 0, Qt.AlignmentFlag.AlignRight)
        side.addWidget(self._fold)
        outer.addLayout(side)
        self._lay()

    def fold(self) -> None:
        self._rows = 6 if self._rows == 2 else 2
        self._fold.setText("Fold" if self._rows > 2 else "Unfold")
        self._lay()

    def show_findings(self, findings: Sequence[Finding]) -> None:
        if list(findings) == list(self._findings):
            return
        self._findings = list(findings)
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for finding in self._findings:
            line = _Line(finding)
            line.clicked.connect(self.finding_clicked)
            line.cured.connect(self.cure_asked)
            column.addWidget(line)
        if not self._findings:
            column.addWidget(label("Nothing found here.", "soft"))
        column.addStretch(1)
        self._area.setWidget(page)
        grave = sum(f.level > Level.NOTE for f in self._findings)
        self._count.setText(f"{len(self._findings)} found, {grave} to mend" if self._findings else "")

    def _lay(self) -> None:
        self.setFixedHeight(self._rows * _ROW + 8)

    def sizeHint(self) -> QSize:
        return QSize(600, self.height())
