import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from glintor.finding import Level
from glintor.reframing.arranging import spread, with_moves_spread
from glintor.reframing.course import Course
from glintor.reframing.cut import Cut, Move
from glintor.reframing.motion import speed_deg_s
from glintor.reframing.path import Keyframe, PathError, ViewPath
from glintor.reframing.retime import Stretch, Timeline
from glintor.reframing.review import Limits, review_path, runs
from glintor.reframing.table import read_path, write_path
from glintor.reframing.track import read_track, track_file, track_of, write_track
from glintor.sphere.view import View

HEAD = "time_s,yaw_deg,pitch_deg,roll_deg,fov_deg,bend\n"


def on_path(keys, span=(-np.inf, np.inf)):
    return Course(ViewPath(keys, span))


def test_a_path_comes_back_as_written(tmp_path):
    keys = (
        Keyframe(time_s=0.0, yaw_deg=-12.5),
        Keyframe(time_s=2.5, yaw_deg=725.25, pitch_deg=-45, roll_deg=3, fov_deg=280, bend=1),
    )
    write_path(tmp_path / "p.csv", keys)
    assert read_path(tmp_path / "p.csv") == keys
    assert (tmp_path / "p.csv").read_text().startswith(HEAD)


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        ("", "no keyframe"),
        ("0,0,0,0,100,0.1\n0,5,0,0,100,0.1\n", "line 3: 0 s is the same time"),
        ("2,0,0,0,100,0.1\n1,5,0,0,100,0.1\n", "line 3: 1 s is a time before"),
        ("0,nan,0,0,100,0.1\n", "line 2: yaw_deg is 'nan'"),
        ("0,0,0,0,wide,0.1\n", "line 2: fov_deg is 'wide'"),
        ("0,0,0,0,100\n", "line 2: 5 values"),
        ("0,0,95,0,100,0.1\n", "line 2.*pitch"),
        ("0,0,0,0,200,0\n", "line 2.*field of view"),
        ("-1,0,0,0,100,0.1\n", "line 2.*before the clip"),
    ],
)
def test_wrong_rows_are_named_by_their_line(tmp_path, rows, words):
    (tmp_path / "p.csv").write_text(HEAD + rows)
    with pytest.raises(PathError, match=words) as caught:
        read_path(tmp_path / "p.csv")
    assert caught.value.exit_code == 2


def test_files_that_are_no_path_are_said(tmp_path):
    with pytest.raises(PathError, match="no path file"):
        read_path(tmp_path / "none.csv")
    (tmp_path / "p.csv").write_text("t,yaw\n0,1\n")
    with pytest.raises(PathError, match="header"):
        read_path(tmp_path / "p.csv")
    (tmp_path / "b.csv").write_bytes(b"\xff\xfe\x00\x01")
    with pytest.raises(PathError, match="text"):
        read_path(tmp_path / "b.csv")


def test_a_spreadsheets_mark_and_empty_lines_do_no_harm(tmp_path):
    (tmp_path / "p.csv").write_text("\ufeff" + HEAD + "0,1,0,0,100,0.15\n\n", encoding="utf-8")
    assert read_path(tmp_path / "p.csv")[0].yaw_deg == 1.0


def test_tracks_are_unwrapped_and_held_at_their_ends(tmp_path):
    write_track(tmp_path / "t.csv", [(0.0, 170.0, -5.0, 3.0), (1.0, -170.0, -5.0, 4.0)])
    track = read_track(tmp_path / "t.csv")
    assert track.yaw_deg == pytest.approx([170.0, 190.0])
    assert track.at(np.array([0.5, 9.0])).yaw_deg == pytest.approx([180.0, 190.0])
    assert track_file(tmp_path / "clip.mp4").name == "clip.track.csv"


def limits(**changes) -> Limits:
    return Limits(**({"pan_share_s": 1 / 7, "source_width_px": 5760, "seam_band_deg": 5.0} | changes))


def test_angular_speed_is_of_the_axis_not_of_the_numbers():
    path = on_path([Keyframe(time_s=0), Keyframe(time_s=10, yaw_deg=100)], (0, 10))
    assert speed_deg_s(path, np.array([5.0])) == pytest.approx([10.0], rel=1e-4)
    up = on_path([Keyframe(time_s=0, pitch_deg=60), Keyframe(time_s=10, yaw_deg=100, pitch_deg=60)], (0, 10))
    assert speed_deg_s(up, np.array([5.0])) == pytest.approx([5.0], rel=1e-3)  # cos 60


def test_a_long_fast_pan_is_found_with_number_limit_and_place():
    keys = [Keyframe(time_s=0), Keyframe(time_s=2), Keyframe(time_s=5, yaw_deg=150), Keyframe(time_s=12, yaw_deg=150)]
    found = [f for f in review_path(on_path(keys, (0, 12)), Timeline(0, 12), limits(), None) if f.kind == "pan"]
    assert len(found) == 1
    pan = found[0]
    assert pan.level is Level.STOP and pan.value > 50 and pan.limit == pytest.approx(100 / 7, rel=0.01)
    assert 2.0 <= pan.start_s < 2.6 and 4.4 < pan.end_s <= 5.0 and pan.cure is None and "no room" in pan.reason


def pans(keys, cut=None):
    return [f for f in review_path(on_path(keys, (0, 12)), Timeline(0, 12), limits(), None, cut=cut) if f.kind == "pan"]


def quick_turn(by_deg):
    return [
        Keyframe(time_s=0),
        Keyframe(time_s=4),
        Keyframe(time_s=5, yaw_deg=by_deg),
        Keyframe(time_s=12, yaw_deg=by_deg),
    ]


