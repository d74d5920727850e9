"""Series of exposures merged, against the light that they were made from, OpenCV's own merge, and spoilt series."""

import warnings
from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image
from scipy.spatial.transform import Rotation

from glintor.cli import main
from glintor.errors import InputError
from glintor.exposure.bracket import OVERLAP_STOPS, planned
from glintor.exposure.frame_light import histogram, read_frame, reading_of
from glintor.exposure.hdr import merge_series
from glintor.exposure.metering import LUMA
from glintor.exposure.modes import MODES
from glintor.exposure.solve import Sensor
from glintor.exposure.white import daylight_xy, white_of_patch, white_rgb
from glintor.media.picture import read_sphere, write_picture
from glintor.pixels.curves import guessed, linear_of
from glintor.simulation.sensor import log_curve
from glintor.sphere.equirect import direction, lonlat_of_pixel
from tests.exposure.test_schools import steady

DATA = Path(__file__).parents[1] / "data"
SIZE = (1024, 512)


def scene():
    """Light of a real place (its licence stands beside it), its log mean at 0.18."""
    light = np.maximum(read_sphere(DATA / "bridge-light.exr")[0].astype(np.float32), 1e-5)
    light = cv2.resize(light, SIZE, interpolation=cv2.INTER_CUBIC).clip(1e-5)
    return light * np.float32(0.18 / np.exp(np.log(light).mean()))


def turned(light, turn):
    looks = direction(*lonlat_of_pixel(*np.meshgrid(np.arange(SIZE[0]), np.arange(SIZE[1])), *SIZE)) @ turn.as_matrix()
    u = ((np.arctan2(-looks[..., 1], looks[..., 0]) / (2 * np.pi) + 0.5) * SIZE[0] - 0.5).astype(np.float32)
    v = ((0.5 - np.arcsin(looks[..., 2].clip(-1, 1)) / np.pi) * SIZE[1] - 0.5).astype(np.float32)
    return cv2.remap(light, u, v, cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP)


def series(folder, stops=(-4, -2, 0, 2, 4), *, turns=None, exif=True, light=None, ghost=None):
    light = scene() if light is None else light
    files = []
    for number, stop in enumerate(stops):
        seen = light if turns is None else turned(light, turns[number])
        if ghost is not None and number == ghost:
            seen = seen.copy()
            seen[200:260, 300:360] *= 0.25
        x = np.clip(seen * np.float32(2.0**stop), 0.0, 1.0)
        code = np.where(x <= 0.0031308, 12.92 * x, 1.055 * x ** (1 / 2.4) - 0.055)
        told = Image.Exif()
        if exif:
            told.get_ifd(0x8769).update({0x829A: 2.0**stop / 60.0, 0x829D: 2.0, 0x8827: 100})
        files.append(folder / f"b{number}.png")
        Image.fromarray((code * 255 + 0.5).astype(np.uint8)).save(files[-1], exif=told.tobytes())
    return files, light


def held(light, stops):
    """Where some frame exposes all colours well: between 3 % and 85 % of full scale."""
    return np.any([(light.min(axis=2) * 2.0**s > 0.03) & (light.max(axis=2) * 2.0**s < 0.85) for s in stops], axis=0)


def test_a_series_of_known_light_merges_within_a_twentieth_of_a_stop(tmp_path):
    files, light = series(tmp_path)
    merged = merge_series(files)
    good = held(light, (-4, -2, 0, 2, 4))
    off = np.abs(np.log2(merged.light[good] / light[good]))
    assert good.mean() > 0.8 and np.percentile(off, 99.5) < 0.05
    assert [f.stops for f in merged.frames] == pytest.approx([-4, -2, 0, 2, 4], abs=1e-3)
    edge, inner = (
        np.median(np.abs(np.log2(merged.light[:, a] / merged.light[:, b]))) for a, b in ((0, -1), (300, 301))
    )
    assert edge < 2.0 * inner + 0.05  # no seam where left and right meet
    for row in (0, -1):  # nor at the poles
        off = np.abs(np.log2((merged.light[row] @ LUMA) / (light[row] @ LUMA)))[good[row]]
        assert off.size == 0 or np.percentile(off, 95) < 0.05


