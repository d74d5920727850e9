"""The row of controls for speed: how fast the marked part of the clip runs in the film, or how long a freeze lasts."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QWidget

from glintor.desktop.controls import Chips, Elided, Number, button, choice
from glintor.reframing.cut import Cut
from glintor.reframing.retime import LONGEST_FREEZE_S, Stretch

SPEEDS = ((0.25, "¼"), (0.5, "½"), (1.0, "×1"), (2.0, "×2"), (4.0, "×4"), (16.0, "×16"), (64.0, "×64"))
_SOUNDS = (("pitch", "pitch kept"), ("mute", "muted"), ("none", "no sound"))


class PaceBar(QWidget):
    """Says what the hand wants; the desk lays it over the marked part."""

    speed_chosen = pyqtSignal(float)
    ramp_chosen = pyqtSignal(float)  # 0: steady
    back_wanted = pyqtSignal(bool)
    hold_asked = pyqtSignal()
    freeze_length_typed = pyqtSignal(float)
    freeze_moves_wanted = pyqtSignal(bool)  # the view in the freeze at hand
    blur_wanted = pyqtSignal(bool)
    sound_chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.speeds = Chips("Speed", [(value, words) for value, words in SPEEDS])
        ramps = [(0.0, "steady"), *((value, f"to {words}") for value, words in SPEEDS)]
        self.ramp = choice("Speed at the end of the part", ramps)
        self.back, self.blur = QCheckBox("Back"), QCheckBox("Blur")
        self.back.setToolTip("Show the part from its end to its start")
        self.blur.setToolTip(
            "Sped up, each frame of the film is the mean of those it skips; otherwise it is the nearest"
        )
        self.hold = button(
            "Hold", self.hold_asked.emit, tip="Freeze the picture at the present moment for 2 s, or let it go (H)"
        )
        self.held = Number("held", " s", 0.1, LONGEST_FREEZE_S, 0.1, 1)
        self.view_moves = QCheckBox("View moves")
        self.view_moves.setToolTip("The view moves over the held picture: its path has time of its own here (Shift+H)")
        self.sound = choice("Sound where the speed changes", _SOUNDS)
        self.length = Elided("", "soft")
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(7)
        for thing in (self.speeds, self.ramp, self.back, self.hold, self.held, self.view_moves, self.blur, self.sound):
            line.addWidget(thing)
        line.addWidget(self.length, 1)
        self.speeds.chosen.connect(lambda value: self.speed_chosen.emit(float(value)))
        self.ramp.activated.connect(lambda at: self.ramp_chosen.emit(float(self.ramp.itemData(at))))
        self.back.clicked.connect(self.back_wanted)
        self.blur.clicked.connect(self.blur_wanted)
        self.held.edited.connect(self.freeze_length_typed)
        self.view_moves.clicked.connect(self.freeze_moves_wanted)
        self.sound.activated.connect(lambda at: self.sound_chosen.emit(str(self.sound.itemData(at))))

    def show_cut(
        self, cut: Cut | None, stretch: Stretch | None, part: tuple[float, float] | None, freeze: Stretch | None = None
    ) -> None:
        """The cut's settings, and the speed of its marked part where it has one of its own; in a freeze, what that is like."""
        self.setEnabled(cut is not None)
        for thing in (self.speeds, self.ramp, self.back):
            thing.setVisible(freeze is None)
        for of_freeze in (self.held, self.view_moves):
            of_freeze.setVisible(freeze is not None)
        self.hold.setText("Hold" if freeze is None else "Let go")
        if freeze is not None:
            self.held.show_value(freeze.freeze_s)
            self.view_moves.setChecked(freeze.view_moves)
        if cut is None:
            self.length.show_words("")
            return
        now = stretch or Stretch(start_s=0.0, end_s=1.0)
        self.speeds.show_value(now.speed)
        self.ramp.setCurrentIndex(max(self.ramp.findData(now.end_speed), 0))
        self.back.setChecked(now.backwards)
        self.blur.setChecked(cut.blur)
        self.sound.setCurrentIndex(self.sound.findData(cut.sound))
        what = f"{part[0]:.1f} to {part[1]:.1f} s" if part is not None else "this part" if stretch else "whole cut"
        what = what if freeze is None else "this freeze"
        self.length.show_words(f"film {cut.timeline.duration_s:.1f} s, setting {what}")
