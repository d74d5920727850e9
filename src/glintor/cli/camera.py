"""The command that puts a simulated camera on the air of this machine."""

import tempfile
from pathlib import Path

from glintor.cli.options import parser


def camera(words: list[str]) -> int:
    read = parser(
        "camera",
        "A simulated camera that films a shot of a day, on the open web API of spherical cameras, on this machine's loopback only.",
    )
    read.add_argument("day", type=Path, nargs="?", help="the day (.glintor); the demo day without it")
    read.add_argument("--shot", help="by its id; the first without it")
    read.add_argument("--camera", help="which of the kit's, by its id")
    read.add_argument("--card", type=Path, help="the folder that is its memory card; a fresh one without it")
    read.add_argument("--port", type=int, default=0, help="a free one without it")
    read.add_argument(
        "--width", type=int, default=960, help="of what it records; it renders one to two frames a second at 1920"
    )
    read.add_argument(
        "--most", type=float, default=60.0, metavar="S", help="seconds of film after which it stops by itself"
    )
    chosen = read.parse_args(words)
    from glintor.demo.day import demo_project
    from glintor.project.store import read_project
    from glintor.simulation.body import SimulatedCamera
    from glintor.simulation.recording import Recording
    from glintor.simulation.serving import CameraServer

    project = read_project(chosen.day if chosen.day is not None else demo_project())
    shot = project.shot(chosen.shot) if chosen.shot else project.shots[0]
    filmed_by = project.kit.camera(chosen.camera or "") or project.camera_of(shot)
    card = chosen.card or Path(tempfile.mkdtemp(prefix="glintor-card-"))
    card.mkdir(parents=True, exist_ok=True)
    recording = Recording(shot, project.site, filmed_by, chosen.most, chosen.width)
    with CameraServer(SimulatedCamera(recording, card), card, chosen.port) as server:
        print(
            f"{filmed_by.name} before {shot.name} at {server.address}, its card is {card}; Ctrl+C ends it.", flush=True
        )
        server.serve_forever()
    return 0
