"""What a user can say of bars: where one is, how many beats a bar has, how they are grouped.

What is said becomes a statement; around it plain bars are laid, and the analysis decides the rest again from its evidence
when there is some. All that stands on the grid moves along (:mod:`..track`).
"""

from __future__ import annotations

from dataclasses import replace

from ...theory.meter import grouping_text
from ...tongue import tr
from .. import statements as said
from ..grid import Bar
from ..model import Song
from ..statements import Statement
from ..words import bars_text, beats_text
from .common import Edited, EditError, told
from .laying import bars_between, check_beat, fast_lines, length_of, one_at, plain_bars, with_bars


def one_is_here(song: Song, beat: int) -> Edited:
    """State a bar line at a beat. Bar lines on either side, up to the nearest stated ones, follow it in the
    usual meter; what is left over becomes a short bar. Where a bar begins already, nothing else changes."""
    grid = song.grid
    check_beat(grid, beat)
    index = grid.bar_at(beat)
    words = tr("one is at {shown_clock:.2f} s", shown_clock=song.shown_clock(grid.clock(beat)))
    inside = grid.bars[index]
    if grid.starts[index] == beat and inside.first == 1:
        return told(song, words, one_at(beat))
    if inside.length_stated and grid.starts[index] != beat:  # the newer word holds
        loose = replace(inside, length_stated=False)
        grid = replace(grid, bars=tuple(loose if b is inside else b for b in grid.bars))
    borders = [b for b in fast_lines(grid) if b != beat]
    begin = max((b for b in borders if b < beat), default=0)
    end = min(b for b in borders if b > beat)
    meter = inside.meter
    before = plain_bars(meter, begin, beat, from_end=True, pick_up=begin == 0)
    after = plain_bars(meter, beat, end)
    at_begin = grid.bars[grid.bar_at(begin)]
    if before and at_begin.stated and grid.starts[grid.bar_at(begin)] == begin:
        before[0] = replace(before[0], first=1)
    bars = [*bars_between(grid, 0, begin), *before, *after, *bars_between(grid, end, grid.beat_count)]
    return with_bars(song, bars, one_at(beat)), words


def shift_ones(song: Song, by: int) -> Edited:
    """All bar lines a beat later (``by`` 1) or earlier (-1)."""
    grid = song.grid
    # the grid's first beat is a bar line only where it is a one
    lines = grid.starts[:-1] if grid.bars[0].first == 1 else grid.starts[1:-1]
    starts = sorted({0, *(s + by for s in lines if 0 < s + by < grid.beat_count)})
    bars: list[Bar] = []
    for start, stop in zip(starts, [*starts[1:], grid.beat_count], strict=True):
        meter = grid.bars[grid.bar_at(max(0, start - by))].meter
        count = stop - start
        pick_up = start == 0 and count < meter.beats
        bars.append(Bar(meter, count, meter.beats - count + 1 if pick_up else 1))
    first = 1 if bars[0].first > 1 and len(bars) > 1 else 0
    # what was said of bar lines before is taken along; it was said of the same ones
    shifted = [replace(s, at=s.at + by, until=s.until + by if s.until is not None else None)
               for s in said.of(song.statements, "one", "length")
               if s.at + by >= 0 and s.end + by < grid.end]  # fmt: skip
    loose = replace(song, statements=tuple(s for s in song.statements if s.kind not in ("one", "length")))
    new = with_bars(loose, bars, *shifted, one_at(starts[first]))
    return new, tr("ones a beat {word}", word=tr("later") if by > 0 else tr("earlier"))


def split_bar(song: Song, beat: int) -> Edited:
    """Two bars from one: a bar line at a beat inside it; other bars stay."""
    grid = song.grid
    index = grid.bar_at(beat)
    start, bar = grid.starts[index], grid.bars[index]
    if not start < beat < start + bar.beats:
        raise EditError(tr("Put the caret on a beat inside the bar, where its second half begins."))
    left = replace(bar, beats=beat - start, grouping=())
    right = replace(bar, beats=start + bar.beats - beat, first=1, grouping=())
    bars = [*grid.bars[:index], left, right, *grid.bars[index + 1 :]]
    new = (one_at(beat), length_of(start, beat), length_of(beat, start + bar.beats))
    lead = grid.lead_in + (index < grid.lead_in)
    return with_bars(song, bars, *new, lead_in=lead), tr("bar {number} split", number=grid.number(index))


def join_bars(song: Song, first: int, last: int) -> Edited:
    """One bar from several."""
    grid = song.grid
    if last <= first:
        first, last = first, first + 1
    if last >= len(grid.bars):
        raise EditError(tr("There is no bar after this one to join it with."))
    beats = sum(b.beats for b in grid.bars[first : last + 1])
    if beats > 32:
        raise EditError(tr("A bar can have 32 beats at most."))
    joined = replace(grid.bars[first], beats=beats, grouping=())
    bars = [*grid.bars[:first], joined, *grid.bars[last + 1 :]]
    new = with_bars(song, bars, length_of(grid.starts[first], grid.starts[last + 1]), lead_in=min(grid.lead_in, first))
    return new, tr("{bars} joined", bars=bars_text(grid, first, last))


def set_length(song: Song, index: int, beats: int) -> Edited:
    """This bar has so many beats; bars after it, up to the next stated one, follow."""
    grid = song.grid
    start, bar = grid.starts[index], grid.bars[index]
    if not 1 <= beats <= 32:
        raise EditError(tr("A bar has 1 to 32 beats."))
    end = min((b for b in fast_lines(grid) if b >= start + beats), default=None)
    if end is None:
        raise EditError(tr("Only {beat_count} beats are left here.", beat_count=grid.beat_count - start))
    first = bar.meter.beats - beats + 1 if bar.first > 1 and beats < bar.meter.beats else 1
    eighths = bar.meter.denominator == 8 and not bar.meter.compound
    stated = Bar(bar.meter.with_beats(beats) if eighths else bar.meter, beats, first)
    bars = [
        *grid.bars[:index],
        stated,
        *plain_bars(bar.meter, start + beats, end),
        *bars_between(grid, end, grid.beat_count),
    ]
    new = [length_of(start, start + beats)] + ([one_at(start)] if first == 1 else [])
    words = tr("bar {number} has {beats}", number=grid.number(index), beats=beats_text(beats))
    return with_bars(song, bars, *new, lead_in=min(grid.lead_in, len(bars) - 1)), words


def set_grouping(song: Song, first: int, last: int, grouping: tuple[int, ...]) -> Edited:
    """How the beats of bars are grouped, as 2+2+3; bars with another number of beats are left as they are."""
    grid = song.grid
    fitting = [i for i in range(first, last + 1) if grid.bars[i].beats == sum(grouping)]
    if not fitting:
        raise EditError(
            tr(
                "{grouping} makes {grouping2} beats; no selected bar has so many.",
                grouping=grouping_text(grouping),
                grouping2=sum(grouping),
            )
        )
    new = [Statement("grouping", *grid.bar_range(i), grouping) for i in fitting]
    return told(song, tr("grouped {grouping}", grouping=grouping_text(grouping)), *new)
