"""The log meets the files: wrong clocks, several cameras, what is alike, and what is said to be unsure."""

import subprocess
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from msgspec.structs import replace

from glintor.media.claps import claps_in, sudden
from glintor.project.consistency import first_fault
from glintor.project.fresh import placeless_shot
from glintor.project.log import Event, Log
from glintor.project.logged import key_of, met, open_takes, without_match
from glintor.project.matching import Offered, candidates, matches
from glintor.project.model import Film, Piece, with_cut, with_take
from glintor.project.recordings import with_recordings
from glintor.project.store import decode, encode, read_project
from glintor.project.take import Take, TakeFile
from glintor.reframing.edits import fresh_cut

ZONE = ZoneInfo("Europe/London")
TEN = datetime(2026, 10, 14, 10, 0, tzinfo=ZONE)
ROLLED = ((0, 15.0), (3, 42.0), (9, 15.5), (31, 8.0), (33, 120.0), (58, 15.0))  # minutes after ten, seconds


def log(number, minute, length, **more):
    began = TEN + timedelta(minutes=minute)
    ended = began + timedelta(seconds=length)
    stamp = lambda at: at.isoformat(timespec="milliseconds")  # noqa: E731
    events = tuple(Event(at=stamp(began + timedelta(seconds=s)), what=what) for s, what in more.pop("events", ()))
    return Log(id=f"log-{number}", began=stamp(began), ended=stamp(ended), events=events, **more)


def take(name, minute, length, *, ahead_s=0.0, zone=True, camera="", width=5760, **more):
    began = TEN + timedelta(minutes=minute, seconds=ahead_s)
    told = began.isoformat() if zone else began.replace(tzinfo=None).isoformat()
    file = TakeFile(lies=f"/card/{name}.MP4", size_bytes=1000 + hash(name) % 999, quick=name)
    return Take(
        id="take", name=name, files=(file,), duration_s=length, width_px=width, rate_fps=30.0, camera=camera,
        began=told if minute is not None else "", **more,
    )  # fmt: skip


@pytest.fixture
def day(day):  # of the demo, its shots emptied
    project = read_project(day)
    shots = [replace(s, takes=(), cuts=(), logs=()) for s in project.shots]
    logs = [log(n, minute, length) for n, (minute, length) in enumerate(ROLLED)]
    shots[0] = replace(shots[0], logs=tuple(logs[:3]))
    shots[1] = replace(shots[1], logs=tuple(logs[3:]))
    return replace(project, site=replace(project.site, day="2026-10-14"), shots=tuple(shots), films=())


def brought(project, takes):
    return with_recordings(project, takes)[0]


def by_name(project):
    return {t.name: (s.id, t) for s in project.shots for t in s.takes}


@pytest.mark.parametrize(
    ("ahead_s", "zone"), [(0.0, True), (-37.0, True), (3600.0 * 5 + 12.0, False), (-86400.0 * 900, False)]
)
def test_one_offset_a_camera_is_found_by_all_its_recordings(day, ahead_s, zone):
    """Whatever the clock shows: minutes, another zone, or a date that was never set."""
    rng = np.random.default_rng(3)
    takes = [
        take(
            f"A_{n}",
            minute + rng.uniform(-1.5, 1.5) / 60.0,
            length + rng.uniform(-0.8, 1.2),
            ahead_s=ahead_s,
            zone=zone,
        )
        for n, (minute, length) in enumerate(ROLLED)
    ]
    there = by_name(brought(day, takes))
    first, second = day.shots[0].id, day.shots[1].id
    assert [there[f"A_{n}"][0] for n in range(6)] == [first] * 3 + [second] * 3
    assert all(t.clock_s == pytest.approx(ahead_s, abs=1.5) for _, t in there.values())
    project = brought(day, takes)
    assert [len(one.takes) for s in project.shots[:2] for one in s.logs] == [1] * 6
    assert decode(encode(project)) == project and first_fault(project) is None


