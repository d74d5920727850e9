"""What was copied and proven, kept beside the copies: it outlives a kill, and says what of a card is safe."""

import contextlib
from collections.abc import Iterable
from pathlib import Path

import msgspec
from msgspec import Struct

from glintor.content import quick_of
from glintor.errors import GlintorError
from glintor.files import set_aside, write_bytes

NAME = ".copies.json"


class Proof(Struct, frozen=True, kw_only=True):
    """One file and its copy, both with the same checksum when they were compared.

    source      its path on the card, with `/`; quick: a digest of its size, head and tail
    copy        its name in the folder of the copies; copy_ns: when the copy was last changed
    from_disk   the copy was read back from the disk itself, not from memory
    """

    source: str
    size_bytes: int
    quick: str
    copy: str
    copy_ns: int
    xxh64: str
    from_disk: bool = False


class _Kept(Struct, frozen=True):
    glintor_copies: int
    proofs: tuple[Proof, ...]


class Ledger:
    """The proofs of one folder of copies. Every addition is on disk before it returns."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.words = folder, ""
        self._proofs: dict[str, dict[str, Proof]] = {}  # by source, then by quick digest
        file = folder / NAME
        try:
            kept = msgspec.json.decode(file.read_bytes(), type=_Kept)
        except FileNotFoundError:
            return
        except (OSError, msgspec.DecodeError, UnicodeDecodeError, RecursionError):
            with contextlib.suppress(OSError):
                self.words = f"The list of copies could not be read and is kept as {set_aside(file, 'unreadable').name}"
            return
        self._take(kept.proofs)

    def _take(self, proofs: Iterable[Proof]) -> None:
        for proof in proofs:
            self._proofs.setdefault(proof.source, {})[proof.quick] = proof

    @property
    def proofs(self) -> tuple[Proof, ...]:
        return tuple(proof for of_one in self._proofs.values() for proof in of_one.values())

    def add(self, *proofs: Proof) -> None:
        """Raises WriteError."""
        self._take(proofs)
        content = msgspec.json.encode(_Kept(1, self.proofs))
        write_bytes(self.folder / NAME, msgspec.json.format(content, indent=1) + b"\n")

    def forget(self, copies: Iterable[str]) -> None:
        """Takes back the proofs of copies, by their path in the folder, that turned out not to be what they were. Raises WriteError."""
        gone = set(copies)
        kept = [proof for proof in self.proofs if proof.copy not in gone]
        if len(kept) < len(self.proofs):
            self._proofs = {}
            self.add(*kept)

    def of_source(self, name: str, file: Path) -> Proof | None:
        """The proof of a file of a card, where its copy still lies as it was proven. Raises OSError."""
        if name not in self._proofs:
            return None
        proof = self._proofs[name].get(quick_of(file))
        return proof if proof is not None and self._lies(proof) else None

    def of_copies(self) -> dict[str, Proof]:
        """The proofs of all copies that still lie as they were proven, by their path in the folder."""
        return {proof.copy: proof for proof in self.proofs if self._lies(proof)}

    def of_copy(self, copy: Path) -> Proof | None:
        """The proof of a copy, where it still lies as it was proven."""
        return next((p for p in self.proofs if self.folder / p.copy == copy and self._lies(p)), None)

    def _lies(self, proof: Proof) -> bool:
        try:
            state = (self.folder / proof.copy).stat()
        except OSError:
            return False
        return (state.st_size, state.st_mtime_ns) == (proof.size_bytes, proof.copy_ns)


def ledger_or_none(folder: Path) -> Ledger | None:
    """The ledger of a folder where there is one; for those who only ask."""
    try:
        return Ledger(folder) if (folder / NAME).exists() else None
    except (OSError, GlintorError):
        return None
