"""Where the shot is: places chosen from small drawn pictures, described in words and a few numbers, drawn at once."""

from collections.abc import Callable
from pathlib import Path

import msgspec
from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QListWidgetItem, QVBoxLayout, QWidget

from glintor.desktop.charts import marks
from glintor.desktop.controls import button, row
from glintor.desktop.frame_view import FrameView
from glintor.desktop.jobs import Jobs
from glintor.desktop.place.foresee import frames_of, sphere_of
from glintor.desktop.place.open_files import read_or_say
from glintor.desktop.place.place_form import PlaceForm
from glintor.desktop.place.tile_sheet import NEXT_S, TileSheet
from glintor.desktop.place.tiles import Tiles
from glintor.errors import GlintorError
from glintor.export.formats import LANDSCAPE
from glintor.media.probe import NoSphere
from glintor.placement.scenery import CANAL, UNDESCRIBED, Place, read_place, ready_places, words_of, write_place
from glintor.project.model import Project, Shot, fresh_id
from glintor.project.placed import plan_of
from glintor.sphere.view import View

_TILE_PX, _TILE_SPHERE_PX, _LARGE_SPHERE_PX = (176, 99), 400, 960
_LEVEL_DEG, _WIDE_DEG = -4.0, 118.0
_WIDE_UNSAID_DEG = (
    65.0  # of a photo that does not say how wide it sees: of a telephone's main lens (common practice, no source)
)


