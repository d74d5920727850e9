"""Colours, fonts and the style sheet, light and dusk; no widget names a colour of its own."""

from functools import cache
from pathlib import Path

from msgspec import Struct
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PyQt6.QtWidgets import QApplication

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


def _sheet(c: Palette) -> str:
    icon = f"{ICONS.as_posix()}/{{}}-{'dusk' if c is DUSK else 'day'}.svg".format
    return f"""
    QToolTip {{ background: {c.sheet}; color: {c.ink}; border: 1px solid {c.line}; padding: 3px; }}
    QMenuBar {{ background: {c.sheet}; padding: 1px 6px; }}
    QMenuBar::item {{ padding: 3px 9px; background: transparent; }}
    QMenuBar::item:selected {{ background: {c.course_fill}; }}
    QMenu {{ background: {c.sheet}; border: 1px solid {c.line}; padding: 4px; }}
    QMenu::item {{ padding: 5px 22px 5px 14px; }}
    QMenu::item:selected {{ background: {c.course_fill}; }}
    QMenu::item:disabled {{ color: {c.soft}; }}
    QLabel#soft {{ color: {c.soft}; }}
    QLabel#stopwords, QLabel#stop {{ color: {c.stop}; }}
    QLabel#caution {{ color: {c.caution}; }}
    QLabel#head {{ font-weight: 600; }}
    QLabel#figure {{ font-weight: 600; font-size: {LARGE_PT}pt; }}
    QFrame#strip {{ background: {c.sheet}; border: none; border-top: 1px solid {c.line}; }}
    QPushButton {{ background: {c.sheet}; border: 1px solid {c.ink}; padding: 4px 11px; min-height: 18px; }}
    QPushButton:hover {{ background: {c.course_fill}; }}
    QPushButton#chip {{ border: 1px solid {c.soft}; border-right: none; border-bottom: 3px solid {c.soft}; padding: 3px 9px 1px 9px;
        border-bottom-color: {c.line}; }}
    QPushButton#chip[last="true"] {{ border-right: 1px solid {c.soft}; }}
    QPushButton#chip:checked {{ background: {c.sheet}; color: {c.ink}; font-weight: 600; border-color: {c.soft}; border-bottom: 3px solid {c.course}; }}
    QPushButton#chip:focus {{ background: {c.course_fill}; }}
    QPushButton#chip:checked:focus {{ background: {c.course_fill}; }}
    QPushButton#main {{ background: {c.course}; border-color: {c.course}; color: {c.on_course}; }}
    QPushButton:focus {{ border: 2px solid {c.course}; padding: 3px 10px; }}
    QPushButton#main:disabled {{ border-color: {c.line}; color: {c.soft}; background: {c.paper}; }}
    QPushButton#main:focus {{ border: 2px solid {c.ink}; }}
    QPushButton:disabled {{ border-color: {c.line}; color: {c.soft}; background: {c.paper}; }}
    QPushButton#cure {{ border: none; background: {c.sheet}; color: {c.course}; padding: 2px 4px; min-height: 20px; text-align: left; }}
    QPushButton#cure:hover, QPushButton#cure:focus {{ text-decoration: underline; border: none; }}
    QPushButton#deskname {{ border: none; background: {c.paper}; padding: 7px 2px 5px 2px; margin-right: 18px; color: {c.soft};
        border-bottom: 3px solid transparent; font-size: {LARGE_PT}pt; }}
    QPushButton#deskname:hover, QPushButton#deskname:focus {{ color: {c.ink}; }}
    QPushButton#deskname:checked {{ color: {c.ink}; font-weight: 600; border-bottom: 3px solid {c.course}; }}
    QAbstractSpinBox, QComboBox, QLineEdit {{ background: {c.sheet}; border: 1px solid {c.soft}; padding: 3px 6px; min-height: 20px; }}
    QAbstractSpinBox:focus, QComboBox:focus, QLineEdit:focus, QListWidget:focus {{ border: 2px solid {c.course}; padding: 2px 5px; }}
    QAbstractSpinBox#figure {{ border: none; border-bottom: 1px solid {c.line}; background: transparent; font-weight: 600; font-size: {LARGE_PT}pt;
        padding: 1px 0px; }}
    QAbstractSpinBox#figure:hover {{ border-bottom: 1px solid {c.ink}; }}
    QAbstractSpinBox#figure:focus {{ border-bottom: 2px solid {c.course}; padding: 1px 0px 0px 0px; background: {c.sheet}; }}
    QAbstractSpinBox::up-button {{ subcontrol-position: top right; width: 18px; border: none; margin: 1px; }}
    QAbstractSpinBox::down-button {{ subcontrol-position: bottom right; width: 18px; border: none; margin: 1px; }}
    QAbstractSpinBox::up-arrow {{ image: url({icon("up")}); width: 10px; height: 6px; }}
    QAbstractSpinBox::down-arrow {{ image: url({icon("down")}); width: 10px; height: 6px; }}
    QComboBox::drop-down {{ border: none; width: 22px; }}
    QComboBox::down-arrow {{ image: url({icon("down")}); width: 10px; height: 6px; }}
    QCheckBox::indicator {{ width: 16px; height: 16px; border: 1px solid {c.ink}; background: {c.sheet}; }}
    QCheckBox::indicator:checked {{ image: url({icon("tick")}); }}
    QCheckBox:focus {{ color: {c.course}; }}
    QCheckBox#tick {{ font-size: {LARGE_PT}pt; min-height: 28px; spacing: 12px; }}
    QCheckBox#tick[done="true"] {{ color: {c.soft}; }}
    QCheckBox#tick::indicator {{ width: 24px; height: 24px; border: 2px solid {c.ink}; border-radius: 4px; }}
    QCheckBox#tick::indicator:checked {{ border-color: {c.course}; }}
    QPushButton#card:checked {{ border: 1px solid {c.course}; border-bottom: 4px solid {c.course}; background: {c.course_fill}; }}
    QPushButton#roll {{ min-height: 110px; }}
    QPushButton#rollsmall {{ min-height: 76px; }}
    QPushButton#event {{ border: 1px solid {c.line}; text-align: left; padding: 5px 10px; min-height: 24px; border-radius: 3px; }}
    QPushButton#event:focus {{ border: 2px solid {c.course}; padding: 4px 9px; }}
    QPushButton[chosen="true"] {{ background: {c.course_fill}; font-weight: 600; }}
    QComboBox QAbstractItemView {{ background: {c.sheet}; border: 1px solid {c.line}; }}
    QSlider::groove:horizontal {{ height: 3px; background: {c.line}; }}
    QSlider::handle:horizontal {{ width: 12px; margin: -8px 0; background: {c.course}; }}
    QListWidget, QTableWidget, QTreeWidget {{ background: {c.sheet}; border: 1px solid {c.line}; alternate-background-color: {c.paper}; }}
    QListWidget::item {{ padding: 5px; }}
    QTableWidget::item {{ padding: 3px 6px; }}
    QTableWidget::item:selected, QListWidget::item:selected {{ background: {c.course_fill}; color: {c.ink}; }}
    QHeaderView::section {{ background: {c.paper}; color: {c.soft}; border: none; border-bottom: 1px solid {c.line}; padding: 4px 6px; }}
    QProgressBar {{ border: 1px solid {c.line}; background: {c.paper}; text-align: center; min-height: 14px; max-height: 16px; }}
    QProgressBar::chunk {{ background: {c.course_fill}; }}
    QScrollArea, QScrollArea > QWidget > QWidget {{ background: transparent; border: none; }}
    QScrollBar:vertical {{ width: 9px; background: transparent; }}
    QScrollBar:horizontal {{ height: 9px; background: transparent; }}
    QAbstractScrollArea::corner {{ background: transparent; border: none; }}
    QScrollBar::handle {{ background: {c.line}; min-height: 24px; min-width: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
    QCheckBox {{ spacing: 7px; min-height: 23px; }}
    QFrame#workline {{ background: {c.paper}; border: none; border-top: 1px solid {c.line}; }}
    QFrame#workline QPushButton {{ padding: 0px 8px; min-height: 24px; border-color: {c.soft}; }}
    QFrame#workline QPushButton#worst {{ border: none; background: {c.paper}; font-weight: 600; padding: 0px 2px; }}
    QFrame#workline QPushButton#cure {{ background: {c.paper}; border: none; padding: 0px 4px; }}
    """
