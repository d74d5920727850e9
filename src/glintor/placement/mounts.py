"""Set-ups: what carries the camera, by family, with the numbers that decide whether it shows and whether it holds."""

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.errors import InputError

Array = NDArray[np.float64]
_ANYWHERE = ((-60.0, 60.0), (-60.0, 60.0))

FAMILIES = ("held", "worn", "clamped", "stood", "hung")


class Setup(Struct, frozen=True, kw_only=True):
    """A generic mount. base_m is the stick's foot (or the hand, or the worn camera) over the carrier's surface.

    carrier        what it moves with, an id of `carriers.CARRIERS`
    sticks_m       lengths it can be used with; rails_m: sideways places it can be clamped at, empty for anywhere
    reach_m        from where to where its foot finds something to hold on: ahead, then left
    half_width_m   half-thickness of the stick; clamp_half_m: of the widest part at its foot
    hand           where the hand holds it, ahead and left; hangs: the camera is under hand or foot, turned upside down
    fixed          it cannot be moved from `place`: worn on the body
    place, heading_deg, subject  where a new shot begins; subject None is the carrier's usual one
    torque_nm      the moment at its foot that it stands or holds; inf where a hand does. tube_mm: tubes it clamps on
    hands          how many it keeps busy; hold_min: how long it is usually held, minutes
    needs          kinds of things in the kit beside camera, stick and mount
    shows, cure    what it is good at; what usually mends its faults. caution: always with local rules first
    """

    id: str
    family: str
    words: str
    carrier: str
    base_m: float
    sticks_m: tuple[float, ...]
    half_width_m: float = 0.009
    clamp_half_m: float = 0.0
    rails_m: tuple[float, ...] = ()
    reach_m: tuple[tuple[float, float], tuple[float, float]] = _ANYWHERE
    hand: tuple[float, float] | None = None
    hangs: bool = False
    fixed: bool = False
    place: tuple[float, float] = (0.0, 0.0)
    heading_deg: float = 0.0
    subject: tuple[float, float, float] | None = None
    torque_nm: float = float("inf")
    tube_mm: tuple[float, float] | None = None
    hands: int = 0
    hold_min: float = float("inf")
    spins: bool = False
    needs: tuple[str, ...] = ()
    shows: str = ""
    cure: str = ""
    caution: str = ""

    @property
    def worn(self) -> bool:
        return self.family == "worn"


_AHEAD = (3.0, 0.4, 0.0)  # somebody in front of who wears the camera
_HELMET = "Mass on a helmet can change how it protects: ask who knows yours; tighten the strap, mind snags."
_ROAD = "Start the camera before you move off; never touch it under way. Nothing in front of view, steering or airbag."

