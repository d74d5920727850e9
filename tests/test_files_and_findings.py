import errno

import pytest

from glintor.errors import Cancelled, GlintorError, InputError
from glintor.files import WriteError, whole_file, write_bytes, write_error
from glintor.finding import Cure, Finding, Level, worst_first


def test_a_file_is_old_or_new_never_half(tmp_path):
    target = tmp_path / "deep" / "file.txt"
    write_bytes(target, b"one")
    with pytest.raises(RuntimeError), whole_file(target) as part:
        part.write_bytes(b"half of tw")
        raise RuntimeError
    assert target.read_bytes() == b"one"
    write_bytes(target, b"two")
    assert target.read_bytes() == b"two"
    assert [p.name for p in target.parent.iterdir()] == ["file.txt"]


def test_the_temporary_name_keeps_the_suffix(tmp_path):
    with whole_file(tmp_path / "film.mp4") as part:
        assert part.suffix == ".mp4" and part.parent == tmp_path
        part.write_bytes(b"x")


@pytest.mark.parametrize(
    ("code", "words"),
    [(errno.ENOSPC, "No space left"), (errno.EACCES, "cannot be written to"), (errno.EROFS, "cannot be written to"), (errno.ENOENT, "is gone"),
     (errno.ENOTDIR, "is not a folder"), (errno.EIO, "could not be written")],
)  # fmt: skip
def test_what_the_system_says_becomes_words(tmp_path, code, words):
    error = write_error(tmp_path / "a.mp4", OSError(code, "system words"))
    assert words in error.what and "unharmed" in error.unharmed and error.advice


def test_a_read_only_folder_is_said(tmp_path, monkeypatch):
    """Root may write anywhere, so the system's answer is put in its mouth."""

    def refuse(*_args, **_options):
        raise PermissionError(errno.EACCES, "Permission denied")

    monkeypatch.setattr("pathlib.Path.write_bytes", refuse)
    with pytest.raises(WriteError, match="cannot be written to"):
        write_bytes(tmp_path / "a.txt", b"x")


def test_errors_have_exit_codes_and_all_three_parts():
    error = InputError("It broke.", unharmed="The rest is fine.", advice="Mend it.")
    assert str(error) == "It broke. The rest is fine. Mend it." and error.exit_code == 2
    assert GlintorError("x").exit_code == 1 and Cancelled().unharmed


def finding(level: Level, **values) -> Finding:
    return Finding(desk="place", kind="seam", level=level, title="T", reason="R", **values)


def test_measures_carry_unit_and_limit():
    assert finding(Level.NOTE, value=31.2, limit=4.0, unit="px", digits=0).measure == "31 px, limit 4 px"
    assert finding(Level.NOTE, value=1.25, unit="°").measure == "1.2°"
    assert finding(Level.NOTE).measure == ""


def test_the_worst_comes_first_and_order_is_kept():
    found = [
        finding(Level.NOTE),
        finding(Level.STOP),
        finding(Level.CAUTION),
        finding(Level.STOP, cure=Cure("c", "f", 1.0)),
    ]
    assert [f.level for f in worst_first(found)] == [Level.STOP, Level.STOP, Level.CAUTION, Level.NOTE]
    assert worst_first(found)[0].cure is None and Level.CAUTION.word == "caution"
