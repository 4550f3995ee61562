"""Lanes under the bars of the sheet, one entry each: whatever stands on the grid can be shown there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter

from ...song.model import Song
from ..theme import Theme
from .geometry import BarBox


@dataclass(frozen=True)
class Lane:
    """``paint`` (painter, song, bar, theme, scale) draws what it shows of a bar; the painter's origin is the row's."""

    id: str
    words: str
    paint: Callable[[QPainter, Song, BarBox, Theme, float], None]


def _words(painter: QPainter, song: Song, bar: BarBox, theme: Theme, scale: float) -> None:
    """The words of the song under the bar in which they begin, as far as the next ones or the row's end let them."""
    here = song.lyrics_of_bar(bar.bar)
    if not here:
        return
    painter.setFont(theme.serif(9.5 * min(1.2, scale), italic=True))
    painter.setPen(theme.colour("ink"))
    start = song.grid.starts[bar.bar]
    for n, words in enumerate(here):
        x = bar.x_of(float(words.at - start)) + 3
        after = here[n + 1] if n + 1 < len(here) else None
        limit = bar.x_of(float(after.at - start)) if after else bar.x + bar.width + _room_after(song, bar)
        text = QFontMetricsF(painter.font()).elidedText(
            words.text, Qt.TextElideMode.ElideRight, max(0.0, limit - x - 4)
        )
        painter.drawText(QPointF(x, WORDS_AT * scale), text)


def _room_after(song: Song, bar: BarBox) -> float:
    """How far words may run on: over the next bar, when none begin in it."""
    following = bar.bar + 1
    if following >= len(song.grid.bars) or song.lyrics_of_bar(following):
        return 0.0
    return bar.width


WORDS_AT = 108.0  # y of words, unscaled, below the bass
LANES: list[Lane] = [Lane("words", "Words", _words)]
