"""Export: what is handed over, and whether it is good enough. Cuts as rows, formats as columns."""

from collections.abc import Mapping, Sequence
from functools import partial
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.controls import Chips, Elided, Number, button, choice, label, row
from glintor.desktop.desk import Desk
from glintor.desktop.document import Document
from glintor.desktop.export.film_player import SIZE_PX, FilmPlayer
from glintor.desktop.export.film_strip import FilmStrip
from glintor.desktop.export.grid import Grid
from glintor.desktop.export.rendering import Rendering
from glintor.desktop.export.sizes import Sizes
from glintor.desktop.jobs import Jobs, Newest
from glintor.errors import GlintorError
from glintor.export.cut import strands_of, target_file
from glintor.export.formats import FORMATS, LANDSCAPE, USUAL, Format, course_for, forecast, true_widths_px
from glintor.export.queue import Job as QueueJob
from glintor.export.queue import Queue
from glintor.export.strand import Strand
from glintor.finding import Finding, Level
from glintor.media.encoding import CODECS, Encoding
from glintor.media.footage import open_footage
from glintor.pixels import colour
from glintor.pixels.picture import Flat, drawn
from glintor.pixels.reproject import Filter
from glintor.project.followed import around_footage, targets_of
from glintor.project.held import known_turns
from glintor.project.model import Film, Project, Shot, take_of
from glintor.project.store import clip_files, films_folder, need_folder
from glintor.reframing.cut import Cut

_SMALL_PX = 256 * 144
_PRESETS = ("veryfast", "fast", "medium", "slow")


def _small(shape: Format) -> tuple[int, int]:
    """A small picture's size in pixels: all shapes have about the same area."""
    width, height = shape.size_px
    scale = (_SMALL_PX / (width * height)) ** 0.5
    return round(width * scale / 2) * 2, round(height * scale / 2) * 2


