"""The main window: day strip, shot column, six desks, findings strip and work line."""

import threading
from collections.abc import Callable
from datetime import date
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING, Literal, cast

import msgspec
from PyQt6.QtCore import QCoreApplication, QTimer, pyqtSignal
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QImage, QPaintEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QButtonGroup,
    QFileDialog,
    QHBoxLayout,
    QInputDialog,
    QMainWindow,
    QMenuBar,
    QMessageBox,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from glintor.desktop import theme
from glintor.desktop.actions import Finder, bind, keys_page, menus_of
from glintor.desktop.charts import marks
from glintor.desktop.controls import Elided
from glintor.desktop.day_strip import DayStrip
from glintor.desktop.day_work import DayWork
from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.findings_strip import FindingsStrip
from glintor.desktop.jobs import Jobs, Newest
from glintor.desktop.shot_column import ShotColumn
from glintor.desktop.telling import Answers, Teller
from glintor.desktop.work_line import WorkLine
from glintor.errors import GlintorError, InputError
from glintor.finding import Finding, Level, worst_first
from glintor.placement.clock import clock
from glintor.project.keeper import Changed, TakenOver
from glintor.project.model import Project, Shot, Take, fresh_id, with_take
from glintor.project.store import SUFFIX, films_folder, footage_of, need_folder, write_project

if TYPE_CHECKING:
    from typing import Protocol, TypeVar

    from glintor.desktop.export.desk import ExportDesk
    from glintor.desktop.expose.desk import ExposeDesk
    from glintor.desktop.offload.desk import OffloadDesk
    from glintor.desktop.place.desk import PlaceDesk
    from glintor.desktop.record.desk import RecordDesk
    from glintor.desktop.reframe.desk import ReframeDesk
    from glintor.export.queue import Queue
    from glintor.media.footage import Footage

    _D = TypeVar("_D", bound=Desk)

    class Opener(Protocol):
        """Opens another day in place of this one; a fresh one with the sheet that asks for its place."""

        def __call__(self, file: Path, *, fresh: bool = False, take_over: bool = False) -> None: ...


_DESKS = ("place", "expose", "record", "offload", "reframe", "export")
_WARM_MS = 300  # after the first picture
_PAUSE_MS = 90  # a hand that rests so long has time to look at the charts


def _open_nothing(file: Path, *, fresh: bool = False, take_over: bool = False) -> None:
    """For a window that stands alone."""


