"""Films whose speed changes: which frames they show, how long they last, what is heard."""

import threading
from fractions import Fraction

import numpy as np
import pytest

from glintor.export.film import Film, Output, film_of
from glintor.export.render import render_films
from glintor.export.sound import film_sound
from glintor.media.encoding import Encoding
from glintor.media.footage import open_footage
from glintor.media.read import ClipReader
from glintor.media.sound import RATE_HZ, whole_sound
from glintor.reframing.course import Course
from glintor.reframing.path import Keyframe, ViewPath
from glintor.reframing.retime import Stretch, Timeline
from tests.conftest import frame_number, make_clip

STILL = Course(ViewPath([Keyframe(time_s=0.0)]))


def film(clip, target, *stretches, **options) -> Film:
    output = Output(target=target, size_px=(160, 90), course=STILL, encoding=Encoding(crf=6, preset="ultrafast"))
    return film_of(open_footage(clip), [output], stretches=stretches, **options)


def shown(path) -> list[float]:
    """The clip's frame number that each film frame shows; a mean shows the mean number."""
    with ClipReader(path) as reader:
        return [frame_number(d.picture.y) for d in reader.frames()]


@pytest.fixture
def ladder(tmp_path):
    return make_clip(tmp_path / "in.mp4", frames=24)


