"""What a user can say about the count: beats, bar lines, meters, tempo.

Small functions like those of ``edits``: each returns the new song and a sentence. What is said becomes a
statement (of a beat, a one, a length, a meter); around it this module lays plain bars, and the analysis decides the
rest again from its evidence when there is some. All that stands on the grid moves along (:mod:`track`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from statistics import median

from ..theory.meter import Meter, grouping_text
from . import statements as said
from .edits import Edited, EditError, told
from .grid import Bar, Grid
from .merge import onto
from .model import Song
from .regrid import bars_by_clock, nearest_beat
from .statements import Statement

CLOSEST = 0.08  # seconds that two beats are apart at least
LEVELS = (Fraction(1, 3), Fraction(1, 2), Fraction(2, 3), Fraction(3, 2), Fraction(2), Fraction(3))
FEWEST_TAPS = 3


# ---------------------------------------------------------------- bar lines


def _check_beat(grid: Grid, beat: int) -> None:
    if not 0 <= beat < grid.beat_count:
        raise EditError("There is no beat at this place.")


def _borders(grid: Grid) -> list[int]:
    """Beats at which bar lines stand fast: stated ones, and both ends of bars whose length is stated."""
    fast = {0, grid.beat_count}
    for _, start, bar in grid.walk():
        if bar.stated or bar.length_stated:
            fast.add(start)
        if bar.length_stated:
            fast.add(start + bar.beats)
    return sorted(fast)


def _laid(meter: Meter, first: int, last: int, from_end: bool = False, pick_up: bool = False) -> list[Bar]:
    """Plain bars over beats first .. last; what is left over is a short bar at the far end, or a pick-up."""
    whole, rest = divmod(last - first, meter.beats)
    bars = [Bar(meter, meter.beats)] * whole
    if not rest:
        return bars
    if from_end:
        return [Bar(meter, rest, meter.beats - rest + 1 if pick_up else 1), *bars]
    return [*bars, Bar(meter, rest)]


def _kept(grid: Grid, first: int, last: int) -> list[Bar]:
    return [b for _, s, b in grid.walk() if first <= s < last]


def _with_bars(song: Song, bars: Sequence[Bar], *new: Statement, lead_in: int | None = None) -> Song:
    """The song on the same beats with other bars, and newer statements."""
    lead = (1 if bars[0].first > 1 else 0) if lead_in is None else lead_in
    grid = replace(song.grid, bars=tuple(bars), lead_in=lead)
    return onto(song, grid, *new, gone=lambda s: (s.kind == "length" and not _fits(grid, s)) or _against(s, new))


def _fits(grid: Grid, s: Statement) -> bool:
    """Whether a stated length is that of a bar of the grid."""
    bar = grid.bar_at(s.at)
    return grid.bar_range(bar) == (s.at, s.until)


def _against(s: Statement, new: Sequence[Statement]) -> bool:
    """Whether a stated one lies inside a bar whose length is stated now."""
    return s.kind == "one" and any(n.kind == "length" and n.at < s.at < n.end for n in new)


def _one(beat: int) -> Statement:
    return Statement("one", Fraction(beat))


def _length(first: int, last: int) -> Statement:
    return Statement("length", Fraction(first), Fraction(last))


def _beats(grid: Grid, times: Sequence[float]) -> list[Statement]:
    """Beats stated at times that are beats of the grid."""
    beats = [nearest_beat(grid.times[:-1], t) for t in times]
    return [Statement("beat", Fraction(b), value=grid.times[b]) for b in beats]


def one_is_here(song: Song, beat: int) -> Edited:
    """State a bar line at a beat. Bar lines on either side, up to the nearest stated ones, follow it in the
    usual meter; what is left over becomes a short bar. Where a bar begins already, nothing else changes."""
    grid = song.grid
    _check_beat(grid, beat)
    index = grid.bar_at(beat)
    words = f"one is at {song.shown_clock(grid.clock(beat)):.2f} s"
    inside = grid.bars[index]
    if grid.starts[index] == beat and inside.first == 1:
        return told(song, words, _one(beat))
    if inside.length_stated and grid.starts[index] != beat:  # the newer word holds
        loose = replace(inside, length_stated=False)
        grid = replace(grid, bars=tuple(loose if b is inside else b for b in grid.bars))
    borders = [b for b in _borders(grid) if b != beat]
    begin = max((b for b in borders if b < beat), default=0)
    end = min(b for b in borders if b > beat)
    meter = inside.meter
    before = _laid(meter, begin, beat, from_end=True, pick_up=begin == 0)
    after = _laid(meter, beat, end)
    at_begin = grid.bars[grid.bar_at(begin)]
    if before and at_begin.stated and grid.starts[grid.bar_at(begin)] == begin:
        before[0] = replace(before[0], first=1)
    bars = [*_kept(grid, 0, begin), *before, *after, *_kept(grid, end, grid.beat_count)]
    return _with_bars(song, bars, _one(beat)), words


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
    new = _with_bars(loose, bars, *shifted, _one(starts[first]))
    return new, f"ones a beat {'later' if by > 0 else 'earlier'}"


def split_bar(song: Song, beat: int) -> Edited:
    """Two bars from one: a bar line at a beat inside it; other bars stay."""
    grid = song.grid
    index = grid.bar_at(beat)
    start, bar = grid.starts[index], grid.bars[index]
    if not start < beat < start + bar.beats:
        raise EditError("Put the caret on a beat inside the bar, where its second half begins.")
    left = replace(bar, beats=beat - start, grouping=())
    right = replace(bar, beats=start + bar.beats - beat, first=1, grouping=())
    bars = [*grid.bars[:index], left, right, *grid.bars[index + 1 :]]
    new = (_one(beat), _length(start, beat), _length(beat, start + bar.beats))
    lead = grid.lead_in + (index < grid.lead_in)
    return _with_bars(song, bars, *new, lead_in=lead), f"bar {grid.number(index)} split"


def join_bars(song: Song, first: int, last: int) -> Edited:
    """One bar from several."""
    grid = song.grid
    if last <= first:
        first, last = first, first + 1
    if last >= len(grid.bars):
        raise EditError("There is no bar after this one to join it with.")
    beats = sum(b.beats for b in grid.bars[first : last + 1])
    if beats > 32:
        raise EditError("A bar can have 32 beats at most.")
    joined = replace(grid.bars[first], beats=beats, grouping=())
    bars = [*grid.bars[:first], joined, *grid.bars[last + 1 :]]
    new = _with_bars(song, bars, _length(grid.starts[first], grid.starts[last + 1]), lead_in=min(grid.lead_in, first))
    return new, f"bars {grid.number(first)} to {grid.number(last)} joined"


def set_length(song: Song, index: int, beats: int) -> Edited:
    """This bar has so many beats; bars after it, up to the next stated one, follow."""
    grid = song.grid
    start, bar = grid.starts[index], grid.bars[index]
    if not 1 <= beats <= 32:
        raise EditError("A bar has 1 to 32 beats.")
    end = min((b for b in _borders(grid) if b >= start + beats), default=None)
    if end is None:
        raise EditError(f"Only {grid.beat_count - start} beats are left here.")
    first = bar.meter.beats - beats + 1 if bar.first > 1 and beats < bar.meter.beats else 1
    eighths = bar.meter.denominator == 8 and not bar.meter.compound
    stated = Bar(bar.meter.with_beats(beats) if eighths else bar.meter, beats, first)
    bars = [*grid.bars[:index], stated, *_laid(bar.meter, start + beats, end), *_kept(grid, end, grid.beat_count)]
    new = [_length(start, start + beats)] + ([_one(start)] if first == 1 else [])
    words = f"bar {grid.number(index)} has {beats} beat{'s' if beats > 1 else ''}"
    return _with_bars(song, bars, *new, lead_in=min(grid.lead_in, len(bars) - 1)), words


def set_meter(song: Song, first: int, last: int, meter: Meter) -> Edited:
    """The meter of bars ``first`` .. ``last``. Where it counts the same beats these stay and bar lines follow;
    eighths for quarters (7/8 for 4/4) are twice as many; where a bar is divided otherwise (6/8 for 3/4) each bar
    keeps its place in time and gets the new meter's beats."""
    grid = song.grid
    begin, end = grid.starts[first], grid.starts[last + 1]
    old = grid.bars[first].meter
    sentence = f"bars {grid.number(first)} to {grid.number(last)} are in {meter}"
    if first == last:
        sentence = f"bar {grid.number(first)} is in {meter}"
    over = Statement("meter", Fraction(begin), Fraction(end), meter)
    same_beats = meter.compound == old.compound and (meter.denominator == 8) == (old.denominator == 8)
    if same_beats and first == last and meter.beats != grid.bars[first].beats:
        # a single bar in another meter is as long as its meter says; what comes after it follows
        stop = min((b for b in _borders(grid) if b >= begin + meter.beats), default=None)
        if stop is None:
            raise EditError(f"Only {grid.beat_count - begin} beats are left here.")
        after = grid.bars[first + 1].meter if first + 1 < len(grid.bars) else old
        laid = [Bar(meter, meter.beats), *_laid(after, begin + meter.beats, stop)]
        bars = [*grid.bars[:first], *laid, *_kept(grid, stop, grid.beat_count)]
        over = replace(over, until=Fraction(begin + meter.beats))
        new = (over, _one(begin), _length(begin, begin + meter.beats))
        return _with_bars(song, bars, *new, lead_in=min(grid.lead_in, first)), sentence
    if same_beats:
        laid = _laid(meter, begin, end)
        new_ones = [_one(begin)]
        if grid.bars[first].first > 1:
            laid[0] = replace(laid[0], first=max(1, meter.beats - laid[0].beats + 1))
            new_ones = []
        bars = [*grid.bars[:first], *laid, *grid.bars[last + 1 :]]
        return _with_bars(song, bars, over, *new_ones, lead_in=min(grid.lead_in, len(bars) - 1)), sentence
    if not meter.compound and not old.compound:
        made, stop = _other_beats(grid, first, last, meter)
        over = replace(over, until=Fraction(stop))
        return onto(song, made, over, _one(begin)), sentence
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
    bars = (*grid.bars[:first], *_laid(meter, 0, count), *grid.bars[last + 1 :])
    return Grid(bars, times, min(grid.lead_in, first)), begin + count


