"""A placement in its place at a moment, as the arrays that the renderer takes, with the truth beside them."""

import math

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.pixels.bands import in_bands
from glintor.placement import figures, seam
from glintor.placement import solids as made
from glintor.placement.axes import level_axes
from glintor.placement.carrier import parts_of
from glintor.placement.layout import Layout
from glintor.placement.solids import Parts, Point
from glintor.simulation import canal, described
from glintor.simulation import table as rt
from glintor.simulation.builder import Builder
from glintor.simulation.light import Light
from glintor.simulation.pose import Pose
from glintor.simulation.rig import Rig, carrier_s
from glintor.simulation.things import GROUND_Z
from glintor.types import Array

FAR = 1e9
_SLIDE_M_S = 0.15  # of a camera on a line, let go gently (judgement)
SPHERE = np.zeros(1)  # in place of a lens: the whole sphere, unrolled


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


def build(rig: Rig, light: Light, time_s: float, *, moved: Pose | None = None, apart: bool = False) -> Scene:
    """The place at a moment, seen by the camera of `rig`. Raises InputError for a place that nobody described.

    moved   how the camera has moved and turned from its nominal place (metres in the scene, rotation of the body)
    apart   draws the whole stick and clamp, for lenses that look past them from their own centres; else only what
            the gap between them does not hide, for one eye in the middle
    """
    head, builder = _head(light, time_s), Builder()
    plan = _under_way(rig, time_s)
    stand = (described if rig.place is not None else canal).set_up(rig, plan, head, builder, time_s, light.bearing_deg)
    base = stand.base
    if figures.roofed(plan) and head[rt.COVERED] < 1.0:
        head[rt.COVERED] = 2.0  # its own roof keeps the sky off
    if rig.place is None and rig.carrier.solids and not rig.carrier.afloat:
        builder.cluster([parts.moved(base) for parts in parts_of(rig.carrier)])
    eye, foot, turn, body = base + plan.camera, base + plan.foot, plan.frame, plan.axes
    if plan.setup.slides_m > 0.0 or plan.setup.turns_s > 0.0:
        slid, about = _goes(plan, time_s)
        eye, foot, turn, body = eye + slid, foot + slid, about @ turn, about @ body
    if moved is not None:
        eye, nominal = eye + moved.position_m, turn
        turn = turn @ moved.turn
        body = turn @ nominal.T @ body
    carrying = figures.carrying_person(plan, time_s) if plan.carrier_apart else None
    if carrying is not None:
        carrying[0].owner = made.MOUNT
        builder.groups.append(carrying[0].moved(base))
    rise, seen = np.array([0.0, 0.0, stand.lift_m]), []
    for being, parts, at in figures.cast(plan, time_s):
        there = base + rise
        if being.subject.keeps == "there":  # the carrier passes it
            there = there - np.array([carrier_s(rig, time_s) - carrier_s(rig, 0.0), 0.0, 0.0])
        if not parts.empty:
            builder.groups.append(parts.moved(there))
        seen.append(np.array(at) + there)
    _stick(builder, rig, eye, foot, apart)
    pose = Pose(eye, turn)
    head[rt.ORIGIN] = stand.boat_s
    found = seen[0]
    return Scene(
        pose, body, light, builder.world(head, stand.rows), _truth(pose, (found[0], found[1], found[2]), light)
    )


def _goes(plan: Layout, time_s: float) -> tuple[Array, Array]:
    """How far a camera on a line has slid along the way ahead, and how far one on a table has turned (3, 3), clockwise."""
    far = min(_SLIDE_M_S * max(time_s, 0.0), plan.setup.slides_m)
    turn = 360.0 * time_s / plan.setup.turns_s if plan.setup.turns_s > 0.0 else 0.0
    return np.array([far, 0.0, 0.0]), level_axes(turn)


def _under_way(rig: Rig, time_s: float) -> Layout:
    """The placement with its subject as far along its way as it has walked by then."""
    far = math.hypot(*rig.plan.goes_m)
    if far < 0.1 or time_s <= 0.0:
        return rig.plan
    return rig.plan.moved(min(rig.plan.walked + figures.WALK_M_S * time_s / far, 1.0))


def bare(things: list[Parts], pose: Pose, light: Light, *, ground: int | None = None) -> Scene:
    """An empty canal with nothing but these things: for cards, balls and whatever else is to be measured. ground: a material
    to be level ground everywhere instead of the canal.

    The truth's subject is the middle of the first ellipsoid of the first thing, or the camera's own place.
    """
    builder = Builder(groups=things)
    middle = things[0].ellipsoids[0][:3] if things and things[0].ellipsoids else tuple(pose.position_m)
    head = _head(light, 0.0)
    if ground is not None:
        described.level_ground(head, ground)
    world = builder.world(head, np.zeros((0, rt.ROW_SIZE)))
    return Scene(pose, pose.turn, light, world, _truth(pose, (middle[0], middle[1], middle[2]), light))


def _head(light: Light, time_s: float) -> Array:
    """The numbered places of the flat array, for an open canal without bridge, tunnel or lock."""
    sun_e, sky_e = light.illuminance_lux()
    head = np.zeros(rt.HEAD)
    head[rt.SUN : rt.SUN + 3] = light.sun_vector()
    head[rt.LUX : rt.LUX + 3] = sun_e, sky_e, 0.12 * (sun_e * max(head[rt.SUN + 2], 0.0) + sky_e)
    head[rt.SKY : rt.SKY + 11] = light.sky_numbers()
    head[[rt.BANK, rt.GROUND_Z, rt.TIME, rt.HAZE, rt.HILLS]] = 4.6, GROUND_Z, time_s, 2600.0, 1.0
    head[[rt.BRIDGE_S, rt.TUNNEL_S]], head[[rt.LOCK_S0, rt.LOCK_S1]] = FAR, -FAR
    return head


def _stick(builder: Builder, rig: Rig, eye: Array, foot: Array, apart: bool) -> None:
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