def test_it_agrees_with_opencvs_merge_of_the_same_series(tmp_path):
    """Debevec and Malik's as OpenCV has it, with the same times and the curve of the files."""
    files, _ = series(tmp_path)
    mine = merge_series(files)
    response = np.repeat(linear_of(np.arange(256) / 255.0, "display").clip(1e-6)[:, None, None], 3, axis=2)
    pictures = [cv2.imread(str(f)) for f in files]
    theirs = cv2.createMergeDebevec().process(pictures, np.float32(2.0 ** np.array([-4, -2, 0, 2, 4])), response)[
        ..., ::-1
    ]
    a, b = mine.light @ LUMA.astype(np.float32), theirs @ LUMA.astype(np.float32)
    both = np.isfinite(b) & (b > 0.01) & (b < 8.0)
    off = np.log2(a[both] / b[both])
    assert np.percentile(np.abs(off - np.median(off)), 90) < 0.1
    fused = cv2.createMergeMertens().process(pictures)
    assert np.corrcoef(np.log(a.ravel() + 1e-4), cv2.cvtColor(fused, cv2.COLOR_BGR2GRAY).ravel())[0, 1] > 0.8


def test_a_held_series_is_turned_back_and_its_exposures_found(tmp_path):
    """Turned by up to 2 degrees about all axes, without EXIF: angles within 0.05 degrees, exposures within 0.1 stop."""
    rng = np.random.default_rng(5)
    turns = [Rotation.from_rotvec(np.radians(rng.uniform(-1.2, 1.2, 3))) for _ in range(5)]
    files, _ = series(tmp_path, turns=turns, exif=False)
    merged = merge_series(files)
    assert merged.cd_m2 is None and {f.known_by for f in merged.frames} == {"the pictures"}
    spread = np.array([f.stops for f in merged.frames])
    assert spread - spread[2] == pytest.approx([-4, -2, 0, 2, 4], abs=0.1)
    for frame, turn in zip(merged.frames, turns, strict=True):
        between = np.degrees((turn * turns[merged.reference].inv()).magnitude())
        assert frame.turned_deg == pytest.approx(between, abs=0.05)


def test_what_moved_is_resolved_towards_the_reference(tmp_path):
    files, light = series(tmp_path, ghost=3)
    merged = merge_series(files)
    assert merged.frames[3].ghosts > 0.003 and merged.frames[1].ghosts < 0.001
    inside = np.s_[210:250, 310:350]
    good = held(light, (-2, 0))[inside]
    assert np.median(np.abs(np.log2(merged.light[inside][good] / light[inside][good]))) < 0.05


def test_the_command_writes_every_kind_and_says_what_it_did(tmp_path, capsys):
    files, _ = series(tmp_path, (-3, 0, 3))
    for kind in ("exr", "hdr", "jpg", "tif"):
        assert main(["hdr", *map(str, files), str(tmp_path / f"out.{kind}")]) == 0
    said = capsys.readouterr().out
    assert said.count("reference") == 4 and "-3.00 stops by its file" in said
    light, small = (read_sphere(tmp_path / f"out.{kind}")[0] for kind in ("exr", "hdr"))
    assert np.median(np.abs(np.log2((light + 1e-3) / (small + 1e-3)))) < 0.02 and light.dtype == np.float32
    assert read_sphere(tmp_path / "out.tif")[0].dtype == np.uint16
    assert b"equirectangular" in (tmp_path / "out.jpg").read_bytes()[:2000]
    assert main(["hdr", str(files[0]), str(files[1]), str(files[0])]) != 0 and files[0].exists()


