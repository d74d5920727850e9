"""Where copies lie: a pattern of folders, filled with what is known of each recording."""

import re
from collections.abc import Mapping
from datetime import datetime
from pathlib import Path, PurePosixPath

from glintor.content import quick_of
from glintor.errors import InputError
from glintor.names import plain_name, text_of
from glintor.offload.card import Unit
from glintor.project.model import Project

PATTERN = "{day}/{shot}/{take}"
AS_ON_CARD = "{path}"
WORDS = {
    "day": "the day, as 2026-10-14",
    "shot": "the shot that a take belongs to",
    "take": "the take",
    "camera": "the camera that filmed it",
    "path": "the folders on the card",
}
_LONGEST = 80


def checked(pattern: str) -> str:
    """The pattern. Raises InputError where it names what nobody knows, or leads out of the folder."""
    for name in re.findall(r"{([^{}]*)}", pattern):
        if name not in WORDS:
            raise InputError(
                f"{{{name}}} is not known in a pattern.", advice="Use " + ", ".join(f"{{{n}}}" for n in WORDS) + "."
            )
    bare = re.sub(r"{[^{}]*}", "", pattern)
    if "{" in bare or "}" in bare:
        raise InputError("A brace of the pattern has no other.", advice=f"Write it as {PATTERN}.")
    parts = PurePosixPath(pattern).parts
    if pattern.startswith("/") or ".." in parts:
        raise InputError("A pattern stays inside the folder.", advice="Leave out the first / and every '..'.")
    if any(part.startswith((".", "ascmhl")) for part in parts):
        raise InputError("Hidden folders are not listed in a manifest.", advice="Choose another name.")
    return pattern


def filled(pattern: str, facts: Mapping[str, str]) -> str:
    """The folders that a pattern leads to; what is not known of a recording leaves its folder out."""
    parts = []
    for part in PurePosixPath(checked(pattern)).parts:
        if part == "{path}":
            parts += [clean(one) for one in PurePosixPath(facts.get("path", "")).parts]
            continue
        names = re.findall(r"{([^{}]*)}", part)
        if names and not any(facts.get(name) for name in names):
            continue
        parts.append(clean(re.sub(r"{([^{}]*)}", lambda found: facts.get(found[1], ""), part)))
    return "/".join(part for part in parts if part)


def clean(name: str) -> str:
    """A name that every usual disk takes."""
    plain = re.sub(r'[\x00-\x1f<>:"/\\|?*]+', "-", plain_name(name)).strip(" .-")
    return plain[:_LONGEST].strip(" .-")


def facts_of_unit(unit: Unit, card: Path, project: Project | None = None) -> dict[str, str]:
    """What is known of a unit of a card: its take and shot where the day has it, else its day by the file."""
    name = unit.main.relative_to(card).as_posix()
    facts = {"path": str(PurePosixPath(name).parent) if "/" in name else ""}
    named = {text_of(file.relative_to(card).as_posix()) for file in unit.files}
    holds = quick_of(unit.main)
    if project is not None:
        for shot in project.shots:
            for take in shot.takes:
                if any(file.quick == holds if file.quick else file.card in named for file in take.files):
                    words = take.name.removeprefix(f"{shot.name}, ") if take.name.startswith(shot.name) else take.name
                    camera = project.kit.camera(take.camera) if take.camera else None
                    day = take.began[:10] or project.site.day
                    return facts | {
                        "day": day,
                        "shot": shot.name,
                        "take": words if words != shot.name else "",
                        "camera": camera.name if camera is not None else "",
                    }
    return facts | {"day": f"{datetime.fromtimestamp(unit.main.stat().st_mtime):%Y-%m-%d}"}
