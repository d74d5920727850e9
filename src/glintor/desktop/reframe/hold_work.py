"""What a hand does about what the view is held on."""

from collections.abc import Callable, Sequence
from itertools import combinations
from typing import TYPE_CHECKING

from msgspec.structs import replace

from glintor.desktop.reframe.cut_work import CutWork
from glintor.desktop.reframe.edit_context import EditContext
from glintor.errors import InputError
from glintor.project.model import fresh_id, with_take
from glintor.reframing.anchor import Anchor, On, Spot
from glintor.reframing.arranging import key_before
from glintor.reframing.holding import anchor_of, held_over, let_go_at, with_anchor
from glintor.review import subject_of
from glintor.sphere.angle import wrap_deg
from glintor.sphere.equirect import lonlat_deg

if TYPE_CHECKING:
    from glintor.desktop.reframe.board import Board


Wanted = tuple[On, tuple[str, ...]]


class HoldWork:
    """Gestures on anchors; say: words to the person; find: seeks how the camera turned and travels."""

    def __init__(self, context: EditContext, work: CutWork, find: Callable[[], object]) -> None:
        self._document, self._hand, self._known, self._say = context.document, context.hand, context.known, context.say
        self._work, self._find = work, find

    def listen(self, board: "Board") -> None:
        """Does what the bar of holds asks for."""
        board.hold_bar.wanted.connect(self.hold)
        board.hold_bar.changed.connect(self.change)

    def offers(self) -> list[tuple[Wanted | None, str]]:
        """What the view can be held on, with its words."""
        take = self._hand.take
        if take is None:
            return [(None, "nothing")]
        named = {name: name or subject_of(take) for name in self._known.tracks}
        out: list[tuple[Wanted | None, str]] = [(None, "nothing")]
        out += [(("subject", (name,)), words) for name, words in named.items()]
        out += [(("pair", pair), " and ".join(named[n] for n in pair)) for pair in combinations(named, 2)]
        out += [
            (("travel", ("",)), "the way of travel"),
            (("compass", ("",)), "a bearing"),
            (("point", ("",)), "this point"),
        ]
        anchor = self.anchor
        if anchor is not None and (anchor.on, anchor.subjects) not in [value for value, _ in out]:
            out.append(((anchor.on, anchor.subjects), f"{anchor.subjects[0] or 'the subject'}, not tracked"))
        return out

    @property
    def index(self) -> int:
        """The keyframe at hand."""
        cut = self._hand.cut
        return key_before(cut, self._hand.now_s, self._hand.step_s) if cut is not None else 0

    @property
    def anchor(self) -> Anchor | None:
        """What the view is held on here, or goes over to."""
        cut = self._hand.cut
        if cut is None:
            return None
        here, after = cut.keys[self.index], cut.keys[min(self.index + 1, len(cut.keys) - 1)]
        return anchor_of(cut, here.on or after.on)

    def hold(self, wanted: Wanted | None) -> None:
        """Holds the view on something from the present moment on, or over the marked part; a subject comes to its place in the frame."""
        cut, hand = self._hand.cut, self._hand
        if cut is None or hand.take is None:
            return
        if wanted is None:
            self._work.edit_cut("Hold on nothing", let_go_at(cut, hand.now_s, hand.targets, hand.step_s))
            return
        on, subjects = wanted
        anchor = Anchor(id=fresh_id(on, {a.id for a in cut.anchors}), on=on, subjects=subjects)
        view = hand.path_view()
        if on == "compass":
            anchor = replace(anchor, bearing_deg=self._bearing_deg(view.yaw_deg) or 0.0)
        elif on == "point":
            anchor = replace(anchor, spots=(self.spot(),))
        try:
            targets = self._known.with_anchor(cut, anchor)
        except InputError as error:
            if on == "travel" and not self._known.turning_known:
                self._find()
                self._say("How the camera turned and travels is being found; hold on again when that is done")
            else:
                self._say(str(error))
            return
        start, end = hand.part or (max(hand.now_s, cut.begins_s), None)
        new = held_over(cut, start, end, anchor, targets, hand.step_s, centred=on in ("subject", "pair"))
        self._work.edit_cut(f"Hold on {dict(self.offers()).get(wanted, 'it')}", new)

    def turn(self) -> None:
        """Holds the view on the subject from here on, or lets it go."""
        if self.anchor is not None:
            self.hold(None)
            return
        first = next((value for value, _ in self.offers() if value is not None and value[0] == "subject"), None)
        if first is None:
            self._say("Nothing was tracked in this take yet: turn to it and press J")
        else:
            self.hold(first)

    def change(self, field: str, value: object) -> None:
        """How the view is held: a field of the anchor at hand."""
        cut, anchor = self._hand.cut, self.anchor
        if cut is not None and anchor is not None:
            changed = replace(anchor, **{field: value})
            self._work.edit_cut("How the view is held", with_anchor(cut, changed), ("hold", anchor.id, field))
            self._document.end_gesture()

    def _bearing_deg(self, yaw_deg: float) -> float | None:
        """The compass bearing of what is looked at; None where nobody knows."""
        around, moment = self._known.around, self._hand.clip_s
        if around is None:
            return None
        try:
            return round(float((around.bearing_at(yaw_deg, moment)) % 360.0), 1)
        except InputError:
            return None

    def spot(self) -> Spot:
        """What is in the middle of the frame, as it lies in the picture."""
        hand, turns = self._hand, self._known.turns
        look = (hand.look or hand.path_view()).matrix[:, 0]
        if turns is not None:
            look = turns.at(hand.clip_s).T @ look
        yaw, pitch = lonlat_deg(look)
        return Spot(
            time_s=round(hand.clip_s, 3), yaw_deg=round(float(wrap_deg(yaw)), 3), pitch_deg=round(float(pitch), 3)
        )

    def point_again(self) -> None:
        """Points at the point once more, from here: then it is known how far it is."""
        cut, anchor = self._hand.cut, self.anchor
        if cut is None or anchor is None or anchor.on != "point":
            self._say("The view is not held on a point here")
            return
        step = self._hand.step_s
        spots = tuple(s for s in anchor.spots if abs(s.time_s - self._hand.clip_s) > step)
        changed = replace(anchor, spots=tuple(sorted((*spots, self.spot()), key=lambda s: s.time_s)))
        try:
            self._known.with_anchor(cut, changed)
        except InputError as error:
            self._say(str(error))
            return
        self._work.edit_cut("Point at it again", with_anchor(cut, changed))

    def north_here(self) -> None:
        """North is what the frame looks at."""
        take = self._hand.take
        if take is not None:
            north = self.spot()
            self._document.edit_shot("North is here", lambda s: with_take(s, replace(take, north=north)))
            self._say("North is where the frame looks; bearings can be told from it (B)")

    def missing(self) -> Sequence[str]:
        return self._known.missing
