import hashlib
import shutil
import threading
from pathlib import Path

import pytest
import xxhash
from lxml import etree

from glintor.errors import Cancelled, InputError
from glintor.offload.copy import CopyError, bring_over, file_hash
from glintor.offload.manifest import ManifestError, write_manifest

DATA = Path(__file__).parents[1] / "data"


@pytest.fixture
def card(tmp_path):
    folder = tmp_path / "card" / "clips"
    folder.mkdir(parents=True)
    (folder / "clip-0001.mp4").write_bytes(bytes(range(256)) * 40_000)
    (folder / "clip-0001.track.csv").write_text("time_s,yaw_deg,pitch_deg,distance_m\n")
    return folder


def state(folder: Path) -> dict[str, tuple[str, int]]:
    return {
        p.name: (hashlib.sha256(p.read_bytes()).hexdigest(), p.stat().st_mtime_ns)
        for p in folder.rglob("*")
        if p.is_file()
    }


def test_the_hash_is_xxh64_as_published(tmp_path):
    """Source: the XXH64 reference vectors: seed 0, empty input ef46db3751d8e999 (xxHash specification, from memory)."""
    (tmp_path / "empty").write_bytes(b"")
    assert file_hash(tmp_path / "empty") == "ef46db3751d8e999"
    (tmp_path / "text").write_bytes(b"Pell Lock")
    assert file_hash(tmp_path / "text") == xxhash.xxh64(b"Pell Lock").hexdigest()


def test_copies_are_the_same_and_the_card_is_never_touched(card, tmp_path):
    before, shares = state(card), []
    copied = bring_over(card / "clip-0001.mp4", tmp_path / "safe", report=shares.append)
    assert copied.target.read_bytes() == (card / "clip-0001.mp4").read_bytes()
    assert copied.xxh64 == file_hash(card / "clip-0001.mp4") and not copied.was_there
    assert (tmp_path / "safe" / "clip-0001.track.csv").exists()
    assert state(card) == before and shares[-1] == pytest.approx(1.0) and shares == sorted(shares)


def test_a_copy_that_is_there_is_kept_and_another_clip_of_that_name_gets_its_own(card, tmp_path):
    safe = tmp_path / "safe"
    bring_over(card / "clip-0001.mp4", safe)
    assert bring_over(card / "clip-0001.mp4", safe).was_there
    (card / "clip-0001.mp4").write_bytes(b"another day's clip")
    again = bring_over(card / "clip-0001.mp4", safe)
    assert again.target.name == "clip-0001-2.mp4" and (safe / "clip-0001.mp4").stat().st_size == 256 * 40_000


def test_a_copy_that_differs_is_never_kept(card, tmp_path, monkeypatch):
    """The disk gives back other bytes than were written: the check reads the copy again and finds it."""
    monkeypatch.setattr("glintor.offload.copy.file_hash", lambda *_a, **_k: "0" * 16)
    with pytest.raises(CopyError, match="not the same"):
        bring_over(card / "clip-0001.mp4", tmp_path / "safe")
    assert list((tmp_path / "safe").iterdir()) == []


def test_a_card_pulled_out_is_said(card, tmp_path):
    (card / "clip-0001.mp4").unlink()
    with pytest.raises(CopyError, match="went away"):
        bring_over(card / "clip-0001.mp4", tmp_path / "safe")


def test_cancel_leaves_no_copy(card, tmp_path):
    stop = threading.Event()
    stop.set()
    with pytest.raises(Cancelled):
        bring_over(card / "clip-0001.mp4", tmp_path / "safe", stop=stop)
    assert list((tmp_path / "safe").iterdir()) == []


def test_too_little_space_is_said_before_copying(card, tmp_path, monkeypatch):
    usage = shutil.disk_usage(tmp_path)._replace(free=1000)
    monkeypatch.setattr("glintor.offload.copy.shutil.disk_usage", lambda _p: usage)
    with pytest.raises(InputError, match="free"):
        bring_over(card / "clip-0001.mp4", tmp_path / "safe")
    assert not (tmp_path / "safe").exists()


def test_the_manifest_follows_the_published_schema(card, tmp_path):
    """Source: ASC MHL v2.0, ASCMHL.xsd, as published with the reference library (MIT)."""
    safe = tmp_path / "safe"
    copied = bring_over(card / "clip-0001.mp4", safe)
    manifest = write_manifest(safe)
    document = etree.parse(manifest)
    etree.XMLSchema(etree.parse(DATA / "ASCMHL.xsd")).assertValid(document)
    space = {"m": "urn:ASC:MHL:v2.0"}
    hashes = {
        h.findtext("m:path", namespaces=space): h.findtext("m:xxh64", namespaces=space)
        for h in document.iterfind(".//m:hash", space)
    }
    assert hashes["clip-0001.mp4"] == copied.xxh64


def test_a_changed_copy_is_found_by_the_next_manifest(card, tmp_path):
    safe = tmp_path / "safe"
    bring_over(card / "clip-0001.mp4", safe)
    write_manifest(safe)
    (safe / "clip-0001.mp4").write_bytes(b"rotten")
    with pytest.raises(ManifestError, match="no longer holds"):
        write_manifest(safe)
