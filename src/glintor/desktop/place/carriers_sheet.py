"""What carries the camera: carriers chosen from small pictures, seen from above, from the side and as drawn; own ones are made
by copying one and changing its numbers."""

from pathlib import Path

import msgspec
from PyQt6.QtCore import QPointF, QSize, Qt
from PyQt6.QtGui import QImage, QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QListWidgetItem, QVBoxLayout, QWidget

from glintor.desktop import theme
from glintor.desktop.charts import marks
from glintor.desktop.charts.figures import draw_carrier, draw_person
from glintor.desktop.controls import Elided, button, row
from glintor.desktop.frame_view import FrameView
from glintor.desktop.jobs import Jobs
from glintor.desktop.place.carrier_form import CarrierForm
from glintor.desktop.place.open_files import read_or_say
from glintor.desktop.place.tile_sheet import NEXT_S, TileSheet
from glintor.desktop.place.tiles import Tiles
from glintor.placement.carrier import Carrier, parts_of, read_carrier, ready_carriers, write_carrier
from glintor.placement.figures import rider
from glintor.placement.fitting import possible
from glintor.placement.outline import Way, outlines
from glintor.placement.shapes import extent
from glintor.project.model import Project, Shot, fresh_id

_TILE_PX, _LARGE_PX = (160, 100), (480, 300)
_EDGE_PX = 16


class Drawing(QWidget):
    """A carrier with who rides it, from above or from the side, as large as there is room."""

    def __init__(self, way: Way) -> None:
        super().__init__()
        self._way = way
        self._carrier: Carrier | None = None
        self.setMinimumSize(150, 110)
        self.setAccessibleName(f"From {'above' if way == 'above' else 'the side'}")

    def show_carrier(self, carrier: Carrier) -> None:
        self._carrier = carrier
        self.update()

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), theme.colours()["sheet"])
        if self._carrier is None:
            return
        who = rider(self._carrier)
        groups = [*parts_of(self._carrier), *([who] if who is not None else [])]
        if groups:
            corners = [extent(parts) for parts in groups]
            a, b = (0, 1) if self._way == "above" else (0, 2)
            low = [min(float(c[0][k]) for c in corners) for k in (a, b)]
            high = [max(float(c[1][k]) for c in corners) for k in (a, b)]
            room = (self.width() - 2 * _EDGE_PX, self.height() - 2 * _EDGE_PX)
            scale = min(room[0] / max(high[0] - low[0], 0.5), room[1] / max(high[1] - low[1], 0.5))
            middle = QPointF(self.width() / 2, self.height() / 2 + 6)
            origin = middle + QPointF(-(low[0] + high[0]) / 2 * scale, (low[1] + high[1]) / 2 * scale)
            draw_carrier(p, self._carrier, self._way, origin, scale)
            if who is not None:
                draw_person(p, outlines([who], self._way), "subject", origin, scale)
            long = high[0] - low[0]
            marks.text(p, self.width() - 8, self.height() - 9, f"{long:.1f} m long", colour="soft", align="right")
        marks.text(p, 8, 11, "From above" if self._way == "above" else "From the side", colour="soft")


