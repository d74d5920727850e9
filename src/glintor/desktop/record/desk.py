"""Record: am I set, and what happens while it rolls?"""

import webbrowser
from collections.abc import Sequence
from pathlib import Path
from threading import Event

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QInputDialog, QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.controls import button, label, row
from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.jobs import Jobs, Newest
from glintor.desktop.record.cameras import Cameras
from glintor.desktop.record.log_panel import LogPanel
from glintor.desktop.record.ready_view import ReadyView
from glintor.desktop.record.rehearsal import Rehearsal, Source
from glintor.desktop.sphere_view import SphereMarks, SphereView
from glintor.errors import GlintorError
from glintor.finding import Finding, Level
from glintor.project.log import Tick
from glintor.project.placed import placing
from glintor.recording.logbook import now_of, stamp, ticked, unticked
from glintor.recording.ready import Line, elsewhere, open_lines, ready_list
from glintor.review import course_of_shot, exposing, light_of_shot
from glintor.types import Report


class RecordDesk(Desk):
    """The list before rolling, and the log."""

    name = "Record"
    plans = True
    fetched = pyqtSignal(Path)

    def __init__(self, document: Document, jobs: Jobs, parent: QWidget, source: Source) -> None:
        super().__init__(document, jobs, parent)
        self.cameras = Cameras(document)
        self.ready, self.log = ReadyView(), LogPanel(document, self.cameras)
        self.rehearsal = Rehearsal(document, jobs, source, self)
        self.eye = SphereView("What the camera will see", (240, 120))
        self.head, self.count = label("Ready?", "figure"), label("", "soft")
        self.alone: LogPanel | None = None
        self._worker = Newest("camera's eye", jobs.trouble.emit)
        self._worker.finished.connect(self._seen)
        self._asked: object = None
        self._found: list[Finding] = []
        self.lines: tuple[Line, ...] = ()
        self.ready.turned.connect(self._turned)
        self.log.trouble.connect(jobs.trouble.emit)
        self.log.told.connect(self.said.emit)
        self.log.link_asked.connect(self.open_cameras)
        self.cameras.said.connect(self.said.emit)
        self.cameras.changed.connect(self._show_cameras)
        self._lay()

    def _lay(self) -> None:
        page = QHBoxLayout(self)
        page.setContentsMargins(14, 8, 14, 8)
        page.setSpacing(24)
        left = QVBoxLayout()
        left.setSpacing(6)
        left.addLayout(row(self.head, self.count, None, stretch=False, spacing=8))
        left.addWidget(self.ready, 1)
        below = QHBoxLayout()
        below.setSpacing(12)
        self.eye.setFixedWidth(240)
        self.eye.keep_proportion(True)
        below.addWidget(self.eye)
        side = QVBoxLayout()
        words = label("What the camera will see, as planned.\nThe list also goes along:", "soft")
        words.setWordWrap(True)
        side.addWidget(words)
        side.addLayout(
            row(
                button("On paper…", lambda: self.ask_page(phone=False), tip="One page to print"),
                button(
                    "On the phone…",
                    lambda: self.ask_page(phone=True),
                    tip="One page that works without a network and keeps its ticks",
                ),
                spacing=8,
            )
        )
        side.addStretch(1)
        side.addLayout(row(button("Rehearse instead…", self.rehearse, tip="A simulated camera films this shot")))
        below.addLayout(side, 1)
        left.addLayout(below)
        page.addLayout(left, 5)
        page.addWidget(self.log, 4)

    # The list
    def _turned(self, line_id: str, on: bool) -> None:
        line = next((one for one in self.lines if one.id == line_id), None)
        if line is None:
            return
        if not on:
            self.document.edit_shot(f"Not ready: {line.words}", lambda s: unticked(s, line_id))
            return
        why = ""
        if line.level is Level.STOP:
            worst = line.said[0]
            why, given = QInputDialog.getText(
                self, "A stop", f"{worst.title}: {worst.measure or worst.reason}\nWhy is it passed all the same?"
            )
            if not given or not why.strip():
                self.refused.emit("A stop is not passed without saying why")
                return
        tick = Tick(
            line=line_id, words=line.words[:400], at=stamp(now_of(self.document.project)), why=why.strip()[:400]
        )
        self.document.edit_shot(f"Ready: {line.words}", lambda s: ticked(s, tick))

    def tick_next(self) -> None:
        """Ticks the first line that is open, by key."""
        waiting = open_lines(self.lines, self.document.shot.ticks)
        if waiting:
            self._turned(waiting[0].id, True)
        else:
            self.said.emit("Every line is ticked")

    # What goes along
    def ask_page(self, *, phone: bool) -> None:
        name = f"{self.document.shot.name} - ready{' phone' if phone else ''}.html"
        target, _ = QFileDialog.getSaveFileName(
            self, "Save the list", str(self.document.file.parent / name.replace("/", "-")), "Page (*.html)"
        )
        if target:
            self.write_page(Path(target), phone=phone)

    def write_page(self, target: Path, *, phone: bool, show: bool = True) -> None:
        from glintor.recording.page import write_ready_page

        try:
            write_ready_page(target, self.document.project, self.document.shot, self.lines, phone=phone)
        except GlintorError as error:
            self.jobs.trouble.emit(error)
            return
        self.said.emit(f"The list is in {target}")
        if show and not phone:
            webbrowser.open(target.as_uri())

    # Rehearsing
    def rehearse(self) -> None:
        self.rehearsal.refresh()
        self.rehearsal.show()
        self.rehearsal.raise_()

    def start(self) -> None:
        """Records a take with the simulated camera, or stops it."""
        self.rehearse()
        self.rehearsal.start()

    def open_cameras(self) -> None:
        """The cameras on the link."""
        from glintor.desktop.record.cameras_sheet import CamerasSheet

        sheet = CamerasSheet(self.document, self.cameras, self)
        sheet.fetch_asked.connect(self.fetch)
        sheet.show()

    def fetch(self, camera_id: str) -> None:
        """Brings the files of a camera on the link over the air into a folder beside the day, which is then looked through as a card."""
        from glintor.offload.naming import clean
        from glintor.recording.web_camera import WebCamera

        camera = self.document.project.kit.camera(camera_id)
        name = camera.name if camera is not None else camera_id
        folder, address = self.document.file.parent / "by-air" / clean(name), self.cameras.address(camera_id)

        def work(report: Report, stop: Event) -> int:
            with WebCamera(address) as link:
                return link.fetch_all(folder, report, stop)

        def came(count: int) -> None:
            self.said.emit(
                f"{count} files of {name} came over the air" if count else f"{name} has nothing that is not here"
            )
            if folder.is_dir():
                self.fetched.emit(folder)

        self.jobs.start(f"Fetching the files of {name}", work, came)

    def _show_cameras(self) -> None:
        """What a camera says of its card and battery stands in the list; a mode that it reads back is ticked by it."""
        self.cameras.tick_what_is_read_back()
        self._show_lines()

    def log_alone(self) -> None:
        """The log in a small window that stays above other work."""
        if self.alone is None:
            self.alone = LogPanel(self.document, self.cameras, small=True)
            self.alone.setParent(self.window(), Qt.WindowType.Tool | Qt.WindowType.WindowStaysOnTopHint)
            self.alone.setWindowTitle("Log")
            self.alone.layout().setContentsMargins(10, 10, 10, 10)
            self.alone.told.connect(self.said.emit)
            self.alone.link_asked.connect(self.open_cameras)
            self.alone.resize(460, 420)
        self.alone.show()
        self.alone.raise_()
        self.alone.activateWindow()

    # Showing
    def refresh(self) -> None:
        project, shot = self.document.project, self.document.shot
        self.cameras.plan()
        self.log.refresh()
        if self.alone is not None and self.alone.isVisible():
            self.alone.refresh()
        if self.rehearsal.isVisible():
            self.rehearsal.refresh()
        self._show_lines()
        key = (shot.id, shot.placement, shot.exposure, shot.start_min, shot.own, project.site, project.kit)
        if key != self._asked:
            self._asked = key
            link = self.rehearsal.source.link()

            def look() -> tuple[object, list[Finding]]:
                found = placing(project, shot) + exposing(
                    project, shot, light_of_shot(project, shot), course_of_shot(project, shot)
                )
                return link.preview(960), found

            self._worker.ask(key, look)

    def _seen(self, key: object, value: object) -> None:
        pixels, found = value  # type: ignore[misc]
        if key != self._asked:
            return
        self._found = found
        self.eye.show_sphere(marks.image(pixels), SphereMarks())
        self._show_lines()
        self.findings_changed.emit()

    def _show_lines(self) -> None:
        project, shot = self.document.project, self.document.shot
        seen = self.cameras.seen(project.camera_of(shot).id)
        state = seen.state if seen is not None else None
        self.lines = ready_list(
            project,
            shot,
            self._found,
            card_free_bytes=state.card_free_bytes if state is not None else None,
            battery_share=state.battery_share if state is not None else None,
            on_link=bool(self.cameras.ids),
        )
        self.ready.show_lines(self.lines, shot.ticks)
        waiting = open_lines(self.lines, shot.ticks)
        done = len(self.lines) - len(waiting)
        self.count.setText(f"{done} of {len(self.lines)} · in the order of the hands · T ticks the next")

    def findings(self) -> Sequence[Finding]:
        """What no line of the list tells already."""
        return elsewhere(self._found, self.lines)

    @property
    def settled(self) -> bool:
        return self._worker.idle

    def close_down(self) -> None:
        self._worker.close()
        self.cameras.close()
        self.rehearsal.source.keep()
