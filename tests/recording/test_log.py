"""The list before rolling and the log, without any window."""

import re
import shutil
import subprocess
from datetime import datetime, timedelta

import pytest
from msgspec.structs import replace

from glintor.demo.day import SHOTS, SITE
from glintor.errors import InputError
from glintor.finding import Finding, Level
from glintor.project.kit import Camera, Kit
from glintor.project.log import Tick
from glintor.project.model import Project
from glintor.project.store import decode, encode
from glintor.recording.logbook import (
    RollClock,
    begun,
    ended,
    happened,
    now_of,
    rolling_log,
    stamp,
    ticked,
    unticked,
    with_rolling,
)
from glintor.recording.page import ready_page, write_ready_page
from glintor.recording.ready import elsewhere, open_lines, ready_list

ROOF = next(shot for shot in SHOTS if shot.id == "roof-cobdale")
PROJECT = Project(site=SITE, kit=Kit(cameras=(Camera(), Camera(id="b", name="second"))), shots=(ROOF,))
NOON = datetime.fromisoformat("2026-10-14T10:36:04.250+01:00")


def found(kind: str, level: Level, title: str = "x") -> Finding:
    return Finding(desk="place", kind=kind, level=level, title=title, reason="because")


def test_the_list_is_made_for_the_shot_in_the_order_of_the_hands():
    findings = [found("clamp", Level.STOP, "Clamp gives way"), found("seam", Level.CAUTION), found("hands", Level.NOTE)]
    lines = ready_list(PROJECT, ROOF, findings)
    ids = [line.id for line in lines]
    assert ids == [
        "lens",
        "stick",
        "hold",
        "tether",
        "clear",
        "filter",
        "mode",
        "power",
        "sound",
        "clap",
        "hands",
        "people",
    ]
    by_id = {line.id: line for line in lines}
    assert by_id["hold"].level is Level.STOP and "straight tube" in by_id["hold"].words
    assert "1/50 s, ISO 100" in by_id["mode"].words and by_id["filter"].words == "Filters ND64 on both lenses"
    assert "65 min wanted" in by_id["power"].words and by_id["hands"].words.startswith("A hand for the narrowboat")
    assert [f.kind for f in elsewhere(findings, lines)] == ["seam"]  # nothing is told twice

    worn = replace(
        ROOF,
        placement=replace(ROOF.placement, setup="mini_tripod", carrier="ground"),
        exposure=replace(ROOF.exposure, nd_stops=0.0),
    )
    alone = replace(PROJECT, kit=Kit(cameras=(Camera(),)))
    ids = [line.id for line in ready_list(alone, worn, [])]
    assert "tether" not in ids and "filter" not in ids and "clap" not in ids


def test_the_power_line_tells_what_the_camera_says_and_what_cold_leaves():
    """80 minutes of stated time are 60 at 0 degrees (docs/science.md, budgets: 0.75), half of them with half a battery; 64 GB at 100 Mbit/s are 85 minutes."""
    cold = replace(PROJECT, site=replace(SITE, air_c=0.0))
    line = next(x for x in ready_list(cold, ROOF, [], card_free_bytes=64e9, battery_share=0.5) if x.id == "power")
    assert line.words == "Battery 50%: 30 min at 0 °C, card 85 min; 65 min wanted"


def test_a_rolling_takes_the_ticks_along_and_what_happens_is_stamped():
    shot = ticked(ROOF, Tick(line="hold", words="Clamp tight", at=stamp(NOON), why="only for a test"))
    shot = ticked(shot, Tick(line="lens", words="Lens clean", at=stamp(NOON)))
    with pytest.raises(InputError, match="Nothing was rolled"):
        happened(shot, "good", NOON)
    shot = begun(shot, ("camera", "b"), NOON)
    with pytest.raises(InputError, match="rolls already"):
        begun(shot, ("camera",), NOON)
    shot = happened(shot, "clap", NOON + timedelta(seconds=27))
    shot = happened(shot, "drop", NOON + timedelta(seconds=203), "rear lens", ("b",))
    log = rolling_log(shot)
    assert log.cameras == ("camera", "b") and [t.line for t in log.ticks] == ["hold", "lens"]
    assert [(log.since_s(e.at), e.text) for e in log.events] == [
        (27.0, "clap or horn"),
        (203.0, "drop on the lens · rear lens"),
    ]
    shot = ended(shot, NOON + timedelta(minutes=15))
    assert shot.logs[0].length_s == 900.0 and rolling_log(shot) is None
    assert [t.line for t in shot.ticks] == ["hold"]  # a lens is looked at each time
    shot = happened(shot, "note", NOON + timedelta(minutes=16), "first bridge is best", log_id="log-1")
    assert shot.logs[0].events[-1].text == "first bridge is best" and unticked(shot, "hold").ticks == ()
    project = replace(PROJECT, shots=(shot,))
    assert decode(encode(project)) == project


