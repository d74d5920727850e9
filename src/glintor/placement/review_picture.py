"""What a placement does to the picture: seam, stick, nearness, proportions, size, shadow, sun."""

from collections.abc import Callable
from functools import partial

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from glintor.finding import Cure, Finding, Level, counted
from glintor.placement import seam
from glintor.placement.given import Given
from glintor.placement.inside import subject_in
from glintor.placement.layout import Layout
from glintor.placement.replan import Search, Trial, best_cure, leans, longer_sticks, places, turned_to
from glintor.placement.scenery import Place
from glintor.placement.sight import CLOTHES, FACE, GRIP_M, Body, body_of, drawn_px, obstacles, visible_share, what_hides
from glintor.sphere.view import frame_position, in_frame

BLOATED_M = 0.6  # common practice, no source: about an arm's length
TRUE_RATIO = 1.25  # of head to feet, above which a person looks out of shape (judgement, no source)
SMALL_PX = 150  # of true height, below which a face is a few pixels (judgement, no source)
SEEN_SHARE, HIDDEN_SHARE = (
    2.0 / 3.0,
    0.25,
)  # of the subject that must be seen; below the second the shot is lost (judgement)
OFF_AXIS_DEG = 60.0  # from a lens's axis, beyond which it draws softly (judgement, no source)
_CUT = 1.4  # times the frame's height, from where on a size says nothing any more
_HEAD_M = 0.35  # from the crown, within which what shows skin and hair is the head
_SEAM_RAYS, _NEAREST_PERCENT = 481, 10.0  # round the seam; of what it meets the nearest part counts
_RAYS_HIT = 2  # one ray that slips past a mast shows nothing that anybody sees
_ALONG = (0.0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0)
_made = partial(Finding, desk="place")


class Tear(Struct, frozen=True):
    """What the seam does to the subject from the hips up, as far as the first frame shows it. px: of the flat film at its
    planned size, 0 where it passes beside; part: what it tears; off_deg: of the face from the seam."""

    px: float
    part: str
    distance_m: float
    off_deg: float


def seam_tear(plan: Layout, given: Given) -> Tear:
    """How far the seam tears the subject: where it runs through face or clothes, as near as that is. A tear of clothes
    counts half of one of a face."""
    body = body_of(plan)
    off = np.abs(plan.off_seam_deg(body.points))
    worst = Tear(0.0, "", plan.subject_m, float(off[_head(plan, body)].min()))
    met, looks = _on_seam(plan, body, given.frame_px)
    scale = _across_px(plan, looks, given.frame_px)
    for kind, name, weight in ((FACE, "face", 1.0), (CLOTHES, "clothes", 0.5)):
        there = np.isfinite(met[kind])
        if there.sum() >= _RAYS_HIT:
            torn = seam.tear_px(
                met[kind][there], gap_m=given.gap_m, px_per_rad=scale[there], left_share=given.stitch_share
            )
            px = weight * float(np.percentile(torn, 100.0 - _NEAREST_PERCENT))
            if px > worst.px:
                at = float(np.percentile(met[kind][there], _NEAREST_PERCENT))
                worst = replace(worst, px=px, part=name, distance_m=at)
    return worst


def _head(plan: Layout, body: Body) -> NDArray[np.bool_]:
    """(n,) which points of the subject are its head; of what has none, or shows none, what one looks at first."""
    first = body.kind == np.min(body.kind)
    near = first & (np.linalg.norm(body.points - plan.head, axis=1) < _HEAD_M)
    return near if near.any() else first


def _across_px(plan: Layout, looks: NDArray[np.float64], frame_px: tuple[int, int]) -> NDArray[np.float64]:
    """(n,) pixels a radian of the first frame at directions (n, 3) of the picture, across the seam: a wide view draws its edges larger
    than its middle, so the scale is that of the place itself."""
    step = 1e-3 * np.asarray(plan.lens_axis)
    ends = [frame_position(plan.start_view, frame_px, _unit(looks + sign * step)) for sign in (-1.0, 1.0)]
    return np.asarray(np.hypot(ends[1][0] - ends[0][0], ends[1][1] - ends[0][1]) / 2e-3)


