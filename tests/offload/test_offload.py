import hashlib
import json
import os
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

import pytest
import xxhash
from lxml import etree

from glintor.cli import main
from glintor.errors import Cancelled, InputError
from glintor.files import file_hash
from glintor.offload.card import files_of, safety, survey, units_of
from glintor.offload.copy import CopyError, bring_card, bring_over
from glintor.offload.manifest import listed_hashes, write_manifest
from glintor.offload.naming import PATTERN, filled
from glintor.offload.run import offload
from glintor.offload.verify import verify
from glintor.project.ledger import Ledger

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

    def rots(handle: int) -> bool:
        os.pwrite(handle, b"rot", 1000)
        return True

    monkeypatch.setattr("glintor.offload.transfer.let_go", rots)
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
    manifest = write_manifest(safe).file
    document = etree.parse(manifest)
    etree.XMLSchema(etree.parse(DATA / "ASCMHL.xsd")).assertValid(document)
    space = {"m": "urn:ASC:MHL:v2.0"}
    hashes = {
        h.findtext("m:path", namespaces=space): h.findtext("m:xxh64", namespaces=space)
        for h in document.iterfind(".//m:hash", space)
    }
    assert hashes["clip-0001.mp4"] == copied.xxh64


def test_a_changed_copy_is_told_by_the_next_manifest_which_lists_the_rest(card, tmp_path):
    safe = tmp_path / "safe"
    bring_over(card / "clip-0001.mp4", safe)
    write_manifest(safe)
    (safe / "clip-0001.mp4").write_bytes(b"rotten")
    (safe / "more.mp4").write_bytes(b"new")
    written = write_manifest(safe)
    assert written.wrong == ("clip-0001.mp4 was altered",) and "clip-0001.mp4" in written.words
    assert "more.mp4" in written.file.read_text() and verify(safe).altered == ("clip-0001.mp4",)


# Units, whole cards, kills


def units_on(card: Path, *places: Path):
    return survey(card, *places).units


def lay(folder: Path, **files: bytes) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    for name, content in files.items():
        (folder / name.replace("__", ".")).write_bytes(content)


def bring(card: Path, safe: Path, proven=lambda *_: None):
    return bring_card(card, [unit for unit in units_on(card, safe) if not unit.safe], safe, proven)


def test_what_belongs_to_a_clip_is_found_in_any_case_and_the_rest_is_there_too(tmp_path):
    card = tmp_path / "DCIM"
    lay(card / "A", REC_01__MP4=b"a", rec_01__GPX=b"b", REC_01__TRACK__CSV=b"c", REC_012__MP4=b"d", REC_01__txt=b"e")
    lay(card / "B", P1__JPG=b"f", P1__dng=b"g", bracket__csv=b"h", REC_01__gpx=b"i")
    lay(card / "System Volume Information", x=b"j")
    lay(card, __hidden=b"k")
    units = [[f.name for f in unit.files] for unit in units_of(files_of(card))]
    assert units == [
        ["REC_01.MP4", "REC_01.TRACK.CSV", "REC_01.txt", "rec_01.GPX"], ["REC_012.MP4"], ["P1.JPG", "P1.dng"], ["REC_01.gpx"], ["bracket.csv"]
    ]  # fmt: skip
    bring(card, tmp_path / "safe")
    assert all(unit.safe for unit in units_on(card, tmp_path / "safe"))
    assert len(files_of(tmp_path / "safe")) == 9


def test_equal_names_of_two_cards_keep_their_own_companions(tmp_path):
    lay(tmp_path / "one", C1__MP4=b"first", C1__GPX=b"way of the first")
    lay(tmp_path / "two", C1__MP4=b"other", C1__GPX=b"way of the other", C1__CSV=b"log of the other")
    safe = tmp_path / "safe"
    bring(tmp_path / "one", safe)
    bring(tmp_path / "two", safe)
    assert {f.name: f.read_bytes() for f in files_of(safe)} == {
        "C1.MP4": b"first", "C1.GPX": b"way of the first", "C1-2.MP4": b"other", "C1-2.GPX": b"way of the other", "C1-2.CSV": b"log of the other"
    }  # fmt: skip
    assert all(unit.safe for card in ("one", "two") for unit in units_on(tmp_path / card, safe))


