"""All there is to look through as pictures: the flat frame over the sphere unrolled, with length, size, stars and copies."""

from bisect import bisect_left, bisect_right
from collections.abc import Callable, Sequence

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPainter, QPen
from PyQt6.QtWidgets import QAbstractItemView, QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.offload.contents import Entry
from glintor.offload.drives import size_words

_WIDE, _FLAT, _BAND, _WORDS, _EDGE, _GAP = 214, 120, 42, 42, 6, 8
CELL = QSize(_WIDE + 2 * _EDGE + _GAP, _FLAT + 2 + _BAND + _WORDS + 2 * _EDGE + _GAP)
Shown = tuple[QImage | None, QImage | None, str]


def length_words(seconds: float | None) -> str:
    """A length as 0:12, 1:02:03; "" of what has none."""
    if seconds is None:
        return ""
    whole = round(seconds)
    hours, minutes = whole // 3600, whole // 60 % 60
    return f"{hours}:{minutes:02d}:{whole % 60:02d}" if hours else f"{minutes}:{whole % 60:02d}"


def line_words(entry: Entry) -> str:
    """How long, how large, and what it is, in one line."""
    parts = [length_words(entry.length_s), size_words(entry.size_bytes) if entry.size_bytes else ""]
    count = len(entry.reading.files) if entry.reading is not None else len(entry.take.files) if entry.take else 1
    kind = entry.kind if entry.kind != "film" else ""
    if count > 1:
        kind = f"{count} parts" if not kind or kind in ("two lenses", "half sphere") else f"{kind} of {count}"
    log = "" if entry.match is None else "logged" if entry.match.sure else "log?"
    if entry.take is not None and entry.take.matched and entry.match is None and entry.in_day:
        log = "logged"
    return " · ".join(part for part in (*parts, kind, log) if part)


