"""Whether the placement advice is true: random set-ups, their findings against rendered rays and masks.

    python -m bench.advice [SETUPS] [SEED]

Each set-up is drawn anew and rendered as the simulation has it, half of them on open ground, half in one of the described
places (without people, traffic and far horizon). From the pixels alone comes
what the findings should say: how much of the subject is seen, where the seam runs through it and how far it tears (from
both lens centres), whether the camera's shadow or the sun is in the first frame, how high the person stands in it.
"""

import sys
from collections import Counter
from collections.abc import Callable

import msgspec
import numpy as np
from msgspec import Struct

from glintor.demo.day import CAMERA, SITE
from glintor.finding import Finding, Level
from glintor.placement import figures, seam, sight
from glintor.placement import solids as made
from glintor.placement.carrier import GROUND, Carrier, parts_of, ready_carriers
from glintor.placement.fitting import possible
from glintor.placement.framing import size_words
from glintor.placement.inside import stuck_in, subject_in
from glintor.placement.layout import START_FRAME, Layout
from glintor.placement.review_picture import HIDDEN_SHARE, SEEN_SHARE
from glintor.placement.scenery import Place, ready_places
from glintor.placement.shadow import LOW_SUN_DEG
from glintor.placement.shapes import extent
from glintor.placement.windows import SHADOW_M
from glintor.project.model import Exposure, Project, Shot
from glintor.project.placed import begun_on, in_reach, replanned
from glintor.project.site import Placement
from glintor.review import placing_there
from glintor.simulation import table as rt
from glintor.simulation.place import Scene, bare, build, masks, see
from glintor.simulation.pose import Pose
from glintor.simulation.raytrace import blocked
from glintor.simulation.rig import light_of, rig_of
from glintor.simulation.things import GROUND_Z
from glintor.sphere.equirect import direction, lonlat_deg, lonlat_of_pixel, pixel
from glintor.sphere.view import frame_position, in_frame

WIDTH = 2048
NEAR = 0.08
NEAR_WALL_M = 6.0  # farther off a wall is part of a view (judgement)
_NEAR_M = 2.0
WEARER_M = 0.3  # how thick who wears a camera is to the sun, about
_NEAR_BY = tuple(range(made.HULL, made.STICK + 1)) + tuple(range(made.FLOWERS, made.FUR + 1))
_HEAD = (made.SKIN, made.HAIR, made.CAP, made.SCARF)


class Verdict(Struct, frozen=True):
    """One question about one set-up: what was said, what the pixels say, and the words that they say within NEAR of their
    number: on the border between two words either is right, since pixels and rays have their own grain."""

    kind: str
    said: str
    seen: str
    number: float
    what: str
    near: tuple[str, ...] = ()

    @property
    def agrees(self) -> bool:
        return self.said == self.seen or self.said in self.near

    @property
    def stop_missed(self) -> bool:
        """A stop that is none, or the other way round, by more than one step."""
        return {self.said, self.seen} == {"stop", "note"}


def beside(carrier: Carrier, rng: np.random.Generator) -> np.ndarray:
    """Feet of somebody who stands about a carrier, not in it."""
    corners = [extent(parts) for parts in parts_of(carrier)]
    while True:
        far, turn = rng.uniform(0.9, 6.0), rng.uniform(-np.pi, np.pi)
        at = np.array([far * np.cos(turn), far * np.sin(turn)])
        if not any((low[:2] - 0.3 < at).all() and (at < high[:2] + 0.3).all() for low, high in corners):
            return np.array([*at, -min(carrier.floor_m, 2.0)])
        if carrier.id in ("boat", "coach", "wing"):  # nothing near them is beside them
            return np.array([*at * 2.5, -min(carrier.floor_m, 2.0)])


