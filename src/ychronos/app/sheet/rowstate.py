"""All that a row's picture depends on, as values that can be compared: a row is painted again only when one of them is another.

Whatever is read while a row is painted (:mod:`sheetpaint`, :mod:`lanes`) must be in here; a test makes random edits and compares each
picture that was kept with one painted anew.
"""

from __future__ import annotations

from fractions import Fraction

from ...chart.rows import section_title
from ...song.model import Song
from .geometry import RowBox
from .sheetpaint import View


def row_state(song: Song, box: RowBox, view: View) -> tuple[object, ...]:
    """What the picture of a row shows."""
    first, last = box.row.first, box.row.last
    start, end = song.grid.bar_range(first)[0], song.grid.bar_range(last - 1)[1]
    one, two = song.chord_index(start), song.chord_index(max(start, end - Fraction(1, 64)))
    spans = song.chords[max(0, one - 1) : two + 2]  # neighbours say how a chord is spelled
    bars = range(first, last)
    held = tuple(song.held[i] for i in range(one, two + 1)) if box.above and view.shapes else ()
    lines = tuple((n, song.spot_of(n.value)) for bar in bars for n in song.line_of_bar(bar))
    below = tuple(
        (song.lyrics_of_bar(b), song.notes_of_bar(b)) for b in range(first, min(last + 1, len(song.grid.bars)))
    )
    section = song.sections[box.row.section]
    title = (section_title(song, box.row.section), section.name_doubtful, box.row.section)
    marks = tuple(m for m in song.marks if start <= m.at < end)
    checked = tuple(song.bar_checked(b) for b in bars)
    beats = slice(song.grid.starts[first], song.grid.starts[last - 1] + song.grid.bars[last - 1].beats)
    bass = view.bass[beats].tobytes() if view.bass is not None and not song.bassline else b""
    figures = (
        (song.strummed, tuple((song.figure_of_bar(b), song.paired_in(b)) for b in bars)) if box.bars[0].strokes else ()
    )
    return (
        box, view.geometry.scale, view.geometry.rows[0].bars[0].x, id(view.theme), id(view.waveform), bass, view.shapes,
        song.grid, song.keys, song.guitar, song.notation, song.ground, song.bassline, spans, end == song.grid.end,
        held, lines, below, title, marks, checked, figures, *_view_of(song, box, view, start, end, one, two),
    )  # fmt: skip


def _view_of(
    song: Song, box: RowBox, view: View, start: Fraction, end: Fraction, one: int, two: int
) -> tuple[object, ...]:
    """What of the selection, the loop and the comparison shows in a row."""
    first, last = box.row.first, box.row.last

    def clipped(bars: tuple[int, int] | None) -> tuple[int, int, int, int] | None:
        if bars is None or bars[1] < first or bars[0] >= last:
            return None
        return max(bars[0], first), min(bars[1], last - 1), bars[0] >= first, bars[1] < last

    chord = view.chord if view.chord is not None and one <= view.chord <= two else None
    bars = view.chord is None  # bars and a caret are meant, not a chord
    caret = view.caret if bars and view.caret is not None and start <= view.caret < end else None
    return (
        clipped(view.selected) if bars else None,
        clipped(view.loop),
        chord,
        caret,
        view.focused and (chord is not None or caret is not None),
        view.differs & set(range(first, last)),
    )
