"""How large a film will be: short pieces of it are rendered and packed as it will be, and counted."""

import tempfile
import threading
from collections.abc import Sequence
from itertools import pairwise
from math import ceil
from pathlib import Path

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from glintor.export.cut import Form, Wanted, render_cuts
from glintor.export.formats import Format
from glintor.media.encoding import Encoding, codec_named
from glintor.media.probe import open_clip
from glintor.project.model import Project, Shot, take_of
from glintor.reframing.cut import Cut

_PIECES, _PIECE_S = 3, 1.5
_OVERHEAD = 1.003  # of the container


class Sample(Struct, frozen=True):
    """What a packed piece came to: bytes of a key frame, of any other frame and of a second of sound; other is key where there are none."""

    key_bytes: float
    other_bytes: float
    sound_bytes_s: float


def sampled(film: Path) -> Sample:
    """Of a short film. Raises ClipError."""
    with open_clip(film) as container:
        keys: list[int] = []
        others: list[int] = []
        sound = 0
        length_s = float((container.duration or 1) / 1e6)
        for packet in container.demux():
            if packet.stream.type == "audio":
                sound += packet.size
            elif packet.size:
                (keys if packet.is_keyframe else others).append(packet.size)
    key = float(np.mean(keys)) if keys else 0.0
    return Sample(key, float(np.mean(others)) if others else key, sound / length_s)


def pieces_of(cut: Cut) -> list[tuple[float, float]]:
    """Stretches of the clip that tell of a cut: the whole where it is short."""
    length = cut.out_s - cut.in_s
    if length <= _PIECES * _PIECE_S:
        return [(cut.in_s, cut.out_s)]
    middles = [cut.in_s + length * (n + 0.5) / _PIECES for n in range(_PIECES)]
    return [(middle - _PIECE_S / 2, middle + _PIECE_S / 2) for middle in middles]


def probed_bytes(
    project_file: Path,
    project: Project,
    shot: Shot,
    cut: Cut,
    shapes: Sequence[Format],
    encoding: Encoding,
    stop: threading.Event | None = None,
) -> dict[str, int]:
    """Expected bytes of a cut's film in each shape, by its name: measured on four and a half seconds of it, where it is longer. Raises as `render`
    does."""
    take = take_of(shot, cut.take_id)
    spans = pieces_of(cut)
    edges = np.linspace(cut.in_s, cut.out_s, len(spans) + 1)
    weights = [replace(cut, in_s=float(a), out_s=float(b)).timeline.frames(take.rate_fps) for a, b in pairwise(edges)]
    frames, length_s = cut.timeline.frames(take.rate_fps), cut.timeline.duration_s
    keys = ceil(length_s / encoding.key_every_s) if codec_named(encoding.codec).by_quality else frames
    out = {}
    with tempfile.TemporaryDirectory(prefix="glintor-") as name:
        wanted = [
            Wanted(
                replace(cut, id=f"{cut.id}-{number}", in_s=span[0], out_s=span[1]),
                Form(shape, Path(name) / f"{number}-{shape.in_file_names}{encoding.suffix}", encoding),
            )
            for number, span in enumerate(spans)
            for shape in shapes
        ]
        render_cuts(project_file, shot, wanted, project=project, stop=stop)
        for shape in shapes:
            samples = [sampled(w.form.target) for w in wanted if w.form.shape == shape]
            key, other, sound = (
                float(np.average([getattr(s, field) for s in samples], weights=np.maximum(weights, 1e-6)))
                for field in Sample.__struct_fields__
            )
            out[shape.name] = round(_OVERHEAD * (keys * key + (frames - keys) * other + sound * length_s))
    return out
