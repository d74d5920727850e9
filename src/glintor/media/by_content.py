"""What a picture is where no metadata tell: by its shape and by what is seen in it. What stays unsure is said to be so, with the other
ways to read it."""

import numpy as np
from msgspec import Struct

from glintor.media.laid_out import CUBE, Bars, Lines, bars_of, eyes_alike, halves, is_cube, lines_of
from glintor.media.looks_like import edges_meet, edges_tell, shows_circle
from glintor.media.taken import Kind, Told
from glintor.pixels.yuv import Plane

_BLACK = 20.0  # mean of a half in which nothing is seen


class Recognised(Struct, frozen=True):
    """What is seen: its kind and why; told, sure and also as in a Reading."""

    reading: Kind
    why: str
    told: Told = ""
    sure: bool = True
    also: tuple[Told, ...] = ()


def by_content(frames: list[Plane], size_px: tuple[int, int], *, film: bool) -> Recognised:
    """What a picture of that size is, by its shape and by what is seen in some moments of it. frames: luma (h, w); film: whether it moves."""
    width, height = size_px
    circles = _by_two_circles(frames, size_px)
    if circles is not None:
        return circles
    bars = bars_of(frames)
    if bars.even and abs(width - 2 * height) > 2:  # a sphere's own poles may be black
        return _between_bars(frames, bars, size_px)
    if abs(width - 2 * height) > 2 and shows_circle(frames):
        return _ONE_CIRCLE
    lines = lines_of(frames)
    if is_cube(size_px, lines) and not eyes_alike(frames, over=True)[0]:
        return Recognised("flat", CUBE, sure=False, also=("sphere",))
    eyes = _two_eyes(frames, size_px, lines)
    if eyes is not None:
        return eyes
    if abs(width - 2 * height) <= 2:
        return _twice_as_wide(frames, lines[1].parted)
    if abs(height - 2 * width) <= 2 and lines[0].parted:
        why = "two pictures lie in it, one under the other: are they two lenses'?"
        return Recognised("two-lenses", why, told="under", sure=False, also=("lens",))
    if abs(width - height) <= 2:
        why = "it is as high as wide and shows no image circle"
        return Recognised(
            "half" if film else "flat", why, told="half" if film else "", sure=False, also=("half", "lens")
        )
    why = f"it is {width}x{height}, shows no image circle, and no metadata say that it is a sphere"
    return Recognised("flat", why, also=("lens", "sphere"))


_ONE_CIRCLE = Recognised("one-lens", "one image circle is seen in it", told="lens", also=("half",))


def _by_two_circles(frames: list[Plane], size_px: tuple[int, int]) -> Recognised | None:
    """By two image circles with dark around them; None where there are none, or where a sphere may be seen as well."""
    width, height = size_px
    if 1.2 * height < width < 3.0 * height:
        circles = [shows_circle(half) for half in halves(frames, over=False)]
        if all(circles):
            return Recognised("two-lenses", "two image circles lie side by side in it", told="side")
        if any(circles) and abs(width - 2 * height) <= 2:
            dark = min(float(np.mean([part.mean() for part in half])) for half in halves(frames, over=False)) < _BLACK
            if dark or not edges_meet(frames)[0]:
                why = "an image circle is seen in one half only: is a lens black?"
                return Recognised("two-lenses", why, told="side", sure=False, also=("sphere",))
    if 1.2 * width < height < 3.0 * width and all(shows_circle(half) for half in halves(frames, over=True)):
        return Recognised("two-lenses", "two image circles lie in it, one under the other", told="under")
    return None


def _between_bars(frames: list[Plane], bars: Bars, size_px: tuple[int, int]) -> Recognised:
    """Of what lies between black bars: a sphere, lenses edge to edge, or a flat film of another shape."""
    rows, columns = frames[0].shape
    inside = [f[bars.top : rows - bars.bottom, bars.left : columns - bars.right] for f in frames]
    high, wide = inside[0].shape
    words = f"it is {size_px[0]}x{size_px[1]} with bars {'above and below' if bars.top else 'at both sides'}"
    if abs(wide / high - 2.0) < 0.02:
        parted = lines_of(inside)[1].parted
        meets, poles = edges_meet(inside)
        if parted:
            why = f"{words}, and two pictures lie side by side between them: are they two lenses'?"
            return Recognised("two-lenses", why, told="side", sure=False, also=("boxed",))
        if meets:
            why = f"{words}; what lies between is twice as wide as high and its sides meet"
            told = poles and edges_tell(inside)  # plain sides of a flat film meet as well
            return Recognised("sphere", why + (", its poles are even" if told else "?"), told="boxed", sure=told)
        return Recognised(
            "flat", f"{words}, and the sides of what lies between do not meet", sure=False, also=("boxed",)
        )
    if shows_circle(inside):
        return _ONE_CIRCLE
    if abs(wide / high - 1.0) < 0.02:
        why = f"{words}, and what lies between is as high as wide: is it one wide lens's?"
        return Recognised("one-lens", why, told="lens", sure=False)
    return Recognised("flat", f"{words}, and no metadata say that it is a sphere", also=("lens",))


def _two_eyes(frames: list[Plane], size_px: tuple[int, int], lines: tuple[Lines, Lines]) -> Recognised | None:
    """Two eyes' pictures of one scene; None where the halves show different things."""
    width, height = size_px
    shape = width / height
    over = min(abs(shape - 1.0), abs(shape - 2.0)) < 0.01 and lines[0].only_at((0.5,))
    alike, same = eyes_alike(frames, over=True) if over else (False, False)
    if alike:
        meets = edges_meet(halves(frames, over=True)[0])[0]
        why = "what two eyes see lies in it, one over the other" + (": the upper one is shown" if meets else "")
        return Recognised("sphere", why, told="over", sure=meets and same, also=("sphere", "half"))
    wide = abs(shape - 4.0) < 0.01
    if not wide and abs(shape - 2.0) > 0.01:
        return None
    alike, same = eyes_alike(frames, over=False)
    meets = edges_meet(halves(frames, over=False)[0])[0]
    if not alike or not (
        wide or meets or lines[1].parted
    ):  # a sphere's own halves can be alike, where it is the same ahead and behind
        return None
    why = "what two eyes see lies in it, side by side" + (": the left one is shown" if meets and wide else "?")
    told: Told = "beside" if meets else "half-beside"
    return Recognised("sphere", why, told=told, sure=wide and meets and same, also=("sphere", "side"))


def _twice_as_wide(frames: list[Plane], parted: bool) -> Recognised:
    """What is twice as wide as high, without image circles. parted: whether a hard line runs down its middle."""
    meets, poles = edges_meet(frames)
    why = "it is twice as wide as high"
    if parted:
        why += ", but its halves do not go on into one another: is it of two lenses without dark corners?"
        return Recognised("two-lenses", why, told="side", sure=False, also=("sphere", "half-beside"))
    if meets:
        why += " and its sides meet" + (", its poles are even" if poles else "")
        return Recognised("sphere", why, also=() if poles else ("side",))
    if poles:
        return Recognised(
            "sphere", f"{why} and its poles are even, but its sides do not meet", sure=False, also=("side",)
        )
    return Recognised(
        "flat", f"{why}, but its sides do not meet and its poles are not even", sure=False, also=("sphere", "side")
    )