def test_the_clock_is_the_days_own():
    tokyo = replace(PROJECT, site=replace(SITE, zone="Asia/Tokyo"))
    assert now_of(tokyo).utcoffset() == timedelta(hours=9)


def test_the_page_is_whole_by_itself_and_asks_why_a_stop_is_passed(tmp_path):
    named = replace(ROOF, name="Roof <b>& bridge", ticks=(Tick(line="lens", words="Lens", at=stamp(NOON)),))
    lines = ready_list(PROJECT, named, [found("clamp", Level.STOP, "Clamp gives way")])
    phone, paper = (ready_page(PROJECT, named, lines, phone=which) for which in (True, False))
    assert not re.search(r"(https?:|src=|href=|@import|url\()", phone + paper)  # nothing is fetched
    assert phone.count('type="checkbox"') == len(lines) and "localStorage" in phone and "<script" not in paper
    assert 'data-stop="Clamp gives way."' in phone and "Roof &lt;b&gt;&amp; bridge" in paper and "10:36</time>" in paper
    write_ready_page(tmp_path / "list.html", PROJECT, named, lines, phone=True)
    script = tmp_path / "script.js"
    script.write_text(re.search(r"<script>(.*)</script>", phone, re.S)[1])
    if shutil.which("node"):
        subprocess.run(["node", "--check", str(script)], check=True)


def test_open_lines_are_those_without_a_tick():
    lines = ready_list(PROJECT, ROOF, [])
    ticks = [Tick(line=line.id, words=line.words, at=stamp(NOON)) for line in lines[:-2]]
    assert [line.id for line in open_lines(lines, ticks)] == ["hands", "people"]


@pytest.mark.parametrize("set_by_s", [-3600.0, 0.0, 7200.0])
def test_the_clock_set_while_rolling_leaves_true_lengths(set_by_s):
    wall, passed = [NOON], [100.0]
    clock = RollClock(lambda: wall[0], lambda: passed[0])
    shot = begun(ROOF, ("camera",), clock.now(None))
    log = rolling_log(shot)
    clock.now(log)
    passed[0] += 65.0
    wall[0] += timedelta(seconds=65.0 + set_by_s)
    shot = happened(shot, "mark", clock.now(log), log_id=log.id)
    passed[0] += 5.0
    wall[0] += timedelta(seconds=5.0)
    done = ended(shot, clock.now(rolling_log(shot))).logs[-1]
    assert done.length_s == pytest.approx(70.0) and done.since_s(done.events[0].at) == pytest.approx(65.0)
    assert clock.now(None) == wall[0]  # what nothing rolls for goes by the clock as it is


def test_no_undo_stops_a_camera_and_none_starts_one():
    day = lambda shot: replace(PROJECT, shots=(shot,))  # noqa: E731
    before, rolling = ROOF, begun(ROOF, ("camera",), NOON)
    stopped = ended(rolling, NOON + timedelta(seconds=9))
    filed = replace(stopped, logs=(replace(stopped.logs[0], files=("camera:7:a.mp4",)),))
    assert with_rolling(day(before), day(rolling)).shots[0].logs == rolling.logs  # Roll is not undone
    assert with_rolling(day(rolling), day(stopped)).shots[0].logs[0].ended == stopped.logs[0].ended  # nor is Stop
    assert with_rolling(day(before), day(stopped)).shots[0].logs == ()  # what ended and left nothing may go
    assert with_rolling(day(before), day(filed)).shots[0].logs == filed.logs
    rated = replace(stopped, logs=(replace(stopped.logs[0], rating=4),))
    assert with_rolling(day(stopped), day(rated)).shots[0].logs[0].rating == 0  # a rating is undone as ever
    assert with_rolling(day(rolling), day(before)).shots[0] is rolling
