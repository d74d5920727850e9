"""Carriers as data: the shipped ones are sound, a broken one is refused with its place; what goes on what follows from tubes,
surfaces, hands and poses; people in every pose are as large as they are said to be."""

import copy

import msgspec
import numpy as np
import pytest

from glintor.demo.day import SHOTS, SITE
from glintor.errors import InputError
from glintor.finding import Level
from glintor.placement import figures
from glintor.placement.carrier import parts_of, read_carrier, ready_carriers, write_carrier
from glintor.placement.fitting import fit, holds, possible, why_not
from glintor.placement.mounts import SETUPS, setup_by_id
from glintor.placement.person import HEIGHT_M, LEANS_DEG, add_person, along
from glintor.placement.scenery import ready_places
from glintor.placement.shapes import Lathe, Sheet, Slab, extent
from glintor.placement.solids import Parts, Solids
from glintor.placement.subject import Being, Subject
from glintor.project.model import Project
from glintor.project.placed import carried, layout_of, placing, set_up

READY = ready_carriers()
WANTED = (
    "walker", "runner", "climber", "skier", "cycle", "motorbike", "scooter", "wheelchair", "car", "saloon", "coach", "boat", "kayak",
    "sailboard", "wing", "table", "tripod", "pole", "suitcase", "ground",
)  # fmt: skip
BEGIN = msgspec.structs.replace(SHOTS[0].placement, stage="plain")


def test_every_kind_that_people_film_from_is_shipped_as_sound_open_data():
    assert sorted(READY) == sorted(WANTED)
    for carrier in READY.values():
        assert read_carrier(write_carrier(carrier), carrier.id) == carrier and carrier.known == "ready-made"
        for parts in parts_of(carrier):
            low, high = extent(parts)
            assert (high > low).all() and np.abs([low, high]).max() < 15.0, carrier.id
        for seat in carrier.seats:  # hands reach what they hold: within an arm's length of the shoulders
            shoulder = np.array(seat.feet) + along(seat.pose, 1.36)
            for grip in seat.grips:
                assert np.linalg.norm(np.array(grip) - shoulder) < 0.95, (carrier.id, seat.id)


# A place in the file, what is put there, and a word of the message.
BROKEN = (
    (("words",), "", "words"), (("words",), 7, "words"), (("on",), "lava", "on"), (("speed_m_s",), -1, "speed_m_s"),
    (("floor_m",), "high", "floor_m"), (("lean_deg",), 90, "lean_deg"), (("solids", 0, "is"), "cone", "solids"),
    (("solids", 0, "of"), "gold", "of"), (("solids", 0, "radii_m"), [1, 1], "radii_m"),
    (("solids", 0, "radii_m"), [0.1, 0.1, -0.1], "radii_m"), (("solids", 0, "middle"), [0, 0, 9000], "middle"),
    (("solids", 0, "colour"), "red", "colour"), (("tubes", 0, "diameter_mm"), 0, "diameter_mm"), (("tubes", 0, "lines"), [], "lines"),
    (("tubes", 0, "id"), "two words", "id"), (("tubes", 1, "id"), "bar", "bar"), (("seats", 0, "pose"), "flies", "pose"),
    (("seats", 0, "grips"), [[0, 0, 0]] * 3, "grips"), (("seats", 0, "needs_hands"), 3, "needs_hands"),
    (("sways", 0, "hz"), 0, "hz"), (("sways", 0, "turn_deg"), [1, 2], "turn_deg"), (("wheels",), 2, "wheels"),
)  # fmt: skip


@pytest.mark.parametrize(("place", "value", "word"), BROKEN)
def test_a_broken_carrier_is_refused_with_its_place(place, value, word):
    raw = msgspec.json.decode(write_carrier(READY["cycle"]))
    at = copy.deepcopy(raw)
    inner = at
    for key in place[:-1]:
        inner = inner[key]
    inner[place[-1]] = value
    with pytest.raises(InputError) as error:
        read_carrier(msgspec.json.encode(at), "mine.json")
    assert "mine.json" in error.value.what and word in error.value.what and error.value.unharmed


def test_shapes_that_cannot_be_are_refused():
    for make, words in (
        (lambda: Slab(outline=((0, 0), (2, 0), (1, 0.2), (2, 2)), low_m=0, high_m=1, of="wood"), "hollow"),
        (lambda: Slab(outline=((0, 0), (2, 0), (2, 2)), low_m=1, high_m=1, of="wood"), "below"),
        (lambda: Sheet(corners=((0, 0, 0), (1, 0, 0), (2, 0, 0)), thick_m=0.1, of="wood"), "line"),
        (lambda: Sheet(corners=((0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 1)), thick_m=0.1, of="wood"), "plane"),
        (lambda: Lathe(middle=(0, 0, 0), axis="up", profile=((0, 1), (0, 2)), of="wood"), "back"),
    ):
        with pytest.raises(InputError, match=words):
            make()


