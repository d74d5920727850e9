"""Every number of a desk explained: formula, what goes into it, and its source."""

from collections.abc import Sequence

from PyQt6.QtWidgets import QDialog, QScrollArea, QVBoxLayout, QWidget

from glintor.desktop.controls import button, label, row
from glintor.finding import Finding


class ExplainSheet(QDialog):
    """One paragraph a number."""

    def __init__(self, name: str, findings: Sequence[Finding], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"How the numbers of {name} come about")
        self.resize(720, 560)
        page = QVBoxLayout(self)
        page.setContentsMargins(18, 14, 18, 14)
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setSpacing(4)
        for finding in findings:
            if not finding.explained:
                continue
            head = label(f"{finding.title}: {finding.measure}" if finding.measure else finding.title, "head")
            words = label(finding.explained)
            words.setWordWrap(True)
            column.addWidget(head)
            column.addWidget(words)
            column.addSpacing(8)
        column.addStretch(1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(inner)
        area.setAccessibleName("Explanations")
        page.addWidget(area, 1)
        page.addLayout(row(None, button("Close", self.accept, main=True), stretch=False))
