"""How fast the simulated place is drawn."""

from pathlib import Path

from bench.measure import Times, seconds_of


def report(_source: Path, runs: int) -> list[str]:
    from glintor.demo.day import demo_project
    from glintor.project.store import read_project
    from glintor.simulation.foresight import foresight

    project = read_project(demo_project())
    shot = project.shot("roof-cobdale")
    lines = ["## The simulated place", "", "| sphere | median s | least | most |", "|---|---|---|---|"]
    for width in (960, 1920, 5760):
        foresight(shot, project.site, project.camera, width)
        turns = max(runs, 5) if width < 5000 else 2
        spent = Times(
            tuple(seconds_of(lambda w=width: foresight(shot, project.site, project.camera, w)) for _ in range(turns))
        )  # type: ignore[misc]
        lines.append(f"| {width}x{width // 2} | {spent.words()} |")
        print(lines[-1], flush=True)
    return lines
