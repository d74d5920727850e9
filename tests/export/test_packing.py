"""How films and stills are packed, checked with ffprobe and by reading them again."""

from fractions import Fraction

import cv2
import numpy as np
import pytest
from msgspec.structs import replace

from glintor.errors import InputError
from glintor.export.film import Output
from glintor.export.render import render
from glintor.export.still import still
from glintor.media.encoding import CODECS, Encoding
from glintor.media.footage import open_footage
from glintor.media.picture import read_sphere
from glintor.media.read import ClipReader
from glintor.media.taken import TakenAs
from glintor.media.write import FilmWriter
from glintor.pixels.yuv import ColourTags
from glintor.reframing.course import Course
from glintor.reframing.path import Keyframe, ViewPath
from glintor.sphere.equirect import HALF, Coverage
from glintor.sphere.view import View
from tests.conftest import DATA, ffprobe, psnr

PATH = Course(ViewPath([Keyframe(time_s=0.0, fov_deg=80.0, bend=0.0)]))


def slope_clip(path, *, codec="h264", tags=ColourTags(), size=(320, 160)):
    """Eight frames: brightness rises to the right, colour downwards; each plane at the depth of its packing."""
    writer = FilmWriter(
        path, size, rate=Fraction(24), time_base=Fraction(1, 24), encoding=Encoding(crf=2, codec=codec), tags=tags,
        source_bits=10 if codec == "ffv1" else 8,
    )  # fmt: skip
    for number in range(8):
        frame, planes = writer.new_frame()
        unit = 2 ** (planes.bits - 8)
        planes.y[:] = np.linspace(40 * unit, 200 * unit, size[0])
        planes.u[:] = np.linspace(90 * unit, 160 * unit, planes.u.shape[0])[:, None]
        planes.v[:] = 128 * unit
        writer.write(frame, number, Fraction(1, 24))
    writer.close(8 / 24)
    return path


def output(target, codec="h264", **options):
    return Output(target=target, size_px=(160, 90), course=PATH, encoding=Encoding(crf=2, codec=codec, **options))


@pytest.mark.parametrize(
    ("codec", "name", "pixels"),
    [
        ("h264", "h264", "yuv420p"), ("h265", "hevc", "yuv420p"), ("h265-10", "hevc", "yuv420p10le"),
        ("prores", "prores", "yuv422p10le"), ("ffv1", "ffv1", "yuv420p"),
    ],
)  # fmt: skip
def test_each_packing_holds_the_same_picture(tmp_path, clip, codec, name, pixels):
    source = slope_clip(tmp_path / "in.mp4")
    out = tmp_path / f"out{CODECS[codec].suffix}"
    render(source, [output(tmp_path / "plain.mp4"), output(out, codec)])
    assert ffprobe(out, "stream=codec_name,pix_fmt")[:2] == [name, pixels]
    with ClipReader(out) as one, ClipReader(tmp_path / "plain.mp4") as two:
        a, b = next(one.frames()).picture, next(two.frames()).picture
    unit = 2.0 ** (a.bits - 8)
    assert psnr(a.y / unit, b.y) > 58.0
    for plane, other in ((a.u, b.u), (a.v, b.v)):
        assert psnr(cv2.resize(plane / unit, other.shape[::-1], interpolation=cv2.INTER_AREA), other) > 55.0
    if codec == "prores":
        assert ffprobe(out, "stream=profile")[0] == "HQ"


def test_ten_bits_stay_ten_bits(tmp_path):
    """More than 256 levels of grey survive from a deep source to a deep film and a deep still."""
    source = slope_clip(tmp_path / "in.mov", codec="prores", size=(1280, 640))
    for codec in ("h265-10", "ffv1"):
        out = tmp_path / f"out{CODECS[codec].suffix}"
        render(source, [Output(target=out, size_px=(640, 360), course=PATH, encoding=Encoding(crf=2, codec=codec))])
        with ClipReader(out) as reader:
            picture = next(reader.frames()).picture
        assert picture.bits == 10 and np.ptp(picture.y[180]) < len(np.unique(picture.y[180])) * 2.5
    still(source, View(fov_deg=80, bend=0), (640, 360), tmp_path / "deep.tif")
    deep = cv2.imread(str(tmp_path / "deep.tif"), cv2.IMREAD_UNCHANGED)
    assert deep.dtype == np.uint16 and (np.unique(deep[180, :, 1] % 257).size > 50)


@pytest.mark.parametrize("full", [False, True])
@pytest.mark.parametrize("matrix", ["bt709", "bt601"])
@pytest.mark.parametrize("codec", ["h264", "h265", "ffv1"])
def test_range_and_matrix_are_carried_through(tmp_path, full, matrix, codec):
    source = slope_clip(tmp_path / "in.mp4", tags=ColourTags(matrix, full, 9, 16))
    out = tmp_path / f"out{CODECS[codec].suffix}"
    render(source, [output(out, codec)])
    said = ffprobe(out, "stream=color_range,color_space,color_transfer,color_primaries")
    assert said[:4] == ["pc" if full else "tv", "bt709" if matrix == "bt709" else "smpte170m", "smpte2084", "bt2020"]
    with ClipReader(out) as reader:
        picture = next(reader.frames()).picture
    assert (picture.tags.full_range, picture.tags.matrix) == (full, matrix)
    assert picture.y[45, 80] == pytest.approx(120, abs=2)  # codes are not stretched on the way


