"""What is known about a placement besides its geometry: camera, stick, air, site and kit."""

from collections.abc import Callable

from msgspec import Struct

from glintor.placement.seam import STITCHES
from glintor.placement.stick import Section, generic_stick


class Given(Struct, frozen=True, kw_only=True):
    """Lengths in metres, angles in degrees, times in minutes.

    width_px    of the sphere in the mode that the shot is recorded in; frame_px: the flat frame wanted first
    stitch_share  of the parallax at the seam that the camera's own stitch leaves
    lowest_m    lowest obstacle over the water; branches_m over the ground of the path, None where nobody knows; power_line_m: 0 for
                none seen
    lean_deg    how far the carrier leans; speed_m_s: what it does here, 0 for what it usually does
    kit         kinds of things in the kit, such as "tether"; sections: the tubes of its stick at a length
    torque_nm   what its mount stands, 0 for the set-up's own number; load_kg: what it carries, 0 unknown
    wet         whether there is water to float on, None where nobody knows
    offset_m    of the camera from the line of the stick at its mount
    """

    gap_m: float
    overlap_deg: float
    width_px: int
    stitch_share: float = STITCHES["aligning"]
    camera_kg: float = 0.20
    frame_px: tuple[int, int] = (1920, 1080)
    stick_m: float
    tilt_deg: float = 0.0
    lowest_m: float | None
    branches_m: float | None = None
    power_line_m: float = 0.0
    lean_deg: float = 3.0
    wind_m_s: float
    speed_m_s: float = 0.0
    permission: str = "unknown"
    length_min: float
    start_min: float
    sunset_min: float
    kit: frozenset[str] = frozenset()
    sections: Callable[[float], tuple[Section, ...]] = generic_stick
    torque_nm: float = 0.0
    load_kg: float = 0.0
    offset_m: float = 0.0
    wet: bool | None = None
