"""What carries camera and people, as data: its solids, what a mount finds to hold on to, its seats, and how it moves.

Points are (ahead, left, up) in metres from its own middle on the surface that counts as its floor.
"""

from functools import lru_cache
from itertools import pairwise
from pathlib import Path
from typing import Annotated, Literal

import msgspec
import numpy as np
from msgspec import Meta

from glintor.errors import InputError
from glintor.placement import solids as made
from glintor.placement.person import Pose
from glintor.placement.solids import Parts, Point
from glintor.quantities import first_absurd

FOLDER = Path(__file__).parent / "rides"
GROUND = "ground"  # the carrier of what stands

# What solids are made of, as a file says it, and the number that stands for it.
MADE_OF = {
    "hull": made.HULL, "cabin": made.CABIN, "roof": made.ROOF, "red": made.RAIL, "wood": made.WOOD, "brass": made.BRASS,
    "white": made.WHITE, "dark": made.DARK, "flowers": made.FLOWERS, "rope": made.ROPE, "rock": made.ROCK, "snow": made.SNOW,
    "steel": made.STEEL, "blue": made.BLUE, "yellow": made.YELLOW, "cloth": made.CLOTH, "fur": made.FUR,
}  # fmt: skip
Of = Literal[
    "hull", "cabin", "roof", "red", "wood", "brass", "white", "dark", "flowers", "rope", "rock", "snow", "steel", "blue",
    "yellow", "cloth", "fur",
]  # fmt: skip
Id = Annotated[str, Meta(min_length=1, max_length=64, pattern="^[A-Za-z0-9_-]+$")]
Words = Annotated[str, Meta(min_length=1, max_length=80)]
Coordinate = Annotated[float, Meta(ge=-200, le=200)]
Place = tuple[Coordinate, Coordinate, Coordinate]
Thick = Annotated[float, Meta(gt=0, le=50)]
_LATHE_STEPS = 6  # of a turned thing between two stations of its profile
_AXES = {"ahead": 0, "left": 1, "up": 2}
_LONG_M, _TOGETHER = 3.0, 6  # what is longer stands in a group of its own; the rest in groups of so many


def _check_corners(low: Place, high: Place, what: str) -> None:
    if not all(a < b for a, b in zip(low, high, strict=True)):
        raise InputError(f"{what} reaches from {low} to {high}.", advice="Its low corner is the smaller in all three.")


class Box(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="is", tag="box"):
    """An upright box between two corners."""

    low: Place
    high: Place
    of: Of

    def __post_init__(self) -> None:
        _check_corners(self.low, self.high, "A box")

    def add_to(self, parts: Parts) -> None:
        parts.box(self.low, self.high, MADE_OF[self.of])


class Limb(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="is", tag="limb"):
    """A round bar along points, as thick as its radius."""

    along: Annotated[tuple[Place, ...], Meta(min_length=2)]
    radius_m: Thick
    of: Of

    def add_to(self, parts: Parts) -> None:
        for a, b in pairwise(self.along):
            parts.limb(a, b, self.radius_m, MADE_OF[self.of])


class Blob(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="is", tag="blob"):
    """An ellipsoid with its three radii."""

    middle: Place
    radii_m: tuple[Thick, Thick, Thick]
    of: Of

    def add_to(self, parts: Parts) -> None:
        parts.blob(self.middle, self.radii_m, MADE_OF[self.of])


class Lathe(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="is", tag="lathe"):
    """Something turned: radii along an axis through a point; drawn as a row of ellipsoids."""

    middle: Place
    axis: Literal["ahead", "left", "up"]
    profile: Annotated[tuple[tuple[Coordinate, Thick], ...], Meta(min_length=2)]  # place along the axis, radius there
    of: Of

    def __post_init__(self) -> None:
        if any(b[0] <= a[0] for a, b in pairwise(self.profile)):
            raise InputError("The profile of a turned thing goes back.", advice="Write its stations from low to high.")

    def add_to(self, parts: Parts) -> None:
        k = _AXES[self.axis]
        for (at, r), (to, s) in pairwise(self.profile):
            half = (to - at) / _LATHE_STEPS / 2.0
            for n in range(_LATHE_STEPS):
                share = (n + 0.5) / _LATHE_STEPS
                middle, radii = list(self.middle), [r + (s - r) * share] * 3
                middle[k] += at + (to - at) * share
                radii[k] = 1.6 * half
                parts.blob((middle[0], middle[1], middle[2]), (radii[0], radii[1], radii[2]), MADE_OF[self.of])


