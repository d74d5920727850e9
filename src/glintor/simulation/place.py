"""The Hollin Cut, stage by stage, as the arrays that the renderer takes, with the truth beside them."""

import math

import numpy as np
from msgspec import Struct, field
from numpy.typing import NDArray

from glintor.errors import InputError
from glintor.pixels.bands import in_bands
from glintor.placement import boat, figures, seam
from glintor.placement import solids as made
from glintor.placement.carriers import CARRIERS
from glintor.placement.layout import Layout
from glintor.placement.solids import Parts, Point
from glintor.placement.sun import OVERCAST, Sun
from glintor.simulation import table as rt
from glintor.simulation import things
from glintor.simulation.pose import Pose
from glintor.simulation.things import GROUND_Z

Array = NDArray[np.float64]
STAGES = ("wharf", "towpath", "cobdale", "lock")
FAR = 1e9
LOCK_RISE_M, LOCK_FILL_S = 2.0, 300.0
_LOCK_GROUND_N = 3.6  # where the ground's middle lies beside the lock
SPHERE = np.zeros(1)  # in place of a lens: the whole sphere, unrolled


class Rig(Struct, frozen=True, eq=False):
    """The camera in the place: the worked-out placement, the stage that it stands on, and the gap between its lenses."""

    plan: Layout
    stage: str
    gap_m: float

    @property
    def carrier(self) -> str:
        return self.plan.carrier.id

    @property
    def stick_m(self) -> float:
        return self.plan.stick_m

    @property
    def heading_deg(self) -> float:
        return self.plan.heading_deg


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


class Truth(Struct, frozen=True):
    """What is known beside a frame, in the body's frame: subject's head, its distance, and the sun; and the pose."""

    subject_yaw_deg: float
    subject_pitch_deg: float
    subject_m: float
    sun_yaw_deg: float
    sun_pitch_deg: float
    pose: Pose


class Scene(Struct, frozen=True):
    """Everything the renderer takes for one moment. body: the camera's own axes, which lean with its stick; the pose is
    that of its pictures."""

    pose: Pose
    body: Array  # (3, 3)
    light: Light
    world: Array  # the flat array that `raytrace` reads
    truth: Truth


class Seen(Struct, frozen=True):
    """One picture: luminance (H, W, 3) in cd/m2, depth (H, W) in metres, and the material (H, W; 0 sky, -1 outside)."""

    luminance: NDArray[np.float32]
    depth_m: NDArray[np.float32]
    kind: NDArray[np.int16]


class _Builder(Struct):
    groups: list[Parts] = field(default_factory=list)

    def group(self) -> Parts:
        self.groups.append(Parts())
        return self.groups[-1]

    def cluster(self, parts: list[Parts]) -> None:
        """Groups that lie together, with bounds of them all before them: what misses those misses each."""
        self.groups += [Parts(cluster=len(parts)), *parts]

    def world(self, head: Array, rows: Array) -> Array:
        """The head with the tables behind it, and where each begins written into the head."""
        start = rt.HEAD + rows.size
        table = np.zeros((len(self.groups), rt.GROUP_SIZE))
        tail: list[float] = []
        base = start + table.size
        for number, (row, parts) in enumerate(zip(table, self.groups, strict=True)):
            row[14], row[15], row[16] = parts.shadow_only, parts.owner, parts.cluster
            if parts.cluster:
                each = np.array([things.bounds(p) for p in self.groups[number + 1 : number + 1 + parts.cluster]])
                row[:3], row[3:6] = each[:, :3].min(axis=0), each[:, 3:].max(axis=0)
                continue
            row[:6] = things.bounds(parts)
            for column, name in ((6, "boxes"), (8, "capsules"), (10, "ellipsoids")):
                row[column] = base + len(tail)
                tail += [number for solid in getattr(parts, name) for number in solid]
                row[column + 1] = base + len(tail)
            prisms: list[float] = []
            for faces, material in parts.prisms:
                first = base + len(tail)
                tail += faces.ravel().tolist()
                prisms += [first, base + len(tail), material]
            row[12] = base + len(tail)
            tail += prisms
            row[13] = base + len(tail)
        head[[rt.ROWS, rt.ROW_COUNT, rt.GROUPS, rt.GROUP_COUNT]] = rt.HEAD, len(rows), start, len(table)
        return np.concatenate([head, rows.ravel(), table.ravel(), tail])


