"""Who or what is filmed: people, carriers with their people, animals, things, the way ahead, a far view."""

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from glintor.placement.carrier import Carrier, parts_of
from glintor.placement.person import HEIGHT_M, Pose, along
from glintor.placement.shapes import extent
from glintor.placement.solids import Point

What = Literal["person", "carrier", "animal", "thing", "way", "view"]
WORDS: dict[What, str] = {
    "person": "a person", "carrier": "a carrier, ridden", "animal": "an animal", "thing": "a thing",
    "way": "the way ahead", "view": "a far view",
}  # fmt: skip
WAY_M, VIEW_M = 40.0, 400.0  # how far ahead the way is looked at, and a view (judgement)
_CHEST = 0.72  # share of a person's height
_MIDDLE: dict[What, float] = {"animal": 0.72, "thing": 0.5, "carrier": 0.6}


class Subject(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One subject; places in metres from the shot's carrier's middle and floor, of a view only a direction.

    up_m      of its feet; goes_...: how far it moves in the shot
    keeps     along: it goes with the shot's carrier, or nothing moves; there: it stays in the place while the carrier passes
    height_m  of a person, an animal or a thing; long_m: of a thing or an animal, 0 for in proportion
    faces_deg where it looks, clockwise from the way ahead; None: towards the camera, or along its way
    carrier   the id of one that is itself the subject
    """

    name: str = "Subject"
    what: What = "person"
    ahead_m: float = 0.0
    left_m: float = 0.0
    up_m: float = 0.0
    goes_ahead_m: float = 0.0
    goes_left_m: float = 0.0
    keeps: Literal["along", "there"] = "along"
    height_m: Annotated[float, Meta(ge=0.05, le=100)] = HEIGHT_M
    long_m: Annotated[float, Meta(ge=0, le=200)] = 0.0
    pose: Pose = "stands"
    faces_deg: Annotated[float, Meta(ge=-180, le=180)] | None = None
    carrier: str = ""

    @property
    def feet(self) -> Point:
        return self.ahead_m, self.left_m, self.up_m

    @property
    def far(self) -> bool:
        """Whether it is a direction rather than a thing."""
        return self.what in ("way", "view")


class Being(msgspec.Struct, frozen=True):
    """A subject with the carrier that it is, where it is one."""

    subject: Subject
    carrier: Carrier | None = None

    @property
    def height_m(self) -> float:
        if self.carrier is not None:
            groups = parts_of(self.carrier)
            tops = [float(extent(parts)[1][2]) for parts in groups]
            tops += [along(seat.pose, HEIGHT_M)[2] + seat.feet[2] for seat in self.carrier.seats]
            return max(tops, default=1.0)
        return 0.0 if self.subject.far else self.subject.height_m

    @property
    def size_words(self) -> str:
        """What its true height is, in words."""
        kind = {"person": "person", "animal": "animal", "carrier": "carrier"}.get(self.subject.what, "thing")
        return f"a {kind} of {self.height_m:g} m".replace("a animal", "an animal")

    def middle(self, pose: Pose | None = None) -> Point:
        """What the camera looks at, from the feet: a person's chest."""
        if self.subject.far:
            return 0.0, 0.0, 0.0
        if self.subject.what == "person":
            return along(pose or self.subject.pose, _CHEST * self.height_m, self.height_m)
        return 0.0, 0.0, _MIDDLE[self.subject.what] * self.height_m

    def top(self, pose: Pose | None = None) -> Point:
        """The highest point, from the feet: a person's crown."""
        if self.subject.what == "person":
            return along(pose or self.subject.pose, self.height_m, self.height_m)
        return 0.0, 0.0, self.height_m
