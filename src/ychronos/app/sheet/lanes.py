"""Lanes under the bars of the sheet, one entry each: whatever stands on the grid can be shown there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import groupby

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QFont, QFontMetricsF, QPainter

from ...song.model import Song
from ..theme import Theme
from .geometry import BarBox


@dataclass(frozen=True)
class Lane:
    """``paint`` (painter, song, bar, theme, scale) draws what it shows of a bar; the painter's origin is the row's."""

    id: str
    words: str
    paint: Callable[[QPainter, Song, BarBox, Theme, float], None]


Placed = tuple[float, str, QFont, str]  # beats into the bar, text, font, colour


def _line(painter: QPainter, song: Song, bar: BarBox, theme: Theme, y: float, here: list[Placed], free: bool) -> None:
    """Texts in a line under a bar, each as far as the next one lets it, the last over the next bar too if that is free."""
    for n, (offset, text, font, colour) in enumerate(here):
        x = bar.x_of(offset) + 3
        limit = bar.x_of(here[n + 1][0]) if n + 1 < len(here) else bar.x + bar.width * (2 if free else 1)
        painter.setFont(font)
        painter.setPen(theme.colour(colour))
        shown = QFontMetricsF(font).elidedText(text, Qt.TextElideMode.ElideRight, max(0.0, limit - x - 4))
        painter.drawText(QPointF(x, y), shown)


def _words(painter: QPainter, song: Song, bar: BarBox, theme: Theme, scale: float) -> None:
    """The words of the song under the bar in which they begin."""
    font = theme.serif(9.5 * min(1.2, scale), italic=True)
    start = song.grid.starts[bar.bar]
    here = [(float(w.at - start), w.text, font, "ink") for w in song.lyrics_of_bar(bar.bar)]
    if here:
        free = bar.bar + 1 < len(song.grid.bars) and not song.lyrics_of_bar(bar.bar + 1)
        _line(painter, song, bar, theme, WORDS_AT * scale, here, free)


def _notes(painter: QPainter, song: Song, bar: BarBox, theme: Theme, scale: float) -> None:
    """Notes under their bars, below the words if the row has some: cues strong, advice and what is private plain, doubts
    in the colour of doubts and after a question mark."""
    size = 8.5 * min(1.2, scale)
    looks = {"cue": (True, "ink"), "advice": (False, "ink"), "doubt": (False, "doubt"), "private": (False, "stated")}
    start = song.grid.starts[bar.bar]
    here: list[Placed] = []
    for at, some in groupby(song.notes_of_bar(bar.bar), key=lambda n: n.at):
        same = list(some)
        strong, colour = looks[same[0].kind]
        flag = 8 / max(1.0, bar.width) * bar.beats if any(n.kind == "private" for n in same) else 0.0  # beside its flag
        here.append(
            (float(at - start) + flag, " · ".join(n.line for n in same), theme.sans(size, strong=strong), colour)
        )
    if here:
        free = bar.bar + 1 < len(song.grid.bars) and not song.notes_of_bar(bar.bar + 1)
        _line(painter, song, bar, theme, (WORDS_AT + (NOTES_BELOW if bar.worded else 0)) * scale, here, free)


WORDS_AT = 108.0  # y of words, unscaled, below the bass
NOTES_BELOW = 14.0  # notes, below words
LANES: list[Lane] = [Lane("words", "Words", _words), Lane("notes", "Notes", _notes)]
