"""The sound of a film whose speed changes: at its own pitch where that can be understood, else silence."""

from collections.abc import Callable, Iterator
from fractions import Fraction
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from glintor.media.sound import RATE_HZ
from glintor.reframing.retime import PITCH_KEPT, Piece, Timeline

if TYPE_CHECKING:
    import av.filter.context

Block = NDArray[np.float32]
_STEPS_PER_S = 20  # how often the tempo of a ramp is set anew


Cut = Callable[[float, float], Iterator[Block]]  # the clip's own sound from a moment to another


def film_sound(sound: Cut, timeline: Timeline, *, muted: bool = False, from_s: float = 0.0) -> Iterator[Block]:
    """Blocks (2, n) at 48 kHz that last exactly as long as the film, or as what is left of it from a moment on."""
    done = round(from_s * RATE_HZ)
    for piece in timeline.pieces:
        end = round((piece.film_s + piece.length_s) * RATE_HZ)
        if end <= done:
            continue
        piece = piece.from_film(done / RATE_HZ)
        heard = not muted and piece.way == 1 and all(PITCH_KEPT[0] <= s <= PITCH_KEPT[1] for s in piece.speeds)
        for block in _piece(sound, piece) if heard else ():
            block = block[:, : end - done]
            if block.shape[1]:
                yield block
                done += block.shape[1]
        while done < end:
            quiet = min(end - done, RATE_HZ)
            yield np.zeros((2, quiet), np.float32)
            done += quiet


def _piece(sound: Cut, piece: Piece) -> Iterator[Block]:
    cut = sound(piece.first_s, piece.last_s)
    return cut if piece.speeds == (1.0, 1.0) else _at_tempo(cut, piece)


def _at_tempo(blocks: Iterator[Block], piece: Piece) -> Iterator[Block]:
    """Through libavfilter's atempo (overlapping waveforms, so pitch stays), its tempo following the piece's speed."""
    import av
    from av.filter import Graph

    graph = Graph()
    source = graph.add_abuffer(sample_rate=RATE_HZ, format="fltp", layout="stereo", time_base=Fraction(1, RATE_HZ))
    command = graph.add("asendcmd", f"c='{_tempos(piece)}'")
    tempo = graph.add("atempo", f"{piece.speeds[0]:.6f}")
    planar, sink = graph.add("aformat", "sample_fmts=fltp"), graph.add("abuffersink")
    for a, b in pairwise((source, command, tempo, planar, sink)):
        a.link_to(b)
    graph.configure()
    sent = 0
    for block in blocks:
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block), format="fltp", layout="stereo")
        frame.sample_rate, frame.pts, frame.time_base = RATE_HZ, sent, Fraction(1, RATE_HZ)
        sent += block.shape[1]
        source.push(frame)
        yield from _ready(sink)
    source.push(None)
    yield from _ready(sink)


def _tempos(piece: Piece) -> str:
    """Commands at times of the sound that goes in."""
    steps = max(int(piece.length_s * _STEPS_PER_S), 1) if piece.speeds[0] != piece.speeds[1] else 1
    film = piece.film_s + piece.length_s * (np.arange(steps) + 0.5) / steps
    speeds = np.interp(film, [piece.film_s, piece.film_s + piece.length_s], piece.speeds)
    begins = piece.clip_time(piece.film_s + piece.length_s * np.arange(steps) / steps) - piece.first_s
    return ";".join(f"{t:.4f} atempo tempo {s:.6f}" for t, s in zip(begins, speeds, strict=True))


def _ready(sink: "av.filter.context.FilterContext") -> Iterator[Block]:
    import av.error

    while True:
        try:
            frame = sink.pull()
        except (av.error.BlockingIOError, av.error.EOFError):
            return
        assert isinstance(frame, av.AudioFrame)
        yield np.asarray(frame.to_ndarray(), np.float32)
