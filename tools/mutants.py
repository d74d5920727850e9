"""Breaks one line after the other, and says which of them no test notices.

    python -m tools.mutants [WORD]     those alone whose place holds the word

Each row is a line of a file, what is put in its place, and the tests that must fail then. They run on a copy of the source.
"""

import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import NamedTuple

_HANGS_S = 90.0
ROOT = Path(__file__).parents[1]


class Mutant(NamedTuple):
    file: str
    line: str
    broken: str
    tests: str


PROVEN, REFUSED, SOLID = "offload/test_what_is_proven.py", "project/test_refused.py", "placement/test_solid_things.py"
LIMITS, LIGHT = "reframing/test_limits.py", "exposure/test_limits.py"
HOSTILE, FOUND = "recording/test_hostile_camera.py", "reframing/test_findings_and_proposals.py"
MUTANTS = (
    # Copies and proofs
    Mutant("offload/copy.py", "if there != self._hash(file):", "if False:", PROVEN),
    Mutant("offload/transfer.py", "same &= back.tell() == self._size and not back.read(1)", "pass", PROVEN),
    Mutant("offload/card.py", "and not self.unlisted and not self._in_doubt", "and not self.unlisted", PROVEN),
    Mutant("offload/card.py", "known.get(proof.copy) != proof.xxh64", "proof.copy not in known and False", PROVEN),
    Mutant("walk.py", "if not _leads_inside(path, inside):", "if False:", PROVEN),
    Mutant("offload/run.py", "folder.resolve() for folder in folders", "folder for folder in folders", PROVEN),
    Mutant("offload/transfer.py", "self.trouble = write_error(self.target, error)", "raise", PROVEN),
    Mutant("names.py", 'found[0].encode("utf-8", "surrogateescape")', 'found[0].encode("utf-8", "replace")', PROVEN),
    # Keeping
    Mutant("project/keeper.py", "raise NotKept(self.file, fault)", "pass", REFUSED),
    Mutant("project/keeper.py", "except Exception as error:  # nobody foresaw it", "except ProjectError as error:  # x", REFUSED),
    Mutant("project/versioned.py", "if found < 1 or", "if", f"{REFUSED}::test_a_format_that_never_was_is_refused_at_once"),
    Mutant("quantities.py", "if 0.0 < abs(value) < least:", "if False:", "media/test_damaged.py"),
    Mutant("media/spherical.py", "if deep > _DEEPEST:", "if deep > 1000 * _DEEPEST:", "media/test_damaged.py"),
    Mutant("media/spherical.py", "pose = (-yaw % 360.0, pitch, roll)", "pose = (-yaw % 360.0, pitch, -roll)", "media/test_damaged.py"),
    # Cameras
    Mutant("recording/held_link.py", 'if self._roll == "rolls":', "if False:", HOSTILE),
    Mutant("recording/rolling.py", 'if standings & {"not", "lost"}:', 'if standings & {"lost"}:', HOSTILE),
    Mutant("recording/web_camera.py", "if wanting + _SPARE_BYTES > free:", "if False:", HOSTILE),
    Mutant("recording/wire.py", "if came < LEAST_BYTES:", "if False:", HOSTILE),
    Mutant("recording/logbook.py", "if log.rolling or log.files:", "if log.files:", "recording/test_log.py"),
    # Placement
    Mutant("placement/seam.py", "TEAR_NOTE_PX, TEAR_STOP_PX = 3.0, 10.0", "TEAR_NOTE_PX, TEAR_STOP_PX = 3.3, 10.0", "placement/test_seam.py"),
    Mutant("placement/inside.py", "if camera < 0.0 else []", "if camera < -1.0 else []", SOLID),
    Mutant("placement/figures.py", "and box[1] <= left <= box[4]", "", SOLID),
    Mutant("placement/scenery.py", "len(closed) >= 3", "len(closed) >= 2", SOLID),
    Mutant("placement/replan.py", "level > max(self._now.get(other, Level.NOTE), Level.NOTE)", "False", SOLID),
    Mutant("placement/fitting.py", "abs(way[2]) > float(np.hypot(way[0], way[1]))", "False", SOLID),
    Mutant("placement/figures.py", "_near_walls(plan) if plan.filmed[0].subject.far", "() if plan.filmed[0].subject.far", SOLID),
    # Light
    Mutant("exposure/schools.py", '"drowned": 0.35', '"drowned": 0.5', LIGHT),
    Mutant("exposure/schools.py", '"pumping": 2.0', '"pumping": 1.0', LIGHT),
    Mutant("exposure/review.py", "ERROR_LIMIT_STOPS = 1.0", "ERROR_LIMIT_STOPS = 1.2", LIGHT),
    Mutant("exposure/flicker.py", "tolerance: float = 0.02", "tolerance: float = 0.025", LIGHT),
    Mutant("exposure/hdr.py", "_GHOST_PX, _GHOST_STOPS = 720, 0.45", "_GHOST_PX, _GHOST_STOPS = 720, 0.6", LIGHT),
    Mutant("plan/budget.py", "_SPARE = 0.03", "_SPARE = 0.0", LIGHT),
    Mutant("plan/timetable.py", "climbs / CLIMB_M_MIN", "0.0", "plan/test_plan.py::test_who_walks_uphill_takes_naismiths_time"),
    # Paths, joins, clocks, tracks
    Mutant("sphere/steady.py", "view_matrix(calm, np.zeros_like(calm)", "view_matrix(-calm, np.zeros_like(calm)", "sphere/test_turn.py"),
    Mutant("project/matching.py", "enough and most - rival >= 0.5", "enough and most - rival >= 0.0", "project/test_matching.py"),
    Mutant("export/soundtrack.py", "strand.track(strand.ends_s, end)", "strand.track(0.0, end)", LIMITS),
    Mutant("reframing/joins.py", "np.linspace(0.0, 1.0, _SMEARED)", "np.zeros(1)", LIMITS),
    Mutant("reframing/between.py", "RHO = np.sqrt(\n    2.0\n)", "RHO = np.sqrt(\n    2.4\n)", LIMITS),
    Mutant("sphere/lenses.py", "self.k3 * t**2 + self.k5 * t**4)", "self.k3 * t**2 - self.k5 * t**4)", LIMITS),
    Mutant("project/clocks.py", "at = back.offset_s + time_s / (1.0 + back.drift_ppm * 1e-6)", "at = back.offset_s + time_s", LIMITS),
    Mutant("reframing/track.py", "np.minimum(self.state[after]", "np.maximum(self.state[after]", LIMITS),
    Mutant("reframing/review.py", "_EYES, _SHOULDER, _BODY = 0.43", "_EYES, _SHOULDER, _BODY = 0.35", FOUND),
    Mutant("reframing/arranging.py", "if over > 1e-6:\n        return None", "if False:\n        return None", "reframing/test_course_and_edits.py"),
    Mutant("export/weave.py", "_LEAST_SHARE * min(last - first, until - time)", "_LEAST_SHARE * (last - first)", "export/test_retimed.py"),
)  # fmt: skip


