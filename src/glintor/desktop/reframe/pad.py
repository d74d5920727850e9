"""A game controller, where one is plugged in and the package `evdev` is there to read it: two sticks as pushes."""

import contextlib
import threading
from collections.abc import Callable
from typing import Any

from glintor.desktop.reframe.push import Push

_STICKS = ("ABS_X", "ABS_Y", "ABS_RY", "ABS_RX")  # right, down, down, right: turn and tilt, zoom and roll
_REST = 0.12


class Pad:
    """Reads the first controller with two sticks on a thread of its own; `push` is what it pushes now."""

    def __init__(self, device: Any) -> None:
        self._device = device
        self._axes: dict[int, tuple[str, float, float]] = {}
        self._values = dict.fromkeys(_STICKS, 0.0)
        self._thread = threading.Thread(target=self._read, name="controller", daemon=True)

    @staticmethod
    def first(say: Callable[[str], object]) -> "Pad | None":
        """The first controller there is; None without one. Where it cannot be read, that is said."""
        try:
            import evdev
        except ImportError:
            return None
        for path in evdev.list_devices():
            try:
                device = evdev.InputDevice(path)
            except OSError:
                continue
            pad = Pad(device)
            if pad.reads(evdev.ecodes):
                pad._thread.start()
                say(f"Flying with {device.name} too")
                return pad
            device.close()
        return None

    def reads(self, codes: Any) -> bool:
        """Whether it has two sticks; learns how far they go."""
        told = dict(self._device.capabilities().get(codes.EV_ABS, []))
        for name in _STICKS:
            reach = told.get(getattr(codes, name))
            if reach is None:
                return False
            self._axes[getattr(codes, name)] = (name, (reach.max + reach.min) / 2.0, (reach.max - reach.min) / 2.0)
        return True

    def _read(self) -> None:
        with contextlib.suppress(OSError, ValueError):  # pulled out, or put away
            for event in self._device.read_loop():
                if event.code in self._axes and event.type == 3:
                    name, middle, half = self._axes[event.code]
                    self._values[name] = (event.value - middle) / max(half, 1.0)

    @property
    def push(self) -> Push:
        right, down, back, roll = (self._values[name] for name in _STICKS)
        return Push(_eased(right), _eased(-down), _eased(-back), _eased(roll))

    def close(self) -> None:
        with contextlib.suppress(OSError, AttributeError):
            self._device.close()


def _eased(value: float) -> float:
    """Nothing while it rests, gentle near that."""
    far = max(abs(value) - _REST, 0.0) / (1.0 - _REST)
    return min(far, 1.0) ** 2 * (1.0 if value > 0 else -1.0)
