"""What a generic two-lens camera can record: its modes."""

from typing import Literal

from msgspec import Struct

from glintor.errors import InputError

USUAL_WIDTH_PX = 5760  # of the largest sphere of a generic camera
Kind = Literal["film", "hdr film", "single", "lapse", "photo", "bracket"]


class Mode(Struct, frozen=True):
    """One mode. width_px of the sphere (or of the single lens's frame); single_deg: what that frame sees across."""

    id: str
    words: str
    kind: Kind
    width_px: int
    rates_fps: tuple[float, ...] = ()
    single_deg: float = 0.0

    @property
    def is_photo(self) -> bool:
        return self.kind in ("photo", "bracket")


MODES = {
    mode.id: mode
    for mode in (
        Mode("sphere-5k7", "5.7K sphere", "film", 5760, (24.0, 25.0, 30.0)),
        Mode("sphere-4k", "4K sphere", "film", 3840, (30.0, 50.0)),
        Mode("sphere-3k", "3K sphere, slow motion", "film", 3008, (100.0,)),
        Mode("hdr-5k7", "HDR film, 5.7K sphere", "hdr film", 5760, (24.0, 25.0, 30.0)),
        Mode("single-150", "one lens, 150°", "single", 2720, (24.0, 25.0, 30.0, 50.0), 150.0),
        Mode("single-170", "one lens, 170°", "single", 2720, (24.0, 25.0, 30.0, 50.0), 170.0),
        Mode("lapse", "time-lapse", "lapse", 5760, (24.0, 25.0, 30.0)),
        Mode("photo", "photo", "photo", 5760),
        Mode("bracket", "photo with bracket", "bracket", 5760),
    )
}


def mode_named(name: str) -> Mode:
    """Raises InputError."""
    if name not in MODES:
        raise InputError(f"The camera has no mode {name}.", advice=f"Choose one of {', '.join(MODES)}.")
    return MODES[name]


def mode_for(rate_fps: float, interval_s: float) -> Mode:
    """The sphere mode that a shot's own setting asks for: the largest that has its frame rate."""
    if interval_s > 0.0:
        return MODES["lapse"]
    films = [mode for mode in MODES.values() if mode.kind == "film"]
    return next((mode for mode in films if rate_fps in mode.rates_fps), films[0])
