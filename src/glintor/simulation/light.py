"""Sun, sky and air over the simulated place, in photometric numbers."""

import math

import numpy as np
from msgspec import Struct

from glintor.placement.sun import OVERCAST, Sun
from glintor.types import Array


class Light(Struct, frozen=True):
    """Sun, sky and air. cover 0 is a clear blue sky, 0.35 has fair-weather clouds, from OVERCAST it is all grey."""

    sun: Sun
    bearing_deg: float  # of the canal's way ahead
    cover: float = 0.34

    @property
    def overcast(self) -> bool:
        return self.cover >= OVERCAST

    def sun_vector(self) -> Array:
        """(3,) towards the sun in scene axes."""
        turn = math.radians(self.sun.azimuth_deg - self.bearing_deg)
        e = math.radians(max(self.sun.elevation_deg, -5.0))
        return np.array([math.cos(e) * math.cos(turn), -math.cos(e) * math.sin(turn), math.sin(e)])

    def illuminance_lux(self) -> tuple[float, float]:
        """Illuminance normal to the sun and of the whole sky on level ground.

        Overcast: Krochmann & Seidl (1974), 300 + 21000 sin(elevation), from memory.
        Direct: 110 klux x 0.74^(air mass^0.6), a clear-air fit so that a card in midday sun reads EV 15; air mass by Kasten & Young (1989), from memory.
        """
        elevation = self.sun.elevation_deg
        if elevation <= 0.0:
            return 0.0, (300.0 if self.overcast else 400.0) * 10.0 ** (elevation / 4.0)
        if self.overcast:
            return 0.0, 300.0 + 21_000.0 * math.sin(math.radians(elevation))
        if not self.sun.shines:  # behind the horizon: the sky alone
            return 0.0, 400.0 + 21_000.0 * math.sin(math.radians(elevation)) ** 0.6
        mass = 1.0 / (math.sin(math.radians(elevation)) + 0.50572 * (elevation + 6.07995) ** -1.6364)
        return 110_000.0 * 0.74 ** (mass**0.6), 400.0 + 21_000.0 * math.sin(math.radians(elevation)) ** 0.6

    def sky_numbers(self) -> Array:
        """Zenith luminance, CIE a b c d e, normalisation, sun disc, cloud share: what the sky function takes.

        CIE S 011/E:2003 type 12, "CIE standard clear sky, low luminance turbidity", or type 1, "CIE standard overcast
        sky, steep luminance gradation towards zenith"; its zenith has 9/(7 pi) of the sky's illuminance.
        """
        a, b, c, d, e = (4.0, -0.70, 0.0, -1.0, 0.0) if self.overcast else (-1.0, -0.32, 10.0, -3.0, 0.45)
        sun_e, sky_e = self.illuminance_lux()
        zenith_angle = math.radians(90.0 - max(self.sun.elevation_deg, 0.0))
        phi = 1.0 + a * math.exp(b)
        f = 1.0 + c * (math.exp(d * zenith_angle) - math.exp(d * math.pi / 2)) + e * math.cos(zenith_angle) ** 2
        disc = sun_e / 6.8e-5  # solid angle of the sun's disc, sr
        zenith = sky_e * 9.0 / (7.0 * math.pi) if self.overcast else sky_e / 4.3
        clouds = 0.0 if self.overcast else self.cover
        grey, quarter = float(self.overcast), math.exp(d * math.pi / 2.0)
        return np.array([zenith, a, b, c, d, e, 1.0 / (phi * f), min(disc, 3e6), clouds, grey, quarter])
