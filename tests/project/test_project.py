import json
from pathlib import Path

import msgspec
import pytest

from glintor.demo.day import SHOTS, SITE
from glintor.errors import InputError
from glintor.project.films import pieces_of, tied
from glintor.project.history import LIMIT, History
from glintor.project.kit import Camera, default_kit, read_kit
from glintor.project.model import FORMAT_VERSION, Film, Piece, Project, fresh_id, take_of, with_cut, with_take
from glintor.project.placed import given_of
from glintor.project.store import ProjectError, decode, encode, read_project, schema, write_project
from glintor.project.take import Take, TakeFile
from glintor.reframing.edits import fresh_cut

PROJECT = Project(site=SITE, shots=SHOTS)


def test_a_project_comes_back_as_written(tmp_path):
    write_project(tmp_path / "day.glintor", PROJECT)
    assert read_project(tmp_path / "day.glintor") == PROJECT
    text = (tmp_path / "day.glintor").read_text()
    assert json.loads(text)["glintor"] == FORMAT_VERSION and text.endswith("}\n")


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda d: d["site"].__setitem__("lat_deg", 95), "site.lat_deg"),
        (lambda d: d["shots"][2]["placement"].__setitem__("stick_m", -1), r"shots\[2\].placement.stick_m"),
        (lambda d: d["shots"][0].__setitem__("colour", "red"), r"shots\[0\]"),
        (lambda d: d["shots"][1]["exposure"].__setitem__("shutter_s", "fast"), "exposure.shutter_s"),
        (lambda d: d["site"].__setitem__("way_bearing_deg", 1e308), "way_bearing_deg is 1e"),
        (
            lambda d: d["shots"][2].__setitem__("id", d["shots"][1]["id"]),
            r"shots\[2\]: the id towpath-walk is there twice",
        ),
        (lambda d: d["site"].__setitem__("zone", "Nowhere/Land"), "site: .* is not a day"),
        (
            lambda d: d["shots"][0]["placement"].__setitem__("setup", "wings"),
            r"shots\[0\].placement: There is no set-up",
        ),
        (lambda d: d["shots"][0].__setitem__("opening", {"time_s": 0, "fov_deg": 500}), r"shots\[0\].opening"),
        (lambda d: d["kit"]["sticks"][0]["tubes"][0].__setitem__("wall_mm", 30), "wall_mm"),
        (lambda d: d.pop("site"), "missing required field `site`"),
        (lambda d: d.__setitem__("glintor", 99), "newer Glintor"),
        (lambda d: d.pop("glintor"), "no version"),
    ],
)
def test_wrong_values_are_named_by_their_place(change, words):
    data = json.loads(encode(PROJECT))
    change(data)
    with pytest.raises(ProjectError, match=words) as caught:
        decode(json.dumps(data).encode(), "day.glintor")
    assert caught.value.exit_code == 2 and caught.value.advice


@pytest.mark.parametrize(
    "content", [b"", b"{", b"\xff\xff", b"[1, 2]", b"[" * 100_000, b'{"glintor": 1, "site": "\xff"}']
)
def test_what_is_no_project_is_said(content):
    with pytest.raises(ProjectError, match="not a Glintor project"):
        decode(content)


def test_a_missing_project_is_said(tmp_path):
    with pytest.raises(ProjectError, match="cannot be opened"):
        read_project(tmp_path / "none.glintor")


def test_the_published_schema_is_the_one_in_use():
    kept = json.loads((Path(__file__).parents[2] / "docs" / "project.schema.json").read_text())
    assert kept == json.loads(json.dumps(schema()))


def test_shots_takes_and_cuts_are_found_or_said():
    shot = SHOTS[0]
    with pytest.raises(InputError, match="wharf-portrait"):
        PROJECT.shot("none")
    with pytest.raises(InputError, match="no take"):
        take_of(shot, "none")
    assert fresh_id("cut", {"cut", "cut-2"}) == "cut-3" and fresh_id("cut", set()) == "cut"


def test_takes_and_cuts_are_added_or_replaced(day):
    shot = read_project(day).shot("roof-cobdale")
    rated = msgspec.structs.replace(shot.takes[0], rating=2)
    assert [t.rating for t in with_take(shot, rated).takes] == [2]
    other = msgspec.structs.replace(shot.cuts[0], id="second", name="Second")
    assert [c.id for c in with_cut(shot, other).cuts] == [shot.cuts[0].id, "second"]


def test_history_undoes_gestures_whole():
    history = History(PROJECT)
    states = [msgspec.structs.replace(PROJECT, shots=SHOTS[:n]) for n in (1, 2, 3, 4)]
    history.push("Drag", states[0], "drag")
    history.push("Drag", states[1], "drag")
    history.end_gesture()
    history.push("Drag", states[2], "drag")
    assert history.undo_label == "Drag"
    history.undo()
    assert history.now == states[1]
    history.undo()
    assert history.now == PROJECT and history.undo_label == ""
    history.undo()
    history.redo()
    assert history.now == states[1] and history.redo_label == "Drag"
    history.push("Other", states[3])
    assert history.redo_label == "" and history.now == states[3]


