"""A real window on a virtual screen, through the command itself."""

import os
import shutil
import subprocess
import sys

import pytest


@pytest.mark.xvfb
def test_the_command_opens_the_demo_day_on_a_screen(day, tmp_path):
    if shutil.which("xvfb-run") is None:
        pytest.skip("xvfb is not installed")
    picture = tmp_path / "screen.png"
    script = (
        "from PyQt6.QtCore import QTimer\n"
        "from glintor.desktop import app\n"
        "qt = app.application()\n"
        f"window = app.build_window({str(day)!r})\n"
        "window.show()\n"
        "def look():\n"
        f"    window.screen().grabWindow(window.winId()).save({str(picture)!r})\n"
        "    window.close()\n"
        "def wait():\n"
        "    look() if window.settled else QTimer.singleShot(100, wait)\n"
        "QTimer.singleShot(500, wait)\n"
        "raise SystemExit(qt.exec())\n"
    )
    environment = {k: v for k, v in os.environ.items() if k != "QT_QPA_PLATFORM"}
    command = ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24", sys.executable, "-c", script]
    done = subprocess.run(command, env=environment, capture_output=True, text=True, timeout=120)
    assert done.returncode == 0, done.stderr
    import cv2

    shown = cv2.imread(str(picture))
    assert shown.shape[1] >= 1000 and len(set(map(tuple, shown.reshape(-1, 3)[::97]))) > 500  # not an empty window


def test_without_a_display_it_says_so(day):
    environment = {k: v for k, v in os.environ.items() if k not in ("QT_QPA_PLATFORM", "DISPLAY", "WAYLAND_DISPLAY")}
    done = subprocess.run(
        [sys.executable, "-m", "glintor.cli", str(day)], env=environment, capture_output=True, text=True
    )
    assert done.returncode == 2 and "no display" in done.stderr
