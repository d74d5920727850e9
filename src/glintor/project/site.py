"""The place and day, and where a camera is in it, as parts of the document."""

from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from glintor.placement.carrier import Carrier, ready_carriers
from glintor.placement.scenery import CANAL, UNDESCRIBED, UNKNOWN, Place, ready_places
from glintor.placement.subject import Being, Subject
from glintor.project.kit import Identity, NotNegative, Positive


class Waypoint(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A place of the route, where it is by itself."""

    name: str
    lat_deg: Annotated[float, Meta(ge=-90, le=90)]
    lon_deg: Annotated[float, Meta(ge=-180, le=180)]


class TrackPoint(msgspec.Struct, frozen=True, array_like=True):
    """A point of a track, kept as a list: degrees north and east, metres over the sea, and minutes after midnight (UTC) of the day
    that it was recorded on, None where nobody knows."""

    lat_deg: Annotated[float, Meta(ge=-90, le=90)]
    lon_deg: Annotated[float, Meta(ge=-180, le=180)]
    up_m: float | None = None
    utc_min: float | None = None


class Rest(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A rest of the day: from local midnight, and how long."""

    start_min: Annotated[float, Meta(ge=0, lt=1440)]
    length_min: Annotated[float, Meta(gt=0, le=1440)]


class Site(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """The place and day. Bearings clockwise from true north; heights in metres over the water.

    known         whether anybody said where it is; else its place and zone are only where one would begin
    branches_m    lowest branch or sign over the path, from the ground; lean_deg: how far a carrier leans or rolls
    power_line_m  nearest power line to where the camera will be, 0 where none was seen
    permission    to film there: not yet asked, given, or not needed
    route         its places in order; track: its points as they were recorded or drawn
    waypoints     where places of the route are, of those that are known
    leg_min       from one place of the route to the next; speed_m_s: along it, 0 for what the carrier usually does
    to_first_min, home_min  the way to the first shot, and home from the last; home_by_min: when one must be back, None for any time
    rests         when nothing is done
    places, carriers  what it looks like and what carries people there, beside the ready-made ones
    air_c         temperature, None where nobody knows; wireless: whether a phone or a remote is connected while filming
    """

    name: str
    known: bool = True
    day: str
    zone: str
    lat_deg: Annotated[float, Meta(ge=-90, le=90)]
    lon_deg: Annotated[float, Meta(ge=-180, le=180)]
    way_bearing_deg: float = 0.0
    lowest_m: Positive | None = None
    cloud_share: Annotated[float, Meta(ge=0, le=1)] = 0.34
    mains_hz: Positive = 50.0
    wind_m_s: NotNegative = 3.0
    branches_m: Positive | None = None
    lean_deg: Annotated[float, Meta(ge=0, le=45)] = 3.0
    power_line_m: NotNegative = 0.0
    permission: Literal["unknown", "given", "free"] = "unknown"
    hazards: str = ""
    route: tuple[str, ...] = ()
    track: tuple[TrackPoint, ...] = ()
    waypoints: tuple[Waypoint, ...] = ()
    leg_min: NotNegative = 15.0
    speed_m_s: NotNegative = 0.0
    air_c: Annotated[float, Meta(ge=-60, le=60)] | None = None
    wireless: bool = False
    to_first_min: NotNegative = 0.0
    home_min: NotNegative = 0.0
    leave_min: Annotated[float, Meta(ge=0, le=1440)] | None = None
    home_by_min: Annotated[float, Meta(ge=0, le=1440)] | None = None
    rests: tuple[Rest, ...] = ()
    places: tuple[Place, ...] = ()
    carriers: tuple[Carrier, ...] = ()

    def place(self, stage: str) -> Place | None:
        """The description by that id: the day's own, else a ready-made one; None where there is none (the canal is drawn)."""
        if stage == UNKNOWN:
            return UNDESCRIBED
        own = next((place for place in self.places if place.id == stage), None)
        return own if own is not None or stage in CANAL else ready_places().get(stage)

    def carrier(self, carrier_id: str) -> Carrier | None:
        """The carrier by that id: the day's own, else a ready-made one; None where there is none."""
        own = next((carrier for carrier in self.carriers if carrier.id == carrier_id), None)
        return own or ready_carriers().get(carrier_id)

    def filmed(self, placement: "Placement") -> tuple[Being, ...]:
        """The subjects of a placement, each with the carrier that it is."""
        return tuple(
            Being(one, self.carrier(one.carrier) if one.what == "carrier" else None) for one in placement.subjects
        )

    def bearing_of(self, placement: "Placement") -> float:
        """Which way is ahead of a placement's carrier, clockwise from true north."""
        return self.way_bearing_deg if placement.way_bearing_deg is None else placement.way_bearing_deg


class Placement(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Where the camera is, relative to its carrier: metres ahead and to the left of the carrier's middle.

    carrier      the id of what carries it; on: the tube, surface or seat of it that the set-up is on, "" for the usual one
    stage        the id of the place that it is in: a description, or a stage of the canal
    way_bearing_deg, speed_m_s  of its carrier where the shot has its own, None for the site's and the carrier's usual
    slope_deg    of the ground along the way, uphill ahead above 0
    heading_deg  of the front lens, clockwise from the way ahead; lean_deg of the whole stick, sideways of the lenses
    tilt_deg     angle between the stick and the camera's own line (a joint that is not straight)
    subjects     who and what is filmed, the first is the one that findings speak of; together: all are wanted in the frame
    """

    setup: Identity
    carrier: Identity = "ground"
    on: str = ""
    stage: Identity
    ahead_m: float
    left_m: float
    stick_m: NotNegative
    heading_deg: float
    lean_deg: Annotated[float, Meta(ge=-60, le=60)] = 0.0
    tilt_deg: Annotated[float, Meta(ge=-30, le=30)] = 0.0
    subjects: Annotated[tuple[Subject, ...], Meta(min_length=1, max_length=6)] = (Subject(),)
    together: bool = False
    way_bearing_deg: float | None = None
    speed_m_s: NotNegative | None = None
    slope_deg: Annotated[float, Meta(ge=-45, le=45)] = 0.0

    @property
    def subject(self) -> Subject:
        """The one that findings speak of."""
        return self.subjects[0]

    def with_subject(self, number: int = 0, **changes: object) -> "Placement":
        """The same with one of its subjects changed."""
        changed = msgspec.structs.replace(self.subjects[number], **changes)
        return msgspec.structs.replace(self, subjects=(*self.subjects[:number], changed, *self.subjects[number + 1 :]))
