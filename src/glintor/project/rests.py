"""Hours and rests as they are typed."""

from glintor.errors import InputError
from glintor.placement.clock import clock
from glintor.project.site import Rest


def minute_of(words: str) -> float:
    """Minutes after midnight of an hour typed as 16:30. Raises InputError."""
    hours, _, minutes = words.strip().partition(":")
    if hours.isdigit() and minutes.isdigit() and int(hours) < 24 and int(minutes) < 60:
        return 60.0 * int(hours) + int(minutes)
    raise InputError(f"{words.strip()} is no hour.", advice="Write it as 16:30.")


def rest_words(rests: tuple[Rest, ...]) -> str:
    """As they are typed: the hour and how many minutes, then the next."""
    return ", ".join(f"{clock(rest.start_min)} {rest.length_min:g}" for rest in rests)


def rests_of(words: str) -> tuple[Rest, ...]:
    """Rests typed as `12:30 45, 16:00 15`, in their order. Raises InputError."""
    out = []
    for part in filter(str.strip, words.split(",")):
        hour, _, length = part.strip().partition(" ")
        try:
            minutes = float(length)
        except ValueError:
            minutes = 0.0
        if not 0.0 < minutes <= 1440.0:
            raise InputError(f"{part.strip()} is no rest.", advice="Write the hour and the minutes, as 12:30 45.")
        out.append(Rest(start_min=minute_of(hour), length_min=minutes))
    return tuple(sorted(out, key=lambda rest: rest.start_min))
