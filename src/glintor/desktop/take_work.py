"""What is done about a take as a recording: how it is held still, its horizon, its lenses, whose sound it has."""

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray
from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QFileDialog

from glintor.desktop.host import Host
from glintor.errors import GlintorError
from glintor.project.model import with_take
from glintor.project.take import Heard, Horizon, Recorder, Steady, Take
from glintor.types import Report

if TYPE_CHECKING:
    from glintor.media.align import Aligned
    from glintor.media.footage import Footage
    from glintor.pixels.calibrate import Found
    from glintor.sphere.lenses import Lenses
    from glintor.sphere.steady import Mode
    from glintor.sphere.turn import TurnTrack


class TakeWork(QObject):
    """Works on the take at hand of a window's document; long work runs beside it and is put in when it is done."""

    def __init__(self, host: Host) -> None:
        super().__init__(host.parent_widget)
        self._host, self._document, self._jobs = host, host.document, host.jobs
        self._seeking: set[tuple[str, Path]] = set()
        self._points: list[NDArray[np.float64]] | None = None

    # Held still
    def hold(self, mode: "Mode", strength_s: float | None = None) -> None:
        """Holds the take another way; what its keyframes show stays. How its camera turned is found first where nobody knows."""
        take = self._document.take
        if take is None:
            return
        strength = take.steady.strength_s if strength_s is None else strength_s
        self._turn_into(replace(take, steady=Steady(mode=mode, strength_s=strength)), "Hold still")

    def level(self, horizon: Horizon | None, words: str = "Set the horizon") -> None:
        """Says how the take's picture lies."""
        take = self._document.take
        if take is not None:
            self._turn_into(replace(take, horizon=horizon), words)

    def _turn_into(self, wanted: Take, words: str) -> None:
        from glintor.project.held import found_turns, needs_turning

        document, footage = self._document, self._host.reframe.projector.footage
        old = document.take
        if footage is None or old is None or wanted == old:
            self._host.reframe.refresh()
            return
        shot_id = document.shot.id

        def put(turns: "tuple[TurnTrack | None, TurnTrack | None]") -> None:
            from glintor.project.held import held_otherwise

            shot = next((s for s in document.project.shots if s.id == shot_id), None)
            if shot is None or old not in shot.takes:
                self._host.say("The take was changed meanwhile: choose again")
                return
            project = document.project.with_shot(shot_id, lambda s: held_otherwise(s, wanted, *turns))
            document.edit(words, project)
            self._host.say(". ".join(filter(None, [words, self._host.reframe.known.words])))

        if not (needs_turning(wanted) or needs_turning(old)):
            put((found_turns(old, footage), found_turns(wanted, footage)))
            return
        self._jobs.start(
            f"Finding how {old.name} turned",
            lambda report, stop: tuple(found_turns(t, footage, report=report, stop=stop) for t in (old, wanted)),
            put,
            cancelled=self._host.reframe.refresh,
        )

    def find_turning(self, take: Take, footage: "Footage") -> None:
        """Finds how a take that is held still turned, where that is not kept any more."""
        from glintor.media.orientation import orientation_of

        key = ("turning", footage.files[0])
        if key not in self._seeking:
            self._seeking.add(key)
            self._jobs.start(
                f"Finding how {take.name} turned",
                lambda report, stop: orientation_of(footage, report=report, stop=stop),
                lambda _found: self._host.reframe.refresh(),
                cancelled=lambda: self._seeking.discard(key),
            )

    # The horizon
    def begin_horizon(self) -> None:
        """The next two clicks on the unrolled sphere are on the horizon."""
        if self._document.take is not None:
            self._points = []
            self._host.show_desk(4)
            self._host.reframe.picking.begin(self._horizon_point)
            self._host.say("Click two points of the horizon on the sphere unrolled, far apart; Escape leaves it")

    def _horizon_point(self, look: NDArray[np.float64]) -> bool:
        """A direction in the picture that lies on the horizon; whether another is wanted."""
        from glintor.sphere.horizon import horizon_through

        assert self._points is not None, "points are asked for"
        self._points.append(look)
        if len(self._points) < 2:
            return True
        found = horizon_through(*self._points)
        self._points = None
        if found is None:
            self._host.say("These two points lie too near one another, or opposite: choose others")
            return False
        self.level(
            Horizon(pitch_deg=found[0], roll_deg=found[1], by="hand", at_s=round(self._host.reframe.hand.clip_s, 3))
        )
        return False

    def level_by_picture(self) -> None:
        """Finds from the picture which way is up."""
        take, footage = self._document.take, self._host.reframe.projector.footage
        if take is None or footage is None:
            return

        def work(report: Report, stop: object) -> "tuple[Horizon, str]":
            from glintor.media.orientation import orientation_of
            from glintor.project.take import Horizon
            from glintor.sphere.horizon import horizon_of

            found = orientation_of(footage, report=report, stop=stop)  # type: ignore[arg-type]
            assert found.up is not None, "a picture always has its best guess"
            pitch, roll = horizon_of(found.turns[0].inv().apply(found.up))
            return Horizon(pitch_deg=pitch, roll_deg=roll, by="picture"), found.made_by

        def done(found: "tuple[Horizon, str]") -> None:
            self.level(found[0], "Level by the picture")
            self._host.say(f"Levelled from {found[1]}")

        self._jobs.start(f"Looking for up in {take.name}", work, done)

    # Lenses
    def set_take(self, words: str, **changes: object) -> None:
        take = self._document.take
        if take is not None:
            self._document.edit_shot(words, lambda s: with_take(s, replace(take, **changes)))

    def choose_lenses(self, lenses: "Lenses") -> None:
        self.set_take("Choose a lens profile", lenses=lenses)

    def name_lenses(self, old: str, name: str) -> None:
        from glintor.project.lens_profiles import renamed

        try:
            self._document.edit("Name the lens profile", renamed(self._document.project, old, name))
        except GlintorError as error:
            self._host.tell(error)

    def seek_lenses(self, footage: "Footage") -> None:
        """Of fisheyes that came in with a first guess: finds their profile once, in the background."""
        from glintor.sphere.lenses import Lenses

        take, key = self._document.take, (f"lenses {footage.shows!r}", footage.files[0])
        guessed = isinstance(footage.shows, Lenses) and footage.shows.residual_px is None
        if (
            take is None
            or not footage.files[0].is_file()
            or not isinstance(footage.shows, Lenses)
            or key in self._seeking
        ):
            return
        self._seeking.add(key)
        if guessed:
            self.find_lenses(fresh=False, quiet=True)
        elif not footage.shows.alone and footage.shows.found_from != footage.files[0].name:
            self._check_lenses(take, footage, footage.shows)

    def _check_lenses(self, take: Take, footage: "Footage", lenses: "Lenses") -> None:
        """Says where a profile is not this recording's: another camera's, or one with or without a guard."""
        from glintor.media.lens_profile import WRONG_PX, misfit_px

        def done(off: float | None) -> None:
            if off is not None and off > WRONG_PX:
                self._host.tell(
                    GlintorError(
                        f"The lens profile {lenses.name} does not fit {take.name}: at the seam things lie {off:.0f} px apart.",
                        unharmed="Nothing was changed.",
                        advice="Was a guard on, or off? Choose its profile, or find it from this recording (F10).",
                    )
                )

        self._jobs.start(f"Checking the lenses of {take.name}", lambda _report, _stop: misfit_px(footage, lenses), done)

    def find_lenses(self, *, fresh: bool = True, quiet: bool = False) -> None:
        """A profile for the take: one of the kit's where it fits, else found from its own pictures; it stays in the kit."""
        take, footage = self._document.take, self._host.reframe.projector.footage
        if take is None or footage is None:
            return
        shot_id, known = self._document.shot.id, () if fresh else self._document.project.kit.lenses

        def work(report: Report, _stop: object) -> "tuple[Lenses, Found | None] | None":
            from glintor.project.lens_profiles import found_or_fitting

            try:
                return found_or_fitting(take, footage, known, report=report)
            except GlintorError:
                if quiet:
                    return None
                raise

        def done(found: "tuple[Lenses, Found | None] | None") -> None:
            from glintor.project.lens_profiles import with_profile

            if found is None:
                self._host.say(
                    f"The lenses of {take.name} are drawn by a first guess: their profile could not be found"
                )
                return
            lenses, new = found
            project = self._document.project
            shot = next((s for s in project.shots if s.id == shot_id), None)
            if shot is None or take not in shot.takes:
                return
            project = project.with_shot(shot_id, lambda s: with_take(s, replace(take, lenses=lenses)))
            measured = new is not None and new.measured
            self._document.edit("Lens profile", with_profile(project, lenses) if measured else project)
            if new is None:
                words = f"Lens profile of the kit fits: {lenses.name}"
            else:
                kept = (
                    "kept in the kit"
                    if measured
                    else "for this recording alone: its camera stood too still to measure lenses by"
                )
                words = f"Lens profile found: what both lenses see lies {new.residual_px:.2f} px apart; {kept}"
            self._host.say(words)

        self._jobs.start(f"Finding the lenses of {take.name}", work, done)

    def ask_read_lenses(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self._host.parent_widget, "Which lens profile?", str(Path.home()), "Lens profiles (*.json)"
        )
        if name:
            self.read_lenses(Path(name))

    def read_lenses(self, file: Path) -> None:
        from glintor.media.lens_profile import read_lenses

        try:
            self.choose_lenses(read_lenses(file))
        except GlintorError as error:
            self._host.tell(error)

    def ask_write_lenses(self) -> None:
        take = self._document.take
        if take is None or take.lenses is None:
            return
        name, _ = QFileDialog.getSaveFileName(
            self._host.parent_widget,
            "Save the lens profile",
            str(self._document.file.parent / "lenses.json"),
            "Lens profiles (*.json)",
        )
        if name:
            self.write_lenses(Path(name))

    def write_lenses(self, file: Path) -> None:
        from glintor.media.lens_profile import write_lenses

        take = self._document.take
        if take is not None and take.lenses is not None:
            try:
                write_lenses(file, take.lenses)
            except GlintorError as error:
                self._host.tell(error)

    # Sound
    def line_up(self, other: "Recorder | Take", *, near_s: float | None = None) -> None:
        """Finds by their sound how another recording's clock lies on the take's. Where that cannot be told, it is said."""
        take, footage = self._document.take, self._host.reframe.projector.footage
        if take is None or footage is None:
            return
        file = self._document.file

        def work(report: Report, _stop: object) -> "Aligned | None":
            from glintor.media.align import align, heard_of_footage
            from glintor.project.clocks import heard_of_other

            one = heard_of_footage(footage, report=lambda share: report(0.5 * share))
            two = heard_of_other(file, other, report=lambda share: report(0.5 + 0.4 * share))
            return align(one, two, near_s=near_s)

        def done(found: "Aligned | None") -> None:
            if found is None or not found.sure:
                self._host.tell(
                    GlintorError(
                        f"It cannot be told from their sound how {other.name} lies to {take.name}. {found.why_unsure if found else ''}".rstrip(),
                        unharmed="Nothing was changed.",
                        advice="Type about when it begins and find again, or move it by hand; next time clap where both hear it.",
                    )
                )
                return
            self.place_sound(
                Heard(
                    of=other.id,
                    offset_s=round(found.offset_s, 6),
                    drift_ppm=round(found.drift_ppm, 2),
                    confidence=round(found.confidence, 3),
                    instead=isinstance(other, Recorder),
                )
            )
            self._host.say(f"{other.name} {found.words} (sure by {found.confidence:.0%})")

        self._jobs.start(f"Laying {other.name} beside {take.name}", work, done)

    def place_sound(self, heard: Heard, words: str = "Line up sound") -> None:
        """Puts another recording's clock where it lies against the take's."""
        take = self._document.take
        if take is not None:
            others = tuple(h for h in take.heard if h.of != heard.of)
            if heard.instead:
                others = tuple(replace(h, instead=False) for h in others)
            self.set_take(words, heard=(*others, heard))
