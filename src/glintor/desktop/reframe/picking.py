"""Clicks on the unrolled sphere: they say where to look, or are points that something else asked for."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from glintor.desktop.reframe.hand import Hand
from glintor.desktop.reframe.known import Known
from glintor.sphere.equirect import direction

Picked = Callable[[NDArray[np.float64]], bool]


class Picking:
    """look: what a click does (yaw and pitch, degrees) while no points are asked for."""

    def __init__(self, hand: Hand, known: Known, look: Callable[[float, float], object]) -> None:
        self._hand, self._known, self._look = hand, known, look
        self._picked: Picked | None = None

    def begin(self, picked: Picked) -> None:
        """The next clicks are given to `picked` as directions in the picture, until it wants no more."""
        self._picked = picked

    def stop(self) -> bool:
        """Leaves it; whether points were asked for."""
        was, self._picked = self._picked is not None, None
        return was

    def click(self, yaw_deg: float, pitch_deg: float) -> None:
        if self._picked is None:
            self._look(yaw_deg, pitch_deg)
            return
        look = direction(yaw_deg, pitch_deg)
        if self._known.turns is not None:
            look = look @ self._known.turns.at(self._hand.clip_s)
        if not self._picked(look):
            self._picked = None

    def drag(self, yaw_deg: float, pitch_deg: float) -> None:
        if self._picked is None:
            self._look(yaw_deg, pitch_deg)
