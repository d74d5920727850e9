"""The commands on anyone's recordings: what they are, how their lenses lie, how they turn, how their clocks lie."""

import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from glintor.cli.options import footage_told, parser, progress, sound_numbers, told_options
from glintor.errors import InputError

if TYPE_CHECKING:
    from glintor.media.reading import Reading


def look(words: list[str]) -> int:
    read = parser("look", "Print what files, folders or cards hold: what each recording is taken for, and why.")
    read.add_argument("files", nargs="+", type=Path)
    read.add_argument(
        "--json", action="store_true", help="a list with an object for each file named, and each recording of a folder"
    )
    chosen = read.parse_args(words)
    from glintor.media.together import read_all, read_beside, recordings_in

    readings: list[tuple[Path, Reading]] = []
    for place in chosen.files:
        if place.is_dir():
            readings += [(one.files[0], one) for one in read_all(recordings_in([place]), report=progress)]
        else:
            known = next((one for _, one in readings if place in one.files), None)
            readings.append((place, known or read_beside(place)))
    if chosen.json:
        print(json.dumps([_plain(file, one) for file, one in readings], indent=1))
        return 0
    for one in {id(one): one for _, one in readings}.values():
        _tell(one)
    return 0


def _plain(file: Path, one: "Reading") -> dict[str, object]:
    still = one.reading in ("photo", "bracket", "flat") and not one.rate
    return {
        "file": str(file),
        "reading": one.reading,
        "why": one.why,
        "sure": one.sure,
        "size": list(one.size_px) if one.reading not in ("sound", "broken") else None,
        "rate": one.rate or None,
        "duration_s": None if still or one.reading == "broken" else round(one.duration_s, 6),
        "pose_deg": list(one.note.pose_deg) if one.note is not None and one.note.pose_deg is not None else None,
        "first_view_deg": list(one.note.first_view_deg)
        if one.note is not None and one.note.first_view_deg is not None
        else None,
        "parts": [part.name for part in one.files],
        "layout": one.told or None,
        "began": one.began.isoformat() if one.began is not None else None,
        "companions": [file.name for file in one.companions],
        "missing": list(one.missing),
        "faults": list(one.faults),
    }


def _tell(one: "Reading") -> None:
    figures = []
    if one.reading not in ("sound", "broken"):
        figures.append(f"{one.size_px[0]}x{one.size_px[1]}")
    if one.rate and one.reading != "sound":
        figures.append(f"{one.rate:g} fps")
    if one.duration_s:
        figures.append(f"{one.duration_s:.2f} s")
    parts = f" ({len(one.files)} files)" if len(one.files) > 1 else ""
    print(f"{one.name}{parts}: {one.reading}{'' if one.sure else ', unsure'} {', '.join(figures)}".rstrip())
    print(f"    {one.why}")
    if one.note is not None and one.note.pose_deg is not None:
        print("    held at bearing {:g}, height {:g}, roll {:g} degrees, as the file says".format(*one.note.pose_deg))
    for words in (*(f"part missing: {lost}" for lost in one.missing), *one.faults):
        print(f"    {words}")
    if one.companions:
        print(f"    with {', '.join(file.name for file in one.companions)}")


def lenses(words: list[str]) -> int:
    read = parser("lenses", "Find the profile of a recording's lenses from its own pictures and write it.")
    read.add_argument("source", type=Path, metavar="FILE")
    read.add_argument("target", type=Path, metavar="OUT.json")
    chosen = read.parse_args(words)
    from glintor.files import refuse_sources
    from glintor.media.footage import open_footage
    from glintor.media.lens_profile import find_lenses, write_lenses
    from glintor.media.taken import TakenAs
    from glintor.media.together import read_beside

    reading = read_beside(chosen.source)
    if reading.reading == "broken":
        raise InputError(reading.why, unharmed="It was not changed.", advice="Copy it from the card again.")
    if reading.reading not in ("two-lenses", "one-lens"):
        raise InputError(
            f"{chosen.source.name} is taken for {reading.reading}: {reading.why}.",
            unharmed="It was not changed.",
            advice="A profile is found from fisheyes.",
        )
    refuse_sources(chosen.target, reading.files)
    found = find_lenses(open_footage(reading.files, TakenAs(reading.told)), report=progress)
    write_lenses(chosen.target, found.lenses)
    print(
        f"{chosen.target}: residual {found.residual_px:.3f} px from {found.points} points; the camera turned {found.turned_deg:.1f} degrees"
    )
    if found.turned_deg < 0.5:
        print("glintor: the camera hardly turned, so how the lenses bend is only as usual", file=sys.stderr)
    return 0