class Slab(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="is", tag="slab"):
    """An outline seen from above, without hollows, between two heights."""

    outline: Annotated[tuple[tuple[Coordinate, Coordinate], ...], Meta(min_length=3, max_length=12)]
    low_m: Coordinate
    high_m: Coordinate
    of: Of

    def __post_init__(self) -> None:
        if self.high_m <= self.low_m:
            raise InputError(f"A slab ends at {self.high_m:g} m, below where it begins.")
        _turns_one_way(np.array(self.outline))

    def add_to(self, parts: Parts) -> None:
        corners = np.array(self.outline)
        if _area(corners) < 0.0:
            corners = corners[::-1]
        along = np.roll(corners, -1, axis=0) - corners
        out = np.stack([along[:, 1], -along[:, 0]], axis=1) / np.linalg.norm(along, axis=1, keepdims=True)
        faces = [(n[0], n[1], 0.0, float(n @ c)) for n, c in zip(out, corners, strict=True)]
        points = np.array([(*c, z) for c in self.outline for z in (self.low_m, self.high_m)])
        parts.prisms.append((np.array(faces + _round(points)), MADE_OF[self.of]))


class Sheet(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="is", tag="sheet"):
    """A flat piece with three corners or more, in their order, such as a sail or a wing."""

    corners: Annotated[tuple[Place, ...], Meta(min_length=3, max_length=8)]
    thick_m: Thick
    of: Of

    def __post_init__(self) -> None:
        self._flat()

    def _flat(self) -> tuple[np.ndarray, np.ndarray]:
        """Its corners and the direction at right angles to it."""
        points = np.array(self.corners)
        up = np.cross(points[1] - points[0], points[2] - points[0])
        size = float(np.linalg.norm(up))
        if size < 1e-6:
            raise InputError("The corners of a sheet lie on one line.")
        up = up / size
        if np.abs((points - points[0]) @ up).max() > 0.02:
            raise InputError(
                "The corners of a sheet do not lie in one plane.", advice="Use three corners, or two sheets."
            )
        one = (points[1] - points[0]) / np.linalg.norm(points[1] - points[0])
        _turns_one_way(np.stack([points @ one, points @ np.cross(up, one)], axis=1))
        return points, up

    def add_to(self, parts: Parts) -> None:
        points, up = self._flat()
        middle, half = points.mean(axis=0), self.thick_m / 2.0
        faces = [(*up, float(up @ points[0]) + half), (*-up, half - float(up @ points[0]))]
        for a, b in zip(points, np.roll(points, -1, axis=0), strict=True):
            out = np.cross(b - a, up)
            out = out / np.linalg.norm(out)
            out = out if float(out @ (a - middle)) > 0.0 else -out
            faces.append((*out, float(out @ a)))
        thick = np.concatenate([points + half * up, points - half * up])
        parts.prisms.append((np.array(faces + _round(thick)), MADE_OF[self.of]))


def _area(corners: np.ndarray) -> float:
    x, y = corners[:, 0], corners[:, 1]
    return float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum() / 2.0)


def _turns_one_way(corners: np.ndarray) -> None:
    along = np.roll(corners, -1, axis=0) - corners
    after = np.roll(along, -1, axis=0)
    turns = along[:, 0] * after[:, 1] - along[:, 1] * after[:, 0]
    if not ((turns > -1e-9).all() or (turns < 1e-9).all()) or abs(_area(corners)) < 1e-6:
        raise InputError("An outline has a hollow, or its corners are out of order.", advice="Split it into two.")


def _round(points: np.ndarray) -> list[tuple[float, float, float, float]]:
    """Faces across each axis that just hold points: a renderer bounds a prism by them."""
    low, high = points.min(axis=0), points.max(axis=0)
    faces = []
    for k in range(3):
        for sign, at in ((1.0, high[k]), (-1.0, -low[k])):
            normal = [0.0, 0.0, 0.0]
            normal[k] = sign
            faces.append((normal[0], normal[1], normal[2], float(at)))
    return faces


