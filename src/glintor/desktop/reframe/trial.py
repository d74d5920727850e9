"""Paths that are tried before they are taken: what a cure would do, or a proposal."""

from collections.abc import Callable, Sequence

from msgspec.structs import replace

from glintor.desktop.reframe.cut_work import CutWork
from glintor.desktop.reframe.edit_context import EditContext
from glintor.errors import InputError
from glintor.finding import Finding
from glintor.project.followed import target_of
from glintor.reframing.anchor import Anchor
from glintor.reframing.course import course_of, shared
from glintor.reframing.cures import cured
from glintor.reframing.cut import Cut
from glintor.reframing.following import Following


class Trial:
    """One path is tried at a time: the frame shows it, the course draws it beside the cut's own; chosen again it is taken. shown: what is
    drawn changed."""

    def __init__(self, context: EditContext, work: CutWork, shown: Callable[[], object]) -> None:
        self._hand, self._known, self._go, self._say = context.hand, context.known, context.go, context.say
        self._work, self._shown = work, shown
        self._of: object = None
        self._words = ""
        self._cut: Cut | None = None
        self._on: Cut | None = None

    def choose(self, finding: Finding) -> None:
        """Tries the cure of a finding, or takes it where it is the one that is tried."""
        cut, take = self._hand.cut, self._hand.take
        if cut is None or take is None or finding.cure is None:
            return
        if self._of == finding.cure and self._on == cut:
            self.take()
            return
        new = cured(
            cut,
            finding,
            self._hand.targets,
            step_s=self._hand.step_s,
            duration_s=self._hand.length_s,
            subject=self._subject(),
        )
        if new is None or new == cut:
            self._say("This cure changes nothing here")
            return
        self.show(new, finding.cure.label, finding.cure)
        if finding.start_s == finding.start_s:
            self._go(max(finding.start_s - 0.5, 0.0))

    def _subject(self) -> Following | None:
        """Where the take's own subject is, to be held on to."""
        if self._known.around is None:
            return None
        try:
            return target_of(Anchor(id="subject", on="subject"), self._known.around).on(self._hand.clock)
        except InputError:
            return None

    def show(self, cut: Cut, words: str, of: object) -> None:
        """Shows a path in place of the cut's own."""
        self._of, self._words, self._cut, self._on = of, words, cut, self._hand.cut
        targets = self._targets(cut)
        self._hand.ghost, self._hand.ghost_words = shared(cut, targets), words.lower()
        shape = self._hand.shape
        self._hand.instead = course_of(cut, shape.name, self._hand.frame_px, targets=targets)
        self._shown()
        self._say(f"{words}: shown, not taken yet. Choose it again to take it; Escape leaves it")

    def _targets(self, cut: Cut) -> dict[str, Following]:
        """Where what a tried path is held on is."""
        known = dict(self._hand.targets)
        for anchor in cut.anchors:
            if anchor.id not in known and self._known.around is not None:
                known[anchor.id] = target_of(anchor, self._known.around)
        return known

    @property
    def running(self) -> bool:
        return self._cut is not None

    def take(self) -> None:
        """The path that is tried becomes the cut's own."""
        cut, words = self._cut, self._words
        self._clear()
        if cut is not None:
            self._work.edit_cut(words, cut)

    def drop(self) -> bool:
        """Leaves what is tried; whether anything was."""
        if self._cut is None:
            return False
        self._clear()
        self._shown()
        return True

    def follow(self) -> None:
        """After a change of the document: what was tried on another path is left."""
        if self._cut is not None and self._hand.cut != self._on:
            self._clear()

    def _clear(self) -> None:
        self._of = self._cut = self._on = None
        self._hand.ghost = self._hand.instead = None

    def told(self, findings: Sequence[Finding]) -> list[Finding]:
        """Findings, of which the one that is tried says that it can be taken."""
        return [
            replace(f, cure=replace(f.cure, label=f"Take it: {f.cure.label}"))
            if f.cure is not None and f.cure == self._of
            else f
            for f in findings
        ]
