"""What comes in from outside and is not as it should be: refused or put up with, in words, never with a trace."""

import errno
import os
import struct
import subprocess
import sys

import msgspec
import numpy as np
import pytest
from numba.core import caching

from glintor.cli import main
from glintor.errors import MESSAGE_MOST, GlintorError, InputError
from glintor.files import WriteError, whole_file, write_bytes
from glintor.media.probe import ClipError, probe
from glintor.media.read import ClipReader
from glintor.pixels.compiling import Kernels, compiled
from glintor.places import homeless, own_folder
from glintor.project.fresh import with_a_shot
from glintor.project.kit import Tube
from glintor.project.route import read_gpx
from glintor.project.store import read_project, write_project
from glintor.quantities import absurd, first_absurd
from glintor.report import fault, log_file
from tests.conftest import make_clip


def test_no_message_is_longer_than_can_be_read():
    long = "/".join(["a" * 240] * 12)
    error = InputError(
        f"{long} cannot be opened: no.", unharmed=f"It was {long}.", advice=f"Choose another than {long}."
    )
    assert len(str(error)) <= MESSAGE_MOST and str(error).startswith("aaa") and "cannot be opened" in str(error)
    assert len(str(fault("A long " + long, ValueError(long)))) <= MESSAGE_MOST
    name = b"clip \xff\xfe.mp4".decode("utf-8", "surrogateescape")
    assert str(GlintorError(f"{name} is gone.")).encode("utf-8")


def test_numbers_are_judged_by_the_unit_in_their_name():
    assert absurd("stick_m", 1e308) and absurd("at_s", float("nan")) and absurd("mbit_s", float("-inf"))
    assert absurd("speed_m_s", 500.0) and not absurd("length_m", 500.0) and not absurd("yaw_deg", -720.0)
    assert not absurd("size_bytes", 4e12)

    class Deep(msgspec.Struct):
        inner_m: tuple[float, ...]
        many: tuple["Deep", ...] = ()

    assert first_absurd(Deep((1.0,), (Deep((2.0, float("inf"))),))) == "many[0]: inner_m is not a number"
    assert first_absurd(Deep((1.0,))) is None
    for at, sound in ((100_000.0, True), (100_001.0, False), (-100_001, False), (float("nan"), False)):
        assert (first_absurd(Deep((0, at))) is None) == sound == (absurd("inner_m", at) is None)

    class Film(msgspec.Struct):
        rate_fps: float | None = None
        name: str = "1e999"
        good: bool = True

    for rate, sound in ((0.0, True), (0.001, True), (0.0009, False), (None, True), (10_001.0, False)):
        assert (first_absurd([Film(rate_fps=rate)]) is None) == sound


@pytest.mark.parametrize(
    ("what", "into", "words"),
    [(b"VideoHandler", b"Vid\xff\xfeHandler", None), (b"avc1", b"zzq1", "packed in a way"), (b"mp4a", b"zzq2", None)],
)
def test_films_with_bytes_that_are_no_text_or_unknown_codecs(tmp_path, what, into, words):
    clip = tmp_path / "in.mp4"
    make_clip(clip)
    clip.write_bytes(clip.read_bytes().replace(what, into.ljust(len(what), b" ")[: len(what)]))
    if words:
        with pytest.raises(ClipError, match=words):
            probe(clip)
    else:
        assert probe(clip).frames == 24
        (tmp_path / "p.csv").write_text("time_s,yaw_deg,pitch_deg,roll_deg,fov_deg,bend\n0,0,0,0,100,0.15\n")
        path = str(tmp_path / "p.csv")
        assert main(["reframe", str(clip), "--path", path, "--size", "160x90", str(tmp_path / "o.mp4")]) == 0


def test_a_film_whose_seek_fails_is_read_from_its_beginning(clip, monkeypatch):
    import av

    def refuse(self, *_args, **_options):
        raise av.error.PermissionError(errno.EPERM, "no seeking")

    with ClipReader(clip) as reader:
        want = reader.at(0.5).picture.y.copy()

    class Stuck:
        def __init__(self, inner):
            self._inner = inner

        def __getattr__(self, name):
            return getattr(self._inner, name)

        seek = refuse

    from glintor.media import probe as probing

    opened = probing.open_clip
    monkeypatch.setattr("glintor.media.read.open_clip", lambda path: Stuck(opened(path)))
    with ClipReader(clip) as reader:
        assert np.array_equal(reader.at(0.5).picture.y, want)


def test_a_length_that_no_film_has_is_refused_by_name(clip):
    """The element Duration (0x4489, a float in milliseconds) of a Matroska file: RFC 9559, section 5.1.2.10."""
    film = clip.with_suffix(".mkv")
    subprocess.run(["ffmpeg", "-v", "error", "-i", str(clip), "-c", "copy", str(film)], check=True)
    content = bytearray(film.read_bytes())
    at = content.index(b"\x44\x89\x88") + 3
    assert 500.0 < struct.unpack(">d", content[at : at + 8])[0] < 1500.0
    content[at : at + 8] = struct.pack(">d", 5e13)
    film.write_bytes(content)
    with pytest.raises(ClipError, match=r"duration_s is 5e\+10"):
        probe(film)


