"""What could not be read back is never written, whoever made it; and no odd file hangs or passes for a fault."""

import json
import re

import msgspec
import pytest
from msgspec.structs import replace

from glintor.cli import main
from glintor.demo.day import SHOTS
from glintor.errors import InputError
from glintor.media.lens_profile import read_lenses
from glintor.project import keeper as keeping
from glintor.project.journal import journal_file, opened, taken_up, write_journal
from glintor.project.keeper import NotKept
from glintor.project.kit import default_kit, read_kit, write_kit
from glintor.project.model import with_cut, with_take
from glintor.project.store import decode, encode, fault_of, read_project
from glintor.project.take import Take, TakeFile
from glintor.quantities import first_absurd
from glintor.reframing.cut import Cut
from glintor.reframing.path import Keyframe, PathError
from glintor.reframing.path_file import with_path_of
from glintor.sphere.lenses import Eye, Lenses
from tests.project.test_keeping import NEWER, PROJECT, file, keeper, named, wait_for  # noqa: F401

TAKE = Take(id="take", name="t", files=(TakeFile(lies="a.mp4"),), duration_s=10.0, width_px=5760, rate_fps=30.0)
CUT = Cut(id="cut", name="Into the dark", take_id="take", in_s=0.0, out_s=9.0, keys=(Keyframe(time_s=1.0),))


def with_yaw(yaw_deg: float):
    cut = replace(CUT, keys=(Keyframe(time_s=1.0, yaw_deg=yaw_deg),))
    return PROJECT.with_shot(SHOTS[0].id, lambda s: with_cut(with_take(s, TAKE), cut))


def with_kit(**values):
    return replace(PROJECT, kit=replace(PROJECT.kit, **values))


FAR_EYE = Lenses(eyes=(Eye(half_deg=141.0), Eye()))
WRONG = {
    "yaw": (with_yaw(-1e308), "yaw_deg"),
    "twice": (with_kit(cameras=PROJECT.kit.cameras + PROJECT.kit.cameras[:1]), "twice"),
    "lens": (with_kit(lenses=(FAR_EYE,)), "140"),
    "name": (replace(PROJECT, site=replace(PROJECT.site, name="caf\udce9")), "surrogates"),
}


@pytest.mark.parametrize("what", WRONG)
def test_what_decode_refuses_is_told_and_what_comes_after_is_kept(file, keeper, monkeypatch, what):  # noqa: F811
    monkeypatch.setattr(keeping, "RETRY_S", 0.02)
    wrong, words = WRONG[what]
    assert words in (fault_of(wrong) or "") and words in (fault_of(wrong, PROJECT) or "")
    keeper.keep(NEWER)
    wait_for(lambda: opened(file).project == NEWER)
    keeper.keep(wrong)
    wait_for(lambda: any(isinstance(told, NotKept) for told in keeper.told))
    assert words in str(keeper.told[-1]) and opened(file).project == NEWER and not keeper.save()
    keeper.keep(PROJECT)
    assert keeper.save() and read_project(file) == PROJECT


def test_sound_days_have_no_fault_whatever_is_known_of_them():
    assert fault_of(PROJECT) is None and fault_of(NEWER, PROJECT) is None and fault_of(with_yaw(179.0), PROJECT) is None
    assert decode(encode(with_yaw(179.0))) == with_yaw(179.0)
    assert fault_of(with_yaw(1e6 + 1)) is not None and fault_of(with_yaw(1e6)) is None  # the bound of an angle


def test_only_what_changed_is_looked_at_again():
    before, after = with_yaw(2e6), replace(with_yaw(2e6), shots=with_yaw(2e6).shots)
    assert first_absurd(after) is not None and first_absurd(replace(before, films=()), before) is None


def test_the_keeper_survives_anything_and_says_it(file, keeper, monkeypatch):  # noqa: F811
    monkeypatch.setattr(keeping, "RETRY_S", 0.02)

    def breaks(*_):
        raise ZeroDivisionError("nobody foresaw this")

    with monkeypatch.context() as broken:
        broken.setattr(keeping, "write_journal", breaks)
        broken.setattr(keeping, "write_project", breaks)
        keeper.keep(NEWER)
        wait_for(lambda: keeper.told)
        assert not keeper.save() and "ZeroDivisionError" in str(keeper.told[0])
    wait_for(lambda: not keeper.unsaved)
    assert read_project(file) == NEWER


