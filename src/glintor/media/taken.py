"""What a recording is taken for: kept with a take, and told by a person where the file itself does not."""

from typing import Literal, cast

from msgspec import Struct

from glintor.sphere.equirect import HALF, WHOLE
from glintor.sphere.foot import Patch
from glintor.sphere.lenses import TWIN, WIDE, Lenses, Projection

Told = Literal["", "sphere", "half", "side", "under", "streams", "files", "lens"]
Paired = Literal["", "streams", "files"]  # how two lenses' films lie: in one picture, as two tracks, as two files
USUAL: dict[str, Projection] = {
    "sphere": WHOLE, "half": HALF, "side": TWIN, "streams": TWIN, "files": TWIN, "under": TWIN.laid("under"), "lens": WIDE,
}  # fmt: skip
WORDS = {
    "sphere": "a whole sphere", "half": "half of a sphere", "side": "two lenses side by side", "under": "two lenses, one under the other",
    "streams": "two lenses as two tracks", "files": "two lenses as two films", "lens": "one wide lens",
}  # fmt: skip


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