class Window(QMainWindow):
    """Holds the document and passes what happens between its parts. With `paint_first` all work waits for the first
    picture."""

    painted = pyqtSignal()  # once, after the first picture
    _warmed = pyqtSignal(str)  # what cannot be kept

    def __init__(
        self,
        document: Document,
        *,
        queue: "Queue | None" = None,
        open_file: "Opener | None" = None,
        paint_first: bool = False,
    ) -> None:
        super().__init__()
        self.document, self.jobs = document, Jobs()
        if paint_first:
            self.jobs.hold_back()
            self.painted.connect(self.jobs.go_on)
        self._open_file = open_file or _open_nothing
        self._closed = self._seen = self._leaves = False
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.setMinimumSize(1000, 660)
        self.day, self.shots = DayStrip(), ShotColumn()
        self.strip, self.work = FindingsStrip(), WorkLine(self.jobs)
        self._queue, self._number = queue, 0
        self._stack = QStackedWidget()
        self._names = QButtonGroup(self)
        self._title = Elided("")
        self._teller = Teller(self)
        self._column = Newest("shot cards", self.jobs.trouble.emit)
        self._column.finished.connect(self._show_card)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(_PAUSE_MS)
        self._later.timeout.connect(self._show_all)
        self._cards: dict[str, object] = {}
        self._proxied: set[Path] = set()
        self.day_work = DayWork(self.document, self.jobs, self, self.work.say, self.tell)
        self._lay()
        self._menus = menus_of(cast(QMenuBar, self.menuBar()))
        self.actions_by_id: dict[str, QAction] = {}
        self.jobs.when_seen(self._fill_menus, longer=True)
        self._connect()
        self._show_day()
        self._show_all()
        self.painted.connect(lambda: QTimer.singleShot(_WARM_MS, self._build_next))
        if document.notice:
            self.work.say(document.notice)

    # Making
    def _lay(self) -> None:
        page = QWidget()
        page.setObjectName("page")
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.day)
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.shots)
        right = QVBoxLayout()
        right.setSpacing(0)
        names = QHBoxLayout()
        names.setContentsMargins(14, 0, 16, 0)
        names.setSpacing(0)
        for number, desk_name in enumerate(_DESKS):
            name = QPushButton(f"{number + 1} {desk_name.capitalize()}")
            name.setObjectName("deskname")
            name.setCheckable(True)
            name.setToolTip(f"Alt+{number + 1}")
            self._names.addButton(name, number)
            names.addWidget(name)
        names.addSpacing(10)
        names.addWidget(self._title, 1)
        right.addLayout(names)
        right.addWidget(self._stack, 1)
        right.addWidget(self.strip)
        middle.addLayout(right, 1)
        column.addLayout(middle, 1)
        column.addWidget(self.work)
        self.setCentralWidget(page)
        self._names.button(0).setChecked(True)

    def _connect(self) -> None:
        self._names.idClicked.connect(self.show_desk)
        self.document.changed.connect(self._changed)
        self.document.gesture_ended.connect(self._catch_up)
        self.document.shot_chosen.connect(self._show_all)
        self.document.trouble.connect(self._tell_keeping)
        self.document.refused.connect(
            lambda: self.work.say("You only look at this day; Day, Take this day over, to change it")
        )
        self.document.saved.connect(lambda: self.work.say("Saved"))
        self.jobs.trouble.connect(self.tell)
        self._warmed.connect(self.work.say)
        self.day.shot_clicked.connect(self.document.choose_shot)
        self.day.shot_dragged.connect(self._move_shot)
        self.day.drag_ended.connect(self.document.end_gesture)
        self.shots.shot_clicked.connect(self.document.choose_shot)
        self.strip.finding_clicked.connect(lambda finding: self.desk.show_place(finding))
        self.strip.cure_asked.connect(self._cure)

    # Desks are built when they are first needed, or one by one while the person looks at the first.
    @cached_property
    def place(self) -> "PlaceDesk":
        from glintor.desktop.place.desk import PlaceDesk

        return self._seated(PlaceDesk(self.document, self.jobs, self._stack))

    @cached_property
    def expose(self) -> "ExposeDesk":
        from glintor.desktop.expose.desk import ExposeDesk

        return self._seated(ExposeDesk(self.document, self.jobs, self._stack))

    @cached_property
    def record(self) -> "RecordDesk":
        from glintor.desktop.record.desk import RecordDesk

        return self._seated(RecordDesk(self.document, self.jobs, self._stack))

    @cached_property
    def offload(self) -> "OffloadDesk":
        from glintor.desktop.offload.desk import OffloadDesk

        return self._seated(OffloadDesk(self.document, self.jobs, self._stack))

    @cached_property
    def reframe(self) -> "ReframeDesk":
        from glintor.desktop.reframe.desk import ReframeDesk

        desk = ReframeDesk(self.document, self.jobs, self._stack)
        desk.clip_opened.connect(self._make_proxy)
        return self._seated(desk)

    @cached_property
    def export(self) -> "ExportDesk":
        from glintor.desktop.export.desk import ExportDesk
        from glintor.export.queue import Queue

        desk = ExportDesk(self.document, self.jobs, self._stack, self._queue if self._queue is not None else Queue())
        desk.written.connect(self._redraw_cards)
        QTimer.singleShot(0, desk.resume)
        return self._seated(desk)

    def _seated(self, desk: "_D") -> "_D":
        desk.findings_changed.connect(self._show_findings)
        desk.said.connect(self.work.say)
        self._stack.addWidget(desk)
        return desk

    def _built(self) -> list[Desk]:
        return [self.__dict__[name] for name in _DESKS if name in self.__dict__]

    def _build_next(self) -> None:
        """Builds one of the desks that are still missing and comes back for the others; at last loads what they need."""
        missing = [name for name in _DESKS if name not in self.__dict__]
        if self._closed:
            return
        if not missing:
            _warm(self._warmed.emit)
            return
        getattr(self, missing[-1])
        QTimer.singleShot(0, self._build_next)

    @property
    def desks(self) -> tuple[Desk, ...]:
        return tuple(getattr(self, name) for name in _DESKS)

    def _fill_menus(self) -> None:
        self.actions_by_id = bind(self, self._menus, self._handlers())

    def _handlers(self) -> dict[str, Callable[[], None]]:
        frame, day = self._on_reframe, self.day_work
        handlers: dict[str, Callable[[], None]] = {
            "file.new": self._ask_new, "file.open": self._ask_open,
            "file.demo": self._open_demo, "file.add_clip": self._ask_clip, "file.save": lambda: (self.document.save(), None)[1],
            "file.take_over": self._take_over,
            "site.edit": day.edit_site, "kit.edit": day.edit_kit, "day.plan": day.plan, "day.carry": day.ask_carry,
            "shot.sheet": lambda: self.place.open_shot(), "shot.wish": lambda: self.place.open_wish(), "help.explain": self._explain,
            "file.close": lambda: (self.close(), None)[1], "edit.undo": self.document.undo, "edit.redo": self.document.redo,
            "shot.new": self._new_shot, "shot.double": self._double_shot, "shot.rename": self._rename_shot,
            "shot.up": lambda: self._shift_shot(-1), "shot.down": lambda: self._shift_shot(1), "shot.delete": self._delete_shot,
            "key.set": frame(lambda r: r.set_key()), "key.delete": frame(lambda r: r.delete_key()),
            "key.copy": frame(lambda r: r.copy_key()), "key.paste": frame(lambda r: r.paste_key()),
            "key.before": frame(lambda r: r.step_key(-1)), "key.after": frame(lambda r: r.step_key(1)),
            "cut.in": frame(lambda r: r.set_in()), "cut.out": frame(lambda r: r.set_out()), "cut.new": frame(lambda r: r.new_cut()),
            "part.in": frame(lambda r: r.begin_part()), "part.out": frame(lambda r: r.end_part()), "part.hold": frame(lambda r: r.hold()),
            "play.toggle": frame(lambda r: r.toggle_play()), "play.back": frame(lambda r: r.step(-1)),
            "play.ahead": frame(lambda r: r.step(1)), "path.still": self._ask_still, "take.mark": frame(lambda r: r.mark()),
            "take.record": lambda: self.record.start(), "take.bring": lambda: self.offload.start(),
            "export.render": lambda: self.export.render_ticked(), "view.findings": self.strip.fold, "view.dusk": self._dusk,
            "help.find": self._find, "help.keys": lambda: keys_page(self).show(),
        }  # fmt: skip
        for number in range(len(_DESKS)):
            handlers[f"desk.{number + 1}"] = partial(self.show_desk, number)
        return handlers

    def _on_reframe(self, act: Callable[["ReframeDesk"], None]) -> Callable[[], None]:
        return lambda: act(self.reframe)

    # Showing
    @property
    def desk(self) -> Desk:
        return cast(Desk, getattr(self, _DESKS[self._number]))

    def show_desk(self, number: int) -> None:
        """Brings a desk into sight, 0 to 5."""
        if number != self._number:
            self.desk.leave()
            self._number = number
        self._stack.setCurrentWidget(self.desk)
        self._names.button(number).setChecked(True)
        self.jobs.when_seen(self._show_actions, longer=True)
        self.desk.refresh()
        self.jobs.by_turns(self._show_findings)

    def _show_all(self) -> None:
        self._later.stop()
        project, shot = self.document.project, self.document.shot
        self.setWindowTitle(f"{project.site.name} · Glintor")
        self._title.show_words(f"{shot.name} · {clock(shot.start_min)}")
        self.show_desk(self._number)
        self.jobs.by_turns(self._show_day)
        if not self.document.in_gesture:  # light is searched through the whole day: not while a hand moves
            self.jobs.by_turns(self._show_plan, longer=True)
        self.jobs.by_turns(self._next_card, longer=True)

    def _show_day(self) -> None:
        project, shot = self.document.project, self.document.shot
        self.day.show_day(project, shot.id)
        self.shots.show_shots(project, shot.id)

    def _show_actions(self) -> None:
        """What can be undone and done again, and the keys that only the Reframe desk has a use for."""
        for name, action in self.actions_by_id.items():
            if name.split(".")[0] in ("key", "cut", "play"):
                action.setEnabled(_DESKS[self._number] == "reframe")
        undo, redo = self.document.undo_label, self.document.redo_label
        for name, words, what in (("edit.undo", "Undo", undo), ("edit.redo", "Redo", redo)):
            self.actions_by_id[name].setText(f"{words}: {what}" if what else words)
            self.actions_by_id[name].setEnabled(bool(what))
        if self.actions_by_id:
            self.actions_by_id["file.take_over"].setEnabled(self.document.looking)

    def _show_plan(self) -> None:
        from glintor.plan.timetable import changes, windows_of

        project = self.document.project
        self.day.show_plan(windows_of(project, self.document.shot), changes(project))

    def _changed(self) -> None:
        """Draws a change; while a hand turns the view only what it looks at, the rest when it pauses."""
        if self.document.in_gesture and self.desk.draws_gestures:
            self._later.start()
            if self.day.show_day(self.document.project, self.document.shot.id):  # the hand is there
                self.jobs.by_turns(self.desk.follow)
            else:
                self.desk.follow()
        else:
            self._show_all()

    def _catch_up(self) -> None:
        self._show_all()

    def _show_findings(self) -> None:
        self.strip.show_findings(worst_first(list(self.desk.findings())))

    def _next_card(self) -> None:
        """Asks for the next shot card in sight whose picture or findings are out of date."""
        project, file = self.document.project, self.document.file
        for shot in sorted(self.shots.in_sight(), key=lambda s: s.id != self.document.shot.id):
            if self._cards.get(shot.id) != (shot, project.site, project.camera):
                self._column.ask((shot, project.site, project.camera), partial(_card, project, shot, file, self._films))
                return

    @property
    def _films(self) -> Path:
        return self.export.folder if "export" in self.__dict__ else films_folder(self.document.file)

    def _redraw_cards(self) -> None:
        self._cards.clear()
        self._next_card()

    def _show_card(self, key: object, value: object) -> None:
        shot: Shot = key[0]  # type: ignore[index]
        picture, worst, exported = value  # type: ignore[misc]
        self._cards[shot.id] = key
        self.shots.show_picture(shot.id, picture)
        self.shots.show_findings(shot.id, worst, exported)
        self._next_card()

    @property
    def settled(self) -> bool:
        """Whether everything in sight is drawn and no work runs."""
        drawn = getattr(self.desk, "settled", True) and not self._later.isActive()
        return (
            drawn
            and self._column.idle
            and not self.jobs.running
            and not self.jobs.held_back
            and not self.jobs.turns_wait
        )

    def tell(self, error: GlintorError) -> None:
        """Shows what happened, what is unharmed and what to do."""
        self.work.say(error.what)
        self._teller.tell(error)

    def tell_fault(self, error: GlintorError) -> None:
        """Shows what nobody foresaw, the day saved before."""
        if not self._closed:
            self.document.save()
            self.tell(error)

    # Keeping
    def _tell_keeping(self, error: GlintorError) -> None:
        """Shows what is wrong with keeping the day, with what can be done about it."""
        answers: Answers = {}
        if isinstance(error, Changed):
            answers = {"Keep mine": self.document.keep_mine, "Take what is there": self._reopen}
        elif isinstance(error, TakenOver):
            answers = {"Take it back": self._take_over}
            self.jobs.by_turns(self._show_actions, longer=True)
        self.work.say(error.what)
        self._teller.tell(error, answers)

    def _reopen(self) -> None:
        self.document.let_go()
        self._open_file(self.document.file)

    def _take_over(self) -> None:
        self.document.let_go()
        self._open_file(self.document.file, take_over=True)

    def _ask_where(self) -> None:
        """The window is to close and something is not saved: asks where it may be put."""
        box = QMessageBox(self)
        box.setIcon(QMessageBox.Icon.Warning)
        box.setWindowTitle("Glintor")
        box.setText(f"{self.document.file.name} cannot be saved where it lies.")
        box.setInformativeText("Your changes are still in this window. Where may they be put?")
        role = QMessageBox.ButtonRole
        elsewhere = box.addButton("Put them elsewhere…", role.AcceptRole)
        again = box.addButton("Try again", role.ActionRole)
        without = box.addButton("Close without them", role.DestructiveRole)
        box.addButton("Stay", role.RejectRole)
        box.setModal(False)

        def answered(pressed: QAbstractButton) -> None:
            if pressed is elsewhere:
                name, _ = QFileDialog.getSaveFileName(
                    self,
                    "Put the day elsewhere",
                    str(Path.home() / self.document.file.name),
                    "Glintor days (*.glintor)",
                )
                if name:
                    self.save_elsewhere(Path(name))
            elif pressed in (again, without):
                self._leaves = pressed is without
                self.close()

        box.buttonClicked.connect(answered)
        box.show()

    def save_elsewhere(self, target: Path) -> None:
        """Puts the day into another file and closes the window."""
        try:
            self.document.save_elsewhere(target)
        except GlintorError as error:
            self.tell(error)
            return
        self.close()

    # Shots
    def _move_shot(self, shot_id: str, minute: float) -> None:
        change = lambda s: msgspec.structs.replace(s, start_min=min(max(minute, 0.0), 1435.0))  # noqa: E731
        self.document.edit(
            "Move the shot in time", self.document.project.with_shot(shot_id, change), ("drag-shot", shot_id)
        )

    def _edit_shots(self, words: str, shots: tuple[Shot, ...], choose: str = "") -> None:
        self.document.edit(words, msgspec.structs.replace(self.document.project, shots=shots), choose=choose)

    def _new_shot(self) -> None:
        from glintor.project.fresh import next_shot

        self._insert_shot("New shot", next_shot(self.document.shot, self.document.project.shots))

    def _double_shot(self) -> None:
        shot, shots = self.document.shot, self.document.project.shots
        new = msgspec.structs.replace(
            shot,
            id=fresh_id("shot", {s.id for s in shots}),
            name=f"{shot.name}, again",
            start_min=min(shot.start_min + shot.length_min, 1430),
            takes=(),
            cuts=(),
        )
        self._insert_shot("Duplicate shot", new)

    def _insert_shot(self, words: str, new: Shot) -> None:
        shots = self.document.project.shots
        at = shots.index(self.document.shot) + 1
        self._edit_shots(words, (*shots[:at], new, *shots[at:]), new.id)

    def _rename_shot(self) -> None:
        shot = self.document.shot
        name, given = QInputDialog.getText(self, "Rename shot", "Name", text=shot.name)
        if given and name.strip():
            self.document.edit_shot("Rename shot", lambda s: msgspec.structs.replace(s, name=name.strip()))

    def _shift_shot(self, way: int) -> None:
        shots = list(self.document.project.shots)
        at = shots.index(self.document.shot)
        if 0 <= at + way < len(shots):
            shots[at], shots[at + way] = shots[at + way], shots[at]
            self._edit_shots("Move shot", tuple(shots))

    def _delete_shot(self) -> None:
        shots = self.document.project.shots
        if len(shots) == 1:
            self.work.say("A day needs one shot; this is the last")
            return
        self._edit_shots("Remove shot", tuple(s for s in shots if s.id != self.document.shot.id))

    def _cure(self, finding: Finding) -> None:
        assert finding.cure is not None
        if finding.cure.field == "start_min":
            self._move_shot(self.document.shot.id, float(finding.cure.value))
            self.document.end_gesture()
        else:
            cast(Desk, getattr(self, finding.desk)).apply(finding.cure)

    def _explain(self) -> None:
        from glintor.desktop.explain import ExplainSheet

        ExplainSheet(self.desk.name, self.desk.findings(), self).show()

    # Files
    def _ask_new(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self,
            "Begin a new day",
            str(self.document.file.parent.parent / f"{date.today()}{SUFFIX}"),
            "Glintor days (*.glintor)",
        )
        if name:
            self.begin_day(Path(name if name.endswith(SUFFIX) else name + SUFFIX))

    def begin_day(self, file: Path) -> None:
        """Makes a day with one shot by that name, opens it and asks for its place."""
        from glintor.project.fresh import fresh_day, own_folder

        target = own_folder(file)
        try:
            if file.exists() or target.exists():
                raise InputError(
                    f"There is a day in {file.name} already.",
                    unharmed="It was not touched.",
                    advice="Choose another name.",
                )
            write_project(
                target, fresh_day(self.document.project, self.document.shot, date.today(), file.stem), make_folder=True
            )
        except GlintorError as error:
            self.tell(error)
            return
        self._open_file(target, fresh=True)

    def _ask_open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, "Open a day", str(self.document.file.parent), "Glintor days (*.glintor)"
        )
        if name:
            self._open_file(Path(name))

    def _open_demo(self) -> None:
        from glintor.demo.day import demo_project

        self._open_file(demo_project())

    def _ask_clip(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, "Bring a clip into this shot", "", "Films (*.mp4 *.mov *.mkv *.avi);;All files (*)"
        )
        if name:
            self.add_clip(Path(name))

    def add_clip(self, file: Path, *, told: Literal["", "sphere", "half"] = "") -> None:
        """Copies a clip into the footage and logs it as a take of this shot; asks where it is no sphere by itself."""
        from glintor.media.probe import probe
        from glintor.offload.copy import Copied, bring_over

        try:
            need_folder(self.document.file)
            info = probe(file)
            if info.coverage is None and not told:
                self._ask_sphere(file, info.width_px, info.height_px)
                return
        except GlintorError as error:
            self.tell(error)
            return
        shot, folder = self.document.shot, self.document.footage

        def done(copied: Copied) -> None:
            here = self.document.project.shot(shot.id)  # other clips may have come meanwhile
            take = Take(
                id=fresh_id(f"{shot.id}-clip", {t.id for t in here.takes}), name=file.stem, start_min=shot.start_min,
                duration_s=info.duration_s, width_px=info.width_px, rate_fps=float(info.rate), size_bytes=info.size_bytes,
                safe_file=str(copied.target.relative_to(self.document.file.parent)), xxh64=copied.xxh64,
                placement=shot.placement, exposure=shot.exposure, told=told,
            )  # fmt: skip
            self.document.edit(
                "Bring a clip in", self.document.project.with_shot(shot.id, lambda s: with_take(s, take))
            )
            self.document.look_at_take(shot.id, take.id)

        self.jobs.start(
            f"Bringing {file.name} over", lambda report, stop: bring_over(file, folder, report=report, stop=stop), done
        )

    def _make_proxy(self, footage: "Footage") -> None:
        """Makes the stand-ins of large clips in the background, once."""
        for file in footage.files:
            if footage.wants_proxy and file not in self._proxied:
                self._make_one_proxy(file)

    def _make_one_proxy(self, file: Path) -> None:
        from glintor.media.proxy import make_proxy, proxy_of

        self._proxied.add(file)
        if proxy_of(file) is not None:
            return
        self.jobs.start(
            f"Making {file.name} light to scrub", lambda report, stop: make_proxy(file, report=report, stop=stop),
            lambda _made: self.reframe.refresh(), cancelled=lambda: self._proxied.discard(file),
        )  # fmt: skip

    def _ask_still(self) -> None:
        wanted = self.reframe.still_wanted()
        if wanted is None:
            self.work.say("There is no frame to save yet")
            return
        name, _ = QFileDialog.getSaveFileName(
            self, "Save this frame as a picture", str(self._films / f"{self.document.shot.id}.png"),
            "Pictures (*.png *.jpg *.tif)",
        )  # fmt: skip
        if name:
            self.save_still(Path(name))

    def save_still(self, target: Path) -> None:
        """Writes the frame in sight from the original, at the full size of its shape."""
        from glintor.export.still import still

        wanted = self.reframe.still_wanted()
        if wanted is not None:
            footage, view, size, at_s = wanted
            keep = footage_of(self.document.file, self.document.project.shots)
            self.jobs.start(
                f"Saving {target.name}", lambda _report, _stop: still(footage, view, size, target, at_s=at_s, keep=keep)
            )

    def _ask_sphere(self, file: Path, width: int, height: int) -> None:
        box = QMessageBox(self)
        box.setWindowTitle("Glintor")
        box.setText(f"{file.name} is {width}x{height}. A full sphere is twice as wide as high.")
        box.setInformativeText("Nothing was copied. Is it a sphere all the same, or the half of it that one lens sees?")
        whole = box.addButton("Treat it as a sphere", QMessageBox.ButtonRole.AcceptRole)
        half = box.addButton("Treat it as a half", QMessageBox.ButtonRole.AcceptRole)
        box.addButton("Leave it", QMessageBox.ButtonRole.RejectRole)
        box.setModal(False)

        def answered(pressed: QAbstractButton) -> None:
            if pressed in (whole, half):
                self.add_clip(file, told="sphere" if pressed is whole else "half")

        box.buttonClicked.connect(answered)
        box.show()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        assert event is not None
        mime = event.mimeData()
        if mime is not None and mime.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        assert event is not None
        mime = event.mimeData()
        for url in mime.urls() if mime is not None else []:
            file = Path(url.toLocalFile())
            if file.suffix == SUFFIX:
                self._open_file(file)
            else:
                self.add_clip(file)

    # The rest
    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if not self._seen:
            self._seen = True
            QTimer.singleShot(0, self.painted)

    def _dusk(self) -> None:
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        theme.apply(app, dusk=theme.colours() is theme.DAY)
        self.repaint()

    def _find(self) -> None:
        Finder(self, self.actions_by_id).show()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        assert event is not None
        if not self._closed:
            self.jobs.stop_all()
            QCoreApplication.sendPostedEvents()  # what the jobs still brought belongs to the day
            for desk in self._built():
                desk.finish()
            if not self.document.save() and not self._leaves:
                event.ignore()
                self.jobs.closing = False
                self._ask_where()
                return
        self._closed = True
        for desk in self._built():
            desk.close_down()
        self._column.close()
        self.document.close()
        super().closeEvent(event)


