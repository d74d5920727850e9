"""Copies with proof against `cp` and a hasher, and a copy that is killed again and again."""

import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from functools import partial
from pathlib import Path

from bench.measure import alternate, ratio_table
from glintor.offload.card import safety, survey
from glintor.offload.manifest import listed_hashes
from glintor.offload.run import offload

_GLINTOR = [sys.executable, "-m", "glintor.cli"]
_HASHER = shutil.which("xxhsum") or shutil.which("md5sum") or "sha256sum"


def card_of(folder: Path, size: int) -> Path:
    """A card with a long film, a middle one and small things."""
    card = folder / "card"
    card.mkdir()
    for name, share in (("LONG.MP4", 0.7), ("MIDDLE.MP4", 0.25), ("SHORT.MP4", 0.05)):
        with (card / name).open("wb") as out:
            for _ in range(max(int(size * share) >> 24, 1)):
                out.write(os.urandom(1 << 24))
    for number in range(40):
        (card / f"P{number:03d}.JPG").write_bytes(os.urandom(300_000))
    return card


def _gone(*places: Path) -> None:
    for place in places:
        shutil.rmtree(place, ignore_errors=True)
    os.sync()


def _by_hand(card: Path, a: Path, b: Path, *, back: bool) -> None:
    """cp to both, wait for the disk, hash the card; back: and both copies as the disk has them."""
    for place in (a, b):
        subprocess.run(["cp", "-r", str(card), str(place)], check=True)
    os.sync()
    for place in (card, a, b) if back else (card,):
        files = sorted(str(file) for file in place.iterdir())
        if place is not card:
            for file in files:
                handle = os.open(file, os.O_RDONLY)
                os.posix_fadvise(handle, 0, 0, os.POSIX_FADV_DONTNEED)
                os.close(handle)
        subprocess.run([_HASHER, *files], check=True, stdout=subprocess.DEVNULL)


def killed(card: Path, places: list[Path], times: int, seed: int = 5) -> tuple[int, float]:
    """Kills the command at random moments; how many kills it took part in, and how long the last run took."""
    rng, kills = random.Random(seed), 0
    command = [*_GLINTOR, "offload", str(card), *map(str, places)]
    for _ in range(times):
        work = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        time.sleep(rng.uniform(0.4, 2.0))
        kills += work.poll() is None
        work.kill()
        work.wait()
    began = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
    return kills, time.perf_counter() - began


def report(size: int, runs: int) -> list[str]:
    with tempfile.TemporaryDirectory(dir=os.environ.get("GLINTOR_BENCH_FOLDER")) as name:
        folder = Path(name)
        card, a, b = card_of(folder, size), folder / "a", folder / "b"

        def fresh(work: object) -> None:
            _gone(a, b)
            work()  # type: ignore[operator]

        base = f"cp to both, hashed on the card and on both disks ({Path(_HASHER).name})"
        times = alternate(
            {
                base: partial(fresh, partial(_by_hand, card, a, b, back=True)),
                "cp to both, hashed on the card alone": partial(fresh, partial(_by_hand, card, a, b, back=False)),
                "offload to both, proven": partial(fresh, partial(offload, card, [a, b])),
            },
            runs,
        )
        _gone(a, b)
        kills, last_s = killed(card, [a, b], 50)
        told = safety(survey(card, a, b), [listed_hashes(a), listed_hashes(b)])
        same = all((place / file.name).read_bytes() == file.read_bytes() for file in card.iterdir() for place in (a, b))
        left = [file.name for place in (a, b) for file in place.glob(".*.part*")]
        names = sorted(file.name for file in card.iterdir())
        extra = [
            f.name for p in (a, b) for f in p.iterdir() if f.is_file() and f.name not in names and f.name[0] != "."
        ]
    return [
        "## Offload",
        "",
        f"A card of {size / 1e9:.1f} GB to two places of one disk:",
        "",
        *ratio_table(times, base),
        "",
        f"Killed {kills} times at random moments, then run to its end in {last_s:.1f} s: {told.words} "
        f"Copies byte for byte the same: {'yes' if same else 'NO'}; left over: {', '.join(left + extra) or 'nothing'}.",
    ]
