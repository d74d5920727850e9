"""One placement worked out: where camera, stick, people, sun and shadows are, and how the camera is turned.

The findings and the simulated pictures both take it from here. Carrier axes: metres ahead, left and up from the
carrier's middle on its floor.
"""

import math
from functools import cached_property, lru_cache

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from glintor.placement.axes import camera_axes, level_axes, upright
from glintor.placement.carrier import Carrier, Seat
from glintor.placement.fitting import fit
from glintor.placement.mounts import Setup
from glintor.placement.person import HEIGHT_M, Pose, along
from glintor.placement.reach import foot_of, lens_height_m
from glintor.placement.solids import Point
from glintor.placement.standing import Box
from glintor.placement.subject import VIEW_M, WAY_M, Being
from glintor.placement.sun import Sun
from glintor.sphere.angle import wrap_deg
from glintor.sphere.view import View, within_limits
from glintor.types import Array

START_FOV_DEG, START_BEND = 100.0, 0.15
START_FRAME = (1920, 1080)
CLEARANCE_M = 0.30  # wanted overhead; judgement, no source: hands' breadth for bump and wave
CAMERA_HALF_M = 0.06  # from the lenses to the top of the camera
_STAYS_M = 0.1  # who goes no farther stays where they are
APART_M = 0.5  # from which on the subject is not who carries the camera, nor in a seat
WIDEST_DEG = 150.0  # that a first view is opened to hold two subjects (judgement)


Slope = tuple[float, float]  # how much the ground rises for each metre ahead and to the left
LEVEL: Slope = (0.0, 0.0)


class Shore(Struct, frozen=True):
    """Where land ends and water begins, metres from the middle of the way, and how far down the water lies."""

    left: float = float("inf")
    right: float = float("inf")
    ahead: float = float("inf")
    behind: float = float("inf")
    down_m: float = 0.0

    def dry(self, ahead: Array, left: Array) -> NDArray[np.bool_]:
        """Whether there is land at places (n,) each."""
        return (ahead <= self.ahead) & (-ahead <= self.behind) & (left <= self.left) & (-left <= self.right)


