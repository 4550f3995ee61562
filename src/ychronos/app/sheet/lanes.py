"""Lanes under the bars of the sheet, one entry each: whatever stands on the grid can be shown there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import groupby

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QFont, QFontMetricsF, QPainter, QPen

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
        _line(painter, song, bar, theme, (WORDS_AT + bar.lower) * scale, here, free)


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
        _line(
            painter, song, bar, theme, (WORDS_AT + bar.lower + (NOTES_BELOW if bar.worded else 0)) * scale, here, free
        )


def _strokes(painter: QPainter, song: Song, bar: BarBox, theme: Theme, scale: float) -> None:
    """What the strumming hand does: arrows down and up, longer where they are hard, a cross where they are muted, a dot where
    the hand goes by; stated ones in the colour of what is stated."""
    if not bar.lower:
        return
    text = song.figure_of_bar(bar.bar)
    middle, high = STROKES_AT * scale, 7.0 * min(1.3, scale)
    if not text:
        if (
            bar.bar in song.strummed.hidden
            and song.grid.bar_range(bar.bar)[0] == song.sections[song.section_of_bar(bar.bar)].start
        ):
            painter.setFont(theme.sans(8 * min(1.2, scale)))
            painter.setPen(theme.colour("faded"))
            painter.drawText(QPointF(bar.x + 5, middle + 3), "strokes hidden by the others")
        return
    heard = song.strummed.of(bar.bar) == text
    colour = theme.colour("ink" if heard else "stated")
    slots = len(text) // bar.beats
    for k, letter in enumerate(text):
        x = bar.x_of(k / slots) + 6
        painter.setPen(QPen(colour, 1.8 if letter.isupper() else 1.2))
        if letter == "-":
            painter.setPen(QPen(theme.colour("sound"), 1.6))
            painter.drawPoint(QPointF(x, middle))
        elif letter == "x":
            painter.drawLine(QPointF(x - 3, middle - 3), QPointF(x + 3, middle + 3))
            painter.drawLine(QPointF(x - 3, middle + 3), QPointF(x + 3, middle - 3))
        else:
            way = 1 if letter in "Dd" else -1
            reach = high if letter.isupper() else 0.62 * high
            tip = middle + way * reach
            painter.drawLine(QPointF(x, middle - way * reach), QPointF(x, tip))
            painter.drawPolyline([QPointF(x - 3, tip - 3.5 * way), QPointF(x, tip), QPointF(x + 3, tip - 3.5 * way)])


STROKES_AT = 109.0  # y of the middle of strokes
WORDS_AT = 108.0  # y of words, unscaled, below the bass
NOTES_BELOW = 14.0  # notes, below words
LANES: list[Lane] = [
    Lane("strokes", "Strokes", _strokes),
    Lane("words", "Words", _words),
    Lane("notes", "Notes", _notes),
]