@pytest.mark.filterwarnings("ignore::pytest.PytestUnhandledThreadExceptionWarning")
def test_a_keeper_whose_thread_ended_starts_again(file, keeper, monkeypatch):  # noqa: F811
    with monkeypatch.context() as broken:
        broken.setattr(keeper, "_next", lambda: (_ for _ in ()).throw(SystemExit))
        keeper.keep(NEWER)
        wait_for(lambda: not keeper._thread.is_alive())
    keeper.keep(named(7))
    assert keeper.save() and read_project(file).site.name == "edit 7"


def test_an_unreadable_journal_is_set_aside_and_said(file):  # noqa: F811
    journal_file(file).write_bytes(b"\xff half of a jour")
    assert opened(file).unread == journal_file(file)
    day, words = taken_up(file)
    assert day.project == PROJECT and "cannot be read" in words and not journal_file(file).exists()
    kept = file.with_name(f"{journal_file(file).name}.unreadable")
    assert kept.read_bytes() == b"\xff half of a jour" and kept.name in words
    assert taken_up(file)[1] == ""


def test_a_path_put_in_by_the_line_keeps_what_a_killed_session_had_not_saved(file, tmp_path, capsys):  # noqa: F811
    cut = with_yaw(10.0)
    write_journal(file, cut, opened(file).digest)  # killed before it was saved
    (tmp_path / "p.csv").write_text("time_s,yaw_deg,pitch_deg,roll_deg,fov_deg,bend\n1,55,0,0,90,0\n")
    assert main(["path", str(file), "cut", "--from", str(tmp_path / "p.csv")]) == 0
    kept = read_project(file).shot(SHOTS[0].id).cuts[0]
    assert kept.keys[0].yaw_deg == 55.0 and "recovered" in capsys.readouterr().out


@pytest.mark.parametrize("number", ["-9000000000000000000", "0", "-1", "true", "1.5", '"6"', "null", "1" + "0" * 400])
def test_a_format_that_never_was_is_refused_at_once(file, number, capsys):  # noqa: F811
    file.write_text(re.sub(r'"glintor": \d+', f'"glintor": {number}', file.read_text(), count=1))
    assert main(["check", str(file)]) == 2
    told = capsys.readouterr().err
    assert "fault in Glintor" not in told and told.count("\n") == 1


@pytest.mark.parametrize("old", [1, 2, 3, 4, 5])
@pytest.mark.parametrize("shots", [7, "x", [7], [{"takes": 3}], [{"takes": [3]}], {"a": 1}, [None]])
def test_an_old_day_that_is_built_otherwise_is_one_clear_sentence(file, old, shots, capsys):  # noqa: F811
    file.write_text(json.dumps({"glintor": old, "shots": shots, "kit": {"cameras": 3}}))
    assert main(["check", str(file)]) == 2
    assert "fault in Glintor" not in capsys.readouterr().err


def test_readers_refuse_at_the_door_what_no_day_could_hold(tmp_path):
    kit, path, lenses = tmp_path / "kit.json", tmp_path / "path.json", tmp_path / "lenses.json"
    write_kit(kit, default_kit())
    raw = json.loads(kit.read_text())
    kit.write_text(json.dumps(raw | {"cameras": raw["cameras"] * 2}))
    with pytest.raises(InputError, match="two cameras have the id camera"):
        read_kit(kit)
    for yaw in (-1e308, 1.1e6):
        path.write_text(json.dumps({"format": "glintor-path", "version": 1, "keys": [{"time_s": 1.0, "yaw_deg": yaw}]}))
        with pytest.raises(PathError, match="yaw_deg"):
            with_path_of(CUT, path)
    lenses.write_bytes(msgspec.json.encode({"glintor_lenses": 1, "lenses": FAR_EYE}))
    with pytest.raises(InputError, match="140"):
        read_lenses(lenses)
    far = replace(FAR_EYE, eyes=(Eye(centre=(1e12, 0.5)), Eye()))
    lenses.write_bytes(msgspec.json.encode({"glintor_lenses": 1, "lenses": far}))
    with pytest.raises(InputError, match="centre"):
        read_lenses(lenses)
    write_kit(kit, default_kit())
    assert read_kit(kit) == default_kit()