Solid = Box | Limb | Blob | Lathe | Slab | Sheet


class Tube(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Round bars that a clamp takes, all of one thickness. lines: their ends; straight: a bent one turns in the jaw."""

    id: Id
    words: Words
    lines: Annotated[tuple[tuple[Place, Place], ...], Meta(min_length=1)]
    diameter_mm: Annotated[float, Meta(gt=0, le=1000)]
    straight: bool = True


class Surface(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Flat pieces that something can be stuck to or stood on: low and high corners; level ones have one height."""

    id: Id
    words: Words
    areas: Annotated[tuple[tuple[Place, Place], ...], Meta(min_length=1)]
    of: Literal["glass", "metal", "wood", "plastic", "stone", "cloth"]
    inside: bool = False

    def __post_init__(self) -> None:
        for low, high in self.areas:
            if not all(a <= b for a, b in zip(low, high, strict=True)) or sum(
                a == b for a, b in zip(low, high, strict=True)
            ) not in (0, 1):
                raise InputError(f"A surface reaches from {low} to {high}.", advice="Its low corner comes first.")

    @property
    def level(self) -> bool:
        return all(low[2] == high[2] for low, high in self.areas)


class Seat(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Where somebody rides, stands or sits. feet: where the feet of somebody standing would be whose trunk and head are as in
    this pose. grips: what hands hold, the left first; needs_hands: how many of them that takes under way."""

    id: Id
    words: Words
    feet: Place
    pose: Pose = "stands"
    faces_deg: Annotated[float, Meta(ge=-180, le=180)] = 0.0
    grips: Annotated[tuple[Place, ...], Meta(max_length=2)] = ()
    needs_hands: Annotated[int, Meta(ge=0, le=2)] = 0
    helmet: bool = False


class Sway(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One motion: how fast, how far (ahead, left, up) and how much it turns about those axes."""

    hz: Annotated[float, Meta(gt=0, le=200)]
    offset_mm: Place = (0.0, 0.0, 0.0)
    turn_deg: Place = (0.0, 0.0, 0.0)


class Carrier(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A carrier.

    known     who says so: a person, or a ready-made file
    on        what it goes on; floor_m: how high its floor is over that
    speed_m_s what it usually does; lean_deg: how far it leans or rolls; bump_m_s2: at the foot of a mount
    busy      whether who moves it needs hands or eyes for that all the time
    subject   where somebody beside it would stand; looks: the way to what is worth seeing from it
    drive_m_s2  what sets a stick on it swaying; engine_hz: firing strokes a second, step_hz: of feet
    """

    id: Id
    words: Words
    about: str = ""
    known: Literal["said", "ready-made"] = "said"
    on: Literal["land", "water", "air"] = "land"
    floor_m: Annotated[float, Meta(ge=0, le=200)] = 0.0
    speed_m_s: Annotated[float, Meta(ge=0, le=60)] = 0.0
    lean_deg: Annotated[float, Meta(ge=0, le=45)] = 3.0
    bump_m_s2: Annotated[float, Meta(ge=0, le=100)] = 3.0
    drive_m_s2: Annotated[float, Meta(ge=0, le=50)] = 0.03
    engine_hz: Annotated[float, Meta(ge=0, le=200)] = 0.0
    step_hz: Annotated[float, Meta(ge=0, le=10)] = 0.0
    busy: bool = False
    subject: Place = (2.0, 0.5, 0.0)
    looks: Place = (1.0, 0.0, -0.02)
    solids: tuple[Solid, ...] = ()
    tubes: tuple[Tube, ...] = ()
    surfaces: tuple[Surface, ...] = ()
    seats: tuple[Seat, ...] = ()
    sways: tuple[Sway, ...] = ()

    def __post_init__(self) -> None:
        named = [*(t.id for t in self.tubes), *(s.id for s in self.surfaces), *(s.id for s in self.seats)]
        twice = next((name for n, name in enumerate(named) if name in named[:n]), None)
        if twice is not None:
            raise InputError(
                f"Two things of it are called {twice}.", advice="Give each tube, surface and seat its own id."
            )

    @property
    def moves(self) -> bool:
        return self.speed_m_s > 0.0

    @property
    def afloat(self) -> bool:
        return self.on == "water"

    @property
    def ground_up_m(self) -> float:
        """Where the ground or water lies, from its floor."""
        return -self.floor_m

    @property
    def usual(self) -> Place:
        """Where the usual subject's feet are: who drives, else in front of it."""
        return self.seats[0].feet if self.seats else self.subject

    def seat(self, feet: Point, within_m: float) -> Seat | None:
        """The seat that somebody with feet there is in."""
        near = [(float(np.hypot(feet[0] - s.feet[0], feet[1] - s.feet[1])), s) for s in self.seats]
        near = [(far, s) for far, s in near if far < within_m and abs(feet[2] - s.feet[2]) < 0.6]
        return min(near, key=lambda pair: pair[0])[1] if near else None


@lru_cache(maxsize=64)
def parts_of(carrier: Carrier) -> tuple[Parts, ...]:
    """Its solids in groups that lie close together: what is long by itself, the rest from back to front."""
    long, short = Parts(), []
    for solid in carrier.solids:
        one = Parts()
        solid.add_to(one)
        low, high = extent(one)
        if float((high - low).max()) > _LONG_M:
            _join(long, one)
        else:
            short.append((float(low[0] + high[0]), one))
    out = [] if long.empty else [long]
    short.sort(key=lambda pair: pair[0])
    for first in range(0, len(short), _TOGETHER):
        group = Parts()
        for _, one in short[first : first + _TOGETHER]:
            _join(group, one)
        out.append(group)
    return tuple(out)


def _join(into: Parts, other: Parts) -> None:
    into.boxes += other.boxes
    into.capsules += other.capsules
    into.ellipsoids += other.ellipsoids
    into.prisms += other.prisms


def extent(parts: Parts) -> tuple[np.ndarray, np.ndarray]:
    """The lowest and highest corner (3,) of the box round everything of a group."""
    lows: list[tuple[float, ...]] = [b[:3] for b in parts.boxes]
    highs: list[tuple[float, ...]] = [b[3:6] for b in parts.boxes]
    for c in parts.capsules:
        ends = tuple(zip(c[:3], c[3:6], strict=True))
        lows.append(tuple(min(e) - c[6] for e in ends))
        highs.append(tuple(max(e) + c[6] for e in ends))
    for e in parts.ellipsoids:
        lows.append(tuple(e[k] - e[k + 3] for k in range(3)))
        highs.append(tuple(e[k] + e[k + 3] for k in range(3)))
    for faces, _material in parts.prisms:  # a prism has a face across each axis on both sides; they bound it
        sides = [[float(f[3] * f[k]) for f in faces if abs(f[k]) > 0.999] for k in range(3)]
        lows.append(tuple(min(side) for side in sides))
        highs.append(tuple(max(side) for side in sides))
    return np.min(lows, axis=0), np.max(highs, axis=0)


@lru_cache(maxsize=1)
def ready_carriers() -> dict[str, Carrier]:
    """The ready-made carriers by their ids, in the order of their words. Each is open JSON in `FOLDER`."""
    found = [read_carrier(file.read_bytes(), file.name) for file in sorted(FOLDER.glob("*.json"))]
    found.sort(key=lambda carrier: carrier.words)
    return {carrier.id: msgspec.structs.replace(carrier, known="ready-made") for carrier in found}


def read_carrier(content: bytes, name: str) -> Carrier:
    """A carrier in JSON. Raises InputError with what is wrong and where."""
    try:
        carrier = msgspec.json.decode(content, type=Carrier)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as fault:
        text, _, where = str(fault).partition(" - at ")
        at = f", at {where.strip('`').lstrip('$.')}" if where else ""
        raise InputError(
            f"{name} is no carrier{at}: {text.rstrip('.')}.", unharmed="Nothing was changed.", advice="Mend that value."
        ) from fault
    wrong = first_absurd(carrier)
    if wrong is not None:
        raise InputError(f"{name} is no carrier, at {wrong}.", unharmed="Nothing was changed.", advice="Mend that.")
    return carrier


def write_carrier(carrier: Carrier) -> bytes:
    """A carrier as indented JSON."""
    return msgspec.json.format(msgspec.json.encode(carrier), indent=2) + b"\n"
