"""Colours, fonts and the style sheet, light and dusk; no widget names a colour of its own."""

from functools import cache
from pathlib import Path
from string import Template

from msgspec import Struct
from msgspec.structs import asdict
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PyQt6.QtWidgets import QApplication

_DRAWN = ("up", "down", "tick")  # icons that rules name
FONTS, ICONS = Path(__file__).parent / "fonts", Path(__file__).parent / "icons"
TEXT_PT, LARGE_PT = 9.5, 12.5  # what is read; what is looked for: figures, the desks, the day
FAMILY = "Atkinson Hyperlegible Next"
_FACES = ("AtkinsonHyperlegibleNext-400.ttf", "AtkinsonHyperlegibleNext-600.ttf")


class Palette(Struct, frozen=True):
    """Named by what they stand for."""

    paper: str
    sheet: str
    line: str
    ink: str
    soft: str
    course: str
    course_fill: str
    subject: str
    seam: str
    sun: str
    mat: str
    stop: str
    caution: str
    note: str
    on_course: str

    def __getitem__(self, name: str) -> QColor:
        """The colour itself, shared by all: not to be changed."""
        return _colour(getattr(self, name))

    def sheer(self, name: str, alpha: int) -> QColor:
        """The colour so that what lies under it shows; alpha 0 to 255."""
        colour = QColor(self[name])
        colour.setAlpha(alpha)
        return colour


@cache
def _colour(code: str) -> QColor:
    return QColor(code)


DAY = Palette(
    "#F3F1EC", "#FBFAF7", "#C9C5BA", "#22303A", "#54606A", "#0C6B6F", "#CFE1DF", "#B4472E", "#7B5EA7", "#B67A0E", "#8A8A88",
    "#A3261B", "#8A5F00", "#41606E", "#FFFFFF",
)  # fmt: skip
DUSK = Palette(
    "#20272C", "#283138", "#4A555D", "#E8E6DF", "#B3BCC2", "#5DBFBF", "#2E4E52", "#E58A70", "#B79BDD", "#E0AC4F", "#6A6A69",
    "#FF8A7D", "#E6BC5C", "#9FC0CE", "#14191C",
)  # fmt: skip

_now = [DAY]


def colours() -> Palette:
    """The palette in use."""
    return _now[0]


def font(*, large: bool = False, bold: bool = False) -> QFont:
    """The text face with figures of equal width, in one of its two sizes and two weights."""
    return QFont(_face(large, bold))


def paper_font() -> QFont:
    """The text face as it is: figures that a font feature exchanged have no characters in a PDF, so nobody could search or copy them."""
    face = QFont(FAMILY)
    face.setPointSizeF(TEXT_PT)
    return face


@cache
def _face(large: bool, bold: bool) -> QFont:
    face = QFont(FAMILY)
    face.setPointSizeF(LARGE_PT if large else TEXT_PT)
    face.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    face.setFeature(QFont.Tag("tnum"), 1)
    return face


def apply(app: QApplication, *, dusk: bool = False) -> None:
    """Loads the fonts and styles the whole application."""
    if not app.property("fonts_loaded"):
        for name in _FACES:
            QFontDatabase.addApplicationFont(str(FONTS / name))
        app.setProperty("fonts_loaded", True)
    _now[0] = DUSK if dusk else DAY
    app.setFont(font())
    app.setPalette(_palette(_now[0]))
    app.setStyleSheet(_sheet(_now[0]))


def _palette(c: Palette) -> QPalette:
    """What plain widgets need; the style sheet has the rest. A rule for every widget would cost the start a tenth."""
    role = QPalette.ColorRole
    names = ("ink", "sheet", "sheet", "line", "soft", "ink", "ink", "sheet", "paper")
    palette = QPalette(*(c[name] for name in names))
    for which, name in (
        (role.Highlight, "course"),
        (role.HighlightedText, "on_course"),
        (role.PlaceholderText, "soft"),
        (role.AlternateBase, "paper"),
        (role.Link, "course"),
    ):
        palette.setColor(which, c[name])
    return palette


@cache
def _rules() -> Template:
    return Template((Path(__file__).parent / "window.qss").read_text(encoding="utf-8"))


def _sheet(c: Palette) -> str:
    """The window's rules (`window.qss`) in the colours of a palette."""
    icons = {f"icon_{name}": (ICONS / f"{name}-{'dusk' if c is DUSK else 'day'}.svg").as_posix() for name in _DRAWN}
    return _rules().substitute(asdict(c), large_pt=LARGE_PT, **icons)