class Entries(QAbstractListModel):
    """The entries in their order; what is drawn of each comes from `Tiles`."""

    def __init__(self) -> None:
        super().__init__()
        self.shown: list[Entry] = []

    def show_entries(self, shown: Sequence[Entry]) -> None:
        shown = list(shown)
        if [one.key for one in shown] == [one.key for one in self.shown]:
            self.shown = shown
            if shown:
                self.dataChanged.emit(self.index(0), self.index(len(shown) - 1))
            return
        self.beginResetModel()
        self.shown = shown
        self.endResetModel()

    def rowCount(self, _parent: QModelIndex = QModelIndex()) -> int:
        return len(self.shown)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if not index.isValid() or index.row() >= len(self.shown):
            return None
        entry = self.shown[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return f"{entry.name}, {line_words(entry)}, {copies_words(entry)}"
        if role == Qt.ItemDataRole.ToolTipRole:
            return "\n".join(filter(None, [entry.name, entry.why, copies_words(entry)]))
        return entry if role == Qt.ItemDataRole.UserRole else None


def copies_words(entry: Entry) -> str:
    return {0: "no proven copy", 1: "one proven copy"}.get(entry.copies, f"{entry.copies} proven copies")


class _Tile(QStyledItemDelegate):
    def __init__(self, picture: Callable[[str], Shown], over: QAbstractItemView) -> None:
        super().__init__(over)
        self._picture = picture

    def sizeHint(self, _option: QStyleOptionViewItem, _index: QModelIndex) -> QSize:
        return CELL

    def paint(self, p: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert p is not None
        entry: Entry = index.data(Qt.ItemDataRole.UserRole)
        if entry is None:
            return
        colours = theme.colours()
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        cell = option.rect.adjusted(0, 0, -_GAP, -_GAP)
        if option.state & QStyle.StateFlag.State_Selected:
            active = option.state & QStyle.StateFlag.State_HasFocus
            p.setPen(QPen(colours["course"], 3 if active else 2))
            p.drawRect(QRectF(cell).adjusted(1.5, 1.5, -1.5, -1.5))
        left, top = cell.left() + _EDGE, cell.top() + _EDGE
        flat, band = QRect(left, top, _WIDE, _FLAT), QRect(left, top + _FLAT + 2, _WIDE, _BAND)
        self._draw_pictures(p, entry, flat, band)
        self._draw_words(p, entry, QRectF(left, band.bottom() + 3, _WIDE, _WORDS))
        p.restore()

    def _draw_pictures(self, p: QPainter, entry: Entry, flat: QRect, band: QRect) -> None:
        colours = theme.colours()
        picture, unrolled, wrong = self._picture(picture_key(entry))
        wrong = wrong or ("" if entry.files or entry.take is None else entry.why)
        for box, image in ((flat, picture), (band, unrolled)):
            if image is not None:
                p.drawImage(QRectF(box), image)
            else:
                p.fillRect(box, colours["mat" if entry.take is not None and not wrong else "sheet"])
        if picture is None and (entry.take is None or wrong):
            whole = QRectF(flat.united(band))
            p.setPen(marks.pen("line"))
            p.drawRect(whole.adjusted(0.5, 0.5, -0.5, -0.5))
            p.setPen(colours["ink"])
            p.setFont(theme.font())
            wrapped = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            p.drawText(whole.adjusted(10, 6, -10, -6), int(wrapped), wrong or _plain_words(entry))
        if entry.take is not None and entry.take.verdict == "drop":
            p.fillRect(flat.united(band), colours.sheer("paper", 165))

    def _draw_words(self, p: QPainter, entry: Entry, box: QRectF) -> None:
        take, right = entry.take, box.right()
        stars = "★" * take.rating if take is not None else ""
        verdict = take.verdict if take is not None else ""
        p.setFont(theme.font(bold=True))
        taken = p.fontMetrics().horizontalAdvance(stars) + (8 if stars else 0)
        name = p.fontMetrics().elidedText(entry.name, Qt.TextElideMode.ElideMiddle, int(box.width() - taken))
        marks.text(p, box.left(), box.top() + 10, name, bold=True)
        if stars:
            marks.text(p, right, box.top() + 10, stars, align="right")
        dots = right - 11 * 2
        p.setFont(theme.font(bold=True))
        room = dots - box.left() - (p.fontMetrics().horizontalAdvance(verdict) + 12 if verdict else 6)
        p.setFont(theme.font())
        line = p.fontMetrics().elidedText(line_words(entry), Qt.TextElideMode.ElideRight, int(room))
        marks.text(p, box.left(), box.top() + 28, line, colour="soft")
        colour = theme.colours()["course" if entry.copies >= 2 else "caution"]
        p.setPen(QPen(colour, 1.4))
        for number in range(2):
            p.setBrush(colour if number < entry.copies else Qt.BrushStyle.NoBrush)
            p.drawEllipse(QPointF(dots + 6 + 11 * number, box.top() + 28), 3.6, 3.6)
        if verdict:
            marks.text(p, dots - 4, box.top() + 28, verdict, align="right", bold=True)


def picture_key(entry: Entry) -> str:
    """What a picture is kept by: what the file holds, so that a copy has it at once."""
    quick = entry.take.files[0].quick if entry.take is not None else ""
    return quick or entry.key


def _plain_words(entry: Entry) -> str:
    """What stands in the place of a picture."""
    if entry.reading is not None and entry.why:
        return entry.why[:1].upper() + entry.why[1:]
    return entry.kind


class Grid(QListView):
    """`looked_at` says which entry is in sight."""

    looked_at = pyqtSignal(object)
    scrolled = pyqtSignal()

    def __init__(self, picture: Callable[[str], Shown]) -> None:
        super().__init__()
        self._showing = False
        self.entries = Entries()
        self.setAccessibleName("Takes and files")
        self.setModel(self.entries)
        self.setItemDelegate(_Tile(picture, self))
        self.setViewMode(QListView.ViewMode.IconMode)
        self.setResizeMode(QListView.ResizeMode.Adjust)
        self.setMovement(QListView.Movement.Static)
        self.setUniformItemSizes(True)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setFrameShape(QListView.Shape.NoFrame)
        self.setMinimumWidth(CELL.width() + 24)
        self.viewport().setAutoFillBackground(False)
        self.verticalScrollBar().valueChanged.connect(lambda _v: None if self._showing else self.scrolled.emit())

    def currentChanged(self, now: QModelIndex, before: QModelIndex) -> None:
        super().currentChanged(now, before)
        if not self._showing and now.isValid():
            self.looked_at.emit(self.entries.shown[now.row()])

    def show_entries(self, shown: Sequence[Entry], key: str) -> None:
        """Shows these, the one of that key chosen, without telling anyone."""
        self._showing = True
        self.entries.show_entries(shown)
        row = next((n for n, one in enumerate(self.entries.shown) if one.key == key), -1)
        if row >= 0 and self.currentIndex().row() != row:
            self.setCurrentIndex(self.entries.index(row))
        self._showing = False

    def in_sight(self) -> list[Entry]:
        """The entries that are seen now, and then the others from there on."""
        shown, area = self.entries.shown, self.viewport().rect()
        rows = range(len(shown))  # tiles lie in order: the first and the last in sight are looked for by halving
        first = bisect_left(rows, area.top(), key=lambda n: self.visualRect(self.entries.index(n)).bottom())
        last = bisect_right(rows, area.bottom(), key=lambda n: self.visualRect(self.entries.index(n)).top())
        return shown[first:last] + shown[:first] + shown[last:]

    def step(self, by: int) -> bool:
        """Goes to another; whether there is one."""
        row = self.currentIndex().row() + by
        if not 0 <= row < len(self.entries.shown):
            return False
        self.setCurrentIndex(self.entries.index(row))
        return True

    def chosen(self) -> list[Entry]:
        """Those that are selected, the one in sight first."""
        now = self.currentIndex().row()
        rows = sorted({index.row() for index in self.selectedIndexes()}, key=lambda row: (row != now, row))
        return [self.entries.shown[row] for row in rows if row < len(self.entries.shown)]
