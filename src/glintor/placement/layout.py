"""One placement worked out: where camera, stick, people, sun and shadows are, and how the camera is turned.

The findings and the simulated pictures both take it from here. Carrier axes: metres ahead, left and up from the
carrier's middle on its surface.
"""

from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from glintor.placement.carriers import CARRIERS
from glintor.placement.framing import PERSON_M, head_to_feet, person_angle_deg
from glintor.placement.mounts import Setup, foot_of, lens_height_m, setup_by_id
from glintor.placement.sun import Sun
from glintor.sphere.angle import wrap_deg
from glintor.sphere.view import View, within_limits

Array = NDArray[np.float64]
START_FOV_DEG, START_BEND = 100.0, 0.15
START_FRAME = (1920, 1080)
CLEARANCE_M = 0.30  # wanted overhead; judgement, no source: hands' breadth for bump and wave
CAMERA_HALF_M = 0.06  # from the lenses to the top of the camera
CHEST, APART_M = 0.72, 0.5  # share of a person's height; from which on the subject is not who carries the camera


class Layout:
    """A placement in numbers; a value, never changed. Points are (ahead, left, up).

    axes    (3, 3) the camera's own x (front lens), y and z as columns: z along its stick, turned by a joint
    frame   (3, 3) the same of its pictures: level where the camera levels them, else its own
    goes_m  how far the subject moves in the shot, ahead and left; walked: how much of it is done, 0 to 1
    carrying  feet of who wears or holds the camera, None where nobody does
    """

    def __init__(
        self,
        setup: Setup,
        camera: Array,
        foot: Array,
        subject: Array,
        *,
        stick_m: float,
        heading_deg: float,
        tilt_deg: float,
        sun: Sun,
        way_bearing_deg: float,
        goes_m: tuple[float, float] = (0.0, 0.0),
        levels: bool = True,
        walked: float = 0.0,
    ) -> None:
        self.setup, self.carrier = setup, CARRIERS[setup.carrier]
        self.camera, self.foot, self.subject = camera, foot, subject
        self.stick_m, self.heading_deg, self.tilt_deg, self.sun = stick_m, heading_deg, tilt_deg, sun
        self.way_bearing_deg, self.goes_m, self.levels, self.walked = way_bearing_deg, goes_m, levels, walked
        self.axes = camera_axes(camera, foot if stick_m > 0.0 else None, heading_deg, tilt_deg, hangs=setup.hangs)
        self.frame = level_axes(heading_deg) if levels else _upright(self.axes)

    def moved(self, share: float) -> "Layout":
        """The same with the subject so far along its way, 0 to 1."""
        step = np.array([*self.goes_m, 0.0]) * (share - self.walked)
        return self._with(subject=self.subject + step, walked=share)

    def at(self, sun: Sun) -> "Layout":
        """The same under another sun."""
        return self._with(sun=sun)

    def _with(self, **changes: object) -> "Layout":
        names = (
            "camera",
            "foot",
            "subject",
            "stick_m",
            "heading_deg",
            "tilt_deg",
            "sun",
            "way_bearing_deg",
            "goes_m",
            "levels",
            "walked",
        )
        values = {name: getattr(self, name) for name in names} | changes
        return Layout(self.setup, **values)

    # Who is there
    @property
    def carrying(self) -> Array | None:
        if self.setup.worn or (self.setup.hand is not None and self.carrier.id == "walker"):
            return np.zeros(3)
        if self.setup.hand is not None:  # it is held over the shoulder line of who holds it
            return np.array([self.setup.hand[0] - 0.02, self.setup.hand[1] + 0.20, 0.0])
        return None

    @property
    def carrier_apart(self) -> bool:
        """Whether somebody carries the camera who is not the subject."""
        who = self.carrying
        return who is not None and float(np.hypot(*(self.subject - who)[:2])) > APART_M

    @property
    def wearer_apart(self) -> bool:
        """Whether somebody wears the camera who is not the subject."""
        return self.setup.worn and self.carrier_apart

    @property
    def chest(self) -> Array:
        return self.subject + np.array([0.0, 0.0, CHEST * PERSON_M])

    @property
    def head(self) -> Array:
        return self.subject + np.array([0.0, 0.0, PERSON_M])

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
        """The natural first frame: on the subject's chest."""
        yaw, pitch = self.chest_yaw_pitch_deg
        return within_limits(
            View(fov_deg=START_FOV_DEG, bend=START_BEND), yaw_deg=yaw, pitch_deg=float(np.clip(pitch, -45, 45))
        )

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
        """Angle from the subject's feet to the head."""
        ahead, left, _ = self.subject - self.camera
        return person_angle_deg(float(self.camera[2] - self.subject[2]), PERSON_M, float(np.hypot(ahead, left)))

    @property
    def head_to_feet(self) -> float:
        ahead, left, _ = self.subject - self.camera
        return head_to_feet(float(self.camera[2] - self.subject[2]), PERSON_M, float(np.hypot(ahead, left)))

    # Room
    def clearance_m(self, lowest_m: float, lean_deg: float = 0.0) -> float:
        """Room between the camera's top and the lowest thing overhead, both over the water; the carrier may lean so far.

        A point at the side y and height z goes to z cos(lean) + |y| sin(lean) on the outer side.
        """
        lean, up = np.radians(lean_deg), self.carrier.surface_m + float(self.camera[2]) + CAMERA_HALF_M
        return float(lowest_m - (up * np.cos(lean) + abs(self.camera[1]) * np.sin(lean)))

    @property
    def over_water(self) -> bool:
        side = float(self.camera[1])
        return abs(side) > self.carrier.half_width_m or side < self.carrier.edge_m or self.carrier.id == "boat"

    def room_below_m(self, lean_deg: float = 0.0) -> float:
        """Room between the camera's underside and the ground under it, or the water past the carrier's edge, leaning so far.

        A point at the side y and height z goes to z cos(lean) - |y| sin(lean) on the inner side.
        """
        lean, up = np.radians(lean_deg), float(self.camera[2]) - CAMERA_HALF_M
        up += self.carrier.surface_m if self.over_water else 0.0
        return float(up * np.cos(lean) - abs(self.camera[1]) * np.sin(lean))


