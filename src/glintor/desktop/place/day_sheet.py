"""The day on paper: charts drawn as on the desk, pictures foreseen, put on A4 pages; and the other forms beside it."""

import html
from collections.abc import Callable
from pathlib import Path
from threading import Event

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QMarginsF, QSizeF, QUrl
from PyQt6.QtGui import QImage, QPageLayout, QPageSize, QPdfWriter, QTextDocument

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.jobs import Work
from glintor.desktop.place.foresee import Picture, frames_of, sphere_of
from glintor.desktop.place.plan_view import PlanView
from glintor.desktop.place.side_view import SideView
from glintor.errors import Cancelled
from glintor.placement import seam
from glintor.plan.carry import settings_table, write_all
from glintor.plan.sheet import DaySheet, ShotPage, cautions, day_sheet
from glintor.project.model import Project, Shot
from glintor.project.placed import plan_of
from glintor.types import Report

_PLAN, _SIDE = (520, 319), (499, 319)
_MAIN_BOX, _SMALL_BOX = (440.0, 270.0), (225.0, 236.0)  # what the first frame and all others may take of the page
_SPHERE_PX = 1600
_FULL = 0.93  # of a page's height: print measures letters a little otherwise than the screen
_SCALES = (1.0, 0.92, 0.84, 0.76, 0.68, 0.6)  # of a page's pictures, until it is one page
_PAGE_PX = QSizeF(688, 1032)  # what the margins leave of A4, at 96 to the inch
Seen = dict[str, dict[str, QImage]]
_STYLE = """
body { font-family: 'Atkinson Hyperlegible Next'; font-size: 9pt; color: #22303A; }
h1 { font-size: 17pt; } h2 { font-size: 14pt; } h3 { font-size: 10pt; color: #0C6B6F; }
p { margin-top: 3px; margin-bottom: 3px; } td { padding: 1px 10px 1px 0; } .soft { color: #54606A; } .mind { color: #A3261B; }
"""


def write_day(project: Project, folder: Path) -> tuple[Work, Callable[[Seen], list[Path]]]:
    """The work that foresees the pictures, and what the window's thread does with them: print, and write every form.

    Charts are widgets and pages of text belong to the window's thread; the pictures take seconds and do not.
    """

    def work(report: Report, stop: Event) -> Seen:
        seen: Seen = {}
        for number, shot in enumerate(project.planned):
            if stop.is_set():
                raise Cancelled()
            seen[shot.id] = _foreseen(project, shot)
            report((number + 1) / len(project.planned))
        return seen

    def finish(seen: Seen) -> list[Path]:
        sheet, charts = day_sheet(project), {shot.id: _charts(project, shot) for shot in project.planned}
        pictures = {
            shot_id: {words: _bytes(image) for words, image in {**charts[shot_id], **images}.items()}
            for shot_id, images in seen.items()
        }
        return write_all(folder, sheet, pictures, _printed(sheet, charts, seen))

    return work, finish


def _charts(project: Project, shot: Shot) -> dict[str, QImage]:
    """Plan and side view of a shot, at twice the size they are drawn for."""
    camera = project.camera_of(shot)
    plan = plan_of(project, shot)
    band = seam.seam_band_deg(
        plan.subject_m, gap_m=camera.gap_m, width_px=camera.width_px, overlap_deg=camera.overlap_deg
    )
    above, side = PlanView(), SideView()
    above.show_plan(plan, band, shot.placement.subject.name)
    side.show_plan(plan, project.site_of(shot).lowest_m)
    out = {}
    for words, view, size in (("from above", above, _PLAN), ("from the side", side, _SIDE)):
        view.resize(*size)
        image = QImage(2 * size[0], 2 * size[1], QImage.Format.Format_RGB32)
        image.setDevicePixelRatio(2.0)
        view.render(image)
        out[words] = image
    return out


def _foreseen(project: Project, shot: Shot) -> dict[str, QImage]:
    """The flat frames of the opening view, and of the closing one where it is another."""
    sphere = sphere_of(shot, project.site, project.camera_of(shot), _SPHERE_PX)
    plan = plan_of(project, shot)
    opening = plan.start_view if shot.opening is None else shot.opening.view
    closing = plan.moved(1.0).start_view if shot.closing is None else shot.closing.view
    out = _named(frames_of(sphere, opening, shot.aspects, 720), "opens")
    if closing != opening:
        out |= _named(frames_of(sphere, closing, shot.aspects, 720), "closes")
    return out


def _named(frames: dict[str, Picture], when: str) -> dict[str, QImage]:
    return {f"{name}, {when}": marks.image(frame) for name, frame in frames.items()}


def _bytes(image: QImage) -> bytes:
    content = QByteArray()
    buffer = QBuffer(content)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "JPG", 88)
    return bytes(content.data())


