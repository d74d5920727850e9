"""Keeping the log: rolling begins, things happen, it ends. Each step is a new shot, so that each can be undone."""

import time
from collections.abc import Callable
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from msgspec.structs import replace

from glintor.errors import InputError
from glintor.project.log import Event, Log, Tick, What
from glintor.project.model import Project, Shot, fresh_id

EACH_TIME = frozenset({"lens", "clap", "hands", "people"})  # lines that are ticked anew for each take


def now_of(project: Project) -> datetime:
    """The present moment by the day's clock."""
    try:
        return datetime.now(ZoneInfo(project.site.zone))
    except (ZoneInfoNotFoundError, ValueError):
        return datetime.now().astimezone()


class RollClock:
    """The day's clock while something rolls: it goes on evenly from the beginning of a log, however the machine's own is set meanwhile, and
    also while the machine sleeps. wall: the machine's; passed: seconds that nobody can set."""

    def __init__(
        self,
        wall: Callable[[], datetime],
        passed: Callable[[], float] = lambda: time.clock_gettime(time.CLOCK_BOOTTIME),
    ) -> None:
        self._wall, self._passed = wall, passed
        self._log_id, self._from, self._since = "", wall(), passed()

    def now(self, log: Log | None) -> datetime:
        """The moment for what happens in a rolling log; by the machine's clock where nothing rolls."""
        if log is None:
            return self._wall()
        if log.id != self._log_id:
            self._log_id, self._from, self._since = log.id, self._wall(), self._passed()
        return self._from + timedelta(seconds=self._passed() - self._since)


def stamp(at: datetime) -> str:
    return at.isoformat(timespec="milliseconds")


def rolling_log(shot: Shot) -> Log | None:
    """The log of a shot that rolls now."""
    return next((log for log in reversed(shot.logs) if log.rolling), None)


def with_log(shot: Shot, log: Log) -> Shot:
    known = any(one.id == log.id for one in shot.logs)
    logs = tuple(log if one.id == log.id else one for one in shot.logs) if known else (*shot.logs, log)
    return replace(shot, logs=logs)


def begun(shot: Shot, cameras: tuple[str, ...], at: datetime) -> Shot:
    """Rolling: what was ticked goes along. Raises InputError where it rolls already."""
    if rolling_log(shot) is not None:
        raise InputError(f"{shot.name} rolls already.", advice="Stop it first.")
    log = Log(
        id=fresh_id("log-1" if not shot.logs else f"log-{len(shot.logs) + 1}", {one.id for one in shot.logs}),
        began=stamp(at),
        cameras=cameras,
        ticks=shot.ticks,
    )
    return with_log(shot, log)


def ended(shot: Shot, at: datetime) -> Shot:
    """Stopped; what must be seen to each time is open again."""
    log = rolling_log(shot)
    if log is None:
        return shot
    kept = tuple(tick for tick in shot.ticks if tick.line not in EACH_TIME)
    return replace(with_log(shot, replace(log, ended=stamp(at))), ticks=kept)


def happened(
    shot: Shot, what: What, at: datetime, words: str = "", cameras: tuple[str, ...] = (), log_id: str = ""
) -> Shot:
    """With an event of what rolls, else of the log that is named, else of the last one. Raises InputError where nothing was rolled yet."""
    log = next((one for one in shot.logs if one.id == log_id), None) or rolling_log(shot)
    log = log or (shot.logs[-1] if shot.logs else None)
    if log is None:
        raise InputError("Nothing was rolled in this shot yet.", advice="Roll first: Space.")
    event = Event(at=stamp(at), what=what, words=words, cameras=cameras)
    return with_log(shot, replace(log, events=(*log.events, event)))


def with_rolling(restored: Project, present: Project) -> Project:
    """A restored state of a day with what no undo can take back: a camera that rolls goes on rolling, one that was stopped stays stopped,
    and the files that cameras named are on their cards."""

    shown = {one.id: one for one in present.shots}

    def shot_with(shot: Shot) -> Shot:
        now = shown.get(shot.id)
        if now is None or now.logs == shot.logs:
            return shot
        known = {log.id: log for log in shot.logs}
        for log in now.logs:
            old = known.get(log.id)
            if old is None:
                if log.rolling or log.files:
                    known[log.id] = log
            else:
                known[log.id] = replace(old, began=log.began, ended=log.ended, files=log.files, cameras=log.cameras)
        logs = tuple(known.values())
        return shot if logs == shot.logs else replace(shot, logs=logs)

    shots = tuple(shot_with(shot) for shot in restored.shots)
    return restored if shots == restored.shots else replace(restored, shots=shots)


def ticked(shot: Shot, tick: Tick) -> Shot:
    """With a line ticked, or ticked again."""
    others = tuple(one for one in shot.ticks if one.line != tick.line)
    return replace(shot, ticks=(*others, tick))


def unticked(shot: Shot, line: str) -> Shot:
    return replace(shot, ticks=tuple(one for one in shot.ticks if one.line != line))


def clock_words(at: str) -> str:
    """The hour of a stamp, to the second."""
    return f"{datetime.fromisoformat(at):%H:%M:%S}"


def length_words(seconds: float) -> str:
    whole = max(int(seconds), 0)
    hours, minutes = whole // 3600, whole // 60 % 60
    return f"{hours}:{minutes:02d}:{whole % 60:02d}" if hours else f"{minutes:02d}:{whole % 60:02d}"
