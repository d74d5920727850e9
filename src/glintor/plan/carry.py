"""The day to take along: a page for the phone, a calendar, waypoints, a table. The printed sheet is the desktop's."""

import base64
import csv
import html
import io
from collections.abc import Mapping
from datetime import UTC, timedelta
from pathlib import Path

from glintor.files import write_bytes
from glintor.placement.clock import clock
from glintor.placement.sun import local_time
from glintor.plan.sheet import SETTINGS, DaySheet, cautions

_SPARE_MIN = 10.0  # that an alarm comes before a camera is to be fitted (judgement)
_STYLE = """body{font:16px/1.45 sans-serif;color:#22303A;background:#FBFAF7;margin:0 auto;max-width:46rem;padding:1rem}
h1{font-size:1.5rem}h2{font-size:1.2rem;border-top:1px solid #C9C5BA;padding-top:1rem;margin-top:2rem}
table{border-collapse:collapse;width:100%}td{padding:.2rem .6rem .2rem 0;vertical-align:top}td:first-child{color:#54606A;white-space:nowrap}
img{max-width:100%;display:block;margin:.5rem 0}.mind{border-left:4px solid #A3261B;padding-left:.7rem}
.missing{color:#A3261B;font-weight:bold}a{color:#0C6B6F}"""


def html_page(sheet: DaySheet, pictures: Mapping[str, Mapping[str, bytes]]) -> bytes:
    """One page for a phone, pictures inside it: for each shot's id, PNG or JPEG bytes by their words."""
    say = html.escape
    out = [
        "<!doctype html><html lang='en'><head><meta charset='utf-8'><meta name='viewport' content='width=device-width'>",
        f"<title>{say(sheet.title)}</title><style>{_STYLE}</style></head><body><h1>{say(sheet.title)}</h1>",
        "".join(f"<p>{say(line)}</p>" for line in sheet.about),
        "<h2>Hours</h2>",
        _table(sheet.hours),
    ]
    out.append("<h2>Settings</h2>" + settings_table(sheet))
    for page in sheet.pages:
        out.append(f"<h2 id='{page.shot.id}'>{say(page.head)}</h2><p>{say(page.about)}</p>")
        for words, content in pictures.get(page.shot.id, {}).items():
            kind = "png" if content.startswith(b"\x89PNG") else "jpeg"
            data = base64.b64encode(content).decode()
            out.append(f"<img alt='{say(words, quote=True)}' src='data:image/{kind};base64,{data}'>")
        out.append(_table(page.numbers))
        out.append("".join(f"<p{' class=mind' if line.grave else ''}>{say(line.words)}</p>" for line in cautions(page)))
        out.append("<p>Before rolling: " + say("; ".join(page.before)) + "</p>")
    out.append(f"<h2>Kit</h2><p>{sheet.mass_kg:.1f} kg in all</p><table>")
    for need in sheet.needs:
        mark = " class='missing'" if need.missing else ""
        state = "missing" if need.missing else "there"
        out.append(
            f"<tr><td>{say(need.what)}</td><td{mark}>{state}: {need.there:g} of {need.wanted:g} {need.unit}</td></tr>"
        )
    out.append("</table><p>Local law, site rules and qualified people decide.</p></body></html>")
    return "".join(out).encode()


def settings_table(sheet: DaySheet) -> str:
    """Every shot's settings, a row each, in the order in which one sets them on a camera."""
    head = "".join(f"<th align='left'>{html.escape(name)}</th>" for name in SETTINGS)
    rows = "".join(
        "<tr>" + "".join(f"<td>{html.escape(cell)}</td>" for cell in row) + "</tr>" for row in sheet.settings
    )
    return f"<table>{'<tr>' + head + '</tr>'}{rows}</table>"


def _table(rows: tuple[tuple[str, str], ...]) -> str:
    cells = "".join(f"<tr><td>{html.escape(a)}</td><td>{html.escape(b)}</td></tr>" for a, b in rows)
    return f"<table>{cells}</table>"


