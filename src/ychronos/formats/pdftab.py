"""Tablature on the page: strings as thin lines under a row's bars, frets on them, names of riffs over them."""

from __future__ import annotations

from collections.abc import Sequence

from ..chart.tablature import Written, fret_text
from ..song.model import Song
from .pdffonts import BOLD, ITALIC, width
from .pdfpen import Pen

GAP, OVER, UNDER = 6.2, 10.0, 6.0  # between strings, over the first, under the last
SIZE = 7.2
LINE = (0.62, 0.62, 0.58)
PAPER = (1.0, 1.0, 1.0)


def high(song: Song, written: Written | None, bars: Sequence[int]) -> float:
    """Room that the tablature of a row needs, 0 without any; a named riff alone needs a line."""
    if written is None or not bars:
        return 0.0
    if any(written.has_tab(song, b) for b in bars):
        return OVER + (len(song.guitar.strings) - 1) * GAP + UNDER
    return OVER if any(b in written.names for b in bars) else 0.0


def draw(
    pen: Pen,
    song: Song,
    written: Written,
    bars: Sequence[int],
    left: float,
    column: float,
    top: float,
    ink: tuple[float, float, float],
) -> None:
    """The tablature of a row whose first bar begins at ``left``; ``top`` is the upper edge of its room."""
    strings = len(song.guitar.strings)
    first = top - OVER
    for k, bar in enumerate(bars):
        x = left + column * k
        if bar in written.names:
            pen.text(x + 3, top - 6.5, written.names[bar], ITALIC, SIZE)
        if not written.has_tab(song, bar):
            continue
        pen.canvas.setStrokeColorRGB(*LINE)
        pen.canvas.setLineWidth(0.4)
        pen.canvas.lines([(x, first - n * GAP, x + column, first - n * GAP) for n in range(strings)])
        pen.canvas.lines([(e, first, e, first - (strings - 1) * GAP) for e in (x, x + column)])
        start, beats = song.grid.starts[bar], song.grid.bars[bar].beats
        for note in song.line_of_bar(bar):
            text = fret_text(song, note)
            y = first - (strings - 1 - song.spot_of(note.value).string) * GAP
            at = x + 4 + (column - 8) * float(note.at - start) / beats
            wide = width(text, BOLD, SIZE)
            pen.canvas.setFillColorRGB(*PAPER)
            pen.canvas.rect(at - 0.8, y - 2.6, wide + 1.6, 5.2, stroke=0, fill=1)
            pen.text(at, y - 0.36 * SIZE, text, BOLD, SIZE, ink)