class PlacesSheet(TileSheet):
    """`taken` gives the day's own places and the id of the chosen one."""

    def __init__(self, project: Project, shot: Shot, jobs: Jobs, parent: QWidget) -> None:
        tiles = Tiles("Places", QSize(*_TILE_PX), columns=2)
        picture = FrameView("This shot in the chosen place", LANDSCAPE.size_px, (400, 240), hand=False)
        super().__init__(f"Where is it? {shot.name}", "place", 700, tiles, picture, jobs, parent)
        self._project, self._shot = project, shot
        self.own: tuple[Place, ...] = project.site.places
        self.chosen, self._caption = shot.placement.stage, shot.name
        self.form = PlaceForm()
        self._drawn: set[Place | str] = set()
        self._lay()
        self.tiles.currentItemChanged.connect(lambda now, _old: self._choose(now))
        self.form.changed.connect(self._described)
        self.form.trouble.connect(self.trouble.setText)
        self.form.sun_asked.connect(self._turn_by_sun)
        self._list()

    def _lay(self) -> None:
        page = QVBoxLayout(self)
        page.setContentsMargins(18, 14, 18, 14)
        page.setSpacing(8)
        both = QHBoxLayout()
        both.setSpacing(14)
        both.addWidget(self.tiles)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(self.picture, 1)
        right.addWidget(self.words)
        right.addWidget(self.form)
        both.addLayout(right, 1)
        page.addLayout(both, 1)
        page.addWidget(self.trouble)
        photo = button(
            "From a photo…",
            self._ask_photo,
            tip="A photo sphere taken there becomes what stands round the shot; a flat photo stands for its own direction",
        )
        read = button("Read a place…", self._ask_read)
        self.write = button("Write this place…", self._ask_write)
        self.clicks = button(
            "Click on its sphere…", self.click, tip="Clicks the horizon, and of a photo bearings that you know"
        )
        take = button("Take over", self.take, main=True)
        page.addLayout(
            row(
                photo,
                self.clicks,
                read,
                self.write,
                None,
                button("Leave it", self.reject),
                take,
                stretch=False,
                spacing=8,
            )
        )

    # What there is
    def _known(self) -> list[tuple[str, str, Place | None]]:
        """Id, name and description of every place: own ones first, the canal's stages last."""
        ready = ready_places().values()
        own = [(place.id, place.name, place) for place in self.own]
        taken = {place.id for place in self.own}
        return [
            *own,
            *((p.id, p.name, p) for p in ready if p.id not in taken),
            *((i, name, None) for i, name in CANAL.items()),
        ]

    def _list(self) -> None:
        entries = [
            (place_id, name, words_of(place) if place is not None else "A stage of the Hollin Cut")
            for place_id, name, place in self._known()
        ]
        self.tiles.show_entries(entries, self.chosen)
        self._drawn.clear()
        self._choose(self.tiles.currentItem())
        self._next_tile()

    def _place(self, place_id: str) -> Place | None:
        return next((place for known, _, place in self._known() if known == place_id), None)

    def _choose(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self.chosen = item.data(Qt.ItemDataRole.UserRole)
        place = self._place(self.chosen)
        self.trouble.setText("")
        if place is not None:
            said = (
                "as it is said for this day"
                if place.known == "said"
                else "ready-made: what you change becomes a place of your own"
            )
            self.words.setText(f"{place.name}: {words_of(place)} ({said}).")
        else:
            known = self.chosen in CANAL
            self.words.setText(
                "A stage of the Hollin Cut, as it is drawn."
                if known
                else "Nobody has said yet what it looks like: choose one."
            )
        self.form.setEnabled(place is not None)
        self.write.setEnabled(place is not None)
        self.clicks.setEnabled(place is not None)
        if place is not None:
            self.form.show_place(place)
        self._rest.start()

    def _described(self, place: Place) -> None:
        """The form has another description: of an own place itself, of a ready-made one an own copy."""
        self.trouble.setText("")
        if all(own.id != place.id for own in self.own):
            taken = {known for known, _, _ in self._known()}
            place = msgspec.structs.replace(
                place, id=fresh_id(f"{place.id}-own"[:60], taken), name=f"{place.name}, own", known="said"
            )
            self.own = (place, *self.own)
            self.chosen = place.id
            self._list()
            return
        self.own = tuple(place if own.id == place.id else own for own in self.own)
        item = self.tiles.currentItem()
        if item is not None:
            item.setText(place.name)
        self.words.setText(f"{place.name}: {words_of(place)} (as it is said for this day).")
        self._rest.start()

    # Pictures
    def _frame(self, place_id: str, sphere_px: int, long_px: int) -> Callable[[], QImage]:
        """Work that draws this shot in a place: the way that it looks at first, but level and wide, so that one sees where it is."""
        site = msgspec.structs.replace(self._project.site, places=self.own)
        placement = msgspec.structs.replace(self._shot.placement, stage=place_id)
        shot, camera = msgspec.structs.replace(self._shot, placement=placement), self._project.camera_of(self._shot)
        begins = self._shot.opening.view if self._shot.opening is not None else plan_of(self._project, shot).start_view
        view = View(yaw_deg=begins.yaw_deg, pitch_deg=_LEVEL_DEG, fov_deg=_WIDE_DEG)
        name = LANDSCAPE.name
        return lambda: marks.image(frames_of(sphere_of(shot, site, camera, sphere_px), view, [name], long_px)[name])

    def _next_tile(self) -> None:
        for place_id, _, place in self._known():
            key = place or place_id
            if key not in self._drawn:
                self._small.ask(key, self._frame(place_id, _TILE_SPHERE_PX, _TILE_PX[0]), pause_s=NEXT_S)
                return

    def _show_tile(self, key: object, image: object) -> None:
        assert isinstance(key, Place | str) and isinstance(image, QImage)
        self._drawn.add(key)
        place_id = key.id if isinstance(key, Place) else key
        self.tiles.show_picture(place_id, image)
        self._next_tile()

    def _draw_large(self) -> None:
        if self.chosen in CANAL or self._place(self.chosen) is not None:
            self._large.ask(self.chosen, self._frame(self.chosen, _LARGE_SPHERE_PX, 640))
        self._next_tile()

    # Files
    def read(self, file: Path) -> None:
        """Adds a place from a file to the day's own, or says why not."""
        place = read_or_say(file, read_place, self.trouble)
        if place is None:
            return
        taken = {known for known, _, _ in self._known()}
        place = msgspec.structs.replace(place, id=fresh_id(place.id, taken), known="said")
        self.own, self.chosen = (place, *self.own), place.id
        self._list()

    def _ask_photo(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self,
            "A photo taken there, of the whole sphere or flat",
            "",
            "Photos (*.jpg *.jpeg *.png *.tif *.tiff *.exr *.hdr)",
        )
        if name:
            self.photograph(Path(name))

    def photograph(self, file: Path) -> None:
        """Makes a place of a photo sphere, turned by the sun in it where that can be done, or lets a flat photo stand for a
        direction of the chosen place; or says why not."""
        from glintor.simulation.photo import bearing_by_sun, read_photo

        try:
            photo = read_photo(file)
            faces, words = bearing_by_sun(photo, self._project.site)
        except NoSphere:
            self._photograph_flat(file)
            return
        except GlintorError as error:
            self.trouble.setText(str(error))
            return
        place_id = fresh_id("photo", {known for known, _, _ in self._known()})
        place = Place(id=place_id, name=file.stem[:80] or "photo", photo=str(file.absolute()), photo_faces_deg=faces)
        self.own, self.chosen = (place, *self.own), place_id
        self._list()
        self.trouble.setText(words)

    def _photograph_flat(self, file: Path) -> None:
        from glintor.simulation.photo import flat_wide_deg

        try:
            wide, faces = flat_wide_deg(file)
        except GlintorError as error:
            self.trouble.setText(str(error))
            return
        around = self._place(self.chosen) or UNDESCRIBED
        place_id = fresh_id(f"{around.id}-photo"[:60], {known for known, _, _ in self._known()})
        place = msgspec.structs.replace(
            around,
            id=place_id,
            name=f"{around.name[:40]}, {file.stem[:30]}",
            known="said",
            photo=str(file.absolute()),
            photo_wide_deg=round(min(max(wide or _WIDE_UNSAID_DEG, 10.0), 140.0), 1),
            photo_faces_deg=faces,
        )
        self.own, self.chosen = (place, *self.own), place_id
        self._list()
        said = (
            f"The photo is {wide:.0f} degrees wide by its own lens"
            if wide
            else f"The photo does not say how wide it sees; {_WIDE_UNSAID_DEG:.0f} degrees are tried: change them until it fits"
        )
        self.trouble.setText(
            f"{said}. It stands for {'straight ahead, until you say where it faces' if faces is None else f'the bearing that it gives, {faces:.0f} degrees'}; "
            "the rest is as described."
        )

    def click(self) -> None:
        """Opens the place's sphere to click its horizon, and the bearings of a photo."""
        from glintor.desktop.place.sphere_clicks import SphereClicks

        place = self._place(self.chosen)
        if place is None:
            return
        if place.pictured:
            from glintor.simulation.photo import read_photo, seen

            try:
                picture, faces = seen(read_photo(Path(place.photo))), place.photo_faces_deg
            except GlintorError as error:
                self.trouble.setText(str(error))
                return
        else:
            site = msgspec.structs.replace(self._project.site, places=(*self.own, place))
            placement = msgspec.structs.replace(self._shot.placement, stage=place.id)
            shot = msgspec.structs.replace(self._shot, placement=placement)
            picture = sphere_of(shot, site, self._project.camera_of(shot), _LARGE_SPHERE_PX)
            faces = (site.bearing_of(placement) + placement.heading_deg) % 360.0
        sheet = SphereClicks(picture, faces, place.horizon, self, turns=place.pictured)
        sheet.taken.connect(self._clicked)
        sheet.show()

    def _clicked(self, faces_deg: float | None, horizon: tuple[tuple[float, float], ...]) -> None:
        place = self._place(self.chosen)
        if place is None:
            return
        changed = msgspec.structs.replace(place, horizon=horizon)
        if place.pictured:
            changed = msgspec.structs.replace(changed, photo_faces_deg=faces_deg)
        self.form.show_place(changed)
        self._described(changed)
        self.form.show_place(self._place(self.chosen) or changed)

    def _turn_by_sun(self) -> None:
        from glintor.simulation.photo import bearing_by_sun, read_photo

        place = self._place(self.chosen)
        if place is None or not place.pictured:
            return
        try:
            faces, words = bearing_by_sun(read_photo(Path(place.photo)), self._project.site)
        except GlintorError as error:
            self.trouble.setText(str(error))
            return
        if faces is not None:
            turned = msgspec.structs.replace(place, photo_faces_deg=faces)
            self.form.show_place(turned)
            self._described(turned)
        self.trouble.setText(words)

    def _content(self) -> bytes | None:
        place = self._place(self.chosen)
        return None if place is None else write_place(place)