@pytest.mark.parametrize(
    ("stretch", "average", "numbers"),
    [
        (Stretch(start_s=0, end_s=1, speed=4), False, [0, 4, 8, 12, 16, 20]),
        (Stretch(start_s=0, end_s=1, speed=4), True, [1.5, 5.5, 9.5, 13.5, 17.5, 21.5]),
        (Stretch(start_s=0, end_s=1, speed=0.5), False, [n // 2 for n in range(48)]),
        (Stretch(start_s=0, end_s=1, speed=0.5), True, [n // 2 for n in range(48)]),
        (Stretch(start_s=0, end_s=1, backwards=True), True, list(range(23, -1, -1))),
        (Stretch(start_s=0, end_s=1, speed=2, backwards=True), True, [22.5 - 2 * n for n in range(12)]),
        (Stretch(start_s=0.5, end_s=0.5, freeze_s=0.25), True, [*range(12), *[12] * 6, *range(12, 24)]),
        (Stretch(start_s=0.25, end_s=0.75, speed=3), True, [*range(6), 7, 10, 13, 16, *range(18, 24)]),
        (Stretch(start_s=0.25, end_s=0.75, backwards=True), False, [*range(6), *range(17, 5, -1), *range(18, 24)]),
    ],
)
def test_each_film_frame_shows_the_right_frames(tmp_path, ladder, stretch, average, numbers):
    result = render_films([film(ladder, tmp_path / "out.mp4", stretch, average=average)])[0]
    assert result.frames == len(numbers) and result.duration_s == pytest.approx(len(numbers) / 24)
    assert shown(tmp_path / "out.mp4") == pytest.approx(numbers, abs=0.35)


@pytest.mark.parametrize("speed", [40, 48, 60, 64])
@pytest.mark.parametrize("backwards", [False, True])
def test_at_any_speed_every_film_frame_is_the_mean_of_what_it_skips(tmp_path, speed, backwards):
    """Above x50 each frame of the clip is less than a fiftieth of a film frame."""
    clip = make_clip(tmp_path / "long.mp4", frames=240, sound=False)
    stretch = Stretch(start_s=0, end_s=10, speed=speed, backwards=backwards)
    result = render_films([film(clip, tmp_path / "out.mp4", stretch)])[0]
    tones = 30.0 + (np.arange(240) * 7) % 200
    tones = tones[::-1] if backwards else tones
    assert result.frames == -(-240 // speed)
    with ClipReader(tmp_path / "out.mp4") as reader:
        seen = [float(np.median(d.picture.y)) for d in reader.frames()]
    assert seen == pytest.approx([tones[n * speed : (n + 1) * speed].mean() for n in range(-(-240 // speed))], abs=2.5)


def test_a_ramp_shows_what_its_timeline_says(tmp_path, ladder):
    ramp = Stretch(start_s=0, end_s=1, speed=1, end_speed=3)
    render_films([film(ladder, tmp_path / "out.mp4", ramp, average=False)])
    wanted = np.floor(Timeline(0, 1, [ramp]).schedule(24).opens_s * 24 + 1e-3)
    assert shown(tmp_path / "out.mp4") == pytest.approx(list(wanted), abs=0.35)


def test_several_cuts_come_from_one_decode(tmp_path, ladder, monkeypatch):
    """Three films of different parts and speeds, and one backwards, which alone needs a second pass."""
    decoded = []
    runs = ClipReader.runs

    def counted(self, start_s, end_s, *, backwards=False):
        decoded.append((start_s, end_s, backwards))
        return runs(self, start_s, end_s, backwards=backwards)

    monkeypatch.setattr(ClipReader, "runs", counted)
    back = Stretch(start_s=0, end_s=1, backwards=True)
    films = [
        film(ladder, tmp_path / "a.mp4", start_s=0.0, end_s=0.5),
        film(ladder, tmp_path / "b.mp4", start_s=0.25, end_s=1.0),
        film(ladder, tmp_path / "c.mp4", Stretch(start_s=0, end_s=1, speed=2), average=False),
        film(ladder, tmp_path / "d.mp4", back),
    ]
    results = render_films(films)
    assert [r.frames for r in results] == [12, 18, 12, 24]
    assert [way for *_, way in decoded if way] == [True]
    assert (
        len([1 for start, end, way in decoded if not way and end - start > 0.8]) <= 2
    )  # the pass, and inside backwards
    assert shown(tmp_path / "b.mp4") == pytest.approx(range(6, 24), abs=0.35)
    assert shown(tmp_path / "c.mp4") == pytest.approx(range(0, 24, 2), abs=0.35)
    assert shown(tmp_path / "d.mp4") == pytest.approx(range(23, -1, -1), abs=0.35)


def test_skipping_far_ahead_seeks_instead_of_decoding(tmp_path):
    source = make_clip(tmp_path / "long.mp4", width=64, height=32, frames=28 * 24, rate=Fraction(24), sound=False)
    result = render_films([film(source, tmp_path / "out.mp4", Stretch(start_s=0, end_s=28, speed=56), average=False)])[
        0
    ]
    assert result.frames == 12
    wanted = [(n * 56 * 7) % 200 / 7 for n in range(12)]
    assert shown(tmp_path / "out.mp4") == pytest.approx(wanted, abs=0.4)


def test_pitch_is_kept_and_length_is_exact(ladder, tmp_path):
    """A tone of 440 Hz at 1.5 and 0.75 times; outside 1/2 to 2 and backwards it is silent."""
    for speed in (1.5, 0.75):
        line = Timeline(0, 1, [Stretch(start_s=0, end_s=1, speed=speed)])
        sound = np.concatenate(list(film_sound(open_footage(ladder).sound, line)), axis=1)
        assert sound.shape[1] == round(line.duration_s * RATE_HZ)
        middle = sound[0, 8000:24000] * np.hanning(16000)
        assert np.argmax(np.abs(np.fft.rfft(middle))) * RATE_HZ / 16000 == pytest.approx(440, abs=6)
    line = Timeline(0, 1, [Stretch(start_s=0, end_s=1, speed=1, end_speed=2)])
    assert sum(b.shape[1] for b in film_sound(open_footage(ladder).sound, line)) == round(line.duration_s * RATE_HZ)
    for quiet in (Stretch(start_s=0, end_s=1, speed=4), Stretch(start_s=0, end_s=1, backwards=True)):
        blocks = list(film_sound(open_footage(ladder).sound, Timeline(0, 1, [quiet])))
        assert not np.concatenate(blocks, axis=1).any()


def test_sound_is_muted_or_left_out_where_asked(tmp_path, ladder):
    slow = Stretch(start_s=0, end_s=1, speed=0.8)
    render_films([film(ladder, tmp_path / f"{how}.mp4", slow, sound=how) for how in ("pitch", "mute", "none")])
    loud, muted, none = (whole_sound(tmp_path / f"{how}.mp4") for how in ("pitch", "mute", "none"))
    assert np.abs(loud).max() > 0.2 and muted.shape[1] > 0 and np.abs(muted).max() < 1e-3 and none.shape[1] == 0


def test_progress_reaches_the_end_and_stops_when_asked(tmp_path, ladder):
    shares: list[float] = []
    render_films(
        [film(ladder, tmp_path / "out.mp4", Stretch(start_s=0, end_s=1, backwards=True))], report=shares.append
    )
    assert shares == sorted(shares) and shares[-1] == pytest.approx(1.0, abs=0.05)
    assert not [t for t in threading.enumerate() if t.name in ("decode", "encode")]
