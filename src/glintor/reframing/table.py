"""A path as an open table: CSV with the header `time_s,yaw_deg,pitch_deg,roll_deg,fov_deg,bend`, a keyframe a row."""

import io
import math
from collections.abc import Mapping, Sequence
from pathlib import Path

from glintor.errors import InputError, shortened
from glintor.files import write_bytes
from glintor.quantities import absurd
from glintor.reframing.path import SAME_TIME_S, Keyframe, PathError

COLUMNS = ("time_s", "yaw_deg", "pitch_deg", "roll_deg", "fov_deg", "bend")


def read_rows(
    path: Path, columns: Sequence[str], *, words: Mapping[str, Mapping[str, float]] = {}
) -> list[tuple[int, list[float]]]:
    """Line number and finite numbers of each row of a CSV with this header. words: numbers that stand for words, by column. Raises
    PathError naming the line."""
    import csv  # a window starts without it

    try:
        text = path.read_text(encoding="utf-8-sig")
    except FileNotFoundError as error:
        raise PathError(f"There is no path file {path}.", advice="Check the name.") from error
    except (OSError, UnicodeDecodeError) as error:
        raise PathError(f"{path.name} cannot be read as text.", advice="Give a CSV file in UTF-8.") from error
    rows = list(csv.reader(io.StringIO(text)))
    if not rows or [cell.strip() for cell in rows[0]] != list(columns):
        raise PathError(
            f"{path.name}, line 1: the header must be {','.join(columns)}.", advice="Add or mend that line."
        )
    out = []
    for number, row in enumerate(rows[1:], start=2):
        if not any(cell.strip() for cell in row):
            continue
        if len(row) != len(columns):
            raise PathError(
                f"{path.name}, line {number}: {len(row)} values where {len(columns)} belong.", advice="Mend that line."
            )
        values = []
        for name, cell in zip(columns, row, strict=True):
            try:
                value = words[name][cell.strip()] if name in words else float(cell)
            except KeyError:
                value = math.nan
            except ValueError:
                value = math.nan
            if absurd(name, value) is not None:
                raise PathError(
                    f"{path.name}, line {number}: {name} is {shortened(cell.strip(), 30) or 'empty'!r}.",
                    advice="Give a number.",
                )
            values.append(value)
        out.append((number, values))
    return out


def read_path(path: Path) -> tuple[Keyframe, ...]:
    """The keyframes in the file, in order of time. Raises PathError with the line that is wrong."""
    keys: list[Keyframe] = []
    for number, values in read_rows(path, COLUMNS):
        time_s, yaw, pitch, roll, fov, bend = values
        key = Keyframe(time_s=time_s, yaw_deg=yaw, pitch_deg=pitch, roll_deg=roll, fov_deg=fov, bend=bend)
        try:
            key.check()
        except InputError as error:
            raise PathError(f"{path.name}, line {number}: {error}") from error
        if key.time_s < 0:
            raise PathError(
                f"{path.name}, line {number}: the time {key.time_s:g} s is before the clip.", advice="Start at 0."
            )
        if keys and key.time_s - keys[-1].time_s < SAME_TIME_S:
            order = "the same time as" if abs(key.time_s - keys[-1].time_s) < SAME_TIME_S else "a time before"
            raise PathError(
                f"{path.name}, line {number}: {key.time_s:g} s is {order} the row above.",
                advice="Put the rows in order of time.",
            )
        keys.append(key)
    if not keys:
        raise PathError(f"{path.name} has no keyframe under its header.", advice="Add at least one row.")
    return tuple(keys)


def write_path(path: Path, keys: Sequence[Keyframe]) -> None:
    """Writes the keyframes with six decimals, whole. Raises WriteError."""
    lines = [",".join(COLUMNS)] + [",".join(f"{getattr(key, name):.6f}" for name in COLUMNS) for key in keys]
    write_bytes(path, ("\n".join(lines) + "\n").encode())
