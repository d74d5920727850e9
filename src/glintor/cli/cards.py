"""The commands on cards and folders of copies: bring over with proof, and verify again."""

import json
from pathlib import Path
from typing import TYPE_CHECKING

from glintor.cli.options import parser, progress

if TYPE_CHECKING:
    from glintor.offload.run import Offloaded


def offload(words: list[str]) -> int:
    read = parser(
        "offload",
        "Copy a card to one or two places with proof; it goes on where a kill stopped it. The card is only read.",
    )
    read.add_argument("card", type=Path)
    read.add_argument("places", nargs="+", type=Path, metavar="DEST", help="one folder, or two")
    read.add_argument("--day", type=Path, help="the day whose takes name the folders")
    read.add_argument(
        "--pattern",
        help="folders in each place, such as {day}/{shot}/{take}; as they lie on the card without it (with --day: that pattern)",
    )
    read.add_argument("--json", action="store_true")
    chosen = read.parse_args(words)
    if len(chosen.places) > 2:
        read.error("one or two places, not more")
    from glintor.offload.naming import AS_ON_CARD, PATTERN, checked, facts_of_unit, filled
    from glintor.offload.run import offload as bring
    from glintor.project.store import read_project

    project = read_project(chosen.day) if chosen.day is not None else None
    pattern = checked(chosen.pattern or (PATTERN if project is not None else AS_ON_CARD))
    done = bring(
        chosen.card,
        chosen.places,
        inside=lambda unit: filled(pattern, facts_of_unit(unit, chosen.card.absolute(), project)),
        report=progress,
    )
    told = done.safety
    if chosen.json:
        print(json.dumps(_as_json(done, chosen.card.absolute()), indent=1))
    else:
        for name, why in done.brought.missed:
            print(f"{name}: {why}")
        print(" ".join(filter(None, [told.words, done.words])))
    whole = all(unit.safe for unit in done.units) and not told.unlisted and not any(one.matters for one in told.unseen)
    return 0 if whole and not done.brought.missed and not done.brought.given_up else 1


def _as_json(done: "Offloaded", card: Path) -> dict[str, object]:
    """What became of a card's files, for programs."""
    from glintor.names import text_of

    told = done.safety
    return {
        "files": told.files,
        "copied": done.brought.files,
        "missed": [{"file": name, "why": why} for name, why in done.brought.missed],
        "proven_twice": told.twice,
        "proven_once": told.once,
        "not_proven": told.never,
        "safe_to_clear": told.clear,
        "not_looked_at": [{"file": one.name, "why": one.why} for one in told.unseen],
        "words": " ".join(filter(None, [told.words, done.words])),
        "manifests": [str(file) for file in done.manifests],
        "list": [
            {
                "file": text_of(file.relative_to(card).as_posix()),
                "xxh64": next((p.xxh64 for p in of_file if p is not None), None),
                "copies": [str(place / p.copy) for place, p in zip(done.places, of_file, strict=True) if p is not None],
            }
            for unit in done.units
            for file, of_file in zip(unit.unit.files, zip(*unit.proofs, strict=True), strict=True)
        ],
    }


def verify(words: list[str]) -> int:
    read = parser(
        "verify", "Read every file of a folder of copies again and compare it with the folder's list of checksums."
    )
    read.add_argument("folder", type=Path)
    read.add_argument("--json", action="store_true")
    chosen = read.parse_args(words)
    from glintor.offload.verify import verify as check

    found = check(chosen.folder, report=progress)
    if chosen.json:
        print(
            json.dumps(
                {
                    "sound": found.sound,
                    "words": found.words,
                    "same": list(found.same),
                    "altered": list(found.altered),
                    "missing": list(found.missing),
                    "unreadable": list(found.unread),
                    "not_listed": list(found.unlisted),
                },
                indent=1,
            )
        )
    else:
        print(found.words)
    return 0 if found.sound else 1
