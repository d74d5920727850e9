"""What a place looks like, in words and a few numbers: the ground, what stands about, who is there. Nothing of it is measured;
it is what a person says, or one of the ready-made descriptions beside this file says for them."""

from functools import lru_cache
from pathlib import Path
from typing import Annotated, Literal, get_args

import msgspec
import numpy as np
from msgspec import Meta

from glintor.errors import InputError
from glintor.placement.told import read_told, write_told

FOLDER = Path(__file__).parent / "places"
CANAL = {
    "wharf": "Fennel Wharf, beside the boat",
    "towpath": "towpath, trees and hedge",
    "cobdale": "Cobdale bridge and tunnel",
    "lock": "Pell Lock",
}
BANK_M = 0.35  # of the canal's banks over its water
UNKNOWN = "unknown"  # where nobody has said yet what it looks like: drawn as level grass and nothing else

Ground = Literal["grass", "path", "gravel", "road", "paving", "sand", "snow", "rock", "water", "floor"]
What = Literal["wood", "trees", "hedge", "wall", "houses", "cliff", "water", "bridge", "roof", "tunnel", "cabin"]
Side = Literal["left", "right", "ahead", "behind", "over"]
Name = Annotated[str, Meta(min_length=1, max_length=64, pattern="^[A-Za-z0-9_-]+$")]
Bearing = Annotated[float, Meta(ge=0, lt=360)]
Height = Annotated[float, Meta(ge=-5, le=89)]
Length = Annotated[float, Meta(ge=0, le=500)]
SIDES: dict[What, tuple[Side, ...]] = {
    what: ("over",) if what in ("bridge", "roof", "tunnel", "cabin") else ("left", "right", "ahead", "behind")
    for what in get_args(What)
}


