"""Playing: a clock that sound drives where the machine has an output, and frames that follow it."""

import threading
from collections import deque
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QElapsedTimer, QIODevice, QObject, QTimer, pyqtSignal

from glintor.export.sound import Cut, film_sound
from glintor.media.sound import RATE_HZ
from glintor.reframing.retime import Timeline
from glintor.report import in_words

_AHEAD_S = 3.0  # how much sound is decoded ahead
_BYTES_PER_S = 4 * RATE_HZ  # two channels of 16 bits


class SoundStream(QIODevice):
    """Sound being decoded on its own thread while it is heard; 16-bit stereo."""

    def __init__(self, blocks: Iterator[NDArray[np.float32]]) -> None:
        super().__init__()
        self._ready: deque[bytes] = deque()
        self._held = 0
        self._changed = threading.Condition()
        self._ended = self._closing = False
        self._thread = threading.Thread(target=self._fill, args=(blocks,), name="sound")
        self._thread.start()
        self.open(QIODevice.OpenModeFlag.ReadOnly)

    def _fill(self, blocks: Iterator[NDArray[np.float32]]) -> None:
        try:
            for block in blocks:
                samples = (np.clip(block.T, -1, 1) * 32767).astype("<i2").tobytes()
                with self._changed:
                    self._changed.wait_for(lambda: self._closing or self._held < _AHEAD_S * _BYTES_PER_S)
                    if self._closing:
                        return
                    self._ready.append(samples)
                    self._held += len(samples)
                    self._changed.notify_all()
        except Exception as error:  # the pictures go on without sound
            in_words("Sound", error)
        with self._changed:
            self._ended = True
            self._changed.notify_all()

    def readData(self, most: int) -> bytes:
        with self._changed:
            self._changed.wait_for(lambda: self._held > 0 or self._ended or self._closing, timeout=0.2)
            if not self._ready:
                return b""
            first = self._ready.popleft()
            if len(first) > most:
                self._ready.appendleft(first[most:])
                first = first[:most]
            self._held -= len(first)
            self._changed.notify_all()
            return first

    def writeData(self, _data: object) -> int:
        return -1

    def isSequential(self) -> bool:
        return True

    def end(self) -> None:
        with self._changed:
            self._closing = True
            self._changed.notify_all()
        self._thread.join()
        self.close()


class Player(QObject):
    """`moved` says the present moment (the film's and the path's) while playing; `stopped` when it ends."""

    moved = pyqtSignal(float, float)
    stopped = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._timer = QTimer(self)
        self._timer.setInterval(8)
        self._timer.timeout.connect(self._tick)
        self._clock = QElapsedTimer()
        self._timeline = Timeline(0.0, 0.0)
        self._from_s = 0.0
        self._sink: object | None = None
        self._stream: SoundStream | None = None
        self.sound_words = ""

    @property
    def playing(self) -> bool:
        return self._timer.isActive()

    def play(self, sound: Cut | None, timeline: Timeline, from_path_s: float, *, muted: bool = False) -> None:
        """Plays the film from the moment that shows a moment of the path to its end; sound: the clip's, None without."""
        self.stop()
        self._timeline, self._from_s = timeline, timeline.film_of_path(from_path_s)
        self._start_sound(sound, muted)
        self._clock.start()
        self._timer.start()

    def stop(self) -> None:
        if self._sink is not None:
            self._sink.stop()  # type: ignore[attr-defined]
            self._sink = None
        if self._stream is not None:
            self._stream.end()
            self._stream = None
        if self._timer.isActive():
            self._timer.stop()
            self.stopped.emit()

    def _start_sound(self, sound: Cut | None, muted: bool) -> None:
        if sound is None:
            self.sound_words = "the clip has no sound"
            return
        try:
            from PyQt6.QtMultimedia import QAudioFormat, QAudioSink, QMediaDevices
        except ImportError:
            self.sound_words = "no sound: the machine lacks a sound library"
            return
        device = QMediaDevices.defaultAudioOutput()
        if device.isNull():
            self.sound_words = "no sound output on this machine"
            return
        form = QAudioFormat()
        form.setSampleRate(RATE_HZ)
        form.setChannelCount(2)
        form.setSampleFormat(QAudioFormat.SampleFormat.Int16)
        self._stream = SoundStream(film_sound(sound, self._timeline, muted=muted, from_s=self._from_s))
        self._sink = QAudioSink(device, form, self)
        self._sink.start(self._stream)
        self.sound_words = ""

    def _tick(self) -> None:
        passed = self._clock.elapsed() / 1000.0
        if self._sink is not None:
            passed = self._sink.processedUSecs() / 1e6  # type: ignore[attr-defined]
        film_s = self._from_s + passed
        length_s = self._timeline.duration_s
        self.moved.emit(min(film_s, length_s), float(self._timeline.path_time(min(film_s, length_s))))
        if film_s >= length_s:
            self.stop()
