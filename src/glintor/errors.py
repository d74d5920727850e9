"""The one family of errors that a person can act on. Anything else that is raised is a bug."""


class GlintorError(Exception):
    """What happened, what is unharmed and what to do, in words for the person at the window.

    exit_code   2 for bad input, 1 for work that failed
    """

    exit_code = 1

    def __init__(self, what: str, *, unharmed: str = "", advice: str = "") -> None:
        super().__init__(" ".join(part for part in (what, unharmed, advice) if part))
        self.what, self.unharmed, self.advice = what, unharmed, advice


class InputError(GlintorError, ValueError):
    """Something given to Glintor cannot be used as it is."""

    exit_code = 2


class Cancelled(GlintorError):
    """The person stopped the work; nothing half done was left behind."""

    def __init__(self) -> None:
        super().__init__("Stopped as asked.", unharmed="Nothing half written is left.")
