"""Clocks laid on one another by sound: within a millisecond and 3 ppm on clean horns, 20 ms in noise; unsure is said."""

import json
import subprocess

import numpy as np
import pytest
from scipy.interpolate import CubicSpline
from scipy.signal import fftconvolve, lfilter

from glintor.cli import main
from glintor.media.align import align, fine_delay_s, heard_in
from glintor.media.sound import RATE_HZ, whole_sound
from glintor.project.clocks import on_clock, other_time, same_moment
from glintor.project.take import Heard, Take, TakeFile
from tests.conftest import DATA, make_clip


def horns(seconds: float, seed: int, every_s: float = 4.0) -> np.ndarray:
    rng = np.random.default_rng(seed)
    x = rng.normal(0, 0.003, int(seconds * RATE_HZ))
    for k in range(int(seconds / every_s)):
        at, n = int((k * every_s + rng.uniform(0, every_s - 1)) * RATE_HZ), int(0.35 * RATE_HZ)
        t, pitch = np.arange(n) / RATE_HZ, rng.uniform(300, 900)
        tone = (
            np.sin(2 * np.pi * pitch * t + 0.3 * np.sin(4 * np.pi * pitch * t))
            * np.minimum(1, t * 400)
            * np.exp(-4 * t)
        )
        x[at : at + n] += 0.4 * tone[: len(x) - at]
    return x


def heard(x: np.ndarray, name: str = "x"):
    def blocks(start_s, end_s):
        part = x[round(start_s * RATE_HZ) : round(min(end_s, 1e6) * RATE_HZ)]
        yield np.stack([part, part]).astype(np.float32)

    return heard_in(name, len(x) / RATE_HZ, blocks, lambda _share: None)


def on_another_clock(x: np.ndarray, offset_s: float, ppm: float, seconds: float) -> np.ndarray:
    """What a recorder whose clock runs fast by ppm hears from offset_s on."""
    t = np.arange(int(seconds * RATE_HZ)) / RATE_HZ
    return CubicSpline(np.arange(len(x)) / RATE_HZ, x)(offset_s + t / (1 + ppm * 1e-6))


@pytest.mark.parametrize(("ppm", "offset_s"), [(23.0, 7.1234567), (-44.0, 0.5), (0.0, 12.0)])
def test_clean_horns_give_offset_and_drift(ppm, offset_s):
    scene = horns(50, 3)
    found = align(heard(scene), heard(on_another_clock(scene, offset_s, ppm, 36)))
    assert (
        found.sure
        and found.offset_s == pytest.approx(offset_s, abs=1e-3)
        and found.drift_ppm == pytest.approx(ppm, abs=3.0)
    )
    back = align(heard(on_another_clock(scene, offset_s, ppm, 36)), heard(scene))
    assert back.offset_s == pytest.approx(-offset_s * (1 + ppm * 1e-6), abs=1e-3) and back.drift_ppm == pytest.approx(
        -ppm, abs=3.0
    )


def test_noise_of_half_a_horns_strength_costs_less_than_20_ms():
    scene, rng = horns(60, 4), np.random.default_rng(1)
    other = on_another_clock(scene, 7.5, 20.0, 40)
    found = align(heard(scene + rng.normal(0, 0.1, len(scene))), heard(other + rng.normal(0, 0.1, len(other))))
    assert found.sure and found.offset_s == pytest.approx(7.5, abs=0.02)


def test_what_heard_something_else_is_never_sure():
    for seed in range(4):
        found = align(heard(horns(40, 100 + seed)), heard(horns(30, 200 + seed)))
        assert found is None or not found.sure
    silence = np.zeros(5 * RATE_HZ)
    assert (found := align(heard(silence), heard(horns(20, 1)))) is None or not found.sure
    assert fine_delay_s(np.zeros(100, np.float32), np.zeros(100, np.float32)) is None


def water(seconds: float, seed: int) -> np.ndarray:
    """Nothing but an even rush: no clap, no horn, no voice."""
    return lfilter([1], [1, -0.9], np.random.default_rng(seed).normal(0, 0.05, int(seconds * RATE_HZ)))


def in_a_room(x: np.ndarray, seed: int) -> np.ndarray:
    """What a microphone some metres off hears: 0.4 s of ringing, 15 dB over what comes straight, and as much noise of its own."""
    rng, n = np.random.default_rng(seed), int(0.4 * RATE_HZ)
    ringing = rng.normal(0, 0.08, n) * np.exp(-6.9 * np.arange(n) / n)
    ringing[0] += 0.5
    return fftconvolve(x, ringing)[: len(x)] + rng.normal(0, 0.5 * x.std(), len(x))


def test_sound_without_a_clap_is_found_by_its_phase():
    scene = water(36, 1)
    other = on_another_clock(scene, 12.345, 20.0, 20)
    found = align(heard(in_a_room(scene, 11)), heard(in_a_room(other, 12)))
    assert found.sure and found.offset_s == pytest.approx(12.345, abs=0.02)
    assert not found.places and "about +12.3" in found.words and "cannot be told" in found.words
    back = align(heard(in_a_room(other, 12)), heard(in_a_room(scene, 11)))
    assert back.sure and back.offset_s == pytest.approx(-12.345, abs=0.02)
    strange = align(heard(in_a_room(scene, 11)), heard(in_a_room(water(20, 2), 12)))
    assert strange is None or not strange.sure


