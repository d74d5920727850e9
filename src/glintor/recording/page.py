"""The list before rolling as one page: to print, or on a phone where it keeps its ticks without any network."""

from html import escape
from pathlib import Path

from glintor.files import write_bytes
from glintor.finding import Level
from glintor.placement.clock import clock
from glintor.project.model import Project, Shot
from glintor.recording.ready import Line

_STYLE = """
body { font: 18px/1.45 sans-serif; color: #22303A; background: #FBFAF7; margin: 0 auto; max-width: 46rem; padding: 1rem; }
h1 { font-size: 1.35rem; margin: 0; } p { margin: .2rem 0 .8rem; color: #54606A; }
ul { list-style: none; padding: 0; margin: 0; } li { border-bottom: 1px solid #C9C5BA; padding: .62rem 0; }
label { display: flex; gap: .9rem; align-items: flex-start; } input { width: 1.7rem; height: 1.7rem; flex: none; margin: 0; accent-color: #0C6B6F; }
small { display: block; color: #54606A; } .stop { color: #A3261B; } .caution { color: #8A5F00; } time { margin-left: auto; color: #54606A; }
.done span { color: #54606A; } @media print { body { font-size: 13px; } li { padding: .36rem 0; break-inside: avoid; } button { display: none; } }
button { font: inherit; padding: .6rem 1rem; margin-top: 1rem; border: 1px solid #22303A; background: #FBFAF7; }
"""
_KEEPS = """
const key = "glintor " + document.body.dataset.shot;
let kept = {};
try { kept = JSON.parse(localStorage.getItem(key)) || {}; } catch (none) { kept = {}; }
const boxes = [...document.querySelectorAll("input")];
function show(box) {
  const at = kept[box.id];
  box.checked = !!at;
  box.closest("li").classList.toggle("done", !!at);
  box.closest("label").querySelector("time").textContent = at || "";
}
function keep() { try { localStorage.setItem(key, JSON.stringify(kept)); } catch (full) { /* ticks stay on the page */ } }
boxes.forEach(box => {
  show(box);
  box.addEventListener("change", () => {
    let words = "";
    if (box.checked && box.dataset.stop && !(words = prompt("A stop: " + box.dataset.stop + " Why is it passed all the same?"))) {
      show(box); return;
    }
    if (box.checked) kept[box.id] = new Date().toTimeString().slice(0, 5) + (words ? " · " + words : "");
    else delete kept[box.id];
    keep(); show(box);
  });
});
document.getElementById("again").addEventListener("click", () => { kept = {}; keep(); boxes.forEach(show); });
"""


def ready_page(project: Project, shot: Shot, lines: tuple[Line, ...], *, phone: bool) -> str:
    """The page whole, with nothing that is fetched from elsewhere. phone: with boxes that keep their ticks."""
    items = []
    ticks = {tick.line: tick for tick in shot.ticks}
    for line in lines:
        told = "".join(
            f'<small class="{finding.level.word if finding.level > Level.NOTE else ""}">{escape(finding.title)}: '
            f"{escape(finding.measure or finding.reason)}</small>"
            for finding in line.said
        )
        stop = f' data-stop="{escape(line.said[0].title)}."' if line.level is Level.STOP else ""
        done = " checked" if not phone and line.id in ticks else ""
        when = f"{ticks[line.id].at[11:16]}" if not phone and line.id in ticks else ""
        items.append(
            f'<li><label><input type="checkbox" id="{escape(line.id)}"{stop}{done}><span>{escape(line.words)}{told}</span>'
            f"<time>{when}</time></label></li>"
        )
    camera = project.camera_of(shot)
    head = f"{escape(project.site.name)}, {escape(project.site.day)}, {clock(shot.start_min)} · {escape(camera.name)}"
    script = f'<button id="again">Begin again</button><script>{_KEEPS}</script>' if phone else ""
    return (
        '<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">'
        f"<title>{escape(shot.name)}: ready?</title><style>{_STYLE}</style></head>"
        f'<body data-shot="{escape(project.site.day)} {escape(shot.id)}"><h1>{escape(shot.name)}: ready?</h1><p>{head}</p>'
        f"<ul>{''.join(items)}</ul>{script}</body></html>\n"
    )


def write_ready_page(target: Path, project: Project, shot: Shot, lines: tuple[Line, ...], *, phone: bool) -> None:
    """Writes the page whole. Raises WriteError."""
    write_bytes(target, ready_page(project, shot, lines, phone=phone).encode())