@pytest.mark.parametrize(("by_deg", "told"), [(99.0, False), (101.0, True), (150.0, True)])
def test_a_quick_turn_is_told_where_nothing_that_was_seen_before_is_in_sight_after_it(by_deg, told):
    """The view is 100 degrees wide (judgement, no source)."""
    found = pans(quick_turn(by_deg))
    assert bool(found) == told and all(f.title == "Quick turn" and f.level is Level.CAUTION for f in found)
    whip = Cut(
        id="c", name="c", take_id="t", in_s=0, out_s=12, keys=tuple(quick_turn(by_deg)),
        moves=(Move(id="w", kind="whip", start_s=4, end_s=5, amount=1, opening=View(), closing=View()),),
    )  # fmt: skip
    assert not pans(quick_turn(by_deg), whip)  # a ready whip is meant so
    assert not pans([Keyframe(time_s=0), Keyframe(time_s=12, yaw_deg=100)])  # and a slow pan is fine


def test_a_cure_never_makes_a_pan_faster():
    """180 degrees in 2.5 s at the end of a cut that has no room: it is not called a quick turn, nor made one."""
    keys = (Keyframe(time_s=0), Keyframe(time_s=9.5), Keyframe(time_s=12, yaw_deg=180))
    cut = Cut(id="c", name="c", take_id="t", in_s=0, out_s=12, keys=keys)
    (pan,) = pans(keys, cut)
    assert pan.cure is None and "no room" in pan.reason
    # A hold behind it gives its time.
    held = (keys[0], Keyframe(time_s=6), Keyframe(time_s=8.4, yaw_deg=40), Keyframe(time_s=12, yaw_deg=40))
    cut = replace(cut, keys=held)
    (pan,) = pans(held, cut)
    cured_ = with_moves_spread(cut, pan.start_s, pan.end_s, float(pan.cure.value), 12.0)
    speeds = [speed_deg_s(on_path(c.keys, (0, 12)), np.arange(0, 12, 0.02)).max() for c in (cut, cured_)]
    assert speeds[1] < 0.7 * speeds[0] and cured_.keys[-1].time_s == pytest.approx(12.0)


def test_spreading_a_pan_cures_it():
    keys = [Keyframe(time_s=0), Keyframe(time_s=1), Keyframe(time_s=4, yaw_deg=60), Keyframe(time_s=6, yaw_deg=60)]
    pan = next(f for f in review_path(on_path(keys, (0, 30)), Timeline(0, 30), limits(), None) if f.kind == "pan")
    times = spread([k.time_s for k in keys], pan.start_s, pan.end_s, float(pan.cure.value))
    assert times[:2] == [0, 1] and times[3] - times[2] == pytest.approx(2.0) and times[2] > 7
    import msgspec

    cured = [msgspec.structs.replace(k, time_s=t) for k, t in zip(keys, times, strict=True)]
    assert (
        max(
            (f.level for f in review_path(on_path(cured, (0, 30)), Timeline(0, 30), limits(), None) if f.kind == "pan"),
            default=Level.NOTE,
        )
        < Level.STOP
    )


def test_a_quick_turn_leaves_what_follows_where_it_is():
    assert spread([0.0, 2.0, 6.0, 9.0], 2.5, 5.5, 1.0) == pytest.approx([0.0, 2.0, 2.0 + 4 / 3, 9.0])


def test_the_subject_on_the_seam_and_out_of_frame_is_found():
    track = track_of([(0.0, 88.0, 0.0, 1.0), (4.0, 88.0, 0.0, 1.0), (4.1, -30.0, 0.0, 1.0), (8.0, -30.0, 0.0, 1.0)])
    found = {
        f.kind: f
        for f in review_path(on_path([Keyframe(time_s=0, yaw_deg=80)]), Timeline(0, 8), limits(), track, "Mira")
    }
    assert found["seam"].title == "Mira on the seam" and found["seam"].end_s < 4.2
    assert found["away"].value == pytest.approx(4.0, abs=0.3)


def test_little_resolution_is_noted():
    found = review_path(on_path([Keyframe(time_s=0, fov_deg=40)]), Timeline(0, 4), limits(source_width_px=1920), None)
    assert [f.kind for f in found] == ["soft"] and found[0].value == pytest.approx(40 / 360 * 1920)


@given(st.lists(st.booleans(), min_size=2, max_size=60))
def test_runs_cover_exactly_the_true_stretches(flags):
    times = np.arange(len(flags)) * 0.1
    for start, end in runs(np.array(flags), times, 0.0):
        assert all(flags[round(start * 10) : round(end * 10)])


@pytest.mark.parametrize(("speed", "level"), [(0.25, None), (1.0, None), (4.0, Level.CAUTION), (16.0, Level.STOP)])
def test_pans_are_judged_as_fast_as_the_film_shows_them(speed, level):
    """A pan of 10 degrees a second, sped up: crossing rule of a seventh of the frame a second, 100 degrees wide."""
    path = on_path([Keyframe(time_s=0.0), Keyframe(time_s=12.0, yaw_deg=120.0)], (0.0, 12.0))
    timeline = Timeline(0.0, 12.0, [Stretch(start_s=0.0, end_s=12.0, speed=speed)] if speed != 1.0 else [])
    found = [f for f in review_path(path, timeline, Limits(1.0 / 7.0, 5760, 0.0), None) if f.kind == "pan"]
    assert [f.level for f in found] == ([] if level is None else [level])
    if found:
        assert found[0].value == pytest.approx(10.0 * speed, rel=0.02)
