"""Light that nobody simulated: from a published table, a hand meter, or a test frame."""

from typing import Annotated, Literal

import msgspec
import numpy as np
from msgspec import Meta

from glintor.errors import InputError
from glintor.exposure.metering import Measured, told
from glintor.exposure.values import INCIDENT_METER_C, SCENES, ev100

Kind = Literal["place", "table", "meter", "frame"]
SPAN_STOPS = 8.0  # that a scene holds round its mean where only the mean is known (judgement, no source)
LEAST_EV, MOST_EV = -7.0, 19.0
_LUX = (0.001, 200_000.0)


class LightFrom(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Light from some second of the take on.

    kind   the simulated place, a published table, a hand meter, or a test frame
    ev     EV100 of the front and, where it is another, of the rear lens; nothing of a place or a frame
    words  as it was chosen or typed
    file   of a test frame; frame_ev: the EV100 that it was exposed for, where its file does not say
    """

    kind: Kind
    from_s: Annotated[float, Meta(ge=0)] = 0.0
    ev: Annotated[float, Meta(ge=LEAST_EV, le=MOST_EV)] = 12.0
    rear_ev: Annotated[float, Meta(ge=LEAST_EV, le=MOST_EV)] | None = None
    words: str = ""
    file: str = ""
    curve: str = ""
    frame_ev: Annotated[float, Meta(ge=-20, le=30)] | None = None

    @property
    def source(self) -> str:
        """Where it is known from, for the chart."""
        known = {"place": "simulated place", "table": "published table", "meter": "hand meter", "frame": "test frame"}
        return known[self.kind] + (f": {self.words}" if self.words else "")

    @property
    def measured(self) -> Measured:
        """Of a table or a meter."""
        return told(self.ev, SPAN_STOPS, self.rear_ev)


def ev_of_lux(lux: float) -> float:
    """EV100 of an incident reading: log2(E S / C), S = 100, C = 250 lx s (ISO 2720). Raises InputError."""
    if not _LUX[0] <= lux <= _LUX[1]:
        raise InputError(f"{lux:g} lux cannot be.", advice=f"Type {_LUX[0]:g} to {_LUX[1]:g}.")
    return float(np.log2(lux * 100.0 / INCIDENT_METER_C))


def ev_of_card(f_number: float, time_s: float, iso: float) -> float:
    """EV100 of a grey card metered with another camera. Raises InputError where such a setting cannot be."""
    ev = float(ev100(f_number, time_s, iso=iso))
    if not LEAST_EV <= ev <= MOST_EV:
        raise InputError(
            f"f/{f_number:g}, {time_s:g} s, ISO {iso:g} is EV {ev:.1f}, which no light has.",
            advice="Check the three numbers.",
        )
    return ev


def read_light(text: str) -> LightFrom:
    """Light as it is typed: "EV 12.5", "3200 lux", "f/8 1/125 ISO 100" or the name of a scene. Raises InputError."""
    words = text.strip()
    low = words.lower().replace("iso", " iso ").replace("f/", " f/ ")
    parts = low.split()
    try:
        if low in dict(SCENES):
            return LightFrom(kind="table", ev=dict(SCENES)[low], words=words)
        if parts[:1] == ["ev"] or parts[-1:] == ["ev"]:
            ev = float(parts[1] if parts[0] == "ev" else parts[0])
            if not LEAST_EV <= ev <= MOST_EV:
                raise InputError(f"EV {ev:g} cannot be.", advice=f"Type {LEAST_EV:g} to {MOST_EV:g}.")
            return LightFrom(kind="meter", ev=ev, words=words)
        if parts[-1:] in (["lux"], ["lx"]):
            return LightFrom(kind="meter", ev=ev_of_lux(float(parts[0])), words=words)
        if "f/" in parts and "iso" in parts:
            number, iso = float(parts[parts.index("f/") + 1]), float(parts[parts.index("iso") + 1])
            time = next(p for p in parts if ("/" in p and p != "f/") or p.endswith("s"))
            above, _, below = time.rstrip("s").partition("/")
            return LightFrom(kind="meter", ev=ev_of_card(number, float(above) / float(below or 1.0), iso), words=words)
        return LightFrom(kind="meter", ev=float(low), words=f"EV {words}")
    except (ValueError, StopIteration, ZeroDivisionError, IndexError, msgspec.ValidationError) as error:
        raise InputError(
            f"{words or 'Nothing'} is no light.",
            advice="Type EV 12.5, 3200 lux, f/8 1/125 ISO 100, or the name of a scene.",
        ) from error