class ExportDesk(Desk):
    """The grid, how to pack, and the queue."""

    name = "Export"
    written = pyqtSignal()

    def __init__(self, document: Document, jobs: Jobs, parent: QWidget, queue: Queue) -> None:
        super().__init__(document, jobs, parent)
        self.queue = queue
        self.folder = films_folder(document.file)
        self.rate = Chips("Pack by", [("crf", "quality"), ("mbit", "bit rate")])
        self.crf = Number("Quality", " crf", 0, 40, 1, 0)
        self.mbit = Number("Bit rate", " Mbit/s", 1, 200, 5, 0)
        self.preset = choice("Effort of the encoder", [(name, name) for name in _PRESETS])
        self.codec = choice("Packing of the film", [(codec.id, codec.words) for codec in CODECS.values()])
        self.pcm = QCheckBox("PCM sound")
        self.pcm.setToolTip("Uncompressed sound; in ProRes and FFV1 films")
        self.crf.show_value(19)
        self.mbit.show_value(50)
        self._by = "crf"
        self.go = button(
            "Render what is ticked",
            self.render_ticked,
            main=True,
            tip="One pass over each recording serves all its formats (Ctrl+E)",
        )
        self.measure = button(
            "Measure sizes",
            self.measure_sizes,
            tip="Renders a few seconds of each ticked film and packs them, to tell how large the whole will be",
        )
        self._sizes = Sizes(document, jobs)
        self.where = Elided("", "soft")
        self.choose = button("Folder…", self._choose_folder)
        self.rendering = Rendering(document, jobs, queue)
        self.grid = Grid()
        self.films = FilmStrip(document)
        self.films.render_asked.connect(self.render_film)
        self.films.play_asked.connect(self.play_film)
        self.player: FilmPlayer | None = None
        self._worker = Newest("small pictures", jobs.trouble.emit)
        self._worker.finished.connect(self._show_thumbs)
        self._thumbs: dict[tuple[str, str], Cut] = {}  # cuts whose small pictures are drawn as they are now
        self._widths = Newest("true widths", jobs.trouble.emit)
        self._widths.finished.connect(self._show_findings)
        self._findings: list[Finding] = []
        self._lay()
        self.rate.chosen.connect(self._pack_by)
        for number in (self.crf, self.mbit):
            number.edited.connect(lambda _v: self._forecast())
        self.codec.activated.connect(lambda _at: self.refresh())
        self.rendering.said.connect(self.said)
        self.rendering.written.connect(self.written)
        self.rendering.changed.connect(self.refresh)
        self.grid.came.connect(self._fill)

    def _lay(self) -> None:
        page = QVBoxLayout(self)
        page.setContentsMargins(14, 8, 14, 8)
        page.setSpacing(8)
        page.addWidget(self.films)
        page.addWidget(self.grid, 5)
        effort = label("Effort", "soft")
        effort.setBuddy(self.preset)
        self._effort = effort
        page.addLayout(
            row(
                *(self.codec, self.rate, self.crf, self.mbit, effort, self.preset, self.pcm, self.measure),
                stretch=True,
                spacing=9,
            )
        )
        line = QHBoxLayout()
        line.addWidget(self.where, 1)
        line.addWidget(self.choose)
        line.addWidget(self.go)
        page.addLayout(line)
        page.addWidget(self.rendering)

    def encoding(self) -> Encoding:
        codec = CODECS[self.codec.currentData()]
        mbit = self.mbit.box.value() if self._by == "mbit" and codec.by_quality else None
        pcm = self.pcm.isChecked() and codec.suffix != ".mp4"
        crf = int(self.crf.box.value())
        return Encoding(mbit_s=mbit, crf=crf, preset=self.preset.currentText(), codec=codec.id, pcm=pcm)

    # Gestures
    def _pack_by(self, way: object) -> None:
        self._by = str(way)
        self.refresh()

    def _choose_folder(self) -> None:
        chosen = QFileDialog.getExistingDirectory(self, "Where the films go", str(self.folder))
        if chosen:
            self.folder = Path(chosen)
            self.refresh()

    def render_ticked(self) -> None:
        """Puts every ticked film into the queue and starts it."""
        self._queue([self._job(shot.id, cut, shape) for shot, cut, shape in self.grid.wanted()])

    def measure_sizes(self) -> None:
        """Measures what the ticked films in sight will come to."""
        shown = self.grid.cells()
        films = [
            (shot, cut, shape) for shot, cut, shape in self.grid.wanted() if (shot.id, cut.id, shape.name) in shown
        ]
        if not films:
            self.refused.emit("Nothing is ticked")
            return

        def done(count: int) -> None:
            self.refresh()
            self.said.emit(f"Sizes measured: {count}")

        self._sizes.measure(films, self.encoding(), done)

    def render_film(self, film_id: str) -> None:
        """Puts a film that joins cuts into the queue, in the usual shapes, and starts it."""
        film = next((f for f in self.document.project.films if f.id == film_id), None)
        if film is not None:
            first = film.pieces[0]
            self._queue([self._job(first.shot_id, film, shape, cut_id=first.cut_id) for shape in USUAL])

    def play_film(self, film_id: str) -> None:
        """Shows a film as it will be, before it is made."""
        film = next((f for f in self.document.project.films if f.id == film_id), None)
        if film is None:
            return
        file, project = self.document.file, self.document.project
        small = Format(LANDSCAPE.name, SIZE_PX, "")

        def show(strands: tuple[Strand, ...]) -> None:
            self.player = FilmPlayer(film.name, strands, self.jobs.trouble.emit, self)
            self.player.show()

        self.jobs.start(f"Opening {film.name}", lambda _r, stop: strands_of(file, project, film, small, stop), show)

    def _job(self, shot_id: str, what: Cut | Film, shape: Format, *, cut_id: str = "") -> QueueJob:
        encoding = self.encoding()
        return QueueJob(
            id="",
            project_file=str(self.document.file.resolve()),
            shot_id=shot_id,
            cut_id=cut_id or what.id,
            film_id=what.id if isinstance(what, Film) else "",
            format=shape.name,
            target=str(target_file(self.folder, self.document.file, what, shape, encoding.suffix)),
            mbit_s=encoding.mbit_s,
            crf=encoding.crf,
            preset=encoding.preset,
            codec=encoding.codec,
            pcm=encoding.pcm,
        )

    def _queue(self, added: list[QueueJob]) -> None:
        if not added:
            self.refused.emit("Nothing is ticked")
            return
        self.document.save()  # another window may render it, and reads the file
        try:
            need_folder(self.document.file)
        except GlintorError as error:
            self.jobs.trouble.emit(error)
            return
        self.rendering.add(*added)

    # Drawing
    def refresh(self) -> None:
        self.films.show_project(self.document.project)
        self.grid.show_rows([(shot, cut) for shot in self.document.project.shots for cut in shot.cuts])
        self.rate.show_value(self._by)
        by_quality = CODECS[self.codec.currentData()].by_quality
        self.rate.setVisible(by_quality)
        self.crf.setVisible(by_quality and self._by == "crf")
        self.mbit.setVisible(by_quality and self._by == "mbit")
        self.measure.setVisible(self._by == "crf" or not by_quality)
        self._effort.setVisible(by_quality)
        self.preset.setVisible(by_quality)
        self.pcm.setVisible(self.encoding().suffix != ".mp4")
        self.where.show_words(f"Films go to {self.folder}")
        self._forecast()
        self.rendering.refresh()
        rows = list(self.grid.rows)
        self._widths.ask("widths", lambda: _true_widths(rows))

    def _forecast(self) -> None:
        """What will come out, for the rows that have been in sight."""
        states, packing = {job.target: job.state for job in self.queue.jobs}, self.encoding()
        for number in self.grid.made():
            self._show_row(number, states, packing)
        self._next_thumb()

    def _fill(self, number: int) -> None:
        self._show_row(number, {job.target: job.state for job in self.queue.jobs}, self.encoding())
        self._next_thumb()

    def _show_row(self, number: int, states: Mapping[str, str], packing: Encoding) -> None:
        line, (shot, cut) = self.grid.line(number), self.grid.rows[number]
        if line is None:
            return
        take = take_of(shot, cut.take_id)
        for shape in FORMATS:
            cell = line.cells[shape.name]
            known = self._sizes.of(shot, cut, shape, packing)
            pixels, rate = take.width_px, take.rate_fps
            ahead = forecast(cut, shape, packing, source_width_px=pixels, rate_fps=rate, measured_bytes=known)
            cell.show_forecast(ahead)
            target = target_file(self.folder, self.document.file, cut, shape, packing.suffix)
            there = f"written, {target.stat().st_size / 1e6:.1f} MB" if target.exists() else "not rendered yet"
            state = states.get(str(target))
            cell.state.setText(state if state in ("running", "waiting", "failed") else there)
        line.title.setText(f"{cut.name}  ·  {shot.name}  ·  {ahead.duration_s:.1f} s, {ahead.frames} frames")

    def _next_thumb(self) -> None:
        """Asks for the small pictures of the next cut in sight whose pictures are out of date."""
        for number in self.grid.made():
            shot, cut = self.grid.rows[number]
            if self._thumbs.get((shot.id, cut.id)) != cut:
                self._worker.ask(
                    (shot.id, cut), partial(_small_pictures, self.document.file, self.document.project, shot, cut)
                )
                return

    def _show_thumbs(self, key: tuple[str, Cut], thumbs: Mapping[str, NDArray[np.generic]]) -> None:
        shot_id, cut = key
        self._thumbs[shot_id, cut.id] = cut
        cells = self.grid.cells()
        for shape, pixels in thumbs.items():
            if (shot_id, cut.id, shape) in cells:
                cells[shot_id, cut.id, shape].thumb.show_picture(marks.image(pixels))
        first = thumbs.get(LANDSCAPE.name)
        if first is not None:
            self.films.show_picture(shot_id, cut.id, marks.image(first))
            self.films.show_project(self.document.project)
        self._next_thumb()

    def _show_findings(self, _key: object, found: list[Finding]) -> None:
        self._findings = found
        self.findings_changed.emit()

    def findings(self) -> Sequence[Finding]:
        return self._findings

    @property
    def settled(self) -> bool:
        return self._worker.idle and self._widths.idle and self.rendering.idle

    def close_down(self) -> None:
        self._worker.close()
        self._widths.close()


