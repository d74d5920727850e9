"""One file to several places at once: read once, hashed on the way, read back from every disk and compared.

What a kill or a pulled card left is taken up again where it stopped: beside a part lies a list of the checksums that its
stretches had when they were read, so that nothing that was written has to be read from the card again to be proven.
"""

import contextlib
import fcntl
import hashlib
import os
import queue
import threading
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import BinaryIO

import xxhash
from msgspec import Struct

from glintor.content import quick_of
from glintor.errors import Cancelled, GlintorError
from glintor.files import sync_folder, write_error
from glintor.types import Report

STRETCH = 32 * 1024 * 1024
_BLOCK = 4 * 1024 * 1024
_AHEAD = 4  # blocks that wait for a slower disk
_NAME_MOST = 180  # bytes of a name that leave room for what is added to it
CARD_UNHARMED = "The card is unharmed."


class CopyError(GlintorError):
    """A copy that is not the same as its original, or an original that went away."""


class Progress:
    """Bytes read and read back, of a whole, as a share."""

    def __init__(self, total: int, report: Report, stop: threading.Event | None) -> None:
        self._total, self._report, self._done, self.stop = max(total, 1), report, 0, stop
        self._one = threading.Lock()

    def __call__(self, read: int) -> None:
        with self._one:
            self._done += read
            done = self._done
        self._report(min(done / self._total, 1.0))

    def check(self) -> None:
        """Raises Cancelled where it was stopped."""
        if self.stop is not None and self.stop.is_set():
            raise Cancelled


class Sent(Struct, frozen=True):
    """A proven copy. from_disk: it was read back from the disk; otherwise this disk only gave it from memory."""

    target: Path
    xxh64: str
    from_disk: bool


def transfer(source: Path, targets: Sequence[Path], progress: Progress) -> list[Sent | GlintorError]:
    """Copies a file to targets that are not there yet; gives for each the proven copy, or why there is none: a target that fails does
    not hold up the others. Raises CopyError where the original cannot be read, Cancelled; then none of the copies that are not proven
    has its name, and what was read of a large one is kept for the next time."""
    try:
        quick, size = quick_of(source), source.stat().st_size
    except OSError as error:
        raise unread(source, error) from error
    goals = [_Goal(target, quick, size) for target in targets]
    try:
        for goal in goals:
            goal.open()
        _read(source, size, [goal for goal in goals if goal.trouble is None], progress)
        _all_at_once([partial(goal.prove, source, progress) for goal in goals if goal.trouble is None])
    finally:
        for goal in goals:
            goal.close()
    return [goal.outcome for goal in goals]


def unread(source: Path, error: OSError) -> CopyError:
    """The words for an original that cannot be read."""
    gone = isinstance(error, FileNotFoundError) or not source.exists()
    return CopyError(
        f"{source.name} went away while it was read."
        if gone
        else f"{source.name} cannot be read: {error.strerror or error}.",
        unharmed="No copy was left half done under its name.",
        advice="Put the card back in; copying goes on where it stopped."
        if gone
        else "Try another reader, or the card in the camera.",
    )