def test_a_still_has_the_clips_colours(tmp_path):
    """Full and limited range of the same brightness give different codes, and the right ones: (Y - 16) 255 / 219."""
    for full, wanted in ((True, 120), (False, (120 - 16) * 255 / 219)):
        source = slope_clip(tmp_path / f"{full}.mp4", tags=ColourTags("bt709", full))
        still(source, View(fov_deg=80, bend=0), (160, 90), tmp_path / "a.png")
        assert cv2.imread(str(tmp_path / "a.png"))[45, 80].mean() == pytest.approx(wanted, abs=4)


def test_pcm_only_where_players_take_it(tmp_path, clip):
    with pytest.raises(InputError, match="PCM"):
        Encoding(pcm=True)
    render(clip, [output(tmp_path / "out.mov", "prores", pcm=True)])
    assert ffprobe(tmp_path / "out.mov", "stream=codec_name", "a:0")[0] == "pcm_s24le"
    with pytest.raises(InputError, match=r"\.mkv"):
        render(clip, [output(tmp_path / "out.mp4", "ffv1")])


@pytest.mark.parametrize("kind", ["png", "jpg", "tif"])
def test_stills_of_light_are_tone_mapped_and_exr_keeps_it(tmp_path, kind):
    view = View(yaw_deg=20, fov_deg=90)
    still(DATA / "bridge-light.exr", view, (320, 180), tmp_path / f"a.{kind}")
    plain = cv2.imread(str(tmp_path / f"a.{kind}"))
    assert 40 < plain.mean() < 180
    still(DATA / "bridge-light.exr", view, (320, 180), tmp_path / "a.exr")
    light = cv2.imread(str(tmp_path / "a.exr"), cv2.IMREAD_UNCHANGED)
    assert light.dtype == np.float32 and np.isfinite(light).all() and light.max() > 1.5
    with pytest.raises(InputError, match="linear light"):
        still(DATA / "forest-sphere.jpg", view, (320, 180), tmp_path / "b.exr")


def test_halves_and_crops_show_their_part_and_grey_elsewhere(tmp_path):
    """A half behaves as the sphere whose rear is missing; a crop lands where its metadata puts it."""
    sphere, _ = read_sphere(DATA / "forest-sphere.jpg")
    height, width = sphere.shape[:2]
    cv2.imwrite(str(tmp_path / "half.png"), sphere[:, width // 4 : width - width // 4, ::-1])
    cv2.imwrite(str(tmp_path / "low.png"), sphere[height // 2 :, :, ::-1])
    low = Coverage(lat_deg=90, centre_lat_deg=-45)
    for name, told, view in (("half.png", HALF, View(yaw_deg=30, fov_deg=70)), ("low.png", low, View(pitch_deg=-60))):
        still(DATA / "forest-sphere.jpg", view, (320, 180), tmp_path / "whole-out.png", taken_as=TakenAs("sphere"))
        part = replace(open_footage(tmp_path / name, TakenAs("sphere")), shows=told)
        still(part, view, (320, 180), tmp_path / "part-out.png")
        assert psnr(cv2.imread(str(tmp_path / "whole-out.png")), cv2.imread(str(tmp_path / "part-out.png"))) > 90.0
    still(
        tmp_path / "half.png",
        View(yaw_deg=180, fov_deg=70),
        (320, 180),
        tmp_path / "rear.png",
        taken_as=TakenAs("half"),
    )
    assert (cv2.imread(str(tmp_path / "rear.png")) == 138).all()


def test_a_photo_of_12000_by_6000_goes_through(tmp_path):
    cv2.imwrite(str(tmp_path / "large.jpg"), np.tile(np.linspace(0, 255, 12000, dtype=np.uint8), (6000, 1)))
    still(tmp_path / "large.jpg", View(fov_deg=60, bend=0), (320, 180), tmp_path / "a.png")
    assert cv2.imread(str(tmp_path / "a.png"))[90, 160, 0] == pytest.approx(127, abs=2)


@pytest.mark.parametrize(
    ("encoder", "pixels", "suffix"),
    [
        ("libx264", "yuv420p10le", "mp4"), ("libx265", "yuv420p10le", "mp4"), ("libx264", "yuv444p", "mp4"),
        ("prores_ks", "yuv422p10le", "mov"), ("libvpx-vp9", "yuv420p", "webm"), ("libsvtav1", "yuv420p", "mp4"),
    ],
)  # fmt: skip
def test_sources_of_every_usual_kind_give_the_same_frame(tmp_path, encoder, pixels, suffix):
    """A picture that is dark on the left and bright on the right, packed by each encoder, then reframed."""
    import av

    source = tmp_path / f"in.{suffix}"
    slope = np.tile(np.linspace(40, 200, 320, dtype=np.uint8), (160, 1))
    with av.open(str(source), "w") as container:
        stream = container.add_stream(encoder, rate=24)
        stream.width, stream.height, stream.pix_fmt = 320, 160, pixels
        stream.codec_context.bit_rate = 4_000_000
        for _ in range(6):
            flat = np.concatenate([slope.ravel(), np.full(2 * 160 * 80, 128, np.uint8)]).reshape(240, 320)
            frame = av.VideoFrame.from_ndarray(flat, format="yuv420p").reformat(format=pixels)
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    result = render(source, [output(tmp_path / "out.mp4")])
    assert result.frames == 6 and result.notes == ()
    with ClipReader(tmp_path / "out.mp4") as reader:
        row = next(reader.frames()).picture.y[45].astype(float)
    assert row[80] == pytest.approx(120, abs=2) and row[150] - row[10] == pytest.approx(38, abs=5)
