"""A cut's path as a file of its own: JSON with all of it, or CSV of plain keyframes or of the view at even steps."""

from pathlib import Path
from typing import Annotated

import msgspec
import numpy as np
from msgspec import Meta
from msgspec.structs import replace

from glintor.errors import shortened
from glintor.files import write_bytes
from glintor.quantities import first_absurd
from glintor.reframing.anchor import Anchor
from glintor.reframing.course import NOTHING, Targets, shared
from glintor.reframing.cut import Cut, Own
from glintor.reframing.path import Keyframe, PathError, ViewPath
from glintor.reframing.table import read_path, write_path

FORMAT, VERSION = "glintor-path", 1


class PathFile(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """What the JSON holds: keyframes, what they may be held on, and what shapes have of their own."""

    format: str = FORMAT
    version: int = VERSION
    keys: Annotated[tuple[Keyframe, ...], Meta(min_length=1)]
    anchors: tuple[Anchor, ...] = ()
    own: tuple[Own, ...] = ()


def write_path_of(path: Path, cut: Cut, *, every_s: float | None = None, targets: Targets = NOTHING) -> None:
    """Writes a cut's path. As CSV plain keyframes alone, or with every_s the view that all shapes share at even steps from in to out,
    of whatever it is held on. Raises PathError, WriteError."""
    if path.suffix.lower() == ".json":
        content = PathFile(keys=cut.keys, anchors=cut.anchors, own=cut.own)
        write_bytes(path, msgspec.json.format(msgspec.json.encode(content), indent=2) + b"\n")
        return
    if path.suffix.lower() != ".csv":
        raise PathError(f"{path.name}: a path is written as .csv or .json.", advice="Give it one of these endings.")
    if every_s is not None:
        if not every_s >= 1e-3:
            raise PathError(f"Steps of {every_s:g} s cannot be.", advice="Give at least 0.001 s.")
        times = np.arange(cut.begins_s, cut.ends_s + every_s / 2, every_s)
        course = shared(cut, targets)
        keys = [Keyframe.of(float(t), course.at(float(t))) for t in times]
    elif plain(cut):
        keys = list(cut.keys)
    else:
        raise PathError(
            f"The path of {cut.name} is more than plain keyframes: it is held on something, or eased, or goes ways of its own.",
            advice="Write it as .json, or its views at even steps (--every 0.04).",
        )
    write_path(path, keys)


def plain(cut: Cut) -> bool:
    """Whether a cut's keyframes are all that a table of them says."""
    return all(key == Keyframe.of(key.time_s, key.view) for key in cut.keys) and not cut.own


def with_path_of(cut: Cut, path: Path) -> Cut:
    """A cut with the path that a file holds. Raises PathError, which says what is wrong with it."""
    if path.suffix.lower() == ".csv":
        return replace(cut, keys=read_path(path), anchors=(), own=())
    try:
        content = msgspec.json.decode(path.read_bytes(), type=PathFile)
    except OSError as error:
        raise PathError(f"There is no path file {path}.", advice="Check the name.") from error
    except (msgspec.MsgspecError, UnicodeDecodeError, RecursionError) as error:
        raise PathError(
            f"{path.name} is no path: {shortened(str(error), 120)}.", advice="Give one that was written here."
        ) from error
    if (content.format, content.version) != (FORMAT, VERSION):
        raise PathError(
            f"{path.name} is of the format {shortened(content.format, 30)!r}, version {content.version}.",
            advice=f"This reads {FORMAT}, version {VERSION}.",
        )
    wrong = first_absurd(content)
    if wrong is not None:
        raise PathError(f"{path.name}, at {wrong}.", advice="Mend that value.")
    ViewPath(content.keys)
    known = {anchor.id for anchor in content.anchors}
    loose = next((key.on for key in content.keys if key.on and key.on not in known), None)
    if loose is not None:
        raise PathError(f"{path.name} holds the view on {loose!r}, which it does not tell.", advice="Mend its anchors.")
    return replace(
        cut, keys=tuple(sorted(content.keys, key=lambda k: k.time_s)), anchors=content.anchors, own=content.own
    )
