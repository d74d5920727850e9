"""What a hand does about several views in one picture, and about going over to another camera."""

from typing import TYPE_CHECKING

from msgspec.structs import replace

from glintor.desktop.reframe.cut_work import CutWork
from glintor.desktop.reframe.edit_context import EditContext
from glintor.project.clocks import same_moment
from glintor.project.model import Shot, fresh_id, with_cut
from glintor.reframing.beside import Beside, BesideKind
from glintor.reframing.cut import Cut
from glintor.reframing.path import Keyframe
from glintor.sphere.view import within_limits

if TYPE_CHECKING:
    from glintor.desktop.reframe.board import Board


class BesideWork:
    """Gestures on the cut at hand; go: to a moment; say: words to the person."""

    def __init__(self, context: EditContext, work: CutWork) -> None:
        self._document, self._hand, self._go, self._say = context.document, context.hand, context.go, context.say
        self._work = work

    def listen(self, board: "Board") -> None:
        """Does what the bar of several views asks for."""
        bar = board.beside_bar
        bar.kind_chosen.connect(self.choose)
        bar.view_chosen.connect(self.view)
        bar.changed.connect(self.change)

    def others(self) -> list[tuple[str, str]]:
        """Other cuts of the take, by id and name."""
        cut = self._hand.cut
        if cut is None:
            return []
        return [(c.id, c.name) for c in self._document.shot.cuts if c.take_id == cut.take_id and c.id != cut.id]

    def choose(self, kind: str) -> None:
        """One view, or several: other cuts of the take where there are, else new ones that look the other way."""
        cut = self._hand.cut
        if cut is None:
            return
        if not kind:
            self._work.edit_cut("One view", replace(cut, beside=None))
            return
        names = [name for name, _ in self.others()]
        wanted = 2 if kind == "bands" else 1
        made = [self._turned(cut, n) for n in range(len(names), wanted)]
        ids = (*names, *(c.id for c in made))[:wanted]
        old = cut.beside
        beside = Beside(kind=_kind(kind), cuts=ids) if old is None else replace(old, kind=_kind(kind), cuts=ids)
        self._put(f"The picture shows {kind}", [*made, replace(cut, beside=beside)])

    def view(self, number: int, name: str) -> None:
        """Another cut as one of the views; "" a new one."""
        cut = self._hand.cut
        if cut is None or cut.beside is None or number >= len(cut.beside.cuts):
            return
        made = [] if name else [self._turned(cut, number)]
        ids = list(cut.beside.cuts)
        ids[number] = name or made[0].id
        self._put("Another view", [*made, replace(cut, beside=replace(cut.beside, cuts=tuple(ids)))])

    def change(self, field: str, value: object) -> None:
        cut = self._hand.cut
        if cut is not None and cut.beside is not None:
            self._work.edit_cut("The inset", replace(cut, beside=replace(cut.beside, **{field: value})))

    def _turned(self, cut: Cut, number: int) -> Cut:
        """A new cut of the same take and time that looks the other way, or to a side."""
        view = self._hand.path_view()
        away = within_limits(view, yaw_deg=view.yaw_deg + (180.0, 90.0)[number % 2], roll_deg=0.0)
        shot = self._document.shot
        name = fresh_id(f"{shot.id}-cut", {c.id for c in shot.cuts} | {f"{shot.id}-cut-{n}" for n in range(number)})
        keys = (Keyframe.of(cut.in_s, away),)
        return Cut(
            id=name,
            name=f"{cut.name}, view {number + 2}",
            take_id=cut.take_id,
            in_s=cut.in_s,
            out_s=cut.out_s,
            keys=keys,
        )

    def _put(self, words: str, cuts: list[Cut]) -> None:
        """Several cuts changed at once; the last is the one at hand."""

        def change(shot: Shot) -> Shot:
            for cut in cuts:
                shot = with_cut(shot, cut)
            return shot

        self._hand.keep(cuts[-1])
        self._document.edit_shot(words, change)
        self._document.choose_cut(cuts[-1].id)

    def other_camera(self) -> None:
        """Ends the cut here and goes on at the same moment with the next take on the same clock; the view keeps its bearing."""
        cut, take, now, step = self._hand.cut, self._hand.take, self._hand.clip_s, self._hand.step_s
        if cut is None or take is None or not cut.in_s + step < now < cut.out_s - step:
            self._say("Go to the moment inside the cut at which the other camera takes over")
            return
        found = [(t, same_moment(take, t, now)) for t in self._document.shot.takes if t.id != take.id]
        other = next(((t, at) for t, at in found if at is not None and 0.0 <= at < t.duration_s - 2 * step), None)
        if other is None:
            self._say(
                "No other take of this shot is lined up with this one and runs at this moment (F10 lines them up)"
            )
            return
        there, at = other
        end = min(at + cut.out_s - now, there.duration_s)
        shot = self._document.shot
        new = Cut(
            id=fresh_id(f"{shot.id}-cut", {c.id for c in shot.cuts}),
            name=f"{cut.name}, {there.name}"[:80],
            take_id=there.id,
            in_s=round(at, 4),
            out_s=round(end, 4),
            keys=(Keyframe.of(round(at, 4), self._hand.path_view()),),
        )
        self._put("Go over to the other camera", [replace(cut, out_s=round(now, 4)), new])
        self._go(at)
        self._say(f"{there.name} takes over at {at:.2f} s of its own; the two cuts stand side by side in the list")


def _kind(kind: str) -> BesideKind:
    return "inset" if kind == "inset" else "side" if kind == "side" else "bands"
