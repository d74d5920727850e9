"""What may not be inside anything solid, what hangs overhead, and cures that bring no trouble of their own."""

import msgspec
import numpy as np
import pytest
from scipy.spatial import cKDTree

from glintor.demo.day import SHOTS, SITE
from glintor.finding import Level
from glintor.placement import solids as made
from glintor.placement.carrier import ready_carriers
from glintor.placement.figures import subject_person
from glintor.placement.fitting import holds, possible, why_not
from glintor.placement.inside import stuck_in
from glintor.placement.mounts import setup_by_id
from glintor.placement.review import quick_findings
from glintor.placement.scenery import Place, Standing
from glintor.placement.sight import body_of, visible_share
from glintor.placement.solids import Parts, Solids
from glintor.placement.subject import Subject
from glintor.project.model import Exposure, Project, Shot
from glintor.project.placed import begun_on, given_of, layout_of, placing, replanned, set_up
from glintor.project.site import Placement

NOON = 720.0
NEW = Placement(stage="plain", setup="mini_tripod", ahead_m=0, left_m=0, stick_m=0.7, heading_deg=0)


def test_room_is_the_distance_to_the_nearest_surface_and_negative_inside():
    """Against points by the thousand on each surface."""
    rng, parts = np.random.default_rng(3), Parts()
    parts.box((0, 0, 0), (1, 2, 3), made.BRICK)
    parts.limb((3, 0, 0), (3, 0, 2), 0.25, made.STEEL)
    parts.blob((0, 5, 0), (0.5, 0.5, 0.5), made.LEAF)
    sphere = rng.normal(size=(40_000, 3))
    sphere /= np.linalg.norm(sphere, axis=1, keepdims=True)
    unit = rng.uniform(size=(60_000, 3))
    faces = np.concatenate([np.where(np.arange(3) == k, np.round(unit), unit) for k in range(3)])
    turn = rng.uniform(0, 2 * np.pi, 40_000)
    side = np.stack([0.25 * np.cos(turn), 0.25 * np.sin(turn), rng.uniform(0, 2, 40_000)], axis=1)
    ends = sphere * 0.25 + np.where(sphere[:, 2:] > 0, [0, 0, 2.0], [0, 0, 0])
    surface = np.concatenate([faces * [1, 2, 3], np.concatenate([side, ends]) + [3, 0, 0], sphere * 0.5 + [0, 5, 0]])
    points = rng.uniform([-1, -1, -1], [4, 6, 4], size=(1200, 3))
    rooms = Solids([parts]).room(points)
    assert np.abs(rooms) == pytest.approx(cKDTree(surface).query(points)[0], abs=0.03)
    inside = ((points > 0) & (points < [1, 2, 3])).all(axis=1) | (np.linalg.norm(points - [0, 5, 0], axis=1) < 0.5)
    along = np.clip(points[:, 2], 0, 2)
    inside |= np.hypot(np.hypot(points[:, 0] - 3, points[:, 1]), points[:, 2] - along) < 0.25
    assert ((rooms < 0) == inside).all() and inside.sum() > 40
    assert np.isinf(Solids([]).room(points)).all()
    planes = [[1.0, 0, 0, 2], [-2.0, 0, 0, 0], [0, 1, 0, 1], [0, -1, 0, 0], [0, 0, 1, 1], [0, 0, -1, 0]]
    at = np.array([[1.0, 0.5, 0.5], [0.1, 0.5, 0.5], [2.5, 0.5, 0.5], [-0.3, 0.5, 0.5]])
    assert Solids([Parts(prisms=[(np.array(planes), 1)])]).room(at) == pytest.approx([-0.5, -0.1, 0.5, 0.3])


def laid(setup_id, carrier_id, on="", **changes):
    carrier = ready_carriers()[carrier_id]
    placed = begun_on(SITE, NEW, setup_by_id(setup_id), carrier, on)
    return msgspec.structs.replace(placed, **changes)


