"""The Reframe desk's board: the flat frame as large as the window allows, everything else round it."""

from functools import partial

from msgspec.structs import replace
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QBoxLayout, QCheckBox, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from glintor.desktop.controls import Chips, Number, button, choice, offer, row
from glintor.desktop.frame_view import FrameView
from glintor.desktop.reframe.beside_bar import BesideBar
from glintor.desktop.reframe.course import Course
from glintor.desktop.reframe.fly_bar import FlyBar
from glintor.desktop.reframe.hold_bar import HoldBar
from glintor.desktop.reframe.key_bar import KeyBar
from glintor.desktop.reframe.move_bar import MoveBar
from glintor.desktop.reframe.pace_bar import PaceBar
from glintor.desktop.sphere_view import SphereView
from glintor.desktop.split import Split
from glintor.export.formats import FORMATS, LANDSCAPE, Format
from glintor.project.held import WORDS as HELD
from glintor.reframing.looks import LOOKS, Look, nearest_look
from glintor.sphere import lens
from glintor.sphere.angle import wrap_deg
from glintor.sphere.view import View

_PANEL_PX = 360  # beside a wide frame
_COURSE_PX = 166  # where it is not pulled larger
_GAP_PX = 5  # between the course and a row under it
_ANY_PX = 16777215  # Qt's word for no limit
_UPRIGHT = 1.2  # a frame less wide than that against its height stands beside everything else
_ANGLES = {  # field of the view: word, unit, least, most, step, digits
    "yaw_deg": ("bearing", "°", -180.0, 180.0, 1.0, 1),
    "pitch_deg": ("height", "°", -90.0, 90.0, 1.0, 1),
    "roll_deg": ("roll", "°", -180.0, 180.0, 1.0, 1),
    "fov_deg": ("view", "°", lens.FOV_MIN_DEG, 360.0, 2.0, 0),
    "bend": ("bend", "", 0.0, lens.BEND_MAX, 0.05, 2),
}