# Common practice, no source: stick lengths 0.7, 1.2 and 3 m; sections of 18 to 20 mm; a clamp's jaw of 60 mm; tubes of
# 16 to 36 mm; an arm lasts 30 to 60 s straight out; fixed shots last half an hour and more.
# Judgement: what a clamp on a rail, suction, three short legs and a foot of some 3 kg stand.
SETUPS = (
    Setup(
        id="held_stick", family="held", words="stick out ahead", carrier="walker", base_m=1.25, sticks_m=(0.7, 1.2, 3.0),
        hand=(0.30, -0.25), place=(0.95, 0.05), heading_deg=180.0, hands=1, hold_min=1.0, shows="you and the place behind you, third person",
        cure="Pull the last section in; bring the elbow to the body.",
        caution="Look where you walk; keep the stick clear of people, branches and power lines.",
    ),
    Setup(
        id="held_behind", family="held", words="stick over the shoulder", carrier="walker", base_m=1.45, sticks_m=(0.7, 1.2),
        hand=(-0.10, -0.26), place=(-0.80, -0.10), hands=1, hold_min=2.0, shows="the way ahead over your shoulder, a follow shot",
        cure="Rest the stick on the shoulder; shorten it.", caution="You do not see the camera: mind people and branches behind you.",
    ),
    Setup(
        id="held_overhead", family="held", words="stick overhead", carrier="walker", base_m=1.95, sticks_m=(0.5, 0.7, 1.2),
        hand=(0.12, -0.22), place=(0.72, -0.05), heading_deg=180.0, hands=1, hold_min=1.0, shows="the place from above, as a map",
        cure="From overhead heads grow: hold it farther out.", caution="Look up first: branches, bridges, power lines.",
    ),
    Setup(
        id="held_low", family="held", words="stick low", carrier="walker", base_m=0.80, sticks_m=(0.5, 0.7), hand=(0.20, -0.34),
        hangs=True, place=(0.34, -0.42), hands=1, hold_min=3.0, shows="speed near the ground or the water",
        cure="Keep a hand's breadth off the ground.", caution="Keep your balance at the edge; the stick must give if it touches.",
    ),
    Setup(
        id="held_crane", family="held", words="long stick as a crane", carrier="walker", base_m=1.25, sticks_m=(2.2, 3.0), hand=(0.30, -0.25),
        place=(1.30, -0.15), heading_deg=180.0, hands=2, hold_min=0.5, shows="one rise from low to high, in place of a crane",
        cure="Stand still; raise it steadily; one rise a take.",
        caution="A long stick endangers others: nobody within its reach; look up for power lines.",
    ),
    Setup(
        id="worn_chest", family="worn", words="chest harness", carrier="walker", base_m=1.30, sticks_m=(0.0,), fixed=True, place=(0.22, 0.0),
        subject=_AHEAD, shows="your hands and the way ahead, first person", cure="Tighten the straps; lean back a little.",
        caution="Both hands stay free, but the straps must not hinder a life jacket or a seat belt.",
    ),
    Setup(
        id="worn_chin", family="worn", words="chin of the helmet", carrier="walker", base_m=1.50, sticks_m=(0.0,), fixed=True,
        place=(0.19, 0.0), subject=_AHEAD, needs=("helmet",), shows="what the eyes see, steadied by the neck",
        cure="Try it upside down: other thirds of the frame.", caution=_HELMET,
    ),
    Setup(
        id="worn_helmet", family="worn", words="top of the helmet", carrier="walker", base_m=1.84, sticks_m=(0.0,), fixed=True,
        place=(0.02, 0.0), subject=_AHEAD, needs=("helmet",), shows="everything round you from just above", cure="Tighten the strap.",
        caution=_HELMET,
    ),
    Setup(
        id="worn_pack", family="worn", words="pole on the backpack", carrier="walker", base_m=1.40, sticks_m=(0.5, 0.7, 1.2), fixed=True,
        place=(-0.26, 0.0), torque_nm=8.0, shows="you from behind and above, hands free",
        cure="Lengthen the pole until the head no longer fills the frame.", caution="It stands above you: branches, doors, power lines.",
    ),
    Setup(
        id="worn_hip", family="worn", words="hip belt", carrier="walker", base_m=0.95, sticks_m=(0.0,), fixed=True, place=(0.10, -0.26),
        subject=_AHEAD, shows="hands at work from the side", cure="Turn the lens outwards.", caution="Mind door frames and the lens when you sit.",
    ),
    Setup(
        id="rail_clamp", family="clamped", words="rail clamp, stick", carrier="boat", base_m=0.08, sticks_m=(0.5, 0.7, 1.2),
        clamp_half_m=0.030, reach_m=((-5.0, 4.4), (-0.74, 0.74)),
        torque_nm=6.0, rails_m=(-0.74, 0.74), place=(-3.2, 0.74), heading_deg=180.0, tube_mm=(16.0, 40.0),
        needs=("tether",), shows="the helm and the way ahead, for half an hour without a hand", cure="Pull a section in; straighten the joint.",
        caution="Over water: tether the camera. Both hands steer: start the camera before casting off.",
    ),
    Setup(
        id="bow_clamp", family="clamped", words="bow clamp, looking back", carrier="boat", base_m=-0.55, sticks_m=(0.7, 1.2, 1.4),
        clamp_half_m=0.030, reach_m=((5.0, 7.2), (-0.5, 0.5)),
        torque_nm=6.0, place=(6.0, 0.0), heading_deg=180.0, tube_mm=(16.0, 40.0), needs=("tether",),
        shows="the whole boat coming at you, as a passenger looking back", cure="Lift it until the roof no longer hides the helm.",
        caution="Over water: tether the camera so that it cannot foul rope or propeller; keep mooring lines free.",
    ),
    Setup(
        id="low_clamp", family="clamped", words="side clamp, low at the water", carrier="boat", base_m=-0.84, sticks_m=(0.15, 0.25, 0.4),
        clamp_half_m=0.030, reach_m=((-7.0, 5.0), (-1.4, 1.4)),
        torque_nm=6.0, rails_m=(-1.4, 1.4), hangs=True, place=(-5.6, 1.4), heading_deg=180.0, tube_mm=(16.0, 40.0),
        needs=("tether", "guard"), shows="speed, close over the water", cure="Shorten the arm: spray stays on a lens.",
        caution="Over water: tether it. Take it in before locks and moorings: walls crush what sticks out.",
    ),
    Setup(
        id="bar_clamp", family="clamped", words="handlebar clamp", carrier="cycle", base_m=1.06, sticks_m=(0.25, 0.5), clamp_half_m=0.025,
        reach_m=((0.44, 0.50), (-0.25, 0.25)),
        torque_nm=4.0, rails_m=(-0.12, 0.12), place=(0.50, 0.12), heading_deg=180.0, tube_mm=(22.0, 36.0), needs=("tether",),
        shows="the rider's face and the instruments", cure="Keep it short: the bar shakes.", caution=_ROAD,
    ),
    Setup(
        id="fork_clamp", family="clamped", words="fork clamp, low at the wheel", carrier="cycle", base_m=0.40, sticks_m=(0.12, 0.25),
        clamp_half_m=0.025, reach_m=((0.50, 0.62), (-0.16, 0.16)),
        torque_nm=4.0, rails_m=(-0.16, 0.16), place=(0.58, -0.16), tube_mm=(25.0, 45.0), needs=("tether", "guard"),
        shows="the wheel and the ground rushing", cure="Turn the lens square on to the wheel.",
        caution=_ROAD + " Nothing may reach the spokes: check the full turn of the bar.",
    ),
    Setup(
        id="seat_clamp", family="clamped", words="pole behind the saddle", carrier="cycle", base_m=0.75, sticks_m=(0.7, 1.2, 1.6),
        clamp_half_m=0.025, reach_m=((-0.66, -0.56), (-0.03, 0.03)),
        torque_nm=8.0, place=(-0.62, 0.0), tube_mm=(25.0, 36.0), needs=("tether",),
        shows="the rider from behind, as if followed", cure="Pull the last section in: a rider's bumps shake it.",
        caution=_ROAD + " It stands above you: branches and bridges.",
    ),
    Setup(
        id="door_foot", family="clamped", words="suction foot, beside", carrier="car", base_m=0.75, sticks_m=(0.25, 0.5), clamp_half_m=0.05,
        reach_m=((-0.75, 0.65), (-0.98, 0.98)),
        torque_nm=5.0, rails_m=(-0.98, 0.98), place=(0.35, 0.98), heading_deg=250.0, needs=("tether",),
        shows="driver and landscape, as from a car alongside", cure="Clean and wet the surface; press again every half hour.",
        caution=_ROAD + " Suction lets go in cold, dust and heat: tether it, and mind the width.",
    ),
    Setup(
        id="bonnet_foot", family="clamped", words="suction foot, looking back", carrier="car", base_m=0.95, sticks_m=(0.12, 0.25, 0.5),
        clamp_half_m=0.05, reach_m=((0.75, 1.75), (-0.7, 0.7)),
        torque_nm=5.0, place=(1.30, 0.35), heading_deg=180.0, needs=("tether",),
        shows="the driver through the windscreen", cure="Keep it low: it must not stand in the driver's view.", caution=_ROAD,
    ),
    Setup(
        id="mini_tripod", family="stood", words="mini tripod", carrier="ground", base_m=0.06, sticks_m=(0.25, 0.7, 1.2),
        clamp_half_m=0.020, torque_nm=0.9, shows="a portrait, or you walking past a still camera",
        cure="Spread the legs; hang the bag on it.", caution="Keep it out of people's way; it falls in wind when the stick is long.",
    ),
    Setup(
        id="weighted_foot", family="stood", words="weighted foot", carrier="ground", base_m=0.04, sticks_m=(1.2, 1.6, 2.2),
        clamp_half_m=0.025, torque_nm=7.0, shows="a long still look at eye height: time-lapses",
        cure="More weight in the foot.", caution="Keep ropes, gate beams and people clear of the foot.",
    ),
    Setup(
        id="hung_beam", family="hung", words="hung from a beam", carrier="ground", base_m=2.85, sticks_m=(0.5, 0.7, 1.2), hangs=True,
        clamp_half_m=0.030, torque_nm=6.0, tube_mm=(16.0, 40.0), needs=("tether",), shows="people passing under and round the camera",
        cure="Tie it off to the side: it swings.", caution="Overhead: tether it twice; ask who owns the beam; nobody under it while you fit it.",
    ),
    Setup(
        id="spin_cord", family="hung", words="spun on a cord", carrier="ground", base_m=1.95, sticks_m=(0.7, 1.0), half_width_m=0.002,
        hand=(2.0, 0.5), hangs=True, place=(1.31, 0.5), hands=1, hold_min=0.5, spins=True, needs=("tether",),
        shows="the world turning about you in slow motion", cure="3K at 100 fps, a short cord, an even turn.",
        caution="A spinning camera hits hard: a clear circle, a sound cord with a second knot, eyes protected.",
    ),
)  # fmt: skip
_BY_ID = {setup.id: setup for setup in SETUPS}


