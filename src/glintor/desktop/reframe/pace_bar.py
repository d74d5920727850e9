"""The row of controls for speed: how fast the marked part of the clip runs in the film."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QHBoxLayout, QWidget

from glintor.desktop.controls import Chips, Elided, button, choice
from glintor.reframing.cut import Cut
from glintor.reframing.retime import Stretch

SPEEDS = ((0.25, "¼"), (0.5, "½"), (1.0, "×1"), (2.0, "×2"), (4.0, "×4"), (16.0, "×16"), (64.0, "×64"))
_SOUNDS = (("pitch", "pitch kept"), ("mute", "muted"), ("none", "no sound"))


class PaceBar(QWidget):
    """Says what the hand wants; the desk lays it over the marked part."""

    speed_chosen = pyqtSignal(float)
    ramp_chosen = pyqtSignal(float)  # 0: steady
    back_wanted = pyqtSignal(bool)
    hold_asked = pyqtSignal()
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
        self.hold = button("Hold", self.hold_asked.emit, tip="Freeze the picture at the present moment for 2 s (H)")
        self.sound = choice("Sound where the speed changes", _SOUNDS)
        self.length = Elided("", "soft")
        line = QHBoxLayout(self)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(7)
        for thing in (self.speeds, self.ramp, self.back, self.hold, self.blur, self.sound):
            line.addWidget(thing)
        line.addWidget(self.length, 1)
        self.speeds.chosen.connect(lambda value: self.speed_chosen.emit(float(value)))
        self.ramp.activated.connect(lambda at: self.ramp_chosen.emit(float(self.ramp.itemData(at))))
        self.back.clicked.connect(self.back_wanted)
        self.blur.clicked.connect(self.blur_wanted)
        self.sound.activated.connect(lambda at: self.sound_chosen.emit(str(self.sound.itemData(at))))

    def show_cut(self, cut: Cut | None, stretch: Stretch | None, part: tuple[float, float] | None) -> None:
        """The cut's settings, and the speed of its marked part where it has one of its own."""
        self.setEnabled(cut is not None)
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
        self.length.show_words(f"film {cut.timeline.duration_s:.1f} s, setting {what}")