class Standing(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One thing that stands about; a cabin of a vehicle stands round the shot.

    away_m    from the middle of the way to its nearest edge; of a bridge: how far ahead it crosses; of a cabin: to its sides
    height_m  over the ground; of water: how far it lies below; of what is overhead: the room under it
    """

    what: What
    side: Side
    away_m: Length = 6.0
    height_m: Length = 3.0

    def __post_init__(self) -> None:
        if self.side not in SIDES[self.what]:
            raise InputError(f"{self.what} cannot be {self.side}.", advice=f"It can be {', '.join(SIDES[self.what])}.")


class Place(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A place.

    known    who says so: a person, or a ready-made description
    way      what one goes on; way_m: how wide, 0 where the ground is all the same; beside: the ground to its sides
    slope_deg, falls_deg  of the ground, and the bearing in which it falls; where that is None, the way goes uphill (below 0: downhill)
    horizon  what stands against the sky far off: bearings clockwise from true north and heights in degrees, in between evenly
    photo    taken there, by its place on the disk: a photo sphere is drawn instead of ground and surroundings, which then only
             keep the sun off; photo_wide_deg: of a flat one, which stands for its own direction only, 0 of a sphere
    photo_faces_deg  the bearing of the photo's middle, None where nobody knows; photo_height_m: of its lens over the ground
    people, traffic, lamps  how many are about
    """

    id: Name
    name: Annotated[str, Meta(min_length=1, max_length=80)]
    known: Literal["said", "ready-made"] = "said"
    way: Ground = "grass"
    way_m: Length = 0.0
    beside: Ground = "grass"
    around: tuple[Standing, ...] = ()
    slope_deg: Annotated[float, Meta(ge=-45, le=45)] = 0.0
    falls_deg: Bearing | None = None
    horizon: tuple[tuple[Bearing, Height], ...] = ()
    photo: str = ""
    photo_faces_deg: Bearing | None = None
    photo_height_m: Annotated[float, Meta(gt=0, le=100)] = 1.7
    photo_wide_deg: Annotated[float, Meta(ge=0, le=140)] = 0.0
    people: Annotated[int, Meta(ge=0, le=12)] = 0
    traffic: Annotated[int, Meta(ge=0, le=8)] = 0
    lamps: Annotated[int, Meta(ge=0, le=8)] = 0

    @property
    def pictured(self) -> bool:
        """Whether a photo sphere stands for all of it."""
        return bool(self.photo) and self.photo_wide_deg <= 0.0

    @property
    def wet(self) -> bool:
        """Whether water is part of it; such a place is drawn level."""
        return self.way == "water" or self.beside == "water" or any(one.what == "water" for one in self.around)

    def rises(self, way_bearing_deg: float, along_deg: float = 0.0) -> tuple[float, float]:
        """How much its ground rises for each metre ahead and to the left on a way; along_deg: of the way itself, uphill above 0,
        where the place says nothing."""
        if self.wet or self.pictured:
            return 0.0, 0.0
        if not self.slope_deg:
            return float(np.tan(np.radians(along_deg))), 0.0
        rise = float(np.tan(np.radians(self.slope_deg)))
        if self.falls_deg is None:
            return rise, 0.0
        off = np.radians(self.falls_deg - way_bearing_deg)
        return -abs(rise) * float(np.cos(off)), abs(rise) * float(np.sin(off))

    @property
    def indoors(self) -> bool:
        """Whether no wind comes there: in a cabin, or under a roof with walls on three sides at least."""
        over = {one.what for one in self.around if one.side == "over"}
        closed = {one.side for one in self.around if one.what in ("wall", "houses", "cliff")} - {"over"}
        return "cabin" in over or ("roof" in over and len(closed) >= 3)

    @property
    def covered(self) -> bool:
        """Whether something overhead keeps part of the sky away."""
        return any(one.side == "over" for one in self.around)


def horizon_deg(horizon: tuple[tuple[float, float], ...], bearing_deg: float) -> float:
    """How high the horizon stands in a direction, degrees; 0 where nobody said."""
    if not horizon:
        return 0.0
    bearings, heights = (np.array(values) for values in zip(*sorted(horizon), strict=True))
    return float(np.interp(bearing_deg % 360.0, bearings, heights, period=360.0))


def horizon_words(horizon: tuple[tuple[float, float], ...]) -> str:
    """As it is typed: bearing and height, then the next."""
    return ", ".join(f"{bearing:03.0f} {height:g}" for bearing, height in horizon)


def horizon_of(words: str) -> tuple[tuple[float, float], ...]:
    """A horizon as it is typed, for example `080 12, 180 30`. Raises InputError."""
    out = []
    for part in filter(str.strip, words.split(",")):
        try:
            bearing, height = (float(number) for number in part.split())
        except ValueError as error:
            raise InputError(
                f"{part.strip()} is no direction with a height.", advice="Write them as 080 12, 180 30."
            ) from error
        if not -5.0 <= height <= 89.0:
            raise InputError(
                f"A horizon {height:g} degrees high cannot be.", advice="Heights go from -5 to 89 degrees."
            )
        out.append((bearing % 360.0, height))
    return tuple(sorted(out))


UNDESCRIBED = Place(id=UNKNOWN, name="not described yet")


@lru_cache(maxsize=1)
def ready_places() -> dict[str, Place]:
    """The ready-made descriptions by their ids, in the order of their names. Each is open JSON in `FOLDER`."""
    found = [read_place(file.read_bytes(), file.name) for file in sorted(FOLDER.glob("*.json"))]
    return {
        place.id: msgspec.structs.replace(place, known="ready-made") for place in sorted(found, key=lambda p: p.name)
    }


def read_place(content: bytes, name: str) -> Place:
    """A place in JSON. Raises InputError with what is wrong and where."""
    return read_told(content, Place, name, "place")


def write_place(place: Place) -> bytes:
    """A place as indented JSON."""
    return write_told(place)


def words_of(place: Place) -> str:
    """A place in a line."""
    if place.pictured:
        faces = (
            "its middle faces nobody knows where"
            if place.photo_faces_deg is None
            else f"its middle faces {place.photo_faces_deg:.0f} degrees"
        )
        return f"as photographed, {place.photo_height_m:g} m over the ground; {faces}"
    ground = place.way if place.way_m <= 0.0 or place.way == place.beside else f"{place.way}, {place.beside} beside"
    things = [
        f"{one.what} {one.side} {one.away_m:g} m" if one.side != "over" else f"{one.what} over it"
        for one in place.around
    ]
    more = [
        f"{n} {word}"
        for n, word in ((place.people, "people"), (place.traffic, "vehicles"), (place.lamps, "lamps"))
        if n
    ]
    if place.slope_deg:
        along = "uphill" if place.slope_deg > 0 else "downhill"
        falls = along if place.falls_deg is None else f"falling to {place.falls_deg:03.0f}"
        ground += f", {abs(place.slope_deg):g} degrees {falls}"
    if place.photo:
        faces = "ahead" if place.photo_faces_deg is None else f"to {place.photo_faces_deg:03.0f} degrees"
        more.append(f"a photo {place.photo_wide_deg:g} degrees wide {faces}")
    far = [f"horizon up to {max(height for _, height in place.horizon):g} degrees"] if place.horizon else []
    return "; ".join([ground, *things, *far, *more])
