"""Descriptions of places: the ready-made ones hold, broken ones are refused with their place."""

import json

import msgspec
import pytest
from msgspec.structs import replace

from glintor.demo.day import SHOTS, SITE
from glintor.errors import InputError
from glintor.finding import Level
from glintor.placement.carrier import GROUND
from glintor.placement.scenery import FOLDER, UNKNOWN, read_place, ready_places, words_of, write_place
from glintor.placement.subject import Subject
from glintor.project.model import Project
from glintor.project.site import Placement
from glintor.review import placing_there

GOOD = json.loads((FOLDER / "street.json").read_text())


def test_every_ready_made_place_is_read_and_written_as_it_is():
    assert len(ready_places()) == len(list(FOLDER.glob("*.json"))) >= 12 and UNKNOWN not in ready_places()
    for file in FOLDER.glob("*.json"):
        place = read_place(file.read_bytes(), file.name)
        assert place.id == file.stem and read_place(write_place(place), "again") == place
        assert ready_places()[place.id].known == "ready-made" and words_of(place)


def _with(**values):
    return json.dumps({**GOOD, **values})


def _thing(**values):
    return _with(around=[GOOD["around"][0], {**GOOD["around"][0], **values}])


BROKEN = [
    ("", "street.json"), ("{", "street.json"), ("[]", "object"), ("null", "object"), ("\xff", "street.json"), (json.dumps({"name": "a"}), "id"),
    (_with(id=""), "id"), (_with(id="a b"), "id"), (_with(name=""), "name"), (_with(way="lava"), "way"), (_with(beside=3), "beside"),
    (_with(way_m=-1), "way_m"), (_with(way_m="wide"), "way_m"), (_with(people=99), "people"), (_with(lamps=1.5), "lamps"), (_with(colour="red"), "colour"),
    (_with(around={}), "around"), (_thing(what="moon"), r"around\[1\].what"), (_thing(side="above"), r"around\[1\].side"),
    (_thing(away_m=-3), r"around\[1\].away_m"),
    (_thing(height_m=1e9), r"around\[1\].height_m"), (_thing(side="over"), "over"), (_thing(what="roof"), "roof cannot be left"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "where"), BROKEN)
def test_a_broken_one_is_refused_with_its_place(text, where):
    with pytest.raises(InputError, match=where):
        read_place(text.encode("latin-1"), "street.json")


def test_a_tunnel_covers_and_a_wood_does_not():
    covered = {place.id for place in ready_places().values() if place.covered}
    assert covered == {"car-cabin", "hall", "road-tunnel", "underpass"}
    assert msgspec.structs.replace(ready_places()["hall"], around=()).covered is False


@pytest.mark.parametrize(("place", "words"), [("quay", "2 people in"), ("car-cabin", "2 vehicles in"), ("plain", "")])
def test_who_passes_by_is_told_as_a_note_and_in_no_number(place, words):
    """Nobody knows where they will be: what is hidden or torn reckons without them, and says so."""
    shot = replace(SHOTS[0], placement=replace(SHOTS[0].placement, stage=place))
    found = [one for one in placing_there(Project(site=SITE, shots=(shot,)), shot) if one.kind == "passers"]
    assert [one.reason[: len(words)] for one in found] == ([words] if words else [])
    assert all(one.level is Level.NOTE and "reckons with them" in one.explained for one in found)


def test_what_hides_a_view_is_named_and_what_does_not_is_not():
    """Before a rock face 2.5 m ahead, the camera on the wrist of somebody behind it: it was said that who carries it stands before."""
    ahead = Subject(name="the way ahead", what="way", ahead_m=0.0, left_m=0.0, up_m=0.0, keeps="along")
    wrist = Placement(
        setup="worn_wrist",
        carrier=GROUND,
        stage="rock-face",
        ahead_m=2.3,
        left_m=-0.28,
        stick_m=0.0,
        heading_deg=0.0,
        subjects=(ahead,),
    )
    shot = replace(SHOTS[0], placement=wrist)
    found = {one.kind: one for one in placing_there(Project(site=SITE, shots=(shot,)), shot)}
    assert found["hidden"].reason.endswith("past what stands about.") and found["hidden"].value < 1.0
    open_ground = replace(shot, placement=replace(wrist, stage="plain"))
    assert "hidden" not in {one.kind for one in placing_there(Project(site=SITE, shots=(open_ground,)), open_ground)}


def test_what_stands_along_the_way_hides_it_only_where_it_is_met_close_by():
    """A hedge 2.4 m aside, which the look along the way meets 24 m and more ahead, is part of the view; so is a rock face 6.1 m ahead, and
    one at 5.8 m hides it (the limit of 6 m is a judgement)."""
    ahead = Subject(name="the way ahead", what="way", ahead_m=0.0, left_m=0.0, up_m=0.0, keeps="along")
    lane = Placement(
        setup="worn_shoulder",
        carrier="cycle",
        stage="hedge-lane",
        stick_m=0.0,
        subjects=(ahead,),
        ahead_m=0.12,
        left_m=0.14,
        heading_deg=25.5,
    )
    rock = replace(lane, setup="worn_wrist", carrier=GROUND, stage="rock-face", left_m=-0.28, heading_deg=0.0)
    for placement, hidden in ((lane, False), (replace(rock, ahead_m=-3.6), False), (replace(rock, ahead_m=-3.3), True)):
        shot = replace(SHOTS[0], placement=placement)
        found = placing_there(Project(site=SITE, shots=(shot,)), shot)
        assert ("hidden" in {one.kind for one in found}) is hidden
