"""What a hand does about ready moves."""

from typing import TYPE_CHECKING

from msgspec.structs import replace

from glintor.desktop.reframe.cut_work import CutWork
from glintor.desktop.reframe.edit_context import EditContext
from glintor.desktop.reframe.plotting import Plotting
from glintor.project.model import fresh_id
from glintor.reframing.cut import Move, MoveKind
from glintor.reframing.moves import KINDS, dissolved, make_move, move_of, with_move, without_move
from glintor.reframing.moves_weighed import seam_cost, wanted_s
from glintor.review import pan_share_s

if TYPE_CHECKING:
    from glintor.desktop.reframe.board import Board


_LEAST_S = 0.4


class MoveWork:
    """Gestures on moves; go: to a moment; say: words to the person."""

    def __init__(self, context: EditContext, work: CutWork, plotting: Plotting) -> None:
        self._document, self._hand, self._known = context.document, context.hand, context.known
        self._go, self._say, self._work, self._plotting = context.go, context.say, work, plotting

    def listen(self, board: "Board") -> None:
        """Does what the bar of moves and their bands on the course ask for."""
        bar = board.move_bar
        bar.wanted.connect(self.make)
        bar.changed.connect(self.change)
        bar.lasting.connect(self.last)
        bar.dissolve_asked.connect(self.dissolve)
        bar.remove_asked.connect(self.remove)
        board.course.move_dragged.connect(self.drag)

    @property
    def move(self) -> Move | None:
        """The move at the present moment."""
        cut, now = self._hand.cut, self._hand.now_s
        step = self._hand.step_s
        if cut is None:
            return None
        return next((m for m in reversed(cut.moves) if m.start_s - step / 2 <= now <= m.end_s + step / 2), None)

    @property
    def wants_s(self) -> float | None:
        """How long it wants to be."""
        cut, move, take = self._hand.cut, self.move, self._hand.take
        if cut is None or move is None or take is None:
            return None
        return wanted_s(cut, move.id, pan_share_s(take), self._hand.targets)

    def make(self, kind: MoveKind) -> None:
        """A move over the marked part, else from here on for as long as it usually lasts; one that is at hand becomes another kind."""
        cut, hand = self._hand.cut, self._hand
        if cut is None or hand.take is None:
            return
        old, step = self.move, hand.step_s
        if old is not None:
            self._lay(replace(old, kind=kind, amount=KINDS[kind].usual), ("kind", old.id, kind))
            self._document.end_gesture()
            return
        if hand.part is not None:
            part = hand.part
        else:
            start = min(max(hand.now_s, cut.begins_s), max(cut.ends_s - _LEAST_S, cut.begins_s))
            part = (start, min(start + KINDS[kind].usual_s, cut.ends_s))
        part = (round(part[0] / step) * step, min(round(part[1] / step) * step, hand.length_s))
        if part[1] - part[0] < _LEAST_S:
            self._say("There is too little time for a move here: mark a longer part, or move the cut's end")
            return
        lie, track = self._plotting.lie, self._known.track
        cost = None if lie.band_deg is None else seam_cost(lie.axis, max(lie.band_deg, 3.5))
        subject = None
        if track is not None and track.known.any():
            there = track.at(cut.clock.clip_s([part[1]]))
            subject = (float(there.yaw_deg[0]), float(there.pitch_deg[0]))
        name = fresh_id(kind.replace("_", "-"), {m.id for m in cut.moves})
        new = make_move(cut, kind, part, name=name, subject=subject, cost=cost, targets=hand.targets)
        self._work.edit_cut(KINDS[kind].words, new)
        self._go(part[0])
        if kind == "third" and subject is None and not any(k.on for k in cut.keys):
            self._say(
                "Nobody knows where whoever films is: it looks behind. Turn its middle to them, or track them (J) first"
            )

    def change(self, field: str, value: object) -> None:
        """A handle of the move at hand."""
        move = self.move
        if move is not None:
            self._lay(replace(move, **{field: value}), (field, move.id))
            self._document.end_gesture()

    def last(self, length_s: float) -> None:
        """So long, from its beginning on; not past the clip."""
        move, take = self.move, self._hand.take
        if move is not None and take is not None:
            end = min(move.start_s + max(length_s, _LEAST_S), self._hand.length_s)
            self._lay(replace(move, end_s=round(end, 4)), ("lasts", move.id))
            self._document.end_gesture()

    def drag(self, name: str, start_s: float, end_s: float) -> None:
        """From and to other moments, while it is dragged on the course."""
        cut, take, step = self._hand.cut, self._hand.take, self._hand.step_s
        move = move_of(cut, name) if cut is not None else None
        if move is None or take is None:
            return
        start, end = (round(min(max(t, 0.0), self._hand.length_s) / step) * step for t in (start_s, end_s))
        if end - start >= _LEAST_S:
            self._lay(replace(move, start_s=round(start, 4), end_s=round(end, 4)), ("drag", name))

    def _lay(self, move: Move, gesture: object) -> None:
        cut = self._hand.cut
        if cut is not None:
            self._work.edit_cut(KINDS[move.kind].words, with_move(cut, move), ("move", gesture))

    def dissolve(self) -> None:
        cut, move = self._hand.cut, self.move
        if cut is not None and move is not None:
            self._work.edit_cut("Dissolve a move", dissolved(cut, move.id))

    def remove(self) -> None:
        cut, move = self._hand.cut, self.move
        if cut is not None and move is not None:
            self._work.edit_cut("Remove a move", without_move(cut, move.id))
