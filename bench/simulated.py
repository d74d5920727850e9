"""How fast the simulated place is drawn."""

from pathlib import Path

from msgspec.structs import replace

from bench.measure import Times, seconds_of, wait_for_calm


def report(_source: Path, runs: int) -> list[str]:
    from glintor.demo.day import DAY_CLIPS, SITE
    from glintor.placement.scenery import Place
    from glintor.simulation.camera import Roll, picture_of
    from glintor.simulation.foresight import foresight
    from glintor.simulation.place import build, render_sphere
    from glintor.simulation.rig import light_of, rig_of

    clip = next(c for c in DAY_CLIPS if c.shot_id == "roof-cobdale")
    shot = clip.shot
    scene = build(rig_of(shot.placement, clip.camera, SITE), light_of(SITE, shot.start_min, shot.placement), 3.0)
    photo = Place(
        id="photo", name="photo", photo=str(Path("tests/data/forest-sphere.jpg").absolute()), photo_faces_deg=10.0
    )
    elsewhere = replace(SITE, places=(photo,))

    def there(stage: str) -> None:
        placement = replace(shot.placement, setup="mini_tripod", stage=stage, ahead_m=0.0, left_m=0.0)
        foresight(replace(shot, placement=placement), elsewhere, clip.camera, 480)

    works = {
        "480x240, a described street": lambda: there("street"),
        "480x240, a hall with six lamps": lambda: there("hall"),
        "480x240, a photo sphere as the place": lambda: there("photo"),
        "480x240, first picture while a hand drags": lambda: foresight(shot, SITE, clip.camera, 480),
        "960x480, rays only": lambda: render_sphere(scene, 960, smooth=False),
        "960x480, edges smoothed, developed": lambda: foresight(shot, SITE, clip.camera, 960),
        "1920x960, one frame of a take": lambda: Roll(clip.recording(1920)).frame(0),
        "1920x960, both lenses and the stitch": lambda: picture_of(
            replace(clip.recording(1920), two_lenses=True), scene
        ),
        "5760x2880, edges smoothed": lambda: render_sphere(scene, 5760),
    }
    lines = ["## The simulated place", "", "| sphere | median s | least | most |", "|---|---|---|---|"]
    for words, work in works.items():
        work()
        wait_for_calm(30.0)
        spent = Times(tuple(seconds_of(work) for _ in range(max(runs, 5) if "5760" not in words else 2)))
        lines.append(f"| {words} | {spent.words()} |")
        print(lines[-1], flush=True)
    return lines