def set_grouping(song: Song, first: int, last: int, grouping: tuple[int, ...]) -> Edited:
    """How the beats of bars are grouped, as 2+2+3; bars with another number of beats are left as they are."""
    grid = song.grid
    fitting = [i for i in range(first, last + 1) if grid.bars[i].beats == sum(grouping)]
    if not fitting:
        raise EditError(f"{grouping_text(grouping)} makes {sum(grouping)} beats; no selected bar has so many.")
    new = [Statement("grouping", *grid.bar_range(i), grouping) for i in fitting]
    return told(song, f"grouped {grouping_text(grouping)}", *new)


# ---------------------------------------------------------------- beats


def move_beat(song: Song, beat: int, seconds: float) -> Edited:
    """State when a beat is; what stands on it moves along."""
    grid = song.grid
    _check_beat(grid, beat)
    low = grid.times[beat - 1] + CLOSEST if beat else 0.0
    high = grid.times[beat + 1] - CLOSEST
    if high <= low:
        raise EditError("There is no room between the beats beside it.")
    times = list(grid.times)
    times[beat] = min(max(seconds, low), high)
    new = onto(song, replace(grid, times=tuple(times)), Statement("beat", Fraction(beat), value=times[beat]))
    return new, f"beat at {song.shown_clock(times[beat]):.2f} s"


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
    outside = [t for i, t in enumerate(grid.times[:-1]) if not begin <= i < end]
    if begin and halves[0] - grid.times[begin - 1] > 1.3 * usual:
        halves.insert(0, (halves[0] + grid.times[begin - 1]) / 2)
    times = sorted([*outside, *halves])
    made = bars_by_clock(grid, [*times, max(grid.times[-1], times[-1] + 0.5 * usual)])
    where = "all beats" if whole else f"beats of bars {grid.number(first)} to {grid.number(last)}"
    return onto(song, made, *([] if whole else _beats(made, halves))), f"{where} half a beat later"


