"""Playing: a clock that sound drives where the machine has an output, and frames that follow it."""

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from glintor.desktop.sound_out import SoundOut
from glintor.export.sound import Cut, film_sound
from glintor.reframing.retime import Timeline


class Player(QObject):
    """`moved` says the present moment (the film's and the path's) while playing; `stopped` when it ends."""

    moved = pyqtSignal(float, float)
    stopped = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._timer = QTimer(self)
        self._timer.setInterval(8)
        self._timer.timeout.connect(self._tick)
        self._out = SoundOut(self)
        self._timeline = Timeline(0.0, 0.0)
        self._from_s = 0.0
        self.sound_words = ""

    @property
    def playing(self) -> bool:
        return self._timer.isActive()

    def play(self, sound: Cut | None, timeline: Timeline, from_path_s: float, *, muted: bool = False) -> None:
        """Plays the film from the moment that shows a moment of the path to its end; sound: the clip's, None without."""
        self.stop()
        self._timeline, self._from_s = timeline, timeline.film_of_path(from_path_s)
        heard = None if sound is None else film_sound(sound, timeline, muted=muted, from_s=self._from_s)
        self.sound_words = self._out.start(heard)
        self._timer.start()

    def stop(self) -> None:
        self._out.stop()
        if self._timer.isActive():
            self._timer.stop()
            self.stopped.emit()

    def _tick(self) -> None:
        film_s = self._from_s + self._out.passed_s
        length_s = self._timeline.duration_s
        self.moved.emit(min(film_s, length_s), float(self._timeline.path_time(min(film_s, length_s))))
        if film_s >= length_s:
            self.stop()