def _card(project: Project, shot: Shot, file: Path, films: Path) -> tuple[QImage, dict[str, Level], float]:
    """A shot's small picture, the worst finding of each desk, and which share of its films is written."""
    from glintor.export.cut import target_file
    from glintor.export.formats import FORMATS
    from glintor.review import findings
    from glintor.simulation.foresight import foresight

    pixels, _, _ = foresight(shot, project.site, project.camera, 240)
    worst: dict[str, Level] = {}
    for finding in findings(project, shot, file):
        worst[finding.desk] = max(worst.get(finding.desk, Level.NOTE), finding.level)
    wanted = [target_file(films, file, cut, shape) for cut in shot.cuts for shape in FORMATS]
    exported = sum(target.exists() for target in wanted) / max(len(wanted), 1)
    return marks.image(pixels[22:90, 60:180].copy()), worst, exported


def _warm(told: Callable[[str], object]) -> None:
    """Loads in the background what the first clip and the first frame need, once the window is there; tells where
    something has no place to be kept."""

    def load() -> None:
        import av
        import scipy.signal  # noqa: F401

        from glintor.pixels import kernels, sampling
        from glintor.pixels.compiling import Kernels
        from glintor.places import homeless, own_folder

        assert av and kernels and sampling
        if homeless():
            told(f"Your home cannot be written: settings and queue are kept in {own_folder('state').parent} only")
        elif Kernels.words:
            told(Kernels.words)

    threading.Thread(target=load, name="warm", daemon=True).start()
