"""Subjects followed through simulated takes, the truth beside them: behind posts, past a bridge, with others about."""

import numpy as np
import pytest
from msgspec.structs import replace

from glintor.cli import main
from glintor.errors import Cancelled, InputError
from glintor.media.footage import open_footage
from glintor.media.tracked import Pointed, bridged, follow_subject
from glintor.pixels.colour import fine_yuv, rgb
from glintor.pixels.people import people_in
from glintor.pixels.picture import Flat, drawn, steady
from glintor.pixels.reproject import Filter
from glintor.pixels.subject import LOST, SURE, UNSURE, Seen, SubjectTracker
from glintor.reframing.cut import Cut
from glintor.reframing.fitted import along
from glintor.reframing.path import Keyframe, path_of
from glintor.reframing.track import found_track, read_found, read_track, track_file, write_found
from glintor.sphere.equirect import WHOLE, direction, lonlat_deg
from glintor.sphere.turn import TurnTrack
from glintor.sphere.view import View
from tests import foreign


def off_deg(yaw, pitch, other_yaw, other_pitch):
    cosine = (direction(yaw, pitch) * direction(other_yaw, other_pitch)).sum(axis=-1)
    return np.degrees(np.arccos(np.clip(cosine, -1.0, 1.0)))


@pytest.fixture(scope="module")
def stern(demo_folder):
    """A person on the stern of a boat, and where they are."""
    clip = demo_folder / "card" / "clips" / "clip-0005.mp4"
    return open_footage(clip), read_track(track_file(clip))


def pointed(truth, at_s, size_deg=20.0):
    now = truth.at(np.array([at_s]))
    return Pointed(at_s, float(now.yaw_deg[0]), float(now.pitch_deg[0]), size_deg)


def test_a_person_is_found_and_followed_both_ways(stern):
    footage, truth = stern
    shares, so_far = [], []
    seen = follow_subject(footage, [pointed(truth, 3.0)], span_s=(0.5, 5.5), report=shares.append, told=so_far.append)
    times = np.array([s.time_s for s in seen])
    assert times[0] < 0.7 and times[-1] > 5.3 and (np.diff(times) > 0).all() and shares[-1] == 1.0 and so_far
    there = truth.at(times)
    off = off_deg(
        np.array([s.yaw_deg for s in seen]), np.array([s.pitch_deg for s in seen]), there.yaw_deg, there.pitch_deg
    )
    sure = np.array([s.state for s in seen]) == SURE
    assert sure.mean() > 0.9 and np.percentile(off, 95) < 2.0 and off[sure].max() < 4.0