def test_a_clip_that_came_over_before_a_kill_gets_its_companions_with_the_next_try(tmp_path):
    lay(tmp_path / "card", c__mp4=b"film", c__gpx=b"way")
    lay(tmp_path / "safe", c__mp4=b"film")  # killed after the film, before the way and the ledger
    assert not units_on(tmp_path / "card", tmp_path / "safe")[0].safe
    bring(tmp_path / "card", tmp_path / "safe")
    assert [f.name for f in files_of(tmp_path / "safe")] == ["c.gpx", "c.mp4"]
    assert units_on(tmp_path / "card", tmp_path / "safe")[0].safe


def test_one_file_that_cannot_be_read_does_not_stop_the_others(tmp_path, monkeypatch):
    card, safe, proven = tmp_path / "card", tmp_path / "safe", []
    lay(card, a__mp4=b"a", b__mp4=b"b", c__mp4=b"c", d__jpg=b"d")
    found = units_on(card, safe)
    (card / "b.mp4").unlink()
    brought = bring_card(card, found, safe, lambda unit, copy: proven.append((unit.name, copy.xxh64)))
    assert (
        brought.files == 3 and [name for name, _ in brought.missed] == ["b.mp4"] and "went away" in brought.missed[0][1]
    )
    assert [name for name, _ in proven] == ["a.mp4", "c.mp4", "d.jpg"] and all(xxh64 for _, xxh64 in proven)


def test_a_copy_that_was_changed_or_a_card_file_that_was_is_not_safe_any_more(tmp_path):
    card, safe = tmp_path / "card", tmp_path / "safe"
    lay(card, a__mp4=b"film", b__jpg=b"photo")
    bring(card, safe)
    (safe / "a.mp4").write_bytes(b"fill")
    (card / "b.jpg").write_bytes(b"phot0")
    assert [unit.safe for unit in units_on(card, safe)] == [False, False]
    bring(card, safe)
    assert all(unit.safe for unit in units_on(card, safe)) and (safe / "a-2.mp4").read_bytes() == b"film"


def test_a_ledger_that_cannot_be_read_is_kept_and_said(tmp_path):
    lay(tmp_path / "card", a__mp4=b"film")
    bring(tmp_path / "card", tmp_path / "safe")
    (tmp_path / "safe" / ".copies.json").write_bytes(b"\xff{")
    ledger = Ledger(tmp_path / "safe")
    assert "kept as" in ledger.words and (tmp_path / "safe" / ".copies.json.unreadable").exists()
    assert bring(tmp_path / "card", tmp_path / "safe").files == 1  # proven again, not copied twice
    assert [f.name for f in files_of(tmp_path / "safe")] == ["a.mp4"]


def test_reading_back_asks_the_disk(card, tmp_path):
    """After the sync nothing of the copy is in memory: checked with the system's own answer (RWF_NOWAIT, preadv(2))."""
    copied = bring_over(card / "clip-0001.mp4", tmp_path / "safe")
    kinds = {p.copy: p.from_disk for p in Ledger(tmp_path / "safe").proofs}
    assert copied.from_disk == kinds["clip-0001.mp4"]
    in_memory = Path("/dev/shm")
    if in_memory.is_dir():
        with tempfile.TemporaryDirectory(dir=in_memory) as folder:
            assert not bring_over(card / "clip-0001.mp4", Path(folder)).from_disk


@pytest.mark.parametrize("cut", [0, 40, 300])
@pytest.mark.parametrize("which", ["*.mhl", "ascmhl_chain.xml"])
def test_a_manifest_that_was_cut_short_is_set_aside_with_a_word(tmp_path, which, cut):
    safe = tmp_path / "safe"
    lay(safe, a__mp4=b"film")
    write_manifest(safe)
    list_ = next((safe / "ascmhl").glob(which))
    list_.write_bytes(list_.read_bytes()[:cut])
    written = write_manifest(safe)
    assert "kept as ascmhl.broken" in written.words and (safe / "ascmhl.broken").is_dir()
    lay(safe, b__mp4=b"more")
    assert write_manifest(safe).words == ""