def setup_by_id(setup_id: str) -> Setup:
    """The set-up of that id. Raises InputError."""
    if setup_id in _BY_ID:
        return _BY_ID[setup_id]
    raise InputError(f"There is no set-up {setup_id}.", advice=f"Choose one of {', '.join(_BY_ID)}.")


def lens_height_m(setup: Setup, stick_m: float, ahead_m: float, left_m: float, lean_deg: float) -> float:
    """Height of the lenses over the carrier's surface.

    A held stick runs from the hand to the camera: the farther out the camera, the nearer its height to the hand's.
    Others lean.
    """
    if setup.hand is None:
        rise = stick_m * float(np.cos(np.radians(lean_deg)))
    else:
        out = min(float(np.hypot(ahead_m - setup.hand[0], left_m - setup.hand[1])), 0.98 * stick_m)
        rise = float(np.sqrt(max(stick_m**2 - out**2, 0.0)))
    return setup.base_m - rise if setup.hangs else setup.base_m + rise


def _sideways(stick_m: float, heading_deg: float, lean_deg: float) -> Array:
    """(2,) from the camera to the foot of a leaning stick, seen from above: sideways of the front lens."""
    turn = -np.radians(heading_deg)
    return np.array([-np.sin(turn), np.cos(turn)]) * stick_m * float(np.sin(np.radians(lean_deg)))