def _printed(sheet: DaySheet, charts: dict[str, dict[str, QImage]], seen: dict[str, dict[str, QImage]]) -> bytes:
    """The PDF: a first page with hours and kit, then one page a shot."""
    document, content = QTextDocument(), QByteArray()
    document.setDefaultStyleSheet(_STYLE)
    settings = f"<h2 style='page-break-before: always'>Settings, in the order of the camera</h2>{settings_table(sheet)}"
    parts = [_first(sheet), settings]
    for page in sheet.pages:
        images = {**charts[page.shot.id], **seen[page.shot.id]}
        for words, image in images.items():
            document.addResource(QTextDocument.ResourceType.ImageResource.value, QUrl(f"{page.shot.id}/{words}"), image)
        parts.append(_fitting(page, seen[page.shot.id]))
    _lay(document, "".join(parts))
    buffer = QBuffer(content)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(sheet.title)
    writer.setCreator("Glintor")
    writer.setResolution(144)
    writer.setPageLayout(
        QPageLayout(
            QPageSize(QPageSize.PageSizeId.A4),
            QPageLayout.Orientation.Portrait,
            QMarginsF(14, 12, 14, 12),
            QPageLayout.Unit.Millimeter,
        )
    )
    document.print(writer)
    buffer.close()
    return bytes(content.data())


def _lay(document: QTextDocument, content: str) -> None:
    document.setDocumentMargin(0)
    document.setDefaultFont(theme.paper_font())
    document.setHtml(content)
    document.setPageSize(_PAGE_PX)


def _fitting(page: ShotPage, seen: dict[str, QImage]) -> str:
    """A shot's page with its pictures as large as leaves it on one."""
    out = ""
    for scale in _SCALES:
        out = _page(page, list(seen), seen, scale)
        alone = QTextDocument()
        alone.setDefaultStyleSheet(_STYLE)
        _lay(alone, out.replace("page-break-before: always", ""))
        if alone.pageCount() <= 1 and alone.size().height() <= _FULL * _PAGE_PX.height():
            break
    return out


def _first(sheet: DaySheet) -> str:
    say = html.escape
    hours = "".join(f"<tr><td class='soft'>{say(at)}</td><td>{say(words)}</td></tr>" for at, words in sheet.hours)
    kit = "".join(
        f"<tr><td>{'&#9744;' if not n.missing else '<b class=mind>missing</b>'}</td><td>{say(n.what)}</td>"
        f"<td class='soft'>{n.there:g} of {n.wanted:g} {n.unit}</td></tr>"
        for n in sheet.needs
    )
    about = "".join(f"<p>{say(line)}</p>" for line in sheet.about)
    return (
        f"<h1>{say(sheet.title)}</h1>{about}<table width='100%'><tr><td width='42%'><h3>Hours</h3><table>{hours}</table></td>"
        f"<td><h3>Kit, {sheet.mass_kg:.1f} kg in all</h3><table>{kit}</table></td></tr></table>"
        "<p class='soft'>Local law, site rules and qualified people decide. Start the camera before you steer or ride, stop it after.</p>"
    )


def _page(page: ShotPage, names: list[str], seen: dict[str, QImage], scale: float) -> str:
    say, shot_id = html.escape, page.shot.id
    rows = "".join(f"<tr><td class='soft'>{say(name)}</td><td>{say(words)}</td></tr>" for name, words in page.numbers)
    first, *rest = names
    main = _framed(shot_id, first, seen[first], _MAIN_BOX[0] * scale, _MAIN_BOX[1] * scale)
    wide, high = _SMALL_BOX[0] * scale, _SMALL_BOX[1] * scale
    others = [_framed(shot_id, name, seen[name], wide, high / len(rest)) for name in rest]
    mind = "".join(f"<p{' class=mind' if line.grave else ''}>{say(line.words)}</p>" for line in cautions(page))
    boxes = "".join(f"<p>&#9744; {say(line)}</p>" for line in page.before)
    return (
        f"<h2 style='page-break-before: always'>{say(page.head)}</h2><p>{say(page.about)}</p>"
        f"<table><tr><td>{main}</td><td>{''.join(others)}</td></tr></table>"
        f"<table><tr><td><img src='{shot_id}/from above' width='{330 * scale:.0f}' height='{202 * scale:.0f}'></td>"
        f"<td><img src='{shot_id}/from the side' width='{316 * scale:.0f}' height='{202 * scale:.0f}'></td></tr></table>"
        f"<table><tr><td width='62%'><h3>Numbers</h3><table>{rows}</table></td><td><h3>Before rolling</h3>{boxes}</td></tr></table>"
        f"<h3>Mind</h3>{mind}"
    )


def _framed(shot_id: str, name: str, image: QImage, wide: float, high: float) -> str:
    """One foreseen frame in a box of at most so much."""
    scale = min(wide / image.width(), high / image.height())
    size = f"width='{round(image.width() * scale)}' height='{round(image.height() * scale)}'"
    return f"<p><img src='{shot_id}/{html.escape(name)}' {size}><br><span class='soft'>{html.escape(name)}</span></p>"
