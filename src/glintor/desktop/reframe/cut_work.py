"""What a hand does to a cut on the Reframe desk: keyframes, ends, speed. Each is an edit of the document."""

from collections.abc import Callable

import msgspec

from glintor.desktop.document import Document
from glintor.desktop.reframe.hand import Hand
from glintor.project.model import with_cut, with_take
from glintor.reframing import edits
from glintor.reframing.cut import Cut
from glintor.sphere.view import View, as_set, within_limits


class CutWork:
    """Gestures on the cut at hand; go: to a moment; say: words to the person; marked: when another part is marked."""

    def __init__(
        self,
        document: Document,
        hand: Hand,
        go: Callable[[float], object],
        say: Callable[[str], object],
        marked: Callable[[], object],
    ) -> None:
        self._document, self._hand, self._go, self._say, self._marked = document, hand, go, say, marked

    # Keyframes
    def edit_cut(self, words: str, cut: Cut, gesture: object = None) -> None:
        self._hand.keep(cut)
        self._document.edit_shot(words, lambda s: with_cut(s, cut), gesture)

    def set_view(self, view: View, words: str, gesture: object = None) -> None:
        """Sets or updates the keyframe at the present moment: no view is ever lost."""
        cut = self._hand.cut
        if cut is None:
            return
        cut = edits.with_view(cut, self._hand.now_s, view, self._hand.step_s)
        self._hand.look = None
        self._hand.chosen = edits.key_at(cut, self._hand.now_s, self._hand.step_s) or 0
        self.edit_cut(words, cut, gesture)

    def set_key(self) -> None:
        self.set_view(self._hand.path_view(), "Set a keyframe")

    def delete_key(self) -> None:
        cut = self._hand.cut
        if cut is None or not 0 <= self._hand.chosen < len(cut.keys):
            return
        if len(cut.keys) == 1:
            self._say("A path needs one keyframe; this is the last")
            return
        at, self._hand.chosen = self._hand.chosen, -1
        self.edit_cut("Remove a keyframe", edits.without_view(cut, at))

    def copy_key(self) -> None:
        cut = self._hand.cut
        if cut is not None:
            self._hand.copied = (
                cut.keys[self._hand.chosen].view if 0 <= self._hand.chosen < len(cut.keys) else self._hand.path_view()
            )
            self._say("View copied; Ctrl+V sets it at another moment")

    def paste_key(self) -> None:
        if self._hand.copied is not None:
            self.set_view(self._hand.copied, "Set the copied view")

    def step_key(self, way: int) -> None:
        """To the keyframe before (-1) or after (1) the present moment."""
        cut = self._hand.cut
        if cut is None:
            return
        ahead = [k.time_s for k in cut.keys if (k.time_s - self._hand.now_s) * way > self._hand.step_s / 2]
        if ahead:
            self._go(min(ahead, key=lambda t: abs(t - self._hand.now_s)))

    def choose_key(self, number: int) -> None:
        cut = self._hand.cut
        if cut is not None:
            self._hand.chosen = number
            self._go(cut.keys[number].time_s)

    def drag_key(self, number: int, time_s: float) -> None:
        cut = self._hand.cut
        if cut is None:
            return
        moved = edits.with_key_moved(cut, number, time_s, self._hand.step_s)
        self.edit_cut("Move a keyframe", moved, ("drag-key", number))
        self._go(moved.keys[number].time_s)

    def set_ends(self, words: str, **ends: float) -> None:
        cut, take = self._hand.cut, self._hand.take
        if cut is None or take is None:
            return
        moved = edits.with_ends(cut, step_s=self._hand.step_s, duration_s=take.duration_s, **ends)
        self.edit_cut(words, moved, "drag-ends")

    def set_in(self) -> None:
        self.set_ends("Begin the cut here", in_s=self._hand.now_s)
        self._document.end_gesture()

    def set_out(self) -> None:
        self.set_ends("End the cut here", out_s=self._hand.now_s + self._hand.step_s)
        self._document.end_gesture()

    # Speed
    def mark_part(self, part: tuple[float, float] | None) -> None:
        """Marks a part of the clip on whole frames; its speed is shown and can be changed."""
        step = self._hand.step_s
        if part is not None:
            part = (round(part[0] / step) * step, round(part[1] / step) * step)
        self._hand.part = part
        self._marked()

    def begin_part(self) -> None:
        end = (
            self._hand.part[1]
            if self._hand.part is not None
            else (self._hand.cut.out_s if self._hand.cut is not None else 0.0)
        )
        self.mark_part((self._hand.now_s, end) if end - self._hand.now_s > self._hand.step_s else None)

    def end_part(self) -> None:
        start = (
            self._hand.part[0]
            if self._hand.part is not None
            else (self._hand.cut.in_s if self._hand.cut is not None else 0.0)
        )
        end = self._hand.now_s + self._hand.step_s
        self.mark_part((start, end) if end - start > self._hand.step_s else None)

    def set_pace(self, **changes: object) -> None:
        """Lays a speed over the marked part; without one over the change of speed at hand, else over the whole cut."""
        if self._hand.cut is None:
            return
        cut, laid = edits.with_pace(self._hand.cut, self._hand.part, self._hand.now_s, **changes)
        self.edit_cut(f"Speed {laid.words}", cut)
        self._say(f"{laid.words}: the film lasts {cut.timeline.duration_s:.1f} s")

    def hold(self) -> None:
        """Freezes the picture at the present moment, or takes the freeze there away."""
        if self._hand.cut is not None:
            cut = edits.held(self._hand.cut, self._hand.now_s, self._hand.step_s)
            words = "Hold the picture" if len(cut.speeds) > len(self._hand.cut.speeds) else "Take the freeze away"
            self.edit_cut(words, cut)

    def set_film(self, words: str, **changes: object) -> None:
        if self._hand.cut is not None:
            self.edit_cut(words, msgspec.structs.replace(self._hand.cut, **changes))

    def new_cut(self) -> None:
        """A new cut of the take at hand."""
        take = self._hand.take
        if take is None:
            self._say("Record a take first; then there is something to cut")
            return
        cut = self._hand.fresh_cut(take)
        self.edit_cut("New cut", cut)
        self._document.choose_cut(cut.id)

    def spread(self, words: str, start_s: float, end_s: float, length_s: float) -> None:
        """Gives what moves between two moments another length."""
        cut, take = self._hand.cut, self._hand.take
        if cut is not None and take is not None:
            self.edit_cut(words, edits.with_moves_spread(cut, start_s, end_s, length_s, take.duration_s))

    def mark(self) -> None:
        take = self._hand.take
        if take is not None:
            marked = msgspec.structs.replace(take, marks_s=tuple(sorted({*take.marks_s, round(self._hand.now_s, 2)})))
            self._document.edit_shot("Mark a moment", lambda s: with_take(s, marked))
            self._say(f"Marked {self._hand.now_s:.2f} s")

    def type_angle(self, name: str, value: float) -> None:
        """A value that was typed; the field of view is that of the shape in sight."""
        if name == "fov_deg":
            wanted = as_set(within_limits(self._hand.shown_view(), fov_deg=value), self._hand.shape.size_px)
        else:
            wanted = within_limits(self._hand.path_view(), **{name: value})
        self.set_view(wanted, "Type the view", ("type", name, round(self._hand.now_s, 3)))

    def nudge(self, name: str, by: float) -> None:
        """Turns, tilts, zooms or bends the view by a step."""
        self.type_angle(name, float(getattr(self._hand.shown_view(), name)) + by)
        self._document.end_gesture()
