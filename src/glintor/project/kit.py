"""What is in the bag: open JSON, every number editable, generic defaults (common practice, no source)."""

from pathlib import Path
from typing import Annotated, Any, Literal

import msgspec
from msgspec import Meta

from glintor.errors import InputError
from glintor.exposure.modes import USUAL_MODES, Mode, mode_for
from glintor.exposure.solve import Sensor
from glintor.files import write_bytes
from glintor.placement.stick import Section, generic_stick
from glintor.project import versioned
from glintor.project.exposure import Exposure
from glintor.reframing.looks import Look
from glintor.sphere.lenses import Lenses

KIT_VERSION = 5
Positive = Annotated[float, Meta(gt=0)]
NotNegative = Annotated[float, Meta(ge=0)]
Identity = Annotated[str, Meta(min_length=1, max_length=64, pattern="^[A-Za-z0-9_-]+$")]
Count = Annotated[int, Meta(ge=0, le=99)]
# Stiffness in pascal and density in kg/m3 (handbook values; carbon and glass fibre along the tube).
USUAL_BATTERY_MIN, USUAL_CARD_GB = 80.0, 128.0  # common practice, no source
MATERIALS = {"aluminium": (69e9, 2700.0), "carbon": (110e9, 1600.0), "glass": (35e9, 1900.0)}
KINDS = {
    "tether": "", "guard": "", "helmet": "", "filter": "stops", "battery": "min", "card": "GB", "charger": "", "foam": "", "cloth": "",
    "light": "", "other": "",
}  # fmt: skip