def test_spoilt_series_are_refused_in_words(tmp_path):
    files, light = series(tmp_path, (-2, 0, 2))
    (tmp_path / "w").mkdir()
    with pytest.raises(InputError, match="no series"):
        merge_series(files[:1])
    write_picture(tmp_path / "other.png", np.full((256, 512, 3), 90, np.uint8))
    with pytest.raises(InputError, match="512x256"):
        merge_series([*files, tmp_path / "other.png"])
    white, _ = series(tmp_path / "w", (5, 7, 9), light=np.full((512, 1024, 3), 0.9, np.float32))
    with pytest.raises(InputError, match="white almost everywhere"):
        merge_series(white)
    with pytest.raises(InputError, match="same exposure"):
        merge_series([files[0], files[0]])
    (tmp_path / "x").mkdir()
    elsewhere, _ = series(tmp_path / "x", (-2, 0, 2), light=np.ascontiguousarray(np.roll(light[:, ::-1], 200, axis=1)))
    with pytest.raises(InputError, match="does not show what"):
        merge_series([files[0], files[1], elsewhere[2]])


def test_a_test_frame_is_measured_and_bad_numbers_stay_out(tmp_path, capsys):
    files, light = series(tmp_path, (0, 2))
    reading = reading_of(read_frame(files[0]))
    weight = np.cos(np.radians(90 - (np.arange(512) + 0.5) / 512 * 180))[:, None] * np.ones(1024)
    stops = np.log2(np.clip(light, 1e-5, 1.0) @ LUMA / 0.18)
    assert reading.mean_stops == pytest.approx((stops * weight).sum() / weight.sum(), abs=0.05)
    clipped = (light.max(axis=2) > linear_of(np.array(0.985), "display")) * weight
    assert reading.clipped_share == pytest.approx(clipped.sum() / weight.sum(), abs=0.003)
    assert reading.ev100 == pytest.approx(np.log2(4.0 * 60.0)) and reading.shift_stops < 0.0
    assert reading.shift_at_least and not reading_of(read_frame(series(tmp_path, (-9, -4))[0][0])).shift_at_least
    shown = np.zeros((512, 1024), bool)
    shown[200:300, 400:600] = True
    shares = histogram((np.clip(light, 0, 1) * 255).astype(np.uint8), shown)
    assert shares.sum(axis=1) == pytest.approx([1.0, 1.0, 1.0])
    bad = np.full((64, 128, 3), 0.18, np.float32)
    bad[0, 0], bad[1, 1], bad[2, 2] = np.nan, np.inf, -5.0
    assert cv2.imwrite(str(tmp_path / "bad.exr"), bad)
    assert main(["meter", str(tmp_path / "bad.exr"), "--json"]) == 0
    assert "NaN" not in capsys.readouterr().out
    write_picture(tmp_path / "flat.png", np.zeros((90, 160, 3), np.uint8))
    assert main(["meter", str(tmp_path / "flat.png")]) == 2 and "sphere" in capsys.readouterr().err


def test_the_curve_is_guessed_and_said():
    light = scene()
    assert guessed((log_curve(light.clip(0, 6.0)) * 255).astype(np.uint8))[0] == "log"
    display = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055).clip(0, 1)
    assert guessed((display * 255).astype(np.uint8))[0] == "display" and guessed(light)[0] == "linear"


@pytest.mark.parametrize(
    ("kelvin", "name", "abs_k"), [(6504.0, "D65", 25.0), (5003.0, "D50", 25.0), (2856.0, "A", 60.0)]
)
def test_a_patch_tells_the_white_balance(kelvin, name, abs_k):
    """CIE 15: D65 lies at (0.3127, 0.3290), D50 at (0.3457, 0.3585), A at (0.4476, 0.4074). A grey card in that light, with a camera
    set to 5600 K, asks for the light's own temperature."""
    x, y = {"D65": (0.3127, 0.3290), "D50": (0.3457, 0.3585), "A": (0.4476, 0.4074)}[name]
    rgb = np.array([[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]]) @ [
        x / y,
        1,
        (1 - x - y) / y,
    ]
    found, tint = white_of_patch(0.2 * rgb / white_rgb(5600.0), 5600.0)
    assert found == pytest.approx(kelvin, abs=abs_k) and abs(tint) < 4.0
    green = 0.2 * rgb / white_rgb(5600.0) * [1.0, 1.15, 1.0]
    assert white_of_patch(green, 5600.0)[1] > tint + 3.0
    with pytest.raises(ValueError, match="too dark"):
        white_of_patch(np.array([0.0, 0.1, 0.1]), 5600.0)