class Board(QWidget):
    """Places the parts; which way depends on the frame's shape."""

    angle_typed = pyqtSignal(str, float)  # a field of the view, and its value

    def __init__(self) -> None:
        super().__init__()
        self.frame = FrameView("Flat frame", LANDSCAPE.size_px, (280, 160))
        self.sphere = SphereView("Sphere unrolled", (240, 120))
        self.course = Course()
        self.looks = Chips("Look", [(look, look.name) for look in LOOKS], titled=False, columns=6)
        self.shapes = Chips("Frame", [(shape, shape.name) for shape in FORMATS], titled=False)
        self.cuts = choice("Cut", letters=6)
        self.play = button("Play", lambda: None, main=True, tip="Space")
        self.fly = button(
            "Fly", lambda: None, tip="The take plays, a hand leads the view, and what is seen becomes keyframes (Y)"
        )
        self.propose = button(
            "Propose…", lambda: None, tip="Paths of different kinds to begin from, each with its reason (Q)"
        )
        self.bars = {
            name: button(words, partial(self.turn_bar, name), tip=tip)
            for name, words, tip in (
                ("key", "Key…", "When it is, how it is come to and left, which way round (K)"),
                ("hold", "Hold on…", "What the view is held on from here on, and how (F)"),
                ("move", "Moves…", "Ready moves, with a few handles (V)"),
                ("pace", "Speed…", "What changes the speed of the film, or of a marked part (P)"),
            )
        }
        self.alone = QCheckBox("This shape alone")
        self.alone.setToolTip("What is turned or zoomed is this shape's own; the other shapes keep the shared path (A)")
        self.held = choice("How the recording is held still", list(HELD.items()), letters=12)
        self.held.setToolTip("What is done about the camera's turning: nothing is rendered, the view is turned")
        self.recording = button(
            "Recording…", lambda: None, tip="What this recording is, its horizon, lenses and sound (F10)"
        )
        self.pace, self.key_bar, self.hold_bar, self.fly_bar = PaceBar(), KeyBar(), HoldBar(), FlyBar()
        self.move_bar, self.beside_bar = MoveBar(), BesideBar()
        self.angles = {field: Number(*how, bare=True) for field, how in _ANGLES.items()}
        self._asked = ""
        self._own_looks: tuple[Look, ...] = ()
        self._alone, self._sizes = False, [1000, _COURSE_PX]
        self._shape: Format = LANDSCAPE
        self._lay()
        for name, number in self.angles.items():
            number.edited.connect(lambda value, field=name: self.angle_typed.emit(field, value))

    def _lay(self) -> None:
        self._controls = QWidget()
        column = QVBoxLayout(self._controls)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        cells = QGridLayout()
        cells.setHorizontalSpacing(8)
        cells.setVerticalSpacing(0)
        for at, number in enumerate(self.angles.values()):
            number.box.setObjectName("figure")
            cells.addWidget(number.name, 0, at)
            cells.addWidget(number, 1, at)
            cells.setColumnStretch(at, 1)
        column.addLayout(cells)
        column.addWidget(self.looks)
        column.addLayout(row(self.shapes, self.alone, spacing=10))
        line = row(self.play, self.fly, self.propose, self.cuts, spacing=8, stretch=False)
        line.setStretch(line.indexOf(self.cuts), 9)  # a cut's name wants the room, where there is some
        column.addLayout(line)
        column.addLayout(row(*self.bars.values(), spacing=8, stretch=False))
        line = row(self.held, self.recording, spacing=8, stretch=False)
        line.setStretch(0, 9)
        column.addLayout(line)
        column.addStretch(1)
        self._panel = QWidget()
        self._side = QVBoxLayout(self._panel)
        self._side.setContentsMargins(0, 0, 0, 0)
        self._side.setSpacing(8)
        self._side.addWidget(self.sphere)
        self._side.addWidget(self._controls)
        self._beside = Split("frame and sphere", Qt.Orientation.Horizontal, (_ANY_PX, _PANEL_PX))
        self._beside.addWidget(self.frame)
        self._beside.addWidget(self._panel)
        self._low = QWidget()
        under = self._under = QVBoxLayout(self._low)
        under.setContentsMargins(0, 0, 0, 0)
        under.setSpacing(_GAP_PX)
        under.addWidget(self.course, 1)
        for bar in (self.key_bar, self.hold_bar, self.fly_bar, self.move_bar, self.beside_bar, self.pace):
            under.addWidget(bar)
        self._split = Split("pictures and course", Qt.Orientation.Vertical, (1000, _COURSE_PX))
        self._split.addWidget(self._beside)
        self._split.addWidget(self._low)
        self._whole = Split("upright frame", Qt.Orientation.Horizontal, (_PANEL_PX, _ANY_PX), grows=1)
        self._whole.addWidget(self._split)
        page = QHBoxLayout(self)
        page.setContentsMargins(14, 6, 14, 6)
        page.addWidget(self._whole)
        self.show_part(None)  # before the borders are put: rows that are not asked for take no room
        for split in (self._beside, self._split, self._whole):
            split.setHandleWidth(8)
            split.settle()
        self.show_alone_for(LANDSCAPE)
        self.arrange(LANDSCAPE)

    def arrange(self, shape: Format) -> None:
        """Gives the frame of a shape its place."""
        self._shape = shape
        ratio = shape.size_px[0] / shape.size_px[1]
        upright = ratio < _UPRIGHT and not self._alone
        home = self._whole if upright else self._beside
        if self.frame.parent() is not home:
            home.insertWidget(0, self.frame)
            home.settle()
        abreast = upright and ratio < 1.0
        self._panel.setMinimumWidth(0 if abreast else _PANEL_PX)  # abreast, what is in it says
        self._side.setDirection(QBoxLayout.Direction.LeftToRight if abreast else QBoxLayout.Direction.TopToBottom)
        self._controls.setFixedWidth(_PANEL_PX)
        self.sphere.keep_proportion(not abreast)
        self._side.setStretchFactor(self.sphere, 1 if abreast else 0)
        self._side.setStretchFactor(self._controls, 0 if abreast else 1)
        self._panel.setVisible(not self._alone)
        self._fit_upright()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit_upright()

    def _fit_upright(self) -> None:
        """An upright frame is as wide as it is high enough for, and never more than half, until a hand says otherwise."""
        if self.frame.parent() is self._whole and not self._whole.by_hand:
            width, height = self._shape.size_px
            wide = round(self.frame.room_px(self._whole.height()) * width / height) + self.frame.around_px
            self._whole.setSizes([min(wide, self._whole.width() // 2), self._whole.width()])

    def show_alone(self, alone: bool) -> None:
        """The frame alone, the course under it as a thin line; or everything again."""
        if alone and not self._alone:
            self._sizes = self._split.sizes()
        self._alone = alone
        self.arrange(self._shape)
        self.course.show_thin(alone)
        self._low.setMaximumHeight(self.course.minimumHeight() if alone else _ANY_PX)
        self._split.setSizes([_ANY_PX, 1] if alone else self._sizes)
        self.show_part(None if alone else ())

    def turn_bar(self, name: str) -> None:
        """Shows a row of controls under the course, or puts it away."""
        self._asked = "" if self._asked == name else name
        self.show_part(None)

    def show_bar(self, name: str) -> None:
        """Shows a row of controls under the course."""
        self._asked = name
        self.show_part(None)

    def show_part(self, part: object) -> None:
        """The row that was asked for stands under the course; while a part is marked that of speed does, where none was."""
        asked = self._asked or ("pace" if part else "")
        rows = {
            "key": self.key_bar,
            "hold": self.hold_bar,
            "fly": self.fly_bar,
            "move": self.move_bar,
            "beside": self.beside_bar,
            "pace": self.pace,
        }
        course_px = self.course.height() if self.isVisible() else 0
        for name, bar in rows.items():
            bar.setVisible(not self._alone and asked == name)
        if course_px and not self._alone:  # the course stays as high as it is
            bar_px = next((bar.sizeHint().height() + _GAP_PX for name, bar in rows.items() if name == asked), 0)
            whole = sum(self._split.sizes())
            self._split.setSizes([whole - course_px - bar_px, course_px + bar_px])
            self._under.activate()

    def show_alone_for(self, shape: Format) -> None:
        """16:9 is what all shapes share: it has nothing of its own."""
        self.alone.setVisible(shape is not LANDSCAPE)
        self.alone.setText(f"{shape.name} alone")

    def list_cuts(self, entries: list[tuple[str, str]], chosen: str) -> None:
        """What can be worked on, and what is."""
        self.cuts.setVisible(bool(entries))
        if entries != [(self.cuts.itemData(n), self.cuts.itemText(n)) for n in range(self.cuts.count())]:
            offer(self.cuts, entries)
        self.cuts.setCurrentIndex(self.cuts.findData(chosen))
        self.cuts.setToolTip(self.cuts.currentText())

    def show_angles(self, view: View, shown: View) -> None:
        """What the frame in sight shows; view: as 16:9 has it, by which a look is known."""
        turned = replace(shown, yaw_deg=round(float(wrap_deg(shown.yaw_deg)), 1))
        for name, number in self.angles.items():
            number.show_value(getattr(turned, name))
        self.angles["fov_deg"].setToolTip(
            f"Field of view across the frame, up to {lens.fov_limit_deg(shown.bend):.0f}°"
        )
        self.looks.show_value(nearest_look(view, self._own_looks))

    def show_looks(self, own: tuple[Look, ...]) -> None:
        """The looks to begin from: those that ship, and the person's own."""
        if own != self._own_looks:
            self._own_looks = own
            self.looks.set_options([(look, look.name) for look in (*LOOKS, *own)])
