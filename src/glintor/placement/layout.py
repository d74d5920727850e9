"""One placement worked out: where camera, stick, subject, sun and shadows are, and what the first frame shows.

Carrier axes: metres ahead, left and up from the carrier's middle on its surface.
"""

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from glintor.placement.carriers import CARRIERS, Carrier
from glintor.placement.framing import PERSON_M, head_to_feet, person_angle_deg
from glintor.placement.mounts import Setup, lens_height_m, setup_by_id
from glintor.placement.shadow import shadow_reach_m
from glintor.placement.sun import Sun
from glintor.sphere.view import View, in_frame, within_limits

Array = NDArray[np.float64]
START_FOV_DEG, START_BEND = 100.0, 0.15
START_FRAME = (1920, 1080)
CLEARANCE_M = 0.30  # wanted overhead; judgement, no source: hands' breadth for bump and wave
CAMERA_HALF_M = 0.06  # from the lenses to the top of the camera


class Layout(Struct, frozen=True):
    """A placement in numbers. Points are (ahead, left, up); subject_goes_m: how far the subject moves in the shot."""

    setup: Setup
    carrier: Carrier
    camera: Array
    foot: Array
    subject: Array
    heading_deg: float
    sun: Sun
    way_bearing_deg: float
    subject_goes_m: tuple[float, float] = (0.0, 0.0)

    def moved(self, share: float) -> "Layout":
        """The same with the subject so far along its way, 0 to 1."""
        return replace(self, subject=self.subject + np.array([*self.subject_goes_m, 0.0]) * share)

    @property
    def subject_m(self) -> float:
        """Distance from the lenses to the subject's chest."""
        return float(np.linalg.norm(self.subject + [0.0, 0.0, 0.72 * PERSON_M] - self.camera))

    @property
    def wearer_apart(self) -> bool:
        """Whether somebody wears the camera who is not the subject; who wears it stands in the carrier's middle."""
        return self.setup.worn and float(np.hypot(*self.subject[:2])) > 0.5

    def yaw_pitch_deg(self, point: Array) -> tuple[float, float]:
        """Direction of a point in the camera's sphere."""
        ahead, left, up = point - self.camera
        yaw = np.degrees(-np.arctan2(left, ahead)) - self.heading_deg
        return float((yaw + 180.0) % 360.0 - 180.0), float(np.degrees(np.arctan2(up, np.hypot(ahead, left))))

    def directions(self, points: Array) -> Array:
        """Unit vectors (n, 3) in the body frame towards points (n, 3)."""
        turn = np.radians(self.heading_deg)
        ahead, left, up = (points - self.camera).T
        vectors = np.stack(
            [ahead * np.cos(turn) - left * np.sin(turn), ahead * np.sin(turn) + left * np.cos(turn), up], axis=-1
        )
        return vectors / np.maximum(np.linalg.norm(vectors, axis=-1, keepdims=True), 1e-9)

    @property
    def chest_yaw_pitch_deg(self) -> tuple[float, float]:
        return self.yaw_pitch_deg(self.subject + [0.0, 0.0, 0.72 * PERSON_M])

    @property
    def start_view(self) -> View:
        """The natural first frame: on the subject's chest."""
        yaw, pitch = self.chest_yaw_pitch_deg
        return within_limits(
            View(fov_deg=START_FOV_DEG, bend=START_BEND), yaw_deg=yaw, pitch_deg=float(np.clip(pitch, -45, 45))
        )

    @property
    def sun_yaw_pitch_deg(self) -> tuple[float, float]:
        yaw = self.sun.azimuth_deg - self.way_bearing_deg - self.heading_deg
        return (yaw + 180.0) % 360.0 - 180.0, self.sun.elevation_deg

    @property
    def away_from_sun(self) -> Array:
        """(2,) unit vector ahead, left along which shadows fall."""
        turn = np.radians(self.sun.azimuth_deg - self.way_bearing_deg)
        return np.array([-np.cos(turn), np.sin(turn)])

    def shadow_of(self, point: Array, *, from_up: float = 0.0) -> Array:
        """Where the shadow of a point falls: on the carrier's surface, or past its edge on the water.

        from_up is the height at which the thing's own foot stands (its shadow starts there).
        """
        reach = min(shadow_reach_m(max(point[2] - from_up, 0.0), self.sun), 60.0)
        flat = point[:2] + self.away_from_sun * reach
        if abs(flat[1]) > self.carrier.half_width_m:
            reach = min(shadow_reach_m(point[2] + self.carrier.surface_m, self.sun), 60.0)
            flat = point[:2] + self.away_from_sun * reach
            return np.array([*flat, -self.carrier.surface_m])
        return np.array([*flat, from_up])

    def stick_shadow(self, points: int = 25) -> Array:
        """(n, 3) points of the shadow of stick and camera, foot first; (0, 3) with the sun down."""
        if self.sun.elevation_deg < 1.0:
            return np.zeros((0, 3))
        share = np.linspace(0.0, 1.0, points)[:, None]
        foot = np.zeros(3) if self.setup.worn else self.foot  # whoever wears it throws a shadow from the ground up
        return np.array([self.shadow_of(p) for p in foot + (self.camera - foot) * share])

    def subject_shadow(self, points: int = 12) -> Array:
        """(n, 3) points of the subject's shadow, feet first; (0, 3) with the sun down."""
        if self.sun.elevation_deg < 1.0:
            return np.zeros((0, 3))
        heights = np.linspace(0.0, PERSON_M, points)
        up = float(self.subject[2])
        return np.array([self.shadow_of(self.subject + [0.0, 0.0, h], from_up=up) for h in heights])

    def shadow_in_frame_m(self, view: View, size_px: tuple[int, int]) -> float:
        """Length of the stick's shadow that the frame shows, metres."""
        points = self.stick_shadow()
        if not len(points):
            return 0.0
        seen = in_frame(view, size_px, self.directions(points))
        steps = np.linalg.norm(np.diff(points, axis=0), axis=1)
        return float(steps[seen[1:] & seen[:-1]].sum())

    @property
    def person_deg(self) -> float:
        """Angle from the subject's feet to the head."""
        ahead, left, _ = self.subject - self.camera
        return person_angle_deg(float(self.camera[2] - self.subject[2]), PERSON_M, float(np.hypot(ahead, left)))

    @property
    def head_to_feet(self) -> float:
        ahead, left, _ = self.subject - self.camera
        return head_to_feet(float(self.camera[2] - self.subject[2]), PERSON_M, float(np.hypot(ahead, left)))

    def clearance_m(self, lowest_m: float, lean_deg: float = 0.0) -> float:
        """Room between the camera's top and the lowest thing overhead, both over the water; the carrier may lean so far.

        A point at the side y and height z goes to z cos(lean) + |y| sin(lean) on the outer side.
        """
        lean, up = np.radians(lean_deg), self.carrier.surface_m + float(self.camera[2]) + CAMERA_HALF_M
        return float(lowest_m - (up * np.cos(lean) + abs(self.camera[1]) * np.sin(lean)))

    def room_below_m(self, lean_deg: float = 0.0) -> float:
        """Room between the camera's underside and the ground under it, or the water past the carrier's edge, leaning so far.

        A point at the side y and height z goes to z cos(lean) - |y| sin(lean) on the inner side.
        """
        over_water = abs(float(self.camera[1])) > self.carrier.half_width_m or self.carrier.id == "boat"
        lean, up = np.radians(lean_deg), float(self.camera[2]) - CAMERA_HALF_M
        up += self.carrier.surface_m if over_water else 0.0
        return float(up * np.cos(lean) - abs(self.camera[1]) * np.sin(lean))

    @property
    def sun_off_back_deg(self) -> float:
        """How far the sun is, level, from standing right behind the camera as it looks at the subject: 0 behind, 180 ahead."""
        off = self.sun_yaw_pitch_deg[0] - self.chest_yaw_pitch_deg[0]
        return float(180.0 - abs((off + 180.0) % 360.0 - 180.0))


def layout(
    *,
    setup_id: str,
    ahead_m: float,
    left_m: float,
    stick_m: float,
    heading_deg: float,
    lean_deg: float,
    subject: tuple[float, float, float],
    sun: Sun,
    way_bearing_deg: float,
    subject_goes_m: tuple[float, float] = (0.0, 0.0),
) -> Layout:
    """Works a placement out. Raises InputError for an unknown set-up."""
    setup = setup_by_id(setup_id)
    up = lens_height_m(setup, stick_m, ahead_m, left_m, lean_deg)
    camera = np.array([ahead_m, left_m, up])
    if setup.hand is not None:
        foot = np.array([*setup.hand, setup.base_m])
    else:
        turn, lean = -np.radians(heading_deg), np.radians(lean_deg)
        side = np.array([-np.sin(turn), np.cos(turn)])
        foot = np.array([*(camera[:2] + side * stick_m * np.sin(lean)), setup.base_m])
    return Layout(
        setup,
        CARRIERS[setup.carrier],
        camera,
        foot,
        np.array(subject),
        heading_deg,
        sun,
        way_bearing_deg,
        subject_goes_m,
    )
