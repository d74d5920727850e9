"""Reframe: where the flat frame looks, and how it gets there."""

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.jobs import Jobs
from glintor.desktop.reframe.beside_work import BesideWork
from glintor.desktop.reframe.board import Board
from glintor.desktop.reframe.cut_work import CutWork
from glintor.desktop.reframe.edit_context import EditContext
from glintor.desktop.reframe.flying import Flying
from glintor.desktop.reframe.hand import Hand
from glintor.desktop.reframe.hold_work import HoldWork
from glintor.desktop.reframe.key_work import KeyWork
from glintor.desktop.reframe.known import Known
from glintor.desktop.reframe.move_work import MoveWork
from glintor.desktop.reframe.picking import Picking
from glintor.desktop.reframe.player import Player
from glintor.desktop.reframe.playing import Playing
from glintor.desktop.reframe.plotting import Plotting
from glintor.desktop.reframe.proposing import Proposing
from glintor.desktop.reframe.reviewing import Reviewing
from glintor.desktop.reframe.screen import Drawn, Request, Screen
from glintor.desktop.reframe.trial import Trial
from glintor.desktop.sphere_view import SphereMarks
from glintor.errors import GlintorError
from glintor.export.formats import Format
from glintor.finding import Cure, Finding
from glintor.media.footage import Footage
from glintor.project.clocks import same_moment
from glintor.project.store import clip_files
from glintor.project.take import Take
from glintor.reframing import edits, freezing
from glintor.reframing.cut import Cut
from glintor.reframing.looks import Look
from glintor.review import lie_of
from glintor.sphere.view import View, as_set, true_width_px, within_limits


