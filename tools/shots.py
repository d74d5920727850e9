"""Takes one picture of each desk from the demo day: python -m tools.shots FOLDER."""

import os
import sys
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
_FRAMES: tuple[tuple[int, float, dict[str, float]], ...] = (  # clip, moment, view
    (1, 3.0, {"yaw_deg": 8.0, "pitch_deg": -4.0, "fov_deg": 105.0, "bend": 0.2}),
    (3, 2.0, {"yaw_deg": -8.0, "pitch_deg": -6.0, "fov_deg": 105.0, "bend": 0.25}),
    (2, 2.0, {"pitch_deg": -90.0, "fov_deg": 280.0, "bend": 1.0}),
    (5, 4.0, {"yaw_deg": 0.0, "pitch_deg": -5.0, "fov_deg": 110.0, "bend": 0.2}),
)
DESKS = ("place", "expose", "record", "offload", "reframe", "export")


def main() -> None:
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as home:
        for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME"):
            os.environ[name] = home
        from glintor.demo.day import write_demo_day
        from glintor.desktop.app import application, build_window
        from glintor.desktop.place.carriers_sheet import CarriersSheet
        from glintor.desktop.place.places_sheet import PlacesSheet
        from glintor.desktop.place.wish_sheet import WishSheet
        from glintor.export.formats import FORMATS

        app = application()
        # A short path of no one's own stands in the pictures.
        day = Path(home) / "hollin-cut"
        window = build_window(str(write_demo_day(day)))
        window.resize(1280, 800)
        window.show()

        def settle() -> None:
            time.sleep(0.1)
            until = time.monotonic() + 120
            while time.monotonic() < until:
                app.processEvents()
                time.sleep(0.02)
                if window.settled and len(window.cards.known) == len(window.document.project.shots):
                    break
            for _ in range(20):
                app.processEvents()
                time.sleep(0.01)

        window.document.choose_shot("roof-cobdale")
        for number, name in enumerate(DESKS):
            window.show_desk(number)
            settle()
            if name == "reframe":
                window.reframe.go_to(7.0)
            if name == "offload":
                window.offload.viewer.line.sought.emit(4.0)
            settle()
            window.grab().save(str(folder / f"{name}.png"))
            print(folder / f"{name}.png")
        window.document.choose_shot("towpath-walk")
        window.show_desk(4)
        settle()
        window.reframe.go_to(0.6)
        settle()
        window.grab().save(str(folder / "reframe-globe.png"))
        window.document.choose_shot("roof-cobdale")
        window.reframe.shapes.button(FORMATS[1]).click()
        window.reframe.go_to(9.0)
        settle()
        window.grab().save(str(folder / "reframe-upright.png"))
        reframe = window.reframe
        reframe.shapes.button(FORMATS[0]).click()
        reframe.go_to(5.8)
        reframe.hold_work.turn()
        reframe.hold_work.change("place", (0.17, 0.0))
        reframe.board.turn_bar("hold")
        reframe.board._split.setSizes([380, 320])
        reframe.go_to(7.6)
        settle()
        window.grab().save(str(folder / "reframe-held.png"))
        reframe.proposing.open()
        sheet = reframe.proposing.sheet
        assert sheet is not None, "there is a film"
        until = time.monotonic() + 60
        while (sheet.shown_s < 2.0 or window.jobs.running) and time.monotonic() < until:
            app.processEvents()
            time.sleep(0.02)
        settle()  # what is said of it is laid out
        sheet.grab().save(str(folder / "proposals.png"))
        sheet.reject()
        for _ in range(2):
            window.document.undo()
        window.show_desk(0)
        settle()
        window.place.open_wish()
        settle()
        window.findChildren(WishSheet)[-1].grab().save(str(folder / "wish.png"))
        window.findChildren(WishSheet)[-1].reject()
        for name, kind, shown, act in (
            ("places", PlacesSheet, "street", window.place.open_places),
            ("carriers", CarriersSheet, "kayak", window.place.open_carriers),
        ):
            act()
            sheet = window.findChildren(kind)[-1]
            tiles = sheet.tiles
            tiles.setCurrentRow(next(n for n in range(tiles.count()) if tiles.item(n).text() == shown))
            until = time.monotonic() + 60
            while not sheet.settled and time.monotonic() < until:
                app.processEvents()
                time.sleep(0.02)
            sheet.grab().save(str(folder / f"{name}.png"))
            print(folder / f"{name}.png")
            sheet.reject()
        window.actions_by_id["day.plan"].trigger()
        settle()
        window.day_work.carry(Path(home) / "sheet")
        settle()
        _printed(next((Path(home) / "sheet").glob("*.pdf")), folder / "day-sheet.png")
        window.close()
        _montage(folder / "hollin-cut.png")


def _printed(sheet: Path, target: Path) -> None:
    """The first page and one shot's page of a day sheet, side by side."""
    from PyQt6.QtCore import QSize, Qt
    from PyQt6.QtGui import QImage, QPainter
    from PyQt6.QtPdf import QPdfDocument

    document, size = QPdfDocument(None), QSize(620, 877)
    document.load(str(sheet))
    both = QImage(2 * size.width() + 10, size.height(), QImage.Format.Format_RGB32)
    both.fill(Qt.GlobalColor.lightGray)
    painter = QPainter(both)
    for at, page in enumerate((0, 3)):
        paper = QImage(size, QImage.Format.Format_RGB32)
        paper.fill(Qt.GlobalColor.white)
        ink = QPainter(paper)
        ink.drawImage(0, 0, document.render(page, size))
        ink.end()
        painter.drawImage(at * (size.width() + 10), 0, paper)
    painter.end()
    both.save(str(target))
    print(target)


def _montage(target: Path) -> None:
    """Four frames of the day's films on one picture."""
    import numpy as np

    from glintor.demo.day import DAY_CLIPS
    from glintor.media.picture import write_picture
    from glintor.media.read import ClipReader, LatestReader
    from glintor.pixels import colour
    from glintor.pixels.reproject import Filter, Reprojector
    from glintor.pixels.spheres import Sphere
    from glintor.sphere.view import View

    frames = []
    for number, at_s, view in _FRAMES:
        reader = LatestReader(ClipReader(next(clip.file for clip in DAY_CLIPS if clip.number == number)))
        decoded = reader.at(at_s)
        assert decoded is not None
        frames.append(colour.rgb(Reprojector((800, 450), Filter.FINE).draw(Sphere(decoded.picture), View(**view))))
        reader.close()
    write_picture(target, np.vstack([np.hstack(frames[:2]), np.hstack(frames[2:])]))
    print(target)


if __name__ == "__main__":
    main()
