"""Where everything on the sheet is: rows and bars to pixels and back. No painting, no Qt.

Lengths are in device-independent pixels; y runs down from the top of the first row.
"""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass
from fractions import Fraction

from ...chart.rows import Row, fold, stack
from ...song.grid import Position
from ...song.model import Song

LABEL = 148.0  # column of section names
RIGHT = 26.0
TOP = 18.0
ROW_HEIGHT = 104.0
LEAD_HEIGHT = 84.0
SECTION_GAP = 22.0
MIN_COLUMN = 90.0
WORDS_HEIGHT = 14.0  # room for words under a row that has some, and for notes
STROKES = 22.0  # room for strokes under a row
STRING = 10.0  # between two lines of tablature
TAB_OVER, TAB_UNDER = 9.0, 11.0  # room over its first line and under its last
DIAGRAM = 62.0  # height of the strip of diagrams above a row
SNAP = Fraction(1, 2)


@dataclass(frozen=True)
class BarBox:
    bar: int
    x: float
    width: float
    beats: int
    worded: bool = False  # its row has words, so that notes go below them
    lower: float = 0.0  # by how much words and notes go lower, unscaled: strokes and tablature stand there
    strokes: bool = False
    degrees: bool = False  # in the tablature, instead of frets
    tab: float = 0.0  # unscaled y of the highest string of the tablature, 0 where there is none

    def x_of(self, offset: float) -> float:
        """x of a beat offset within the bar."""
        return self.x + self.width * offset / self.beats


@dataclass(frozen=True)
class RowBox:
    index: int
    row: Row
    y: float
    height: float
    bars: tuple[BarBox, ...]
    above: float = 0.0  # room for diagrams over it: y is where its bars begin

    @property
    def beat_width(self) -> float:
        return self.bars[0].width / self.bars[0].beats

    @property
    def right(self) -> float:
        last = self.bars[-1]
        return last.x + last.width


class SheetGeometry:
    """Boxes of all rows of a song at a width and zoom. A beat of the usual meter has the same width
    everywhere, so that a bar with fewer beats is as much shorter; only a row with more beats than fit is narrower."""

    def __init__(
        self,
        song: Song,
        width: float,
        zoom: float = 1.0,
        per_row: int = 4,
        stacked: bool = False,
        diagrams: bool = False,
        strokes: bool = False,
        tabs: bool = False,
        degrees: bool = False,
    ) -> None:
        self.song, self.zoom, self.per_row = song, zoom, per_row
        room = max(MIN_COLUMN * per_row, width - LABEL - RIGHT)
        column = room * zoom / per_row
        usual = song.grid.usual_meter().beats
        usual_width = column / usual
        scale = min(1.7, max(0.62, zoom**0.5))
        self.scale = scale
        rows: list[RowBox] = []
        y = TOP
        folded = fold(song, per_row)
        for index, row in enumerate(stack(song, folded) if stacked else folded):
            if row.opens and index:
                y += SECTION_GAP * scale
            x = LABEL
            boxes = []
            lower = struck = STROKES if strokes and not row.silent else 0.0
            tab = 0.0
            if any(song.line_of_bar(bar) for bar in range(row.first, row.last)) or (tabs and not row.silent):
                tab = (LEAD_HEIGHT if row.silent else ROW_HEIGHT) - 4 + lower + TAB_OVER
                lower += TAB_OVER + (len(song.guitar.strings) - 1) * STRING + TAB_UNDER
            worded = any(song.lyrics_of_bar(bar) for bar in range(row.first, row.last))
            most = sum(song.grid.bars[bar].beats for bar in range(row.first, row.last))
            wide = min(usual_width, room * zoom / max(1, most))
            for bar in range(row.first, row.last):
                beats = song.grid.bars[bar].beats
                boxes.append(BarBox(bar, x, beats * wide, beats, worded, lower, bool(struck), degrees, tab))
                x += beats * wide
            height = (LEAD_HEIGHT if row.silent else ROW_HEIGHT) * scale
            noted = any(song.notes_of_bar(bar) for bar in range(row.first, row.last))
            height += ((worded + noted) * WORDS_HEIGHT + lower) * scale
            above = DIAGRAM * scale if diagrams and not row.silent else 0.0
            y += above
            rows.append(RowBox(index, row, y, height, tuple(boxes), above))
            y += height
        self.rows = rows
        self.height = y + 40.0
        self.width = max(r.right for r in rows) + RIGHT
        self._tops = [r.y - r.above for r in rows]
        self._row_of = [0] * len(song.grid.bars)
        for row_box in rows:
            for bar in range(row_box.row.first, row_box.row.last):
                self._row_of[bar] = row_box.index

    def rows_between(self, top: float, bottom: float) -> list[RowBox]:
        """Rows that show between two heights."""
        first = max(0, bisect_right(self._tops, top) - 1)
        last = bisect_right(self._tops, bottom)
        return self.rows[first:last]

    def row_at(self, y: float) -> RowBox | None:
        """The row that a height lies in, diagrams over it included."""
        row = self.rows[max(0, bisect_right(self._tops, y) - 1)]
        return row if row.y - row.above <= y < row.y + row.height else None

    def row_of_bar(self, bar: int) -> RowBox:
        return self.rows[self._row_of[bar]]

    def box_of_bar(self, bar: int) -> tuple[RowBox, BarBox]:
        row = self.row_of_bar(bar)
        return row, row.bars[bar - row.row.first]

    def point(self, position: Position | float) -> tuple[RowBox, float]:
        """Row and x of a position."""
        bar = self.song.grid.bar_at(position)
        row, box = self.box_of_bar(bar)
        return row, box.x_of(float(position) - self.song.grid.starts[bar])

    def hit(self, x: float, y: float) -> tuple[RowBox, BarBox, float] | None:
        """(row, bar, beat offset in the bar) under a point, or None."""
        row = self.row_at(y)
        if row is None:
            return None
        for box in row.bars:
            if box.x <= x < box.x + box.width:
                return row, box, (x - box.x) / box.width * box.beats
        return None

    def snapped(self, box: BarBox, offset: float) -> Position:
        """The beat, or the half beat after it, that holds an offset."""
        steps = int(offset / float(SNAP))
        steps = max(0, min(int(box.beats / SNAP) - 1, steps))
        return Fraction(self.song.grid.starts[box.bar]) + steps * SNAP