def drawn(rng: np.random.Generator) -> tuple[Project, Shot]:
    """A random carrier and a set-up that it takes, within what its mount can do, at a random hour, now and then under a grey
    sky; sometimes somebody else beside it is the subject."""
    carriers = list(ready_carriers().values())
    carrier = carriers[rng.integers(len(carriers))]
    takes = [setup for setup, why in possible(carrier) if not why]
    setup = takes[rng.integers(len(takes))]
    place = described(carrier, rng)
    site = msgspec.structs.replace(
        SITE,
        cloud_share=float(rng.choice([0.2, 0.2, 0.2, 1.0])),
        way_bearing_deg=float(rng.uniform(0, 360)),
        places=(place,),
    )
    begun = begun_on(
        site,
        Placement(setup="mini_tripod", stage=place.id, ahead_m=0, left_m=0, stick_m=0.7, heading_deg=0),
        setup,
        carrier,
    )
    feet = np.array(begun.subject.feet)
    if not begun.subject.far and (carrier.id == GROUND or rng.random() < 0.25):
        feet = beside(carrier, rng)
    elif setup.worn and not any(setup.sticks_m) and not begun.subject.far:
        feet[:2] = rng.uniform(1.0, 5.0), rng.uniform(-1.2, 2.0)
    ahead, left = np.array([begun.ahead_m, begun.left_m]) + rng.uniform(-1.0, 1.0, 2) * (
        2.5 if carrier.id == "boat" else 0.8
    )
    if carrier.id == GROUND and setup.takes == "ground":
        ahead, left = 0.0, 0.0
    heading = float(rng.choice([begun.heading_deg, rng.uniform(-180, 180)]))
    lean = (
        float(rng.choice([0.0, 0.0, rng.uniform(-25, 25)])) if setup.takes not in ("hand", "body") else begun.lean_deg
    )
    placement = msgspec.structs.replace(
        begun,
        ahead_m=float(ahead),
        left_m=float(left),
        stick_m=float(rng.choice(setup.sticks_m)),
        heading_deg=heading,
        lean_deg=lean,
    )
    if not begun.subject.far:
        placement = placement.with_subject(ahead_m=float(feet[0]), left_m=float(feet[1]), up_m=float(feet[2]))
    shot = Shot(
        id="s",
        name="s",
        start_min=float(rng.uniform(480, 1080)),
        length_min=20.0,
        placement=in_reach(site, placement),
        exposure=Exposure(),
    )
    return Project(site=site, shots=(shot,)), shot


def described(carrier: Carrier, rng: np.random.Generator) -> Place:
    """Open ground, or one of the places where such a carrier goes."""
    ready = ready_places()
    if rng.random() < 0.5:
        return ready["plain"]
    fits = [
        p for p in ready.values() if (p.wet or not carrier.afloat) and (p.id != "car-cabin" or carrier.id == GROUND)
    ]
    return msgspec.structs.replace(fits[rng.integers(len(fits))], people=0, traffic=0, lamps=0, horizon=())


def scene_of(plan: Layout, project: Project, shot: Shot, *, alone: bool = False) -> Scene:
    """Carrier, people and camera in their place; with `alone` the subject and nothing else."""
    place = project.site.place(shot.placement.stage)
    if not alone and place is not None and place.id != "plain":
        return build(
            rig_of(shot.placement, project.camera_of(shot), project.site),
            light_of(project.site, shot.start_min, shot.placement),
            0.0,
        )
    base = np.array([0.0, 0.0, GROUND_Z + plan.carrier.floor_m])
    subject = figures.subject_person(plan)[0].moved(base)
    things = [] if subject.empty else [subject]
    if not alone:
        things += [parts.moved(base) for parts in parts_of(plan.carrier)]
        carrying = figures.carrying_person(plan) if plan.carrier_apart else None
        if carrying is not None:
            carrying[0].owner = made.MOUNT if plan.setup.worn else made.PLACE
            things.append(carrying[0].moved(base))
        mount = made.Parts(owner=made.MOUNT, shadow_only=True)
        eye, foot = base + plan.camera, base + plan.foot
        mount.blob((eye[0], eye[1], eye[2]), (0.03, 0.03, 0.06), made.STICK)
        if plan.stick_m > 0.0:
            mount.limb((eye[0], eye[1], eye[2]), (foot[0], foot[1], foot[2]), plan.setup.half_width_m, made.STICK)
        things.append(mount)
    return bare(
        things,
        Pose(base + plan.camera, plan.frame),
        light_of(project.site, shot.start_min, shot.placement),
        ground=made.WATER if plan.carrier.afloat else made.GRASS,
    )


def level_word(finding: Finding | None) -> str:
    return "note" if finding is None else finding.level.word