def test_a_post_before_it_is_told_and_it_is_found_again(stern, monkeypatch):
    """Nine tenths of a second behind something grey: never sure of the post, sure again within a second."""
    footage, truth = stern
    hidden = (2.4, 3.3)
    plain = type(footage).sphere

    def behind(self, decoded):
        if hidden[0] <= float(decoded.time) <= hidden[1]:
            now = truth.at(np.array([float(decoded.time)]))
            width, _ = decoded.picture.size_px
            x, half = int((float(now.yaw_deg[0]) / 360.0 + 0.5) % 1.0 * width), width // 18
            y = decoded.picture.y.copy()
            y[:, max(x - half, 0) : x + half] = 90
            planes = [plane.copy() for plane in (decoded.picture.u, decoded.picture.v)]
            for plane in planes:
                plane[:, max(x - half, 0) // 2 : (x + half) // 2] = 128
            picture = type(decoded.picture)(y, *planes, decoded.picture.tags, decoded.picture.bits)
            decoded = replace(decoded, picture=picture)
        return plain(self, decoded)

    monkeypatch.setattr(type(footage), "sphere", behind)
    seen = follow_subject(footage, [pointed(truth, 0.5)], span_s=(0.5, 6.0))
    states = {s.time_s: s.state for s in seen}
    inside = [state for at, state in states.items() if hidden[0] + 0.25 < at < hidden[1] - 0.05]
    assert inside and max(inside) < SURE
    after = [at for at, state in states.items() if at > hidden[1] and state == SURE]
    assert after and after[0] - hidden[1] < 1.5
    late = [s for s in seen if s.time_s > after[0]]
    there = truth.at(np.array([s.time_s for s in late]))
    off = off_deg(
        np.array([s.yaw_deg for s in late]), np.array([s.pitch_deg for s in late]), there.yaw_deg, there.pitch_deg
    )
    assert np.percentile(off, 95) < 2.0


def crossed(footage, truth, monkeypatch, *, alike):
    """Somebody cut out of the film itself crosses before the subject at 60 degrees a second: a twin, or in other colours."""
    plain = type(footage).sphere
    with footage.reader() as reader:
        base = reader.at(1.0).picture
    width, height = base.size_px
    w, h = width * 26 // 720 * 2, height * 44 // 360 * 2

    def corner(at, off_deg):
        now = truth.at(np.array([at]))
        x = int((float(now.yaw_deg[0]) / 360.0 + 0.5) * width + off_deg / 360.0 * width) - w // 2
        return x // 2 * 2, (int((0.5 - float(now.pitch_deg[0]) / 180.0) * height) - h // 2) // 2 * 2

    x0, y0 = corner(1.0, 0.0)
    cut = [base.y[y0 : y0 + h, x0 : x0 + w].copy()]
    cut += [p[y0 // 2 : (y0 + h) // 2, x0 // 2 : (x0 + w) // 2].copy() for p in (base.u, base.v)]
    if not alike:
        cut[1:] = cut[:0:-1]

    def with_another(self, decoded):
        x, y = corner(float(decoded.time), 60.0 * (float(decoded.time) - 3.0))
        if not 0 <= x < width - w:
            return plain(self, decoded)
        planes = [p.copy() for p in (decoded.picture.y, decoded.picture.u, decoded.picture.v)]
        planes[0][y : y + h, x : x + w] = cut[0]
        for plane, part in zip(planes[1:], cut[1:], strict=True):
            plane[y // 2 : (y + h) // 2, x // 2 : (x + w) // 2] = part
        picture = type(decoded.picture)(*planes, decoded.picture.tags, decoded.picture.bits)
        return plain(self, replace(decoded, picture=picture))

    monkeypatch.setattr(type(footage), "sphere", with_another)
    seen = follow_subject(footage, [pointed(truth, 0.5)], span_s=(0.5, 6.0))
    there = truth.at(np.array([s.time_s for s in seen]))
    off = off_deg(
        np.array([s.yaw_deg for s in seen]), np.array([s.pitch_deg for s in seen]), there.yaw_deg, there.pitch_deg
    )
    return np.array([s.time_s for s in seen]), off, np.array([s.state for s in seen])


def test_somebody_in_other_colours_who_crosses_is_not_followed(stern, monkeypatch):
    times, off, states = crossed(*stern, monkeypatch, alike=False)
    aside = np.abs(60.0 * (times - 3.0)) > 14.0
    assert np.percentile(off[aside], 95) < 2.0 and (off[states == SURE] < 4.0).all()
    assert times[(times > 3.3) & (states == SURE)][0] < 4.3


def test_after_a_twin_crossed_nothing_is_claimed(stern, monkeypatch):
    times, off, states = crossed(*stern, monkeypatch, alike=True)
    assert (off[states == SURE] < 4.0).all() and (states[times < 2.2] == SURE).mean() > 0.9
    assert not (states[times > 3.3] == SURE).any()


@pytest.mark.parametrize("comes_out", [True, False])
def test_a_thing_that_goes_behind_a_post_is_found_again_or_not_claimed(comes_out):
    """A painted board 12 degrees large before a real photograph, at 10 degrees a second, behind a post 5 degrees wide (8 where it stays)."""
    back = foreign.World().at(foreign.sphere_looks(1024))
    board = np.kron(np.random.default_rng(4).integers(0, 255, (6, 6, 3)), np.ones((6, 6, 1)))[:34, :34]
    tracker, found = SubjectTracker(WHOLE, person=False), []
    for number in range(80):
        time_s = number / 12.5
        yaw = -40.0 + 10.0 * time_s
        picture = back.copy()
        if comes_out or time_s < 3.0:
            x = round((yaw / 360.0 + 0.5) * 1024) - 17
            picture[250:284, x : x + 34] = board
        half = 2.5 if comes_out else 4.0
        picture[120:420, round((-10.0 - half + 180.0) * 1024 / 360) : round((-10.0 + half + 180.0) * 1024 / 360)] = 90
        picture += np.random.default_rng(number).normal(0.0, 2.0, picture.shape)
        sphere = fine_yuv(np.ascontiguousarray(picture.clip(0, 255).astype(np.uint8)))
        pitch = 90.0 - 267.0 / 512.0 * 180.0
        if number == 0:
            found.append(tracker.begin(sphere, time_s, direction(yaw, pitch), 12.0, np.eye(3)))
        else:
            found.append(tracker.step(sphere, time_s, np.eye(3)))
        if found[-1].state == SURE:
            assert off_deg(found[-1].yaw_deg, found[-1].pitch_deg, yaw, pitch) < 5.0
    late = [seen.state for seen in found if seen.time_s > 4.8]
    assert (set(late) == {SURE}) if comes_out else SURE not in late


def test_people_are_found_in_an_upright_frame(stern):
    footage, truth = stern
    now = truth.at(np.array([2.0]))
    view = View(yaw_deg=float(now.yaw_deg[0]), pitch_deg=float(now.pitch_deg[0]), fov_deg=90.0, bend=0.0)
    with footage.reader() as reader:
        frame = rgb(drawn(Flat((416, 416), steady(view), Filter.FAST), footage.sphere(reader.at(2.0))))
    boxes = people_in(np.ascontiguousarray(frame[..., ::-1]))
    assert boxes and boxes[0].x < 208 < boxes[0].x + boxes[0].w and boxes[0].y < 208 < boxes[0].y + boxes[0].h
    assert people_in(np.full((416, 416, 3), 127, np.uint8)) == []


def test_gaps_are_bridged_only_between_what_is_sure_and_near():
    def one(at, yaw, state):
        return Seen(at, yaw, 0.0, 10.0, state)

    seen = [
        one(0.0, 170.0, SURE),
        one(0.5, 0.0, LOST),
        one(1.0, -178.0, SURE),
        one(9.0, 0.0, LOST),
        one(20.0, 5.0, SURE),
    ]
    out = bridged(seen)
    assert (out[1].state, round(out[1].yaw_deg, 3)) == (UNSURE, 176.0) and out[3].state == LOST


def test_a_track_goes_out_and_in_and_the_command_writes_it(stern, tmp_path, capsys):
    footage, truth = stern
    point, target = pointed(truth, 1.0), tmp_path / "subject.csv"
    told = ["--at", "1", "--yaw", str(point.yaw_deg), "--pitch", str(point.pitch_deg), "--size", "20"]
    assert main(["track", str(footage.files[0]), *told, str(target)]) == 0 and "sure" in capsys.readouterr().out
    assert target.read_text().splitlines()[0] == "time_s,yaw_deg,pitch_deg,size_deg,state"
    track = read_found(target)
    write_found(tmp_path / "again.csv", track)
    assert (tmp_path / "again.csv").read_text() == target.read_text() and track.nearest_m is None
    (tmp_path / "wrong.csv").write_text("time_s,yaw_deg,pitch_deg,size_deg,state\n0,0,0,10,maybe\n")
    with pytest.raises(InputError, match="line 2"):
        read_found(tmp_path / "wrong.csv")
    assert (
        main(["track", str(footage.files[0]), "--at", "900", "--yaw", "0", "--pitch", "0", "--size", "9", str(target)])
        == 2
    )
    held = track.turned(TurnTrack.still(View(yaw_deg=30.0).matrix))
    assert held.state is track.state and np.allclose(np.diff(held.yaw_deg - track.yaw_deg), 0.0, atol=0.5)

    class Stops:
        def is_set(self):
            return True

    with pytest.raises(Cancelled):
        follow_subject(footage, [point], stop=Stops())


def test_keyframes_that_go_with_a_subject_are_few_and_near():
    """Smoothed from both sides, so that nothing comes late; over a gap at an even pace; round the back the short way."""
    times = np.arange(0.0, 20.0, 0.08)
    yaw = 150.0 + 80.0 * np.sin(times / 3.0)
    shaken = yaw + np.random.default_rng(4).normal(0.0, 0.4, len(times))
    lost = (times > 8.0) & (times < 8.9)
    track = found_track(
        [
            (t, (y + 180.0) % 360.0 - 180.0, 5.0, 12.0, LOST if gone else SURE)
            for t, y, gone in zip(times, shaken, lost, strict=True)
        ]
    )
    cut = Cut(
        id="c", name="c", take_id="t", in_s=1.0, out_s=18.0, keys=(Keyframe(time_s=2.0, yaw_deg=-200.0, fov_deg=70.0),)
    )
    fitted = along(cut, track)
    assert 6 <= len(fitted.keys) <= 24 and {round(k.fov_deg, 3) for k in fitted.keys} == {70.0}
    at = np.arange(1.0, 18.0, 0.04)
    shown = path_of(fitted.keys, fitted.span_s).values(at)
    truth = np.interp(at, times, yaw)
    assert off_deg(shown[:, 0], shown[:, 1], truth, np.full(len(at), 5.0)).max() < 3.5
    assert abs(shown[0, 0] - (-200.0)) < 180.0 and np.abs(np.diff(shown[:, 0])).max() < 5.0
    empty = found_track([(t, 0.0, 0.0, 10.0, LOST) for t in (0.0, 9.0)])
    with pytest.raises(InputError, match="not known"):
        along(cut, empty)


def test_a_thing_in_a_strangers_shaken_film_is_followed_by_its_looks(tmp_path):
    """A real photograph turned by other code: the truth is the turn itself."""
    footage = open_footage(foreign.shaken(tmp_path / "walk.mp4", foreign.World(), width=1024, frames=40))
    turn = lambda t: foreign.in_body(foreign.turn(*foreign.shake(t)))  # noqa: E731
    for yaw, pitch in ((30.0, 5.0), (-110.0, -8.0), (178.0, 10.0)):  # the last lies at the seam of the picture
        there = turn(0.5) @ direction(yaw, pitch)
        seen = follow_subject(footage, [Pointed(0.5, yaw, pitch, 18.0)])
        states = np.array([s.state for s in seen])
        off = [float(off_deg(s.yaw_deg, s.pitch_deg, *lonlat_deg(turn(s.time_s).T @ there))) for s in seen]
        assert (states == SURE).mean() > 0.9 and np.percentile(off, 95) < 1.0 and len(seen) > 15
