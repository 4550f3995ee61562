"""The look: paper and ink. Colours mean state only and never stand alone.

Two palettes, light and dark; the shipped fonts; the style sheet that the standard widgets get.
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from importlib import resources
from pathlib import Path

from PySide6.QtGui import QColor, QFont, QFontDatabase, QFontMetricsF, QPalette
from PySide6.QtWidgets import QApplication

SERIF, SANS = "Gentium Book Plus", "Inter"
FONT_FILES = (
    "GentiumBookPlus-Regular.ttf",
    "GentiumBookPlus-Bold.ttf",
    "GentiumBookPlus-Italic.ttf",
    "Inter-Regular.otf",
    "Inter-SemiBold.otf",
)

FONTED = (
    "QMenu",
    "QMenuBar",
    "QAbstractButton",
    "QAbstractItemView",
    "QLineEdit",
    "QLabel",
    "QToolTip",
    "QTipLabel",
    "QHeaderView",
)


@dataclass(frozen=True)
class Colours:
    """Named by what they are for."""

    paper: str  # the page
    shelf: str  # head, desk, side panel
    edge: str  # hairlines
    ink: str  # what is written
    faded: str  # what is said quietly
    sound: str  # the waveform
    stated: str  # what the user stated, and the bass line
    chosen: str  # background of what is selected
    doubt: str  # what is unsure
    doubt_paper: str
    cursor: str  # where the record is
    error: str
    on_stated: str


LIGHT = Colours(
    paper="#f6f1e6", shelf="#ebe4d4", edge="#d3cab6", ink="#1f2d36", faded="#62615a", sound="#b9b5a3",
    stated="#17696b", chosen="#d6e5e0", doubt="#8e5304", doubt_paper="#f3e2c0", cursor="#b8352a", error="#a3271d",
    on_stated="#ffffff",
)  # fmt: skip
DARK = Colours(
    paper="#1c2226", shelf="#252d32", edge="#3d474d", ink="#ebe5d6", faded="#adb1a9", sound="#5a6468",
    stated="#6fc4bd", chosen="#26454a", doubt="#e0a44e", doubt_paper="#453719", cursor="#ff8a78", error="#ff9384",
    on_stated="#10211f",
)  # fmt: skip


class Theme:
    """The palette in use and fonts made from it."""

    def __init__(self, dark: bool = False) -> None:
        self.dark = dark
        self.colours = DARK if dark else LIGHT

    def colour(self, name: str) -> QColor:
        return QColor(getattr(self.colours, name))

    @staticmethod
    def serif(size: float, bold: bool = False, italic: bool = False) -> QFont:
        font = QFont([SERIF, "serif"])
        font.setPointSizeF(size)
        font.setBold(bold)
        font.setItalic(italic)
        return font

    @staticmethod
    def sans(size: float, strong: bool = False) -> QFont:
        font = QFont([SANS, SERIF, "sans-serif"])
        font.setPointSizeF(size)
        font.setWeight(QFont.Weight.DemiBold if strong else QFont.Weight.Normal)
        return font


WIDTHS: dict[tuple[str, str], float] = {}
MOST_WIDTHS = 5000


def text_width(font: QFont, text: str) -> float:
    """How wide a text is, remembered: the same chord names are measured with every row that is painted."""
    key = (font.key(), text)
    wide = WIDTHS.get(key)
    if wide is None:
        if len(WIDTHS) >= MOST_WIDTHS:
            WIDTHS.clear()
        wide = WIDTHS[key] = QFontMetricsF(font).horizontalAdvance(text)
    return wide


def load_fonts() -> None:
    """Make the shipped fonts known to Qt."""
    folder = resources.files("ychronos").joinpath("fonts")
    for name in FONT_FILES:
        QFontDatabase.addApplicationFontFromData(folder.joinpath(name).read_bytes())


def apply(app: QApplication, theme: Theme) -> None:
    """Give the application the palette of a theme; nothing is done where it has it already. Windows wear
    :func:`style_sheet` themselves: one for the application is applied twice over, and to what is hidden as well."""
    name = "dark" if theme.dark else "light"
    before = app.property("ychronos-theme")
    if before == name:
        return
    app.setProperty("ychronos-theme", name)
    c = theme.colours
    palette = QPalette()
    roles = {
        QPalette.ColorRole.Window: c.paper,
        QPalette.ColorRole.WindowText: c.ink,
        QPalette.ColorRole.Base: c.paper,
        QPalette.ColorRole.AlternateBase: c.shelf,
        QPalette.ColorRole.Text: c.ink,
        QPalette.ColorRole.Button: c.shelf,
        QPalette.ColorRole.ButtonText: c.ink,
        QPalette.ColorRole.Highlight: c.stated,
        QPalette.ColorRole.HighlightedText: c.on_stated,
        QPalette.ColorRole.ToolTipBase: c.shelf,
        QPalette.ColorRole.ToolTipText: c.ink,
        QPalette.ColorRole.PlaceholderText: c.faded,
    }
    for role, colour in roles.items():
        palette.setColor(role, QColor(colour))
    for role in (QPalette.ColorRole.WindowText, QPalette.ColorRole.Text, QPalette.ColorRole.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, QColor(c.faded))
    if before is None:  # style and fonts are the same in both, and giving them lays all widgets out again
        app.setStyle("Fusion")
        app.setFont(theme.sans(10))
        for kind in FONTED:  # the platform gives these fonts of its own
            app.setFont(theme.sans(10), kind)  # type: ignore[arg-type]  # the stub asks for bytes, the binding for str
    app.setPalette(palette)


def style_sheet(theme: Theme) -> str:
    """What a window and all that it opens wear."""
    c = theme.colours
    signs = Path(__file__).parent / "signs" / ("dark" if theme.dark else "light")
    return _SHEET.format(arrows=signs.as_posix(), **{f.name: getattr(c, f.name) for f in fields(c)})


_SHEET = """
QMenuBar {{ background: {shelf}; color: {ink}; padding: 2px 8px; }}
QMenuBar::item {{ padding: 4px 9px; background: transparent; border-radius: 3px; }}
QMenuBar::item:selected {{ background: {chosen}; }}
QMenu {{ background: {paper}; color: {ink}; border: 1px solid {edge}; padding: 4px; }}
QMenu::item {{ padding: 5px 26px 5px 20px; border-radius: 3px; }}
QMenu::item:selected {{ background: {chosen}; color: {ink}; }}
QMenu::item:disabled {{ color: {faded}; }}
QMenu::separator {{ height: 1px; background: {edge}; margin: 4px 8px; }}
QToolTip {{ background: {shelf}; color: {ink}; border: 1px solid {edge}; padding: 4px; }}
QPushButton {{ background: transparent; color: {ink}; border: 1px solid {edge}; border-radius: 4px; padding: 5px 12px; }}
QPushButton:hover {{ border-color: {stated}; }}
QPushButton:focus {{ border: 2px solid {stated}; padding: 4px 11px; }}
QPushButton:pressed {{ background: {chosen}; }}
QPushButton:disabled {{ color: {faded}; }}
QPushButton:checked {{ background: {chosen}; border-color: {stated}; }}
QPushButton[main="true"] {{ background: {stated}; color: {on_stated}; border-color: {stated}; }}
QLineEdit {{ background: {paper}; color: {ink}; border: 1px solid {stated}; border-radius: 3px; padding: 3px 6px; selection-background-color: {stated}; selection-color: {on_stated}; }}
QComboBox, QSpinBox, QDoubleSpinBox {{ background: {paper}; color: {ink}; border: 1px solid {edge}; border-radius: 4px; padding: 3px 8px; }}
QComboBox:focus, QSpinBox:focus, QDoubleSpinBox:focus {{ border-color: {stated}; }}
QComboBox::drop-down {{ subcontrol-origin: padding; subcontrol-position: center right; width: 20px; border: none; }}
QComboBox::down-arrow {{ image: url("{arrows}/down.svg"); width: 10px; height: 10px; }}
QSpinBox::up-button, QSpinBox::down-button, QDoubleSpinBox::up-button, QDoubleSpinBox::down-button {{ subcontrol-origin: border; width: 18px; border: none; background: transparent; }}
QSpinBox::up-button, QDoubleSpinBox::up-button {{ subcontrol-position: top right; }}
QSpinBox::down-button, QDoubleSpinBox::down-button {{ subcontrol-position: bottom right; }}
QSpinBox::up-arrow, QDoubleSpinBox::up-arrow {{ image: url("{arrows}/up.svg"); width: 9px; height: 9px; }}
QSpinBox::down-arrow, QDoubleSpinBox::down-arrow {{ image: url("{arrows}/down.svg"); width: 9px; height: 9px; }}
QCheckBox::indicator {{ width: 14px; height: 14px; border: 1px solid {faded}; border-radius: 3px; background: {paper}; }}
QCheckBox::indicator:checked {{ background: {stated}; border-color: {stated}; image: url("{arrows}/tick.svg"); }}
QCheckBox::indicator:focus {{ border: 2px solid {stated}; }}
QComboBox QAbstractItemView {{ background: {paper}; color: {ink}; selection-background-color: {chosen}; selection-color: {ink}; }}
QProgressBar {{ background: {edge}; border: none; border-radius: 3px; max-height: 6px; min-height: 6px; }}
QProgressBar::chunk {{ background: {stated}; border-radius: 3px; }}
QSlider::groove:horizontal {{ height: 6px; background: {edge}; border-radius: 3px; }}
QSlider::sub-page:horizontal {{ background: {stated}; border-radius: 3px; }}
QSlider::handle:horizontal {{ width: 14px; margin: -5px 0; background: {ink}; border-radius: 7px; }}
QSlider::handle:horizontal:focus {{ background: {stated}; border: 2px solid {ink}; }}
QScrollBar:vertical {{ background: {paper}; width: 12px; margin: 0; }}
QScrollBar:horizontal {{ background: {paper}; height: 12px; margin: 0; }}
QScrollBar::handle {{ background: {edge}; border-radius: 5px; min-height: 30px; min-width: 30px; margin: 2px; }}
QScrollBar::handle:hover {{ background: {sound}; }}
QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
QListWidget, QTableWidget {{ background: {paper}; color: {ink}; border: 1px solid {edge}; outline: none; }}
QListWidget[plain="true"] {{ border: none; }}
QListWidget[plain="true"]::item {{ padding: 8px 10px; border-bottom: 1px solid {edge}; }}
#drop {{ border: 2px dashed {edge}; border-radius: 8px; }}
QListWidget::item {{ padding: 5px 8px; }}
QListWidget::item:selected {{ background: {chosen}; color: {ink}; }}
QLabel {{ color: {ink}; }}
QLabel[quiet="true"] {{ color: {faded}; }}
QLabel[doubt="true"] {{ color: {doubt}; }}
#head, #desk, #side, #strip {{ background: {shelf}; }}
#tabs {{ background: {shelf}; border-bottom: 1px solid {edge}; }}
QPushButton[tab="true"] {{ border: none; border-bottom: 3px solid transparent; border-radius: 0; padding: 3px 9px 4px 9px; color: {faded}; }}
QPushButton[tab="true"]:checked {{ background: transparent; color: {ink}; border-bottom: 3px solid {stated}; }}
QPushButton[tab="true"]:focus {{ color: {stated}; border: none; border-bottom: 3px dotted {edge}; padding: 3px 9px 4px 9px; }}
QPushButton[tab="true"]:checked:focus {{ color: {stated}; border-bottom: 3px solid {stated}; }}
QPushButton[tab="true"]:hover {{ color: {ink}; }}
QPushButton[other="true"] {{ border: none; background: transparent; color: {doubt}; padding: 0 2px; margin: 0; min-height: 0; }}
QPushButton[other="true"]:hover, QPushButton[other="true"]:focus {{ color: {stated}; text-decoration: underline; }}
#desk {{ border-top: 1px solid {edge}; }}
#side {{ border-left: 1px solid {edge}; }}
#unfinished {{ background: {shelf}; border: 1px solid {edge}; border-radius: 8px; }}
#notice {{ background: {doubt_paper}; border-bottom: 1px solid {edge}; }}
#notice[kind="error"] QLabel {{ color: {error}; }}
#strip {{ border-bottom: 1px solid {edge}; }}
"""