def axis_of(plan: Layout) -> tuple[float, float, float]:
    """Where the front lens looks in the picture, as plain numbers."""
    x, y, z = plan.lens_axis
    return float(x), float(y), float(z)


def level_axes(heading_deg: float) -> Array:
    """(3, 3) of an upright camera whose front lens points so far clockwise from the way ahead."""
    turn = -np.radians(heading_deg)
    c, s = np.cos(turn), np.sin(turn)
    return np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])


def _upright(axes: Array) -> Array:
    """The picture's axes of a camera that does not level: its own, turned over where it hangs."""
    return axes if axes[2, 2] >= 0.0 else axes @ np.diag([1.0, -1.0, -1.0])


def camera_axes(camera: Array, foot: Array | None, heading_deg: float, tilt_deg: float, *, hangs: bool) -> Array:
    """(3, 3) the camera's x, y, z as columns. z lies along its stick, away from the foot; x points along the heading as
    far as that allows (the least turn that takes the plumb line to the stick takes the heading along); a joint then
    turns the camera about its y, so that the stick leaves the gap between the lenses."""
    plumb = np.array([0.0, 0.0, -1.0 if hangs and foot is not None else 1.0])
    turn = -np.radians(heading_deg)
    x = np.array([np.cos(turn), np.sin(turn), 0.0])
    z = plumb
    if foot is not None:
        z = camera - foot
        z = z / max(float(np.linalg.norm(z)), 1e-9)
        x = _turned_with(plumb, z, x)
    tilt = np.radians(tilt_deg)
    x, z = np.cos(tilt) * x - np.sin(tilt) * z, np.sin(tilt) * x + np.cos(tilt) * z
    return np.column_stack([x, np.cross(z, x), z])


def _turned_with(a: Array, b: Array, vector: Array) -> Array:
    """A vector after the least turn that takes unit vector a to b (Rodrigues)."""
    axis, along = np.cross(a, b), float(a @ b)
    if along < -1.0 + 1e-9:
        return vector
    return np.asarray(vector + np.cross(axis, vector) + np.cross(axis, np.cross(axis, vector)) / (1.0 + along))


def layout(
    *,
    setup_id: str,
    ahead_m: float,
    left_m: float,
    stick_m: float,
    heading_deg: float,
    lean_deg: float,
    tilt_deg: float = 0.0,
    subject: tuple[float, float, float],
    sun: Sun,
    way_bearing_deg: float,
    subject_goes_m: tuple[float, float] = (0.0, 0.0),
    levels: bool = True,
) -> Layout:
    """Works a placement out. Raises InputError for an unknown set-up."""
    camera, foot = _camera_and_foot(setup_id, ahead_m, left_m, stick_m, heading_deg, lean_deg)
    return Layout(
        setup_by_id(setup_id),
        camera,
        foot,
        np.array(subject),
        stick_m=stick_m,
        heading_deg=heading_deg,
        tilt_deg=tilt_deg,
        sun=sun,
        way_bearing_deg=way_bearing_deg,
        goes_m=subject_goes_m,
        levels=levels,
    )


@lru_cache(maxsize=1024)
def _camera_and_foot(
    setup_id: str, ahead_m: float, left_m: float, stick_m: float, heading_deg: float, lean_deg: float
) -> tuple[Array, Array]:
    setup = setup_by_id(setup_id)
    up = lens_height_m(setup, stick_m, ahead_m, left_m, lean_deg)
    foot = foot_of(setup, stick_m, ahead_m, left_m, heading_deg, lean_deg)
    return np.array([ahead_m, left_m, up]), np.array([*foot, setup.base_m])
