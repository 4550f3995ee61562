"""Folding: the song's bars in rows of a phrase each, as a writer breaks lines.

A row holds a fixed number of bars and is broken at section starts; lead-in bars stand in a row of their
own. The sheet on the screen and every printed chart are made from the same rows.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ..song.grid import Position
from ..song.model import Song
from ..song.words import clock_text, ordinal
from ..theory.notation import key_text
from ..tongue import tr


@dataclass(frozen=True)
class Row:
    """Bars ``first`` .. ``last`` (exclusive) of a section; ``opens`` on the section's first row,
    ``silent`` where a lead-in has no chord in it."""

    first: int
    last: int
    section: int
    opens: bool
    lead_in: bool = False
    silent: bool = False


@dataclass(frozen=True)
class Mark:
    """A chord as it stands in a bar.

    ``offset`` is in beats from the bar's start; ``span`` the index of the chord; ``begins`` is false where
    a chord goes on from the bar before. ``name`` is of what sounds or of the shape, as the song's guitar asks;
    ``shape`` is the second name where both are shown, ``sign`` says that it rings or is cut short.
    """

    offset: Position
    span: int
    name: str
    begins: bool
    shape: str = ""
    sign: str = ""


def fold(song: Song, per_row: int = 4) -> list[Row]:
    """The song's rows, in order; every bar is in exactly one."""
    grid = song.grid
    count = len(grid.bars)
    lead = min(grid.lead_in, count - 1)
    opening = {r.start: i for i in range(len(song.sections)) if (r := song.section_bars(i))}
    rows: list[Row] = []
    if lead:
        silent = all(song.chords[m.span].chord.is_none for bar in range(lead) for m in bar_marks(song, bar))
        rows.append(Row(0, lead, 0, False, lead_in=True, silent=silent))
    opening.setdefault(lead, song.section_of_bar(lead))
    bar = lead
    while bar < count:
        section = song.section_of_bar(bar)
        opens = bar in opening
        stop = bar + 1
        while stop < count and stop - bar < per_row and stop not in opening:
            stop += 1
        rows.append(Row(bar, stop, section, opens))
        bar = stop
    return rows


def stack(song: Song, rows: list[Row]) -> list[Row]:
    """The same rows with the passes of each section under each other, in order of the first one."""
    keys = [s.material or s.name for s in song.sections]
    order = {k: i for i, k in enumerate(dict.fromkeys(keys))}
    return sorted(rows, key=lambda r: -1 if r.lead_in else order[keys[r.section]])


def bar_marks(song: Song, bar: int, ascii_only: bool = False) -> list[Mark]:
    """Chords of a bar in order, the one that goes on from before first."""
    start, end = song.grid.bar_range(bar)
    marks: list[Mark] = []
    for index in range(song.chord_index(start), len(song.chords)):
        begin = song.chords[index].start
        if song.chords.floats[index] >= float(end):
            break
        name, shape = shown_names(song, index, ascii_only)
        sign = song.sign(index, ascii_only) if begin >= start else ""
        marks.append(Mark(max(Fraction(0), begin - start), index, name, begin >= start, shape, sign))
    return marks


def shown_names(song: Song, index: int, ascii_only: bool = False) -> tuple[str, str]:
    """The name of a chord as it is shown, and its shape where both are shown and differ."""
    return song.chord_names(index, ascii_only)


def signs_line(song: Song, ascii_only: bool = False) -> str:
    """What the signs after names mean, for those that occur, or ""."""
    words = {"held": tr("struck once and left to ring"), "stopped": tr("cut short")}
    said = [f"{song.sign(i, ascii_only)} {words[s.articulation]}" for i, s in enumerate(song.chords)
            if s.articulation in words and not s.chord.is_none]  # fmt: skip
    return " · ".join(dict.fromkeys(said))


def guitar_line(song: Song) -> str:
    """What a player needs to know of the guitar, or "" where there is nothing to say."""
    guitar = song.guitar
    if guitar.usual:
        return ""
    names = {
        "sounding": tr("names are what sounds"),
        "shapes": tr("names are shapes"),
        "both": tr("shapes in brackets"),
    }
    strings = "" if guitar.tuning_name in ("standard", guitar.string_names) else f" ({guitar.string_names})"
    text = tr("Guitar: {describe}{strings}", describe=guitar.describe(), strings=strings)
    key = song.main_key()
    if guitar.moved:
        text += tr("; the record is in {key}", key=key_text(key, song.notation))
    if guitar.plain:
        return f"{text}."
    sounds = key_text(guitar.key_moved(key, guitar.moved), song.notation)
    return tr(
        "{text}; sounds in {sounds}, shapes of {key}; {names}.",
        text=text,
        sounds=sounds,
        key=key_text(guitar.shape_key(key), song.notation),
        names=names[guitar.show],
    )


def row_clock(song: Song, row: Row) -> str:
    """The time at which a row begins, as it is shown."""
    return bar_clock(song, row.first)


def bar_clock(song: Song, bar: int) -> str:
    """The time at which a bar begins, as it is shown."""
    return clock_text(song.shown_clock(song.grid.clock(song.grid.starts[bar])))


def section_clock(song: Song, index: int) -> str:
    """The time at which a section's first bar begins, after the count-in, as it is shown."""
    grid = song.grid
    first = grid.bar_at(song.sections[index].start)
    return bar_clock(song, first if index else max(first, min(grid.lead_in, len(grid.bars) - 1)))


def section_title(song: Song, index: int) -> tuple[str, str]:
    """(name, "2nd time" or "" where the name comes only once)."""
    name, title = song.sections[index].name, song.sections[index].title
    which = tr("{ordinal} time", ordinal=ordinal(song.pass_number(index))) if song.passes(name) > 1 else ""
    return title, ", ".join(filter(None, [which, early_words(song, index)]))


def early_words(song: Song, index: int) -> str:
    """``from beat 4 before`` where a section begins inside the bar before its first, else ""."""
    grid, start = song.grid, song.sections[index].start
    bar = grid.bar_at(start)
    offset = start - grid.starts[bar]
    if not index or not offset:
        return ""
    number = f"{float(offset + grid.bars[bar].first):g}"
    return tr("from beat {number} before", number=number)
