"""What is done with recordings: taken into the day where they lie, copied, named, left out, made light, saved as stills."""

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from threading import Event
from typing import TYPE_CHECKING

import numpy as np
from msgspec.structs import replace
from PyQt6.QtWidgets import QFileDialog, QInputDialog

from glintor.desktop import incoming
from glintor.desktop.host import Host
from glintor.desktop.proxies import Clip, Proxies
from glintor.desktop.seats import NAMES
from glintor.errors import GlintorError
from glintor.media.taken import Told
from glintor.names import path_of
from glintor.project.model import with_take
from glintor.project.store import SUFFIX, footage_of, need_folder
from glintor.project.take import Take, TakeFile
from glintor.types import Report

if TYPE_CHECKING:
    from glintor.media.footage import Footage
    from glintor.media.reading import Reading
    from glintor.offload.contents import Entry
    from glintor.offload.copy import Copied
    from glintor.project.moved import Search
    from glintor.project.recordings import TakenIn

_HINT = "Drag to turn the view: each turn sets a keyframe at this moment. The wheel zooms, Space plays. Film it on 6 Export."

_PICTURES = "Pictures (*.png *.jpg *.tif)"


class ClipWork:
    """Works on the recordings of a window's document."""

    def __init__(self, host: Host) -> None:
        self._host, self._document, self._jobs = host, host.document, host.jobs
        self.proxies = Proxies(host.jobs)
        self.proxies.made.connect(lambda: host.reframe.refresh())

    # Taking in
    def ask(self) -> None:
        """Asks for recordings and takes them in."""
        places = incoming.ask_recordings(self._host.parent_widget)
        if places:
            self.take_in(places)

    def drop(self, places: Sequence[Path]) -> None:
        """What was dropped on the window: a day is opened, everything else is a recording."""
        day = next((place for place in places if place.suffix == SUFFIX), None)
        if day is not None:
            self._host.open_file(day)
        elif len(places) == 1 and places[0].is_dir() and self._host.desk.name == "Offload":
            self._host.show_card(places[0])
        elif places:
            self.take_in(places)

    def take_in(self, places: Sequence[Path], *, told: Told = "") -> None:
        """Takes recordings in, where they lie; folders are looked through. told: what a person says that they show."""
        from glintor.media.together import recordings_in
        from glintor.project.recordings import look_at

        file, document = self._document.file, self._document
        try:
            need_folder(file)
        except GlintorError as error:
            self._host.tell(error)
            return
        into = document.shot.id if document.shot in document.project.planned else ""

        def work(report: Report, _stop: object) -> "TakenIn":
            files = recordings_in(places)
            if not files:
                raise GlintorError(
                    f"There is no film and no photo in {places[0].name}.",
                    unharmed="Nothing was changed.",
                    advice="Choose the folder that holds them.",
                )
            return look_at(file, files, told=told, report=report)

        count = "recordings" if len(places) > 1 else places[0].name
        self._jobs.start(f"Looking at {count}", work, lambda found: self._taken(found, into))

    def _taken(self, found: "TakenIn", into: str) -> None:
        from glintor.project.recordings import with_recordings, with_sounds

        project = with_sounds(self._document.project, found.sounds)
        if found.takes:
            into = into if any(s.id == into for s in self._document.project.shots) else ""
            project, (shot_id, take_id) = with_recordings(project, found.takes, into, found.place)
            self._document.edit("Bring recordings in", project)
            self._document.look_at_take(shot_id, take_id)
            self._document.choose_shot(shot_id)
            self._host.show_desk(NAMES.index("reframe"))
            self._host.reframe.frame.show_hint(_HINT)
        elif found.sounds:
            self._document.edit("Bring sound in", project)
        self._host.say(found.words)
        for error in found.refused:
            self._host.tell(error)
        if found.unsure:
            self.ask_what(found.unsure)
        elif found.flat and not (found.takes or found.sounds):
            self.ask_what(found.flat)

    def ask_what(self, readings: "Sequence[Reading]") -> None:
        """Asks what recordings show, with a small picture of each way to read them."""
        from glintor.desktop.readings_sheet import ReadingsSheet

        sheet = ReadingsSheet(readings, self._jobs, self._host.parent_widget)
        sheet.told.connect(lambda reading, told: self.take_in(reading.files, told=told))
        sheet.show()

    def work_on(self, shot_id: str, take_id: str) -> None:
        """Goes on with a take on the Reframe desk."""
        self._document.look_at_take(shot_id, take_id)
        self._document.choose_shot(shot_id)
        self._host.show_desk(NAMES.index("reframe"))

    # What moved
    def find_again(self, places: "Sequence[Path] | None" = None) -> None:
        """Looks for the day's footage that is not where it was: near there, or in folders that a person names; all of it at once."""
        from glintor.project.moved import look_for, missing_files, places_near

        file, project = self._document.file, self._document.project
        missing = missing_files(file, project)
        if not missing:
            self._host.say("All footage of this day is where it is known to be")
            return

        def work(report: Report, _stop: Event) -> "Search":
            return look_for(missing, places if places is not None else places_near(file, missing), report=report)

        self._jobs.start(
            f"Looking for {len(missing)} missing files",
            work,
            lambda search: self._found_again(search, asked=places is not None),
        )

    def _found_again(self, search: "Search", *, asked: bool) -> None:
        from glintor.project.moved import with_found

        if search.found:
            self._document.edit("Find footage again", with_found(self._document.project, search.found))
            self._host.reframe.refresh()
        if search.missing and not asked:
            folder = QFileDialog.getExistingDirectory(
                self._host.parent_widget,
                f"{len(search.missing)} files are missing: in which folder are they now?",
                str(Path.home()),
            )
            if folder:
                self.find_again([Path(folder)])
                return
        left = f"; {len(search.missing)} are still missing" if search.missing else ""
        self._host.say(f"{len(search.found)} files found again{left}")

    # Takes of the shot at hand
    def rename(self) -> None:
        """Asks for another name of the take in sight; its file keeps its own."""
        take = self._document.take
        if take is None:
            self._host.say("There is no take in this shot")
            return
        name, given = QInputDialog.getText(self._host.parent_widget, "Rename take", "Name", text=take.name)
        if given and name.strip():
            self._document.edit_shot("Rename take", lambda s: with_take(s, replace(take, name=name.strip())))

    def remove(self) -> None:
        """Takes the take in sight and its cuts out of the day; its file stays where it is."""
        from glintor.project.recordings import without_take

        take = self._document.take
        if take is None:
            self._host.say("There is no take in this shot")
            return
        self._document.edit_shot("Remove take", lambda s: without_take(s, take.id))
        self._host.say(f"{take.name} is out of the day; its file is where it was. Undo brings it back")

    def copy_in(self) -> None:
        """Copies what the shot's takes only refer to into the day's footage, proven, so that the day holds all it needs."""
        from glintor.offload.copy import bring_over

        folder, shot = self._document.footage, self._document.shot
        wanted = [(t.id, f) for t in shot.takes for f in t.files if f.lies and not f.copy]
        if not wanted:
            self._host.say("Everything of this shot is in the day's own folder, or on the card")
            return
        base = self._document.file.parent

        def work(report: Report, stop: Event) -> "list[tuple[str, TakeFile, Copied]]":
            out: list[tuple[str, TakeFile, Copied]] = []

            def share(of_file: float) -> None:
                report((len(out) + of_file) / len(wanted))

            for take_id, file in wanted:
                out.append((take_id, file, bring_over(base / path_of(file.lies), folder, stop=stop, report=share)))
            return out

        def done(copies: "list[tuple[str, TakeFile, Copied]]") -> None:
            def with_copy(take: Take) -> Take:
                known = {
                    file: replace(file, copy=str(copied.target.relative_to(base)), xxh64=copied.xxh64)
                    for take_id, file, copied in copies
                    if take_id == take.id
                }
                return replace(take, files=tuple(known.get(file, file) for file in take.files))

            project = self._document.project.with_shot(
                shot.id, lambda s: replace(s, takes=tuple(with_copy(t) for t in s.takes))
            )
            self._document.edit("Copy recordings into the day", project)

        self._jobs.start("Copying recordings into the day", work, done)

    # Stand-ins and stills
    def make_proxies(self, footage: "Footage | None") -> None:
        """Makes the stand-ins of a large clip that is seen, in the background, once."""
        if footage is not None and footage.wants_proxy and footage.draft() is None:
            self.proxies.first(Clip(footage.files, footage.paired))

    def make_proxies_of(self, entries: "Sequence[Entry]") -> None:
        """Makes stand-ins of what is looked through: of one at once, of many after what is looked at."""
        from glintor.media.proxy import wants_proxy

        takes = [(e.files, e.take) for e in entries if e.take is not None and e.take.kind == "film"]
        clips = [Clip(files, take.taken_as.paired) for files, take in takes if wants_proxy(take.width_px)]
        if len(clips) == 1:
            self.proxies.first(clips[0])
        else:
            self.proxies.then(clips)

    def _ask_target(self, title: str, name: str, kinds: str, then: Callable[[Path], object]) -> None:
        """Asks where a file is to go, among the day's films at first."""
        chosen, _ = QFileDialog.getSaveFileName(self._host.parent_widget, title, str(self._host.films / name), kinds)
        if chosen:
            then(Path(chosen))

    def ask_path_out(self) -> None:
        """Writes the path of the cut at hand into a file of its own."""
        cut = self._host.reframe.hand.cut
        if cut is None:
            self._host.say("There is no path to save yet")
            return
        self._ask_target("Save the path", f"{cut.id}.json", "Paths (*.json *.csv)", self.write_path)

    def write_path(self, target: Path) -> None:
        from glintor.reframing.path_file import plain, write_path_of

        hand = self._host.reframe.hand
        cut = hand.cut
        if cut is None:
            return
        every = None if target.suffix.lower() == ".json" or plain(cut) else hand.step_s
        try:
            lacking = write_path_of(target, cut, every_s=every, targets=hand.targets)
        except GlintorError as error:
            self._host.tell(error)
            return
        holds = "the path" if every is None else "the view of every frame"
        self._host.say(f"{target.name} holds {holds}" + (f". {lacking}" if lacking else ""))

    def ask_path_in(self) -> None:
        """Puts the path of a file into the cut at hand."""
        name, _ = QFileDialog.getOpenFileName(
            self._host.parent_widget, "Which path?", str(self._host.films), "Paths (*.json *.csv)"
        )
        if name:
            self.read_path(Path(name))

    def read_path(self, source: Path) -> None:
        from glintor.reframing.path_file import with_path_of

        cut = self._host.reframe.hand.cut
        if cut is None:
            self._host.say("There is no cut to put a path into")
            return
        try:
            self._host.reframe.work.edit_cut("Bring a path in", with_path_of(cut, source))
        except GlintorError as error:
            self._host.tell(error)

    def ask_still(self) -> None:
        if self._host.reframe.projector.footage is None:
            self._host.say("There is no frame to save yet")
            return
        self._ask_target("Save this frame as a picture", f"{self._document.shot.id}.png", _PICTURES, self.save_still)

    def save_still(self, target: Path, *, whole: bool = False) -> None:
        """Writes the frame in sight from the original, at the full size of its shape; whole: the sphere unrolled, as it is held, at its own
        size."""
        from glintor.export.still import still
        from glintor.sphere.lens import Lens
        from glintor.sphere.turn import Sight, Turned, turned

        reframe = self._host.reframe
        footage, hand, turns = reframe.projector.footage, reframe.hand, reframe.known.turns
        if footage is None:
            return
        at_s, view = hand.clip_s, hand.shown_view()
        turn = None if turns is None else turns.at(at_s)
        sight: Sight = view if turn is None else turned(view, turn)
        size = hand.shape.size_px
        if whole:
            sight = Turned(np.eye(3) if turn is None else turn.T, Lens.unrolling())
            size = (footage.sphere_px // 4 * 4, footage.sphere_px // 4 * 2)
        keep = footage_of(self._document.file, self._document.project.shots)
        self._jobs.start(
            f"Saving {target.name}", lambda _report, _stop: still(footage, sight, size, target, at_s=at_s, keep=keep)
        )

    def ask_trail(self) -> None:
        """A still with the subject in it many times, where the camera stood still."""
        if self._host.reframe.known.track is None:
            self._host.say("Nothing was tracked in this take yet: turn to it and press J")
            return
        self._ask_target(
            "Save a trail of the subject", f"{self._document.shot.id}-trail.png", _PICTURES, self.save_trail
        )

    def save_trail(self, target: Path, overlap: float = 0.15) -> None:
        """Writes what the frame in sight sees through the marked part, else the cut, with the subject in it as often as it fits."""
        from glintor.export.trail import write_trail

        reframe = self._host.reframe
        footage, hand, track, cut = reframe.projector.footage, reframe.hand, reframe.known.track, reframe.hand.cut
        if footage is None or track is None or cut is None:
            return
        view, size, turns = hand.shown_view(), hand.shape.size_px, reframe.known.turns
        start_s, end_s = (float(t) for t in hand.clock.clip_s(hand.part or cut.span_s))
        keep = footage_of(self._document.file, self._document.project.shots)
        self._jobs.start(
            f"Saving {target.name}",
            lambda report, _stop: write_trail(
                target,
                footage,
                view,
                size,
                track,
                (start_s, end_s),
                overlap=overlap,
                turns=turns,
                keep=keep,
                report=report,
            ),
            lambda count: self._host.say(f"{target.name}: {count} times in one picture"),
        )

    def ask_sphere_still(self) -> None:
        if self._host.reframe.projector.footage is None:
            self._host.say("There is no sphere to save yet")
            return
        self._ask_target(
            "Save the whole sphere as a picture",
            f"{self._document.shot.id}-sphere.png",
            _PICTURES,
            partial(self.save_still, whole=True),
        )
