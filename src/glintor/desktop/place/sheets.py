"""The sheets that the Place desk opens over itself, and what it takes over from them."""

from functools import partial

import msgspec

from glintor.desktop.place.board import PlaceBoard
from glintor.project.model import Shot
from glintor.project.placed import carried, in_reach


class PlaceSheets(PlaceBoard):
    """A shot may be chosen, or a take recorded, while a sheet is open: each works on the shot that it was opened for."""

    def open_wish(self) -> None:
        """Opens the sheet that searches for a look."""
        from glintor.desktop.place.wish_sheet import WishSheet

        sheet = WishSheet(self.document, self.jobs, self)
        sheet.show()

    def open_places(self) -> None:
        """Opens the sheet of places."""
        from glintor.desktop.place.places_sheet import PlacesSheet

        shot_id = self.document.shot.id
        sheet = PlacesSheet(self.document.project, self.document.shot, self.jobs, self)
        sheet.taken.connect(partial(self._take_place, shot_id))
        sheet.show()

    def _take_place(self, shot_id: str, own: object, stage: str) -> None:
        """Puts a shot into a place, with the day's own places as they now are."""
        replace, project = msgspec.structs.replace, self.document.project
        project = replace(project, site=replace(project.site, places=own))
        self.document.edit(
            "Choose the place",
            project.with_shot(shot_id, lambda s: replace(s, placement=replace(s.placement, stage=stage))),
        )

    def open_carriers(self) -> None:
        """Opens the sheet of carriers."""
        from glintor.desktop.place.carriers_sheet import CarriersSheet

        shot_id = self.document.shot.id
        sheet = CarriersSheet(self.document.project, self.document.shot, self.jobs, self)
        sheet.taken.connect(partial(self._take_carrier, shot_id))
        sheet.show()

    def _take_carrier(self, shot_id: str, own: object, carrier_id: str) -> None:
        """Puts a shot on a carrier, with the day's own carriers as they now are."""
        replace, project = msgspec.structs.replace, self.document.project
        site = replace(project.site, carriers=own)
        carrier = site.carrier(carrier_id)
        assert carrier is not None

        def change(shot: Shot) -> Shot:
            if carrier_id == shot.placement.carrier:
                return replace(shot, placement=in_reach(site, shot.placement))
            return replace(shot, placement=carried(site, shot.placement, carrier))

        self.document.edit("Choose the carrier", replace(project, site=site).with_shot(shot_id, change))

    def open_subjects(self) -> None:
        """Opens the sheet of subjects."""
        from glintor.desktop.place.subjects_sheet import SubjectsSheet

        shot_id = self.document.shot.id
        sheet = SubjectsSheet(self.document.project, self.document.shot, self.jobs, self)
        sheet.taken.connect(partial(self._take_subjects, shot_id))
        sheet.show()

    def _take_subjects(self, shot_id: str, subjects: object, together: bool) -> None:
        replace = msgspec.structs.replace
        self.document.edit(
            "Choose the subjects",
            self.document.project.with_shot(
                shot_id, lambda s: replace(s, placement=replace(s.placement, subjects=subjects, together=together))
            ),
        )

    def open_track(self) -> None:
        """Opens the sheet of the way."""
        from glintor.desktop.place.track_sheet import TrackSheet

        TrackSheet(self.document, self).show()

    def open_shot(self) -> None:
        """Opens the sheet of this shot."""
        from glintor.desktop.place.shot_sheet import ShotSheet

        shot_id = self.document.shot.id  # another may be chosen, or a take recorded, while the sheet is open
        sheet = ShotSheet(self.document.project, self.document.shot, self)
        sheet.taken.connect(
            lambda change: self.document.edit("Change the shot", self.document.project.with_shot(shot_id, change))
        )
        sheet.show()
