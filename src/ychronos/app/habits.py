"""What the user wants of every song and of the program, kept in the settings."""

from __future__ import annotations

import os
from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication

from ..guitar.instrument import LEVEL_IDS
from ..song.model import Song
from ..theory.notation import SCHOOLS
from ..tongue import tr
from .settings import Settings
from .theme import Theme

COLOURS = (
    ("light", tr("Dark ink on light paper")),
    ("dark", tr("Light ink on dark paper")),
    ("desktop", tr("As the desktop has it")),
)
SIZES = (100, 115, 130, 150, 175, 200)  # per cent: of letters and of all else
SMALLEST = (1024, 600)  # pixels that the window needs at 100 %


class Habits:
    """See the module."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings

    # ------------------------------------------------------------ looks

    @property
    def colours(self) -> str:
        """One of COLOURS; what was chosen before there were three of them counts."""
        usual = "dark" if self.settings.flag("dark", False) else "light"
        said = self.settings.text("colours", usual)
        return said if said in dict(COLOURS) else usual

    def theme(self) -> Theme:
        """The theme that is wanted now."""
        if self.colours == "desktop":
            return Theme(QGuiApplication.styleHints().colorScheme() == Qt.ColorScheme.Dark)
        return Theme(self.colours == "dark")

    @property
    def size(self) -> int:
        """Per cent at which everything is drawn from the next start on."""
        wanted = round(self.settings.number("size", 100, SIZES[0], SIZES[-1]))
        return wanted if wanted in SIZES else 100

    # ------------------------------------------------------------ songs that are new

    @property
    def notation(self) -> str:
        said = self.settings.text("new/notation", "names")
        return said if said in SCHOOLS else "names"

    @property
    def level(self) -> str:
        said = self.settings.text("new/level", "standard")
        return said if said in LEVEL_IDS else "standard"

    @property
    def left(self) -> bool:
        return self.settings.flag("new/left", False)

    @property
    def from_nut(self) -> bool:
        return self.settings.flag("new/from_nut", False)

    def applied(self, song: Song) -> Song:
        """A song as the user wants new ones."""
        guitar = replace(song.guitar, level=self.level, left=self.left, from_nut=self.from_nut)
        return replace(song, notation=self.notation, guitar=guitar)

    # ------------------------------------------------------------ sound

    @property
    def device(self) -> str:
        """The name of the sound card that is wanted, "" for the system's own."""
        return self.settings.text("device", "")


def fitting(size: int, wide: int, high: int) -> int:
    """The size, or the largest one below it at which the window still fits on a screen of so many pixels."""
    fits = [s for s in SIZES if s <= size and wide * 100 // s >= SMALLEST[0] and high * 100 // s >= SMALLEST[1]]
    return max(fits, default=SIZES[0])


def draw_at(settings: Settings) -> None:
    """Have everything drawn at the size that is wanted; before the application is made, and unless the desktop was told."""
    size = Habits(settings).size
    if size != 100 and "QT_SCALE_FACTOR" not in os.environ:
        os.environ["QT_SCALE_FACTOR"] = str(size / 100)
