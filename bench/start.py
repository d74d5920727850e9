"""From the command to a window that can be used, against the least that any such program must do."""

import os
import subprocess
import sys
import tempfile
from pathlib import Path

from bench.measure import alternate, ratio_table

# What only the developers' tools bring is not on a user's machine (`pip show typing_extensions`); msgspec loads it where
# it finds it.
_AS_INSTALLED = """
import sys
sys.modules["typing_extensions"] = None
"""
_BARE = """
import numpy, cv2
from PyQt6.QtWidgets import QApplication, QMainWindow
app = QApplication([])
window = QMainWindow()
window.resize(1280, 800)
window.show()
app.processEvents()
import os
os._exit(0)
"""
_PLAIN = """
from bench.plain_window import main
main()
"""
_PAINTED = """
from glintor.cli import asked
wanted = asked(sys.argv[1:])
from glintor.desktop.app import application, build_window
app = application()
window = build_window(wanted.files[0])
window.show()
app.processEvents()
"""
_JUDGED = """
while not window.desk.findings():
    app.processEvents()
app.processEvents()
"""
_END = """
import os
os._exit(0)
"""


def report(_source: Path, runs: int) -> list[str]:
    with tempfile.TemporaryDirectory() as folder:
        environment = {
            **{name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"},
            "QT_QPA_PLATFORM": "offscreen",
            "XDG_STATE_HOME": folder,
            "XDG_CONFIG_HOME": folder,
        }
        subprocess.run([sys.executable, "-m", "glintor.cli", "demo", folder], check=True, stdout=subprocess.DEVNULL)
        day = f"{folder}/hollin-cut.glintor"

        def run(*code: str) -> None:
            subprocess.run([sys.executable, *code, day], check=True, env=environment, stderr=subprocess.DEVNULL)

        times = alternate(
            {
                "PyQt6, numpy and cv2, an empty window": lambda: run("-c", _AS_INSTALLED + _BARE),
                "as many plain widgets, menus and words": lambda: run("-c", _AS_INSTALLED + _PLAIN),
                "Glintor with the demo day, every control and chart": lambda: run(
                    "-c", _AS_INSTALLED + _PAINTED + _END
                ),
                "the same, its findings said": lambda: run("-c", _AS_INSTALLED + _PAINTED + _JUDGED + _END),
            },
            max(runs, 25),
        )
    return ["## Start", "", *ratio_table(times, "PyQt6, numpy and cv2, an empty window")]
