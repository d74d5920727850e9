"""The log: one large control to roll and stop, a key for each event, what happened under them. In the desk, and alone in a small
window beside other work."""

from collections.abc import Callable
from datetime import datetime
from functools import partial
from typing import TYPE_CHECKING, Literal

from msgspec.structs import replace
from PyQt6.QtCore import QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import (
    QApplication,
    QGridLayout,
    QHBoxLayout,
    QInputDialog,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from glintor.desktop import theme
from glintor.desktop.controls import button, choice, fill, label, offer, row, table
from glintor.errors import GlintorError
from glintor.project.log import LOG_KEYS, WHATS, Log, What
from glintor.recording.logbook import begun, clock_words, ended, happened, length_words, rolling_log, stamp, with_log

Level = Literal["off", "clock", "asked", "on", "alarm"]

if TYPE_CHECKING:
    from glintor.desktop.document import Document
    from glintor.desktop.record.cameras import Cameras


class RollButton(QPushButton):
    """The one large control: how long it rolls, and how it is stopped."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._large, self._small = "", ""
        self.level: Level = "off"

    def show_words(self, large: str, small: str, level: Level) -> None:
        """level: nothing rolls; a clock runs and no camera is asked; cameras were asked; they say that they roll; one does not."""
        self._large, self._small, self.level = large, small, level
        self.setAccessibleName("Roll" if level == "off" else f"Stop, {large}, {small}")
        self.setToolTip("" if level == "off" else small)
        self.update()

    def paintEvent(self, _event: object) -> None:
        colours, painter = theme.colours(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        # Only a camera that says so makes the light red; a clock alone is an outline, and what does not roll is the darkest thing here.
        fill_, edge, words = {
            "off": (colours["course"], None, colours["on_course"]),
            "clock": (colours["paper"], colours["stop"], colours["ink"]),
            "asked": (colours["caution"], None, colours["paper"]),
            "on": (colours["stop"], None, colours["on_course"]),
            "alarm": (colours["ink"], colours["stop"], colours["paper"]),
        }[self.level]
        pen = QPen(edge, 6 if self.level == "alarm" else 3) if edge is not None else None
        painter.setPen(QPen(colours["ink"], 2) if self.hasFocus() and pen is None else pen or Qt.PenStyle.NoPen)
        painter.setBrush(fill_.darker(112) if self.isDown() else fill_)
        painter.drawRoundedRect(box.adjusted(2, 2, -2, -2) if pen is not None else box, 5, 5)
        painter.setPen(words)
        large = theme.font(large=True, bold=True)
        large.setPointSizeF(large.pointSizeF() * 2.3)
        painter.setFont(large)
        middle = box.center().y()
        painter.drawText(
            QRectF(box.left(), box.top(), box.width(), middle - box.top() + 12),
            Qt.AlignmentFlag.AlignCenter,
            self._large,
        )
        painter.setFont(theme.font(large=True, bold=self.level == "alarm"))
        painter.drawText(
            QRectF(box.left() + 10, middle + 6, box.width() - 20, box.bottom() - middle - 8),
            Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
            self._small,
        )
        painter.end()


class LogPanel(QWidget):
    """Follows the shot at hand of a document. Every entry is an edit that can be undone. told: a word for the person."""

    trouble = pyqtSignal(object)
    told = pyqtSignal(str)
    link_asked = pyqtSignal()

    def __init__(
        self, document: "Document", links: "Cameras", *, small: bool = False, now: Callable[[], datetime] | None = None
    ) -> None:
        super().__init__()
        self._document, self._links, self._small = document, links, small
        self._now = now or (lambda: links.clock.now(rolling_log(document.shot)))
        self.roll = RollButton()
        self.roll.setObjectName("rollsmall" if small else "roll")
        self.roll.clicked.connect(lambda _on: self.turn())
        self.cameras = label("", "soft")
        self.cameras.setWordWrap(True)
        self.cameras.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.link = button(
            "Cameras…", self.link_asked.emit, tip="Roll, stop and read back cameras over their own network"
        )
        links.changed.connect(self._show_roll)
        self.events: dict[What, QPushButton] = {}
        self.which = choice("Which rolling", letters=22)
        self.which.activated.connect(lambda _at: self._show_log())
        self.list = table("Log of this take", ("What happened", "At", "Camera"))
        self.list.horizontalHeader().hide()
        self.star = button("☆", self.favour, tip="A favourite (F)")
        self.star.setAccessibleName("A favourite")
        self.stars = [
            button(str(n), partial(self.rate, n), tip=f"{n} star{'s' if n > 1 else ''} ({n})") for n in range(1, 6)
        ]
        for n, made in enumerate((self.star, *self.stars)):
            made.setFixedWidth(34)
            if n:
                made.setAccessibleName(f"{n} star{'s' if n > 1 else ''}")
        self._tick = QTimer(self)
        self._tick.setInterval(200)
        self._tick.timeout.connect(self._show_roll)
        self._shown, self._level = "", "off"
        self._lay()

    def _lay(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.roll)
        line = QHBoxLayout()
        line.addWidget(self.cameras, 1)
        line.addWidget(self.link)
        column.addLayout(line)
        grid = QGridLayout()
        grid.setSpacing(7)
        across = 4 if self._small else 3
        for at, (key, what) in enumerate(LOG_KEYS):
            words = WHATS[what] + ("…" if what == "note" else "")
            made = QPushButton(f"{key}   {words}")
            made.setObjectName("event")
            made.setAccessibleName(f"Log: {words}")
            made.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            made.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            made.clicked.connect(lambda _on, w=what: self.note() if w == "note" else self.log(w))
            self.events[what] = made
            grid.addWidget(made, at // across, at % across)
        column.addLayout(grid)
        column.addLayout(row(self.which, None, label("rate", "soft"), *self.stars, self.star, stretch=False, spacing=5))
        column.addWidget(self.list, 1)

    # Doing
    def turn(self) -> None:
        """Rolls, or stops."""
        if rolling_log(self._document.shot) is not None:
            self.stop()
            return
        elsewhere = [s for s in self._document.project.shots if rolling_log(s) is not None]
        cameras = self.cameras_rolling()
        self._do("Roll", lambda shot: begun(shot, cameras, self._now()))
        self._now()  # from here on it goes evenly
        log = rolling_log(self._document.shot)
        if log is not None:
            self._links.start(log)
        if elsewhere:
            self.told.emit(f"{elsewhere[0].name} is still rolling in the log: stop it there if it does not")

    def stop(self) -> None:
        """Stops what was started, in whichever shot that is logged."""
        self._links.stop()
        for shot in self._document.project.shots:
            if rolling_log(shot) is not None and (shot.id == self._document.shot.id or self._links.rolls_for(shot.id)):
                project = self._document.project.with_shot(shot.id, lambda s: ended(s, self._now()))
                self._document.edit("Stop", project)
        self.refresh()

    def cameras_rolling(self) -> tuple[str, ...]:
        """The cameras that roll together: the shot's first, then the others of the kit."""
        own = self._document.camera.id
        return (own, *(c.id for c in self._document.project.kit.cameras if c.id != own))

    def log(self, what: What, words: str = "") -> None:
        self._do(f"Log: {WHATS[what]}", lambda shot: happened(shot, what, self._now(), words, log_id=self._chosen_id()))

    def note(self) -> None:
        """An entry in one's own words, stamped when one began to type."""
        at = self._now()
        words, given = QInputDialog.getText(self, "Note", f"At {at:%H:%M:%S}:")
        if given and words.strip():
            self._do("Log: note", lambda s: happened(s, "note", at, words.strip()[:400], log_id=self._chosen_id()))

    def rate(self, stars: int) -> None:
        self._change("Rate", lambda log: replace(log, rating=0 if log.rating == stars else stars))

    def favour(self) -> None:
        self._change("Favourite", lambda log: replace(log, favourite=not log.favourite))

    def _change(self, words: str, change: Callable[[Log], Log]) -> None:
        log = self.chosen
        if log is None:
            self.told.emit("Nothing was rolled in this shot yet")
            return
        self._do(words, lambda shot: with_log(shot, change(log)))

    def _do(self, words: str, change: Callable) -> None:
        try:
            changed = change(self._document.shot)
        except GlintorError as error:
            self.told.emit(str(error))
            return
        self._document.edit_shot(words, lambda _shot: changed)
        self.refresh()

    # Showing
    @property
    def chosen(self) -> Log | None:
        """What rolls, else the rolling that was chosen, else the last."""
        shot = self._document.shot
        log = rolling_log(shot)
        if log is not None:
            return log
        wanted = next((one for one in shot.logs if one.id == self.which.currentData()), None)
        return wanted or (shot.logs[-1] if shot.logs else None)

    def _chosen_id(self) -> str:
        log = self.chosen
        return log.id if log is not None else ""

    def refresh(self) -> None:
        shot = self._document.shot
        newest = f"{shot.id}/{len(shot.logs)}"
        at = self.which.currentData()
        offer(
            self.which, [(log.id, _log_words(number, log)) for number, log in reversed(list(enumerate(shot.logs, 1)))]
        )
        self.which.setCurrentIndex(max(self.which.findData(at), 0) if newest == self._shown else 0)
        self.which.setVisible(bool(shot.logs))
        self._shown = newest
        self._show_roll()
        self._show_log()

    def _show_roll(self) -> None:
        log = rolling_log(self._document.shot)
        if log is None:
            by = "on the link" if self._links.ids else "by the clock"
            self.roll.show_words("Roll", f"{by} · Space", "off")
            self._tick.stop()
        else:
            light = self._links.light(log)
            passed = length_words(log.since_s(stamp(self._now())))
            since = f"rolling since {clock_words(log.began)}, by the clock" if light.level == "clock" else light.words
            said = since.replace(" · ", "\n") if light.level == "alarm" else f"{since} · Space stops"
            before, self._level = self._level, light.level
            self.roll.show_words(passed, said, light.level)
            if light.level == "alarm" != before and self.isVisible():
                QApplication.beep()
                QApplication.alert(self.window())
            if not self._tick.isActive() and self.isVisible():
                self._tick.start()
        for made in self.events.values():
            made.setEnabled(bool(self._document.shot.logs))
        kit = self._document.project.kit
        ids = log.cameras if log is not None else self.cameras_rolling()
        told = []
        for camera in kit.cameras:
            if camera.id in ids:
                seen = self._links.seen(camera.id)
                told.append(
                    f"{camera.name}: {'by the clock' if seen is None else seen.words}"
                    if self._links.ids
                    else camera.name
                )
        self.cameras.setText("\n".join(told) if self._links.ids else "By the clock: " + ", ".join(told))

    def _show_log(self) -> None:
        log = self.chosen
        rows: list[tuple[str, str, str]] = []
        if log is not None:
            kit = self._document.project.kit
            if log.ended:
                rows.append((f"stopped after {length_words(log.length_s or 0)}", clock_words(log.ended), ""))
            for event in sorted(log.events, key=lambda e: e.at, reverse=True):
                named = ", ".join(c.name for c in kit.cameras if c.id in event.cameras)
                rows.append((event.text, clock_words(event.at), named))
            rows.append(
                ("rolling", clock_words(log.began), f"{len(log.cameras)} cameras" if len(log.cameras) > 1 else "")
            )
            if log.note:
                rows.append((log.note, "", ""))
        fill(self.list, rows)
        for n, made in enumerate(self.stars, 1):
            made.setProperty("chosen", "true" if log is not None and n <= log.rating else "false")
            made.style().polish(made)
            made.setEnabled(log is not None)
        self.star.setText("★" if log is not None and log.favourite else "☆")
        self.star.setEnabled(log is not None)

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self.refresh()

    def hideEvent(self, event: object) -> None:
        super().hideEvent(event)  # type: ignore[arg-type]
        self._tick.stop()


def _log_words(number: int, log: Log) -> str:
    length = "rolling" if log.rolling else length_words(log.length_s or 0)
    stars = f" {'★' * log.rating}" if log.rating else ""
    heart = " ♥" if log.favourite else ""
    return f"take {number} · {clock_words(log.began)[:5]} · {length}{stars}{heart}"
