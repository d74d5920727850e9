"""What lies in a picture and how, of recordings that ffmpeg laid out from a CC0 photograph: what a filmer would say of each was
written down first."""

import subprocess
from pathlib import Path

import av
import cv2
import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from glintor.media.footage import open_footage
from glintor.media.probe import probe
from glintor.media.read import ClipReader
from glintor.media.reading import read_one
from glintor.media.taken import TakenAs
from glintor.pixels import colour
from glintor.pixels.picture import Flat, drawn, steady
from glintor.pixels.reproject import Filter
from glintor.pixels.wide import moves_as, quick_look
from glintor.sphere.view import View
from tests import foreign
from tests.conftest import DATA, cut_off, psnr

_ROUND = "v360=e:fisheye:h_fov=190:v_fov=190:w=320:h=320,geq=lum='if(lt(hypot(X-159.5,Y-159.5),157),lum(X,Y),16)'"
_EYES = "scale=640:320,split[a][b];[b]v360=e:e:yaw=0.8[c];[a][c]"
_TWO = "v360=e:dfisheye:h_fov=190:v_fov=190:w=640:h=320"
LAID = {  # ffmpeg's filter, what it is taken for, and whether without a question
    "a sphere": ("scale=640:320", "sphere", "", True),
    "a sphere with black poles": ("scale=640:320,drawbox=0:0:640:24:black:fill,drawbox=0:296:640:24:black:fill", "sphere", "", True),
    "a sphere in 16:9": ("scale=640:320,pad=640:360:0:20", "sphere", "boxed", None),
    "a sphere in a wider film": ("scale=640:320,pad=960:320:160:0", "sphere", "boxed", None),
    "two spheres, one over the other": (f"{_EYES}vstack", "sphere", "over", True),
    "the same pressed flat": (f"{_EYES}vstack,scale=640:320", "sphere", "over", True),
    "two spheres side by side": (f"{_EYES}hstack", "sphere", "beside", True),
    "half of a sphere for each eye": (
        "v360=e:hequirect:w=320:h=320,split[a][b];[b]v360=hequirect:hequirect:yaw=1[c];[a][c]hstack", "sphere", "half-beside", False,
    ),
    "a circle in 16:9": (f"{_ROUND},pad=640:360:160:20", "one-lens", "lens", True),
    "two circles in 16:9": (f"{_ROUND},split[a][b];[a][b]hstack,pad=640:360:0:20", "two-lenses", "side", True),
    "two lenses without dark corners": (_TWO, "two-lenses", "side", False),
    "those in 16:9": (f"{_TWO},pad=640:360:0:20", "two-lenses", "side", False),
    "a square between bars": ("v360=e:fisheye:h_fov=190:v_fov=190:w=360:h=360,pad=640:360:140:0", "one-lens", "lens", False),
    "six sides of a cube, three by two": ("v360=e:c3x2:w=720:h=480", "flat", "", False),
    "six sides in a row": ("v360=e:c6x1:w=960:h=160", "flat", "", False),
    "six sides of even angles": ("v360=e:eac:w=640:h=360", "flat", "", False),
    "a flat film": ("v360=e:flat:h_fov=90:v_fov=58:w=640:h=360", "flat", "", True),
    "a flat film in bars": ("v360=e:flat:h_fov=100:v_fov=61:w=640:h=320,pad=640:360:0:20", "flat", "", False),
    "a flat film of 3:2": ("v360=e:flat:h_fov=90:v_fov=67:w=720:h=480", "flat", "", True),
}  # fmt: skip


def _laid(file: Path, filters: str, *more: str) -> Path:
    noise = "noise=alls=3:allf=t"
    command = [
        "ffmpeg",
        "-v",
        "error",
        "-y",
        "-loop",
        "1",
        "-i",
        str(DATA / "forest-sphere.jpg"),
        "-t",
        "0.2",
        "-r",
        "25",
    ]
    coding = ["-c:v", "libx264", "-preset", "veryfast", "-crf", "18", "-pix_fmt", "yuv420p"]
    subprocess.run(
        [*command, "-vf", f"{filters},{noise}", *coding, *more, str(file)], check=True, stdin=subprocess.DEVNULL
    )
    return file


@pytest.mark.parametrize("name", LAID)
def test_what_lies_in_a_picture_is_recognised_or_asked(tmp_path, name):
    filters, kind, told, sure = LAID[name]
    one = read_one(_laid(tmp_path / "film.mp4", filters))
    assert (one.reading, one.told) == (kind, told), one.why
    assert sure is None or one.sure is sure, one.why
    assert one.sure or "?" in one.why or one.also


