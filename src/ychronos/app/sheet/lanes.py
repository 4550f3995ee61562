"""Lanes under the bars of the sheet, one entry each: whatever stands on the grid can be shown there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import groupby

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFont, QFontMetricsF, QPainter, QPen

from ...chart.tablature import degree_text, fret_text
from ...song.model import Song
from ...tongue import tr
from ..theme import Theme
from .arrows import paint_stroke
from .geometry import STRING, BarBox


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
    if not bar.strokes:
        return
    text = song.figure_of_bar(bar.bar)
    middle = STROKES_AT * scale
    if not text:
        if (
            bar.bar in song.strummed.hidden
            and song.grid.bar_range(bar.bar)[0] == song.sections[song.section_of_bar(bar.bar)].start
        ):
            painter.setFont(theme.sans(8 * min(1.2, scale)))
            painter.setPen(theme.colour("faded"))
            painter.drawText(QPointF(bar.x + 5, middle + 3), tr("strokes hidden by the others"))
        return
    heard = song.strummed.of(bar.bar) == text
    colour = theme.colour("ink" if heard else "stated")
    slots = len(text) // bar.beats
    both = song.paired_in(bar.bar)
    for k, letter in enumerate(text):
        x = bar.x_of(k / slots) + 6
        paint_stroke(painter, theme, x, middle, letter, colour, min(1.3, scale), both)


def _tab(painter: QPainter, song: Song, bar: BarBox, theme: Theme, scale: float) -> None:
    """The strings, the highest on top, with the frets of lines on them: a hammer-on, pull-off, slide or bend has its letter before
    the fret, what is doubtful is in the colour of doubts with a question mark. The second line at once is in italics."""
    if not bar.tab:
        return
    strings = len(song.guitar.strings)
    painter.setPen(QPen(theme.colour("edge"), 1.0))
    for k in range(strings):
        y = (bar.tab + k * STRING) * scale
        painter.drawLine(QPointF(bar.x, y), QPointF(bar.x + bar.width, y))
    painter.drawLine(QPointF(bar.x, bar.tab * scale), QPointF(bar.x, (bar.tab + (strings - 1) * STRING) * scale))
    start = song.grid.starts[bar.bar]
    for note in song.line_of_bar(bar.bar):
        spot = song.spot_of(note.value)
        font = theme.sans(8.5 * min(1.3, scale), strong=True)
        font.setItalic(note.value.lane > 0)
        metrics = QFontMetricsF(font)
        text = degree_text(song, note) if bar.degrees else fret_text(song, note)
        x = bar.x_of(float(note.at - start)) + 5
        y = (bar.tab + (strings - 1 - spot.string) * STRING) * scale
        wide = metrics.horizontalAdvance(text)
        painter.fillRect(QRectF(x - 1, y - 5 * scale, wide + 2, 10 * scale), theme.colour("paper"))
        painter.setFont(font)
        painter.setPen(theme.colour("doubt" if note.value.doubtful else "ink"))
        painter.drawText(QPointF(x, y + metrics.capHeight() / 2), text)


STROKES_AT = 109.0  # y of the middle of strokes
WORDS_AT = 108.0  # y of words, unscaled, below the bass
NOTES_BELOW = 14.0  # notes, below words
LANES: list[Lane] = [
    Lane("strokes", tr("Strokes"), _strokes),
    Lane("tab", tr("Tablature"), _tab),
    Lane("words", tr("Words"), _words),
    Lane("notes", tr("Notes"), _notes),
]
