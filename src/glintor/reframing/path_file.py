"""A cut's path as a file of its own: JSON with all of it, or CSV of plain keyframes or of the view at even steps."""

from pathlib import Path
from typing import Annotated

import msgspec
import numpy as np
from msgspec import Meta
from msgspec.structs import replace

from glintor.errors import InputError, shortened
from glintor.files import write_bytes
from glintor.quantities import first_absurd
from glintor.reframing.anchor import Anchor
from glintor.reframing.course import NOTHING, Targets, shared
from glintor.reframing.cut import Cut, Move, Own
from glintor.reframing.path import Keyframe, PathError, ViewPath
from glintor.reframing.retime import Stretch
from glintor.reframing.table import read_path, write_path

FORMAT, VERSION = "glintor-path", 2


class PathFile(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """What the JSON holds: keyframes, what they may be held on, what shapes have of their own; and from version 2 on the ready moves
    that keyframes belong to and where the speed changes. The views beside are other cuts', and stay with them."""

    format: str = FORMAT
    version: int = VERSION
    keys: Annotated[tuple[Keyframe, ...], Meta(min_length=1)]
    anchors: tuple[Anchor, ...] = ()
    own: tuple[Own, ...] = ()
    moves: tuple[Move, ...] = ()
    speeds: tuple[Stretch, ...] = ()


def write_path_of(path: Path, cut: Cut, *, every_s: float | None = None, targets: Targets = NOTHING) -> str:
    """Writes a cut's path; what of it the file leaves out, in words, "" for nothing. As CSV plain keyframes alone, or with every_s the view
    that all shapes share at even steps from in to out, of whatever it is held on. Raises PathError, WriteError."""
    if path.suffix.lower() == ".json":
        content = PathFile(keys=cut.keys, anchors=cut.anchors, own=cut.own, moves=cut.moves, speeds=cut.speeds)
        write_bytes(path, msgspec.json.format(msgspec.json.encode(content), indent=2) + b"\n")
        return "" if cut.beside is None else "Not in it: the views beside, which are other cuts'"
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
    return _left_out(cut, even=every_s is not None)


def _left_out(cut: Cut, *, even: bool) -> str:
    """What a table of views does not tell of a cut."""
    told = [
        (cut.speeds, "where the speed changes"),
        (cut.moves and not even, "which keyframes are a ready move's"),
        (cut.beside is not None, "what else the picture shows"),
        (cut.own and even, "what shapes have of their own"),
    ]
    lacking = [words for there, words in told if there]
    return f"Not in a .csv: {', '.join(lacking)}; a .json has it" if lacking else ""


def plain(cut: Cut) -> bool:
    """Whether a cut's keyframes are all that a table of them says."""
    return all(key == Keyframe.of(key.time_s, key.view) for key in cut.keys) and not cut.own


def with_path_of(cut: Cut, path: Path) -> Cut:
    """A cut with the path that a file holds. Raises PathError, which says what is wrong with it."""
    if path.suffix.lower() == ".csv":
        return replace(cut, keys=read_path(path), anchors=(), own=(), moves=())
    try:
        content = msgspec.json.decode(path.read_bytes(), type=PathFile)
    except OSError as error:
        raise PathError(f"There is no path file {path}.", advice="Check the name.") from error
    except (msgspec.MsgspecError, UnicodeDecodeError, RecursionError) as error:
        raise PathError(
            f"{path.name} is no path: {shortened(str(error), 120)}.", advice="Give one that was written here."
        ) from error
    if content.format != FORMAT or not 1 <= content.version <= VERSION:
        raise PathError(
            f"{path.name} is of the format {shortened(content.format, 30)!r}, version {content.version}.",
            advice=f"This reads {FORMAT}, up to version {VERSION}.",
        )
    wrong = first_absurd(content)
    if wrong is not None:
        raise PathError(f"{path.name}, at {wrong}.", advice="Mend that value.")
    ViewPath(content.keys)
    known = {anchor.id for anchor in content.anchors}
    loose = next((key.on for key in content.keys if key.on and key.on not in known), None)
    if loose is not None:
        raise PathError(f"{path.name} holds the view on {loose!r}, which it does not tell.", advice="Mend its anchors.")
    keys = tuple(sorted(content.keys, key=lambda k: k.time_s))
    found = replace(cut, keys=keys, anchors=content.anchors, own=content.own, moves=content.moves)
    if content.version < 2:
        return found
    found = replace(found, speeds=content.speeds)
    try:
        _ = found.timeline.duration_s
    except InputError as error:
        raise PathError(f"{path.name} does not fit this cut: {error.what}", advice="Mend its speeds.") from error
    return found
