"""Set-ups: what holds the camera, by family, with the numbers that decide whether it shows and whether it holds."""

from typing import Literal

from msgspec import Struct

from glintor.errors import InputError
from glintor.placement.person import Pose
from glintor.placement.solids import Point

Span = tuple[Point, Point]
Takes = Literal["hand", "body", "tube", "surface", "ground", "hang"]

FAMILIES = ("held", "worn", "clamped", "stood", "hung")
_SIDES_M = 0.15  # what lies farther apart across the carrier is another side of it


class Setup(Struct, frozen=True, kw_only=True):
    """A generic mount. base_m is the stick's foot (or the hand, or the worn camera) over what it is on: the ground, or the
    feet of who holds it.

    takes          what it goes on; carrier, on: where it is usually found; without `on` it goes on anything alike
    sticks_m       lengths it can be used with
    half_width_m   half-thickness of the stick; clamp_half_m: of the widest part at its foot
    hand           where the hand holds it, ahead and left of who holds it
    legs           it stands on anything level; else only in soft ground
    hangs          the camera is under hand or foot, turned upside down
    place, heading_deg, lean_deg  where a new shot begins, ahead and left
    torque_nm      the moment at its foot that it stands or holds; inf where a hand does. tube_mm: tubes it clamps on
    hands          how many it keeps busy; hold_min: how long it is usually held, minutes
    slides_m, turns_s  how far it slides in a shot, and how long it takes for a turn; 0 where it stays
    poses          of a body that it works with, any where empty
    needs          kinds of things in the kit beside camera, stick and mount
    shows, cure    what it is good at; what usually mends its faults. caution: always with local rules first

    What follows is known once it is on something (`fitting.fit`):
    grip           where hand or body hold it; lines, areas: what its foot finds to hold on to, anywhere on the ground where
                   neither; feet, faces_deg: of who wears or holds it; why_not: it cannot be there, in words
    """

    id: str
    family: str
    words: str
    takes: Takes
    carrier: str
    on: str = ""
    base_m: float = 0.0
    sticks_m: tuple[float, ...]
    half_width_m: float = 0.009
    clamp_half_m: float = 0.0
    hand: tuple[float, float] | None = None
    hangs: bool = False
    legs: bool = True
    place: tuple[float, float] | None = None
    heading_deg: float = 0.0
    lean_deg: float = 0.0
    torque_nm: float = float("inf")
    tube_mm: tuple[float, float] | None = None
    hands: int = 0
    hold_min: float = float("inf")
    spins: bool = False
    slides_m: float = 0.0
    turns_s: float = 0.0
    poses: tuple[Pose, ...] = ()
    needs: tuple[str, ...] = ()
    shows: str = ""
    cure: str = ""
    caution: str = ""
    grip: Point | None = None
    lines: tuple[Span, ...] = ()
    areas: tuple[Span, ...] = ()
    feet: Point | None = None
    faces_deg: float = 0.0
    why_not: str = ""

    @property
    def worn(self) -> bool:
        return self.takes == "body"

    @property
    def fixed(self) -> bool:
        """Whether its foot cannot be moved: worn on the body."""
        return self.takes == "body"

    @property
    def spans(self) -> tuple[Span, ...]:
        return self.lines or self.areas

    @property
    def sides(self) -> tuple[float, ...]:
        """How far left the middles of what it can hold on to lie, where that is on more than one side."""
        out: list[float] = []
        for a, b in self.spans:
            middle = round((a[1] + b[1]) / 2.0, 3)
            if all(abs(middle - other) > _SIDES_M for other in out):
                out.append(middle)
        return tuple(out) if len(out) > 1 else ()


_HELMET = "Mass on a helmet can change how it protects: ask who knows yours; tighten the strap, mind snags."
_ROAD = "Start the camera before you move off; never touch it under way. Nothing in front of view, steering or airbag."