def test_two_cameras_at_once_have_a_clock_each_and_a_flat_battery_leaves_one_out(day):
    one = [take(f"A_{n}", minute, length, ahead_s=-37.0) for n, (minute, length) in enumerate(ROLLED)]
    two = [take(f"B_{n}", m, l, ahead_s=912.0, width=3840) for n, (m, l) in enumerate(ROLLED) if n in (1, 4)]
    project = brought(day, [*one, *two])
    there = by_name(project)
    assert there["B_1"][1].clock_s == pytest.approx(912.0) and there["B_4"][0] == project.shots[1].id
    assert [len(one.takes) for s in project.shots[:2] for one in s.logs] == [1, 2, 1, 1, 2, 1]
    assert "15 min 12 s fast" in there["B_1"][1].matched and "37 s slow" in there["A_0"][1].matched


def test_what_was_logged_goes_to_the_take(day):
    events = ((4.0, "mark"), (6.0, "drop"), (9.0, "good"))
    logged = replace(
        log(7, 20, 15.0, events=events, rating=4, favourite=True, note="lock keeper waved"),
        cameras=(day.kit.cameras[0].id,),
    )
    day = day.with_shot(day.shots[2].id, lambda s: replace(s, logs=(logged,)))
    others = [take(f"A_{n}", m, l, ahead_s=8.0) for n, (m, l) in enumerate(ROLLED)]
    project = brought(day, [take("A_9", 20 + 1 / 60, 14.2, ahead_s=8.0, rating=0), *others])
    shot_id, found = by_name(project)["A_9"]
    assert shot_id == day.shots[2].id and found.marks_s == (3.0, 8.0) and found.rating == 4
    assert (found.note, found.verdict, found.camera) == ("lock keeper waved", "keep", day.kit.cameras[0].id)
    assert found.placement == day.shots[2].placement
    off = without_match(project, shot_id, found.id)
    assert (shot_id, found.id) in [(s, t.id) for s, t in open_takes(off)] and not off.shot(shot_id).logs[0].takes


def test_what_is_alike_is_not_guessed(day):
    """One recording of 15 s whose clock nobody knows: three logs are as long."""
    project = brought(day, [take("A_0", 700, 15.2)])
    shot_id, alone = by_name(project)["A_0"]
    assert not alone.matched and shot_id not in (day.shots[0].id, day.shots[1].id)
    (found,) = matches(project, [Offered("x", alone)])
    assert not found.sure and "unsure" in found.words and len(found.others) == 2
    assert len(candidates(project, alone)) == 6 and candidates(project, alone)[0].log.length_s in (15.0, 15.5)
    timeless = replace(alone, began="", start_min=None)
    assert not matches(project, [Offered("x", timeless)])[0].sure
    strange = replace(alone, duration_s=700.0)
    assert matches(project, [Offered("x", strange)]) == ()


def test_a_clap_tells_what_length_and_clock_do_not(day, tmp_path):
    claps = (2.0, 5.5, 9.0)
    logs = [
        log(n, m, l, events=((at, "clap"),))
        for n, ((m, l), at) in enumerate(zip(ROLLED[::2][:2] + ROLLED[5:], claps, strict=True))
    ]
    day = replace(day, shots=(replace(day.shots[0], logs=tuple(logs)), *day.shots[1:2], *day.shots[2:]))
    day = day.with_shot(day.shots[1].id, lambda s: replace(s, logs=()))
    film = tmp_path / "clap.mp4"
    noise = "aevalsrc=0.01*random(0)+0.9*random(1)*between(t\\,5.4\\,5.45):s=48000:d=15"
    subprocess.run(
        [
            "ffmpeg",
            "-v",
            "error",
            "-f",
            "lavfi",
            "-i",
            "testsrc2=s=64x32:r=25:d=15",
            "-f",
            "lavfi",
            "-i",
            noise,
            str(film),
        ],
        check=True,
    )
    heard = claps_in([film])
    assert heard == pytest.approx((5.4,), abs=0.03)
    timeless = replace(take("A_0", 0, 15.1), began="")
    (found,) = matches(day, [Offered("x", timeless, heard)])
    assert found.sure and found.log_id == "log-1" and "the clap" in found.words
    assert "fits the clap" in candidates(day, timeless, heard)[0].fits
    assert sudden(np.full(500, -40.0)) == []