@pytest.mark.parametrize(
    ("filters", "told"),
    [
        (f"{_EYES}vstack", "over"),
        (f"{_EYES}hstack", "beside"),
        (f"{_EYES}vstack,scale=640:320", "over"),
        ("scale=640:320,pad=640:360:0:20", "boxed"),
    ],
)
def test_the_sphere_in_a_picture_is_drawn_as_if_it_were_alone(tmp_path, filters, told):
    plain = _seen(_laid(tmp_path / "plain.mp4", "scale=640:320"), "")
    assert psnr(_seen(_laid(tmp_path / "in.mp4", filters), told), plain) > 30.0
    assert psnr(_seen(tmp_path / "in.mp4", "sphere"), plain) < 22.0  # taken as a whole it would be another picture


def _seen(file: Path, told: str) -> np.ndarray:
    footage = open_footage(file, TakenAs(told))
    with footage.reader() as reader:
        sphere = footage.sphere(reader.at(0.0))
    view = View(yaw_deg=30.0, pitch_deg=5.0, fov_deg=80.0)
    return colour.rgb(drawn(Flat((320, 180), steady(view), Filter.FAST, shows=footage.shows), sphere))


def test_metadata_of_other_containers_and_of_two_eyes_are_read(tmp_path):
    """Boxes and elements as ffmpeg writes them, from a film that the open reference code marked."""
    command = ["ffmpeg", "-v", "error", "-y", "-i", str(DATA / "reference_injector_v2.mp4"), "-c", "copy"]
    subprocess.run([*command, str(tmp_path / "plain.mkv")], check=True)
    assert probe(tmp_path / "plain.mkv").said.whole == (True, True) and not probe(tmp_path / "plain.mkv").eyes
    for number, (mode, eyes, size) in enumerate(
        (("top_bottom", "over", (512, 128)), ("left_right", "beside", (256, 256)))
    ):
        mkv, mp4 = tmp_path / f"{number}.mkv", tmp_path / f"{number}.mp4"
        subprocess.run([*command, "-metadata:s:v:0", f"stereo_mode={mode}", str(mkv)], check=True)
        again = ["ffmpeg", "-v", "error", "-y", "-i", str(mkv), "-c", "copy", "-strict", "unofficial", str(mp4)]
        subprocess.run(again, check=True)
        for file in (mkv, mp4):
            assert probe(file).eyes == eyes and open_footage(file).size_px == size
            one = read_one(file)
            assert one.reading == "sphere" and one.sure and "eye" in one.why