class Layout:
    """A placement in numbers; a value, never changed. Points are (ahead, left, up).

    axes    (3, 3) the camera's own x (front lens), y and z as columns: z along its stick, turned by a joint
    frame   (3, 3) the same of its pictures: level where the camera levels them, else its own
    walls   what of its place one cannot see through, as boxes
    slope   of the ground; the carrier's middle stands on it, people and what stands follow it
    filmed  the subjects, the first is the one that findings speak of; together: all of them are wanted in the frame
    goes_m  how far the subject moves in the shot, ahead and left; walked: how much of it is done, 0 to 1
    carrying  feet of who wears or holds the camera, None where nobody does
    """

    def __init__(
        self,
        setup: Setup,
        carrier: Carrier,
        camera: Array,
        foot: Array,
        filmed: tuple[Being, ...],
        *,
        stick_m: float,
        heading_deg: float,
        tilt_deg: float,
        sun: Sun,
        way_bearing_deg: float,
        levels: bool = True,
        walked: float = 0.0,
        shore: Shore = Shore(),
        together: bool = False,
        slope: Slope = LEVEL,
        walls: tuple[Box, ...] = (),
    ) -> None:
        self.setup, self.carrier, self.filmed = setup, carrier, filmed
        self.camera, self.foot = camera, foot
        self.stick_m, self.heading_deg, self.tilt_deg, self.sun = stick_m, heading_deg, tilt_deg, sun
        self.way_bearing_deg, self.levels, self.walked = way_bearing_deg, levels, walked
        self.shore, self.together, self.slope, self.walls = shore, together, slope, walls
        self.subject = self.feet_of(filmed[0])
        self.axes = camera_axes(camera, foot if stick_m > 0.0 else None, heading_deg, tilt_deg, hangs=setup.hangs)
        self.frame = level_axes(heading_deg) if levels else upright(self.axes)

    def moved(self, share: float) -> "Layout":
        """The same with the subject so far along its way, 0 to 1."""
        return self._with(walked=share)

    def at(self, sun: Sun) -> "Layout":
        """The same under another sun."""
        return self._with(sun=sun)

    def _with(self, **changes: object) -> "Layout":
        names = (
            "camera",
            "foot",
            "filmed",
            "stick_m",
            "heading_deg",
            "tilt_deg",
            "sun",
            "way_bearing_deg",
            "levels",
            "walked",
            "shore",
            "together",
            "slope",
            "walls",
        )
        values = {name: getattr(self, name) for name in names} | changes
        return Layout(self.setup, self.carrier, **values)

    # Who is there
    @property
    def carrying(self) -> Array | None:
        return None if self.setup.feet is None else np.array(self.setup.feet)

    @property
    def carrying_seat(self) -> Seat | None:
        """The seat of who wears or holds the camera."""
        return next((seat for seat in self.carrier.seats if seat.id == self.setup.on), None)

    @cached_property
    def subject_seat(self) -> Seat | None:
        """The seat that the subject is in, where it is a person in one."""
        return self.seat_of(self.filmed[0])

    def seat_of(self, being: Being) -> Seat | None:
        if being.subject.what != "person":
            return None
        ahead, left, up = (float(v) for v in self.feet_of(being))
        return self.carrier.seat((ahead, left, up), APART_M)

    def feet_of(self, being: Being) -> Array:
        """(3,) feet of a subject, as far along its way as it has gone; of a way or a view a point far off."""
        one, gone = being.subject, self.walked
        if one.far:
            way = np.array(one.feet) if any(one.feet) else np.array([1.0, 0.0, 0.0])
            way = np.array([1.0, 0.0, -0.02]) if one.what == "way" else way
            return np.asarray(self.camera + way / np.linalg.norm(way) * (WAY_M if one.what == "way" else VIEW_M))
        ahead, left, up = one.ahead_m + one.goes_ahead_m * gone, one.left_m + one.goes_left_m * gone, one.up_m
        if (
            self.slope != LEVEL and self.carrier.seat((ahead, left, up), APART_M) is None
        ):  # who is not carried stands on the ground
            up += self.ground_up_m(ahead, left)
        return np.array([ahead, left, up])

    def ground_up_m(self, ahead: float, left: float) -> float:
        """How much higher the ground is there than under the carrier's middle."""
        return self.slope[0] * ahead + self.slope[1] * left

    @property
    def goes_m(self) -> tuple[float, float]:
        one = self.filmed[0].subject
        return one.goes_ahead_m, one.goes_left_m

    @property
    def carrier_apart(self) -> bool:
        """Whether somebody carries the camera who is not the subject."""
        who = self.carrying
        if who is not None and self.filmed[0].subject.what != "person":
            return True
        return who is not None and float(np.hypot(*(self.subject - who)[:2])) > APART_M

    @property
    def wearer_apart(self) -> bool:
        """Whether somebody wears the camera who is not the subject."""
        return self.setup.worn and self.carrier_apart

    def _pose_of(self, being: Being) -> tuple[Pose, float]:
        """How a subject holds itself and where it faces, radians from ahead to the left."""
        seat = self.subject_seat if being is self.filmed[0] else self.seat_of(being)
        if seat is not None:
            return seat.pose, -math.radians(seat.faces_deg)
        return being.subject.pose, self.facing(being)

    def facing(self, being: Being) -> float:
        """Which way a subject that is in no seat looks, radians from ahead to the left: as told, along its way, with who walks, else to the
        camera."""
        one, feet = being.subject, self.feet_of(being)
        if one.faces_deg is not None:
            return -math.radians(one.faces_deg)
        if math.hypot(one.goes_ahead_m, one.goes_left_m) > _STAYS_M and self.walked < 1.0:
            return math.atan2(one.goes_left_m, one.goes_ahead_m)
        if self.carrier.step_hz > 0.0:
            return 0.0
        return math.atan2(float(self.camera[1]) - float(feet[1]), float(self.camera[0]) - float(feet[0]))

    def _on(self, being: Being, own: Point) -> Array:
        turn = self._pose_of(being)[1]
        c, s = np.cos(turn), np.sin(turn)
        return self.feet_of(being) + np.array([own[0] * c - own[1] * s, own[0] * s + own[1] * c, own[2]])

    def middle_of(self, being: Being) -> Array:
        """(3,) what the camera looks at in a subject."""
        return self._on(being, being.middle(self._pose_of(being)[0]))

    @cached_property
    def chest(self) -> Array:
        """(3,) of the subject: a person's chest, the middle of anything else."""
        return self.middle_of(self.filmed[0])

    @cached_property
    def head(self) -> Array:
        """(3,) the subject's highest point."""
        return self._on(self.filmed[0], self.filmed[0].top(self._pose_of(self.filmed[0])[0]))

    @property
    def filmer_head(self) -> Array:
        """(3,) the crown of who wears or holds the camera, the camera itself where nobody does."""
        seat = self.carrying_seat
        if self.carrying is None or seat is None:
            return self.camera
        up = along(seat.pose, HEIGHT_M)
        return self.carrying + np.array(up)

    @property
    def subject_m(self) -> float:
        """Distance from the lenses to the subject's chest."""
        return float(np.linalg.norm(self.chest - self.camera))

    # Directions
    def yaw_pitch_deg(self, point: Array) -> tuple[float, float]:
        """Direction of a point in the camera's sphere."""
        x, y, z = (point - self.camera) @ self.frame
        return float(np.degrees(-np.arctan2(y, x))), float(np.degrees(np.arctan2(z, np.hypot(x, y))))

    def directions(self, points: Array) -> Array:
        """Unit vectors (n, 3) in the picture's axes towards points (n, 3)."""
        vectors = (points - self.camera) @ self.frame
        return np.asarray(vectors / np.maximum(np.linalg.norm(vectors, axis=-1, keepdims=True), 1e-9))

    @property
    def lens_axis(self) -> Array:
        """(3,) where the front lens looks, in the picture's axes; the seam is the great circle at right angles to it."""
        return self.axes[:, 0] @ self.frame

    def off_seam_deg(self, points: Array) -> Array:
        """Angle (n,) of points off the seam plane: above 0 on the front lens's side, below on the back's."""
        look = points - self.camera
        look = look / np.maximum(np.linalg.norm(look, axis=-1, keepdims=True), 1e-9)
        return np.asarray(np.degrees(np.arcsin(np.clip(look @ self.axes[:, 0], -1.0, 1.0))))

    @property
    def chest_yaw_pitch_deg(self) -> tuple[float, float]:
        return self.yaw_pitch_deg(self.chest)

    @cached_property
    def start_view(self) -> View:
        """The natural first frame: on the subject's chest; where all are wanted together, between them and as wide as that
        takes."""
        yaw, pitch = self.chest_yaw_pitch_deg
        fov = START_FOV_DEG
        if self.together and len(self.filmed) > 1:
            looks = self.directions(np.stack([self.middle_of(being) for being in self.filmed]))
            mean = looks.sum(axis=0)
            if float(np.linalg.norm(mean)) > 1e-3:
                yaw = float(np.degrees(-np.arctan2(mean[1], mean[0])))
                pitch = float(np.degrees(np.arctan2(mean[2], np.hypot(mean[0], mean[1]))))
                apart = np.degrees(np.arccos(np.clip(looks @ (mean / np.linalg.norm(mean)), -1.0, 1.0)))
                fov = float(np.clip(2.0 * apart.max() + 30.0, START_FOV_DEG, WIDEST_DEG))
        return within_limits(View(fov_deg=fov, bend=START_BEND), yaw_deg=yaw, pitch_deg=float(np.clip(pitch, -45, 45)))

    # Sun
    @property
    def to_sun(self) -> Array:
        """(3,) towards the sun in carrier axes."""
        turn, up = np.radians([self.sun.azimuth_deg - self.way_bearing_deg, self.sun.elevation_deg])
        return np.array([np.cos(up) * np.cos(turn), -np.cos(up) * np.sin(turn), np.sin(up)])

    @property
    def sun_yaw_pitch_deg(self) -> tuple[float, float]:
        return self.yaw_pitch_deg(self.camera + self.to_sun)

    @property
    def away_from_sun(self) -> Array:
        """(2,) unit vector ahead, left along which shadows fall."""
        turn = np.radians(self.sun.azimuth_deg - self.way_bearing_deg)
        return np.array([-np.cos(turn), np.sin(turn)])

    @property
    def sun_off_back_deg(self) -> float:
        """How far the sun is, level, from standing right behind the camera as it looks at the subject: 0 behind, 180 ahead."""
        ahead, left, _ = self.chest - self.camera
        off = np.degrees(-np.arctan2(left, ahead)) - (self.sun.azimuth_deg - self.way_bearing_deg)
        return 180.0 - abs(float(wrap_deg(off)))

    # The subject's size
    @property
    def person_deg(self) -> float:
        """Angle from the subject's feet to the head, in the pose that it is in."""
        feet, head = self.subject - self.camera, self.head - self.camera
        far = max(float(np.linalg.norm(feet) * np.linalg.norm(head)), 1e-9)
        return float(np.degrees(np.arccos(np.clip(feet @ head / far, -1.0, 1.0))))

    @property
    def head_to_feet(self) -> float:
        """How many times as large the head is drawn as the feet: by how far both are, in the pose that it is in."""
        return float(
            np.linalg.norm(self.subject - self.camera) / max(float(np.linalg.norm(self.head - self.camera)), 1e-6)
        )

    # Room
    def clearance_m(self, lowest_m: float, lean_deg: float = 0.0) -> float:
        """Room between the camera's top and the lowest thing overhead, both over ground or water; the carrier may lean so far.

        A point at the side y and height z goes to z cos(lean) + |y| sin(lean) on the outer side.
        """
        lean, up = np.radians(lean_deg), self.carrier.floor_m + float(self.camera[2]) + CAMERA_HALF_M
        up -= self.ground_up_m(float(self.camera[0]), float(self.camera[1])) if not self.carrier.afloat else 0.0
        return float(lowest_m - (up * np.cos(lean) + abs(self.camera[1]) * np.sin(lean)))

    @property
    def over_water(self) -> bool:
        return self.carrier.afloat or not bool(self.shore.dry(self.camera[0], self.camera[1]))

    def room_below_m(self, lean_deg: float = 0.0) -> float:
        """Room between the camera's underside and the ground under it, or the water past the shore, leaning so far.

        A point at the side y and height z goes to z cos(lean) - |y| sin(lean) on the inner side.
        """
        lean, up = np.radians(lean_deg), float(self.camera[2]) - CAMERA_HALF_M + self.carrier.floor_m
        up += self.shore.down_m if self.over_water and not self.carrier.afloat else 0.0
        up -= self.ground_up_m(float(self.camera[0]), float(self.camera[1]))
        return float(up * np.cos(lean) - abs(self.camera[1]) * np.sin(lean))


