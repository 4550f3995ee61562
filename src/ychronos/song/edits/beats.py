"""What a user can say of single beats, and that they lie between those that are counted."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from statistics import median

from ...tongue import tr
from ..barlines import bars_by_clock
from ..grid import Bar, Grid
from ..merge import onto
from ..model import Song
from ..statements import Statement
from ..words import bars_text
from .common import Edited, EditError
from .laying import CLOSEST, beats_at, check_apart, check_beat, length_of


def move_beat(song: Song, beat: int, seconds: float) -> Edited:
    """State when a beat is; what stands on it moves along."""
    grid = song.grid
    check_beat(grid, beat)
    low = grid.times[beat - 1] + CLOSEST if beat else 0.0
    high = grid.times[beat + 1] - CLOSEST
    if high <= low:
        raise EditError(tr("There is no room between the beats beside it."))
    times = list(grid.times)
    times[beat] = min(max(seconds, low), high)
    new = onto(song, replace(grid, times=tuple(times)), Statement("beat", Fraction(beat), value=times[beat]))
    return new, tr("beat at {shown_clock:.2f} s", shown_clock=song.shown_clock(times[beat]))


def between_beats(song: Song, first: int, last: int) -> Edited:
    """The beats of bars ``first`` .. ``last`` lie halfway between where they were: an off-beat was taken for
    the beat. They are stated from then on, unless it is the whole song."""
    grid = song.grid
    begin, end = grid.starts[first], grid.starts[last + 1]
    halves = [(grid.times[i] + grid.times[i + 1]) / 2 for i in range(begin, end)]
    usual = median(b - a for a, b in zip(grid.times, grid.times[1:], strict=False))
    whole = begin == 0 and end == grid.beat_count
    if not whole and end < grid.beat_count and grid.times[end] - halves[-1] < 0.7 * usual:
        halves.pop()
    if not halves:
        raise EditError(tr("There is no room for a beat between these."))
    outside = [t for i, t in enumerate(grid.times[:-1]) if not begin <= i < end]
    if begin and halves[0] - grid.times[begin - 1] > 1.3 * usual:
        halves.insert(0, (halves[0] + grid.times[begin - 1]) / 2)
    times = sorted([*outside, *halves])
    check_apart(times)
    made = bars_by_clock(grid, [*times, max(grid.times[-1], times[-1] + 0.5 * usual)])
    where = tr("all beats") if whole else tr("beats of {bars}", bars=bars_text(grid, first, last))
    return onto(song, made, *([] if whole else beats_at(made, halves))), tr("{where} half a beat later", where=where)


def insert_beat(song: Song, beat: int) -> Edited:
    """A beat more, halfway between a beat and the next; the bar gets longer."""
    grid = song.grid
    check_beat(grid, beat)
    a, b = grid.times[beat], grid.times[beat + 1]
    if b - a < 2 * CLOSEST:
        raise EditError(tr("The beats are too close here for one more between them."))
    times = (*grid.times[: beat + 1], (a + b) / 2, *grid.times[beat + 1 :])
    index = grid.bar_at(beat)
    bar = grid.bars[index]
    longer = replace(bar, beats=bar.beats + 1, first=max(1, bar.first - 1), grouping=())
    made = Grid((*grid.bars[:index], longer, *grid.bars[index + 1 :]), times, grid.lead_in)
    start = grid.starts[index]
    new = onto(song, made, length_of(start, start + longer.beats))
    return new, tr("a beat more in bar {number}", number=grid.number(index))


def remove_beat(song: Song, beat: int) -> Edited:
    """A beat less; the bar gets shorter."""
    grid = song.grid
    if grid.beat_count < 3:
        raise EditError(tr("A song keeps at least two beats."))
    check_beat(grid, beat)
    times = (*grid.times[:beat], *grid.times[beat + 1 :])
    index = grid.bar_at(beat)
    bar = grid.bars[index]
    bars = list(grid.bars)
    lead = grid.lead_in
    new: list[Statement] = []
    if bar.beats == 1:
        del bars[index]
        lead -= index < lead
    else:
        number = bar.first + 1 if bar.first > 1 else 1
        bars[index] = replace(bar, beats=bar.beats - 1, first=number, grouping=())
        if index:
            new = [length_of(grid.starts[index], grid.starts[index] + bar.beats - 1)]
    made = Grid(tuple(bars), times, lead)
    return onto(song, made, *new), tr("a beat less in bar {number}", number=grid.number(index))


def lengthen_pick_up(song: Song) -> Edited:
    """One beat more before the first, as long as the first is."""
    grid = song.grid
    start = grid.times[0] - (grid.times[1] - grid.times[0])
    if start < 0:
        raise EditError(tr("The record begins here; there is no room for another beat."))
    bar = grid.bars[0]
    if bar.first > 1:
        bars: tuple[Bar, ...] = (replace(bar, beats=bar.beats + 1, first=bar.first - 1, grouping=()), *grid.bars[1:])
        lead = grid.lead_in
    else:
        bars, lead = (Bar(bar.meter, 1, bar.meter.beats), *grid.bars), grid.lead_in + 1
    new = onto(song, Grid(bars, (start, *grid.times), lead), Statement("beat", Fraction(0), value=start))
    return new, tr("the count begins at {shown_clock:.2f} s", shown_clock=song.shown_clock(start))