def killed(mutant: Mutant, source: Path) -> bool:
    """Whether its tests fail with that line broken in a copy of the source."""
    file = source / "glintor" / mutant.file
    whole = file.read_text()
    if whole.count(mutant.line) < 1:
        raise SystemExit(f"{mutant.file} has no {mutant.line!r} any more: mend the row")
    file.write_text(whole.replace(mutant.line, mutant.broken, 1))
    try:
        tests = ROOT / "tests" / mutant.tests
        command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", "-p", "no:xdist", str(tests)]
        told = os.environ | {
            "PYTHONPATH": str(source),
            "QT_QPA_PLATFORM": "offscreen",
            "GLINTOR_PROPERTIES": "repeated",
        }
        done = subprocess.run(command, cwd=ROOT, env=told, capture_output=True, text=True, timeout=_HANGS_S)
        return done.returncode == 1
    except subprocess.TimeoutExpired:
        return True  # what hangs is noticed
    finally:
        file.write_text(whole)


def main() -> int:
    word = sys.argv[1] if len(sys.argv) > 1 else ""
    with tempfile.TemporaryDirectory() as folder:
        source = Path(folder) / "src"
        shutil.copytree(ROOT / "src", source, ignore=shutil.ignore_patterns("__pycache__"))
        mine = [m for m in MUTANTS if word in m.file]
        alive = []
        for number, mutant in enumerate(mine, 1):
            dead = killed(mutant, source)
            print(
                f"{number:3} of {len(mine)} {'killed' if dead else 'ALIVE '} {mutant.file}: {mutant.broken[:70]!r}",
                flush=True,
            )
            alive += [] if dead else [mutant]
    print(f"{len(mine) - len(alive)} of {len(mine)} killed")
    return 1 if alive else 0


if __name__ == "__main__":
    raise SystemExit(main())