def carrier_s(rig: Rig, time_s: float) -> float:
    """Where along the canal the carrier's origin is, metres."""
    if rig.carrier == "boat" and rig.stage == "cobdale":
        return 4.0 + CARRIERS["boat"].speed_m_s * time_s
    return 0.0 if rig.carrier in ("boat", "ground") else CARRIERS[rig.carrier].speed_m_s * time_s


def walker_n(time_s: float) -> float:
    """The walker's place across the towpath."""
    return 6.2 + 0.08 * math.sin(time_s * 0.45)


def build(rig: Rig, light: Light, time_s: float, *, moved: Pose | None = None, apart: bool = False) -> Scene:
    """The place at a moment, seen by the camera of `rig`. Raises InputError for an unknown stage.

    moved   how the camera has moved and turned from its nominal place (metres in the scene, rotation of the body)
    apart   draws the whole stick and clamp, for lenses that look past them from their own centres; else only what
            the gap between them does not hide, for one eye in the middle
    """
    if rig.stage not in STAGES:
        raise InputError(f"There is no stage {rig.stage} on the Hollin Cut.", advice=f"Choose {', '.join(STAGES)}.")
    site = _head(light, time_s)
    builder = _Builder()
    origin = carrier_s(rig, time_s)
    boat_s, boat_n, boat_z = 0.0, 0.0, 0.0
    surface = GROUND_Z
    if rig.stage == "cobdale":
        site[rt.BRIDGE_S], site[rt.TUNNEL_S] = 9.0, 21.0
        boat_s = origin if rig.carrier == "boat" else -12.0
        surface = boat.ROOF_Z if rig.carrier == "boat" else GROUND_Z
    elif rig.stage == "lock":
        level = _lock_level(time_s)
        site[rt.LOCK_S0], site[rt.LOCK_S1], site[rt.LOCK_WATER], site[rt.LOW_WATER] = -9.2, 9.2, level, -LOCK_RISE_M
        boat_s, boat_z = 0.4, level
        builder.cluster(things.lock())
        things.house(builder.group(), -2.0, 17.5, 9.0, 5.5, 2.6)
    elif rig.stage == "towpath":
        site[rt.BRIDGE_S] = 46.0
        boat_s, boat_n = 24.0, 3.3
        things.ducks(builder.group(), 7.0, 1.0, time_s)
    else:
        boat_s, boat_n = 1.0, 3.4
        site[rt.BRIDGE_S] = -48.0
        things.house(builder.group(), 4.0, 14.5, 12.0, 6.0, 4.6)
        things.passer_by(builder.group(), 9.0, 8.2, time_s)
        builder.cluster(boat.boat_parts(-17.5, 3.4, 0.0, 0.0))
        things.ducks(builder.group(), -3.0, -1.0, time_s)
    if rig.carrier == "boat":
        surface = boat_z + boat.ROOF_Z
        cs, cn = boat_s, boat_n
    elif rig.carrier != "ground":
        cs, cn = origin, walker_n(time_s)
    else:
        cs, cn = 0.0, 6.0 if rig.stage != "lock" else _LOCK_GROUND_N
    builder.cluster(boat.boat_parts(boat_s, boat_n, boat_z, time_s))
    plan = _under_way(rig, time_s)
    base = np.array([cs + _out_of_bridge(site, plan, cs, cn), cn, surface])
    if rig.carrier in ("cycle", "car"):
        builder.groups += [parts.moved(base) for parts in figures.carrier_parts(rig.carrier)]
    eye, turn, body = base + plan.camera, plan.frame, plan.axes
    if moved is not None:
        eye, nominal = eye + moved.position_m, turn
        turn = turn @ moved.turn
        body = turn @ nominal.T @ body
    carrying = figures.carrying_person(plan, time_s) if plan.carrier_apart else None
    if carrying is not None:
        carrying[0].owner = made.MOUNT
        builder.groups.append(carrying[0].moved(base))
    subject, head = figures.subject_person(plan, time_s)
    rise = np.array([0.0, 0.0, _lift(rig, time_s)])
    builder.groups.append(subject.moved(base + rise))
    _stick(builder, rig, eye, base + plan.foot, apart)
    pose = Pose(eye, turn)
    site[rt.ORIGIN] = boat_s
    found = np.array(head) + base + rise
    return Scene(
        pose,
        body,
        light,
        builder.world(site, things.rows(rig.stage)),
        _truth(pose, (found[0], found[1], found[2]), light),
    )