def foot_of(
    setup: Setup, stick_m: float, ahead_m: float, left_m: float, heading_deg: float, lean_deg: float
) -> tuple[float, float]:
    """Where the stick stands, is clamped or held: ahead and left."""
    if setup.hand is not None:
        return setup.hand
    aside = _sideways(stick_m, heading_deg, lean_deg)
    return ahead_m + float(aside[0]), left_m + float(aside[1])


def held_in_reach(
    setup: Setup, stick_m: float, ahead_m: float, left_m: float, lean_deg: float, heading_deg: float = 0.0
) -> tuple[float, float]:
    """The camera's place (ahead, left) brought to where this set-up can hold it: in reach of the hand; with its foot on the
    body, the rail or the part of the carrier that takes it."""
    if setup.hand is not None:
        way = np.array([ahead_m - setup.hand[0], left_m - setup.hand[1]])
        out = float(np.hypot(*way))
        if out > 0.98 * stick_m:
            way *= 0.98 * stick_m / out
        return float(setup.hand[0] + way[0]), float(setup.hand[1] + way[1])
    aside = _sideways(stick_m, heading_deg, lean_deg)
    foot = np.array(setup.place) if setup.fixed else np.array([ahead_m, left_m]) + aside
    if not setup.fixed:
        (low, high), (right, left) = setup.reach_m
        foot = np.array([np.clip(foot[0], low, high), np.clip(foot[1], right, left)])
        if setup.rails_m:
            foot[1] = min(setup.rails_m, key=lambda rail: abs(rail - foot[1]))
    return float(foot[0] - aside[0]), float(foot[1] - aside[1])