def test_a_sheet_and_a_slab_stand_where_their_corners_are():
    """Rays at right angles to a triangle meet it inside its corners and pass it outside; a slab has its outline's area."""
    parts = Parts()
    Sheet(corners=((0, 0, 0), (2, 0, 0), (0, 0, 2)), thick_m=0.02, of="cloth").add_to(parts)
    spots = np.random.default_rng(2).uniform(-0.5, 2.5, (2000, 2))
    eyes = np.column_stack([spots[:, 0], np.full(2000, -5.0), spots[:, 1]])
    met = np.isfinite(Solids([parts]).distance(eyes, np.tile([0.0, 1.0, 0.0], (2000, 1))))
    inside = (spots[:, 0] > 0) & (spots[:, 1] > 0) & (spots.sum(axis=1) < 2)
    assert (met == inside).mean() > 0.995
    hull = Parts()
    READY["boat"].solids[0].add_to(hull)
    grid = np.stack(np.meshgrid(np.linspace(-8, 8, 400), np.linspace(-1.3, 1.3, 80)), axis=-1).reshape(-1, 2)
    down = Solids([hull]).distance(
        np.column_stack([grid, np.full(len(grid), 3.0)]), np.tile([0.0, 0.0, -1.0], (len(grid), 1))
    )
    x, y = np.array(READY["boat"].solids[0].outline).T
    shoelace = abs((x * np.roll(y, -1) - y * np.roll(x, -1)).sum()) / 2
    assert np.isfinite(down).mean() * 16.0 * 2.6 == pytest.approx(shoelace, rel=0.02)


@pytest.mark.parametrize("pose", ["stands", "walks", "runs", "sits", "rides", "skis", "climbs", "lies"])
@pytest.mark.parametrize("tall", [1.1, 1.7, 1.95])
def test_a_person_is_as_large_as_said_and_its_parts_are_where_a_pose_has_them(pose, tall):
    parts = Parts()
    head = np.array(add_person(parts, (1.0, 2.0, 0.0), 0.0, 0.0, pose=pose, height_m=tall))
    low, high = extent(parts)
    if pose in ("stands", "walks"):
        assert high[2] - low[2] == pytest.approx(tall, rel=0.06)
    assert head - [1.0, 2.0, 0.0] == pytest.approx(np.array(along(pose, 1.58 * tall / HEIGHT_M, tall)), abs=0.03 * tall)
    chest = np.array(along(pose, 0.72 * tall, tall)) + [1.0, 2.0, 0.0]
    jacket = [c for c in parts.capsules if c[7] == 21]
    gap = min(np.linalg.norm(chest - (np.array(c[:3]) + np.array(c[3:6])) / 2) for c in jacket)
    assert gap < 0.22 * tall / HEIGHT_M and abs(LEANS_DEG.get(pose, 0.0)) < 90.0


def test_what_goes_on_what_follows_from_tubes_surfaces_hands_and_poses():
    def why(setup, carrier):
        return why_not(setup_by_id(setup), READY[carrier])

    for pair in (
        ("worn_chest", "cycle"), ("worn_helmet", "skier"), ("worn_shoulder", "wing"), ("tube_clamp", "sailboard"), ("flat_foot", "saloon"),
        ("mini_tripod", "table"), ("held_sat", "car"), ("held_stick", "scooter"), ("tube_hang", "coach"), ("hung_beam", "coach"),
    ):  # fmt: skip
        assert (why(*pair) == "") == (pair[1] != "scooter"), (pair, why(*pair))
    assert "both hands" in why("held_stick", "scooter") and "a hand" in why("held_crane", "cycle")
    assert "mm is too thin" in why("tube_clamp", "saloon") and "no tube" in why("tube_clamp", "walker")
    assert "does not sit" in why("held_sat", "walker") and "moves" in why("pushed_pole", "cycle")
    assert "nothing like it" in why("rail_clamp", "cycle") and "Nobody" in why("worn_chest", "suitcase")
    assert "suction does not hold" in why("flat_foot", "climber")
    assert {name for name, _ in holds(setup_by_id("tube_clamp"), READY["cycle"])} == {
        "bar",
        "fork",
        "seatpost",
        "frame",
    }
    assert all(any(not why for _, why in possible(carrier)) for carrier in READY.values())
    bent = msgspec.structs.replace(READY["cycle"].tubes[0], straight=False)
    lame = msgspec.structs.replace(READY["cycle"], tubes=(bent,))
    assert "bent" in why_not(setup_by_id("tube_clamp"), lame)


def test_a_foot_stands_on_its_tube_and_a_hand_is_where_its_owner_sits():
    plan = layout_of(SITE, set_up(SITE, carried(SITE, BEGIN, READY["sailboard"]), "tube_clamp", "boom"), 720)
    a, b = (np.array(end) for end in READY["sailboard"].tubes[0].lines[0])
    share = float((plan.foot - a) @ (b - a) / ((b - a) @ (b - a)))
    assert plan.foot == pytest.approx(a + share * (b - a), abs=0.01) and 0.0 <= share <= 1.0
    ridden = layout_of(SITE, set_up(SITE, carried(SITE, BEGIN, READY["wing"]), "worn_helmet"), 720)
    head = np.array(READY["wing"].seats[0].feet) + along("lies", 1.58)
    assert np.linalg.norm(ridden.camera - head) < 0.35 and ridden.carrier_apart
    held = fit(setup_by_id("held_stick"), READY["cycle"])
    assert held.grip == pytest.approx((0.25, -0.25, 1.51)) and held.feet == READY["cycle"].seats[0].feet


