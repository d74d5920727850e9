"""A card of over forty files by the simulated camera, by other code and by ffmpeg: understood, brought home twice, altered, found."""

import json
import shutil
import subprocess

import pytest
from msgspec.structs import replace

from glintor.cli import main
from glintor.offload.card import files_of, survey
from glintor.offload.contents import admitted, chosen, entries, in_the_day, known_copies, look_through
from glintor.offload.drives import drives, size_words
from glintor.offload.known import entry_facts
from glintor.offload.naming import PATTERN, facts_of_unit, filled
from glintor.offload.run import offload
from glintor.project.model import with_copies
from glintor.project.store import read_project
from tests import foreign
from tests.offload.test_offload import mhl


@pytest.fixture(scope="module")
def forty(tmp_path_factory, demo_folder):
    """Companions in capitals, a three-part film, a series, a bracket, one damaged, two of one name, one flat."""
    root = tmp_path_factory.mktemp("forty")
    folder = root / "DCIM" / "100MAKER"
    folder.mkdir(parents=True)
    foreign.card(folder, foreign.World())
    shutil.copytree(demo_folder / "card", root / "DCIM" / "SIM")
    (root / "DCIM" / "101MAKER").mkdir()
    for at, name in ((1, "ONE"), (3, "OTHER")):  # two films of one name in two folders
        target = root / "DCIM" / ("100MAKER" if name == "ONE" else "101MAKER") / "CLIP_0001.MP4"
        source = f"testsrc2=s=640x320:r=24:d={at}"
        subprocess.run(["ffmpeg", "-v", "error", "-f", "lavfi", "-i", source, str(target)], check=True)
        target.with_suffix(".SRT").write_text(f"1\n00:00:00,000 --> 00:00:01,000\n{name}\n")
    assert len(files_of(root)) >= 40
    return root


