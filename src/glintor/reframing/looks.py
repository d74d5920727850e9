"""The six starting looks: values on the one lens family, never separate code."""

from collections.abc import Sequence

from msgspec import Struct

from glintor.sphere.view import View, within_limits


class Look(Struct, frozen=True):
    """A starting point. pitch_deg None leaves the pitch where it is."""

    name: str
    fov_deg: float
    bend: float
    pitch_deg: float | None
    words: str

    def on(self, view: View) -> View:
        """`view` with this look's lens, still looking the same way unless the look has its own pitch."""
        pitch = view.pitch_deg if self.pitch_deg is None else self.pitch_deg
        return within_limits(view, fov_deg=self.fov_deg, bend=self.bend, pitch_deg=pitch)


LOOKS = (
    Look("Globe", 280.0, 1.0, -90.0, "the ground as a small planet"),
    Look("Sweep", 140.0, 0.5, None, "very wide, gently bent"),
    Look("Eye", 100.0, 0.15, None, "the natural one"),
    Look("Ruled", 90.0, 0.0, None, "straight lines stay straight"),
    Look("Reach", 55.0, 0.0, None, "tight"),
    Look("Marble", 346.0, 1.25, -20.0, "the place as a ball seen from outside"),
)


def nearest_look(view: View, own: Sequence[Look] = ()) -> Look | None:
    """The look whose field of view and bend the view still has, if any; own: the person's own looks."""
    return next(
        (k for k in (*LOOKS, *own) if abs(k.fov_deg - view.fov_deg) < 0.5 and abs(k.bend - view.bend) < 0.005), None
    )
