"""The main window: day strip, shot column, six desks, findings strip and work line."""

from pathlib import Path
from typing import TYPE_CHECKING, cast

from PyQt6.QtCore import QCoreApplication, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QApplication, QMainWindow, QMenuBar, QWidget

from glintor.desktop import incoming, theme
from glintor.desktop.actions import ACTIONS, bind, menus_of
from glintor.desktop.cards import ShotCards
from glintor.desktop.clip_work import ClipWork
from glintor.desktop.day_work import DayWork
from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.file_work import FileWork
from glintor.desktop.host import Opener
from glintor.desktop.jobs import Jobs
from glintor.desktop.page import Page
from glintor.desktop.reframe.tracking import Tracking
from glintor.desktop.seats import NAMES, Seats
from glintor.desktop.shot_work import ShotWork
from glintor.desktop.take_work import TakeWork
from glintor.desktop.telling import Answers, Teller
from glintor.errors import GlintorError
from glintor.finding import Finding, worst_first
from glintor.placement.clock import clock
from glintor.project.store import films_folder

if TYPE_CHECKING:
    from glintor.desktop.export.desk import ExportDesk
    from glintor.desktop.expose.desk import ExposeDesk
    from glintor.desktop.offload.desk import OffloadDesk
    from glintor.desktop.place.desk import PlaceDesk
    from glintor.desktop.record.desk import RecordDesk
    from glintor.desktop.reframe.desk import ReframeDesk
    from glintor.export.queue import Queue


REFRAME = NAMES.index("reframe")
_WARM_MS = 300  # after the first picture
_PAUSE_MS = 90  # a hand that rests so long has time to look at the charts


def _open_nothing(file: Path, *, fresh: bool = False, take_over: bool = False) -> None:
    """For a window that stands alone."""