@pytest.mark.parametrize("ending", ["mp4", "mkv"])
def test_a_film_whose_end_is_missing_is_as_long_as_what_is_there(tmp_path, ending):
    flags = ("-movflags", "+faststart") if ending == "mp4" else ()
    whole = _laid(tmp_path / f"whole.{ending}", "scale=640:320,loop=100:1:0", "-g", "5", "-t", "4", *flags)
    assert not read_one(whole).faults and read_one(whole).duration_s == pytest.approx(4.0, abs=0.1)
    cut = tmp_path / f"cut.{ending}"
    content = whole.read_bytes()
    cut.write_bytes(cut_off(whole, 0.6) if ending == "mp4" else content[: len(content) * 6 // 10])
    one = read_one(cut)
    assert one.reading == "sphere" and "its end is missing: its index tells of 4.0 s" in one.faults[0]
    with ClipReader(cut) as reader:
        last = max(float(frame.until) for frame in reader.frames())
    assert one.duration_s == pytest.approx(last, abs=0.13) and 1.0 < one.duration_s < 3.0


def test_a_header_that_turns_the_picture_is_said(tmp_path):
    for words, filters in (("flat", "v360=e:flat:h_fov=90:v_fov=58:w=640:h=360"), ("sphere", "scale=640:320")):
        plain, turned = _laid(tmp_path / f"{words}.mp4", filters), tmp_path / f"{words}-turned.mp4"
        with av.open(str(plain)) as source, av.open(str(turned), "w") as target:
            stream = target.add_stream_from_template(source.streams.video[0])
            stream.set_display_rotation(-90 if words == "flat" else 180)
            for packet in source.demux(video=0):
                if packet.dts is not None:
                    packet.stream = stream
                    target.mux(packet)
        one = read_one(turned)
        assert one.reading == words and "its header turns its pictures" in one.why
        assert (one.size_px == (360, 640) and one.sure) if words == "flat" else not one.sure


def test_how_a_picture_moves_tells_a_wide_lens_from_a_flat_one():
    """Runs of three pictures while the camera turns by 6 degrees: of an equidistant lens 160 degrees across, and of a straight one."""
    world = foreign.World()
    for wide in (True, False):
        run = []
        for yaw in (0.0, 3.0, 6.0):
            x, y = np.meshgrid((np.arange(640) - 319.5) / 320.0, -(np.arange(360) - 179.5) / 320.0)
            radius = np.maximum(np.hypot(x, y), 1e-9)
            off = radius * np.radians(80.0) if wide else np.arctan(radius)
            looks = np.stack([x / radius * np.sin(off), y / radius * np.sin(off), np.cos(off)], -1)
            picture = world.at(looks @ foreign.turn(yaw, 0.5 * yaw, 0.0).T)
            run.append((picture.mean(axis=-1).astype(np.uint8),))
        for moments in (run, run[:2]):
            assert quick_look(moments) == ("wide" if wide else "flat")
    assert quick_look(run[:1] * 3) == "still"
    for moved_px, said in (
        (0.25, "still"),
        (0.35, "unknown"),
        (1.9, "unknown"),
        (2.1, "flat"),
    ):  # limits: 0.31 and 2 of 640
        shift = np.array([[1.0, 0.0, moved_px], [0.0, 1.0, 0.0]])
        moved = cv2.warpAffine(run[0][0], shift, (640, 360), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT)
        assert quick_look([run[0], (moved,)]) == said


@pytest.mark.parametrize(
    ("yaw_deg", "roll_deg", "off_px", "said"),
    [
        (3.0, 0.0, 0.94, "flat"),  # a fifth of what moves by 19.22 px is off by 4.9 %, and by 5.1
        (3.0, 0.0, 0.98, "mixed"),
        (0.0, 3.0, 0.2, "mixed"),  # flat pictures and fisheyes roll alike
        (0.1, 3.0, 0.2, "mixed"),  # fisheyes fit 1.97 times worse, and 2.18
        (0.11, 3.0, 0.2, "flat"),
    ],
)
def test_a_flat_picture_is_proven_by_what_no_fisheye_shows(yaw_deg, roll_deg, off_px, said):
    """Points of a straight lens 100 degrees across, by projective geometry, before and after a turn."""
    y, x = np.mgrid[20:340:12j, 20:620:20j]
    before = np.stack([x.ravel(), y.ravel()], axis=1)
    focal = 320.0 / np.tan(np.radians(50.0))
    looks = np.column_stack([(before - [319.5, 179.5]) / focal, np.ones(len(before))])
    turned = looks @ Rotation.from_euler("yz", [yaw_deg, roll_deg], degrees=True).as_matrix().T
    after = turned[:, :2] / turned[:, 2:] * focal + [319.5, 179.5]
    after[::5, 1] += off_px * np.where(np.arange(len(after[::5])) % 2, 1, -1)
    assert moves_as(before, after, (640, 360)) == said


@pytest.mark.parametrize("wide", [True, False])
def test_a_film_that_does_not_turn_is_not_said_to_be_of_a_flat_lens(tmp_path, wide):
    """A camera that stands: nothing tells a wide lens without a circle from a flat one, and that is said."""
    lens = "fisheye:h_fov=150:v_fov=150:w=640:h=640,crop=640:360" if wide else "flat:h_fov=90:v_fov=58:w=640:h=360"
    standing = read_one(_laid(tmp_path / "standing.mp4", f"v360=e:{lens}", "-t", "1.5"))
    assert standing.reading == "flat" and "nothing moved, so it may be a wide lens's" in standing.why


def test_a_film_of_one_key_frame_is_not_said_to_stand(tmp_path):
    """Its middle cannot be looked at without all that goes before: its first picture, twice, proves nothing."""
    pan = "v360=e:flat:h_fov=90:v_fov=58:w=960:h=540,loop=-1:1:0,crop=640:360:'200*t':90"
    turning = read_one(_laid(tmp_path / "turning.mp4", pan, "-t", "1.5", "-g", "300"))
    assert turning.reading == "flat" and turning.why.endswith("; it moves as a flat picture does")
