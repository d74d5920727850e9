"""One box for everything that goes wrong: what comes while it is open joins it instead of opening another."""

from collections.abc import Callable

from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QMessageBox, QWidget

from glintor.errors import GlintorError
from glintor.report import Fault

_SHOWN = 4  # messages in sight; the newest count
Answers = dict[str, Callable[[], object]]


class Teller:
    """Shows errors over a window, in one box that does not hold the window up."""

    def __init__(self, over: QWidget) -> None:
        self._over = over
        self._box: QMessageBox | None = None
        self._errors: list[GlintorError] = []

    def tell(self, error: GlintorError, answers: Answers | None = None) -> None:
        """What happened, what is unharmed, what to do; with buttons that do something about it."""
        open_now = self._box is not None and self._box.isVisible()
        if open_now and any(str(error) == str(e) for e in self._errors):
            return
        self._errors = [*self._errors, error] if open_now else [error]
        box = self._box if open_now and self._box is not None else self._new_box()
        for words, act in (answers or {}).items():
            button = box.addButton(words, QMessageBox.ButtonRole.AcceptRole)
            assert button is not None
            button.clicked.connect(lambda _checked=False, act=act: act())
        if isinstance(error, Fault):
            report = error.report
            copy = box.addButton("Copy the report", QMessageBox.ButtonRole.ActionRole)
            assert copy is not None
            copy.clicked.disconnect()  # pressing it does not close the box
            copy.clicked.connect(lambda: _copy(report))
        self._show(box)

    def _new_box(self) -> QMessageBox:
        if self._box is not None:
            self._box.deleteLater()
        self._box = QMessageBox(QMessageBox.Icon.Warning, "Glintor", "", QMessageBox.StandardButton.Ok, self._over)
        self._box.setModal(False)
        return self._box

    def _show(self, box: QMessageBox) -> None:
        newest, earlier = self._errors[-1], self._errors[:-1]
        box.setText(newest.what)
        rest = [" ".join(part for part in (newest.unharmed, newest.advice) if part)]
        rest += [f"Before: {error.what}" for error in reversed(earlier[-_SHOWN + 1 :])]
        if len(earlier) >= _SHOWN:
            rest.append(f"And {len(earlier) - _SHOWN + 1} more before.")
        box.setInformativeText("\n".join(rest))
        box.show()


def _copy(report: str) -> None:
    clipboard = QGuiApplication.clipboard()
    if clipboard is not None:
        clipboard.setText(report)
