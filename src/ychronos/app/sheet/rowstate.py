"""All that a row's picture depends on, as values that can be compared: a row is painted again only when one of them is another.

Whatever is read while a row is painted (:mod:`sheetpaint`, :mod:`lanes`) must be in here; a test makes random edits and compares each
picture that was kept with one painted anew. What lies under a row, selection, caret and loop, is painted with every look.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from PySide6.QtGui import QPixmap

from ...chart.rows import section_title
from ...song.bassnotes import played
from ...song.model import Song
from .geometry import RowBox
from .sheetpaint import ChordBox, View, paleness


@dataclass
class RowPicture:
    """A row as it was painted: of which objects, and what it shows of them."""

    box: RowBox
    picture: QPixmap
    names: list[ChordBox]
    made_of: tuple[object, ...] = ()
    state: tuple[object, ...] = ()

    def same(self, made_of: tuple[object, ...], size: tuple[int, float]) -> bool:
        """Whether it was made of these very objects: then nobody need look at what they say."""
        return (
            len(made_of) == len(self.made_of)
            and all(a is b for a, b in zip(made_of, self.made_of, strict=True))
            and self.state[:2] == size
        )


def row_state(song: Song, box: RowBox, view: View) -> tuple[object, ...]:
    """What the picture of a row shows."""
    first, last = box.row.first, box.row.last
    start, end = song.grid.bar_range(first)[0], song.grid.bar_range(last - 1)[1]
    one, two = song.chord_index(start), song.chord_index(max(start, end - Fraction(1, 64)))
    near = song.chords[max(0, one - 1) : two + 2]  # neighbours say how a chord is spelled
    spans = tuple((s.start, s.chord, s.spelling, s.articulation, s.stated, s.doubtful, s.follows) for s in near)
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
    figures = tuple(_strokes_of(song, bar) for bar in bars) if box.bars[0].strokes else ()
    return (
        box, view.geometry.scale, view.geometry.rows[0].bars[0].x, id(view.theme), id(view.waveform), bass, view.shapes,
        *_grid_of(song, first, last), _keys_of(song, near[0].start, end), song.guitar, song.notation, song.ground,
        bool(song.bassline), _bass_of(song, start, end), spans, end == song.grid.end, held, lines, below, title, marks, checked, figures,
    )  # fmt: skip


def _grid_of(song: Song, first: int, last: int) -> tuple[object, ...]:
    """What of the beats and bars shows in a row, with the beats beside it, from which places at its edges are worked out."""
    grid = song.grid
    start, end = grid.starts[first], grid.starts[last]
    pins = tuple(beat for beat in range(start, end) if beat in grid.stated_beats)
    near = slice(max(0, start - 1), end + 2)
    return start, grid.times[near], grid.bars[max(0, first - 1) : last], grid.usual_meter(), grid.number(first), pins


def _keys_of(song: Song, start: Fraction, end: Fraction) -> tuple[object, ...]:
    return tuple((max(start, song.keys[k].start), song.keys[k].key) for k in song.keys.touching(start, end))


def _bass_of(song: Song, start: Fraction, end: Fraction) -> tuple[object, ...]:
    notes = played(song.bassline, song.grid.clock(start), song.grid.clock(end))
    return tuple((n.at, n.length, n.note, paleness(n.sure)) for n in notes)


def _strokes_of(song: Song, bar: int) -> tuple[object, ...]:
    text = song.figure_of_bar(bar)
    opens = song.grid.bar_range(bar)[0] == song.sections[song.section_of_bar(bar)].start
    return text, song.strummed.of(bar) == text, song.paired_in(bar), opens and bar in song.strummed.hidden
