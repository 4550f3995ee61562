"""Lanes under the bars of the sheet, one entry each: whatever stands on the grid can be shown there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtGui import QPainter

from ...song.model import Song
from ..theme import Theme
from .geometry import BarBox


@dataclass(frozen=True)
class Lane:
    """``paint`` (painter, song, bar, theme, scale) draws what it shows of a bar; the painter's origin is the row's."""

    id: str
    words: str
    paint: Callable[[QPainter, Song, BarBox, Theme, float], None]


LANES: list[Lane] = []
