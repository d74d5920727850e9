"""Playing: a clock that sound drives where the machine has an output, and frames that follow it."""

from pathlib import Path

import numpy as np
from PyQt6.QtCore import QBuffer, QByteArray, QElapsedTimer, QIODevice, QObject, QTimer, pyqtSignal

from glintor.media.sound import RATE_HZ, whole_sound


class Player(QObject):
    """`moved` says the present moment while playing; `stopped` when it ends by itself or by hand."""

    moved = pyqtSignal(float)
    stopped = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._timer = QTimer(self)
        self._timer.setInterval(16)
        self._timer.timeout.connect(self._tick)
        self._clock = QElapsedTimer()
        self._from_s = self._end_s = 0.0
        self._sink: object | None = None
        self._sound: dict[Path, QByteArray] = {}
        self.sound_words = ""

    @property
    def playing(self) -> bool:
        return self._timer.isActive()

    def play(self, file: Path, from_s: float, end_s: float) -> None:
        """Plays from a moment to another."""
        self.stop()
        self._from_s, self._end_s = from_s, end_s
        self._start_sound(file, from_s, end_s)
        self._clock.start()
        self._timer.start()

    def stop(self) -> None:
        if self._sink is not None:
            self._sink.stop()  # type: ignore[attr-defined]
            self._sink = None
        if self._timer.isActive():
            self._timer.stop()
            self.stopped.emit()

    def _start_sound(self, file: Path, from_s: float, end_s: float) -> None:
        try:
            from PyQt6.QtMultimedia import QAudioFormat, QAudioSink, QMediaDevices
        except ImportError:
            self.sound_words = "no sound: the machine lacks a sound library"
            return
        device = QMediaDevices.defaultAudioOutput()
        if device.isNull():
            self.sound_words = "no sound output on this machine"
            return
        if file not in self._sound:
            sound = whole_sound(file)
            self._sound = {file: QByteArray((np.clip(sound.T, -1, 1) * 32767).astype("<i2").tobytes())}
        samples = self._sound[file]
        first, last = (int(round(t * RATE_HZ)) * 4 for t in (from_s, end_s))
        part = samples.mid(first, last - first)
        if part.isEmpty():
            self.sound_words = "this clip has no sound"
            return
        form = QAudioFormat()
        form.setSampleRate(RATE_HZ)
        form.setChannelCount(2)
        form.setSampleFormat(QAudioFormat.SampleFormat.Int16)
        self._buffer = QBuffer(self)
        self._buffer.setData(part)
        self._buffer.open(QIODevice.OpenModeFlag.ReadOnly)
        self._sink = QAudioSink(device, form, self)
        self._sink.start(self._buffer)
        self.sound_words = ""

    def _tick(self) -> None:
        passed = self._clock.elapsed() / 1000.0
        if self._sink is not None:
            heard = self._sink.processedUSecs() / 1e6  # type: ignore[attr-defined]
            passed = heard if heard > 0 else 0.0
        now = self._from_s + passed
        if now >= self._end_s:
            self.moved.emit(self._end_s)
            self.stop()
            return
        self.moved.emit(now)
