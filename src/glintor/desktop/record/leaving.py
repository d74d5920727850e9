"""A window that is to close while a camera on the link rolls: nothing is stopped, and nothing left rolling, without a word."""

from collections.abc import Callable

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QWidget

from glintor.desktop.asking import ask
from glintor.desktop.record.cameras import Cameras

_PATIENCE_MS = 8000  # that cameras are waited for


def ask_rolling(
    window: QWidget,
    cameras: Cameras,
    *,
    stop: Callable[[], object],
    leave: Callable[[], object],
    say: Callable[[str], object],
) -> None:
    """Asks whether cameras that roll are to be stopped; then closes the window, or leaves it open. stop: ends their rolling; leave:
    closes the window while they roll."""
    names = " and ".join(cameras.rolling)
    ask(
        window,
        f"{names} still roll{'s' if len(cameras.rolling) == 1 else ''}.",
        "Left rolling, the log goes on, and the camera is asked again when this day is opened.",
        {"Stop and close": lambda: _stop_and_close(window, cameras, stop, say), "Leave it rolling": leave},
        name="rolling",
    )


def _stop_and_close(
    window: QWidget, cameras: Cameras, stop: Callable[[], object], say: Callable[[str], object]
) -> None:
    timer = QTimer(window)
    timer.setSingleShot(True)

    def look() -> None:
        if not cameras.rolling:
            cameras.changed.disconnect(look)
            timer.stop()
            window.close()

    def late() -> None:
        cameras.changed.disconnect(look)
        say(f"{' and '.join(cameras.rolling)} did not stop: look at the camera")

    timer.timeout.connect(late)
    cameras.changed.connect(look)
    timer.start(_PATIENCE_MS)
    stop()
    look()