def steady(words: list[str]) -> int:
    read = parser("steady", "Find how a recording's camera turned and write what holds it still.")
    read.add_argument("source", type=Path, metavar="FILE")
    read.add_argument(
        "target", type=Path, metavar="OUT.csv", help="time_s,qw,qx,qy,qz,trust: from the camera's axes to the held ones"
    )
    read.add_argument(
        "--log", type=Path, metavar="LOG.csv", help="inertial log; one beside the file is found by itself"
    )
    read.add_argument(
        "--mode",
        choices=("lock", "smooth", "level", "heading"),
        default="lock",
        help="lock: the camera's own orientation against its first frame; smooth: without shake; level: horizon level; heading: ahead is the way",
    )
    read.add_argument(
        "--strength", type=float, default=0.8, metavar="S", help="over how many seconds is smoothed (default 0.8)"
    )
    told_options(read)
    chosen = read.parse_args(words)
    sound_numbers(strength_s=chosen.strength)
    from glintor.files import refuse_sources
    from glintor.media.orientation import orientation_of, write_turns
    from glintor.sphere.steady import as_told

    if not 0.05 <= chosen.strength <= 10.0:
        raise InputError(f"{chosen.strength:g} s is out of range.", advice="Use 0.05 to 10 s.")
    footage = footage_told(chosen, chosen.source, beside=True)
    refuse_sources(chosen.target, (*footage.files, *([chosen.log] if chosen.log else [])))
    found = orientation_of(footage, chosen.log, report=progress)
    track = as_told(found, chosen.mode, chosen.strength)
    write_turns(chosen.target, track, found.trust)
    print(f"{chosen.target}: {len(track.time_s)} moments, from {found.made_by}")
    if float(found.trust.min()) < 0.3:
        low = found.time_s[found.trust < 0.3]
        print(f"glintor: {len(low)} moments are not to be trusted, the first at {low[0]:.2f} s", file=sys.stderr)
    return 0


def sync(words: list[str]) -> int:
    read = parser("sync", "Find how the clocks of two recordings lie to one another, by their sound.")
    read.add_argument("a", type=Path)
    read.add_argument("b", type=Path)
    read.add_argument("--near", type=float, metavar="S", help="about where B's zero lies on A's clock, where you know")
    read.add_argument(
        "--json", action="store_true", help="offset_s: where B's zero lies on A's clock; drift_ppm; confidence 0 to 1"
    )
    chosen = read.parse_args(words)
    if chosen.near is not None:
        sound_numbers(near_s=chosen.near)
    from glintor.media.align import align, heard_of
    from glintor.media.together import read_beside

    readings = []
    for file in (chosen.a, chosen.b):
        reading = read_beside(file)
        if reading.reading == "broken":
            raise InputError(reading.why, unharmed="It was not changed.", advice="Copy it from the card again.")
        readings.append(reading)
    one, two = (heard_of(reading, report=progress) for reading in readings)
    found = align(one, two, near_s=chosen.near)
    sure = found is not None and found.sure
    if chosen.json:
        told = {
            "offset_s": round(found.offset_s, 6) if found is not None and sure else None,
            "drift_ppm": round(found.drift_ppm, 2) if found is not None and sure and found.places else None,
            "confidence": round(found.confidence, 3) if found is not None else 0.0,
            "places": len(found.places) if found is not None else 0,
        }
        print(json.dumps(told))
    elif found is not None and sure:
        print(
            f"By the clock of {one.name}, {two.name} {found.words} (confidence {found.confidence:.2f}, {len(found.places)} places)"
        )
    if not sure:
        print(
            f"glintor: it cannot be told from their sound how they lie: give --near, or clap where both hear it. {found.why_unsure if found else ''}".rstrip(),
            file=sys.stderr,
        )
        return 1
    return 0


def track(words: list[str]) -> int:
    read = parser(
        "track",
        "Follow what is somewhere at a moment through a recording, forward and backward, and write where it is.",
    )
    read.add_argument("source", type=Path, metavar="FILE")
    read.add_argument("target", type=Path, metavar="OUT.csv")
    for name, words_of in (
        ("at", "second at which it is pointed at"),
        ("yaw", "degrees to the right in the picture"),
        ("pitch", "degrees up"),
        ("size", "how high it is, degrees"),
    ):
        read.add_argument(f"--{name}", type=float, required=True, help=words_of)
    told_options(read)
    chosen = read.parse_args(words)
    from glintor.files import refuse_sources
    from glintor.media.tracked import Pointed, follow_subject
    from glintor.reframing.track import found_track, write_found

    footage = footage_told(chosen, chosen.source)
    refuse_sources(chosen.target, footage.files)
    if (
        not 0.0 <= chosen.at <= footage.duration_s
        or not -90.0 <= chosen.pitch <= 90.0
        or not 0.5 <= chosen.size <= 170.0
    ):
        raise InputError("That moment, height or size is not in the recording.", advice="Give others.")
    point = Pointed(chosen.at, chosen.yaw, chosen.pitch, chosen.size)
    seen = follow_subject(footage, [point], report=progress)
    rows = [(s.time_s, s.yaw_deg, s.pitch_deg, s.size_deg, s.state) for s in seen]
    write_found(chosen.target, found_track(rows))
    counts = [sum(s.state == state for s in seen) for state in (2, 1, 0)]
    print("{}: {} moments, {} sure, {} unsure, {} lost".format(chosen.target, len(seen), *counts))
    return 0
