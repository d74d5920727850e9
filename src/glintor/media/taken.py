"""What a recording is taken for: kept with a take, and told by a person where the file itself does not."""

from typing import Literal, cast

from msgspec import Struct

from glintor.sphere.equirect import HALF, WHOLE
from glintor.sphere.foot import Patch
from glintor.sphere.lenses import TWIN, WIDE, Lenses, Projection

# What a recording is
Kind = Literal[
    "sphere", "half", "cropped", "two-lenses", "one-lens", "flat", "photo", "bracket", "series", "sound", "broken"
]
Told = Literal[
    "", "sphere", "half", "side", "under", "streams", "files", "lens", "boxed", "over", "beside", "half-beside"
]
Paired = Literal["", "streams", "files"]  # how two lenses' films lie: in one picture, as two tracks, as two files
USUAL: dict[str, Projection] = {
    "sphere": WHOLE, "half": HALF, "side": TWIN, "streams": TWIN, "files": TWIN, "under": TWIN.laid("under"), "lens": WIDE,
    "boxed": WHOLE, "over": WHOLE, "beside": WHOLE, "half-beside": HALF,
}  # fmt: skip
WORDS = {
    "sphere": "a whole sphere", "half": "half of a sphere", "side": "two lenses side by side", "under": "two lenses, one under the other",
    "streams": "two lenses as two tracks", "files": "two lenses as two films", "lens": "one wide lens",
    "boxed": "a whole sphere between bars", "over": "a sphere for each eye, over one another", "beside": "a sphere for each eye, side by side",
    "half-beside": "half of a sphere for each eye",
}  # fmt: skip


class Inset(Struct, frozen=True):
    """Which part of a stored picture is shown, as shares of its sides: its left, top, width and height."""

    left: float = 0.0
    top: float = 0.0
    width: float = 1.0
    height: float = 1.0

    def px(self, size_px: tuple[int, int]) -> tuple[int, int, int, int]:
        """Left, top, width and height of it in a picture of that size: even, so that colour can be cut as well."""
        a, b, c, d = (
            2 * round(share * side / 2.0)
            for share, side in zip((self.left, self.top, self.width, self.height), size_px * 2, strict=True)
        )
        return a, b, max(c, 2), max(d, 2)


def inset_of(told: Told, size_px: tuple[int, int]) -> Inset | None:
    """What part of a picture so told is shown: what lies between bars, or the first eye's; None for all of it."""
    width, height = size_px
    if told == "boxed":  # the largest picture twice as wide as high
        wide, high = min(1.0, 2.0 * height / width), min(1.0, width / (2.0 * height))
        return Inset((1.0 - wide) / 2.0, (1.0 - high) / 2.0, wide, high)
    return {"over": Inset(height=0.5), "beside": Inset(width=0.5), "half-beside": Inset(width=0.5)}.get(told)


class TakenAs(Struct, frozen=True):
    """told: what its picture shows, "" leaves it to the file; lenses: their profile where it is one of fisheyes, None for a generic
    one; mends: whether near things at the seam are laid on one another; stands: whether only the first of several
    photos is shown, as of a bracket; patch: what covers the foot."""

    told: Told = ""
    lenses: Lenses | None = None
    mends: bool = True
    stands: bool = False
    patch: Patch | None = None

    @property
    def projection(self) -> Projection | None:
        """What the picture shows; None where that is left to the file."""
        usual = USUAL.get(self.told)
        if isinstance(usual, Lenses) and self.lenses is not None and len(self.lenses.eyes) == len(usual.eyes):
            return self.lenses.laid(usual.layout)
        return usual

    @property
    def paired(self) -> Paired:
        return cast(Paired, self.told) if self.told in ("streams", "files") else ""