def bars(count: int) -> np.ndarray:
    """The same two seconds of real drums over and over, as a machine plays them."""
    hits = [whole_sound(DATA / f"{name}.flac").mean(axis=0) for name in ("drum_snare_hard", "perc_snap", "perc_snap2")]
    bar = np.zeros(2 * RATE_HZ)
    for beat, hit in enumerate([0, 1, 0, 2, 0, 1, 1, 2]):
        at, part = beat * RATE_HZ // 4, hits[hit][: RATE_HZ // 4]
        bar[at : at + len(part)] += 0.5 * part
    return np.tile(bar, count)


@pytest.mark.parametrize(("both_db", "sure"), [(-60.0, False), (-30.0, True)])
def test_music_that_repeats_itself_is_sure_only_where_both_heard_something_else_too(both_db, sure):
    rng, music = np.random.default_rng(3), bars(20)
    around = music + rng.normal(0, 10 ** (both_db / 20), len(music))  # people, heard by both
    other = on_another_clock(around, 10.0, 15.0, 20)
    found = align(heard(around + rng.normal(0, 0.001, len(around))), heard(other + rng.normal(0, 0.001, len(other))))
    assert found.sure == sure and (found.rival_s is None) == sure
    if sure:
        assert found.offset_s == pytest.approx(10.0, abs=1e-3)
    else:  # whole bars off, and said so
        assert (abs(found.offset_s - found.rival_s) + 1.0) % 2.0 == pytest.approx(1.0, abs=0.01)
        assert "repeats itself" in found.why_unsure


def test_a_place_that_somebody_knows_helps():
    scene = np.tile(horns(12, 9, 3.0), 3)  # the same thing three times over
    part = scene[14 * RATE_HZ : 22 * RATE_HZ]
    found = align(heard(scene), heard(part), near_s=14.2, within_s=2.0)
    assert found is not None and found.offset_s == pytest.approx(14.0, abs=0.005)


def test_the_command_lays_a_recorder_beside_a_film(tmp_path, capsys):
    scene = horns(24, 5, 2.0)
    for name, x in (("cam", scene[3 * RATE_HZ : 19 * RATE_HZ]), ("rec", on_another_clock(scene, 0.0, 30.0, 23))):
        (tmp_path / f"{name}.f32").write_bytes(x.astype(np.float32).tobytes())
    raw = ["ffmpeg", "-v", "error", "-f", "f32le", "-ar", str(RATE_HZ), "-ac", "1", "-i"]
    clip = make_clip(tmp_path / "silent.mp4", frames=24 * 16, sound=False)
    film, recorder = tmp_path / "film.mov", tmp_path / "REC.wav"
    subprocess.run([*raw, tmp_path / "rec.f32", recorder], check=True)
    subprocess.run(
        [
            *raw,
            tmp_path / "cam.f32",
            "-i",
            clip,
            "-map",
            "1:v",
            "-map",
            "0:a",
            "-c:v",
            "copy",
            "-c:a",
            "pcm_s16le",
            film,
        ],
        check=True,
    )
    assert main(["sync", "--json", str(film), str(recorder)]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["offset_s"] == pytest.approx(-3.0, abs=1e-3) and told["drift_ppm"] == pytest.approx(30.0, abs=3.0)
    assert main(["sync", str(film), str(clip)]) == 2 and "has no sound" in capsys.readouterr().err
    other = tmp_path / "other.wav"
    (tmp_path / "o.f32").write_bytes(horns(20, 77).astype(np.float32).tobytes())
    subprocess.run([*raw, tmp_path / "o.f32", other], check=True)
    assert main(["sync", "--json", str(film), str(other)]) == 1
    assert json.loads(capsys.readouterr().out)["offset_s"] is None


def test_a_recorders_sound_lies_under_the_picture_to_the_sample():
    scene = horns(30, 6)
    recorder = on_another_clock(scene, 0.0, 80.0, 29)

    def blocks(start_s, end_s):
        part = recorder[round(start_s * RATE_HZ) : round(min(end_s, 1e6) * RATE_HZ)].astype(np.float32)
        yield np.stack([part, part])

    laid = on_clock(blocks, Heard(of="s", offset_s=-5.0, drift_ppm=80.0))  # the take begins 5 s into it
    sound = np.concatenate(list(laid(0.0, 20.0)), axis=1)[0]
    assert len(sound) == 20 * RATE_HZ and np.abs(sound - scene[5 * RATE_HZ : 25 * RATE_HZ]).max() < 0.02
    early = np.concatenate(list(on_clock(blocks, Heard(of="s", offset_s=1.5))(0.0, 3.0)), axis=1)
    assert (
        early.shape == (2, 3 * RATE_HZ)
        and not early[:, : RATE_HZ + RATE_HZ // 4].any()
        and early[:, 2 * RATE_HZ :].any()
    )


def test_takes_on_one_clock_keep_the_moment():
    def take(name, *heard, length=20.0):
        return Take(
            id=name, name=name, files=(TakeFile(lies="x"),), duration_s=length, width_px=1, rate_fps=25.0, heard=heard
        )

    a, b = take("a", Heard(of="b", offset_s=3.0)), take("b")
    assert same_moment(a, b, 10.0) == 7.0 and same_moment(b, a, 7.0) == 10.0 and same_moment(a, b, 1.0) is None
    c, d = (
        take("c", Heard(of="s", offset_s=-2.0, drift_ppm=50.0)),
        take("d", Heard(of="s", offset_s=-9.0, drift_ppm=50.0)),
    )
    assert same_moment(c, d, 10.0) == pytest.approx(3.0, abs=1e-6) and other_time(c.heard[0], 10.0) == pytest.approx(
        12.0006
    )
    assert same_moment(take("e"), b, 1.0) is None
