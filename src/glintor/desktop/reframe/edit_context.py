"""What everybody who edits on the Reframe desk has before them."""

from collections.abc import Callable

from msgspec import Struct

from glintor.desktop.document import Document
from glintor.desktop.reframe.hand import Hand
from glintor.desktop.reframe.known import Known
from glintor.desktop.reframe.player import Player
from glintor.desktop.reframe.screen import Screen
from glintor.media.footage import Footage


class EditContext(Struct, frozen=True):
    """The day, what is at hand of it, what is known of its take, where that is drawn and played; go: to a moment of the path; say: a line
    to the person."""

    document: Document
    hand: Hand
    known: Known
    screen: Screen
    player: Player
    go: Callable[[float], object]
    say: Callable[[str], object]

    @property
    def footage(self) -> Footage | None:
        """The open recording."""
        return self.screen.footage
