"""Reframe: where the flat frame looks, and how it gets there."""

from collections.abc import Sequence

import msgspec
import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.controls import offer
from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.jobs import Jobs
from glintor.desktop.pictures import SphereMarks
from glintor.desktop.reframe.board import Board
from glintor.desktop.reframe.player import Player
from glintor.desktop.reframe.screen import Drawn, Request, Screen
from glintor.errors import GlintorError
from glintor.export.formats import FORMATS, Format, course_for
from glintor.finding import Cure, Finding
from glintor.media.footage import Footage
from glintor.placement.layout import axis_of
from glintor.project.model import Take, fresh_id, with_cut, with_take
from glintor.project.store import clip_files
from glintor.reframing import edits
from glintor.reframing.cut import Cut
from glintor.reframing.looks import Look
from glintor.reframing.path import path_of
from glintor.reframing.retime import Stretch
from glintor.reframing.track import Track
from glintor.review import layout_of_take, pan_share_s, reframing, seam_band, subject_of, track_of_take
from glintor.sphere.view import View, as_set, for_shape, true_width_px, within_limits

_LEAST_PX, _MOST_PX = 640 * 360, 1312 * 738
_TAKE = "take:"  # before a take's id in the list of cuts, where it has none
_GLANCE_MS = 200


class ReframeDesk(Desk):
    """Flat frame, sphere unrolled and course of one cut."""

    name = "Reframe"
    draws_gestures = True
    clip_opened = pyqtSignal(object)  # its footage

    def __init__(self, document: Document, jobs: Jobs, parent: QWidget) -> None:
        super().__init__(document, jobs, parent)
        self.board = board = Board()
        self.frame, self.sphere, self.course, self.pace = board.frame, board.sphere, board.course, board.pace
        self.looks, self.shapes, self.cuts = board.looks, board.shapes, board.cuts
        self.projector, self.player = Screen(), Player()
        self._shape: Format = FORMATS[0]
        self._now_s = 0.0
        self._look: View | None = None  # a view that is only looked at, not set
        self._chosen = -1
        self._played: Cut | None = None  # the cut as it is being played, and the film's moment where that began
        self._film_s = 0.0
        self._part: tuple[float, float] | None = None  # of the clip, marked for another speed
        self._copied: View | None = None
        self._track: Track | None = None
        self._findings: list[Finding] = []
        self._reviewed: object = None
        self._band: float | None = None
        self._axis = (1.0, 0.0, 0.0)
        self._sun: tuple[float, float] | None = None
        self._fresh: tuple[object, Cut] | None = None
        self._on: object = None  # the cut or take that marks and chosen keyframes belong to
        self._lay()
        self._connect()

    def _lay(self) -> None:
        page = QVBoxLayout(self)
        page.setContentsMargins(0, 0, 0, 0)
        page.addWidget(self.board)

    def _connect(self) -> None:
        self.frame.view_turned.connect(self._turned)
        self.frame.turn_ended.connect(self._turn_ended)
        self.frame.resized.connect(self._draw)
        self.board.angle_typed.connect(self._type_angle)
        self.board.play.clicked.connect(self.toggle_play)
        self.sphere.clicked.connect(self._point_at)
        self.sphere.looked.connect(self._point_at)
        self.sphere.look_ended.connect(self.document.end_gesture)
        self.looks.chosen.connect(self._choose_look)
        self.shapes.chosen.connect(self._choose_shape)
        self.cuts.activated.connect(self._choose_cut)
        self.course.time_chosen.connect(self.go_to)
        self.course.key_chosen.connect(self._choose_key)
        self.course.key_dragged.connect(self._drag_key)
        self.course.in_dragged.connect(lambda t: self._set_ends("Begin the cut", in_s=t))
        self.course.out_dragged.connect(lambda t: self._set_ends("End the cut", out_s=t))
        self.course.drag_ended.connect(self.document.end_gesture)
        self.course.part_marked.connect(self._mark_part)
        self.pace.speed_chosen.connect(lambda speed: self._set_pace(speed=speed, end_speed=0.0))
        self.pace.ramp_chosen.connect(lambda speed: self._set_pace(end_speed=speed))
        self.pace.back_wanted.connect(lambda back: self._set_pace(backwards=back))
        self.pace.hold_asked.connect(self.hold)
        self.pace.blur_wanted.connect(lambda blur: self._set_film("Blur of speed-ups", blur=blur))
        self.pace.sound_chosen.connect(lambda sound: self._set_film("Sound of changed speeds", sound=sound))
        self.projector.drawn.connect(self._show_drawn)
        self.projector.failed.connect(lambda error: self.frame.show_empty(str(error)))
        self.player.moved.connect(self._follow)
        self.player.stopped.connect(self._stopped)

    # The document as this desk sees it
    @property
    def _cut(self) -> Cut | None:
        """The cut at hand; of a take that has none a fresh one, which joins the document with its first change."""
        if self.document.cut is not None or self._take is None:
            return self.document.cut
        shot, take = self.document.shot, self._take
        key = (self.document.file, take, shot.opening, shot.closing, len(shot.cuts))
        if self._fresh is None or self._fresh[0] != key:
            self._fresh = (key, self._fresh_cut(take))
        return self._fresh[1]

    def _fresh_cut(self, take: Take) -> Cut:
        """With the views that the shot was planned with, else looking at the subject."""
        shot, track = self.document.shot, track_of_take(self.document.file, take)
        known = track is not None and len(track.time_s) > 0
        return edits.fresh_cut(
            fresh_id(f"{shot.id}-cut", {c.id for c in shot.cuts}), f"Cut {len(shot.cuts) + 1}", take.id, take.duration_s,
            opening=shot.opening, closing=shot.closing,
            subject=(float(track.yaw_deg[0]), float(track.pitch_deg[0])) if known and track is not None else (0.0, 0.0),
        )  # fmt: skip

    @property
    def _take(self) -> Take | None:
        return self.document.take

    def _step_s(self) -> float:
        take = self._take
        return 1.0 / take.rate_fps if take is not None else 0.04

    @property
    def now_s(self) -> float:
        return self._now_s

    def path_view(self) -> View:
        """The view of the path at the present moment, as the 16:9 frame has it."""
        cut = self._cut
        return path_of(cut.keys, cut.span_s).at(self._now_s) if cut is not None else View()

    def _shown_view(self) -> View:
        """The view as the chosen frame shape shows it."""
        cut = self._cut
        if self._look is None and cut is not None:
            return course_for(cut, self._shape).at(self._now_s)
        return for_shape(self._look or View(), self._shape.size_px)

    # Keyframes
    def _edit_cut(self, words: str, cut: Cut, gesture: object = None) -> None:
        self._on = (cut.id, cut.take_id)  # a fresh cut that joins the document is the one that was at hand
        self.document.edit_shot(words, lambda s: with_cut(s, cut), gesture)

    def set_view(self, view: View, words: str, gesture: object = None) -> None:
        """Sets or updates the keyframe at the present moment: no view is ever lost."""
        cut = self._cut
        if cut is None:
            return
        cut = edits.with_view(cut, self._now_s, view, self._step_s())
        self._look = None
        self._chosen = edits.key_at(cut, self._now_s, self._step_s()) or 0
        self._edit_cut(words, cut, gesture)

    def set_key(self) -> None:
        self.set_view(self.path_view(), "Set a keyframe")

    def delete_key(self) -> None:
        cut = self._cut
        if cut is None or not 0 <= self._chosen < len(cut.keys):
            return
        if len(cut.keys) == 1:
            self.said.emit("A path needs one keyframe; this is the last")
            return
        at, self._chosen = self._chosen, -1
        self._edit_cut("Remove a keyframe", edits.without_view(cut, at))

    def copy_key(self) -> None:
        cut = self._cut
        if cut is not None:
            self._copied = cut.keys[self._chosen].view if 0 <= self._chosen < len(cut.keys) else self.path_view()
            self.said.emit("View copied; Ctrl+V sets it at another moment")

    def paste_key(self) -> None:
        if self._copied is not None:
            self.set_view(self._copied, "Set the copied view")

    def step_key(self, way: int) -> None:
        """To the keyframe before (-1) or after (1) the present moment."""
        cut = self._cut
        if cut is None:
            return
        ahead = [k.time_s for k in cut.keys if (k.time_s - self._now_s) * way > self._step_s() / 2]
        if ahead:
            self.go_to(min(ahead, key=lambda t: abs(t - self._now_s)))

    def _choose_key(self, number: int) -> None:
        cut = self._cut
        if cut is not None:
            self._chosen = number
            self.go_to(cut.keys[number].time_s)

    def _drag_key(self, number: int, time_s: float) -> None:
        cut = self._cut
        if cut is None:
            return
        moved = edits.with_key_moved(cut, number, time_s, self._step_s())
        self._edit_cut("Move a keyframe", moved, ("drag-key", number))
        self.go_to(moved.keys[number].time_s)

    def _set_ends(self, words: str, **ends: float) -> None:
        cut, take = self._cut, self._take
        if cut is None or take is None:
            return
        moved = edits.with_ends(cut, step_s=self._step_s(), duration_s=take.duration_s, **ends)
        self._edit_cut(words, moved, "drag-ends")

    def set_in(self) -> None:
        self._set_ends("Begin the cut here", in_s=self._now_s)
        self.document.end_gesture()

    def set_out(self) -> None:
        self._set_ends("End the cut here", out_s=self._now_s + self._step_s())
        self.document.end_gesture()

    # Speed
    def _mark_part(self, part: tuple[float, float] | None) -> None:
        """Marks a part of the clip on whole frames; its speed is shown and can be changed."""
        step = self._step_s()
        if part is not None:
            part = (round(part[0] / step) * step, round(part[1] / step) * step)
        self._part = part
        self.course.show_part(part)
        self.board.show_part(part)
        self.pace.show_cut(self._cut, self._stretch(), self._part)

    def begin_part(self) -> None:
        end = self._part[1] if self._part is not None else (self._cut.out_s if self._cut is not None else 0.0)
        self._mark_part((self._now_s, end) if end - self._now_s > self._step_s() else None)

    def end_part(self) -> None:
        start = self._part[0] if self._part is not None else (self._cut.in_s if self._cut is not None else 0.0)
        end = self._now_s + self._step_s()
        self._mark_part((start, end) if end - start > self._step_s() else None)

    def _stretch(self) -> Stretch | None:
        """The change of speed at the middle of the marked part, or at the present moment."""
        at = sum(self._part) / 2 if self._part is not None else self._now_s
        return edits.stretch_at(self._cut, at) if self._cut is not None else None

    def _set_pace(self, **changes: object) -> None:
        """Lays a speed over the marked part; without one over the change of speed at hand, else over the whole cut."""
        if self._cut is None:
            return
        cut, laid = edits.with_pace(self._cut, self._part, self._now_s, **changes)
        self._edit_cut(f"Speed {laid.words}", cut)
        self.said.emit(f"{laid.words}: the film lasts {cut.timeline.duration_s:.1f} s")

    def hold(self) -> None:
        """Freezes the picture at the present moment, or takes the freeze there away."""
        if self._cut is not None:
            cut = edits.held(self._cut, self._now_s, self._step_s())
            words = "Hold the picture" if len(cut.speeds) > len(self._cut.speeds) else "Take the freeze away"
            self._edit_cut(words, cut)

    def _set_film(self, words: str, **changes: object) -> None:
        if self._cut is not None:
            self._edit_cut(words, msgspec.structs.replace(self._cut, **changes))

    def new_cut(self) -> None:
        """A new cut of the take at hand."""
        take = self._take
        if take is None:
            self.said.emit("Record a take first; then there is something to cut")
            return
        cut = self._fresh_cut(take)
        self._edit_cut("New cut", cut)
        self.document.choose_cut(cut.id)

    def mark(self) -> None:
        take = self._take
        if take is not None:
            marked = msgspec.structs.replace(take, marks_s=tuple(sorted({*take.marks_s, round(self._now_s, 2)})))
            self.document.edit_shot("Mark a moment", lambda s: with_take(s, marked))
            self.said.emit(f"Marked {self._now_s:.2f} s")

    # Hands on the frame
    def _turned(self, shown: View, only_look: bool) -> None:
        self.frame.show_hint("")
        self.player.stop()
        self._ask(shown)  # first of all: the picture is drawn while the document is changed
        view = as_set(shown, self._shape.size_px)
        if only_look or self._cut is None:
            self._look = view
            self.sphere.show_marks(self._marks(view, shown))
        else:
            self.set_view(view, "Turn the view", ("view", round(self._now_s, 3)))
        self._show_angles(view, shown)

    def _turn_ended(self) -> None:
        self.document.end_gesture()
        if self._look is not None:
            self._look = None
            self._draw()

    def _point_at(self, yaw_deg: float, pitch_deg: float) -> None:
        view = within_limits(self.path_view(), yaw_deg=yaw_deg, pitch_deg=pitch_deg)
        self.set_view(view, "Turn the view", ("point", round(self._now_s, 3)))

    def _choose_look(self, look: Look) -> None:
        self.set_view(look.on(self.path_view()), f"Look {look.name}")

    def _choose_cut(self, at: int) -> None:
        chosen = str(self.cuts.itemData(at))
        if chosen.startswith(_TAKE):
            self.document.choose_take(chosen.removeprefix(_TAKE))
        elif chosen:
            self.document.choose_cut(chosen)
        else:
            self.new_cut()

    def _choose_shape(self, shape: Format) -> None:
        self._shape = shape
        self.frame.show_shape(shape.size_px)
        self.board.arrange(shape)
        self.refresh()

    # Time
    def go_to(self, time_s: float) -> None:
        take = self._take
        if take is None:
            return
        self.player.stop()
        self._now_s = min(max(time_s, 0.0), max(take.duration_s - self._step_s(), 0.0))
        self._look = None
        cut = self._cut
        near = edits.key_at(cut, self._now_s, self._step_s()) if cut is not None else None
        if near is not None:
            self._chosen = near
        self.course.show_time(self._now_s)
        self.pace.show_cut(cut, self._stretch(), self._part)
        self._show_figures()
        self._draw()

    def step(self, frames: int) -> None:
        self.go_to(self._now_s + frames * self._step_s())

    def toggle_play(self) -> None:
        cut, footage = self._cut, self.projector.footage
        if self.player.playing:
            self.player.stop()
        elif cut is not None and footage is not None:
            start = self._now_s if cut.in_s <= self._now_s < cut.out_s - 2 * self._step_s() else cut.in_s
            self.player.play(
                footage.sound if footage.has_sound else None, cut.timeline, start, muted=cut.sound != "pitch"
            )
            self._draw_ahead(cut)
            self.board.play.setText("Stop")
            if self.player.sound_words:
                self.said.emit(f"Playing, {self.player.sound_words}")

    def _draw_ahead(self, cut: Cut) -> None:
        """Has the film's frames drawn from the present moment on, before they are due."""
        step, size, course, timeline = self._step_s(), self._preview_px, course_for(cut, self._shape), cut.timeline
        self._played, self._film_s = cut, timeline.film_time(self._now_s)
        start_s, glance = self._film_s, max(round(_GLANCE_MS / 1000 / step), 1)

        def frame(number: int) -> Request | None:
            film_s = start_s + number * step
            if film_s >= timeline.duration_s - step / 2:
                return None
            clip_s = float(timeline.clip_time(film_s))
            return Request(clip_s, course.at(clip_s), size, _blur_until(cut, clip_s, step), number % glance == 0, True)

        self.projector.play_film(frame)

    def _follow(self, film_s: float, clip_s: float) -> None:
        """Shows the film at a moment while it plays."""
        self._now_s = clip_s
        drawn = self.projector.show_film_frame(int((film_s - self._film_s) / self._step_s() + 0.02))
        if drawn is None:
            return
        self.frame.show_view(drawn.view)
        self.course.show_time(clip_s)
        if drawn.sphere is not None:
            self._show_figures()

    def _stopped(self) -> None:
        self.projector.end_film()
        self.board.play.setText("Play")
        if self._take is not None:
            self._now_s = min(self._now_s, max(self._take.duration_s - self._step_s(), 0.0))
            self.course.show_time(self._now_s)
        self._draw()

    # Drawing
    def refresh(self) -> None:
        cut, take = self._cut, self._take
        on = (cut.id if cut is not None else "", take.id if take is not None else "")
        if on != self._on:  # what was marked or chosen on another cut says nothing of this one
            self._on, self._part, self._chosen, self._look = on, None, -1, None
        self._list_cuts()
        self.shapes.show_value(self._shape)
        self.board.play.setEnabled(cut is not None)
        if not self._open(take) or take is None:
            return
        self._now_s = min(self._now_s, max(take.duration_s - self._step_s(), 0.0))
        if cut is None:
            self._findings = []
            self.course.show_nothing()
        else:
            self._show_course(cut, take)
        self.pace.show_cut(cut, self._stretch(), self._part)
        self._show_figures()
        self._play_on(cut)
        self._draw()
        self.findings_changed.emit()

    def _play_on(self, cut: Cut | None) -> None:
        """Goes on playing after a change of the path or the frame shape; another timing ends it."""
        if self.player.playing and (cut is None or self._played is None or cut.timeline != self._played.timeline):
            self.player.stop()
        elif self.player.playing and cut is not None:
            self._draw_ahead(cut)

    def _open(self, take: Take | None) -> bool:
        try:
            if take is None:
                raise GlintorError(
                    "Nothing recorded in this shot yet.", advice="Record a take on desk 3, then begin a cut here."
                )
            footage = self.projector.open_footage(clip_files(self.document.file, take), take.coverage)
            self.clip_opened.emit(footage)
        except GlintorError as error:
            self.projector.close_clip()
            self.frame.show_empty(str(error))
            self.sphere.show_sphere(None, SphereMarks())
            self.course.show_nothing()
            self._findings = []
            self.findings_changed.emit()
            return False
        self._track = track_of_take(self.document.file, take)
        return True

    def _list_cuts(self) -> None:
        shot, cut, take = self.document.shot, self._cut, self._take
        bare = [t for t in shot.takes if all(c.take_id != t.id for c in shot.cuts)]
        entries = [(c.id, c.name) for c in shot.cuts] + [(f"{_TAKE}{t.id}", f"{t.name}, not cut yet") for t in bare]
        listed = bool(shot.cuts) or len(bare) > 1
        self.cuts.setVisible(listed)
        if listed and cut is not None:
            entries.append(("", "New cut"))
        if entries != [(self.cuts.itemData(n), self.cuts.itemText(n)) for n in range(self.cuts.count())]:
            offer(self.cuts, entries)
        if take is not None:
            at = self.cuts.findData(cut.id if cut in shot.cuts else f"{_TAKE}{take.id}")
            self.cuts.setCurrentIndex(at)
            self.cuts.setToolTip(self.cuts.itemText(at))

    def _show_course(self, cut: Cut, take: Take) -> None:
        project, shot = self.document.project, self.document.shot
        key = (cut, take, self._shape)
        if key != self._reviewed:
            self._reviewed = key
            self._findings = reframing(project, shot, cut, self._track, self._shape.name, self._shape.size_px)
        plan = layout_of_take(project, take)
        self._axis, self._band, self._sun = (1.0, 0.0, 0.0), None, None
        if plan is not None:
            self._axis, self._band = axis_of(plan), seam_band(project.camera, take, self._track)
            self._sun = plan.sun_yaw_pitch_deg if plan.sun.elevation_deg > 0 and plan.sun.shines else None
        self.course.show_course(
            cut, take.duration_s, track=self._track, subject=subject_of(take),
            sun_yaw=self._sun[0] if self._sun is not None else None, seam_deg=self._band, seam_axis=self._axis,
            pan_share=pan_share_s(take), findings=self._findings, chosen=self._chosen, marks_s=take.marks_s,
        )  # fmt: skip
        self.course.show_time(self._now_s)
        self.course.show_part(self._part)

    def _show_figures(self) -> None:
        view, shown = self._look or self.path_view(), self._shown_view()
        self._show_angles(view, shown)
        self.sphere.show_marks(self._marks(view, shown))

    def _show_angles(self, view: View, shown: View) -> None:
        self.board.show_angles(view, shown)

    def _type_angle(self, name: str, value: float) -> None:
        """A value that was typed; the field of view is that of the shape in sight."""
        if name == "fov_deg":
            wanted = as_set(within_limits(self._shown_view(), fov_deg=value), self._shape.size_px)
        else:
            wanted = within_limits(self.path_view(), **{name: value})
        self.set_view(wanted, "Type the view", ("type", name, round(self._now_s, 3)))

    def nudge(self, name: str, by: float) -> None:
        """Turns, tilts, zooms or bends the view by a step."""
        self._type_angle(name, float(getattr(self._shown_view(), name)) + by)
        self.document.end_gesture()

    def _marks(self, view: View, shown: View) -> SphereMarks:
        over = SphereMarks(outlines=[(shown, self._shape.size_px, "")])
        cut, take = self._cut, self._take
        if cut is None or take is None:
            return over
        over.seam_deg, over.seam_axis, over.sun = self._band, self._axis, self._sun
        values = course_for(cut, self._shape).values(np.linspace(cut.in_s, cut.out_s, 240))
        over.path_yaw, over.path_pitch = values[:, 0], values[:, 1]
        if self._track is not None and len(self._track.time_s):
            now = self._track.at(np.array([self._now_s]))
            over.subject_name = subject_of(take)
            over.subject = (float(now.yaw_deg[0]), float(now.pitch_deg[0]))
        return over

    @property
    def _preview_px(self) -> tuple[int, int]:
        """The frame's shape at about the pixels that it has in the window, in steps: not too many, so that it plays."""
        width, height = self._shape.size_px
        box = self.frame.frame_box
        seen = box.width() * box.height() * self.devicePixelRatioF() ** 2
        pixels = min(max(seen, _LEAST_PX), _MOST_PX)
        across = round((pixels * width / height) ** 0.5 / 32) * 32
        return across, round(across * height / width / 2) * 2

    def _draw(self) -> None:
        shown = self._shown_view()
        self.frame.show_view(shown)
        self._ask(shown)

    def _ask(self, shown: View) -> None:
        """Asks for the picture of the present moment; while playing the film's frames come by themselves."""
        if not self.player.playing:
            until_s = _blur_until(self._cut, self._now_s, self._step_s())
            self.projector.ask(Request(self._now_s, shown, self._preview_px, until_s, sphere=True))

    def still_wanted(self) -> tuple[Footage, View, tuple[int, int], float] | None:
        """Footage, view, size and moment, for a picture of the frame in sight."""
        footage = self.projector.footage
        return None if footage is None else (footage, self._shown_view(), self._shape.size_px, self._now_s)

    def _show_drawn(self, drawn: Drawn) -> None:
        if drawn.size_px != self._preview_px:
            return
        take = self._take
        true = true_width_px(drawn.view, self._shape.size_px, take.width_px if take is not None else 1)
        stand_in = "" if drawn.exact else " · proxy"
        words = (
            f"{self._shape.name} · {drawn.time_s:.2f} s · true width {true} px of {self._shape.size_px[0]}{stand_in}"
        )
        self.frame.show_frame(marks.image(drawn.frame), words)
        if drawn.sphere is not None:
            self.sphere.show_picture(marks.image(drawn.sphere))

    # Findings
    def findings(self) -> Sequence[Finding]:
        return self._findings

    def show_place(self, finding: Finding) -> None:
        if finding.start_s == finding.start_s:
            self.go_to(finding.start_s)

    def apply(self, cure: Cure) -> None:
        cut, take = self._cut, self._take
        finding = next((f for f in self._findings if f.cure == cure), None)
        if cure.field != "cut.spread" or cut is None or take is None or finding is None:
            return
        moved = edits.with_moves_spread(cut, finding.start_s, finding.end_s, float(cure.value), take.duration_s)
        self._edit_cut(cure.label, moved)

    def leave(self) -> None:
        self.player.stop()

    @property
    def settled(self) -> bool:
        return self.projector.idle and not self.course.waiting

    def close_down(self) -> None:
        self.player.stop()
        self.projector.close()


def _blur_until(cut: Cut | None, clip_s: float, step_s: float) -> float | None:
    """The end of the clip's time that the film frame at a moment averages; None where it shows one frame."""
    if cut is None or not cut.blur:
        return None
    ahead = float(cut.timeline.speed(clip_s)[0]) * step_s
    return clip_s + ahead if ahead > 1.5 * step_s else None
