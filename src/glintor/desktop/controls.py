"""Small controls used on every desk: chips to choose from, numbers with units, figures in cells."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QButtonGroup,
    QComboBox,
    QDoubleSpinBox,
    QGridLayout,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QSizePolicy,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from glintor.desktop import theme


def label(words: str, name: str = "") -> QLabel:
    """A label; `name` is its style: head, soft or figure."""
    made = QLabel(words)
    made.setObjectName(name)
    return made


class Chips(QWidget):
    """A row of buttons of which one is chosen, after a word that says what."""

    chosen = pyqtSignal(object)

    def __init__(
        self, words: str, options: Sequence[tuple[object, str]], *, columns: int = 0, titled: bool = True
    ) -> None:
        super().__init__()
        self._words = words
        self._group = QButtonGroup(self)
        self._group.setExclusive(True)
        self._buttons: dict[object, QPushButton] = {}
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(0)
        self._grid.setVerticalSpacing(5)
        self._columns = columns
        if words and titled:
            title = label(words, "soft")
            title.setContentsMargins(0, 0, 7, 0)
            self._grid.addWidget(title, 0, 0)
        self.set_options(options)

    def set_options(self, options: Sequence[tuple[object, str]]) -> None:
        """Puts other choices in place of those there are."""
        if list(self._buttons) == [value for value, _ in options]:
            return
        for button in self._buttons.values():
            self._group.removeButton(button)
            self._grid.removeWidget(button)
            button.hide()
            button.deleteLater()
        self._buttons = {}
        for number, (value, words) in enumerate(options):
            button = QPushButton(words)
            button.setCheckable(True)
            button.setObjectName("chip")
            ends = number + 1 == len(options) or (self._columns and (number + 1) % self._columns == 0)
            button.setProperty("last", "true" if ends else "false")
            button.setMinimumWidth(QFontMetrics(theme.font(bold=True)).horizontalAdvance(words) + 22)
            button.setAccessibleName(f"{self._words} {words}".strip())
            button.setSizePolicy(QSizePolicy.Policy.Minimum, QSizePolicy.Policy.Fixed)
            button.clicked.connect(lambda _checked, v=value: self.chosen.emit(v))
            self._group.addButton(button)
            self._buttons[value] = button
            row, column = divmod(number, self._columns) if self._columns else (0, number)
            self._grid.addWidget(button, row, column + 1)
        self._grid.setColumnStretch(64, 1)

    def show_value(self, value: object) -> None:
        """Marks a choice without telling anyone; none where the value is not among them."""
        self._group.setExclusive(False)
        for key, button in self._buttons.items():
            button.setChecked(key == value)
        self._group.setExclusive(True)

    def button(self, value: object) -> QPushButton:
        return self._buttons[value]


class Number(QWidget):
    """A number with its word and unit. `edited` comes with each change by hand, never from `show_value`."""

    edited = pyqtSignal(float)

    def __init__(
        self,
        words: str,
        unit: str,
        low: float,
        high: float,
        step: float,
        digits: int = 1,
        *,
        least: str = "",
        bare: bool = False,
    ) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        self.box = QDoubleSpinBox()
        self.box.setRange(low, high)
        self.box.setSingleStep(step)
        self.box.setDecimals(digits)
        self.box.setSuffix(unit)
        self.box.setAccessibleName(words)
        self.box.setSpecialValueText(least)
        self.box.setKeyboardTracking(False)
        if bare:  # no arrows to press; keys and wheel step it all the same
            self.box.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
        room = 16 if bare else 44
        widest = max((f"-{high:.{digits}f}{unit}", least), key=self.box.fontMetrics().horizontalAdvance)
        self.box.setMinimumWidth(self.box.fontMetrics().horizontalAdvance(widest) + room)
        self.name = label(words, "soft")
        self.name.setBuddy(self.box)
        row.addWidget(self.name)
        row.addWidget(self.box)
        self._showing = False
        self.box.valueChanged.connect(self._told)

    def show_value(self, value: float) -> None:
        self._showing = True
        self.box.setValue(value)
        self._showing = False

    def show_limits(self, low: float, high: float, unit: str) -> None:
        """Other limits and another unit; nobody is told."""
        self._showing = True
        self.box.setRange(low, high)
        self.box.setSuffix(unit)
        self._showing = False

    def _told(self, value: float) -> None:
        if not self._showing:
            self.edited.emit(value)


class Figures(QWidget):
    """Cells side by side, or in so many columns, each a small word over a number with its limit."""

    def __init__(self, names: Sequence[str], *, columns: int = 0) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 5, 0, 5)
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(6)
        columns = columns or len(names)
        self._values: dict[str, QLabel] = {}
        for at, name in enumerate(names):
            cell = QVBoxLayout()
            cell.setSpacing(0)
            cell.addWidget(label(name, "soft"))
            self._values[name] = label("", "figure")
            cell.addWidget(self._values[name])
            grid.addLayout(cell, at // columns, at % columns)
            grid.setColumnStretch(at % columns, 1)

    def show_value(self, name: str, words: str) -> None:
        self._values[name].setText(words)

    def explain(self, name: str, words: str) -> None:
        """What hovering over a number says."""
        self._values[name].setToolTip(words)


def button(words: str, act: Callable[[], None], *, main: bool = False, tip: str = "") -> QPushButton:
    """A push button that does `act`."""
    made = QPushButton(words)
    if main:
        made.setObjectName("main")
    if tip:
        made.setToolTip(tip)
    made.clicked.connect(lambda _checked: act())
    return made


def choice(name: str, entries: Sequence[tuple[object, str]] = (), *, letters: int = 0) -> QComboBox:
    """A folded list of values with their words; `letters` is the room it asks for where the longest would be too much."""
    made = QComboBox()
    made.setAccessibleName(name)
    if letters:
        made.setMinimumContentsLength(letters)
        made.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    offer(made, entries)
    return made


def offer(made: QComboBox, entries: Sequence[tuple[object, str]]) -> None:
    """Puts other values in place of those there are; all words at once, since each addition takes long."""
    made.clear()
    made.addItems([words for _, words in entries])
    for at, (value, _) in enumerate(entries):
        made.setItemData(at, value)


def titled(words: str, box: QWidget) -> tuple[QWidget, QWidget]:
    """A control with its name before it."""
    title = label(words, "soft")
    title.setBuddy(box)
    return title, box


def row(*things: QWidget | None, stretch: bool = True, spacing: int = 14) -> QHBoxLayout:
    """Widgets in a line; None stands for room that stretches."""
    line = QHBoxLayout()
    line.setSpacing(spacing)
    for thing in things:
        if thing is None:
            line.addStretch(1)
        else:
            line.addWidget(thing)
    if stretch:
        line.addStretch(1)
    return line


class Elided(QLabel):
    """A line of words that ends in dots where it does not fit; the whole is its tool tip."""

    def __init__(self, words: str = "", name: str = "") -> None:
        super().__init__()
        self.setObjectName(name)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self._has_room = False
        self.show_words(words)

    def show_words(self, words: str) -> None:
        self._words = words
        self.setToolTip(words)
        if self._has_room:
            self._fit()
        else:
            self.setText(words)

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        self._has_room = True
        self._fit()

    def _fit(self) -> None:
        self.setText(
            self.fontMetrics().elidedText(
                self._words, Qt.TextElideMode.ElideRight, max(self.contentsRect().width(), 40)
            )
        )


def table(name: str, columns: Sequence[str]) -> QTableWidget:
    """A table to read and choose rows from; the first column takes the room that the others leave."""
    made = QTableWidget(0, len(columns))
    made.setAccessibleName(name)
    made.setHorizontalHeaderLabels(columns)
    made.setShowGrid(False)
    made.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
    made.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    made.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
    made.verticalHeader().hide()
    header = made.horizontalHeader()
    header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
    header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
    header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
    return made


def fill(made: QTableWidget, rows: Sequence[Sequence[str]]) -> None:
    """Puts words into a table; only what is new is written, and the columns are measured once."""
    header = made.horizontalHeader()
    for column in range(1, made.columnCount()):
        header.setSectionResizeMode(column, QHeaderView.ResizeMode.Interactive)
    made.setRowCount(len(rows))
    for at, cells in enumerate(rows):
        for column, words in enumerate(cells):
            item = made.item(at, column)
            if item is None:
                made.setItem(at, column, QTableWidgetItem(words))
            elif item.text() != words:
                item.setText(words)
    for column in range(1, made.columnCount()):
        made.resizeColumnToContents(column)


def show_choice(box: QComboBox, value: object, words: str) -> None:
    """Shows a value of a folded list; one that is not offered is added."""
    at = box.findData(value)
    if at < 0:
        box.addItem(words, value)
        at = box.count() - 1
    box.setCurrentIndex(at)