class ReframeDesk(Desk):
    """Flat frame, sphere unrolled and course of one cut."""

    name = "Reframe"
    draws_gestures = True
    clip_seen = pyqtSignal(object)  # its footage: a picture of it is there
    turning_missed = pyqtSignal(object, object)  # take and footage: it is held still, and nobody knows how it turned
    hold_asked = pyqtSignal(str)  # another way of holding the take still
    recording_asked = pyqtSignal()  # the sheet of the recording

    def __init__(self, document: Document, jobs: Jobs, parent: QWidget) -> None:
        super().__init__(document, jobs, parent)
        self.board = board = Board()
        self.frame, self.sphere, self.course, self.pace = board.frame, board.sphere, board.course, board.pace
        self.looks, self.shapes, self.cuts = board.looks, board.shapes, board.cuts
        self.projector, self.player = Screen(), Player()
        self.hand = Hand(document)
        self.known = Known()
        self.context = context = EditContext(
            document, self.hand, self.known, self.projector, self.player, self.go_to, self.said.emit
        )
        self.work = work = CutWork(context, self._show_part)
        self.key_work = KeyWork(context, work, self._show_chosen)
        self.hold_work = HoldWork(context, work, self._seek_turning)
        self.playing = Playing(context, self.frame)
        self.reviewing = Reviewing(document, self.hand, self.known)
        self.plotting = Plotting(self.hand, self.known)
        self.picking = Picking(self.hand, self.known, self.point_at)
        self.beside_work = BesideWork(context, work)
        self.move_work = MoveWork(context, work, self.plotting)
        self.trial = Trial(context, work, self._show_trial)
        self.proposing = Proposing(context, work, self.plotting, jobs, self)
        self.flying = Flying(context, work, board, self.playing, self.refresh)
        page = QVBoxLayout(self)
        page.setContentsMargins(0, 0, 0, 0)
        page.addWidget(self.board)
        self._connect()

    def _connect(self) -> None:
        board = self.board
        for work in (self.work, self.key_work, self.hold_work, self.move_work, self.beside_work):
            work.listen(board)
        self.frame.view_turned.connect(self.turned)
        self.frame.turn_ended.connect(self.turn_ended)
        self.frame.resized.connect(self.draw)
        self.sphere.clicked.connect(self.picking.click)
        self.sphere.looked.connect(self.picking.drag)
        self.sphere.look_ended.connect(self.document.end_gesture)
        self.course.time_chosen.connect(self.go_to)
        self.looks.chosen.connect(self.choose_look)
        self.shapes.chosen.connect(self.choose_shape)
        self.cuts.activated.connect(self.choose_cut)
        board.play.clicked.connect(self.toggle_play)
        board.propose.clicked.connect(self.proposing.open)
        board.held.activated.connect(lambda at: self.hold_asked.emit(str(board.held.itemData(at))))
        board.recording.clicked.connect(self.recording_asked)
        self.reviewing.found.connect(self.show_reviewed)
        self.projector.drawn.connect(self.show_drawn)
        self.projector.failed.connect(lambda error: self.frame.show_empty(str(error)))
        self.player.moved.connect(self.show_playing)
        self.player.stopped.connect(self.stopped)

    def _show_part(self) -> None:
        """The part of the clip that is marked for another speed."""
        self.course.show_part(self.hand.part)
        self.board.show_part(self.hand.part)
        self._show_bars()

    # Hands on the frame
    def turned(self, shown: View, only_look: bool) -> None:
        self.frame.show_hint("")
        self.player.stop()
        self._ask(shown)  # first of all: the picture is drawn while the document is changed
        view = as_set(shown, self.hand.frame_px)
        if only_look or self.hand.cut is None:
            self.hand.look = view
            self.sphere.show_marks(self.plotting.marks(shown))
        else:
            self.work.set_shown(shown, "Turn the view", ("view", round(self.hand.now_s, 3)))
        self.board.show_angles(view, shown)

    def turn_ended(self) -> None:
        self.document.end_gesture()
        if self.hand.look is not None:
            self.hand.look = None
            self.draw()

    def point_at(self, yaw_deg: float, pitch_deg: float) -> None:
        shown = within_limits(self.hand.shown_view(), yaw_deg=yaw_deg, pitch_deg=pitch_deg)
        self.work.set_shown(shown, "Turn the view", ("point", round(self.hand.now_s, 3)))

    def choose_look(self, look: Look) -> None:
        self.work.set_view(look.on(self.hand.path_view()), f"Look {look.name}")

    def choose_cut(self, at: int) -> None:
        before, now_s = self.hand.take, self.hand.clip_s
        if not self.hand.choose(str(self.cuts.itemData(at))):
            self.work.new_cut()
        after = self.hand.take
        if before is not None and after is not None and after.id != before.id:
            same = same_moment(before, after, now_s)
            if same is not None:  # takes on one clock: the moment is kept
                self.go_to(float(self.hand.clock.path_s(same)))

    def choose_shape(self, shape: Format) -> None:
        self.trial.drop()  # what is tried, or shown as flown, was of the shape before
        self.hand.instead, self.hand.shape = None, shape
        self.board.fly_bar.raw.setChecked(False)
        self.board.show_alone_for(shape)
        self.frame.show_shape(shape.size_px)
        self.board.arrange(shape)
        self.refresh()

    # Time
    def go_to(self, time_s: float) -> None:
        if self.hand.take is None:
            return
        self.player.stop()
        self.hand.moved_to(time_s)
        self.hand.look = None
        cut = self.hand.cut
        near = edits.key_at(cut, self.hand.now_s, self.hand.step_s) if cut is not None else None
        if near is not None:
            self.hand.chosen = near
        self.course.show_time(self.hand.now_s)
        self._show_bars()
        self._show_figures()
        self.draw()

    def step(self, frames: int) -> None:
        self.go_to(self.hand.now_s + frames * self.hand.step_s)

    def toggle_play(self) -> None:
        cut, footage = self.hand.cut, self.projector.footage
        if self.player.playing:
            self.player.stop()
        elif cut is not None and footage is not None:
            (first, last), now_s = cut.span_s, self.hand.now_s
            start = now_s if first <= now_s < last - 2 * self.hand.step_s else first
            sound, wrong = self.hand.sound(footage)
            if wrong:
                self.refused.emit(wrong)
            self.player.play(sound, cut.timeline, start, muted=cut.sound != "pitch")
            self.playing.draw(cut)
            self.board.play.setText("Stop")
            if self.player.sound_words:
                self.said.emit(f"Playing, {self.player.sound_words}")

    def show_playing(self, film_s: float, path_s: float) -> None:
        """Shows the film at a moment while it plays."""
        self.hand.now_s = path_s
        drawn = self.playing.show(film_s)
        if drawn is None:
            return
        self.frame.show_view(drawn.view)
        if self.flying.running:
            self.hand.look = as_set(drawn.view, self.hand.frame_px)
        self.course.show_time(path_s)
        if drawn.sphere is not None:
            self._show_figures()

    def stopped(self) -> None:
        self.projector.end_film()
        self.board.play.setText("Play")
        self.flying.ended()
        if self.hand.take is not None:
            self.hand.moved_to(self.hand.now_s)
            self.course.show_time(self.hand.now_s)
        self.draw()

    # Drawing
    def refresh(self) -> None:
        cut, take = self.hand.cut, self.hand.take
        self.hand.follow()
        self.trial.follow()
        self.board.list_cuts(*self.hand.cuts())
        self.shapes.show_value(self.hand.shape)
        self.board.show_looks(self.document.project.kit.looks)
        self.board.play.setEnabled(cut is not None)
        if not self._open(take) or take is None:
            return
        self.hand.moved_to(self.hand.now_s)
        if cut is None:
            self.reviewing.forget()
            self.course.show_nothing()
            self._show_bars()
        else:
            self._show_course(cut, take)
        self._show_figures()
        self._play_on(cut)
        self.draw()
        self.findings_changed.emit()

    def _play_on(self, cut: Cut | None) -> None:
        """Goes on playing after a change of the path or the frame shape; another timing ends it."""
        if not self.player.playing or self.flying.running:
            return
        if cut is None or not self.playing.times_as(cut):
            self.player.stop()
        else:
            self.playing.draw(cut)

    def _open(self, take: Take | None) -> bool:
        try:
            if take is None:
                raise GlintorError(
                    "Nothing recorded in this shot yet.", advice="Record on desk 3, or drop a recording."
                )
            footage = self.projector.open_footage(clip_files(self.document.file, take), take.taken_as)
            self._read_known(take, footage)
        except GlintorError as error:
            self.projector.close_clip()
            self.frame.show_empty(str(error))
            self.sphere.show_sphere(None, SphereMarks())
            self.course.show_nothing()
            self.reviewing.forget()
            self.findings_changed.emit()
            return False
        return True

    def _read_known(self, take: Take, footage: Footage) -> None:
        """How the take is held still, what is tracked in it, and what the cut is held on."""
        self.board.held.setCurrentIndex(self.board.held.findData(take.steady.mode))
        wrong = self.known.take(take, footage)
        self.known.find(self.document.file, self.document.project, take, footage, self.hand.cut)
        self.hand.targets, self.hand.targets_of = self.known.targets, self.known.targets_of
        if wrong:
            self.refused.emit(wrong)
        if self.known.unsought:
            self._seek_turning()

    def _seek_turning(self) -> None:
        take, footage = self.hand.take, self.projector.footage
        if take is not None and footage is not None:
            self.turning_missed.emit(take, footage)

    def _show_course(self, cut: Cut, take: Take) -> None:
        findings = self.reviewing.review(cut, take)
        self.plotting.lie = lie_of(self.document.project, take, self.known.track)
        self.course.show_course(self.plotting.plot(cut, take, findings))
        self.course.show_time(self.hand.now_s)
        self.course.show_part(self.hand.part)
        self._show_bars()

    def show_reviewed(self) -> None:
        """What was found of a long path is known."""
        self._show_chosen()
        self.findings_changed.emit()

    def open_moves(self) -> None:
        """Shows the row of ready moves, the keyboard on it, or puts it away."""
        self.board.turn_bar("move")
        self._show_bars()
        if self.board.move_bar.isVisible():
            self.board.move_bar.kinds.setFocus()

    def _show_bars(self) -> None:
        """What can be typed about the keyframe at hand."""
        self.board.key_bar.show_key(self.hand.cut, self.hold_work.index, self.hand.part)
        if self.board.move_bar.isVisible():
            self.board.move_bar.show_move(self.move_work.move, self.move_work.wants_s)
        cut = self.hand.cut
        freeze = freezing.freeze_at(cut, self.hand.now_s, self.hand.step_s) if cut is not None else None
        self.pace.show_cut(cut, self.hand.stretch(), self.hand.part, freeze)
        self.board.beside_bar.show_beside(cut.beside if cut is not None else None, self.beside_work.others())
        self.board.hold_bar.show_hold(self.hold_work.anchor, self.hold_work.offers(), self.hold_work.missing())

    def _show_chosen(self) -> None:
        cut, take = self.hand.cut, self.hand.take
        if cut is not None and take is not None:
            self._show_course(cut, take)

    def tell_bearings(self) -> None:
        """Tells bearings in the next frame in which they are known."""
        self.said.emit(self.plotting.tell_otherwise())
        self._show_chosen()

    def _show_figures(self) -> None:
        view, shown = self.hand.look or self.hand.path_view(), self.hand.shown_view()
        self.board.show_angles(view, shown)
        self.sphere.show_marks(self.plotting.marks(shown))

    @property
    def preview_px(self) -> tuple[int, int]:
        return self.hand.preview_px(self.frame.screen_pixels)

    def draw(self) -> None:
        shown = self.hand.shown_view()
        self.frame.show_view(shown)
        self._ask(shown)

    def _ask(self, shown: View) -> None:
        """Asks for the picture of the present moment; while playing the film's frames come by themselves."""
        if not self.player.playing:
            until_s = self.hand.blur_until(self.hand.now_s)
            cut, size = self.hand.cut, self.preview_px
            parts = self.hand.parts(cut, self.hand.now_s, shown, size) if cut is not None else ()
            asked = Request(self.hand.clip_s, shown, size, until_s, sphere=True, turns=self.known.turns, parts=parts)
            self.projector.ask(asked)

    def show_drawn(self, drawn: Drawn) -> None:
        if drawn.sphere is not None:  # it comes once for each moment, whatever became of the frame's size since
            self.sphere.show_picture(marks.image(drawn.sphere))
        if drawn.size_px != self.preview_px:
            return
        take = self.hand.take
        shape, stand_in = self.hand.shape, "" if drawn.exact else " · a first look" if drawn.rough else " · proxy"
        true = true_width_px(drawn.view, shape.size_px, take.width_px if take is not None else 1)
        words = f"{shape.name} · {drawn.time_s:.2f} s · true width {true} px of {shape.size_px[0]}{stand_in}"
        self.frame.show_frame(marks.image(drawn.frame), words)
        if self.projector.footage is not None:  # it may have vanished since it was drawn
            self.clip_seen.emit(self.projector.footage)

    # Findings
    def findings(self) -> Sequence[Finding]:
        return self.trial.told(self.reviewing.findings)

    def show_place(self, finding: Finding) -> None:
        if finding.start_s == finding.start_s:
            self.go_to(finding.start_s)

    def apply(self, cure: Cure) -> None:
        """Shows what a cure would do; chosen again it is taken."""
        same = [
            f
            for f in self.reviewing.findings
            if f.cure is not None and f.cure.field == cure.field and f.cure.value == cure.value
        ]
        finding = next(iter(same), None)
        if finding is not None:
            self.trial.choose(finding)

    def _show_trial(self) -> None:
        """Draws the path that is only tried, or the cut's own again."""
        cut, take = self.hand.cut, self.hand.take
        if cut is not None and take is not None:
            self._show_course(cut, take)
            self._show_figures()
            self.draw()
            self._play_on(cut)
        self.findings_changed.emit()

    def leave(self) -> None:
        self.player.stop()

    @property
    def settled(self) -> bool:
        return self.projector.idle and not self.course.waiting and not self.reviewing.waiting

    def close_down(self) -> None:
        self.player.stop()
        self.projector.close()
