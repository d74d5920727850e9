"""Sound that is heard while something plays: decoded on a thread of its own, and the clock that its output is."""

import threading
from collections import deque
from collections.abc import Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QElapsedTimer, QIODevice, QObject

from glintor.media.sound import RATE_HZ
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


class SoundOut(QObject):
    """Plays sound, and tells how much of it was heard; where there is no output the time that has passed."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._clock = QElapsedTimer()
        self._sink: Any = None
        self._stream: SoundStream | None = None

    def start(self, blocks: Iterator[NDArray[np.float32]] | None) -> str:
        """Begins to play blocks (2, n) at 48 kHz, None for silence; why nothing is heard, in words."""
        self.stop()
        words = "there is no sound" if blocks is None else self._play(blocks)
        self._clock.start()
        return words

    def _play(self, blocks: Iterator[NDArray[np.float32]]) -> str:
        try:
            from PyQt6.QtMultimedia import QAudioFormat, QAudioSink, QMediaDevices
        except ImportError:
            return "no sound: the machine lacks a sound library"
        device = QMediaDevices.defaultAudioOutput()
        if device.isNull():
            return "no sound output on this machine"
        form = QAudioFormat()
        form.setSampleRate(RATE_HZ)
        form.setChannelCount(2)
        form.setSampleFormat(QAudioFormat.SampleFormat.Int16)
        self._stream = SoundStream(blocks)
        self._sink = QAudioSink(device, form, self)
        self._sink.start(self._stream)
        return ""

    @property
    def passed_s(self) -> float:
        """How long it has played."""
        if self._sink is not None:
            return float(self._sink.processedUSecs()) / 1e6
        return self._clock.elapsed() / 1000.0

    def stop(self) -> None:
        """Ends it; what was being decoded is let go."""
        if self._sink is not None:
            self._sink.stop()
            self._sink = None
        if self._stream is not None:
            self._stream.end()
            self._stream = None
