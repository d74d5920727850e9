"""What the shutter does to motion: shutter angle, blur, stutter, and how fast a view may pan."""

CROSSING_S = (
    7.0  # common practice, no source: an object takes at least 7 s to cross the frame at 24 fps and 180 degrees
)
STUTTER_LIMIT_PX = 4.0  # judgement, no source: a gap between images wider than this reads as stutter


def shutter_angle_deg(rate_fps: float, shutter_s: float) -> float:
    """360 x fps x t, at most 360."""
    return min(360.0 * rate_fps * shutter_s, 360.0)


def shutter_for_angle_s(rate_fps: float, angle_deg: float) -> float:
    """The time that gives a shutter angle at a frame rate."""
    return angle_deg / 360.0 / rate_fps


def blur_px(speed_deg_s: float, shutter_s: float, px_per_deg: float) -> float:
    """Length of the blur of a thing in frame pixels: angular speed x time x density."""
    return speed_deg_s * shutter_s * px_per_deg


def stutter_px(speed_deg_s: float, rate_fps: float, shutter_s: float, px_per_deg: float) -> float:
    """Gap between the images of a thing in two frames: its step less its blur, in frame pixels."""
    return max(speed_deg_s / rate_fps - speed_deg_s * shutter_s, 0.0) * px_per_deg


def pan_limit_deg_s(fov_deg: float, rate_fps: float, shutter_angle: float) -> float:
    """Fastest even pan that stays smooth, from the crossing rule scaled with frame rate and shutter angle.

    At the rule's own point (24 fps, 180 degrees) it is fov / 7 s. More frames allow as much more; a smaller
    shutter angle leaves gaps and allows less, down to half.
    """
    sharpness = 0.5 + 0.5 * min(shutter_angle, 180.0) / 180.0
    return fov_deg / CROSSING_S * (rate_fps / 24.0) * sharpness