class Camera(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A generic camera with two lenses: the gap between them decides what vanishes.

    id       what shots and takes call it by
    stitch   how its two pictures are joined: plain leaves all of the parallax, aligning brings near things together
    levels   whether its recordings are upright however it leans
    modes    what it can record, and what excludes what
    whose    who carries it, "" for oneself (so for all things of a kit); photo: a picture of it, by its place on the disk
    """

    id: Identity = "camera"
    name: str = "twin-lens 5.7K"
    gap_m: Positive = 0.026
    overlap_deg: Positive = 8.0
    width_px: Annotated[int, Meta(ge=640, le=16384)] = 5760
    f_number: Positive = 2.0
    iso_min: Positive = 100.0
    iso_max: Positive = 3200.0
    shutter_min_s: Positive = 1.0 / 8000.0
    stops: Positive = 11.0
    mbit_s: Positive = 100.0
    mass_kg: Positive = 0.20
    stitch: Literal["plain", "aligning"] = "aligning"
    levels: bool = True
    whose: str = ""
    photo: str = ""
    modes: Annotated[tuple[Mode, ...], Meta(min_length=1)] = USUAL_MODES

    def mode_of(self, e: Exposure) -> Mode:
        """The mode that a setting is recorded in: its own, else (also of one that this camera has not) what its rate asks for."""
        named = next((mode for mode in self.modes if mode.id == e.mode), None)
        return named or mode_for(e.rate_fps, e.interval_s, self.modes)

    @property
    def sensor(self) -> Sensor:
        return Sensor(
            f_number=self.f_number,
            iso_min=self.iso_min,
            iso_max=self.iso_max,
            shutter_min_s=self.shutter_min_s,
            stops=self.stops,
        )


class Tube(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One section of a stick."""

    length_m: Positive
    outer_mm: Positive
    wall_mm: Positive
    material: Literal["aluminium", "carbon", "glass"] = "aluminium"

    def __post_init__(self) -> None:
        if self.wall_mm > self.outer_mm / 2.0:
            raise InputError(
                f"wall_mm is {self.wall_mm:g}, thicker than half a tube of outer_mm {self.outer_mm:g}.",
                advice="A solid rod has half its outer diameter.",
            )

    def section(self, length_m: float) -> Section:
        stiffness, density = MATERIALS[self.material]
        return Section(length_m, self.outer_mm / 1000.0, self.wall_mm / 1000.0, stiffness, density)


class Stick(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A telescopic stick, its thickest tube first."""

    words: str
    tubes: Annotated[tuple[Tube, ...], Meta(min_length=1)]
    count: Count = 1
    whose: str = ""
    photo: str = ""

    @property
    def longest_m(self) -> float:
        return sum(tube.length_m for tube in self.tubes)

    @property
    def mass_kg(self) -> float:
        return sum(tube.section(tube.length_m).mass_kg for tube in self.tubes)

    def out(self, length_m: float) -> tuple[Section, ...]:
        """The sections pulled out for a length, thickest first."""
        left, found = length_m, []
        for tube in self.tubes:
            piece = min(left, tube.length_m)
            if piece > 1e-6:
                found.append(tube.section(piece))
            left -= piece
        return tuple(found)


class Mount(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """What holds the camera, and the set-ups (ids) that it makes. torque_nm 0 takes the set-up's own number.

    load_kg    what it carries at most, 0 where nobody says; offset_mm: of the camera from the line of the stick
    """

    words: str
    setups: tuple[str, ...]
    mass_kg: NotNegative = 0.2
    torque_nm: NotNegative = 0.0
    load_kg: NotNegative = 0.0
    offset_mm: NotNegative = 0.0
    count: Count = 1
    whose: str = ""
    photo: str = ""


class Item(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Anything else. value: stops of a filter, GB of a card, minutes of a battery."""

    kind: Literal[
        "tether", "guard", "helmet", "filter", "battery", "card", "charger", "foam", "cloth", "light", "other"
    ]
    words: str
    count: Count = 1
    mass_kg: NotNegative = 0.0
    value: NotNegative = 0.0
    whose: str = ""
    photo: str = ""


def _generic(length_m: float, words: str) -> Stick:
    return Stick(
        words=words,
        tubes=tuple(
            Tube(length_m=round(s.length_m, 4), outer_mm=s.outer_m * 1000.0, wall_mm=s.wall_m * 1000.0)
            for s in generic_stick(length_m)
        ),
    )


class Preset(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A setting of one's own by its name; the light of a take and its length are no part of it."""

    name: Annotated[str, Meta(min_length=1, max_length=60)]
    exposure: Exposure


class Kit(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """The whole bag. Its first camera is the day's: shots are filmed with it unless they name another."""

    glintor_kit: int = KIT_VERSION
    cameras: Annotated[tuple[Camera, ...], Meta(min_length=1)] = (Camera(),)
    sticks: tuple[Stick, ...] = ()
    mounts: tuple[Mount, ...] = ()
    items: tuple[Item, ...] = ()
    presets: Annotated[tuple[Preset, ...], Meta(max_length=40)] = ()
    lenses: tuple[Lenses, ...] = ()  # profiles of its cameras' lenses
    looks: Annotated[tuple[Look, ...], Meta(max_length=24)] = ()  # the person's own, beside those that ship

    @property
    def kinds(self) -> frozenset[str]:
        """Kinds of which there is at least one."""
        return frozenset(item.kind for item in self.items if item.count > 0)

    def camera(self, camera_id: str) -> Camera | None:
        """The camera of that id; None where none has it."""
        return next((camera for camera in self.cameras if camera.id == camera_id), None)

    def of_kind(self, kind: str) -> tuple[Item, ...]:
        return tuple(item for item in self.items if item.kind == kind and item.count > 0)

    def smallest(self, kind: str, without: float) -> float:
        """The least value of a kind, on which nobody is disappointed; `without` one in the kit."""
        return min((item.value for item in self.of_kind(kind) if item.value > 0.0), default=without)

    def stick_for(self, length_m: float) -> Stick | None:
        """The shortest stick that reaches; None without one."""
        fits = [s for s in self.sticks if s.count > 0 and s.longest_m >= length_m - 0.005]
        return min(fits, key=lambda s: s.longest_m) if fits else None

    def sections(self, length_m: float) -> tuple[Section, ...]:
        """The tubes that carry the camera at a length: of the kit's stick, else of a generic one."""
        stick = self.stick_for(length_m)
        return stick.out(length_m) if stick is not None else generic_stick(length_m)

    def mount_for(self, setup_id: str) -> Mount | None:
        return next((m for m in self.mounts if setup_id in m.setups and m.count > 0), None)


def default_kit() -> Kit:
    """A usual bag."""
    return Kit(
        sticks=(_generic(0.7, "stick 0.7 m"), _generic(1.2, "stick 1.2 m"), _generic(3.0, "stick 3 m")),
        mounts=(
            Mount(words="rail clamp", setups=("rail_clamp", "bow_clamp", "low_clamp", "hung_beam"), mass_kg=0.35),
            Mount(words="bar clamp", setups=("bar_clamp", "fork_clamp", "seat_clamp"), mass_kg=0.22),
            Mount(words="mini tripod", setups=("mini_tripod",), mass_kg=0.25),
            Mount(words="weighted foot", setups=("weighted_foot",), mass_kg=3.2),
            Mount(words="chest harness", setups=("worn_chest",), mass_kg=0.25),
        ),
        items=(
            Item(kind="tether", words="cord with two loops", count=2, mass_kg=0.03),
            Item(kind="guard", words="clip-on lens guards", mass_kg=0.03),
            Item(kind="filter", words="grey filters, pair", mass_kg=0.02, value=4.0),
            Item(kind="filter", words="grey filters, pair", mass_kg=0.02, value=6.0),
            Item(kind="battery", words="battery", count=3, mass_kg=0.06, value=80.0),
            Item(kind="card", words="memory card", count=2, mass_kg=0.001, value=128.0),
            Item(kind="cloth", words="lens cloth in a dry bag", mass_kg=0.02),
        ),
    )  # fmt: skip


def numbered_cameras(raw: dict[str, Any]) -> dict[str, Any]:
    """A kit of format 1 brought to 2: each camera has an id."""
    cameras = raw.get("cameras") or [{}]
    return {
        **raw,
        "cameras": [{**c, "id": "camera" if not n else f"camera-{n + 1}"} for n, c in enumerate(cameras)],
        "glintor_kit": 2,
    }


def read_kit(path: Path) -> Kit:
    """The kit in a JSON file. Raises InputError with the field that is wrong."""
    unharmed = "Your kit is as it was."
    try:
        content = path.read_bytes()
    except OSError as error:
        raise InputError(f"{path.name} cannot be opened: {error.strerror}.", unharmed=unharmed) from error
    kit = versioned.decode(
        content, Kit, key="glintor_kit", version=KIT_VERSION, name=path.name, what="a kit", unharmed=unharmed,
        upgrades={1: numbered_cameras, 2: dict, 3: dict},
    )  # fmt: skip
    ids = [camera.id for camera in kit.cameras]
    twice = next((one for one in ids if ids.count(one) > 1), None)
    if twice is not None:
        raise InputError(
            f"{path.name}: two cameras have the id {twice}.", unharmed=unharmed, advice="Give one another."
        )
    return kit


def write_kit(path: Path, kit: Kit) -> None:
    """Writes the kit as indented JSON. Raises WriteError."""
    write_bytes(path, msgspec.json.format(msgspec.json.encode(kit), indent=2) + b"\n")