def test_a_cut_that_was_begun_and_a_film_go_along(day):
    late = take("A_1", 3.0, 42.0)
    shot = placeless_shot("shot-x", "A_1")
    shot = with_take(shot, replace(late, id="x-take"))
    shot = with_cut(shot, fresh_cut("x-cut", "Cut 1", "x-take", 42.0))
    piece = Piece(shot_id="shot-x", cut_id="x-cut")
    project = replace(day, shots=(*day.shots, shot), films=(Film(id="film", name="Film", pieces=(piece,)),))
    project, unsure = met(project)
    assert unsure == () and "shot-x" not in [s.id for s in project.shots]
    moved = project.shots[0]
    assert [c.take_id for c in moved.cuts] == [t.id for t in moved.takes] and len(moved.takes) == 1
    assert project.films[0].pieces[0].shot_id == moved.id and first_fault(project) is None
    assert key_of(moved.id, moved.takes[0]) not in [key_of(s, t) for s, t in open_takes(project)]


def test_two_cameras_of_one_kind_on_two_cards_are_told_apart_by_their_clocks(day):
    """Files made and named alike, brought home one card after the other."""
    ids = (day.kit.cameras[0].id, "second")
    kit = replace(day.kit, cameras=(day.kit.cameras[0], replace(day.kit.cameras[0], id="second")))
    shots = [replace(s, logs=tuple(replace(one, cameras=ids) for one in s.logs)) for s in day.shots]
    project = replace(day, kit=kit, shots=tuple(shots))
    for ahead_s in (-37.0, 245.0):
        takes = [take(f"VID_{n}", m, l, ahead_s=ahead_s) for n, (m, l) in enumerate(ROLLED)]
        takes = [replace(t, files=(replace(t.files[0], quick=f"{t.name}{ahead_s}"),)) for t in takes]
        project = brought(project, takes)
    assert [len(one.takes) for s in project.shots[:2] for one in s.logs] == [2] * 6
    clocks = {t.clock_s for s in project.shots for t in s.takes}
    assert clocks == {-37.0, 245.0}


def test_a_log_knows_the_files_that_cameras_told_it_of(day):
    named = replace(
        log(9, 80, 30.0, cameras=("camera", "second")),
        files=("camera:1700:clips/clip-0001.mp4", "second:1800:clips/clip-0001.mp4"),
    )
    day = day.with_shot(day.shots[2].id, lambda s: replace(s, logs=(named,)))
    for size in (1700, 1800, 1900):
        one = replace(
            take("clip-0001", 0, 12.0),
            files=(
                TakeFile(
                    card="clips/clip-0001.mp4", lies=f"/{size}/clips/clip-0001.mp4", size_bytes=size, quick=str(size)
                ),
            ),
        )
        day = brought(day, [replace(one, began="")])
    matched = [t.files[0].size_bytes for t in day.shots[2].takes if t.matched == "by what its camera told"]
    assert matched == [1700, 1800]  # the third has the name, and is another film


@pytest.mark.parametrize(("third", "sure"), [(False, False), (True, True)])
def test_a_vote_with_an_equal_rival_is_not_sure(day, third, sure):
    """Two recordings fit the logs with the clock 20 minutes ahead and as well with it 40 minutes ahead; a third speaks for one of them."""
    logs = {n: log(n, minute, 30.0) for n, minute in enumerate((0, 3, 20, 23) + ((7,) if third else ()))}
    shots = [replace(day.shots[0], logs=tuple(logs.values())), *(replace(s, logs=()) for s in day.shots[1:])]
    project = replace(day, shots=tuple(shots))
    takes = [take(f"c{n}", minute, 30.0) for n, minute in enumerate((40, 43) + ((47,) if third else ()))]
    found = matches(project, [Offered(t.name, replace(t, id=t.name)) for t in takes])
    assert bool(found) and all(one.sure == sure for one in found)
