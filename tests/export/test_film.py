"""That the shape carries: parts of several takes joined, a picture in a picture, footage turned by given rotations."""

from fractions import Fraction

import numpy as np
import pytest

from glintor.export.film import Film, Packing
from glintor.export.render import RenderError, render_films
from glintor.export.strand import Strand
from glintor.media.encoding import Encoding
from glintor.media.footage import open_footage
from glintor.media.picture import write_picture
from glintor.media.probe import probe
from glintor.media.read import ClipReader
from glintor.media.sound import RATE_HZ, whole_sound
from glintor.pixels.picture import Flat, Tiled
from glintor.pixels.reproject import Reprojector
from glintor.pixels.yuv import blank
from glintor.reframing.retime import Stretch
from glintor.sphere.view import View
from tests.conftest import frame_number, make_clip, smooth_sphere

SHARP = Encoding(crf=4, preset="ultrafast")


def looking(view=View(), size=(160, 90)):
    return Flat(size, lambda _time: view)


def test_cuts_of_two_takes_and_a_photo_are_joined_with_one_rate_and_unbroken_sound(tmp_path):
    first = open_footage(make_clip(tmp_path / "a.mp4", frames=24))
    second = open_footage(make_clip(tmp_path / "b.mp4", width=640, height=320, frames=15, rate=Fraction(15)))
    write_picture(tmp_path / "c.png", smooth_sphere(256))
    strands = (
        Strand(footage=first, pictures=(looking(),), start_s=0.25, end_s=0.75),
        Strand(footage=second, pictures=(looking(),), start_s=0.0, end_s=1.0, stretches=(Stretch(start_s=0, end_s=1, backwards=True),)),
        Strand(footage=open_footage(tmp_path / "c.png"), pictures=(looking(View(yaw_deg=90)),), end_s=0.5),
    )  # fmt: skip
    film = Film(strands=strands, packings=(Packing(tmp_path / "joined.mp4", SHARP),))
    result = render_films([film])[0]
    assert result.frames == 48 and result.duration_s == pytest.approx(2.0) and not result.notes
    with ClipReader(tmp_path / "joined.mp4") as reader:
        frames = list(reader.frames())
    assert [float(f.time) for f in frames] == pytest.approx(np.arange(48) / 24)
    numbers = [frame_number(f.picture.y) for f in frames]
    assert numbers[:12] == pytest.approx(range(6, 18), abs=0.35)
    assert numbers[12:36] == pytest.approx([14 - int(n * 15 / 24 + 1e-6) for n in range(24)], abs=1.4)
    assert numbers[12] > numbers[35] + 10
    photo = Reprojector((160, 90)).draw_rgb(smooth_sphere(256), View(yaw_deg=90))
    assert abs(float(np.median(frames[-1].picture.y)) - np.median(photo @ [0.183, 0.614, 0.062] + 16)) < 3
    heard = whole_sound(tmp_path / "joined.mp4")
    assert abs(heard.shape[1] - 2 * RATE_HZ) < 0.05 * RATE_HZ
    parts = [heard[0, round(a * RATE_HZ) : round(b * RATE_HZ)] for a, b in ((0.1, 0.4), (0.7, 1.3), (1.6, 1.9))]
    assert np.abs(parts[0]).max() > 0.2 and np.abs(parts[1]).max() < 1e-3 and np.abs(parts[2]).max() < 1e-3


def test_a_joined_film_beside_a_plain_one_and_a_part_that_is_not_there(tmp_path):
    clip = open_footage(make_clip(tmp_path / "a.mp4", frames=24))
    half = Strand(footage=clip, pictures=(looking(),), end_s=0.5)
    joined = Film(strands=(half, half), packings=(Packing(tmp_path / "twice.mp4", SHARP),))
    plain = Film(strands=(half,), packings=(Packing(tmp_path / "once.mp4", SHARP),))
    results = render_films([joined, plain])
    assert [r.frames for r in results] == [24, 12] and probe(tmp_path / "twice.mp4").frames == 24
    beyond = Strand(footage=clip, pictures=(looking(),), start_s=5.0)
    with pytest.raises(RenderError, match=r"not in a\.mp4"):
        render_films([Film(strands=(half, beyond), packings=(Packing(tmp_path / "never.mp4"),))])
    assert not (tmp_path / "never.mp4").exists()


def test_a_picture_in_a_picture_is_both_pictures(tmp_path):
    write_picture(tmp_path / "a.png", smooth_sphere(512))
    footage = open_footage(tmp_path / "a.png")
    rear = looking(View(yaw_deg=180.0, fov_deg=70.0), (64, 36))
    inset = Tiled(looking().size_px, [(looking(), (0, 0)), (rear, (91, 50))])
    film = Film(
        strands=(Strand(footage=footage, pictures=(inset, looking()), end_s=0.2),),
        packings=(Packing(tmp_path / "both.mp4", SHARP), Packing(tmp_path / "plain.mp4", SHARP)),
    )
    assert render_films([film])[0].frames == 6
    with footage.reader() as reader:
        sphere, small = footage.sphere(reader.at(0.0)), blank(64, 36)
    rear.draw(sphere, 0.0, small)
    with ClipReader(tmp_path / "both.mp4") as a, ClipReader(tmp_path / "plain.mp4") as b:
        both, plain = a.at(0.0).picture, b.at(0.0).picture
    assert np.abs(both.y[50:86, 90:154].astype(int) - small.y).mean() < 1.5
    assert np.abs(both.u[25:43, 45:77].astype(int) - small.u).mean() < 1.5
    outside = np.ones(both.y.shape, bool)
    outside[44:92, 84:160] = False
    assert np.abs(both.y.astype(int) - plain.y)[outside].mean() < 1.0
    with pytest.raises(ValueError, match="does not lie inside"):
        Tiled(looking().size_px, [(rear, (120, 50))])
