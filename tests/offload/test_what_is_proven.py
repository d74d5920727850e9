"""What may not be called safe: a card that was not seen whole, a list that does not read back, a place that failed."""

import errno
import json
import os
import shutil
from pathlib import Path

import pytest

from glintor.cli import main
from glintor.errors import InputError
from glintor.files import WriteError
from glintor.names import path_of, plain_name, text_of
from glintor.offload.run import offload
from glintor.offload.transfer import transfer
from glintor.offload.verify import verify
from glintor.project.recordings import look_at
from glintor.project.store import places_of
from glintor.walk import walked
from tests.offload.test_offload import lay, mhl, state

ODD = os.fsdecode(b"caf\xe9.mp4")  # as an older camera writes it: ISO 8859-1


@pytest.fixture
def places(tmp_path):
    return [tmp_path / "one", tmp_path / "two"]


@pytest.fixture
def card(tmp_path):
    lay(tmp_path / "card", a__mp4=b"film" * 5000, b__jpg=b"photo")
    return tmp_path / "card"


def test_a_relative_place_has_a_list_that_others_read(card, tmp_path, monkeypatch, capsys):
    monkeypatch.chdir(tmp_path)
    assert main(["offload", "card", "one", "./two", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["safe_to_clear"] and told["list"][0]["copies"] == [str(tmp_path / p / "a.mp4") for p in ("one", "two")]
    for place in ("one", "two"):
        assert main(["verify", place]) == 0 and mhl("ascmhl-debug", "verify", tmp_path / place) == 0


def test_a_copy_that_no_list_names_is_not_called_safe(card, places):
    assert offload(card, places).safety.clear
    shutil.rmtree(places[1] / "ascmhl")
    done = offload(card, places)  # the list is written anew
    assert done.safety.clear
    list_ = next((places[1] / "ascmhl").glob("*.mhl"))
    list_.write_text(list_.read_text().replace("a.mp4<", "x.mp4<"))  # not what its chain tells
    from glintor.offload.card import safety, survey
    from glintor.offload.manifest import listed_hashes

    told = safety(survey(card, *places), [listed_hashes(place) for place in places])
    assert not told.clear and "2 of their copies not in a list of checksums" in told.words


def _hidden(card: Path) -> None:
    lay(card / ".trash-hidden-by-somebody".replace(".trash-", ".kept-"), c__mp4=b"film")


def _link_off(card: Path) -> None:
    lay(card.parent / "elsewhere", secret__mp4=b"not of this card")
    (card / "c.mp4").symlink_to(card.parent / "elsewhere" / "secret.mp4")


def _link_to_folder_off(card: Path) -> None:
    lay(card.parent / "elsewhere", secret__mp4=b"not of this card")
    (card / "more").symlink_to(card.parent / "elsewhere")


def _pipe(card: Path) -> None:
    os.mkfifo(card / "c.mp4")


def _found_again(card: Path) -> None:
    lay(card / "FOUND.000", FILE0000__CHK=b"film")


@pytest.mark.parametrize("odd", [_hidden, _link_off, _link_to_folder_off, _pipe, _found_again])
def test_what_was_not_looked_at_is_named_and_forbids_the_sentence(card, places, odd):
    odd(card)
    done = offload(card, places)
    assert not done.safety.clear and done.safety.twice == 2
    assert "1 not looked at: " in done.safety.words and len(done.safety.unseen) == 1
    assert not any("secret" in file.name for place in places for file in place.rglob("*"))


def test_a_folder_that_cannot_be_read_is_named_and_forbids_the_sentence(card, places, monkeypatch):
    """Root may read everything, so the system's refusal is played."""
    lay(card / "closed", c__mp4=b"film")
    real = os.scandir

    def scandir(folder):
        if not isinstance(folder, int) and Path(folder).name == "closed":
            raise PermissionError(errno.EACCES, "Permission denied")
        return real(folder)

    monkeypatch.setattr("glintor.walk.os.scandir", scandir)
    done = offload(card, places)
    assert not done.safety.clear and "closed (cannot be read: Permission denied)" in done.safety.words


def test_what_systems_keep_for_themselves_is_said_and_a_link_inside_hides_nothing(card, places):
    lay(card / "System Volume Information", x=b"")
    (card / "again.mp4").symlink_to(card / "a.mp4")
    done = offload(card, places)
    assert done.safety.clear
    assert done.safety.words == (
        "Safe to clear: all 2 files are proven in two places. "
        "Not looked at: System Volume Information (kept by a system for itself)."
    )


def _fails_in(monkeypatch, folder: Path, number: int) -> None:
    """Every write below a folder fails, as on a full disk or one without inodes."""
    real = os.open

    def opened(path, *rest, **more):
        if Path(os.fsdecode(path)).is_relative_to(folder) and ".part" in os.fsdecode(path):
            raise OSError(number, os.strerror(number))
        return real(path, *rest, **more)

    monkeypatch.setattr("glintor.offload.transfer.os.open", opened)


@pytest.mark.parametrize("broken", [0, 1])
@pytest.mark.parametrize("number", [errno.ENOSPC, errno.EROFS, errno.EIO])
def test_a_place_that_fails_does_not_take_the_other_along(card, places, monkeypatch, broken, number):
    before = state(card)
    _fails_in(monkeypatch, places[broken], number)
    done = offload(card, places)
    sound = places[1 - broken]
    assert verify(sound).same == ("a.mp4", "b.jpg") and mhl("ascmhl-debug", "verify", sound) == 0
    assert done.brought.files == 2 and [place for place, _ in done.brought.given_up] == [places[broken]]
    assert str(places[broken]) in done.words and not done.safety.clear and done.safety.once == 2
    assert state(card) == before


def test_a_place_that_fails_in_the_middle_of_a_file_leaves_the_other_whole(card, places, monkeypatch):
    """A disk that takes so many bytes and no more: the system's own answer, on a small file system of its own, needs root; here played."""
    monkeypatch.setattr("glintor.offload.transfer._BLOCK", 1 << 12)
    from glintor.offload import transfer as room

    real = room._Goal._write
    written = {"bytes": 0}

    def write(goal):
        if goal.target.is_relative_to(places[1]):

            class Full:
                def write(self, block):
                    written["bytes"] += len(block)
                    if written["bytes"] > 9000:
                        raise OSError(errno.ENOSPC, "No space left on device")
                    return file.write(block)

                def __getattr__(self, name):
                    return getattr(file, name)

            file = goal._file
            goal._file = Full()
            try:
                return real(goal)
            finally:
                goal._file = file
        return real(goal)

    monkeypatch.setattr(room._Goal, "_write", write)
    done = offload(card, places)
    assert (places[0] / "a.mp4").read_bytes() == b"film" * 5000 and not list(places[1].rglob("*.mp4"))
    assert done.brought.files == 2 and "No space left" in done.words


def test_a_list_that_cannot_be_written_does_not_swallow_the_rest(card, places, monkeypatch):
    from glintor.offload import run

    real = run.write_manifest

    def write(folder):
        if folder == places[0]:
            raise WriteError("No space left.")
        return real(folder)

    monkeypatch.setattr(run, "write_manifest", write)
    done = offload(card, places)
    assert done.safety.twice == 2 and not done.safety.clear and "No list of checksums" in done.words
    assert verify(places[1]).sound


def test_one_place_without_room_is_given_up_before_anything_is_copied(card, places, monkeypatch):
    real = shutil.disk_usage
    monkeypatch.setattr("glintor.offload.copy._existing", lambda folder: folder)
    for place in places:
        place.mkdir()
    small = real(places[0])._replace(free=1000)
    monkeypatch.setattr("glintor.offload.copy.shutil.disk_usage", lambda f: small if f == places[0] else real(f))
    monkeypatch.setattr(type(places[0]), "stat", _other_disk(places[0]))
    done = offload(card, places)
    assert verify(places[1]).sound and done.safety.once == 2 and "1000" not in done.words and "MB" in done.words


def _other_disk(first: Path):
    real = Path.stat

    def stat(path, **more):
        told = real(path, **more)
        if path == first:
            return os.stat_result([*told[:2], told.st_dev + 1, *told[3:10]])
        return told

    return stat


# Names that are no text


def test_a_name_that_is_no_text_has_a_form_that_leads_back():
    for raw in (b"caf\xe9.mp4", b"\xff\xfe/a.mp4", "so \ufffd it is.mp4".encode(), b"plain.mp4", "é.mp4".encode()):
        name = os.fsdecode(raw)
        json.dumps(text_of(name)).encode()
        assert text_of(name).encode() and os.fsencode(path_of(text_of(name))) == raw
    assert text_of(ODD) == "caf\ufffdE9.mp4" and plain_name(ODD) == "café.mp4" and plain_name("a\x01b") == "a_b"


def test_a_recording_of_such_a_name_comes_home_with_proof(card, places, capsys):
    """The copy has a name that the list and every disk can hold; the original keeps its own."""
    (card / ODD).write_bytes(b"another film")
    (card / ODD.replace("mp4", "gpx")).write_bytes(b"its way")
    assert main(["offload", str(card), *map(str, places)]) == 0
    assert "Safe to clear: all 4 files" in capsys.readouterr().out
    for place in places:
        assert (place / "café.mp4").read_bytes() == b"another film" and (place / "café.gpx").exists()
        assert mhl("ascmhl-debug", "verify", place) == 0
    assert offload(card, places).brought.files == 0


def test_a_day_holds_a_recording_of_such_a_name(tmp_path, clip):
    film = tmp_path / ODD
    shutil.copyfile(clip, film)
    found = look_at(tmp_path / "day" / "x.glintor", [film], told="sphere")
    assert found.takes and not found.refused and found.takes[0].name == "caf\ufffdE9"
    assert next(places_of(tmp_path / "day" / "x.glintor", found.takes[0].files[0])) == film


# Damaged lists


@pytest.mark.parametrize("content", [b"", b"<", b"\xff\xfe", b"<hashlist/>", None])
@pytest.mark.parametrize("which", ["*.mhl", "ascmhl_chain.xml"])
def test_a_damaged_or_missing_list_is_one_clear_sentence(card, places, which, content, capsys):
    offload(card, places[:1])
    file = next((places[0] / "ascmhl").glob(which))
    file.unlink() if content is None else file.write_bytes(content)
    assert main(["verify", str(places[0])]) == 2
    told = capsys.readouterr().err
    assert "list of checksums" in told and "fault in Glintor" not in told and told.count("\n") == 1


def test_files_of_others_that_no_list_can_hold_are_told(card, places):
    offload(card, places[:1])
    (places[0] / ODD).write_bytes(b"x")
    done = offload(card, places[:1])
    assert "caf\ufffdE9.mp4 cannot be listed by its name" in done.words
    assert verify(places[0]).unlisted == ("caf\ufffdE9.mp4",) and verify(places[0]).sound
    assert [one.why for one in walked(places[0]).unseen if one.matters] == ["hidden"]  # Glintor's own


def test_an_original_that_is_gone_is_no_fault_of_a_place(card, places):
    from glintor.offload.copy import CopyError
    from glintor.offload.transfer import Progress

    with pytest.raises(CopyError, match="went away"):
        transfer(card / "gone.mp4", [places[0] / "gone.mp4"], Progress(1, lambda _s: None, None))
    with pytest.raises(InputError):
        offload(card / "nothing", places)


def test_a_list_of_a_part_that_is_no_more_is_removed(card, places):
    """A kill between the naming of a copy and the removal of its list."""
    offload(card, places)
    left = places[0] / ".a.mp4.0123456789abcdef.part.list"
    left.write_text("0123456789abcdef\n")
    (places[0] / ".copies.json").unlink()
    offload(card, places)
    assert not left.exists() and verify(places[0]).sound


def test_what_lies_under_a_companions_name_is_not_taken_for_its_copy(card, places):
    """A way of another day was put there by hand before."""
    lay(card, a__gpx=b"its way")
    lay(places[0], a__gpx=b"another")  # of the same length
    done = offload(card, places)
    assert (places[0] / "a.gpx").read_bytes() == b"another" and done.safety.clear
    assert (places[0] / "a-2.gpx").read_bytes() == b"its way"


@pytest.mark.parametrize("more", [-1, 1])
def test_a_copy_of_another_length_is_never_named(card, places, monkeypatch, more):
    """A disk that loses, or adds, what lies behind the last whole stretch: every checksum of what is there is right."""
    monkeypatch.setattr("glintor.offload.transfer.STRETCH", 10_000)

    def rots(handle):
        size = os.fstat(handle).st_size
        if size == 20_000:
            os.ftruncate(handle, size + more * (10_000 if more < 0 else 1))
        return True

    monkeypatch.setattr("glintor.offload.transfer.let_go", rots)
    done = offload(card, places[:1])
    assert "not the same" in done.brought.missed[0][1] and not (places[0] / "a.mp4").exists()
