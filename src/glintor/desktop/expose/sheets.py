"""What the Expose desk opens over itself: the light's sources, a test frame, a series to merge, the kit's own settings."""

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QMenu

from glintor.desktop.desk import Desk
from glintor.exposure.sources import LightFrom
from glintor.media.picture import SUFFIXES
from glintor.project.exposure import Exposure
from glintor.project.kit import Preset
from glintor.project.model import Shot

if TYPE_CHECKING:
    from glintor.exposure.hdr import Merged

_PHOTOS = " ".join(f"*{suffix}" for suffix in sorted(SUFFIXES))


class ExposeSheets(Desk):
    """A shot may be chosen while a sheet is open: each works on the shot that it was opened for."""

    def _change(self, shot_id: str, words: str, **values: object) -> None:
        project = self.document.project
        self.document.edit(
            words, project.with_shot(shot_id, lambda s: replace(s, exposure=replace(s.exposure, **values)))
        )

    def open_light(self) -> None:
        """Opens the sheet that says where the light is known from."""
        from glintor.desktop.expose.light_sheet import LightSheet

        shot = self.document.shot
        sheet = LightSheet(shot.exposure.light, shot.exposure.take_s, self)
        sheet.taken.connect(lambda light: self._change(shot.id, "Say what the light is", light=light))
        sheet.show()

    def ask_frame(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "A test frame", "", f"Spheres ({_PHOTOS} *.mp4 *.mov *.mkv)")
        if name:
            self.open_frame(Path(name))

    def open_frame(self, file: Path) -> None:
        """Measures a test frame in a sheet of its own."""
        from glintor.desktop.expose.frame_sheet import FrameSheet
        from glintor.simulation.light_course import planned_frames

        shot = self.document.shot
        sheet = FrameSheet(file, planned_frames(self.document.project, shot), self.jobs, shot.exposure.white_k, self)
        sheet.used.connect(partial(self._use_frame, shot.id))
        sheet.shift_wanted.connect(partial(self._shift, shot.id))
        sheet.white_wanted.connect(lambda kelvin: self._change(shot.id, "Set the white balance", white_k=kelvin))
        sheet.show()

    def _use_frame(self, shot_id: str, file: object) -> None:
        assert isinstance(file, Path)
        told = LightFrom(kind="frame", words=file.name[:40], file=str(file.absolute()))
        self._change(shot_id, "Take the light from a test frame", light=(told,))

    def _shift(self, shot_id: str, stops: float) -> None:
        """Moves a shot's setting: of a locked exposure the time, of an automatic one its offset."""
        e, camera = self.document.project.shot(shot_id).exposure, self.document.camera
        if e.program == "manual":
            longest = e.interval_s or 1.0 / e.rate_fps
            time = min(max(e.shutter_s * 2.0**stops, camera.shutter_min_s), longest)
            self._change(shot_id, "Keep the highlights", shutter_s=time)
        else:
            self._change(
                shot_id, "Keep the highlights", offset_stops=round(min(max(e.offset_stops + stops, -5.0), 5.0), 2)
            )

    # HDR
    def ask_merge(self) -> None:
        names, _ = QFileDialog.getOpenFileNames(self, "The exposures of one sphere", "", f"Photos ({_PHOTOS})")
        if not names:
            return
        files = [Path(name) for name in sorted(names)]
        target, _ = QFileDialog.getSaveFileName(
            self,
            "The merged sphere",
            str(files[0].with_name(f"{files[0].stem}-light.exr")),
            "Light (*.exr *.hdr);;Photo that says it is a sphere (*.jpg);;16-bit picture (*.tif)",
        )
        if target:
            self.merge(files, Path(target))

    def merge(self, files: list[Path], target: Path) -> None:
        """Merges a series beside the window and says what was done."""

        def done(merged: "Merged") -> None:
            from glintor.exposure.hdr_files import in_words

            lines = in_words(merged)
            self.said.emit(f"{target.name}: {len(merged.frames)} frames merged; {lines[-1]}")

        self.jobs.start(f"Merging {len(files)} frames", lambda report, _stop: _merged(files, target, report), done)

    # Own settings
    def fill_presets(self, menu: QMenu) -> None:
        """The kit's own settings as a menu: each is put on the shot by one choice."""
        menu.clear()
        for preset in self.document.project.kit.presets:
            action = menu.addAction(preset.name)
            if action is not None:
                action.triggered.connect(partial(self.use_preset, preset.name))
        if self.document.project.kit.presets:
            menu.addSeparator()
        keep = menu.addAction("Keep this setting as…")
        if keep is not None:
            keep.triggered.connect(self.ask_preset)
        for preset in self.document.project.kit.presets:
            if preset.name == self.document.shot.exposure.preset:
                gone = menu.addAction(f"Forget {preset.name}")
                if gone is not None:
                    gone.triggered.connect(partial(self.forget_preset, preset.name))

    def ask_preset(self) -> None:
        name, kept = QInputDialog.getText(self, "Keep this setting", "Its name:")
        if kept and name.strip():
            self.keep_preset(name.strip()[:60])

    def keep_preset(self, name: str) -> None:
        """Keeps the shot's setting in the kit; one of the same name gives way."""
        project, shot = self.document.project, self.document.shot
        bare = Exposure()
        kept = replace(shot.exposure, light=bare.light, take_s=bare.take_s, preset=name)
        presets = (*(p for p in project.kit.presets if p.name != name), Preset(name=name, exposure=kept))
        project = replace(project, kit=replace(project.kit, presets=presets))

        def named(s: Shot) -> Shot:
            return replace(s, exposure=replace(s.exposure, preset=name))

        self.document.edit(f"Keep the setting {name}", project.with_shot(shot.id, named))

    def use_preset(self, name: str) -> None:
        preset = next((p for p in self.document.project.kit.presets if p.name == name), None)
        if preset is None:
            return
        e = self.document.shot.exposure
        values = {
            field: getattr(preset.exposure, field)
            for field in Exposure.__struct_fields__
            if field not in ("light", "take_s")
        }
        self._change(self.document.shot.id, f"Set {name}", **values, light=e.light, take_s=e.take_s)

    def forget_preset(self, name: str) -> None:
        project = self.document.project
        presets = tuple(p for p in project.kit.presets if p.name != name)
        self.document.edit(f"Forget {name}", replace(project, kit=replace(project.kit, presets=presets)))


def _merged(files: list[Path], target: Path, report: object) -> "Merged":
    from glintor.exposure.hdr import merge_series
    from glintor.exposure.hdr_files import write_merged
    from glintor.files import refuse_sources

    refuse_sources(target, files)
    merged = merge_series(files, report=report)  # type: ignore[arg-type]
    write_merged(merged, target, files)
    return merged