def _unit(vectors: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(vectors / np.linalg.norm(vectors, axis=-1, keepdims=True))


def _on_seam(plan: Layout, body: Body, frame_px: tuple[int, int]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(3, n) metres along rays on the seam and at the edges of its strip to face, clothes and legs of the subject, inf where one
    does not see them first, or not in the first frame; and those rays (n, 3) in the picture."""
    rays = np.concatenate(
        [seam.seam_circle(plan.lens_axis, off, _SEAM_RAYS)[:-1] for off in (-seam.BLEND_DEG, 0.0, seam.BLEND_DEG)]
    )
    looks = rays[in_frame(plan.start_view, frame_px, rays)]
    rays = looks @ plan.frame.T
    eyes = np.repeat(plan.camera[None], len(rays), axis=0)
    met = np.stack([solids.distance(eyes, rays) for solids in body.by_kind])
    hit = np.isfinite(met[:2]).any(axis=0)
    rays, eyes, met, looks = rays[hit], eyes[hit], met[:, hit], looks[hit]
    if not len(rays):
        return met, looks
    before = np.minimum(np.inf, met.min(axis=0))
    for solids in obstacles(plan):
        before = np.minimum(before, solids.distance(eyes, rays))
    met = np.where(met <= before + 1e-6, met, np.inf)
    if plan.setup.hand is not None:  # the hand on the stick, where nobody looks
        at = eyes + rays * np.where(np.isfinite(before), before, 0.0)[:, None]
        met[:, np.linalg.norm(at - plan.foot, axis=1) < GRIP_M] = np.inf
    return met, looks


def _tear_level(px: float) -> Level:
    return Level.STOP if px > seam.TEAR_STOP_PX else Level.CAUTION if px > seam.TEAR_NOTE_PX else Level.NOTE


def _lens_off_deg(plan: Layout) -> float:
    """Angle of the subject's chest from the nearer lens's axis."""
    return 90.0 - abs(float(plan.off_seam_deg(plan.chest[None])[0]))


def _seam_judged(given: Given) -> Callable[[Layout], tuple[Level, float]]:
    """How bad the seam is to a subject that may walk: the worst of its way, and how far off a lens's axis it stands."""

    def judge(plan: Layout) -> tuple[Level, float]:
        along = _along(plan)
        tear = max(seam_tear(p, given).px for p in along)
        return max(_tear_level(tear), Level.NOTE), tear + max(_lens_off_deg(p) for p in along) / 100.0

    return judge


def _along(plan: Layout) -> list[Layout]:
    """The placement along the subject's way; itself where it stays."""
    return [plan.moved(share) for share in _ALONG] if any(plan.goes_m) else [plan]


def seam_finding(plan: Layout, given: Given, search: Search | None = None) -> Finding:
    """How far the seam tears the subject in the film, and whether a lens could face it better; worst of its way."""
    along = _along(plan)
    tears = [seam_tear(p, given) for p in along]
    at = max(range(len(along)), key=lambda n: tears[n].px)
    there, tear = along[at], tears[at]
    told = f" {_ALONG[at]:.0%} along its way." if at else ""
    made = partial(
        _made, kind="seam",
        explained="Where the seam's plane, at right angles to the lenses' axis, runs through face or clothes: lens gap / distance x pixels a "
        f"radian of the film x what the stitch leaves: {1000 * given.gap_m:.0f} mm / {tear.distance_m:.2f} m x "
        f"the frame's pixels a radian where it lies x {given.stitch_share:.2f}; of clothes half. "
        "Source: parallax of two centres, checked against rendered pictures of both lenses. What a stitch leaves and the limits are judgements.",
    )  # fmt: skip
    level = _tear_level(tear.px)
    if tear.px > 0.0:
        trials = [Trial("Face a lens to the subject", "heading_deg", turned_to(there, there.chest_yaw_pitch_deg[0]))]
        trials += [*longer_sticks(plan), *leans(plan), *_joints(plan)]
        judge = _seam_judged(given)
        cure = (
            best_cure(trials, search, judge, judge(plan), "seam") if search is not None and level > Level.NOTE else None
        )
        person = there.filmed[0].subject.what == "person"
        what = "the face" if tear.part == "face" else "the clothes" if person else "the subject"
        return made(
            level=level, value=tear.px, limit=seam.TEAR_STOP_PX if level is Level.STOP else seam.TEAR_NOTE_PX, unit="px", digits=0 if tear.px >= 10 else 1,
            title=f"Seam tears {what}" if level > Level.NOTE else "Seam harmless here",
            reason=f"It runs through {what}, {tear.distance_m:.1f} m away; so much is left in the film after the camera's own stitch.{told}",
            cure=cure,
        )  # fmt: skip
    off = _lens_off_deg(there)
    if off > OFF_AXIS_DEG:
        faced = turned_to(there, there.chest_yaw_pitch_deg[0])
        helps = search is not None and _lens_off_deg(search.replan(heading_deg=faced)) < OFF_AXIS_DEG
        return made(
            level=Level.CAUTION if helps else Level.NOTE, title="No lens faces the subject", value=off, limit=OFF_AXIS_DEG, unit="°", digits=0,
            reason=f"So far is it off the nearer lens's axis, where lenses draw softly; the seam is {90 - off:.0f}° away.",
            cure=Cure("Face a lens to the subject", "placement.heading_deg", faced) if helps else None,
        )  # fmt: skip
    person = plan.filmed[0].subject.what == "person"
    hand = (
        " The hand on the stick lies in it, as it must: it is torn."
        if plan.setup.hand is not None and not plan.carrier_apart
        else ""
    )
    return made(
        level=Level.NOTE, title="Face off the seam" if person else "Subject off the seam", value=tears[0].off_deg, unit="°", digits=0,
        reason=f"So far is {'the face' if person else 'it'} off the seam.{hand}",
    )  # fmt: skip


def _joints(plan: Layout) -> list[Trial]:
    """Turns of a joint: they take the camera off its stick's line, which then shows."""
    if plan.stick_m <= 0.0:
        return []
    return [
        Trial(f"Joint to {tilt:+.0f}°; the stick will show", "tilt_deg", tilt) for tilt in (15.0, -15.0, 30.0, -30.0)
    ]


def hidden_finding(plan: Layout, given: Given, search: Search | None = None) -> Finding | None:
    """Whether the carrier or who carries the camera stands before the subject. None where nearly all of it is seen, or where it is
    inside something."""
    if subject_in(plan) is not None:  # told as that: nothing of it can be seen, and nothing need be
        return None
    worst = min(_along(plan), key=visible_share)
    share = visible_share(worst)
    if share >= SEEN_SHARE:
        return None
    level = Level.STOP if share < HIDDEN_SHARE else Level.CAUTION

    def judge(other: Layout) -> tuple[Level, float]:
        seen = min(visible_share(p) for p in _along(other))
        return (Level.NOTE if seen >= SEEN_SHARE else Level.CAUTION if seen >= HIDDEN_SHARE else Level.STOP), 1.0 - seen

    trials = [*longer_sticks(plan), *places(plan), *leans(plan)]
    return _made(
        kind="hidden", level=level, title="Subject hidden" if level is Level.STOP else "Subject partly hidden", value=100.0 * share,
        limit=100.0 * (HIDDEN_SHARE if level is Level.STOP else SEEN_SHARE), unit="%", digits=0,
        reason=f"Only so much of it is seen past {' and '.join(what_hides(worst))}.",
        cure=best_cure(trials, search, judge, (level, 1.0 - share), "hidden") if search is not None else None,
        explained="Share of head, trunk and legs, by area, that straight lines from the lenses reach past the carrier and its people. "
        "Source: geometry, checked against rendered pictures. The limits are judgements.",
    )  # fmt: skip


def passers_finding(place: Place) -> Finding | None:
    """That people and vehicles of a place are in no number: nobody knows where they will be. None where none are about."""
    several = (place.people, "person", "people"), (place.traffic, "vehicle", "vehicles")
    about = [counted(number, one, many) for number, one, many in several if number]
    if not about:
        return None
    return _made(
        kind="passers",
        level=Level.NOTE,
        title="Others pass by here",
        value=float(place.people + place.traffic),
        unit="",
        digits=0,
        reason=f"{' and '.join(about)} in the place as described: they may stand before the subject or on the seam, and whose faces are "
        "seen may have to be asked.",
        explained="They are drawn somewhere in the foresight, but no finding about what is hidden, torn or shaded reckons with them.",
    )


def together_finding(plan: Layout, given: Given) -> Finding | None:
    """Whether the first frame shows all the subjects, where that is wished."""
    if not plan.together or len(plan.filmed) < 2:
        return None
    points = np.stack([plan.middle_of(being) for being in plan.filmed])
    shown = in_frame(plan.start_view, given.frame_px, plan.directions(points))
    eyes = np.repeat(plan.camera[None], len(points), axis=0)
    for solids in obstacles(plan):
        shown = shown & ~solids.blocks(eyes, points, slack_m=0.3)
    missing = [being.subject.name for being, seen in zip(plan.filmed, shown.tolist(), strict=True) if not seen]
    return _made(
        kind="together", level=Level.CAUTION if missing else Level.NOTE, value=plan.start_view.fov_deg, unit="°", digits=0,
        title="Not all in one frame" if missing else "All in one frame",
        reason=f"{', '.join(missing)} {'is' if len(missing) == 1 else 'are'} out of it or hidden: move the camera so that they stand nearer "
        "to one direction." if missing else "So wide is the frame that holds them.",
        explained="The middle of each subject in a frame between them, as wide as they need up to 150 degrees, past the carrier and who holds the camera.",
    )  # fmt: skip


def tilt_finding(plan: Layout, given: Given) -> Finding | None:
    """Whether the stick still hides between the lenses."""
    stick_m, half = given.stick_m, plan.setup.half_width_m
    if stick_m <= 0:
        return None
    limit = seam.hidden_tilt_deg(stick_m, gap_m=given.gap_m, half_thickness_m=half)
    made = partial(
        _made, kind="tilt", value=abs(given.tilt_deg), limit=limit, unit="°", digits=1,
        explained="Greatest angle = atan((gap / 2 - half thickness) / length): "
        f"atan(({500 * given.gap_m:.0f} - {1000 * half:.0f}) mm / {stick_m:g} m) = {limit:.2f}°. "
        "Source: the slab between the lenses that neither sees, checked against rendered pictures.",
    )  # fmt: skip
    if abs(given.tilt_deg) <= limit:
        return made(
            level=Level.NOTE, title="Stick hidden", reason=f"All {stick_m:.1f} m stand in the gap between the lenses."
        )
    shown = stick_m - seam.hidden_length_m(given.tilt_deg, gap_m=given.gap_m, half_thickness_m=half)
    return made(
        level=Level.CAUTION,
        title="Stick shows",
        reason=f"It leaves the camera's line: {shown:.2f} m of {stick_m:.1f} m come out of the gap.",
        cure=Cure("Straighten the joint", "placement.tilt_deg", 0.0),
    )


def clamp_finding(plan: Layout, given: Given) -> Finding | None:
    """How much of a clamp or foot wider than the lens gap shows under the camera."""
    half = plan.setup.clamp_half_m + given.offset_m
    if half <= 0.0:
        return None
    away = max(float(np.linalg.norm(plan.foot - plan.camera)), 0.05)
    excess = seam.excess_deg(half, away, gap_m=given.gap_m, tilt_deg=given.tilt_deg)
    level = Level.NOTE if excess < 3.0 else Level.CAUTION
    fits = [
        s
        for s in plan.setup.sticks_m
        if s > given.stick_m and seam.excess_deg(half, s, gap_m=given.gap_m, tilt_deg=given.tilt_deg) < 3.0
    ]
    return _made(
        kind="clamp", level=level, title="Clamp shows a little" if level is Level.NOTE else "Clamp shows", value=excess, limit=3.0,
        unit="°", reason=f"It is {2000 * half:.0f} mm wide, {away:.2f} m from the lenses. A planet view shows it; a level one does not.",
        cure=Cure(f"Stick to {fits[0]:g} m", "placement.stick_m", fits[0]) if level is Level.CAUTION and fits else None,
        explained="Angle on the side where more shows = atan((half width + distance x sin(joint) - gap / 2) / (distance x cos(joint) - half "
        f"width)): {1000 * half:.0f} mm, {given.tilt_deg:g}°, {500 * given.gap_m:.0f} mm, {away:.2f} m give {excess:.1f}°. Source: the slab "
        "between the lenses; that it is as long as wide and the limit are judgements.",
    )  # fmt: skip


def _shape_finding(plan: Layout) -> Finding:
    """Head against feet."""
    ratio = plan.head_to_feet
    off = ratio > TRUE_RATIO or ratio < 1.0 / TRUE_RATIO
    return _made(
        kind="shape", level=Level.NOTE, value=ratio, limit=TRUE_RATIO, digits=2,
        title="Proportions true" if not off else "Head looks large" if ratio > 1.0 else "Head looks small",
        reason="Chest height draws a person truest; from overhead heads grow and legs shrink." + (" Wanted or not." if off else ""),
        explained="Distance to the feet / distance to the head, 1 at half a person's height. "
        f"Camera {plan.camera[2] - plan.subject[2]:.2f} m over the feet of {plan.filmed[0].size_words}. Source: geometry.",
    )  # fmt: skip


def _drawn_words(shown_px: float, frame_px: int) -> str:
    """How high a frame draws something: what is larger than it is cut, and by how much nobody sees."""
    if shown_px > _CUT * frame_px:
        return "it is larger than the frame, which cuts it"
    return f"the frame draws it {shown_px:.0f} px high, {shown_px / frame_px:.0%} of its height,"


def shape_findings(plan: Layout, given: Given) -> list[Finding]:
    """Nearness, proportions, and how large the subject is in the frame in true pixels; nothing of a view or the way ahead."""
    out: list[Finding] = []
    being = plan.filmed[0]
    if being.subject.far:
        return out
    if plan.subject_m < BLOATED_M:
        out.append(
            _made(
                kind="near", level=Level.CAUTION, title="Subject very near", value=plan.subject_m, limit=BLOATED_M, unit="m", digits=2,
                reason="What is nearer than an arm's length looks bloated.",
                explained=f"Distance from lenses to chest; a thing here is drawn {1.0 / max(plan.subject_m, 0.05):.1f} times as large as at 1 m. "
                "The limit is common practice, no source.",
            )
        )  # fmt: skip
    if being.subject.what == "person":
        out.append(_shape_finding(plan))
    true_px = plan.person_deg * given.width_px / 360.0
    shown_px = drawn_px(plan, plan.start_view, given.frame_px)
    small = true_px < SMALL_PX
    out.append(
        _made(
            kind="size", level=Level.CAUTION if small else Level.NOTE, title="Subject too small" if small else "Subject large enough",
            value=true_px, limit=SMALL_PX, unit="px", digits=0,
            reason=f"{plan.subject_m:.1f} m away {being.size_words} is {plan.person_deg:.0f}° high; "
            f"{_drawn_words(shown_px, given.frame_px[1])} from so many true ones.",
            explained=f"True height = angle x sphere width / 360: {plan.person_deg:.1f}° x {given.width_px} / 360. "
            f"Angle = atan((H - c) / x) + atan(c / x); {_drawn_words(shown_px, given.frame_px[1])}. "
            "Source: geometry. The limit is a judgement.",
        )
    )  # fmt: skip
    return out