def judged(project: Project, shot: Shot) -> list[Verdict]:
    """Every verdict about one set-up."""
    plan = replanned(project, shot)()
    found = {f.kind: f for f in placing_there(project, shot)}
    what = f"{shot.placement.carrier} {shot.placement.setup} {shot.placement.stick_m:g} m {shot.placement.stage}"
    height = WIDTH // 2
    looks = direction(*lonlat_of_pixel(*np.meshgrid(np.arange(WIDTH), np.arange(height)), WIDTH, height))
    weight = np.sqrt(np.maximum(1.0 - looks[..., 2] ** 2, 0.0))
    far = plan.filmed[0].subject.far
    whole, lone = scene_of(plan, project, shot), scene_of(plan, project, shot, alone=True)
    seen, by_itself = (see(s, (WIDTH, height), smooth=False) for s in (whole, lone))
    mask, free = masks(whole, seen), masks(lone, by_itself)
    person = (mask & rt.SEES_SUBJECT) > 0
    full = (free & rt.SEES_SUBJECT) > 0
    out = []

    if far:  # of a direction: what of it no part of carrier or people stands before, and no wall close by
        look = plan.directions(sight.body_of(plan).points)
        column, row = pixel(*lonlat_deg(look), WIDTH, height)
        at = np.clip(np.round(row).astype(int), 0, height - 1), np.round(column).astype(int) % WIDTH
        walls = np.isin(seen.kind[at], [wall[-1] for wall in plan.walls]) & (seen.depth_m[at] < NEAR_WALL_M)
        share = float(np.mean(~np.isin(seen.kind[at], _NEAR_BY) & ~walls))
    else:
        share = float(weight[person].sum() / max(weight[full].sum(), 1e-9))
    out.append(verdict("hidden", level_word(found.get("hidden")), hidden_word, share, what))

    frame = in_frame(plan.start_view, START_FRAME, looks)
    px = torn(plan, person, seen.kind, seen.depth_m, looks, frame)
    said = found["seam"]
    word = "note" if said.title == "No lens faces the subject" else said.level.word
    if not far:
        out.append(verdict("seam", word, tear_word, px, what))

    shining = plan.sun.elevation_deg > 0.0 and not light_of(project.site, shot.start_min, shot.placement).overcast
    metres = shadow_m(mask, seen.depth_m, frame, plan) if shining else 0.0
    out.append(
        Verdict(
            "shadow",
            yes("shadow" in found and found["shadow"].level > Level.NOTE),
            yes(metres > SHADOW_M),
            metres,
            what,
        )
    )
    sun = found.get("sun")
    there = bool(in_frame(plan.start_view, START_FRAME, direction(whole.truth.sun_yaw_deg, whole.truth.sun_pitch_deg)))
    there &= not blocked(*whole.pose.position_m.tolist(), *whole.light.sun_vector().tolist(), whole.world)
    column, row = pixel(whole.truth.sun_yaw_deg, whole.truth.sun_pitch_deg, WIDTH, height)
    at = min(round(float(row)), height - 1), round(float(column)) % WIDTH
    there &= bool(person[at]) or seen.depth_m[at] > _NEAR_M  # who wears the camera may stand before it
    out.append(
        Verdict(
            "sun", yes(sun is not None and sun.title == "Sun in the first frame"), yes(shining and there), 0.0, what
        )
    )

    if far:
        return out
    _, y = frame_position(plan.start_view, START_FRAME, looks[full])
    tall = float(np.nanmax(y) - np.nanmin(y)) if np.isfinite(y).any() else 0.0
    drawn_px = sight.drawn_px(plan, plan.start_view, START_FRAME)
    out.append(
        Verdict(
            "size",
            size_words(drawn_px / START_FRAME[1]),
            size_words(tall / START_FRAME[1]),
            drawn_px / max(tall, 1.0),
            what,
            tuple(size_words(tall * (1.0 + by) / START_FRAME[1]) for by in (-NEAR, NEAR)),
        )
    )
    return out


def verdict(kind: str, said: str, words: Callable[[float], str], number: float, what: str) -> Verdict:
    return Verdict(
        kind, said, words(number), number, what, (words(number * (1.0 - NEAR)), words(number * (1.0 + NEAR)))
    )


def hidden_word(share: float) -> str:
    return "stop" if share < HIDDEN_SHARE else "caution" if share < SEEN_SHARE else "note"


