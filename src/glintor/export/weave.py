"""From the clip's frames to the film's: which are shown, repeated, left out or averaged into one."""

from collections.abc import Iterator

from msgspec import Struct, field

from glintor.pixels.blend import Blend
from glintor.pixels.spheres import Sphere
from glintor.reframing.retime import Schedule, Timeline

_SLACK_S = 1e-3  # time stamps are rounded to a millisecond in some containers
_LEAST_SHARE = (
    0.02  # of the shorter of a film's frame and the clip's: less is the rounding of time stamps, not a picture
)
GAP_S = 1.0  # where the film skips so much of the clip, seeking is quicker than decoding on


class Run(Struct, frozen=True):
    """A part of the clip to be decoded, forwards or from its end to its start."""

    start_s: float
    end_s: float
    backwards: bool = False


class Weave(Struct):
    """A row of film frames, fed with the clip's frames in the order of one direction.

    Going backwards, times are mirrored (-t), so that both directions are the same work.
    """

    schedule: Schedule
    numbers: range
    average: bool
    backwards: bool = False
    _at: int = 0
    _blend: Blend = field(default_factory=Blend)

    def push(self, time_s: float, until_s: float, sphere: Sphere) -> Iterator[tuple[int, Sphere, float]]:
        """Film frames that are complete once the clip's frame from time_s to until_s is known: (number, picture,
        the path's time whose view it shows)."""
        time, until = (-until_s, -time_s) if self.backwards else (time_s, until_s)
        while self._at < len(self.numbers):
            number = self.numbers[self._at]
            opens, closes = float(self.schedule.opens_s[number]), float(self.schedule.closes_s[number])
            first, last = sorted((-opens, -closes) if self.backwards else (opens, closes))
            if first >= until - _SLACK_S:
                return
            if not self.average or last - first < 2 * _SLACK_S:
                yield number, sphere, float(self.schedule.path_s[number])
                self._at += 1
                continue
            shared_s = min(last, until) - max(first, time)
            if shared_s > _LEAST_SHARE * min(last - first, until - time):
                self._blend.add(sphere, shared_s / (last - first))
            if last > until + _SLACK_S:
                return
            picture = sphere if self._blend.empty else self._blend.take()  # of a gap in the clip what comes after it
            yield number, picture, float(self.schedule.path_s[number])
            self._at += 1

    def rest(self) -> Iterator[tuple[int, Sphere, float]]:
        """The frame that the clip's end left half made."""
        if not self._blend.empty and self._at < len(self.numbers):
            number = self.numbers[self._at]
            yield number, self._blend.take(), float(self.schedule.path_s[number])


class Part(Struct, frozen=True):
    """A row of film frames with what must be decoded for it."""

    runs: tuple[Run, ...]
    weave: Weave


def parts_of(timeline: Timeline, rate: float, *, average: bool) -> list[Part]:
    """The film's frames in rows of one direction each, in the film's order."""
    schedule = timeline.schedule(rate)
    ways = [timeline.pieces[p].way < 0 for p in schedule.piece]
    parts, first = [], 0
    for number in range(1, len(ways) + 1):
        # Each backward piece is a row of its own: two of them need not follow each other in the clip.
        same = number < len(ways) and ways[number] == ways[first]
        if same and (not ways[first] or schedule.piece[number] == schedule.piece[first]):
            continue
        numbers = range(first, number)
        parts.append(
            Part(_runs(schedule, numbers, ways[first], average), Weave(schedule, numbers, average, ways[first]))
        )
        first = number
    return parts


def _runs(schedule: Schedule, numbers: range, backwards: bool, average: bool) -> tuple[Run, ...]:
    if backwards:
        ends = [float(t) for n in (numbers[0], numbers[-1]) for t in (schedule.opens_s[n], schedule.closes_s[n])]
        return (Run(min(ends), max(ends), True),)
    spans = []
    for number in numbers:
        opens = float(schedule.opens_s[number])
        spans.append((opens, float(schedule.closes_s[number]) if average else opens))
    return merged(spans)


def merged(spans: list[tuple[float, float]]) -> tuple[Run, ...]:
    """Spans as runs in order; neighbours with little between them become one."""
    out: list[Run] = []
    for start, end in sorted(spans):
        if out and start - out[-1].end_s < GAP_S:
            out[-1] = Run(out[-1].start_s, max(out[-1].end_s, end))
        else:
            out.append(Run(start, end))
    return tuple(out)