@pytest.mark.parametrize(
    ("placement", "what"),
    [
        (laid("tube_hang", "boat", "rails"), "The camera"),  # down into the cabin's roof
        (laid("worn_hip", "car"), "The camera"),  # in the seat
        (laid("tube_hang", "suitcase"), "The stick"),
        (laid("tube_clamp", "cycle"), None),
        (laid("held_sat", "car"), None),  # a seat gives
        (laid("bar_clamp", "cycle"), None),
    ],
)
def test_nothing_is_inside_its_carrier(placement, what):
    stuck = stuck_in(layout_of(SITE, placement, NOON))
    assert (stuck.what if stuck is not None else None) == what
    shot = Shot(id="s", name="s", start_min=NOON, length_min=20, exposure=Exposure(), placement=placement)
    told = [f for f in placing(Project(site=SITE, shots=(shot,)), shot) if f.kind == "through"]
    assert (bool(told) and told[0].level is Level.STOP) == (what is not None)


def in_place(placement, *around, **changes):
    place = Place(id="here", name="here", around=around, **changes)
    site = msgspec.structs.replace(SITE, places=(place,), lowest_m=None, branches_m=None)
    shot = Shot(
        id="s",
        name="s",
        start_min=NOON,
        length_min=20,
        exposure=Exposure(),
        placement=msgspec.structs.replace(placement, stage="here"),
    )
    return Project(site=site, shots=(shot,)), shot


def kind(project, shot, name):
    return next((f for f in placing(project, shot) if f.kind == name), None)


@pytest.mark.parametrize(("away_m", "stop"), [(1.0, False), (0.34, True)])
def test_a_lens_in_a_wall_of_the_place_is_a_stop(away_m, stop):
    """The camera stands upright 0.34 m to the left at least: a wall that begins there has the lens in it."""
    wall = Standing(what="wall", side="left", away_m=away_m, height_m=3.0)
    placed = laid("weighted_foot", "ground", left_m=0.5 if stop else 0.9, stick_m=1.2)
    project, shot = in_place(placed, wall)
    assert (kind(project, shot, "through") is not None) == stop


@pytest.mark.parametrize(
    ("left_m", "up_m", "where"),
    [
        (2.6, 0.0, None),
        (3.6, 0.0, "a wall, hedge or bank"),  # the cliff begins 3 m to the left
        (0.0, -0.15, None),  # so deep in snow or a rut
        (0.0, -0.6, "the ground"),
    ],
)
def test_a_subject_in_a_wall_or_under_the_ground_is_a_stop(left_m, up_m, where):
    cliff = Standing(what="cliff", side="left", away_m=3.0, height_m=20.0)
    placed = NEW.with_subject(ahead_m=3.0, left_m=left_m, up_m=up_m)
    found = kind(*in_place(placed, cliff), "subject inside")
    assert (found is None) == (where is None)
    hidden = kind(*in_place(placed, cliff), "hidden")
    assert hidden is None  # what is inside something is not said to be hidden by it
    assert where is None or (found.level is Level.STOP and found.title.endswith(f"inside {where}"))


@pytest.mark.parametrize(
    ("left_m", "up_m", "inside"), [(5.7, -1.62, True), (5.7, -0.42, False), (2.0, -1.62, False), (2.0, -2.6, False)]
)
def test_beside_a_boat_the_quay_is_solid_and_the_water_is_not(left_m, up_m, inside):
    """The boat's floor lies 1.62 m over the water, the quay 1.2 m over it and 3 m to the left; who swims is in the water."""
    assert ready_carriers()["boat"].floor_m == 1.62
    boat = laid("rail_clamp", "boat", stick_m=1.2).with_subject(ahead_m=0.0, left_m=left_m, up_m=up_m)
    shot = Shot(id="s", name="s", start_min=NOON, length_min=20, exposure=Exposure(), placement=boat)
    placed = msgspec.structs.replace(boat, stage="quay")
    shot = msgspec.structs.replace(shot, placement=placed)
    found = kind(Project(site=SITE, shots=(shot,)), shot, "subject inside")
    assert (found is not None) == inside


def test_nothing_hangs_from_an_upright_tube_and_nothing_slides_on_a_mast():
    ready = ready_carriers()
    for carrier, setup in (("pole", "tube_hang"), ("tripod", "tube_hang"), ("sailboard", "line_slide")):
        assert not [name for name, _ in holds(setup_by_id(setup), ready[carrier]) if name], (carrier, setup)
    assert "stands upright" in why_not(setup_by_id("tube_hang"), ready["pole"])
    assert holds(setup_by_id("tube_hang"), ready["cycle"]) and not why_not(setup_by_id("tube_clamp"), ready["pole"])