def insert_beat(song: Song, beat: int) -> Edited:
    """A beat more, halfway between a beat and the next; the bar gets longer."""
    grid = song.grid
    _check_beat(grid, beat)
    a, b = grid.times[beat], grid.times[beat + 1]
    if b - a < 2 * CLOSEST:
        raise EditError("The beats are too close here for one more between them.")
    times = (*grid.times[: beat + 1], (a + b) / 2, *grid.times[beat + 1 :])
    index = grid.bar_at(beat)
    bar = grid.bars[index]
    longer = replace(bar, beats=bar.beats + 1, first=max(1, bar.first - 1), grouping=())
    made = Grid((*grid.bars[:index], longer, *grid.bars[index + 1 :]), times, grid.lead_in)
    start = grid.starts[index]
    new = onto(song, made, _length(start, start + longer.beats))
    return new, f"a beat more in bar {grid.number(index)}"


def remove_beat(song: Song, beat: int) -> Edited:
    """A beat less; the bar gets shorter."""
    grid = song.grid
    if grid.beat_count < 3:
        raise EditError("A song keeps at least two beats.")
    _check_beat(grid, beat)
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
            new = [_length(grid.starts[index], grid.starts[index] + bar.beats - 1)]
    made = Grid(tuple(bars), times, lead)
    return onto(song, made, *new), f"a beat less in bar {grid.number(index)}"