def _under_way(rig: Rig, time_s: float) -> Layout:
    """The placement with its subject as far along its way as it has walked by then."""
    far = math.hypot(*rig.plan.goes_m)
    if far < 0.1 or time_s <= 0.0:
        return rig.plan
    return rig.plan.moved(min(rig.plan.walked + figures.WALK_M_S * time_s / far, 1.0))


def _out_of_bridge(site: Array, plan: Layout, s: float, n: float) -> float:
    """How far along everything is moved so that neither camera nor people stand inside the bridge's masonry: who walks stops
    before it."""
    bridge, room = float(site[rt.BRIDGE_S]), rt.BRIDGE_HALF + 0.6
    who = [plan.camera, plan.subject, *([plan.carrying] if plan.carrying is not None else [])]
    beside = [s + float(p[0]) - bridge for p in who if abs(n + float(p[1])) > rt.ARCH_HALF - 0.8]
    if not any(abs(off) < room for off in beside):
        return 0.0
    back, on = -room - max(beside), room - min(beside)
    return back if abs(back) <= abs(on) else on


def _lock_level(time_s: float) -> float:
    return -LOCK_RISE_M * (1.0 - min(max(time_s / LOCK_FILL_S, 0.0), 1.0)) ** 1.5


def _lift(rig: Rig, time_s: float) -> float:
    """How far a subject that stands on the boat in the lock has been lifted since the shot began."""
    s, n = (float(v) for v in rig.plan.subject[:2])
    on_boat = rig.stage == "lock" and rig.carrier == "ground" and abs(n + _LOCK_GROUND_N) < boat.HALF_BEAM_M
    return _lock_level(time_s) - _lock_level(0.0) if on_boat and boat.STERN_S < s < boat.BOW_S else 0.0


def bare(things: list[Parts], pose: Pose, light: Light) -> Scene:
    """An empty canal with nothing but these things: for cards, balls and whatever else is to be measured.

    The truth's subject is the middle of the first ellipsoid of the first thing, or the camera's own place.
    """
    builder = _Builder(groups=things)
    middle = things[0].ellipsoids[0][:3] if things and things[0].ellipsoids else tuple(pose.position_m)
    world = builder.world(_head(light, 0.0), np.zeros((0, rt.ROW_SIZE)))
    return Scene(pose, pose.turn, light, world, _truth(pose, (middle[0], middle[1], middle[2]), light))


def _head(light: Light, time_s: float) -> Array:
    """The numbered places of the flat array, for an open canal without bridge, tunnel or lock."""
    sun_e, sky_e = light.illuminance_lux()
    head = np.zeros(rt.HEAD)
    head[rt.SUN : rt.SUN + 3] = light.sun_vector()
    head[rt.LUX : rt.LUX + 3] = sun_e, sky_e, 0.12 * (sun_e * max(head[rt.SUN + 2], 0.0) + sky_e)
    head[rt.SKY : rt.SKY + 11] = light.sky_numbers()
    head[[rt.BANK, rt.GROUND_Z, rt.TIME, rt.HAZE]] = 4.6, GROUND_Z, time_s, 2600.0
    head[[rt.BRIDGE_S, rt.TUNNEL_S]], head[[rt.LOCK_S0, rt.LOCK_S1]] = FAR, -FAR
    return head