def test_history_holds_the_newest_five_hundred_steps_and_the_day_as_it_was_opened():
    history = History(PROJECT)
    for n in range(LIMIT + 40):
        history.push(f"Edit {n}", msgspec.structs.replace(PROJECT, site=msgspec.structs.replace(SITE, name=str(n))))
    assert history.now.site.name == str(LIMIT + 39)
    steps = 0
    while history.undo_label:
        history.undo()
        steps += 1
    assert steps == LIMIT - 1 and history.now == PROJECT
    history.redo()
    assert history.now.site.name == str(41)  # the oldest ones are gone, the last state is there


@pytest.mark.parametrize("version", [1, 2, 3, 4, 5, 6, 7, 8])
def test_a_day_of_an_older_format_is_brought_up(tmp_path, version):
    """tests/data/day-format-N.glintor are kept as those formats wrote them."""
    old = Path(__file__).parents[1] / "data" / f"day-format-{version}.glintor"
    assert json.loads(old.read_text())["glintor"] == version
    project = read_project(old)
    assert (
        project.glintor == FORMAT_VERSION and project.site.air_c is None and project.kit.cameras[0].stitch == "aligning"
    )
    assert all(cut.own == () for shot in project.shots for cut in shot.cuts)
    cameras = project.kit.cameras  # until 3 the day's own camera lay beside the kit's
    assert (cameras[0].id, cameras[0].gap_m) == ("camera", 0.031 if 3 <= version < 8 else 0.026)
    # What nobody said of obstacles overhead was written as 3.00 m until 8.
    assert project.site.branches_m is None and project.site.lowest_m in (None, 2.95)
    write_project(tmp_path / "day.glintor", project)
    assert read_project(tmp_path / "day.glintor") == project


def test_a_kit_of_the_first_format_gives_its_cameras_names(tmp_path):
    old = tmp_path / "kit.json"
    old.write_text('{"glintor_kit": 1, "cameras": [{"name": "small"}, {"name": "large", "gap_m": 0.04}]}')
    assert [(c.id, c.name) for c in read_kit(old).cameras] == [("camera", "small"), ("camera-2", "large")]


def test_films_join_cuts_of_the_day_and_lose_what_goes():
    shots = list(SHOTS[:2])
    take = Take(id="t", name="t", files=(TakeFile(lies="a.mp4"),), duration_s=5, width_px=1920, rate_fps=24)
    shots = [with_cut(with_take(s, take), fresh_cut(f"{s.id}-cut", "Cut 1", "t", 5.0)) for s in shots]
    pieces = tuple(Piece(shot_id=s.id, cut_id=s.cuts[0].id) for s in (*shots, shots[0]))
    film = Film(id="film", name="Both", pieces=pieces)
    project = Project(site=SITE, shots=tuple(shots), films=(film,))
    assert decode(encode(project)) == project and tied(project) is project
    assert [shot.id for _, shot, _ in pieces_of(project, film)] == [shots[0].id, shots[1].id, shots[0].id]
    less = tied(msgspec.structs.replace(project, shots=(shots[1],)))
    assert less.films[0].pieces == pieces[1:2]
    assert tied(msgspec.structs.replace(project, shots=(SHOTS[3],))).films == ()
    with pytest.raises(ProjectError, match="one of its cuts is not in the day"):
        decode(encode(msgspec.structs.replace(project, shots=(shots[1],))))


def test_a_camera_that_a_shot_or_a_take_names_stays_in_the_kit():
    second = Camera(id="second", name="small one", gap_m=0.03, levels=False)
    kit = msgspec.structs.replace(default_kit(), cameras=(Camera(), second))
    shot = msgspec.structs.replace(SHOTS[0], camera="second")
    project = Project(site=SITE, kit=kit, shots=(shot, SHOTS[1]))
    assert project.camera_of(shot) == second and project.camera_of(SHOTS[1]) == Camera()
    assert given_of(project, shot).gap_m == 0.03
    other = project.with_kit(default_kit())
    assert other.kit.cameras == (Camera(), second) and decode(encode(other)) == other
    with pytest.raises(ProjectError, match="no camera second"):
        decode(encode(msgspec.structs.replace(project, kit=default_kit())))


def test_a_shot_in_a_place_that_nobody_described_is_refused_by_its_name():
    lost = msgspec.structs.replace(SHOTS[0], placement=msgspec.structs.replace(SHOTS[0].placement, stage="nowhere"))
    with pytest.raises(ProjectError, match=r"shots\[0\].placement: nobody described the place nowhere"):
        decode(encode(Project(site=SITE, shots=(lost,))))