def test_it_is_understood_brought_home_twice_and_one_altered_file_is_named(forty, day, tmp_path, capsys):
    project, places = read_project(day), [tmp_path / "home", tmp_path / "drive"]
    contents = look_through(day, forty)
    found = {e.key: e for e in entries(project, day, contents, places) if e.unit is not None}
    rec = found["DCIM/100MAKER/REC_0007_001.MP4"]
    assert rec.kind == "film" and len(rec.files) == 3
    assert [f.name for f in rec.unit.unit.files][3:] == ["REC_0007.GPX"]
    assert found["DCIM/100MAKER/LAP_0001.JPG"].kind == "series" and len(found["DCIM/100MAKER/LAP_0001.JPG"].files) == 7
    assert found["DCIM/100MAKER/BKT_0031_2.JPG"].kind == "bracket"
    assert found["DCIM/100MAKER/CUT_0061.mp4"].kind == "cannot be read" and not found["DCIM/100MAKER/CUT_0061.mp4"].take
    assert found["DCIM/100MAKER/FLAT_0071.mp4"].kind == "flat"
    simulated = next(e for e in found.values() if e.key.endswith("clip-0002.mp4"))
    own = next(e for e in found.values() if "SIM/photos" in e.key and e.kind == "bracket")
    assert len(own.files) == 3 and "6.0 stops" in own.why  # the simulated camera's own photos tell how they were taken
    assert not simulated.in_day  # by its path on another card nothing is known of it
    assert {f.name: f.origin for f in entry_facts(project, rec)}["Camera"] == "unknown"

    rated = replace(rec.take, rating=4, verdict="keep", part_s=(0.5, 1.5))
    project, _ = admitted(project, contents, [rated])
    fresh = [e.take for e in found.values() if e.take is not None and e.key != rec.key]
    project, _ = admitted(project, contents, fresh)
    there = in_the_day(project, rec)
    assert there is not None and there[1].rating == 4 and there[1].files[0].on_card_alone

    def inside(unit):
        return filled(PATTERN, facts_of_unit(unit, forty, project))

    done = offload(forty, places, together=contents.together, inside=inside)
    assert done.brought.missed == () and done.safety.clear, done.safety.words
    assert done.safety.words == f"Safe to clear: all {len(files_of(forty))} files are proven in two places."
    homes = {file.parent for file in places[0].rglob("REC_0007*.*")}
    assert len(homes) == 1 and homes.pop().name == "REC_0007"  # parts and what belongs to them lie together
    assert len(list(places[1].rglob("CLIP_0001*.MP4"))) == 2 == len(list(places[1].rglob("CLIP_0001*.SRT")))
    for place in places:
        assert mhl("ascmhl-debug", "verify", place) == 0 and mhl("ascmhl", "diff", place) == 0

    project = with_copies(
        project, known_copies(project, [], places[0], "home", own_card=False)
    )  # the card may be gone by now
    safe = in_the_day(project, rec)[1]
    assert all(file.copy.startswith("home/") and file.xxh64 for file in safe.files)
    after = entries(project, day, contents, places)
    assert not chosen(after, "unsafe", "name")[0].unit  # of the card all is safe; the day's own takes are elsewhere
    assert [e.name for e in chosen(after, "starred", "stars") if e.unit] == ["REC_0007"]
    lengths = [e.length_s or 0.0 for e in chosen(after, "card", "length") if e.take is not None]
    assert lengths == sorted(lengths, reverse=True)

    target = next(places[1].rglob("BKT_0031_1.JPG"))
    raw = bytearray(target.read_bytes())
    raw[len(raw) // 2] ^= 1
    target.write_bytes(bytes(raw))
    capsys.readouterr()
    assert main(["verify", str(places[1]), "--json"]) == 1
    told = json.loads(capsys.readouterr().out)
    assert [name.rsplit("/")[-1] for name in told["altered"]] == ["BKT_0031_1.JPG"] and not told["missing"]
    assert mhl("ascmhl-debug", "verify", places[1]) != 0
    assert not next(u for u in survey(forty, *places, together=contents.together).units if "BKT" in u.name).safe


def test_two_recordings_of_one_name_in_one_place_keep_their_parts_together(tmp_path):
    """Whatever lies there already: no file of the second takes the name of one of the first."""
    places = [tmp_path / "home"]
    for card in ("one", "two"):
        (tmp_path / card).mkdir()
        for name in ("REC_001.MP4", "REC_002.MP4", "REC_001.SRT", "REC.GPX"):
            (tmp_path / card / name).write_bytes(f"{card} {name}".encode() * 50)
        root = tmp_path / card
        together = [[root / "REC_001.MP4", root / "REC_002.MP4", root / "REC.GPX"]]
        assert len(survey(root, *places, together=together).units) == 1
        assert offload(root, places, together=together).brought.files == 4
        assert offload(root, places, together=together).brought.files == 0
    there = {f.name: f.read_bytes().split()[0] for f in files_of(places[0]) if f.parent.name == "home"}
    second = {name for name, whose in there.items() if whose == b"two"}
    assert second == {"REC_001-2.MP4", "REC_002-2.MP4", "REC_001-2.SRT", "REC-2.GPX"} and len(there) == 8


def test_what_is_plugged_in_is_known_by_its_bus_or_where_it_is_mounted(tmp_path):
    """In the form of mountinfo: proc(5), section /proc/pid/mountinfo, with \\040 for a blank."""
    card, stick, disk = tmp_path / "CARD A", tmp_path / "stick", tmp_path / "disk"
    device = tmp_path / "devices"
    blocks = tmp_path / "class"
    blocks.mkdir()
    for name, path, removable in (
        ("sdb1", device / "usb1" / "sdb" / "sdb1", None),
        ("sdc1", device / "pci0" / "sdc" / "sdc1", "1"),
        ("sda2", device / "pci0" / "sda" / "sda2", "0"),
    ):
        path.mkdir(parents=True)
        if removable is not None:
            (path.parent / "removable").write_text(removable + "\n")
        (blocks / name).symlink_to(path)
    for folder in (card, stick, disk):
        folder.mkdir()
    lines = [
        f"36 25 8:1 / {str(root).replace(' ', chr(92) + '040')} rw,relatime shared:1 - exfat /dev/{name} rw"
        for root, name in ((card, "sdb1"), (stick, "sdc1"), (disk, "sda2"))
    ]
    mounts = tmp_path / "mountinfo"
    mounts.write_text("\n".join([*lines, "22 1 0:5 / / rw - ext4 /dev/sda1 rw", "torn line"]) + "\n")
    found = drives(mounts, blocks)
    assert [drive.root for drive in found] == [card, stick] and found[0].name == "CARD A"
    assert found[0].size_bytes > 0 and drives(tmp_path / "nothing", blocks) == ()
    assert (size_words(58e9), size_words(5.31e6), size_words(999)) == ("58 GB", "5.3 MB", "999 B")