def test_a_bracket_is_as_small_as_holds_the_light():
    """R + (n - 1) s stops; neighbours overlap by three."""
    sensor = Sensor(f_number=2.0)
    wide = planned(steady(13.0, 16.0), 0, sensor, MODES["bracket"], 1 / 200, 2.0)
    assert wide.holds_stops >= wide.span_stops and sensor.stops - wide.step_stops >= OVERLAP_STOPS
    fewer = (
        sensor.stops + (wide.frames - 3) * max(4.0 / max((wide.frames - 3) / 2.0, 1.0), 1.0) if wide.frames > 3 else 0.0
    )
    assert fewer < wide.span_stops
    assert wide.order[0] == 0.0 and wide.total_s > sum(2.0**s / 200 for s in wide.order)
    assert "shortest" in planned(steady(13.0, 18.0), 0, sensor, MODES["bracket"], 1 / 4000, 2.0).limit
    assert "offers no bracket" in planned(steady(13.0), 0, sensor, MODES["photo"], 1 / 200, 2.0).limit


def test_a_jpeg_with_a_gain_map_opens_as_light(tmp_path):
    """Made here by the formula of ISO 21496-1: gain = 2^(max x map), light = (plain + offset) gain - offset; one without a map, and a
    spoilt one, stay what they are."""
    plain, gains = np.full((64, 128, 3), 128, np.uint8), np.zeros((32, 64, 3), np.uint8)
    gains[:, 32:] = 255
    first, second = (cv2.imencode(".jpg", p, [cv2.IMWRITE_JPEG_QUALITY, 100])[1].tobytes() for p in (plain, gains))
    told = b'<x hdrgm:Version="1.0" hdrgm:GainMapMin="0" hdrgm:GainMapMax="3" hdrgm:Gamma="1" hdrgm:OffsetSDR="0.015625" hdrgm:OffsetHDR="0.015625"/>'
    second = second[:2] + b"\xff\xe1" + (len(told) + 2).to_bytes(2, "big") + told + second[2:]
    (tmp_path / "gain.jpg").write_bytes(first + second)
    light, _ = read_sphere(tmp_path / "gain.jpg")
    base = float(linear_of(np.array(128 / 255), "display"))
    assert light.dtype == np.float32 and light[32, 20].mean() == pytest.approx(base, rel=0.02)
    assert light[32, 100].mean() == pytest.approx((base + 1 / 64) * 8 - 1 / 64, rel=0.02)
    (tmp_path / "cut.jpg").write_bytes(first + second[:60])
    assert read_sphere(tmp_path / "cut.jpg")[0].dtype == np.uint8
    assert reading_of(read_frame(tmp_path / "gain.jpg")).curve == "linear light"


def test_curves_and_colour_temperatures_are_those_of_the_colour_science_package():
    """colour-science 0.4: sRGB decoding, ACEScct both ways, BT.709, McCamy's temperature, daylight's chromaticity."""
    with warnings.catch_warnings():  # it misses the plotting package that it can do without
        warnings.simplefilter("ignore")
        import colour

    code = np.linspace(0.0, 1.0, 101)
    assert linear_of(code, "display") == pytest.approx(colour.models.eotf_sRGB(code), abs=2e-4)
    assert linear_of(code, "log") == pytest.approx(colour.models.log_decoding_ACEScct(code), rel=2e-3, abs=1e-4)
    light = np.geomspace(1e-3, 2.5, 60).astype(np.float32)
    assert log_curve(light) == pytest.approx(colour.models.log_encoding_ACEScct(light), abs=1e-4)
    for kelvin in (4300.0, 5003.0, 5600.0, 6504.0, 9000.0):
        xy = colour.temperature.CCT_to_xy_CIE_D(kelvin)
        assert daylight_xy(kelvin) == pytest.approx(tuple(xy), abs=1e-5)
        rgb = np.array(
            [[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]]
        ) @ colour.xy_to_XYZ(xy)
        found, _ = white_of_patch(0.2 * rgb / white_rgb(5600.0), 5600.0)
        assert found == pytest.approx(float(colour.temperature.xy_to_CCT_McCamy1992(xy)), abs=8.0)