def calendar(sheet: DaySheet) -> bytes:
    """The shots as events (RFC 5545)."""
    from zoneinfo import ZoneInfo

    from icalendar import Alarm, Calendar, Event

    site, book = sheet.project.site, Calendar()
    zone = ZoneInfo(site.zone)
    book.add("prodid", "-//Glintor//day//EN")
    book.add("version", "2.0")
    for page in sheet.pages:
        shot, event = page.shot, Event()
        start = local_time(site.day, site.zone, shot.start_min).replace(tzinfo=zone)
        event.add(
            "uid", f"{shot.id}@{site.day}.glintor"
        )  # the same for the same shot: a calendar takes a later plan for a change
        event.add("summary", shot.name)
        event.add("dtstamp", local_time(site.day, site.zone, 0.0).astimezone(UTC))
        event.add("dtstart", start)
        event.add("dtend", start + timedelta(minutes=shot.length_min))
        event.add("location", shot.story or site.name)
        event.add("geo", page.lat_lon_deg)
        event.add("description", "\n".join(f"{name}: {words}" for name, words in page.numbers))
        reminder = Alarm()
        reminder.add("action", "DISPLAY")
        reminder.add("description", f"Fit the camera: {shot.name}" if shot.fit_min else shot.name)
        reminder.add("trigger", -timedelta(minutes=shot.fit_min + _SPARE_MIN))
        event.add_component(reminder)
        book.add_component(event)
    book.add_missing_timezones()
    book.subcomponents.sort(key=lambda part: part.name != "VTIMEZONE")  # some read them only before what uses them
    return bytes(book.to_ical())


def waypoints(sheet: DaySheet) -> bytes:
    """The shots as GPX 1.1 waypoints, and the route as it is known."""
    import gpxpy.gpx

    file, site = gpxpy.gpx.GPX(), sheet.project.site
    file.creator = "Glintor"
    for page in sheet.pages:
        lat, lon = page.lat_lon_deg
        moment = local_time(site.day, site.zone, page.shot.start_min)
        file.waypoints.append(
            gpxpy.gpx.GPXWaypoint(lat, lon, time=moment, name=page.shot.name, description=page.numbers[0][1])
        )
    if site.track:
        route = gpxpy.gpx.GPXRoute(name=site.name)
        route.points = [gpxpy.gpx.GPXRoutePoint(p.lat_deg, p.lon_deg, p.up_m) for p in site.track]
        file.routes.append(route)
    return str(file.to_xml(version="1.1")).encode()


def table(sheet: DaySheet) -> bytes:
    """One row a shot (CSV, RFC 4180)."""
    text = io.StringIO()
    names = [name for name, _ in sheet.pages[0].numbers] if sheet.pages else []
    subject = sheet.pages[0].shot.placement.subject.name if sheet.pages else ""
    names = ["Subject" if name == subject else name for name in names]
    writer = csv.writer(text)
    writer.writerow(["Start", "End", "Shot", "Place", "Purpose", *names, "Mind"])
    for page in sheet.pages:
        shot = page.shot
        ends = clock(shot.start_min + shot.length_min)
        writer.writerow(
            [
                clock(shot.start_min),
                ends,
                shot.name,
                shot.story,
                shot.purpose,
                *(words for _, words in page.numbers),
                " | ".join(line.words for line in cautions(page)),
            ]
        )
    return text.getvalue().encode()


def write_all(
    folder: Path, sheet: DaySheet, pictures: Mapping[str, Mapping[str, bytes]], printed: bytes | None = None
) -> list[Path]:
    """Writes every form into a folder; returns the files. Raises WriteError."""
    name = f"day-{sheet.project.site.day}"
    forms = {
        ".html": html_page(sheet, pictures),
        ".ics": calendar(sheet),
        ".gpx": waypoints(sheet),
        ".csv": table(sheet),
        **({".pdf": printed} if printed is not None else {}),
    }
    folder.mkdir(parents=True, exist_ok=True)
    for suffix, content in forms.items():
        write_bytes(folder / (name + suffix), content)
    return [folder / (name + suffix) for suffix in forms]