def lengthen_pick_up(song: Song) -> Edited:
    """One beat more before the first, as long as the first is."""
    grid = song.grid
    start = grid.times[0] - (grid.times[1] - grid.times[0])
    if start < 0:
        raise EditError("The record begins here; there is no room for another beat.")
    bar = grid.bars[0]
    if bar.first > 1:
        bars: tuple[Bar, ...] = (replace(bar, beats=bar.beats + 1, first=bar.first - 1), *grid.bars[1:])
        lead = grid.lead_in
    else:
        bars, lead = (Bar(bar.meter, 1, bar.meter.beats), *grid.bars), grid.lead_in + 1
    new = onto(song, Grid(bars, (start, *grid.times), lead), Statement("beat", Fraction(0), value=start))
    return new, f"the count begins at {song.shown_clock(start):.2f} s"


# ---------------------------------------------------------------- tempo


def recount(song: Song, factor: Fraction, anchor: int | None = None) -> Song:
    """The song counted ``factor`` times as fast, on beats spaced evenly between the old ones. The beat
    ``anchor``, the one that bar one begins on if it is not given, stays a beat and begins a bar; bars keep
    their number of beats."""
    grid = song.grid
    if anchor is None:
        anchor = grid.starts[grid.lead_in if grid.lead_in < len(grid.bars) else 0]
    step = 1 / factor
    before = int(anchor / step)
    after = -int(-(grid.end - anchor) // step)
    if before + after < 3:
        raise EditError("There are too few beats to count so slowly.")
    places = [anchor + step * k for k in range(-before, after)]
    times = [grid.clock(p) for p in places]
    end = max(grid.times[-1], times[-1] + CLOSEST)
    meter = grid.usual_meter()
    bars = _laid(meter, 0, before, from_end=True, pick_up=True) + _laid(meter, before, len(times))
    lead_in = len(_laid(meter, 0, before, from_end=True, pick_up=True))
    return onto(song, Grid(tuple(bars), (*times, end), lead_in))


def double_tempo(song: Song) -> Edited:
    """Count twice as fast: each bar becomes two of the same meter."""
    return recount(song, Fraction(2)), "counted twice as fast"


def half_tempo(song: Song) -> Edited:
    """Count half as fast: two bars of the same meter become one. Beats on the ones stay."""
    if song.grid.beat_count < 4:
        raise EditError("There are too few beats to count half as fast.")
    return recount(song, Fraction(1, 2)), "counted half as fast"


def set_tempo(song: Song, tempo: float) -> Edited:
    """State the tempo in counted beats a minute; the analysis finds the beats again near it."""
    now = song.grid.tempo()
    if not 20 <= tempo <= 480:
        raise EditError("A tempo lies between 20 and 480 beats a minute.")
    ratio = tempo / now
    near = min(LEVELS, key=lambda level: abs(float(level) / ratio - 1))
    if abs(ratio - 1) < 0.04:
        raise EditError(f"The count is {now:.0f} a minute already.")
    factor = near if abs(float(near) / ratio - 1) < 0.12 else Fraction(ratio).limit_denominator(24)
    return recount(song, factor), f"the tempo is {tempo:.0f}"


def tap(song: Song, taps: Sequence[float]) -> Edited:
    """Beats where they were tapped (times of the record); the rest follows their tempo."""
    taps = sorted(taps)
    if len(taps) < FEWEST_TAPS:
        raise EditError(f"Tap at least {FEWEST_TAPS} beats in a row.")
    gaps = [b - a for a, b in zip(taps, taps[1:], strict=False)]
    usual = median(gaps)
    if min(gaps) < 0.6 * usual or max(gaps) > 1.6 * usual or usual < 0.12:
        raise EditError("These taps are too uneven to be beats; nothing was changed.")
    first, last = song.grid.position(taps[0]), song.grid.position(taps[-1])
    ratio = (len(taps) - 1) / max(last - first, 0.01)
    level = min((*LEVELS, Fraction(1)), key=lambda f: abs(float(f) / ratio - 1))
    if level != 1:
        song = recount(song, level, min(max(0, round(first)), song.grid.beat_count - 1))
    grid = song.grid
    outside = [t for t in grid.times[:-1] if t < taps[0] - 0.5 * usual or t > taps[-1] + 0.5 * usual]
    times = sorted([*outside, *taps])
    end = max(grid.times[-1], times[-1] + usual)
    made = bars_by_clock(grid, [*times, end])
    return onto(song, made, *_beats(made, taps)), f"{len(taps)} beats tapped, {60 / usual:.0f} a minute"