# Common practice, no source: stick lengths 0.7, 1.2 and 3 m; sections of 18 to 20 mm; a clamp's jaw of 60 mm; tubes of
# 16 to 36 mm; an arm lasts 30 to 60 s straight out; fixed shots last half an hour and more.
# Judgement: what a clamp on a rail, suction, three short legs and a foot of some 3 kg stand.
SETUPS = (
    Setup(
        id="held_stick", family="held", takes="hand", words="stick out ahead", carrier="walker", base_m=1.25, sticks_m=(0.7, 1.2, 3.0),
        hand=(0.30, -0.25), place=(0.95, 0.05), heading_deg=180.0, hands=1, hold_min=1.0, shows="you and the place behind you, third person",
        cure="Pull the last section in; bring the elbow to the body.",
        caution="Look where you walk; keep the stick clear of people, branches and power lines.",
    ),
    Setup(
        id="held_behind", family="held", takes="hand", words="stick over the shoulder", carrier="walker", base_m=1.45, sticks_m=(0.7, 1.2),
        hand=(-0.10, -0.26), place=(-0.80, -0.10), hands=1, hold_min=2.0, shows="the way ahead over your shoulder, a follow shot",
        cure="Rest the stick on the shoulder; shorten it.", caution="You do not see the camera: mind people and branches behind you.",
    ),
    Setup(
        id="held_overhead", family="held", takes="hand", words="stick overhead", carrier="walker", base_m=1.95, sticks_m=(0.5, 0.7, 1.2),
        hand=(0.12, -0.22), place=(0.72, -0.05), heading_deg=180.0, hands=1, hold_min=1.0, shows="the place from above, as a map",
        cure="From overhead heads grow: hold it farther out.", caution="Look up first: branches, bridges, power lines.",
    ),
    Setup(
        id="held_low", family="held", takes="hand", words="stick low", carrier="walker", base_m=0.80, sticks_m=(0.5, 0.7), hand=(0.20, -0.34),
        hangs=True, place=(0.34, -0.42), hands=1, hold_min=3.0, shows="speed near the ground or the water",
        cure="Keep a hand's breadth off the ground.", caution="Keep your balance at the edge; the stick must give if it touches.",
    ),
    Setup(
        id="held_crane", family="held", takes="hand", words="long stick as a crane", carrier="walker", base_m=1.25, sticks_m=(2.2, 3.0), hand=(0.30, -0.25),
        place=(1.30, -0.15), heading_deg=180.0, hands=2, hold_min=0.5, shows="one rise from low to high, in place of a crane",
        cure="Stand still; raise it steadily; one rise a take.",
        caution="A long stick endangers others: nobody within its reach; look up for power lines.",
    ),
    Setup(
        id="worn_chest", family="worn", takes="body", words="chest harness", carrier="walker", base_m=1.30, sticks_m=(0.0,), place=(0.22, 0.0),
        shows="your hands and the way ahead, first person", cure="Tighten the straps; lean back a little.",
        caution="Both hands stay free, but the straps must not hinder a life jacket or a seat belt.",
    ),
    Setup(
        id="worn_chin", family="worn", takes="body", words="chin of the helmet", carrier="walker", base_m=1.50, sticks_m=(0.0,),
        place=(0.19, 0.0), needs=("helmet",), shows="what the eyes see, steadied by the neck",
        cure="Try it upside down: other thirds of the frame.", caution=_HELMET,
    ),
    Setup(
        id="worn_helmet", family="worn", takes="body", words="top of the helmet", carrier="walker", base_m=1.84, sticks_m=(0.0,),
        place=(0.02, 0.0), needs=("helmet",), shows="everything round you from just above", cure="Tighten the strap.",
        caution=_HELMET,
    ),
    Setup(
        id="worn_pack", family="worn", takes="body", words="pole on the backpack", carrier="walker", base_m=1.40, sticks_m=(0.5, 0.7, 1.2),
        place=(-0.26, 0.0), torque_nm=8.0, shows="you from behind and above, hands free",
        cure="Lengthen the pole until the head no longer fills the frame.", caution="It stands above you: branches, doors, power lines.",
    ),
    Setup(
        id="worn_hip", family="worn", takes="body", words="hip belt", carrier="walker", base_m=0.95, sticks_m=(0.0,), place=(0.10, -0.26),
        shows="hands at work from the side", cure="Turn the lens outwards.", caution="Mind door frames and the lens when you sit.",
    ),
    Setup(
        id="rail_clamp", family="clamped", takes="tube", words="rail clamp, stick", carrier="boat", on="rails", sticks_m=(0.5, 0.7, 1.2),
        clamp_half_m=0.030,
        torque_nm=6.0, place=(-3.2, 0.74), heading_deg=180.0, tube_mm=(16.0, 40.0),
        needs=("tether",), shows="the helm and the way ahead, for half an hour without a hand", cure="Pull a section in; straighten the joint.",
        caution="Over water: tether the camera. Both hands steer: start the camera before casting off.",
    ),
    Setup(
        id="bow_clamp", family="clamped", takes="tube", words="bow clamp, looking back", carrier="boat", on="bow", sticks_m=(0.7, 1.2, 1.4),
        clamp_half_m=0.030,
        torque_nm=6.0, place=(6.0, 0.0), heading_deg=180.0, tube_mm=(16.0, 40.0), needs=("tether",),
        shows="the whole boat coming at you, as a passenger looking back", cure="Lift it until the roof no longer hides the helm.",
        caution="Over water: tether the camera so that it cannot foul rope or propeller; keep mooring lines free.",
    ),
    Setup(
        id="low_clamp", family="clamped", takes="tube", words="side clamp, low at the water", carrier="boat", on="arm", sticks_m=(0.15, 0.25, 0.4),
        clamp_half_m=0.030,
        torque_nm=6.0, hangs=True, place=(-5.6, 1.4), heading_deg=180.0, tube_mm=(16.0, 40.0),
        needs=("tether", "guard"), shows="speed, close over the water", cure="Shorten the arm: spray stays on a lens.",
        caution="Over water: tether it. Take it in before locks and moorings: walls crush what sticks out.",
    ),
    Setup(
        id="bar_clamp", family="clamped", takes="tube", words="handlebar clamp", carrier="cycle", on="bar", sticks_m=(0.25, 0.5, 1.2, 3.0), clamp_half_m=0.025,
        torque_nm=4.0, place=(0.47, 0.12), heading_deg=180.0, tube_mm=(22.0, 36.0), needs=("tether",),
        shows="the rider's face and the instruments", cure="Keep it short: the bar shakes.", caution=_ROAD,
    ),
    Setup(
        id="fork_clamp", family="clamped", takes="tube", words="fork clamp, low at the wheel", carrier="cycle", on="fork", sticks_m=(0.12, 0.25),
        clamp_half_m=0.025,
        torque_nm=4.0, place=(0.58, -0.16), tube_mm=(25.0, 45.0), needs=("tether", "guard"),
        shows="the wheel and the ground rushing", cure="Turn the lens square on to the wheel.",
        caution=_ROAD + " Nothing may reach the spokes: check the full turn of the bar.",
    ),
    Setup(
        id="seat_clamp", family="clamped", takes="tube", words="pole behind the saddle", carrier="cycle", on="seatpost", sticks_m=(0.7, 1.2, 1.6, 3.0),
        clamp_half_m=0.025,
        torque_nm=8.0, place=(-0.62, 0.0), tube_mm=(25.0, 36.0), needs=("tether",),
        shows="the rider from behind, as if followed", cure="Pull the last section in: a rider's bumps shake it.",
        caution=_ROAD + " It stands above you: branches and bridges.",
    ),
    Setup(
        id="door_foot", family="clamped", takes="surface", words="suction foot, beside", carrier="car", on="doors", sticks_m=(0.25, 0.5), clamp_half_m=0.05,
        torque_nm=5.0, place=(0.35, 0.98), heading_deg=250.0, needs=("tether",),
        shows="driver and landscape, as from a car alongside", cure="Clean and wet the surface; press again every half hour.",
        caution=_ROAD + " Suction lets go in cold, dust and heat: tether it, and mind the width.",
    ),
    Setup(
        id="bonnet_foot", family="clamped", takes="surface", words="suction foot, looking back", carrier="car", on="bonnet", sticks_m=(0.12, 0.25, 0.5),
        clamp_half_m=0.05,
        torque_nm=5.0, place=(1.30, 0.35), heading_deg=180.0, needs=("tether",),
        shows="the driver through the windscreen", cure="Keep it low: it must not stand in the driver's view.", caution=_ROAD,
    ),
    Setup(
        id="mini_tripod", family="stood", takes="ground", words="mini tripod", carrier="ground", base_m=0.06, sticks_m=(0.25, 0.7, 1.2),
        clamp_half_m=0.020, torque_nm=0.9, shows="a portrait, or you walking past a still camera",
        cure="Spread the legs; hang the bag on it.", caution="Keep it out of people's way; it falls in wind when the stick is long.",
    ),
    Setup(
        id="weighted_foot", family="stood", takes="ground", words="weighted foot", carrier="ground", base_m=0.04, sticks_m=(1.2, 1.6, 2.2, 3.0),
        clamp_half_m=0.025, torque_nm=7.0, shows="a long still look at eye height: time-lapses",
        cure="More weight in the foot.", caution="Keep ropes, gate beams and people clear of the foot.",
    ),
    Setup(
        id="hung_beam", family="hung", takes="hang", words="hung from a beam", carrier="ground", base_m=2.85, sticks_m=(0.5, 0.7, 1.2), hangs=True,
        clamp_half_m=0.030, torque_nm=6.0, tube_mm=(16.0, 40.0), needs=("tether",), shows="people passing under and round the camera",
        cure="Tie it off to the side: it swings.", caution="Overhead: tether it twice; ask who owns the beam; nobody under it while you fit it.",
    ),
    Setup(
        id="spin_cord", family="hung", takes="hand", words="spun on a cord", carrier="ground", base_m=1.95, sticks_m=(0.7, 1.0), half_width_m=0.002,
        hand=(0.0, 0.0), hangs=True, place=(-0.69, 0.0), hands=1, hold_min=0.5, spins=True, needs=("tether",),
        shows="the world turning about you in slow motion", cure="3K at 100 fps, a short cord, an even turn.",
        caution="A spinning camera hits hard: a clear circle, a sound cord with a second knot, eyes protected.",
    ),
    Setup(
        id="held_sat", family="held", takes="body", words="stick sat upon", carrier="car", base_m=0.92, sticks_m=(0.7, 1.2), place=(-0.10, -0.20),
        heading_deg=-90.0, lean_deg=25.0, poses=("sits", "rides"), torque_nm=4.0, shows="you and the way, with both hands free",
        cure="Sit on more of it; pad it against the seat.", caution="It must not stand in the way of belt, wheel, bar or pedals, nor of another.",
    ),
    Setup(
        id="worn_side", family="worn", takes="body", words="side of the helmet", carrier="walker", base_m=1.66, sticks_m=(0.0,), place=(0.02, -0.16),
        needs=("helmet",), shows="the way beside your head", cure="The head hides one half: turn a lens outwards.", caution=_HELMET,
    ),
    Setup(
        id="worn_head", family="worn", takes="body", words="head strap", carrier="walker", base_m=1.66, sticks_m=(0.0,), place=(0.13, 0.0),
        shows="what you look at, hands free", cure="Move the head slowly: the picture turns with it.",
        caution="Mind branches and door frames: it stands out from the brow.",
    ),
    Setup(
        id="worn_mouth", family="worn", takes="body", words="held in the mouth", carrier="walker", base_m=1.52, sticks_m=(0.0,),
        place=(0.15, 0.0), hold_min=3.0,
        shows="your hands and the way, from where you breathe", cure="Short takes; breathe through the nose.",
        caution="Never where you may fall or be hit: a blow drives it into the teeth. Not under way.",
    ),
    Setup(
        id="worn_shoulder", family="worn", takes="body", words="shoulder strap", carrier="walker", base_m=1.34, sticks_m=(0.0,), place=(0.17, 0.14),
        shows="the way ahead from the shoulder", cure="Tighten the strap of the bag: a loose one swings.",
        caution="It must not hinder a belt, a harness or a life jacket.",
    ),
    Setup(
        id="worn_wrist", family="worn", takes="body", words="wrist band", carrier="walker", base_m=1.02, sticks_m=(0.0,), place=(0.30, -0.28),
        shows="your own face and arms at work", cure="Hold the arm still where the shot counts.", caution="It may catch on ropes, levers and straps.",
    ),
    Setup(
        id="tube_clamp", family="clamped", takes="tube", words="clamp", carrier="cycle",
        sticks_m=(0.12, 0.25, 0.5, 0.7, 1.2, 3.0), clamp_half_m=0.030,
        torque_nm=6.0, heading_deg=180.0, tube_mm=(16.0, 40.0), needs=("tether",), shows="who rides, from what carries them",
        cure="Pull a section in; straighten the joint.", caution="On straight tubes only, clear of cables and of what turns; tether it.",
    ),
    Setup(
        id="tube_hang", family="clamped", takes="tube", words="hung under a tube", carrier="cycle",
        sticks_m=(0.12, 0.25, 0.5, 0.7), clamp_half_m=0.030, hangs=True,
        torque_nm=6.0, heading_deg=180.0, tube_mm=(16.0, 40.0), needs=("tether",), shows="what passes underneath",
        cure="Shorten the arm.", caution="Tether it; nothing under it may be struck when the carrier leans.",
    ),
    Setup(
        id="flat_foot", family="clamped", takes="surface", words="suction foot", carrier="saloon", sticks_m=(0.12, 0.25, 0.5), clamp_half_m=0.05,
        torque_nm=5.0, heading_deg=180.0, needs=("tether",), shows="who rides, and the place going by",
        cure="Clean and wet the surface; press again every half hour.",
        caution="Suction lets go in cold, dust and heat: tether it. Nothing in front of view, wheel or airbag.",
    ),
    Setup(
        id="turntable", family="stood", takes="ground", words="turned on a table", carrier="ground", base_m=0.08, sticks_m=(0.25, 0.7),
        clamp_half_m=0.060, torque_nm=2.0, turns_s=60.0, shows="the place going round, for a time-lapse", cure="Set its legs level.",
        caution="Keep cloth and fingers out of the gear; keep out of people's way.",
    ),
    Setup(
        id="pushed_pole", family="stood", takes="ground", words="pole pushed in", carrier="ground", base_m=0.0, legs=False, sticks_m=(0.7, 1.2, 1.6, 2.2),
        torque_nm=5.0, shows="you passing by, in snow or sand", cure="Push it in by a third; stamp round it.",
        caution="Not where others come by fast; take it out again. Mind what lies under the snow.",
    ),
    Setup(
        id="line_slide", family="hung", takes="hang", words="slid along a line", carrier="ground", base_m=2.40, sticks_m=(0.0, 0.25, 0.5),
        half_width_m=0.004, hangs=True, slides_m=4.0, torque_nm=3.0, needs=("tether",), shows="a slow ride past people and things",
        cure="Stretch the line harder; let it go from the higher end.", caution="A line at neck height hurts: above reach, marked, taken down at once.",
    ),
)  # fmt: skip
_BY_ID = {setup.id: setup for setup in SETUPS}


def setup_by_id(setup_id: str) -> Setup:
    """The set-up of that id, on nothing yet. Raises InputError."""
    if setup_id in _BY_ID:
        return _BY_ID[setup_id]
    raise InputError(f"There is no set-up {setup_id}.", advice=f"Choose one of {', '.join(_BY_ID)}.")