class _Goal:
    """One place that a file goes to: its part, and the checksums of the stretches that are in it."""

    def __init__(self, target: Path, quick: str, size: int) -> None:
        name = _part_name(target)
        self.target, self._size = target, size
        self.part = target.with_name(f".{name}.{quick}.part")
        self._list = target.with_name(f".{name}.{quick}.part.list")
        self._name = name
        self.sums: list[str] = []
        self._file: BinaryIO | None = None
        self._sent: Sent | None = None
        self._blocks: queue.Queue[bytes | str | None] = queue.Queue(_AHEAD)
        self.trouble: GlintorError | None = None
        self._thread: threading.Thread | None = None

    @property
    def outcome(self) -> Sent | GlintorError:
        assert self._sent is not None or self.trouble is not None, "it was worked on"
        return self._sent or self.trouble  # type: ignore[return-value]

    def open(self) -> None:
        """Makes the part ready; what is wrong becomes its trouble, and so in all that follows."""
        try:
            self._open()
        except GlintorError as error:
            self.trouble = error

    def _open(self) -> None:
        try:
            self.target.parent.mkdir(parents=True, exist_ok=True)
            self._file = os.fdopen(os.open(self.part, os.O_RDWR | os.O_CREAT, 0o644), "r+b", buffering=0)
            try:
                fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError as error:
                self._file.close()
                self._file = None
                raise CopyError(
                    f"{self.target.name} is being copied by another window.",
                    unharmed=CARD_UNHARMED,
                    advice="Wait for it.",
                ) from error
            self.sums = self._known()
            self._file.truncate(len(self.sums) * STRETCH)
            self._file.seek(0, os.SEEK_END)
            self._sweep()
        except OSError as error:
            raise write_error(self.target, error) from error

    def _known(self) -> list[str]:
        """Checksums of the whole stretches that were written."""
        try:
            lines = self._list.read_text().split("\n")[:-1]
        except (OSError, UnicodeDecodeError):
            return []
        whole = min(os.fstat(self._handle.fileno()).st_size // STRETCH, len(lines))
        known = [line for line in lines[:whole] if len(line) == 16]
        return known if len(known) == whole else []

    def _sweep(self) -> None:
        """Removes what is left of another file that once was to have this name."""
        import glob

        for left in self.target.parent.glob(f".{glob.escape(self._name)}.*.part"):
            if left.name == self.part.name:
                continue
            with contextlib.suppress(OSError), left.open("rb") as handle:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                left.with_name(f"{left.name}.list").unlink(missing_ok=True)
                left.unlink()

    @property
    def _handle(self) -> BinaryIO:
        assert self._file is not None, "it is open"
        return self._file

    # Writing, in a thread of its own
    def begin(self) -> None:
        self._thread = threading.Thread(target=self._write, name=f"copying to {self.target.parent}")
        self._thread.start()

    def put(self, what: bytes | str) -> None:
        """A block, or the checksum of the stretch that its blocks have filled."""
        while self.trouble is None:
            with contextlib.suppress(queue.Full):
                self._blocks.put(what, timeout=0.5)
                return

    def end(self) -> None:
        """Waits until all is written."""
        if self._thread is not None:
            while self._thread.is_alive():
                with contextlib.suppress(queue.Full):
                    self._blocks.put(None, timeout=0.1)
                    break
            self._thread.join()
            self._thread = None

    def _write(self) -> None:
        try:
            with self._list.open("a") as sums:
                begun = len(self.sums) * STRETCH
                while (what := self._blocks.get()) is not None:
                    if isinstance(what, str):
                        self.sums.append(what)
                        sums.write(what + "\n")
                        sums.flush()
                        os.posix_fadvise(
                            self._handle.fileno(), begun, STRETCH, os.POSIX_FADV_DONTNEED
                        )  # begins to write it
                        begun += STRETCH
                        continue
                    rest = memoryview(what)
                    while rest:
                        rest = rest[self._handle.write(rest) :]
        except OSError as error:
            self.trouble = write_error(self.target, error)

    # Proving
    def prove(self, source: Path, progress: Progress) -> None:
        """Reads the part back, compares it with what was read of the original, and gives it its name. Raises Cancelled."""
        try:
            self._sent = self._prove(source, progress)
        except Cancelled:
            raise
        except GlintorError as error:
            self.trouble = error

    def _prove(self, source: Path, progress: Progress) -> Sent:
        try:
            handle = self._handle.fileno()
            os.fsync(handle)
            from_disk = let_go(handle)
            whole, same = xxhash.xxh64(), True
            with self.part.open("rb", buffering=0) as back:
                for sum_ in self.sums:
                    stretch, left = xxhash.xxh64(), STRETCH
                    while left and (block := back.read(min(_BLOCK, left))):
                        progress.check()
                        stretch.update(block)
                        whole.update(block)
                        left -= len(block)
                        progress(len(block))
                    same &= stretch.hexdigest() == sum_
                same &= back.tell() == self._size and not back.read(1)
            if not same:
                self._forget()
                raise CopyError(
                    f"The copy of {source.name} in {self.target.parent} is not the same as the original.",
                    unharmed=f"{CARD_UNHARMED} The bad copy was removed.",
                    advice="Copy it again; if it happens twice, use another disk or card reader.",
                )
            state = source.stat()
            os.utime(self.part, ns=(state.st_atime_ns, state.st_mtime_ns))
            if self.target.exists():
                raise CopyError(
                    f"Another program wrote {self.target.name} meanwhile.",
                    unharmed="Its file was left alone.",
                    advice="Copy again.",
                )
            self.part.replace(self.target)
            self._forget()
            sync_folder(self.target.parent)
        except OSError as error:
            raise (write_error(self.target, error) if source.exists() else unread(source, error)) from error
        return Sent(self.target, whole.hexdigest(), from_disk)

    def _forget(self) -> None:
        for file in (self.part, self._list):
            with contextlib.suppress(OSError):
                file.unlink(missing_ok=True)

    def close(self) -> None:
        """Lets go of the part; one in which no stretch is whole is removed."""
        if self._file is None:
            return
        self.end()
        if self._sent is None and not self.sums:
            self._forget()
        self._file.close()
        self._file = None


def sweep_lists(target: Path) -> None:
    """Removes the lists of parts that are no more, beside a copy that is proven: a kill between the two left them."""
    import glob

    for left in target.parent.glob(f".{glob.escape(_part_name(target))}.*.part.list"):
        if not left.with_suffix("").exists():
            with contextlib.suppress(OSError):
                left.unlink()


def _part_name(target: Path) -> str:
    name = target.name
    return name if len(os.fsencode(name)) <= _NAME_MOST else hashlib.sha256(os.fsencode(name)).hexdigest()[:24]


def _read(source: Path, size: int, goals: Sequence[_Goal], progress: Progress) -> None:
    """Reads what one of the goals lacks and gives it to those that lack it, as long as one of them takes it."""
    if not goals:
        return
    first = min(len(goal.sums) for goal in goals)
    progress(min(first * STRETCH, size))
    if first * STRETCH >= size and size:
        return
    has = [len(goal.sums) for goal in goals]
    for goal in goals:
        goal.begin()
    try:
        with source.open("rb", buffering=0) as original:
            original.seek(first * STRETCH)
            for number in range(first, max(-(-size // STRETCH), 1)):
                stretch, left = xxhash.xxh64(), min(STRETCH, size - number * STRETCH)
                wanting = [goal for goal, known in zip(goals, has, strict=True) if known <= number]
                while left:
                    progress.check()
                    if all(goal.trouble is not None for goal in goals):
                        return
                    block = original.read(min(_BLOCK, left))
                    if not block:
                        raise CopyError(
                            f"{source.name} became shorter while it was read.",
                            unharmed="No copy was left half done under its name.",
                            advice="Is the camera still writing it? Copy it again afterwards.",
                        )
                    stretch.update(block)
                    for goal in wanting:
                        goal.put(block)
                    left -= len(block)
                    progress(len(block))
                for goal in wanting:
                    goal.put(stretch.hexdigest())
    except OSError as error:
        raise unread(source, error) from error
    finally:
        for goal in goals:
            goal.end()


def _all_at_once(works: Sequence[Callable[[], None]]) -> None:
    """Does works beside one another; the first trouble is raised when all have ended."""
    if len(works) == 1:
        works[0]()
        return
    troubles: list[BaseException] = []

    def run(work: Callable[[], None]) -> None:
        try:
            work()
        except BaseException as error:
            troubles.append(error)

    threads = [threading.Thread(target=run, args=(work,), name="proving") for work in works]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    if troubles:
        raise troubles[0]


def let_go(handle: int) -> bool:
    """Has the system forget what it holds of a written file, so that reading it back asks the disk; whether it did.

    Some file systems (in memory, some over a network) keep everything whatever is asked of them.
    """
    os.posix_fadvise(handle, 0, 0, os.POSIX_FADV_DONTNEED)
    try:
        reading = os.open(f"/proc/self/fd/{handle}", os.O_RDONLY)
    except OSError:
        return False
    try:
        os.preadv(reading, [bytearray(4096)], 0, os.RWF_NOWAIT)
    except BlockingIOError:
        return True  # nothing of it is in memory
    except OSError:
        return False
    finally:
        os.close(reading)
    return os.fstat(handle).st_size == 0
