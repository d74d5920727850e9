"""Cards and disks that were plugged in, as the kernel tells of them."""

import re
import shutil
from pathlib import Path

from msgspec import Struct

_MOUNTS, _BLOCKS = Path("/proc/self/mountinfo"), Path("/sys/class/block")
_PLUGGED_AT = ("/media/", "/run/media/")  # where desktops mount what is plugged in
_SYSTEM = ("/", "/boot", "/home", "/usr", "/var", "/tmp", "/nix", "/snap")
_BUSES = ("/usb", "/mmc")


class Drive(Struct, frozen=True):
    """Something that was plugged in: where its files are, and how large it is."""

    root: Path
    name: str
    size_bytes: int
    free_bytes: int

    @property
    def words(self) -> str:
        return f"{self.name} · {size_words(self.size_bytes - self.free_bytes)}"


def size_words(size_bytes: float) -> str:
    """A size as a person reads it: 1.5 GB, 40 MB."""
    for unit, least in (("TB", 1e12), ("GB", 1e9), ("MB", 1e6), ("kB", 1e3)):
        if size_bytes >= least:
            count = size_bytes / least
            return f"{count:.1f} {unit}" if count < 10 else f"{count:.0f} {unit}"
    return f"{size_bytes:.0f} B"


def drives(mounts: Path = _MOUNTS, blocks: Path = _BLOCKS) -> tuple[Drive, ...]:
    """The removable drives that are there now, those mounted last at the end. mounts: in the form of proc(5)'s mountinfo; blocks: a
    folder with a link for each block device."""
    try:
        lines = mounts.read_text(errors="surrogateescape").splitlines()
    except OSError:
        return ()
    found: dict[str, Drive] = {}
    for line in lines:
        before, _, after = line.partition(" - ")
        fields, kinds = before.split(" "), after.split(" ")
        if len(fields) < 5 or len(kinds) < 2:
            continue
        root, source = _plain(fields[4]), _plain(kinds[1])
        if root in _SYSTEM or not (root.startswith(_PLUGGED_AT) or _removable(source, blocks)):
            continue
        try:
            usage = shutil.disk_usage(root)
        except OSError:  # pulled out just now
            continue
        found[source] = Drive(Path(root), Path(root).name or root, usage.total, usage.free)
    return tuple(found.values())


def _plain(field: str) -> str:
    """A field with its blanks, which mountinfo writes as octal numbers."""
    return re.sub(r"\\([0-7]{3})", lambda code: chr(int(code[1], 8)), field)


def _removable(source: str, blocks: Path) -> bool:
    """Whether a device sits on a bus that one plugs into, or says itself that its medium can be taken out."""
    if not source.startswith("/dev/"):
        return False
    try:
        device = (blocks / Path(source).name).resolve(strict=True)
    except OSError:
        return False
    if any(bus in str(device) for bus in _BUSES):
        return True
    for place in (device, device.parent):
        try:
            if (place / "removable").read_text().strip() == "1":
                return True
        except OSError:
            continue
    return False
