"""What a hand does to a cut on the Reframe desk: keyframes, ends, speed. Each is an edit of the document."""

from collections.abc import Callable
from typing import TYPE_CHECKING

import msgspec

from glintor.desktop.reframe.edit_context import EditContext
from glintor.project.model import with_cut, with_take
from glintor.reframing import edits, freezing
from glintor.reframing.cut import Cut
from glintor.reframing.looks import LOOKS, Look, nearest_look
from glintor.reframing.moves import settled
from glintor.reframing.own import own_of, with_own_view, without_own
from glintor.sphere.view import View, for_shape, within_limits

if TYPE_CHECKING:
    from glintor.desktop.reframe.board import Board


_STEEP_DEG = 50.0  # a look that is steeper keeps its height


class CutWork:
    """Gestures on the cut at hand; go: to a moment; say: words to the person; marked: when another part is marked."""

    def __init__(self, context: EditContext, marked: Callable[[], object]) -> None:
        self._document, self._hand, self._go, self._say = context.document, context.hand, context.go, context.say
        self._marked = marked

    def listen(self, board: "Board") -> None:
        """Does what the course, the bar of speeds and the row of angles ask for."""
        course, pace = board.course, board.pace
        board.angle_typed.connect(self.type_angle)
        board.alone.clicked.connect(self.edit_alone)
        course.in_dragged.connect(lambda t: self.set_ends("Begin the cut", in_s=t))
        course.out_dragged.connect(lambda t: self.set_ends("End the cut", out_s=t))
        course.part_marked.connect(self.mark_part)
        pace.speed_chosen.connect(lambda speed: self.set_pace(speed=speed, end_speed=0.0))
        pace.ramp_chosen.connect(lambda speed: self.set_pace(end_speed=speed))
        pace.back_wanted.connect(lambda back: self.set_pace(backwards=back))
        pace.hold_asked.connect(self.hold)
        pace.freeze_length_typed.connect(self.set_freeze_length)
        pace.freeze_moves_wanted.connect(self.move_in_freeze)
        pace.blur_wanted.connect(lambda blur: self.set_film("Blur of speed-ups", blur=blur))
        pace.sound_chosen.connect(lambda sound: self.set_film("Sound of changed speeds", sound=sound))

    # Keyframes
    def edit_cut(self, words: str, cut: Cut, gesture: object = None) -> None:
        cut = settled(cut)
        self._hand.keep(cut)
        self._document.edit_shot(words, lambda s: with_cut(s, cut), gesture)

    def set_view(self, view: View, words: str, gesture: object = None) -> None:
        """Sets a view, as 16:9 has it, at the present moment: its keyframe is set or updated, so that no view is ever lost."""
        cut, hand = self._hand.cut, self._hand
        if cut is None:
            return
        if hand.edits_own:
            self.set_shown(for_shape(view, hand.frame_px), words, gesture)
        else:
            self._set(edits.with_view(cut, hand.now_s, view, hand.step_s, hand.targets), words, gesture)

    def set_shown(self, shown: View, words: str, gesture: object = None) -> None:
        """Sets what the frame in sight is to show at the present moment: for all shapes, or as this one's own."""
        cut, hand = self._hand.cut, self._hand
        if cut is None:
            return
        how = (hand.shape.name, hand.frame_px, hand.now_s, shown, hand.step_s, hand.targets)
        if hand.edits_own:
            if abs(shown.bend - hand.shown_view().bend) > 1e-6:
                self._say("The bend is that of all shapes: it is not changed for one alone")
            self._set(with_own_view(cut, *how), f"{words} in {hand.shape.name} alone", gesture)
        else:
            self._set(edits.with_shown(cut, *how), words, gesture)

    def _set(self, cut: Cut, words: str, gesture: object) -> None:
        self._hand.look = None
        there = edits.key_at(cut, self._hand.now_s, self._hand.step_s)
        self._hand.chosen = there if there is not None else -1
        self.edit_cut(words, cut, gesture)

    def edit_alone(self, alone: bool) -> None:
        """Whether edits of the view are the shape's in sight alone."""
        self._hand.alone = alone
        if self._hand.edits_own:
            self._say(f"What is turned now is {self._hand.shape.name}'s own; the other shapes keep the shared path")

    def take_back_own(self) -> None:
        """The shape in sight has the path that all share again."""
        cut, shape = self._hand.cut, self._hand.shape
        if cut is None or not own_of(cut, shape.name):
            self._say(f"{shape.name} has nothing of its own here")
            return
        self.edit_cut(f"{shape.name} as all shapes have it", without_own(cut, shape.name))

    def set_key(self) -> None:
        self.set_view(self._hand.path_view(), "Set a keyframe")

    def step_key(self, way: int) -> None:
        """To the keyframe before (-1) or after (1) the present moment."""
        cut = self._hand.cut
        if cut is None:
            return
        ahead = [k.time_s for k in cut.keys if (k.time_s - self._hand.now_s) * way > self._hand.step_s / 2]
        if ahead:
            self._go(min(ahead, key=lambda t: abs(t - self._hand.now_s)))

    def set_ends(self, words: str, **ends: float) -> None:
        """Moves in_s or out_s to a moment of the path."""
        cut, take = self._hand.cut, self._hand.take
        if cut is None or take is None:
            return
        of_clip = {name: float(cut.clock.clip_s(moment)) for name, moment in ends.items()}
        moved = edits.with_ends(cut, step_s=self._hand.step_s, duration_s=take.duration_s, **of_clip)
        self.edit_cut(words, moved, "drag-ends")

    def set_in(self) -> None:
        self.set_ends("Begin the cut here", in_s=self._hand.now_s)
        self._document.end_gesture()

    def set_out(self) -> None:
        self.set_ends("End the cut here", out_s=self._hand.now_s + self._hand.step_s)
        self._document.end_gesture()

    # Speed
    def mark_part(self, part: tuple[float, float] | None) -> None:
        """Marks a part on whole frames; its speed is shown and can be changed."""
        step = self._hand.step_s
        if part is not None:
            part = (round(part[0] / step) * step, round(part[1] / step) * step)
        self._hand.part = part
        self._marked()

    def begin_part(self) -> None:
        end = (
            self._hand.part[1]
            if self._hand.part is not None
            else (self._hand.cut.ends_s if self._hand.cut is not None else 0.0)
        )
        self.mark_part((self._hand.now_s, end) if end - self._hand.now_s > self._hand.step_s else None)

    def end_part(self) -> None:
        start = (
            self._hand.part[0]
            if self._hand.part is not None
            else (self._hand.cut.begins_s if self._hand.cut is not None else 0.0)
        )
        end = self._hand.now_s + self._hand.step_s
        self.mark_part((start, end) if end - start > self._hand.step_s else None)

    def set_pace(self, **changes: object) -> None:
        """Lays a speed over the marked part; without one over the change of speed at hand, else over the whole cut."""
        hand = self._hand
        if hand.cut is None:
            return
        part = None
        if hand.part is not None:
            start_s, end_s = (float(t) for t in hand.clock.clip_s(hand.part))
            if end_s - start_s < hand.step_s / 2:
                self._say("The picture stands still in the marked part: say how long it is held instead")
                return
            part = (start_s, end_s)
        cut, laid = edits.with_pace(hand.cut, part, hand.clip_s, **changes)
        self.edit_cut(f"Speed {laid.words}", cut)
        self._say(f"{laid.words}: the film lasts {cut.timeline.duration_s:.1f} s")

    def hold(self) -> None:
        """Freezes the picture at the present moment, or takes the freeze there away."""
        hand = self._hand
        if hand.cut is not None:
            there = freezing.freeze_at(hand.cut, hand.now_s, hand.step_s)
            if there is not None:
                hand.now_s = freezing.freeze_span(hand.cut, there)[0]
            words = "Hold the picture" if there is None else "Take the freeze away"
            self.edit_cut(words, freezing.held(hand.cut, hand.now_s, hand.step_s))

    def move_in_freeze(self, moves: bool | None = None) -> None:
        """The view may move over the picture that is held at the present moment, or stands still; None: the other of both. Where nothing
        is held the picture is, first."""
        hand, words = self._hand, "Move the view in the freeze"
        if hand.cut is None:
            return
        cut = hand.cut
        if freezing.freeze_at(cut, hand.now_s, hand.step_s) is None:
            cut = freezing.held(cut, hand.now_s, hand.step_s)
        there = freezing.freeze_at(cut, hand.now_s, hand.step_s)
        if there is None:
            return
        if moves is None:
            moves = not there.view_moves
        if moves:
            cut = freezing.with_moving_view(cut, there, hand.step_s, hand.targets)
        else:
            words, hand.now_s = "Keep the view still in the freeze", freezing.freeze_span(cut, there)[0]
            cut = freezing.with_still_view(cut, there)
        self.edit_cut(words, cut)
        if moves:
            self._say("The path has time of its own here: go into the freeze and turn the view")

    def set_freeze_length(self, length_s: float) -> None:
        """Another length for the freeze at the present moment."""
        hand = self._hand
        there = freezing.freeze_at(hand.cut, hand.now_s, hand.step_s) if hand.cut is not None else None
        if hand.cut is not None and there is not None:
            self.edit_cut("How long the picture is held", freezing.with_freeze_length(hand.cut, there, length_s))

    def set_film(self, words: str, **changes: object) -> None:
        if self._hand.cut is not None:
            self.edit_cut(words, msgspec.structs.replace(self._hand.cut, **changes))

    def keep_look(self, name: str) -> None:
        """Keeps the lens of the view at hand as a look of one's own, in the kit; one of that name is replaced."""
        view, project, name = self._hand.path_view(), self._document.project, name.strip()[:24]
        if not name or name in [look.name for look in LOOKS]:
            self._say("A look of your own needs a name of its own")
            return
        pitch = view.pitch_deg if abs(view.pitch_deg) > _STEEP_DEG else None
        look = Look(name, round(view.fov_deg, 1), round(view.bend, 2), pitch, "one's own")
        looks = (*(k for k in project.kit.looks if k.name != name), look)
        kit = msgspec.structs.replace(project.kit, looks=looks[-24:])
        self._document.edit("Keep a look", msgspec.structs.replace(project, kit=kit))

    def forget_look(self) -> None:
        """Forgets the look of one's own that the view at hand has."""
        project = self._document.project
        look = nearest_look(self._hand.path_view(), project.kit.looks)
        if look is None or look in LOOKS:
            self._say("The view at hand has no look of your own")
            return
        kit = msgspec.structs.replace(project.kit, looks=tuple(k for k in project.kit.looks if k != look))
        self._document.edit("Forget a look", msgspec.structs.replace(project, kit=kit))

    def new_cut(self) -> None:
        """A new cut of the take at hand."""
        take = self._hand.take
        if take is None:
            self._say("Record a take first; then there is something to cut")
            return
        cut = self._hand.fresh_cut(take)
        self.edit_cut("New cut", cut)
        self._document.choose_cut(cut.id)

    def mark(self) -> None:
        take = self._hand.take
        if take is not None:
            marked = msgspec.structs.replace(take, marks_s=tuple(sorted({*take.marks_s, round(self._hand.clip_s, 2)})))
            self._document.edit_shot("Mark a moment", lambda s: with_take(s, marked))
            self._say(f"Marked {self._hand.clip_s:.2f} s")

    def type_angle(self, name: str, value: float) -> None:
        """A value that was typed; the field of view is that of the shape in sight."""
        shown = within_limits(self._hand.shown_view(), **{name: value})
        self.set_shown(shown, "Type the view", ("type", name, round(self._hand.now_s, 3)))

    def nudge(self, name: str, by: float) -> None:
        """Turns, tilts, zooms or bends the view by a step."""
        self.type_angle(name, float(getattr(self._hand.shown_view(), name)) + by)
        self._document.end_gesture()
