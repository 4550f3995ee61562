"""The chart as plain tables: CSV with a row for each chord, and label text (start, end, name) for chords or sections.

Times are seconds of the recording. Cells that a spreadsheet could take for a formula are put in quotes that it reads as text.
"""

from __future__ import annotations

import csv
import io

from ..song.model import Song

FORMULA = ("=", "+", "-", "@", "\t", "\r")


def neutral(cell: str) -> str:
    """A cell that no spreadsheet calculates."""
    return f"'{cell}" if cell.startswith(FORMULA) else cell


def render_csv(song: Song) -> bytes:
    """start, end, bar, beat, section, chord, shape, how sure, whether stated."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(["start", "end", "bar", "beat", "section", "chord", "shape", "sure", "stated"])
    grid = song.grid
    for i, span in enumerate(song.chords):
        a, b = song.chord_range(i)
        bar = grid.bar_at(a)
        beat = float(a - grid.starts[bar]) + grid.bars[bar].first
        section = song.sections[song.section_index(a)].title
        shape = song.shape_name(i, True) if not song.guitar.plain else ""
        cells = [
            f"{grid.clock(a):.3f}", f"{grid.clock(b):.3f}", str(grid.number(bar)), f"{beat:g}", section,
            song.sounding_name(i, True), shape, f"{span.confidence:.2f}", "yes" if span.stated else "no",
        ]  # fmt: skip
        # numbers of bars before the first are negative: they are numbers, and stay so
        table.writerow([c if n in (0, 1, 2, 3, 7) else neutral(c) for n, c in enumerate(cells)])
    return out.getvalue().encode()


def render_labels(song: Song) -> bytes:
    """A line for each chord: start, end, name, with tabs between."""
    rows = []
    for i in range(len(song.chords)):
        a, b = (song.grid.clock(p) for p in song.chord_range(i))
        rows.append(f"{max(0.0, a):.3f}\t{max(0.0, b):.3f}\t{song.sounding_name(i, True)}\n")
    return "".join(rows).encode()