def axis_of(plan: Layout) -> tuple[float, float, float]:
    """Where the front lens looks in the picture, as plain numbers."""
    x, y, z = plan.lens_axis
    return float(x), float(y), float(z)


def layout(
    *,
    setup: Setup,
    carrier: Carrier,
    on: str = "",
    ahead_m: float,
    left_m: float,
    stick_m: float,
    heading_deg: float,
    lean_deg: float,
    tilt_deg: float = 0.0,
    filmed: tuple[Being, ...],
    together: bool = False,
    sun: Sun,
    way_bearing_deg: float,
    levels: bool = True,
    shore: Shore = Shore(),
    slope: Slope = LEVEL,
    walls: tuple[Box, ...] = (),
) -> Layout:
    """Works a placement out."""
    fitted = fit(setup, carrier, on)
    camera, foot = _camera_and_foot(fitted, ahead_m, left_m, stick_m, heading_deg, lean_deg)
    if slope != LEVEL and fitted.grip is None and not fitted.spans:  # it stands on the ground, or hangs over it
        rise = np.array([0.0, 0.0, slope[0] * float(foot[0]) + slope[1] * float(foot[1])])
        camera, foot = camera + rise, foot + rise
    return Layout(
        fitted,
        carrier,
        camera,
        foot,
        filmed,
        stick_m=stick_m,
        heading_deg=heading_deg,
        tilt_deg=tilt_deg,
        sun=sun,
        way_bearing_deg=way_bearing_deg,
        levels=levels,
        shore=shore,
        together=together,
        slope=slope,
        walls=walls,
    )


@lru_cache(maxsize=1024)
def _camera_and_foot(
    setup: Setup, ahead_m: float, left_m: float, stick_m: float, heading_deg: float, lean_deg: float
) -> tuple[Array, Array]:
    foot = foot_of(setup, stick_m, ahead_m, left_m, heading_deg, lean_deg)
    up = lens_height_m(setup, stick_m, ahead_m, left_m, foot, lean_deg)
    return np.array([ahead_m, left_m, up]), np.array(foot)