def test_what_nobody_measured_overhead_is_unknown_and_what_is_described_counts():
    boat = laid("rail_clamp", "boat")
    project, shot = in_place(boat, way="water")
    unknown = kind(project, shot, "clearance")
    assert unknown.title == "Overhead not known" and np.isnan(unknown.limit) and "3.00" not in unknown.reason
    bridge = Standing(what="bridge", side="over", away_m=20.0, height_m=2.45)
    project, shot = in_place(boat, bridge, way="water")
    assert kind(project, shot, "clearance").level is Level.STOP and "2.45 m" in kind(project, shot, "clearance").reason
    low = msgspec.structs.replace(project.site, lowest_m=2.0)
    assert "2.00 m" in kind(msgspec.structs.replace(project, site=low), shot, "clearance").reason
    # What stands still has only what is over it: its camera's top is 0.04 + 2.2 + 0.06 m up.
    for height, level in ((2.29, Level.STOP), (2.31, Level.CAUTION), (2.59, Level.CAUTION), (2.61, Level.NOTE)):
        roof = Standing(what="roof", side="over", away_m=0.0, height_m=height)
        project, shot = in_place(laid("weighted_foot", "ground", stick_m=2.2), roof)
        assert kind(project, shot, "clearance").level is level, height
    assert kind(*in_place(laid("weighted_foot", "ground", stick_m=2.2)), "clearance") is None
    tunnel = Standing(what="tunnel", side="over", away_m=0.0, height_m=2.3)  # 3.3 m to either side of a way of 3 m
    for left, over in ((0.0, True), (3.0, True), (4.0, False)):
        beside = laid("weighted_foot", "ground", stick_m=2.2, left_m=left)
        assert (kind(*in_place(beside, tunnel, way_m=3.0), "clearance") is not None) == over, left


def test_no_wind_comes_indoors():
    walls = [Standing(what="wall", side=side, away_m=9.0, height_m=5.0) for side in ("left", "right", "ahead")]
    roof = Standing(what="roof", side="over", away_m=0.0, height_m=5.0)
    tall = laid("mini_tripod", "ground", stick_m=1.2)
    for around, wind in ((walls, 3.0), ([roof], 3.0), ([roof, *walls[:2]], 3.0), ([roof, *walls], 0.0)):
        project, shot = in_place(tall, *around)
        assert given_of(project, shot).wind_m_s == pytest.approx(wind), len(around)


def levels(findings):
    out = {}
    for finding in findings:
        out[finding.kind] = max(finding.level, out.get(finding.kind, Level.NOTE))
    return out


def test_no_cure_brings_or_raises_another_finding():
    """Every carrier with what it takes, on open ground and by a wall: each cure that is offered is tried."""
    rng, tried, stops = np.random.default_rng(5), 0, 0
    wall = Standing(what="wall", side="left", away_m=2.0, height_m=4.0)
    for carrier in ready_carriers().values():
        setups = [setup for setup, why in possible(carrier) if not why]
        for setup in [setups[n] for n in rng.permutation(len(setups))[:6]]:
            project, shot = in_place(begun_on(SITE, NEW, setup, carrier), wall)
            given, replan = given_of(project, shot), replanned(project, shot)
            found = quick_findings(replan(), given, replan)
            for finding in found:
                name = finding.cure.field.removeprefix("placement.") if finding.cure is not None else "reach"
                if name == "reach" or "." in name or not isinstance(finding.cure.value, float):
                    continue
                other = replan(**{name: finding.cure.value})
                changed = {name: finding.cure.value} if name in ("stick_m", "tilt_deg") else {}
                after = levels(quick_findings(other, msgspec.structs.replace(given, **changed)))
                worse = [
                    k for k, level in after.items() if k != finding.kind and level > levels(found).get(k, Level.NOTE)
                ]
                assert not worse, (carrier.id, setup.id, finding.title, finding.cure.label, worse)
                tried += 1
                stops += finding.level is Level.STOP
    assert tried > 15 and stops >= 1


def test_an_offered_set_up_leaves_a_carrier_of_ones_own_in_place():
    own = msgspec.structs.replace(ready_carriers()["cycle"], id="my-cycle", words="my old bicycle")
    site = msgspec.structs.replace(SITE, carriers=(own,))
    placed = begun_on(site, NEW, setup_by_id("tube_clamp"), own)
    for setup in ("bar_clamp", "seat_clamp", "fork_clamp", "worn_chest"):
        assert set_up(site, placed, setup).carrier == "my-cycle", setup
    assert set_up(site, placed, "rail_clamp").carrier == "boat"  # it has nothing like a roof rail
    assert SHOTS