def _stick(builder: _Builder, rig: Rig, eye: Array, foot: Array, apart: bool) -> None:
    """Camera, stick and clamp: whole where the lenses look from their own centres, else what the gap does not hide; all
    of it throws its shadow."""
    plan, setup = rig.plan, rig.plan.setup
    hidden = builder.group()
    hidden.owner = made.MOUNT
    hidden.shadow_only = True
    hidden.blob(tuple(eye), (0.03, 0.03, 0.06), made.STICK)
    if plan.stick_m <= 0.0:
        return
    along = (foot - eye) / max(float(np.linalg.norm(foot - eye)), 1e-9)
    clamp = setup.clamp_half_m
    if apart:
        parts = builder.group()
        parts.owner = made.MOUNT
        parts.limb(tuple(eye + along * 0.07), tuple(foot), setup.half_width_m, made.STICK)
        if clamp > 0.0:
            parts.blob((foot[0], foot[1], foot[2] + 0.03), (clamp, clamp, 0.045), made.STICK)
        return
    hidden.limb(tuple(eye), tuple(foot), setup.half_width_m, made.STICK)
    if clamp > 0.0:
        hidden.blob((foot[0], foot[1], foot[2] + 0.03), (clamp, clamp, 0.045), made.STICK)
    shown_from = seam.hidden_length_m(plan.tilt_deg, gap_m=rig.gap_m, half_thickness_m=setup.half_width_m)
    extra = clamp + plan.stick_m * abs(math.sin(math.radians(plan.tilt_deg))) - rig.gap_m / 2.0
    if shown_from < plan.stick_m or (clamp > 0.0 and extra > 0.0):
        parts = builder.group()
        parts.owner = made.MOUNT
        if shown_from < plan.stick_m:
            parts.limb(tuple(eye + along * max(shown_from, 0.05)), tuple(foot), setup.half_width_m, made.STICK)
        if clamp > 0.0 and extra > 0.0:
            wide = min(extra, clamp)
            parts.blob((foot[0], foot[1], foot[2] + 0.03), (wide, wide, 0.045), made.STICK)


def _truth(pose: Pose, head: Point, light: Light) -> Truth:
    sun_yaw, sun_pitch, _ = pose.seen(pose.position_m + light.sun_vector())
    return Truth(*pose.seen(np.array(head)), sun_yaw, sun_pitch, pose)


def see(
    scene: Scene,
    size_px: tuple[int, int],
    lens: Array = SPHERE,
    pose: Pose | None = None,
    *,
    smooth: bool = True,
    alone: bool = False,
) -> Seen:
    """What is seen from a pose (the camera's own by default) through a lens (the whole sphere by default).

    lens    the angle off the axis in radians at evenly spaced radii of an image circle as high as the picture
    smooth  averages rays at edges; alone: with one core
    """
    from glintor.simulation.raytrace import refine, render

    pose = pose or scene.pose
    width, height = size_px
    out = np.empty((height, width, 3), np.float32)
    depth, kind = np.empty((height, width), np.float32), np.empty((height, width), np.int16)
    arguments = (lens, pose.position_m, pose.turn.ravel(), scene.world)
    in_bands(height, lambda first, last: render(out, depth, kind, first, last, *arguments), alone=alone)
    if smooth:
        limit, source = float(scene.light.sky_numbers()[0]) * 6.0, out.copy()
        in_bands(
            height, lambda first, last: refine(out, source, depth, kind, limit, first, last, *arguments), alone=alone
        )
    return Seen(out, depth, kind)


def masks(scene: Scene, seen: Seen, lens: Array = SPHERE, pose: Pose | None = None) -> NDArray[np.uint8]:
    """Bits (H, W) of `table.SEES_SUBJECT` and its like: where subject and mount are seen, and where their shadows lie."""
    from glintor.simulation.raytrace import mark

    pose = pose or scene.pose
    out = np.empty(seen.depth_m.shape, np.uint8)
    arguments = (lens, pose.position_m, pose.turn.ravel(), scene.world)
    in_bands(len(out), lambda first, last: mark(out, seen.depth_m, first, last, *arguments))
    return out


def render_sphere(scene: Scene, width_px: int, *, smooth: bool = True, alone: bool = False) -> NDArray[np.float32]:
    """Luminance (H, W, 3) in cd/m2, W = 2 H, of the sphere round the middle of the camera."""
    return see(scene, (width_px, width_px // 2), smooth=smooth, alone=alone).luminance
