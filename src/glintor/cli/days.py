"""The commands on whole days."""

import sys
from pathlib import Path

from glintor.cli.options import parser, progress


def demo(words: list[str]) -> int:
    read = parser("demo", "Write the demo day (project, card and footage) into a folder.")
    read.add_argument("folder", type=Path)
    chosen = read.parse_args(words)
    from glintor.demo.day import PROJECT_NAME, write_demo_day

    there = (chosen.folder / PROJECT_NAME).exists()
    print(write_demo_day(chosen.folder, progress))
    if there:
        print("glintor: a day lies there already; it was left as it is.", file=sys.stderr)
    return 0


def check(words: list[str]) -> int:
    read = parser("check", "Print everything found about the shots of a project.")
    read.add_argument("file", type=Path)
    read.add_argument("--json", action="store_true", help="print the findings as JSON")
    chosen = read.parse_args(words)
    from glintor.finding import worst_first
    from glintor.plan.timetable import time_findings
    from glintor.project.store import read_project
    from glintor.review import findings

    project = read_project(chosen.file)
    table = {
        shot.id: worst_first(
            findings(project, shot, chosen.file) + (time_findings(project, shot) if shot in project.planned else [])
        )
        for shot in project.shots
    }
    if chosen.json:
        import json

        print(json.dumps({shot: [_plain(f) for f in found] for shot, found in table.items()}, indent=2))
        return 0
    for shot in project.shots:
        print(shot.name + ("" if shot in project.planned else ": not planned, so only its recordings are looked at"))
        for found in table[shot.id]:
            when = "" if found.start_s != found.start_s else f" {found.start_s:.1f} to {found.end_s:.1f} s"
            print(f"  {found.level.word:8}{found.desk:9}{found.title}{when}: {found.measure or '-'}. {found.reason}")
    return 0


def _plain(finding: object) -> dict[str, object]:
    """A finding as JSON values; a number that is not there is null."""
    import msgspec

    values = msgspec.to_builtins(finding)
    values["level"] = finding.level.word  # type: ignore[attr-defined]
    return {name: None if isinstance(value, float) and value != value else value for name, value in values.items()}