def tear_word(px: float) -> str:
    return "stop" if px > seam.TEAR_STOP_PX else "caution" if px > seam.TEAR_NOTE_PX else "note"


def yes(it_is: bool) -> str:
    return "yes" if it_is else "no"


def torn(
    plan: Layout, person: np.ndarray, kind: np.ndarray, depth: np.ndarray, looks: np.ndarray, frame: np.ndarray
) -> float:
    """How far the seam tears face or clothes in the film, from the two lens centres."""
    axis = np.array(plan.lens_axis)
    off = np.degrees(np.arcsin(np.clip(looks @ axis, -1, 1)))
    grips = np.zeros(off.shape, bool)  # the hand on the stick, where nobody looks
    if plan.setup.hand is not None:
        grip = (plan.foot - plan.camera) @ plan.frame
        grips = np.linalg.norm(looks * depth[..., None] - grip, axis=-1) < 0.2
    worst = 0.0
    for materials, half in ((_HEAD, 1.0), ((made.JACKET,), 0.5)):
        there = person & np.isin(kind, materials) & (np.abs(off) <= seam.BLEND_DEG) & ~grips & frame
        if there.sum() < 3:
            continue
        places = looks[there] * depth[there][:, None]
        ends = [
            places + sign * axis * CAMERA.gap_m / 2.0 for sign in (-1.0, 1.0)
        ]  # as each lens sees it, drawn by the frame
        drawn = [
            frame_position(plan.start_view, START_FRAME, one / np.linalg.norm(one, axis=1)[:, None]) for one in ends
        ]
        apart = np.hypot(drawn[1][0] - drawn[0][0], drawn[1][1] - drawn[0][1])
        worst = max(worst, float(np.nanpercentile(apart, 90)) * seam.STITCHES[CAMERA.stitch] * half)
    return worst


def shadow_m(mask: np.ndarray, depth: np.ndarray, frame: np.ndarray, plan: Layout) -> float:
    """About how many metres of the camera's shadow a frame shows: its pixels' area over the thickness of the stick, or of who
    wears the camera."""
    there = (
        ((mask & rt.SHADOW_OF_MOUNT) > 0) & ((mask & (rt.SEES_MOUNT | rt.SEES_SUBJECT)) == 0) & frame & (depth < 60.0)
    )
    if not there.any() or plan.sun.elevation_deg < LOW_SUN_DEG:
        return 0.0
    rows = np.nonzero(there)[0]
    tall = np.pi / mask.shape[0]
    across = np.maximum(np.cos((rows + 0.5) * tall - np.pi / 2), 0.05) * tall
    area = float((depth[there] ** 2 * across * tall / 0.5).sum())  # seen at a slant of about 30 degrees
    thick = WEARER_M if plan.wearer_apart else max(2.0 * plan.setup.half_width_m, 0.03)
    return area / thick


def main() -> None:
    count, seed = (
        (int(v) for v in (*sys.argv[1:3], *("100", "7")[len(sys.argv) - 1 :])) if len(sys.argv) < 4 else (100, 7)
    )
    rng = np.random.default_rng(seed)
    sets = [drawn(rng) for _ in range(count)]
    inside = [
        stuck_in(replanned(*one)()) or subject_in(replanned(*one)()) for one in sets
    ]  # told as a stop; what a lens inside something sees is nobody's picture
    asked = [one for one, stuck in zip(sets, inside, strict=True) if stuck is None]
    print(f"{count - len(asked)} of {count} have camera, stick or subject inside something and are left out")
    verdicts = [v for one in asked for v in judged(*one)]
    print(f"{sum(v.agrees for v in verdicts)} of {len(verdicts)} agree ({sum(v.agrees for v in verdicts) / len(verdicts):.1%}); "
          f"{sum(v.stop_missed for v in verdicts)} stop-level misses")  # fmt: skip
    for kind in dict.fromkeys(v.kind for v in verdicts):
        mine = [v for v in verdicts if v.kind == kind]
        print(
            f"  {kind:8}{sum(v.agrees for v in mine)} of {len(mine)}",
            dict(Counter((v.said, v.seen) for v in mine if not v.agrees)),
        )
    for v in verdicts:
        if not v.agrees:
            print(f"    {v.kind:8}{v.what:48} said {v.said:8} seen {v.seen:8} {v.number:.3f}")


if __name__ == "__main__":
    main()
