"""Tracking: who or what is followed through a take, and what is done with where it went."""

from collections.abc import Sequence
from functools import partial
from threading import Event
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QInputDialog

from glintor.desktop.host import Host
from glintor.errors import GlintorError
from glintor.project.take import Take
from glintor.sphere.equirect import lonlat_deg
from glintor.types import Report

if TYPE_CHECKING:
    from glintor.media.people_there import Person
    from glintor.media.tracked import Pointed
    from glintor.reframing.track import Track

_OF_FRAME = 0.3  # of the frame's width that a subject is thought to be high, where no detector says better


class Tracking(QObject):
    """Follows subjects of the take at hand, beside other work; what is found is shown as it comes."""

    changed = pyqtSignal()  # from the thread that tracks: more of it is known

    def __init__(self, host: Host) -> None:
        super().__init__(host.parent_widget)
        self._host, self._document, self._jobs = host, host.document, host.jobs
        self.changed.connect(lambda: host.reframe.refresh())

    def track(self, name: str = "") -> None:
        """Follows what is in the middle of the frame through the take, both ways from this moment; "" is the take's own subject."""
        from glintor.media.tracked import Pointed

        hand = self._host.reframe.hand
        view, turns, at_s = hand.look or hand.path_view(), self._host.reframe.known.turns, hand.clip_s
        look = view.matrix[:, 0] if turns is None else turns.at(at_s).T @ view.matrix[:, 0]
        yaw, pitch = lonlat_deg(look)
        self._follow([(Pointed(at_s, float(yaw), float(pitch), min(max(_OF_FRAME * view.fov_deg, 4.0), 90.0)), name)])

    def track_another(self) -> None:
        """The same, of something that gets a name of its own."""
        name, given = QInputDialog.getText(self._host.parent_widget, "Track something else", "Its name:")
        plain = "".join(letter if letter.isalnum() or letter in " -_" else "-" for letter in name).strip()
        if given and plain:
            self.track(plain)

    def _follow(self, points: "Sequence[tuple[Pointed, str]]") -> None:
        from glintor.project.subjects import find_subject

        take, footage, file = self._document.take, self._host.reframe.projector.footage, self._document.file
        if take is None or footage is None or footage.kind != "film":
            self._host.say("There is no film to track anything in")
            return
        turns = self._host.reframe.known.turns

        def work(report: Report, stop: Event) -> "list[Track]":
            def share(of_one: float, n: int) -> None:
                report((n + of_one) / len(points))

            return [
                find_subject(
                    file,
                    take,
                    footage,
                    point,
                    name=name,
                    turns=turns,
                    report=partial(share, n=n),
                    changed=self.changed.emit,
                    stop=stop,
                )
                for n, (point, name) in enumerate(points)
            ]

        self._jobs.start(
            f"Tracking through {take.name}",
            work,
            lambda found: self._tracked(take, found[-1]),
            cancelled=self._host.reframe.refresh,
        )

    def _tracked(self, take: Take, found: "Track") -> None:
        self._host.reframe.refresh()
        assert found.state is not None, "it was found in the pictures"
        sure, unsure = (float((found.state == state).mean()) for state in (2, 1))
        words = f"{take.name}: sure in {sure:.0%}, unsure in {unsure:.0%}, lost in {max(1 - sure - unsure, 0):.0%}"
        self._host.say(f"{words}. Where it is wrong, turn there and track again")

    def find_people(self) -> None:
        """Offers all people that the present moment's picture shows."""
        from glintor.media.people_there import people_there

        reframe = self._host.reframe
        take, footage = self._document.take, reframe.projector.footage
        if take is None or footage is None:
            self._host.say("There is no picture to look for people in")
            return
        turns, at_s = reframe.known.turns, reframe.hand.clip_s
        self._jobs.start(
            f"Looking for people in {take.name}",
            lambda _report, _stop: people_there(footage, at_s, turns),
            lambda people: self._offer(take, at_s, people),
        )

    def _offer(self, take: Take, at_s: float, people: "list[Person]") -> None:
        from glintor.desktop.reframe.people_sheet import PeopleSheet
        from glintor.media.tracked import Pointed
        from glintor.review import subject_of

        if not people:
            self._host.say("No person is seen here: turn to whom you mean and press J")
            return
        taken = [name or subject_of(take) for name in self._host.reframe.known.tracks if name]
        sheet = PeopleSheet(people, subject_of(take), taken, self._host.parent_widget)
        sheet.wanted.connect(
            lambda chosen: self._follow(
                [(Pointed(at_s, p.yaw_deg, p.pitch_deg, min(max(p.size_deg, 2.0), 90.0)), name) for p, name in chosen]
            )
        )
        sheet.show()

    def forget(self) -> None:
        """What was tracked in the take is not kept any more."""
        from glintor.project.subjects import forget_subject, subjects_of

        take = self._document.take
        if take is not None:
            for name in subjects_of(self._document.file, take):
                forget_subject(self._document.file, take, name)
            self._host.reframe.refresh()

    def go_along(self) -> None:
        """Sets keyframes that go with the subject, as few as stay within a degree and a half."""
        from glintor.reframing.fitted import along

        reframe = self._host.reframe
        track, cut = reframe.known.track, reframe.hand.cut
        if cut is None or track is None:
            self._host.say("Nothing was tracked in this take yet: turn to it and press J")
            return
        try:
            fitted = along(cut, track)
        except GlintorError as error:
            self._host.say(str(error))
            return
        reframe.work.edit_cut("Go with the subject", fitted)
        self._host.say(f"{len(fitted.keys)} keyframes go with the subject; each can be changed")