def test_a_tube_cannot_have_more_wall_than_tube():
    with pytest.raises(InputError, match="wall_mm is 8"):
        Tube(length_m=0.3, outer_mm=12.0, wall_mm=8.0)
    assert Tube(length_m=0.3, outer_mm=12.0, wall_mm=6.0).section(0.3).mass_kg > 0


def gpx(*points: str) -> str:
    body = "".join(f"<trkpt {p}" for p in points)
    return f'<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>{body}</trkseg></trk></gpx>'


def test_gpx_with_mixed_zones_and_with_places_that_are_none(tmp_path):
    """GPX 1.1 schema: times are in UTC where they carry no zone. One hour for a hundredth of a degree of latitude (1.11 km)."""
    file = tmp_path / "way.gpx"
    times = ("2026-05-01T10:00:00Z", "2026-05-01T10:30:00", "2026-05-01T13:00:00+02:00")
    file.write_text(gpx(*(f'lat="{46 + n / 200}" lon="8"><time>{t}</time></trkpt>' for n, t in enumerate(times))))
    assert read_gpx(file).speed_m_s == pytest.approx(1112.0 / 3600.0, rel=0.01)
    for place in ("nan", "91", "1e308", "inf"):
        file.write_text(gpx('lat="46" lon="8"></trkpt>', f'lat="{place}" lon="8"></trkpt>'))
        with pytest.raises(InputError, match=r"not on Earth|cannot be read"):
            read_gpx(file)


def test_a_project_without_shots_opens_with_one(day, qtbot):
    from glintor.desktop.document import Document

    write_project(day, msgspec.structs.replace(read_project(day), shots=()))
    assert main(["check", str(day)]) == 0
    document = Document(day)
    assert [s.name for s in document.project.shots] == ["First shot"] and with_a_shot(
        document.project
    ) is document.project
    document.close()


def test_names_as_long_as_the_disk_allows(tmp_path):
    name = "n" * 251 + ".txt"
    write_bytes(tmp_path / name, b"one")
    write_bytes(tmp_path / name, b"two")
    assert [p.name for p in tmp_path.iterdir()] == [name]
    with pytest.raises(WriteError, match="too long"), whole_file(tmp_path / ("n" * 300 + ".txt")) as part:
        part.write_bytes(b"x")


def test_folders_whose_names_are_no_text(day):
    odd = os.fsdecode(os.fsencode(day.parent) + b"\xff\xfe")
    day.parent.rename(odd)
    done = subprocess.run(
        [sys.executable, "-m", "glintor.cli", "check", odd + "/hollin-cut.glintor"], capture_output=True
    )
    assert done.returncode == 0 and b"Wharf portrait" in done.stdout
    done = subprocess.run([sys.executable, "-m", "glintor.cli", "check", odd + "/none.glintor"], capture_output=True)
    assert done.returncode == 2 and b"cannot be opened" in done.stderr and b"Traceback" not in done.stderr


def test_who_reads_only_the_head_of_the_findings_gets_no_trace(day):
    with subprocess.Popen(
        [sys.executable, "-m", "glintor.cli", "check", str(day)], stdout=subprocess.PIPE, stderr=subprocess.PIPE
    ) as check:
        check.stdout.read(10)
        check.stdout.close()
        assert check.stderr.read() == b"" and check.wait() == 0


def test_a_bug_in_a_command_is_told_and_written_down(monkeypatch, capsys, day):
    monkeypatch.setattr("glintor.review.findings", lambda *_a: 1 / 0)
    assert main(["check", str(day)]) == 1
    assert "met a fault" in capsys.readouterr().err and "ZeroDivisionError" in log_file().read_text()


def test_without_a_home_there_is_still_a_place(monkeypatch, tmp_path):
    monkeypatch.setenv("XDG_STATE_HOME", "/proc/no/such")
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))
    assert homeless() and own_folder("state").is_relative_to(tmp_path)
    fault("A test", ValueError("kept all the same"))
    assert "kept all the same" in log_file().read_text()


def test_kernels_work_without_a_place_and_on_a_full_disk(monkeypatch):
    def twice(x):
        return x * 2

    def full(*_args):
        raise OSError(errno.ENOSPC, "No space left")

    monkeypatch.setattr(Kernels, "words", "")
    with monkeypatch.context() as nowhere:
        nowhere.setattr(caching.CacheImpl, "_locator_classes", [])
        assert compiled(nogil=True)(twice)(21) == 42 and "take longer" in Kernels.words
    monkeypatch.setattr(Kernels, "words", "")
    monkeypatch.setattr(caching.IndexDataCacheFile, "save", full)
    assert compiled(nogil=True)(twice)(2.5) == 5.0 and "take longer" in Kernels.words
