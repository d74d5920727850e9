"""Cameras on the link: an address for each of the kit's, how it is, what is set otherwise than planned, and one press to set it."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QDialog, QFrame, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from glintor.desktop.controls import button, label, row
from glintor.desktop.document import Document
from glintor.desktop.record.cameras import Cameras
from glintor.errors import GlintorError
from glintor.project.kit import Camera


class _Line(QWidget):
    """One camera of the kit."""

    def __init__(self, camera: Camera, cameras: Cameras, fetch: Callable[[str], None]) -> None:
        super().__init__()
        self._id, self._cameras = camera.id, cameras
        self.address = QLineEdit(cameras.address(camera.id))
        self.address.setAccessibleName(f"Address of {camera.name}")
        self.address.setPlaceholderText("such as 192.168.1.1")
        self.address.setFixedWidth(200)
        self.hold = QPushButton()
        self.hold.clicked.connect(lambda _on: self._turn())
        self.put = button(
            "Set as planned", partial(cameras.put, camera.id), tip="And reads back what it is set to then"
        )
        self.fetch = button(
            "Fetch its files",
            partial(fetch, camera.id),
            tip="Over the air, by parts; then they are looked through on Offload",
        )
        self.state, self.differs = label("", "soft"), label("", "caution")
        self.differs.setWordWrap(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 10)
        column.setSpacing(5)
        head = QHBoxLayout()
        head.addWidget(label(camera.name, "head"), 1)
        head.addWidget(self.address)
        head.addWidget(self.hold)
        head.addWidget(self.put)
        head.addWidget(self.fetch)
        column.addLayout(head)
        column.addWidget(self.state)
        column.addWidget(self.differs)
        self.show_state()

    def _turn(self) -> None:
        if self._id in self._cameras.ids:
            self._cameras.let_go(self._id)
            return
        try:
            self._cameras.hold(self._id, self.address.text().strip())
        except GlintorError as error:
            self.differs.setText(str(error))

    def show_state(self) -> None:
        seen = self._cameras.seen(self._id)
        self.hold.setText("Connect" if seen is None else "Let go")
        self.address.setEnabled(seen is None)
        for one in (self.put, self.fetch):
            one.setEnabled(seen is not None and not seen.lost and seen.rolling_s is None)
        if seen is None:
            self.state.setText("by the clock: no camera is asked")
            self.differs.setText("")
            return
        self.state.setText(" · ".join(part for part in (seen.name, seen.words) if part))
        wrong = [d.words for d in seen.differs or () if d.told is not None]
        unsaid = [f"{d.name} ({d.wanted})" for d in seen.differs or () if d.told is None]
        told = [f"Otherwise than planned: {', '.join(wrong)}."] if wrong else []
        told += [f"It does not tell: {', '.join(unsaid)}; look yourself."] if unsaid else []
        if seen.differs == ():
            self.state.setText(self.state.text() + " · set as planned")
        self.differs.setText(" ".join(told))


class CamerasSheet(QDialog):
    """Follows the cameras of a document's kit."""

    fetch_asked = pyqtSignal(str)

    def __init__(self, document: Document, cameras: Cameras, over: QWidget) -> None:
        super().__init__(over)
        self.setWindowTitle("Cameras on the link")
        self.resize(760, 300)
        self.lines = {
            camera.id: _Line(camera, cameras, self.fetch_asked.emit) for camera in document.project.kit.cameras
        }
        page = QVBoxLayout(self)
        words = label(
            "A camera that speaks the open web API of spherical cameras is started, stopped and read back over its own "
            "wireless network. Without one the log goes by the clock. To try it: glintor camera, in a terminal.",
            "soft",
        )
        words.setWordWrap(True)
        page.addWidget(words)
        line = QFrame()
        line.setFrameShape(QFrame.Shape.HLine)
        page.addWidget(line)
        for one in self.lines.values():
            page.addWidget(one)
        page.addStretch(1)
        page.addLayout(row(None, button("Done", self.accept), stretch=False))
        cameras.changed.connect(self.show_state)

    def show_state(self) -> None:
        for line in self.lines.values():
            line.show_state()
