"""One window at a time writes a day: a small file beside it says which."""

import os
import socket
import uuid
from datetime import datetime
from pathlib import Path

import msgspec
from msgspec import Struct

from glintor.errors import GlintorError, InputError
from glintor.files import process_began, write_bytes


class Holder(Struct, frozen=True):
    """Who works on a day. started: of the process, in the system's ticks, since numbers of processes come again."""

    token: str
    pid: int
    started: str
    host: str
    since: str

    @property
    def lives(self) -> bool:
        """Whether it may still be there; on another machine nobody can tell."""
        return self.host != socket.gethostname() or (bool(self.started) and process_began(self.pid) == self.started)


class InUse(InputError):
    """Another window works on the day."""

    def __init__(self, name: str, holder: Holder) -> None:
        there = "" if holder.host == socket.gethostname() else f" on {holder.host}"
        super().__init__(
            f"{name} is open in another window{there}, since {holder.since}.",
            unharmed="Nothing was changed.",
            advice="Look at it only, or take it over; the other window then only looks.",
        )
        self.holder = holder


class Lock:
    """The right to write one project file. Where the folder cannot be written there is nothing to guard either."""

    def __init__(self, project_file: Path) -> None:
        self.file = project_file.with_name(f".{project_file.name}.lock")
        self._name = project_file.name
        self._token = uuid.uuid4().hex
        self._held = False

    def acquire(self, *, take_over: bool = False) -> None:
        """Takes the right to write. Raises InUse where another window that lives has it and is not to be pushed aside."""
        other = self.holder()
        if other is not None and other.lives and not take_over:
            raise InUse(self._name, other)
        now = Holder(
            self._token, os.getpid(), process_began(os.getpid()), socket.gethostname(), datetime.now().strftime("%H:%M")
        )
        try:
            write_bytes(self.file, msgspec.json.encode(now), make_folder=False, synced=False)
        except GlintorError:
            return
        self._held = True

    def holder(self) -> Holder | None:
        """Who has it; None where nobody has, or what stands there cannot be read."""
        try:
            return msgspec.json.decode(self.file.read_bytes(), type=Holder)
        except (OSError, msgspec.DecodeError, UnicodeDecodeError):
            return None

    @property
    def lost(self) -> bool:
        """Whether another window has taken the day over."""
        if not self._held:
            return False
        other = self.holder()
        return other is not None and other.token != self._token

    def release(self) -> None:
        """Gives it back; nothing happens where another has taken it."""
        if self._held and not self.lost:
            self.file.unlink(missing_ok=True)
        self._held = False