class Window(QMainWindow):
    """Holds the document and passes what happens between its parts. With `paint_first` all work waits for the first
    picture."""

    painted = pyqtSignal()  # once, after the first picture

    def __init__(
        self,
        document: Document,
        *,
        queue: "Queue | None" = None,
        open_file: Opener | None = None,
        paint_first: bool = False,
    ) -> None:
        super().__init__()
        self.document, self.jobs = document, Jobs()
        if paint_first:
            self.jobs.hold_back()
            self.painted.connect(self.jobs.go_on)
        self.open_file: Opener = open_file or _open_nothing
        self._closed = self._seen = self._leaves = self._leaves_rolling = self._alone = False
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.setMinimumSize(1000, 660)
        self._number = 0
        self.seats = Seats(document, self.jobs, queue)
        self.page = page = Page(self.seats, self.jobs)
        self.day, self.shots, self.strip, self.work = page.day, page.shots, page.strip, page.work
        self.edges = page.edges
        self.setCentralWidget(page)
        self._teller = Teller(self)
        self.cards = ShotCards(document, self.shots, lambda: self.films, self.jobs.trouble.emit)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(_PAUSE_MS)
        self._later.timeout.connect(self._show_all)
        self.day_work = DayWork(document, self.jobs, self, self.work.say, self.tell)
        self.shot_work = ShotWork(document, self, self.work.say)
        self.file_work, self.clip_work, self.take_work = FileWork(self), ClipWork(self), TakeWork(self)
        self.tracking = Tracking(self)
        self._menus = menus_of(cast(QMenuBar, self.menuBar()))
        self.actions_by_id: dict[str, QAction] = {}
        self.jobs.when_seen(lambda: self.actions_by_id.update(bind(self, self._menus)), longer=True)
        self._connect()
        self._fold()
        self._show_day()
        self._show_all()
        self.painted.connect(lambda: QTimer.singleShot(_WARM_MS, self.seats.build_rest))
        if document.notice:
            self.work.say(document.notice)

    # Making
    def _connect(self) -> None:
        self.page.desk_asked.connect(self.show_desk)
        self.document.changed.connect(self._changed)
        self.document.gesture_ended.connect(self._show_all)
        self.document.shot_chosen.connect(self._show_all)
        self.document.trouble.connect(self.file_work.tell_keeping)
        self.document.refused.connect(
            lambda: self.work.say("You only look at this day; Day, Take this day over, to change it")
        )
        self.document.saved.connect(lambda: self.work.say("Saved"))
        self.jobs.trouble.connect(lambda error: self.tell(error))
        self.seats.warmed.connect(self.work.say)
        self.seats.seated.connect(self._seated)
        self.seats.clip_seen.connect(self.clip_work.make_proxies)
        self.seats.clip_seen.connect(self.take_work.seek_lenses)
        self.seats.take_opened.connect(self.clip_work.work_on)
        self.seats.proxies_wanted.connect(self.clip_work.make_proxies_of)
        self.seats.card_came.connect(self.show_card)
        self.seats.unsure.connect(self.clip_work.ask_what)
        self.seats.turning_missed.connect(self.take_work.find_turning)
        self.seats.hold_asked.connect(self.take_work.hold)
        self.seats.recording_asked.connect(self.open_take_sheet)
        self.seats.written.connect(self.cards.redraw)
        self.seats.site_asked.connect(self.day_work.edit_site)
        self.seats.plan_asked.connect(self.shot_work.plan)
        self.day.shot_clicked.connect(self.document.choose_shot)
        self.day.shot_dragged.connect(self.shot_work.move)
        self.day.drag_ended.connect(self.document.end_gesture)
        self.shots.shot_clicked.connect(self.document.choose_shot)
        self.strip.finding_clicked.connect(lambda finding: self.desk.show_place(finding))
        self.strip.cure_asked.connect(self._cure)
        self.work.finding_clicked.connect(lambda finding: self.desk.show_place(finding))
        self.work.cure_asked.connect(self._cure)
        self.edges.changed.connect(self._fold)

    # The desks
    @property
    def place(self) -> "PlaceDesk":
        return self.seats.place

    @property
    def expose(self) -> "ExposeDesk":
        return self.seats.expose

    @property
    def record(self) -> "RecordDesk":
        return self.seats.record

    @property
    def offload(self) -> "OffloadDesk":
        return self.seats.offload

    @property
    def reframe(self) -> "ReframeDesk":
        return self.seats.reframe

    @property
    def export(self) -> "ExportDesk":
        return self.seats.export

    @property
    def desks(self) -> tuple[Desk, ...]:
        return (self.place, self.expose, self.record, self.offload, self.reframe, self.export)

    def show_card(self, folder: Path) -> None:
        """Brings the Offload desk into sight, with what lies on a card."""
        self.show_desk(NAMES.index("offload"))
        self.offload.open_card(folder)

    def _seated(self, desk: Desk) -> None:
        desk.findings_changed.connect(self._show_findings)
        desk.said.connect(self.work.say)
        desk.refused.connect(self._refused)

    def _refused(self, words: str) -> None:
        """Nothing was changed, so lists and fields show again what holds, not what was asked."""
        self.work.say(words)
        self._later.start()

    # Showing
    @property
    def parent_widget(self) -> QWidget:
        return self

    def say(self, words: str) -> None:
        """Shows a line of what was done."""
        self.work.say(words)

    @property
    def desk(self) -> Desk:
        """The desk in sight."""
        return self.seats.desk(self._number)

    def show_desk(self, number: int) -> None:
        """Brings a desk into sight, 0 to 5."""
        if number != self._number:
            if self._alone:
                self.look_alone()
            self.desk.leave()
            self._number = number
            self.jobs.by_turns(self._fold)
        self.seats.setCurrentWidget(self.desk)
        self.page.show_desk(number)
        self.jobs.when_seen(self.show_actions, longer=True)
        self.desk.refresh()
        self.jobs.by_turns(self._show_findings)

    def _show_all(self) -> None:
        self._later.stop()
        project, shot = self.document.project, self.document.shot
        self.setWindowTitle(f"{project.site.name} · Glintor")
        self.page.title.show_words(f"{shot.name} · {clock(shot.start_min)}" if shot in project.planned else shot.name)
        self.show_desk(self._number)
        self.jobs.by_turns(self._show_day)
        if not self.document.in_gesture:  # light is searched through the whole day: not while a hand moves
            self.jobs.by_turns(self._show_plan, longer=True)
        self.jobs.by_turns(self.cards.next, longer=True)

    def _show_day(self) -> None:
        project, shot = self.document.project, self.document.shot
        self.day.show_day(project, shot.id)
        self.shots.show_shots(project, shot.id)

    def show_actions(self) -> None:
        """What can be undone and done again, and the commands that only one desk has a use for."""
        for spec in ACTIONS if self.actions_by_id else ():
            if spec.desk:
                self.actions_by_id[spec.id].setEnabled(NAMES[self._number] == spec.desk)
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

    def _show_findings(self) -> None:
        found = worst_first(list(self.desk.findings()))
        self.strip.show_findings(found)
        self.work.show_worst(None if self.edges.is_open("findings") else found)

    def _fold(self) -> None:
        self.page.fold()
        self.jobs.by_turns(self._show_findings)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.strip.show_height(self.height())
        super().resizeEvent(event)

    @property
    def films(self) -> Path:
        """Where this day's films go."""
        return self.export.folder if "export" in self.seats.__dict__ else films_folder(self.document.file)

    @property
    def settled(self) -> bool:
        """Whether everything in sight is drawn and no work runs."""
        drawn = getattr(self.desk, "settled", True) and not self._later.isActive()
        return (
            drawn and self.cards.idle and not self.jobs.running and not self.jobs.held_back and not self.jobs.turns_wait
        )

    def tell(self, error: GlintorError, answers: Answers | None = None) -> None:
        """Shows what happened, what is unharmed and what to do; answers: buttons that do something about it."""
        self._refused(error.what)
        self._teller.tell(error, answers)

    def tell_fault(self, error: GlintorError) -> None:
        """Shows what nobody foresaw, the day saved before."""
        if not self._closed:
            self.document.save()
            self.tell(error)

    def _cure(self, finding: Finding) -> None:
        assert finding.cure is not None
        if finding.cure.field == "start_min":
            self.shot_work.move(self.document.shot.id, float(finding.cure.value))
            self.document.end_gesture()
        else:
            cast(Desk, getattr(self.seats, finding.desk)).apply(finding.cure)

    def explain(self) -> None:
        """Opens the sheet that says how this desk's numbers come about."""
        from glintor.desktop.explain import ExplainSheet

        ExplainSheet(self.desk.name, self.desk.findings(), self).show()

    def open_take_sheet(self) -> None:
        """Opens the sheet of the recording at hand."""
        from glintor.desktop.take_sheet import TakeSheet

        if self.document.take is None:
            self.say("There is no take in this shot")
        else:
            TakeSheet(self, self.take_work).show()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        incoming.accept(event)

    def dropEvent(self, event: QDropEvent | None) -> None:
        self.clip_work.drop(incoming.dropped(event))

    # The rest
    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if not self._seen:
            self._seen = True
            QTimer.singleShot(0, self.painted)

    def dusk(self) -> None:
        """Changes between day and dusk colours."""
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        theme.apply(app, dusk=theme.colours() is theme.DAY)
        self.repaint()

    def look_alone(self) -> None:
        """The flat frame alone on the whole screen, or everything again (F11; Escape leads back)."""
        self._alone = not self._alone
        cast(QMenuBar, self.menuBar()).setVisible(not self._alone)
        self.page.show_alone(self._alone)
        self.reframe.board.show_alone(self._alone)
        self.showFullScreen() if self._alone else self.showNormal()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        escape = event is not None and event.key() == Qt.Key.Key_Escape
        if self._alone and escape:
            self.look_alone()
        elif escape and "reframe" in self.seats.__dict__ and self.reframe.picking.stop():
            self.work.say("The horizon stays as it was")
        elif escape and "reframe" in self.seats.__dict__ and self.reframe.trial.drop():
            self.work.say("Left: the path is as it was")
        else:
            super().keyPressEvent(event)

    def leave(self, *, unsaved: bool, rolling: bool = False) -> None:
        """Closes the window; `unsaved`: even where something could not be saved; `rolling`: even while a camera rolls."""
        self._leaves, self._leaves_rolling = unsaved, rolling
        self.close()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        assert event is not None
        if not self._closed:
            if "record" in self.seats.__dict__ and self.record.cameras.rolling and not self._leaves_rolling:
                from glintor.desktop.record.leaving import ask_rolling

                event.ignore()
                ask_rolling(
                    self,
                    self.record.cameras,
                    stop=self.record.log.stop,
                    leave=lambda: self.leave(unsaved=False, rolling=True),
                    say=self.work.say,
                )
                return
            self.jobs.stop_all()
            QCoreApplication.sendPostedEvents()  # what the jobs still brought belongs to the day
            for desk in self.seats.built():
                desk.finish()
            if not self.document.save() and not self._leaves:
                event.ignore()
                self.jobs.closing = False
                self.file_work.ask_where()
                return
        self._closed = True
        self.seats.close_down()
        self.cards.close()
        self.document.close()
        super().closeEvent(event)