def test_what_cannot_be_is_a_stop_with_its_reason_and_no_stick_goes_through_its_carrier():
    alone = msgspec.structs.replace(BEGIN, carrier="suitcase", setup="worn_chest")
    shot = msgspec.structs.replace(SHOTS[0], placement=alone)
    reach = next(f for f in placing(Project(site=SITE, shots=(shot,)), shot) if f.kind == "reach")
    assert reach.level is Level.STOP and "Nobody" in reach.reason
    inside = set_up(SITE, carried(SITE, BEGIN, READY["coach"]), "tube_clamp")
    assert figures.roofed(layout_of(SITE, set_up(SITE, carried(SITE, BEGIN, READY["coach"]), "worn_chest"), 720))
    hung = msgspec.structs.replace(SHOTS[0], placement=msgspec.structs.replace(inside, stick_m=0.7))
    through = next(f for f in placing(Project(site=SITE, shots=(hung,)), hung) if f.kind == "through")
    assert through.level is Level.STOP and "coach" in through.reason


def test_subjects_of_every_kind_have_their_size_and_place():
    for what, tall in (("person", 1.2), ("animal", 0.6), ("thing", 0.4)):
        parts = figures.alone(Being(Subject(what=what, height_m=tall)))
        low, high = extent(parts)
        assert high[2] - low[2] == pytest.approx(tall, rel=0.25 if what == "animal" else 0.06), what
    ridden = Being(Subject(what="carrier", carrier="cycle"), READY["cycle"])
    low, high = extent(figures.alone(ridden))
    assert ridden.height_m == pytest.approx(high[2], abs=0.1) and high[0] - low[0] == pytest.approx(1.74, abs=0.05)
    plan = layout_of(SITE, BEGIN.with_subject(what="view", ahead_m=0.0, left_m=1.0), 720)
    assert plan.chest_yaw_pitch_deg[0] == pytest.approx(-90.0 + BEGIN.heading_deg * -1.0, abs=0.2)


def test_both_in_frame_is_a_wish_that_the_first_view_follows_and_a_finding_judges():
    def findings(left):
        two = (Subject(name="A", ahead_m=4.0, left_m=1.0), Subject(name="B", ahead_m=4.0, left_m=left))
        placement = msgspec.structs.replace(
            BEGIN, ahead_m=0.0, left_m=0.0, heading_deg=0.0, subjects=two, together=True
        )
        shot = msgspec.structs.replace(SHOTS[0], placement=placement)
        plan = layout_of(SITE, placement, 720)
        return plan, next(f for f in placing(Project(site=SITE, shots=(shot,)), shot) if f.kind == "together")

    plan, near = findings(-1.0)
    assert near.level is Level.NOTE and plan.start_view.yaw_deg == pytest.approx(0.0, abs=0.5)
    plan, far = findings(-60.0)
    assert plan.start_view.fov_deg > 100.0 and far.level is Level.NOTE
    behind = msgspec.structs.replace(
        BEGIN, together=True, subjects=(Subject(ahead_m=3.0), Subject(name="B", ahead_m=-3.0))
    )
    shot = msgspec.structs.replace(SHOTS[0], placement=behind)
    found = next(f for f in placing(Project(site=SITE, shots=(shot,)), shot) if f.kind == "together")
    assert found.level is Level.CAUTION and found.reason


def test_a_boat_where_there_is_no_water_is_said():
    afloat = msgspec.structs.replace(carried(SITE, BEGIN, READY["kayak"]), stage="street")
    for stage, said in (("street", True), ("open-water", False), ("lake-shore", False), ("unknown", False)):
        shot = msgspec.structs.replace(SHOTS[0], placement=msgspec.structs.replace(afloat, stage=stage))
        assert any(f.kind == "water" for f in placing(Project(site=SITE, shots=(shot,)), shot)) == said, stage


def test_no_water_is_invented_beside_who_walks_elsewhere():
    walk = msgspec.structs.replace(SHOTS[1].placement, left_m=-2.2, ahead_m=0.5, stick_m=3.0)
    assert layout_of(SITE, walk, 720).over_water  # beside the canal it is
    assert not layout_of(SITE, msgspec.structs.replace(walk, stage="ridge"), 720).over_water
    quay = ready_places()["quay"]
    side, away = next((one.side, one.away_m) for one in quay.around if one.what == "water")
    out = {"left": {"left_m": away + 1.0}, "right": {"left_m": -away - 1.0}}[side]
    assert layout_of(SITE, msgspec.structs.replace(walk, stage="quay", **out), 720).over_water


def test_every_set_up_is_told_and_cautioned():
    assert len({setup.id for setup in SETUPS}) == len(SETUPS) and all(s.caution and s.shows and s.cure for s in SETUPS)