def _small_pictures(project_file: Path, project: Project, shot: Shot, cut: Cut) -> dict[str, object]:
    """A small picture of the cut's middle in every format; none where its clip cannot be read."""
    middle = (cut.begins_s + cut.ends_s) / 2
    try:
        take = take_of(shot, cut.take_id)
        footage = open_footage(clip_files(project_file, take), take.taken_as)
        turns = known_turns(take, footage)
        targets, _ = targets_of(cut, around_footage(project_file, project, take, footage, turns))
        with footage.reader() as reader:
            sphere = footage.sphere(reader.at(float(cut.clock.clip_s(middle))))

        def seen(shape: Format) -> Flat:
            return Flat(_small(shape), course_for(cut, shape, turns, targets).sight, Filter.FAST, shows=footage.shows)

        return {shape.name: colour.rgb32(drawn(seen(shape), sphere, middle)) for shape in FORMATS}
    except GlintorError:
        return {}


def _true_widths(rows: Sequence[tuple[Shot, Cut]]) -> list[Finding]:
    """Cuts whose source has fewer pixels across the view than their film."""
    out, shape = [], LANDSCAPE
    for shot, cut in rows:
        most = true_widths_px(cut, shape, take_of(shot, cut.take_id).width_px)[1]
        if most < shape.size_px[0]:
            out.append(
                Finding(
                    desk="export",
                    kind="true",
                    level=Level.NOTE,
                    title=f"{cut.name}: true width",
                    value=most,
                    limit=shape.size_px[0],
                    unit="px",
                    digits=0,
                    reason="The source has no more pixels across this view; a larger film adds none.",
                )
            )
    return out
