"""A view (where the flat frame looks) and a frame (its size): pixels to directions and back, and the outline."""

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import ArrayLike, NDArray

from glintor.sphere import equirect, lens
from glintor.sphere.lens import Lens, ViewError, shape_scale
from glintor.sphere.rotation import view_matrix
from glintor.sphere.turn import Sight
from glintor.types import Array


class View(Struct, frozen=True, kw_only=True):
    """Where and how the flat frame looks at one moment. Yaw may hold whole turns; bend is the lens shift d."""

    yaw_deg: float = 0.0
    pitch_deg: float = 0.0
    roll_deg: float = 0.0
    fov_deg: float = 100.0
    bend: float = 0.15

    def __post_init__(self) -> None:
        for name in ("yaw_deg", "pitch_deg", "roll_deg", "fov_deg", "bend"):
            if not np.isfinite(getattr(self, name)):
                raise ViewError(f"{name} is not a number.", advice="Give a plain number in its place.")
        if not -90.0 <= self.pitch_deg <= 90.0:
            raise ViewError(
                f"A pitch of {self.pitch_deg:g} degrees is past straight up or down.", advice="Use -90 to 90."
            )
        if not 0.0 <= self.bend <= lens.BEND_MAX:
            raise ViewError(
                f"A bend of {self.bend:g} is outside the lens family.", advice=f"Use 0 to {lens.BEND_MAX:g}."
            )
        if not lens.FOV_MIN_DEG <= self.fov_deg <= lens.fov_limit_deg(self.bend) + 1e-9:
            raise ViewError(
                f"A field of view of {self.fov_deg:g} degrees cannot be shown at a bend of {self.bend:g}.",
                advice=f"Use {lens.FOV_MIN_DEG:g} to {lens.fov_limit_deg(self.bend):.0f} degrees, or more bend.",
            )

    @property
    def matrix(self) -> Array:
        """(3, 3) from the view's axes to the sphere's."""
        return view_matrix(self.yaw_deg, self.pitch_deg, self.roll_deg)

    @property
    def lens(self) -> Lens:
        return Lens.of(self.fov_deg, self.bend)


def within_limits(view: View, **changes: float) -> View:
    """`view` with changes, each held inside what the lens can show, so that a hand can never make a bad view."""
    values = {name: changes.get(name, getattr(view, name)) for name in View.__struct_fields__}
    values["pitch_deg"] = float(np.clip(values["pitch_deg"], -90.0, 90.0))
    values["bend"] = float(np.clip(values["bend"], 0.0, lens.BEND_MAX))
    values["fov_deg"] = float(np.clip(values["fov_deg"], lens.FOV_MIN_DEG, lens.fov_limit_deg(values["bend"])))
    return replace(view, **values)


def for_shape(view: View, size_px: tuple[int, int]) -> View:
    """A view that is meant for 16:9 as a frame of another shape has it; held inside what the lens can show."""
    return _through(view, view.lens.scaled(shape_scale(size_px)))


def as_set(shown: View, size_px: tuple[int, int]) -> View:
    """The inverse of `for_shape`: what a frame of that shape shows, as it is kept for 16:9."""
    return _through(shown, shown.lens.scaled(1.0 / shape_scale(size_px)))


def _through(view: View, other: Lens) -> View:
    return within_limits(view, fov_deg=other.fov_deg)


def focal_px(sight: Sight, width_px: int) -> float:
    """Focal length in pixels of a frame of this width."""
    return sight.lens.focal * width_px


def frame_direction(view: Sight, size_px: tuple[int, int], x: ArrayLike, y: ArrayLike) -> Array:
    """Directions (..., 3) on the sphere of frame positions in pixels (centres at integers); NaN outside the ball."""
    width, height = size_px
    right = np.asarray(x, dtype=np.float64) + 0.5 - width / 2.0
    up = height / 2.0 - np.asarray(y, dtype=np.float64) - 0.5
    right, up = np.broadcast_arrays(right, up)
    r = np.hypot(right, up)
    t = np.radians(lens.angle_deg(r / focal_px(view, width), view.lens.bend))
    side = np.sin(t) / np.where(r > 0.0, r, 1.0)
    local = np.stack([np.cos(t), -right * side, up * side], axis=-1)
    return local @ view.matrix.T


def frame_position(view: Sight, size_px: tuple[int, int], vector: ArrayLike) -> tuple[Array, Array]:
    """Frame position (x, y) in pixels of directions (..., 3); NaN where the lens cannot see them."""
    width, height = size_px
    local = np.asarray(vector, dtype=np.float64) @ view.matrix
    side = np.hypot(local[..., 1], local[..., 2])
    r = lens.radius(np.degrees(np.arctan2(side, local[..., 0])), view.lens.bend) * focal_px(view, width)
    scale = r / np.where(side > 0.0, side, 1.0)
    return width / 2.0 - local[..., 1] * scale - 0.5, height / 2.0 - local[..., 2] * scale - 0.5


def outline_lonlat_deg(view: Sight, size_px: tuple[int, int], *, points: int = 48) -> tuple[Array, Array]:
    """Longitudes and latitudes of the frame's border, `points` a side, closed; NaN where it lies off the ball."""
    width, height = size_px
    run, rise = np.linspace(-0.5, width - 0.5, points), np.linspace(-0.5, height - 0.5, points)
    x = np.concatenate([run, np.full(points, width - 0.5), run[::-1], np.full(points, -0.5)])
    y = np.concatenate([np.full(points, -0.5), rise, np.full(points, height - 0.5), rise[::-1]])
    return equirect.lonlat_deg(frame_direction(view, size_px, x, y))


def in_frame(view: Sight, size_px: tuple[int, int], vector: ArrayLike) -> NDArray[np.bool_]:
    """Whether directions (..., 3) fall inside the frame."""
    x, y = frame_position(view, size_px, vector)
    with np.errstate(invalid="ignore"):
        return (x >= -0.5) & (x <= size_px[0] - 0.5) & (y >= -0.5) & (y <= size_px[1] - 0.5)


def in_frames(values: Array, size_px: tuple[int, int], vectors: Array) -> NDArray[np.bool_]:
    """Whether each direction (n, 3) falls inside its own frame, (n,); values (n, 5): yaw, pitch, roll, field of view in
    degrees, and bend."""
    width, height = size_px
    bend = values[:, 4]
    focal = lens.focal_per_width(values[:, 3], bend) * width
    local = np.einsum("nij,ni->nj", view_matrix(values[:, 0], values[:, 1], values[:, 2]), vectors)
    along = local[:, 0]
    past = along <= -np.where(bend <= 1.0, bend, 1.0 / np.maximum(bend, 1.0)) + 1e-9
    scale = focal * (1.0 + bend) / np.where(past, 1.0, bend + along)
    inside = (np.abs(local[:, 1]) * scale <= width / 2.0) & (np.abs(local[:, 2]) * scale <= height / 2.0)
    return inside & ~past


def vertical_fov_deg(view: View, size_px: tuple[int, int]) -> float:
    """Full vertical angle in degrees through the frame's centre; the ball's rim where it fits inside."""
    half = lens.angle_deg(size_px[1] / 2.0 / focal_px(view, size_px[0]), view.bend)
    return float(lens.edge_deg(view.bend) if np.isnan(half) else 2.0 * half)


def true_width_px(view: View, size_px: tuple[int, int], source_width_px: int) -> int:
    """Source pixels across the frame: its angle times the source's W/360 per degree, at most the frame's own width."""
    return min(size_px[0], round(min(view.fov_deg, lens.edge_deg(view.bend)) * source_width_px / 360.0))
