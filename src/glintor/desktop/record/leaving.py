"""A window that is to close while a camera on the link rolls: nothing is stopped, and nothing left rolling, without a word."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QAbstractButton, QMessageBox

if TYPE_CHECKING:
    from glintor.desktop.record.desk import RecordDesk
    from glintor.desktop.window import Window

_PATIENCE_MS = 8000  # that cameras are waited for


def ask_rolling(window: "Window", record: "RecordDesk") -> None:
    """Asks whether cameras that roll are to be stopped; then closes the window, or leaves it open."""
    names = " and ".join(record.cameras.rolling)
    box = QMessageBox(window)
    box.setObjectName("rolling")
    box.setIcon(QMessageBox.Icon.Warning)
    box.setWindowTitle("Glintor")
    box.setText(f"{names} still roll{'s' if len(record.cameras.rolling) == 1 else ''}.")
    box.setInformativeText("Left rolling, the log goes on, and the camera is asked again when this day is opened.")
    role = QMessageBox.ButtonRole
    stop = box.addButton("Stop and close", role.AcceptRole)
    leave = box.addButton("Leave it rolling", role.DestructiveRole)
    stay = box.addButton("Stay", role.RejectRole)
    box.setDefaultButton(stay)
    box.setModal(False)

    def answered(pressed: QAbstractButton) -> None:
        if pressed is stop:
            _stop_and_close(window, record)
        elif pressed is leave:
            window.leave(unsaved=False, rolling=True)

    box.buttonClicked.connect(answered)
    box.show()


def _stop_and_close(window: "Window", record: "RecordDesk") -> None:
    timer = QTimer(window)
    timer.setSingleShot(True)

    def look() -> None:
        if not record.cameras.rolling:
            record.cameras.changed.disconnect(look)
            timer.stop()
            window.close()

    def late() -> None:
        record.cameras.changed.disconnect(look)
        window.work.say(f"{' and '.join(record.cameras.rolling)} did not stop: look at the camera")

    timer.timeout.connect(late)
    record.cameras.changed.connect(look)
    timer.start(_PATIENCE_MS)
    record.log.stop()
    look()
