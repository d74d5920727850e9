"""What a hand does to keyframes on the course: several at once, what lies between them, and comparing paths."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from glintor.desktop.reframe.cut_work import CutWork
from glintor.desktop.reframe.edit_context import EditContext
from glintor.reframing import arranging
from glintor.reframing.cut import Cut

if TYPE_CHECKING:
    from glintor.desktop.reframe.board import Board


_WAY_WORDS = {"level": "level", "great": "along a great circle", "over": "over the top"}


class KeyWork:
    """Gestures on keyframes; go: to a moment; say: words to the person; shown: what is chosen is drawn again."""

    def __init__(self, context: EditContext, work: CutWork, shown: Callable[[], object]) -> None:
        self._document, self._hand, self._go, self._say = context.document, context.hand, context.go, context.say
        self._work, self._shown = work, shown
        self._base: Cut | None = None

    def listen(self, board: "Board") -> None:
        """Does what the course's pennants and the bar of the keyframe ask for."""
        course, bar = board.course, board.key_bar
        course.key_chosen.connect(self.choose)
        course.key_added.connect(self.add)
        course.keys_boxed.connect(self.choose_several)
        course.drag_begun.connect(self.begin_drag)
        course.key_dragged.connect(self.drag_time)
        course.key_turned.connect(self.drag_turn)
        course.key_tilted.connect(self.drag_tilt)
        course.band_widened.connect(self.widen)
        course.stage_dragged.connect(self.drag_stage)
        course.drag_ended.connect(self.end_drag)
        bar.time_typed.connect(self.type_time)
        bar.length_typed.connect(self.type_length)
        bar.ease_chosen.connect(lambda name, how: self.ease(**{name: how}))
        bar.round_chosen.connect(lambda how: self.go_round({"more": 1, "less": -1}.get(how, 0), how == "long"))

    # Which
    def choose(self, number: int) -> None:
        cut = self._hand.cut
        if cut is not None:
            self._hand.chosen, self._hand.several = number, frozenset()
            self._go(cut.keys[number].time_s)

    def add(self, number: int) -> None:
        """One more that is chosen, or one less."""
        hand = self._hand
        chosen = hand.several | ({hand.chosen} if hand.chosen >= 0 and not hand.several else set())
        self.choose_several(chosen ^ {number})

    def choose_several(self, numbers: frozenset[int]) -> None:
        self._hand.several = frozenset(numbers)
        self._shown()
        if numbers:
            self._say(f"{len(numbers)} keyframes chosen" if len(numbers) > 1 else "One keyframe chosen")

    def choose_part(self) -> None:
        """All keyframes of the marked part, without one of the cut."""
        cut, part = self._hand.cut, self._hand.part
        if cut is not None:
            low, high = part or cut.span_s
            self.choose_several(frozenset(n for n, k in enumerate(cut.keys) if low <= k.time_s <= high))

    def _marked(self, number: int | None = None) -> frozenset[int]:
        hand = self._hand
        if number is not None and number not in hand.several:
            return frozenset({number})
        return hand.several or frozenset({self._at_hand()})

    def _at_hand(self) -> int:
        """The keyframe at the present moment, else the one before it."""
        cut = self._hand.cut
        return arranging.key_before(cut, self._hand.now_s, self._hand.step_s) if cut is not None else 0

    # Dragged: each counts from the cut as it was when the drag began
    def begin_drag(self) -> None:
        self._base = self._hand.cut

    def _drag(self, words: str, changed: Callable[[Cut], Cut], gesture: tuple[object, ...]) -> Cut | None:
        if self._base is None:
            return None
        cut = changed(self._base)
        self._work.edit_cut(words, cut, ("drag", *gesture))
        return cut

    def drag_time(self, number: int, when_s: float) -> None:
        base, take = self._base, self._hand.take
        if base is None or take is None or number >= len(base.keys):
            return
        step = self._hand.step_s
        by = round((when_s - base.keys[number].time_s) / step) * step
        marked = self._marked(number)
        cut = self._drag(
            "Move a keyframe" if len(marked) == 1 else f"Move {len(marked)} keyframes",
            lambda c: arranging.moved(c, marked, by, step, self._hand.length_s),
            ("time", number),
        )
        if cut is not None and len(marked) == 1:
            self._go(cut.keys[number].time_s)

    def drag_turn(self, number: int, yaw_deg: float) -> None:
        self._drag("Turn a keyframe", lambda c: arranging.turned(c, self._marked(number), yaw_deg), ("turn", number))

    def drag_tilt(self, number: int, pitch_deg: float) -> None:
        self._drag(
            "Tilt a keyframe", lambda c: arranging.turned(c, self._marked(number), 0.0, pitch_deg), ("tilt", number)
        )

    def widen(self, at_s: float, factor: float) -> None:
        """So many times as wide at a moment: its keyframe, else both beside it."""
        base = self._base
        if base is None:
            return
        n = arranging.key_before(base, at_s, self._hand.step_s)
        stands = abs(base.keys[n].time_s - at_s) < 0.6 * self._hand.step_s
        marked = frozenset({n} if stands else {n, min(n + 1, len(base.keys) - 1)})
        self._drag(
            "Widen the view", lambda c: arranging.turned(c, marked, tighter=1.0 / factor), ("wide", round(at_s, 3))
        )

    def drag_stage(self, index: int, length_s: float) -> None:
        take, step = self._hand.take, self._hand.step_s
        if take is not None:
            length = round(length_s / step) * step
            self._drag(
                "Length of a hold or move",
                lambda c: arranging.with_length(c, index, length, step, self._hand.length_s),
                ("stage", index),
            )

    def end_drag(self) -> None:
        self._base = None
        self._document.end_gesture()

    # By one key, or typed
    def delete(self) -> None:
        cut, hand = self._hand.cut, self._hand
        if cut is None or not (hand.several or 0 <= hand.chosen < len(cut.keys)):
            return
        marked = hand.several or frozenset({hand.chosen})
        if len(marked) >= len(cut.keys) and len(cut.keys) == 1:
            self._say("A path needs one keyframe; this is the last")
            return
        hand.chosen, hand.several = -1, frozenset()
        self._work.edit_cut(
            "Remove a keyframe" if len(marked) == 1 else f"Remove {len(marked)} keyframes",
            arranging.without(cut, marked),
        )

    def copy(self) -> None:
        """Keeps the chosen keyframes, else the view at the present moment, to be set elsewhere: in another cut or take too."""
        cut, hand = self._hand.cut, self._hand
        if cut is None:
            return
        if len(hand.several) > 1:
            hand.copied = tuple(cut.keys[n] for n in sorted(hand.several))
            self._say(f"{len(hand.copied)} keyframes copied; Ctrl+V sets them from another moment on")
        else:
            hand.copied = (
                cut.keys[hand.chosen].view
                if 0 <= hand.chosen < len(cut.keys) and not cut.keys[hand.chosen].on
                else hand.path_view()
            )
            self._say("View copied; Ctrl+V sets it at another moment")

    def paste(self) -> None:
        cut, hand, take = self._hand.cut, self._hand, self._hand.take
        if hand.copied is None or cut is None or take is None:
            return
        if isinstance(hand.copied, tuple):
            new = arranging.pasted(cut, hand.copied, hand.now_s, hand.step_s, self._hand.length_s)
            self._work.edit_cut(f"Set {len(hand.copied)} copied keyframes", new)
        else:
            self._work.set_view(hand.copied, "Set the copied view")

    def shift(self, frames: int) -> None:
        """Moves what is chosen by frames."""
        cut, take, step = self._hand.cut, self._hand.take, self._hand.step_s
        if cut is not None and take is not None:
            marked = self._marked()
            new = arranging.moved(cut, marked, frames * step, step, self._hand.length_s)
            self._work.edit_cut("Move a keyframe", new)
            if len(marked) == 1:
                self._go(new.keys[min(marked)].time_s)

    def type_time(self, when_s: float) -> None:
        cut, take, number = self._hand.cut, self._hand.take, self._at_hand()
        if cut is not None and take is not None:
            step = self._hand.step_s
            by = round(when_s / step) * step - cut.keys[number].time_s
            new = arranging.moved(cut, {number}, by, step, self._hand.length_s)
            self._work.edit_cut("Move a keyframe", new)
            self._go(new.keys[number].time_s)

    def type_length(self, length_s: float) -> None:
        """How long the hold or move lasts that is at hand; of a marked part how long that is to last."""
        cut, take, hand = self._hand.cut, self._hand.take, self._hand
        if cut is None or take is None:
            return
        if hand.part is not None:
            new = arranging.lengthened(cut, hand.part, length_s, hand.step_s, self._hand.length_s)
            self._work.edit_cut("Length of a part", new)
            self._work.mark_part((hand.part[0], hand.part[0] + length_s))
        else:
            new = arranging.with_length(cut, self._at_hand(), length_s, hand.step_s, self._hand.length_s)
            self._work.edit_cut("Length of a hold or move", new)

    def ease(self, **how: object) -> None:
        """Another way of arriving at, leaving or coming to what is chosen: `arrives`, `leaves`, `way`, `draws_back`."""
        cut = self._hand.cut
        if cut is not None:
            self._work.edit_cut("How a keyframe is come to", arranging.eased(cut, self._marked(), **how))

    def go_round(self, turns: int, longer: bool) -> None:
        cut, number = self._hand.cut, self._at_hand()
        if cut is None or number == 0:
            self._say("Nothing comes before the first keyframe")
            return
        self._work.edit_cut("Which way round", arranging.way_round(cut, number, turns, longer=longer))

    # Compared
    def compare_next(self) -> None:
        """With the cut as it was when the day was opened, with each other cut of the take, and with nothing again."""
        cut, hand = self._hand.cut, self._hand
        if cut is None:
            return
        others = [
            ("how it was", hand.first_of(cut)),
            *((c.name, c) for c in self._document.shot.cuts if c.take_id == cut.take_id and c.id != cut.id),
        ]
        names = [name for name, _ in others]
        at = names.index(hand.compared[0]) + 1 if hand.compared is not None and hand.compared[0] in names else 0
        hand.compared = others[at] if at < len(others) else None
        self._shown()
        self._say(f"Compared with {hand.compared[0]}" if hand.compared is not None else "Compared with nothing")
