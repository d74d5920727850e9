"""The one family of errors that a person can act on. Anything else that is raised is a bug."""

MESSAGE_MOST = 300  # letters: a longer message is not read, and no box holds it
_LEAST_WHAT = 60


def shortened(text: str, most: int) -> str:
    """The text with its middle left out where it is longer: of a path both the beginning and the name are told."""
    if len(text) <= most:
        return text
    head = (most - 1) // 2
    return f"{text[:head]}…{text[len(text) - (most - 1 - head) :]}"


class GlintorError(Exception):
    """What happened, what is unharmed and what to do, in words for the person at the window.

    exit_code   2 for bad input, 1 for work that failed
    """

    exit_code = 1

    def __init__(self, what: str, *, unharmed: str = "", advice: str = "") -> None:
        advice = shortened(advice, MESSAGE_MOST // 2)
        unharmed = shortened(unharmed, MESSAGE_MOST // 4)
        room = MESSAGE_MOST - len(advice) - len(unharmed) - 3
        self.what, self.unharmed, self.advice = shortened(_readable(what), max(room, _LEAST_WHAT)), unharmed, advice
        super().__init__(" ".join(part for part in (self.what, unharmed, advice) if part))


class InputError(GlintorError, ValueError):
    """Something given to Glintor cannot be used as it is."""

    exit_code = 2


class Cancelled(GlintorError):
    """The person stopped the work; nothing half done was left behind."""

    def __init__(self) -> None:
        super().__init__("Stopped as asked.", unharmed="Nothing half written is left.")


def _readable(text: str) -> str:
    """Names on disk may hold bytes that are no text: they are shown as a mark, so that they can be written anywhere."""
    return text.encode("utf-8", "replace").decode("utf-8", "replace")