_BRING = """
import sys
from pathlib import Path
from glintor.offload.card import survey
from glintor.offload.copy import bring_card
from glintor.offload.manifest import write_manifest
card, safe = Path(sys.argv[1]), Path(sys.argv[2])
print("ready", flush=True)
bring_card(card, [unit for unit in survey(card, safe).units if not unit.safe], safe, lambda unit, _: print(unit.name, flush=True))
print("manifest", flush=True)
write_manifest(safe)
print("done", flush=True)
"""


@pytest.mark.parametrize(("line", "delay_s"), [(1, 0.0), (3, 0.004), (6, 0.0), (8, 0.05), (8, 0.2), (8, 0.35)])
def test_killed_at_any_time_the_next_try_ends_with_everything_safe(tmp_path, line, delay_s):
    card, safe = tmp_path / "card", tmp_path / "safe"
    lay(card, **{f"c{n}__mp4": bytes([n]) * 300_000 for n in range(6)}, **{f"c{n}__GPX": bytes([n]) for n in range(6)})
    with subprocess.Popen(
        [sys.executable, "-c", _BRING, str(card), str(safe)], stdout=subprocess.PIPE, text=True
    ) as work:
        for _ in range(line):
            work.stdout.readline()
        time.sleep(delay_s)  # the moment of the kill is what is tried
        work.kill()
    subprocess.run([sys.executable, "-c", _BRING, str(card), str(safe)], check=True, capture_output=True)
    assert all(unit.safe for unit in units_on(card, safe))
    assert sorted(f.name for f in files_of(safe) if f.parent == safe) == sorted(f.name for f in files_of(card))
    assert write_manifest(safe).words == ""


# Two places, verifying, names


def mhl(*words: object) -> int:
    """The standard's own tool."""
    tool = Path(sys.executable).with_name(str(words[0]))
    return subprocess.run([str(tool), *map(str, words[1:])], capture_output=True, check=False).returncode


def test_a_card_goes_to_two_places_and_one_sentence_says_whether_it_may_be_cleared(tmp_path):
    card, places = tmp_path / "card", (tmp_path / "one", tmp_path / "two")
    lay(card / "DCIM", REC_1__MP4=b"film" * 9000, REC_1__GPX=b"way", P1__JPG=b"photo", empty__txt=b"")
    assert (
        safety(survey(card, *places), [listed_hashes(place) for place in places]).words
        == "Not yet safe to clear: none of 4 files is copied."
    )
    done = offload(card, places[:1])
    assert done.safety.words.startswith("Not yet safe to clear: 4 of 4 files proven once.") and not done.safety.clear
    done = offload(card, places, inside=lambda unit: "2026-10-14/roof")
    assert done.safety.clear and done.safety.words == "Safe to clear: all 4 files are proven in two places."
    assert (places[1] / "2026-10-14/roof/REC_1.GPX").read_bytes() == b"way"
    for place in places:
        assert mhl("ascmhl-debug", "verify", place) == 0 and mhl("ascmhl", "diff", place) == 0
    (places[1] / "2026-10-14/roof/P1.JPG").unlink()
    assert (
        "3 of 4 files proven twice, 1 once"
        in safety(survey(card, *places), [listed_hashes(place) for place in places]).words
    )
    assert offload(card, places, inside=lambda unit: "2026-10-14/roof").safety.clear


def test_the_words_say_what_was_altered_and_so_does_the_standards_own_tool(tmp_path, capsys):
    card, safe = tmp_path / "card", tmp_path / "safe"
    lay(card, a__mp4=b"aaaa", b__mp4=b"bbbb", c__jpg=b"cccc")
    assert main(["offload", str(card), str(safe)]) == 0
    assert main(["verify", str(safe)]) == 0 and "3 files, all as they were copied." in capsys.readouterr().out
    (safe / "b.mp4").write_bytes(b"bbbB")
    (safe / "c.jpg").unlink()
    lay(safe, d__txt=b"own notes")
    assert main(["verify", str(safe), "--json"]) == 1
    told = json.loads(capsys.readouterr().out)
    assert (told["same"], told["altered"], told["missing"], told["not_listed"]) == (
        ["a.mp4"],
        ["b.mp4"],
        ["c.jpg"],
        ["d.txt"],
    )
    assert told["words"] == "3 files, 1 altered: b.mp4; 1 missing: c.jpg; 1 not listed."
    assert mhl("ascmhl-debug", "verify", safe) != 0
    assert main(["verify", str(card)]) == 2 and "no list of checksums" in capsys.readouterr().err