def filmed(what, *others, **values):
    one = {"ahead_m": 4.0, "left_m": 0.0, "name": "it", "what": what} | values
    return msgspec.structs.replace(
        laid("weighted_foot", "ground", stick_m=1.2, ahead_m=0.0, left_m=0.0), subjects=(Subject(**one), *others)
    )


def seen_share(placement, *around):
    project, shot = in_place(placement, *around)
    return visible_share(layout_of(project.site, shot.placement, NOON))


@pytest.mark.parametrize("long_m", [0.3, 2.0, 6.0])
def test_a_thing_alone_is_never_hidden_by_itself(long_m):
    assert seen_share(filmed("thing", long_m=long_m, height_m=1.0, ahead_m=5.0)) == pytest.approx(1.0)


def test_another_subject_in_between_hides_and_one_beside_does_not():
    for left, hidden in ((0.0, True), (3.0, False)):
        other = Subject(name="van", what="thing", ahead_m=2.0, left_m=left, long_m=1.6, height_m=2.5)
        assert (seen_share(filmed("person", other)) < 0.05) == hidden


@pytest.mark.parametrize(("away_m", "hides"), [(5.5, True), (6.5, False)])
def test_a_wall_at_hand_stands_before_a_view_and_a_far_one_is_part_of_it(away_m, hides):
    wall = Standing(what="wall", side="ahead", away_m=away_m, height_m=8.0)
    assert (seen_share(filmed("view", ahead_m=1.0, up_m=0.0), wall) < 0.1) == hides


@pytest.mark.parametrize("pose", ["stands", "sits", "rides", "lies", "walks", "runs", "skis", "climbs"])
def test_size_and_proportions_are_of_the_pose(pose):
    """Against the head as it is drawn."""
    placement = filmed("person", ahead_m=1.6, pose=pose)
    plan = layout_of(SITE, placement, NOON)
    crown = np.array(subject_person(plan)[1])  # the middle of the head that is drawn
    ratio = np.linalg.norm(plan.subject - plan.camera) / np.linalg.norm(crown - plan.camera)
    assert plan.head_to_feet == pytest.approx(ratio, rel=0.12), pose
    a, b = plan.subject - plan.camera, crown - plan.camera
    angle = np.degrees(np.arccos(a @ b / np.linalg.norm(a) / np.linalg.norm(b)))
    assert plan.person_deg == pytest.approx(angle, abs=5.0), pose


def test_a_head_is_as_large_a_part_of_a_person_as_in_the_rule_of_nines():
    """Head and neck 9 %, a hand 2 to 2.5 % of the skin (Wallace, Lancet 1951, "The exposure treatment of burns"; hands from memory); a
    camera before somebody sees about those shares. Hair and cap were counted as two more heads: 23 %."""
    for shot in SHOTS[:3]:
        body = body_of(replanned(Project(site=SITE, shots=(shot,)), shot)())
        assert 0.12 < body.weight[body.kind == 0].sum() / body.weight.sum() < 0.15


SLIDE = Placement(
    setup="line_slide", carrier="coach", stage="plain", ahead_m=1.805, left_m=1.025, stick_m=0.5, heading_deg=-73.7, lean_deg=-10.4,
    subjects=(Subject(name="Subject", ahead_m=0.0, left_m=0.95, up_m=-0.46),),
)  # fmt: skip
WING = Placement(
    setup="tube_hang", carrier="wing", stage="plain", ahead_m=0.45, left_m=0.7, stick_m=0.12, heading_deg=136.7, subjects=(Subject(name="Subject"),)
)  # fmt: skip


@pytest.mark.parametrize(("placement", "seen"), [(SLIDE, 0.116), (WING, 0.569)])
def test_how_much_is_seen_is_what_a_rendered_picture_shows(placement, seen):
    """Somebody in a coach from ahead over the seat before him, and under a wing past its frame: shares in the pixels of the simulation
    (`bench.advice`), where 0.281 and 0.686 were said of points spread over the body."""
    shot = msgspec.structs.replace(SHOTS[0], placement=placement)
    assert visible_share(replanned(Project(site=SITE, shots=(shot,)), shot)()) == pytest.approx(seen, abs=0.04)
