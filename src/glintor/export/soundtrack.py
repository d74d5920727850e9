"""What a film of strands in a row sounds like: each strand's own sound, carried over joins where that is wanted."""

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from glintor.export.sound import film_sound
from glintor.export.strand import Strand

Block = NDArray[np.float32]


def sound_in_a_row(strands: Sequence[Strand], from_s: float = 0.0) -> Iterator[Block] | None:
    """The sound of strands one after the other, from a moment of their film on; silence where one has none, None where none has any.
    Where that is wanted the one before goes on under the next."""
    if all(strand.sound == "none" or strand.track is None for strand in strands):
        return None
    return _in_a_row(strands, from_s)


def _in_a_row(strands: Sequence[Strand], from_s: float) -> Iterator[Block]:
    begins_s, before = 0.0, None
    for strand in strands:
        timeline = strand.timeline
        into_s = from_s - begins_s
        begins_s += timeline.duration_s
        if into_s >= timeline.duration_s:
            before = strand
            continue
        track = strand.sounding(max(into_s, 0.0))
        if track is None:
            track = film_sound(strand.footage.sound, timeline, muted=True, from_s=max(into_s, 0.0))
        carried = None if before is None or into_s > 0.0 else _going_on(before, strand.carry_s)
        yield from track if carried is None else crossed(carried, track)
        before = strand


def _going_on(strand: Strand, for_s: float) -> Block | None:
    """What is heard after the end of a strand, (2, n); None where nothing is to be, or nothing is there."""
    if for_s <= 0.0 or strand.track is None or strand.sound == "none" or not strand.plain:
        return None
    end = min(strand.ends_s + for_s, strand.footage.duration_s)
    blocks = list(strand.track(strand.ends_s, end)) if end > strand.ends_s else []
    return np.concatenate(blocks, axis=1) if blocks else None


def crossed(before: Block, track: Iterator[Block]) -> Iterator[Block]:
    """A track (2, n) blocks that comes up while what was before it dies away, as loud together as each alone."""
    done, whole = 0, before.shape[1]
    for block in track:
        n = min(block.shape[1], whole - done)
        if n <= 0:
            yield block
            continue
        share = (np.arange(done, done + n, dtype=np.float32) + 0.5) / whole * np.float32(np.pi / 2)
        mixed = block.copy()
        mixed[:, :n] = block[:, :n] * np.sin(share) + before[:, done : done + n] * np.cos(share)
        done += n
        yield mixed