class CarriersSheet(TileSheet):
    """`taken` gives the day's own carriers and the id of the chosen one."""

    def __init__(self, project: Project, shot: Shot, jobs: Jobs, parent: QWidget) -> None:
        tiles = Tiles("Carriers", QSize(*_TILE_PX), columns=2)
        picture = FrameView("As drawn", _LARGE_PX, (220, 130), hand=False)
        super().__init__(f"On what? {shot.name}", "carrier", 720, tiles, picture, jobs, parent)
        self.own: tuple[Carrier, ...] = project.site.carriers
        self.chosen, self._caption = shot.placement.carrier, "as drawn"
        self.above, self.side = Drawing("above"), Drawing("side")
        self.takes = Elided("", "soft")
        self.form = CarrierForm()
        self._drawn: set[Carrier] = set()
        self._lay()
        self.tiles.currentItemChanged.connect(lambda now, _old: self._choose(now))
        self.form.changed.connect(self._described)
        self.form.trouble.connect(self.trouble.setText)
        self._list()

    def _lay(self) -> None:
        page = QVBoxLayout(self)
        page.setContentsMargins(18, 14, 18, 14)
        page.setSpacing(8)
        both, right, drawings = QHBoxLayout(), QVBoxLayout(), QVBoxLayout()
        both.setSpacing(14)
        both.addWidget(self.tiles)
        drawings.setSpacing(6)
        drawings.addWidget(self.above)
        drawings.addWidget(self.side)
        pictures = QHBoxLayout()
        pictures.setSpacing(6)
        pictures.addWidget(self.picture, 3)
        pictures.addLayout(drawings, 2)
        right.setSpacing(8)
        right.addLayout(pictures, 5)
        right.addWidget(self.words)
        right.addWidget(self.takes)
        right.addWidget(self.form, 4)
        both.addLayout(right, 1)
        page.addLayout(both, 1)
        page.addWidget(self.trouble)
        read = button("Read a carrier…", self._ask_read)
        write = button("Write this carrier…", self._ask_write)
        copy = button("Copy and change", self.copy, tip="Makes a carrier of your own of this one")
        take = button("Take over", self.take, main=True)
        page.addLayout(row(copy, read, write, None, button("Leave it", self.reject), take, stretch=False, spacing=8))

    # What there is
    def _known(self) -> dict[str, Carrier]:
        """Own ones first."""
        return {carrier.id: carrier for carrier in self.own} | {
            name: carrier for name, carrier in ready_carriers().items() if all(own.id != name for own in self.own)
        }

    def _list(self) -> None:
        self.tiles.show_entries([(c.id, c.words, c.about) for c in self._known().values()], self.chosen)
        self._drawn.clear()
        self._choose(self.tiles.currentItem())
        self._next_tile()

    @property
    def carrier(self) -> Carrier | None:
        return self._known().get(self.chosen)

    def _choose(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.chosen = item.data(Qt.ItemDataRole.UserRole)
        self.trouble.setText("")
        carrier = self.carrier
        if carrier is not None:
            self.form.show_carrier(carrier)
            self._tell_of(carrier)

    def _tell_of(self, carrier: Carrier) -> None:
        whose = "your own" if carrier.known == "said" else "ready-made: what you change becomes a carrier of your own"
        about = f": {carrier.about}" if carrier.about else ""
        self.words.setText(f"{carrier.words[:1].upper()}{carrier.words[1:]}{about} ({whose}).")
        can = [setup.words for setup, why in possible(carrier) if not why]
        self.takes.show_words(f"Takes {len(can)} set-ups: {', '.join(can)}")
        self.above.show_carrier(carrier)
        self.side.show_carrier(carrier)
        self._rest.start()

    def copy(self) -> None:
        """Makes an own carrier of the chosen one, and chooses it."""
        if self.carrier is not None:
            self._adopt(msgspec.structs.replace(self.carrier, words=f"{self.carrier.words}, own"))

    def _adopt(self, carrier: Carrier) -> None:
        carrier_id = fresh_id(f"{carrier.id}-own"[:60], set(self._known()))
        carrier = msgspec.structs.replace(carrier, id=carrier_id, known="said")
        self.own, self.chosen = (carrier, *self.own), carrier.id
        self._list()

    def _described(self, carrier: Carrier) -> None:
        """The form has other numbers: of an own carrier itself, of a ready-made one an own copy."""
        if all(own.id != carrier.id for own in self.own):
            self._adopt(msgspec.structs.replace(carrier, words=f"{carrier.words}, own"))
            return
        self.own = tuple(carrier if own.id == carrier.id else own for own in self.own)
        item = self.tiles.currentItem()
        if item is not None:
            item.setText(carrier.words)
        self._tell_of(carrier)
        self._next_tile()

    # Pictures
    def _next_tile(self) -> None:
        carrier = next((c for c in self._known().values() if c not in self._drawn), None)
        if carrier is not None:
            self._small.ask(carrier, lambda: _portrait(carrier, _TILE_PX), pause_s=NEXT_S)

    def _show_tile(self, key: object, image: object) -> None:
        assert isinstance(key, Carrier) and isinstance(image, QImage)
        self._drawn.add(key)
        self.tiles.show_picture(key.id, image)
        self._next_tile()

    def _draw_large(self) -> None:
        carrier = self.carrier
        if carrier is not None:
            self._large.ask(carrier.id, lambda: _portrait(carrier, _LARGE_PX))

    # Files
    def read(self, file: Path) -> None:
        """Adds a carrier from a file to the day's own, or says why not."""
        carrier = read_or_say(file, read_carrier, self.trouble)
        if carrier is not None:
            self._adopt(carrier)

    def _content(self) -> bytes | None:
        return None if self.carrier is None else write_carrier(self.carrier)


def _portrait(carrier: Carrier, size_px: tuple[int, int]) -> QImage:
    from glintor.simulation.portrait import portrait  # loads the compiler

    return marks.image(portrait(carrier, size_px))
