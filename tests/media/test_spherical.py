"""What part of the sphere a file says it shows, against files by the open reference code and by exiftool."""

import struct
from pathlib import Path

import pytest

from glintor.media.picture import read_sphere
from glintor.media.probe import ClipError, probe, sphere_of
from glintor.media.spherical import ProjectionError, film_coverage, photo_coverage
from glintor.sphere.equirect import HALF, WHOLE, Coverage
from tests.conftest import DATA, make_clip


def box(kind: bytes, content: bytes) -> bytes:
    return struct.pack(">I4s", 8 + len(content), kind) + content


def film_with(tmp_path: Path, inside_stsd: bytes) -> Path:
    """The bare boxes round a picture track's sample entry, without pictures."""
    entry = box(b"avc1", bytes(78) + inside_stsd)
    content = box(b"stsd", bytes(8) + entry)
    for kind in (b"stbl", b"minf", b"mdia", b"trak", b"moov"):
        content = box(kind, content)
    path = tmp_path / "boxes.mp4"
    path.write_bytes(box(b"ftyp", b"isom") + content)
    return path


def equi(top: float, bottom: float, left: float, right: float) -> bytes:
    bounds = struct.pack(">I4I", 0, *(round(v * 2**32) for v in (top, bottom, left, right)))
    return box(b"sv3d", box(b"svhd", bytes(5)) + box(b"proj", box(b"prhd", bytes(16)) + box(b"equi", bounds)))


def test_files_by_the_reference_code_and_by_exiftool():
    assert film_coverage(DATA / "reference_injector_v2.mp4") == WHOLE
    assert photo_coverage(DATA / "gpano_full.jpg") == WHOLE
    assert probe(DATA / "reference_injector_v2.mp4").coverage == WHOLE


def test_a_half_and_a_crop_by_their_bounds(tmp_path):
    assert film_coverage(film_with(tmp_path, equi(0, 0, 0.25, 0.25))) == HALF
    crop = film_coverage(film_with(tmp_path, equi(0.25, 0.0, 0.0, 0.5)))
    assert crop == Coverage(lon_deg=180, lat_deg=135, centre_lon_deg=-90, centre_lat_deg=-22.5)


def test_a_photo_cropped_by_its_fields(tmp_path):
    fields = {"FullPanoWidthPixels": 4000, "FullPanoHeightPixels": 2000, "CroppedAreaLeftPixels": 1000}
    fields |= {"CroppedAreaTopPixels": 500, "CroppedAreaImageWidthPixels": 2000, "CroppedAreaImageHeightPixels": 1000}
    xmp = "".join(f'GPano:{name}="{value}" ' for name, value in fields.items())
    (tmp_path / "a.jpg").write_bytes(b"\xff\xd8" + xmp.encode())
    assert photo_coverage(tmp_path / "a.jpg") == Coverage(lon_deg=180, lat_deg=90)


def test_the_older_note_in_a_uuid_box(tmp_path):
    xml = b"<GSpherical:ProjectionType>equirectangular</GSpherical:ProjectionType>"
    note = box(b"uuid", bytes.fromhex("ffcc8263f8554a938814587a02521fdd") + xml)
    path = tmp_path / "v1.mp4"
    path.write_bytes(box(b"moov", box(b"trak", note)))
    assert film_coverage(path) == WHOLE


def test_other_projections_and_nonsense_are_refused(tmp_path):
    with pytest.raises(ProjectionError, match="cube"):
        film_coverage(film_with(tmp_path, box(b"sv3d", box(b"proj", box(b"cbmp", bytes(12))))))
    with pytest.raises(ProjectionError, match="no sense"):
        film_coverage(film_with(tmp_path, equi(0.6, 0.6, 0, 0)))


def test_told_and_untold(tmp_path):
    square = make_clip(tmp_path / "half.mp4", width=160, height=160, frames=2, sound=False)
    with pytest.raises(ClipError, match="--as-half"):
        sphere_of(probe(square))
    assert sphere_of(probe(square), HALF) == HALF


def test_light_is_read_as_light():
    light, coverage = read_sphere(DATA / "bridge-light.exr")
    assert light.dtype.kind == "f" and light.max() > 2.0 and coverage == WHOLE
