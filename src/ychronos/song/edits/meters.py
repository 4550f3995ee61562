"""What a user can say of the meter of bars, in the same beats or in others."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

from ...theory.meter import Meter
from ...tongue import tr
from ..grid import Bar, Grid
from ..merge import onto
from ..model import Song
from ..statements import Statement
from ..words import bars_text
from .common import Edited, EditError
from .laying import bars_between, fast_lines, length_of, one_at, plain_bars, with_bars


def set_meter(song: Song, first: int, last: int, meter: Meter) -> Edited:
    """The meter of bars ``first`` .. ``last``. Where it counts the same beats these stay and bar lines follow;
    eighths for quarters (7/8 for 4/4) are twice as many; where a bar is divided otherwise (6/8 for 3/4) each bar
    keeps its place in time and gets the new meter's beats."""
    grid = song.grid
    begin, end = grid.starts[first], grid.starts[last + 1]
    old = grid.bars[first].meter
    sentence = tr(
        "{bars} {word} in {meter}",
        bars=bars_text(grid, first, last),
        word=tr("is") if first == last else tr("are"),
        meter=meter,
    )
    over = Statement("meter", Fraction(begin), Fraction(end), meter)
    same_beats = meter.compound == old.compound and (meter.denominator == 8) == (old.denominator == 8)
    if same_beats and first == last and meter.beats != grid.bars[first].beats:
        # a single bar in another meter is as long as its meter says; what comes after it follows
        stop = min((b for b in fast_lines(grid) if b >= begin + meter.beats), default=None)
        if stop is None:
            raise EditError(tr("Only {beat_count} beats are left here.", beat_count=grid.beat_count - begin))
        after = grid.bars[first + 1].meter if first + 1 < len(grid.bars) else old
        laid = [Bar(meter, meter.beats), *plain_bars(after, begin + meter.beats, stop)]
        bars = [*grid.bars[:first], *laid, *bars_between(grid, stop, grid.beat_count)]
        over = replace(over, until=Fraction(begin + meter.beats))
        new = (over, one_at(begin), length_of(begin, begin + meter.beats))
        return with_bars(song, bars, *new, lead_in=min(grid.lead_in, first)), sentence
    if same_beats:
        laid = plain_bars(meter, begin, end)
        new_ones = [one_at(begin)]
        if grid.bars[first].first > 1:
            laid[0] = replace(laid[0], first=max(1, meter.beats - laid[0].beats + 1))
            new_ones = []
        bars = [*grid.bars[:first], *laid, *grid.bars[last + 1 :]]
        return with_bars(song, bars, over, *new_ones, lead_in=min(grid.lead_in, len(bars) - 1)), sentence
    if not meter.compound and not old.compound:
        made, stop = _other_beats(grid, first, last, meter)
        over = replace(over, until=Fraction(stop))
        return onto(song, made, over, one_at(begin)), sentence
    times: list[float] = []
    bars = []
    stop = begin
    for i, start, bar in grid.walk():
        count = bar.beats
        if first <= i <= last:
            count = max(1, round(bar.beats * meter.beats / bar.meter.beats))
            number = meter.beats - count + 1 if bar.first > 1 else 1
            bars.append(Bar(meter, count, max(1, number), bar.confidence))
            stop += count
        else:
            bars.append(bar)
        times += [grid.clock(start + bar.beats * k / count) for k in range(count)]
    made = Grid(tuple(bars), (*times, grid.times[-1]), grid.lead_in)
    return onto(song, made, replace(over, until=Fraction(stop))), sentence


def _other_beats(grid: Grid, first: int, last: int, meter: Meter) -> tuple[Grid, int]:
    """Bars ``first`` .. ``last`` laid anew in eighths instead of quarters, or the other way round, at the same
    speed of the music; and the beat at which they end."""
    begin, end = grid.starts[first], grid.starts[last + 1]
    step = 0.5 if meter.denominator == 8 else 2.0
    count = max(1, round((end - begin) / step))
    inside = [grid.clock(begin + step * k) for k in range(count)]
    times = (*grid.times[:begin], *inside, *grid.times[end:])
    bars = (*grid.bars[:first], *plain_bars(meter, 0, count), *grid.bars[last + 1 :])
    return Grid(bars, times, min(grid.lead_in, first)), begin + count
