"""One recording, looked at straight from where it lies: its frame, its time, what is to become of it, and what is known of it."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QElapsedTimer, Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QFrame, QGridLayout, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.controls import Chips, button, label, row
from glintor.desktop.frame_view import FrameView
from glintor.desktop.offload.part_line import PartLine
from glintor.desktop.reframe.screen import Drawn, Request, Screen
from glintor.errors import GlintorError
from glintor.offload.contents import Entry
from glintor.project.facts import Fact
from glintor.project.pictured import moment_of
from glintor.sphere.turn import TurnTrack
from glintor.sphere.view import View

PLAYS_S = 4.0  # of each take when all are looked through
_TICK_MS, _LEAP_S = 33, 0.25  # a heavy film runs slower rather than leaping on by more
VERDICTS = (("keep", "keep"), ("maybe", "maybe"), ("drop", "drop"))


class Looker(QWidget):
    """A frame that looks round a recording, and plays it. `drawn` says the moment in sight; `played_out` that it played its few
    seconds or came to its end."""

    moved = pyqtSignal(float)
    turned = pyqtSignal(object)
    played_out = pyqtSignal()

    def __init__(self, name: str, least: tuple[int, int] = (320, 180)) -> None:
        super().__init__()
        self.frame = FrameView(name, (1280, 720), least)
        self.projector = Screen()
        self.now_s, self.view = 0.0, View()
        self.words: Callable[[float], str] = lambda _at: ""
        self._turns: TurnTrack | None = None
        self._length = self._until = 0.0
        self._key: object = None
        self._clock = QElapsedTimer()
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._go_on)
        self.projector.drawn.connect(self._show)
        self.projector.failed.connect(lambda error: self.frame.show_empty(str(error)))
        self.frame.view_turned.connect(self._turn)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.frame)

    def open_entry(self, entry: Entry, view: View) -> None:
        """Shows an entry from its best moment; the same one goes on where it was looked at."""
        take = entry.take
        key = entry.key, entry.files, take.taken_as if take is not None else None, take.steady if take else None
        if key == self._key and self.projector.footage is not None:
            return
        self.stop()
        self._key = key
        if take is None or not entry.files:
            self.close_entry(entry.why or "There is no picture to look at here.")
            self._key = key
            return
        try:
            footage = self.projector.open_footage(entry.files, take.taken_as)
            from glintor.project.held import known_turns

            self._turns = known_turns(take, footage)
        except GlintorError as error:
            self.close_entry(str(error))
            self._key = key
            return
        self._length = take.duration_s if take.kind in ("film", "lapse") else 0.0
        self.now_s, self.view = moment_of(take), view
        self.frame.show_view(view)
        self.look()

    def close_entry(self, words: str) -> None:
        self._key, self._length = None, 0.0
        self.stop()
        self.projector.close_clip()
        self.frame.show_empty(words)

    def seek(self, at_s: float) -> None:
        self.stop()
        self.now_s = min(max(at_s, 0.0), self._length)
        self.look()

    def see(self, view: View) -> None:
        """Looks another way."""
        self.view = view
        self.frame.show_view(view)
        self.look()

    def _turn(self, view: View, _only_look: bool) -> None:
        self.view = view
        self.look()
        self.turned.emit(view)

    def look(self) -> None:
        """Asks for the picture of the present moment."""
        if self.projector.footage is None:
            return
        ratio, box = self.devicePixelRatioF(), self.frame.frame_box
        size = (max(round(box.width() * ratio) // 4 * 4, 160), max(round(box.height() * ratio) // 2 * 2, 90))
        at_s = min(self.now_s, max(self._length - 1e-3, 0.0))
        self.projector.ask(Request(at_s, self.view, size, playing=self.playing, turns=self._turns))
        self.moved.emit(self.now_s)

    def _show(self, drawn: object) -> None:
        if isinstance(drawn, Drawn):
            self.frame.show_frame(marks.image(drawn.frame), self.words(self.now_s))

    # Playing
    @property
    def playing(self) -> bool:
        return self._timer.isActive()

    def play(self, for_s: float | None = None) -> None:
        """Plays from here on, or for so long."""
        if not self._length:
            if for_s is not None:  # a photo is looked at for as long
                QTimer.singleShot(int(1000 * for_s / 2), self.played_out)
            return
        if self.now_s >= self._length - 0.05:
            self.now_s = 0.0
        self._until = self._length if for_s is None else min(self.now_s + for_s, self._length)
        self._clock.start()
        self._timer.start()

    def stop(self) -> None:
        self._timer.stop()

    def _go_on(self) -> None:
        if not self.projector.idle:
            return
        self.now_s = min(self.now_s + min(self._clock.restart() / 1000.0, _LEAP_S), self._until)
        self.look()
        if self.now_s >= self._until:
            self.stop()
            self.played_out.emit()

    @property
    def settled(self) -> bool:
        return self.projector.idle and not self.playing

    def close_down(self) -> None:
        self.stop()
        self.projector.close()


class Facts(QScrollArea):
    """What is known of something, each with where it is known from."""

    def __init__(self) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._shown: Sequence[Fact] | None = None

    def show_facts(self, facts: Sequence[Fact]) -> None:
        if facts == self._shown:
            return
        self._shown = facts
        page = QWidget()
        page.setObjectName("desk")
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 6, 0)
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(1, 1)
        for at, fact in enumerate(facts):
            unknown = fact.origin == "unknown"
            name, words = label(fact.name.lower(), "soft"), label(fact.words, "soft" if unknown else "")
            words.setWordWrap(True)
            words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
            words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            grid.addWidget(name, at, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(words, at, 1)
            if not unknown:
                grid.addWidget(
                    label(fact.origin, "soft"), at, 2, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignRight
                )
        grid.setRowStretch(len(facts), 1)
        self.setWidget(page)


class Viewer(QWidget):
    """`judged`, `marked`, `ended_at` and the others say what the person wants of the entry in sight."""

    judged = pyqtSignal(str)
    mark_asked = pyqtSignal()
    in_asked = pyqtSignal()
    out_asked = pyqtSignal()
    compare_asked = pyqtSignal()
    trim_asked = pyqtSignal()
    answer_asked = pyqtSignal()
    log_asked = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.looker, self.line, self.facts = Looker("Look around"), PartLine(), Facts()
        self.look = Chips("Look at", (), titled=False)
        self.verdict = Chips("", VERDICTS)
        self.mark = button("mark", self.mark_asked.emit, tip="Mark this moment (M)")
        self.begin = button("in", self.in_asked.emit, tip="What is worth keeping begins here ([)")
        self.end = button("out", self.out_asked.emit, tip="What is worth keeping ends here (])")
        self.compare = button("Compare…", self.compare_asked.emit, tip="Two takes side by side, turned together (C)")
        self.trim = button(
            "Only the part…", self.trim_asked.emit, tip="A further file with what is kept, without packing it anew"
        )
        self.answer = button(
            "Say what it shows…", self.answer_asked.emit, tip="With a small picture of each way to read it"
        )
        self.log = button(
            "Which log?…", self.log_asked.emit, tip="The logs that come into question, side by side with it"
        )
        self._guesses: dict[str, View] = {}
        self.look.chosen.connect(lambda name: self.looker.see(self._guesses[name]))
        self.verdict.chosen.connect(self.judged.emit)
        self.line.sought.connect(self.looker.seek)
        self.looker.moved.connect(self.line.show_now)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(7)
        column.addWidget(self.looker, 5)
        column.addWidget(self.line)
        column.addLayout(
            row(self.verdict, self.mark, self.begin, self.end, None, self.compare, stretch=False, spacing=6)
        )
        column.addLayout(row(self.look, None, self.log, self.trim, self.answer, stretch=False, spacing=6))
        column.addWidget(self.facts, 4)

    def show_entry(self, entry: Entry | None, guesses: dict[str, View], facts: Sequence[Fact]) -> None:
        """Shows an entry and what is known of it."""
        self._guesses = guesses
        take = entry.take if entry is not None else None
        films = take is not None and take.kind in ("film", "lapse") and bool(entry and entry.files)
        self.look.set_options([(name, name) for name in guesses])
        self.look.setVisible(bool(guesses) and take is not None)
        self.verdict.setEnabled(take is not None)
        self.verdict.show_value(take.verdict if take is not None else "")
        for one in (self.mark, self.begin, self.end):
            one.setEnabled(films)
        self.compare.setEnabled(take is not None)
        self.trim.setVisible(films and take is not None and take.part_s is not None)
        self.answer.setVisible(
            entry is not None and take is None and entry.reading is not None and bool(entry.reading.also)
        )
        self.log.setVisible(entry is not None and entry.match is not None and not entry.match.sure)
        self.facts.show_facts(facts)
        if entry is None:
            self.line.show_take(0.0, None, ())
            self.looker.close_entry("Choose a take on the left, or another card above.")
            return
        length = take.duration_s if films and take is not None else 0.0
        self.line.show_take(length, take.part_s if take is not None else None, take.marks_s if take is not None else ())
        self.looker.words = lambda at: f"{entry.name} · {at:.1f} of {length:.1f} s" if length else entry.name
        first = next(iter(guesses.values()), View())
        self.looker.open_entry(entry, first)
        self._mark_look()

    def next_look(self) -> None:
        """Looks at the next of what is worth looking at."""
        views = list(self._guesses.values())
        if views:
            at = next((n for n, view in enumerate(views) if view == self.looker.view), -1)
            self.looker.see(views[(at + 1) % len(views)])
            self._mark_look()

    def _mark_look(self) -> None:
        self.look.show_value(next((name for name, view in self._guesses.items() if view == self.looker.view), None))