def test_a_large_file_goes_on_where_a_kill_or_a_pulled_card_stopped_it(tmp_path, monkeypatch):
    """Beside the part lie the checksums of what was read; the card is asked only for the rest."""
    monkeypatch.setattr("glintor.offload.transfer.STRETCH", 1 << 20)
    monkeypatch.setattr("glintor.offload.transfer._BLOCK", 1 << 18)
    card, places = tmp_path / "card", [tmp_path / "one", tmp_path / "two"]
    lay(card, long__mp4=os.urandom(5_300_000))
    stop, shares = threading.Event(), []

    def enough(share: float) -> None:
        shares.append(share)
        if share > 0.2:
            stop.set()

    with pytest.raises(Cancelled):
        offload(card, places, report=enough, stop=stop)
    assert not list(places[0].glob("long*")) and len(list(places[0].glob(".long*.part"))) == 1
    part = next(places[1].glob(".long*.part"))
    part.write_bytes(part.read_bytes()[: 1 << 20])  # the second disk kept less of it
    film = card / "long.mp4"
    content, state = film.read_bytes(), film.stat()
    with film.open("r+b") as handle:  # nobody notices that, who does not read the beginning again
        handle.seek(500_000)
        handle.write(b"other")
    os.utime(film, ns=(state.st_atime_ns, state.st_mtime_ns))
    assert offload(card, places).safety.clear and shares[-1] < 0.5
    for place in places:
        assert (place / "long.mp4").read_bytes() == content and not list(place.glob(".long*"))


def test_a_part_that_rotted_is_found_and_copied_anew(tmp_path, monkeypatch):
    monkeypatch.setattr("glintor.offload.transfer.STRETCH", 1 << 20)
    card, safe = tmp_path / "card", tmp_path / "safe"
    lay(card, long__mp4=os.urandom(3_000_000))
    stop = threading.Event()
    with pytest.raises(Cancelled):
        offload(card, [safe], report=lambda share: stop.set() if share > 0.2 else None, stop=stop)
    with next(safe.glob(".long*.part")).open("r+b") as part:
        part.write(b"rot")
    done = offload(card, [safe])
    assert "not the same" in done.brought.missed[0][1] and not list(safe.glob("long*"))
    assert offload(card, [safe]).brought.missed == () and units_on(card, safe)[0].safe


def test_copies_never_go_to_the_card_itself_nor_twice_to_one_place(tmp_path):
    lay(tmp_path / "card", a__mp4=b"a")
    for places, words in (
        ([tmp_path / "card" / "copies"], "on the card itself"),
        ([tmp_path / "x", tmp_path / "." / "x"], "same folder"),
    ):
        with pytest.raises(InputError, match=words):
            offload(tmp_path / "card", places)
    assert [f.name for f in (tmp_path / "card").iterdir()] == ["a.mp4"] and not (tmp_path / "x").exists()
    with pytest.raises(InputError, match="no card"):
        offload(tmp_path / "nothing", [tmp_path / "x"])


def test_a_pattern_is_filled_with_what_is_known_and_never_leads_out():
    facts = {"day": "2026-10-14", "shot": "Roof: through Cobdale?", "take": "take 2", "path": "DCIM/100"}
    assert filled(PATTERN, facts) == "2026-10-14/Roof- through Cobdale/take 2"
    assert filled("{day}/{shot}", {"day": "2026-10-14"}) == "2026-10-14"
    assert filled("film {day} {camera}/{path}", facts) == "film 2026-10-14/DCIM/100"
    assert filled("{shot}", {"shot": "../../etc"}) == "etc"
    for wrong in ("../{day}", "/{day}", "{hour}", "{day", ".hidden/{day}"):
        with pytest.raises(InputError):
            filled(wrong, facts)
