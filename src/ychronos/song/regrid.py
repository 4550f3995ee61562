"""A song on another grid: what stands on beats stays on the music it stood on.

Two ways: on the same beats with other bar lines positions stay as they are; on other beats positions follow
the clock and snap to the beat or its usual division.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterable, Sequence
from dataclasses import replace
from fractions import Fraction
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from .grid import Bar, Grid, Position
from .model import ChordSpan, KeySpan, Section, Song

Times = Sequence[float] | NDArray[np.float64]
_Span = TypeVar("_Span", ChordSpan, KeySpan)


def on_new_bars(song: Song, grid: Grid) -> Song:
    """The song on the same beats with other bar lines; sections move to the nearest bar line."""
    return replace(song, grid=grid, sections=snap_sections(song.sections, grid), checked=frozenset())


def snap_sections(sections: Iterable[Section], grid: Grid) -> tuple[Section, ...]:
    """Sections moved to the nearest bar lines; of two on one line the stated one, else the later, stays."""
    lines = grid.starts[:-1]
    by_line: dict[int, Section] = {}
    for section in sections:
        after = min(bisect_left(lines, section.start), len(lines) - 1)
        before = max(0, after - 1)
        line = lines[before] if section.start - lines[before] <= lines[after] - section.start else lines[after]
        if line in by_line and by_line[line].stated and not section.stated:
            continue
        by_line[line] = section
    first = min(by_line)
    by_line.setdefault(0, by_line.pop(first))
    return tuple(replace(by_line[s], start=Fraction(s)) for s in sorted(by_line))


def by_clock(song: Song, grid: Grid) -> Song:
    """The song on a grid with other beats; every position goes to the place that sounds at the same time."""
    old = song.grid

    def move(position: Position) -> Position:
        if position <= 0:
            return Fraction(0)
        place = grid.position(old.clock(position))
        bar = grid.bars[grid.bar_at(place)]
        steps = bar.meter.division
        return min(max(Fraction(0), Fraction(round(place * steps), steps)), grid.end)

    def moved(spans: tuple[_Span, ...]) -> tuple[_Span, ...]:
        out: dict[Position, _Span] = {}
        for span in spans:
            start = move(span.start)
            rival = out.get(start)
            if start < grid.end and not (rival is not None and rival.stated and not span.stated):
                out[start] = replace(span, start=start)
        out.setdefault(Fraction(0), replace(spans[0], start=Fraction(0)))
        return tuple(out[s] for s in sorted(out))

    sections = snap_sections((replace(s, start=move(s.start)) for s in song.sections), grid)
    return replace(
        song,
        grid=grid,
        chords=moved(song.chords),
        keys=moved(song.keys),
        sections=sections,
        marks=tuple(replace(m, at=move(m.at)) for m in song.marks),
        checked=frozenset(),
    )


def nearest_beat(times: Times, seconds: float) -> int:
    """Index of the beat nearest to a time; ``times`` without the end."""
    i = bisect_left(times, seconds)
    if i <= 0:
        return 0
    if i >= len(times):
        return len(times) - 1
    return i if times[i] - seconds < seconds - times[i - 1] else i - 1


def bars_by_clock(old: Grid, times: Sequence[float], stated: Iterable[float]) -> Grid:
    """Old bar lines on other beats: each on the beat nearest to where it was. ``times`` ends with the end;
    ``stated`` are the times of stated beats. A bar whose number of beats came out otherwise than its meter
    says keeps the meter and is odd."""
    beats = times[:-1]
    lines: dict[int, Bar] = {}
    for _, start, bar in old.walk():
        beat = nearest_beat(beats, old.clock(start))
        if beat not in lines or bar.stated:
            lines[beat] = bar
    first = min(lines)
    lines.setdefault(0, lines.pop(first))
    starts = sorted(lines)
    bars: list[Bar] = []
    for start, stop in zip(starts, [*starts[1:], len(beats)], strict=True):
        bar = lines[start]
        count = stop - start
        kept = bar.grouping if sum(bar.grouping) == count else ()
        pick_up = start == 0 and bar.first > 1 and count < bar.meter.beats
        first_number = bar.meter.beats - count + 1 if pick_up else 1
        same = bar.length_stated and count == bar.beats
        bars.append(replace(bar, beats=count, first=first_number, grouping=kept, length_stated=same))
    said = frozenset(nearest_beat(beats, s) for s in stated)
    return Grid(tuple(bars), tuple(times), min(old.lead_in, len(bars) - 1), said)
