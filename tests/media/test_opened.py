"""A file that was looked into is not opened again for whoever shows it next."""

import os

import pytest

from glintor.media import parts as parts_room
from glintor.media.opened import look_into, open_for_scrubbing
from glintor.media.probe import ClipError, probe
from glintor.media.taken import TakenAs
from glintor.sphere.equirect import HALF
from tests.conftest import make_clip


@pytest.fixture
def opened(monkeypatch):
    files = []
    kind = parts_room.ClipReader

    def counting(path, **how):
        files.append(path.name)
        return kind(path, **how)

    monkeypatch.setattr(parts_room, "ClipReader", counting)
    return files


def test_the_reader_that_looked_is_handed_on_once_with_its_picture(tmp_path, opened):
    file = make_clip(tmp_path / "a.mp4", frames=24)
    looked, first = look_into((file,))
    footage, reader = open_for_scrubbing((file,))
    assert footage is looked and reader.at(0.0) is first and opened == ["a.mp4"]
    again, other = open_for_scrubbing((file,))
    assert again == looked and other is not reader and opened == ["a.mp4", "a.mp4"]
    for one in (reader, other):
        one.close()


def test_nothing_is_handed_on_of_a_file_that_changed_or_is_told_to_be_another(tmp_path, opened):
    file = make_clip(tmp_path / "a.mp4", frames=24)
    look_into((file,))
    assert open_for_scrubbing((file,), TakenAs("half"))[0].shows == HALF and opened == ["a.mp4", "a.mp4"]
    look_into((file,))
    make_clip(file, frames=12)
    os.utime(file, ns=(1, 1))
    footage, reader = open_for_scrubbing((file,), TakenAs("sphere"))
    assert (
        footage.duration_s == 0.5
        and probe(file).frames == 12
        and set(reader.at(0.0).picture.y.ravel().tolist()) == {30}
    )


def test_of_several_only_the_one_that_is_kept_stays_open(tmp_path, opened):
    files = [make_clip(tmp_path / name, frames=6) for name in ("a.mp4", "b.mp4")]
    look_into(files[:1])
    look_into(files[1:], keep=False)
    assert [open_for_scrubbing((file,))[0].name for file in files] == ["a.mp4", "b.mp4"]
    assert opened == ["a.mp4", "b.mp4", "b.mp4"]
    with pytest.raises(ClipError, match="no file"):
        open_for_scrubbing((tmp_path / "gone.mp4",))
