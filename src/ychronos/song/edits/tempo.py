"""What a user can say of the tempo: half, double, a number, beats tapped along."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from itertools import accumulate, pairwise
from statistics import median

from ...tongue import tr
from .. import statements as said
from ..barlines import bars_by_clock
from ..grid import Grid
from ..merge import onto
from ..model import Song
from .common import Edited, EditError
from .laying import CLOSEST, beats_at, check_apart, plain_bars

LEVELS = (Fraction(1, 3), Fraction(1, 2), Fraction(2, 3), Fraction(3, 2), Fraction(2), Fraction(3))
FEWEST_TAPS = 3


def recount(song: Song, factor: Fraction, anchor: int | None = None) -> Song:
    """The song counted ``factor`` times as fast, on beats spaced evenly between the old ones. The beat
    ``anchor``, the one that bar one begins on if it is not given, stays a beat and begins a bar, and so does every
    stated bar line; bars keep their number of beats but for the last before such a line."""
    grid = song.grid
    home = grid.starts[grid.lead_in if grid.lead_in < len(grid.bars) else 0]
    anchor = home if anchor is None else anchor
    if factor <= 0:
        raise EditError(tr("There are too few beats to count so slowly."))
    step = 1 / factor
    lines = _lines(song, anchor, step)
    before = int(lines[0] / step)
    after = -int(-(grid.end - lines[-1]) // step)
    places = [lines[0] - step * k for k in range(before, 0, -1)]
    starts = []  # of the new beats, those on the lines
    for a, b in pairwise(lines):
        starts.append(len(places))
        count = max(1, round((b - a) / step))
        places += [a + (b - a) * k / count for k in range(count)]
    starts.append(len(places))
    places += [lines[-1] + step * k for k in range(after)]
    if len(places) < 3:
        raise EditError(tr("There are too few beats to count so slowly."))
    times = [grid.clock(p) for p in places]
    check_apart(times)
    end = max(grid.times[-1], times[-1] + CLOSEST)
    meter = grid.usual_meter()
    bars = plain_bars(meter, 0, before, from_end=True, pick_up=True)
    for first, last in pairwise([*starts, len(times)]):
        bars += plain_bars(meter, first, last)
    begins = accumulate((b.beats for b in bars[:-1]), initial=0)
    lead_in = sum(places[b] <= home - step / 2 for b in begins)
    return onto(song, Grid(tuple(bars), (*times, end), min(lead_in, len(bars) - 1)))


def _lines(song: Song, anchor: int, step: Fraction) -> list[Fraction]:
    """Places that begin a bar of another count: where bar lines are stated, and the anchor if none is close to it."""
    ones = [s.at for s in said.of(song.statements, "one")]
    return sorted({*ones, *([Fraction(anchor)] if all(abs(x - anchor) >= step for x in ones) else [])})


def double_tempo(song: Song) -> Edited:
    """Count twice as fast: each bar becomes two of the same meter."""
    return recount(song, Fraction(2)), tr("counted twice as fast")


def half_tempo(song: Song) -> Edited:
    """Count half as fast: two bars of the same meter become one. Beats on the ones stay."""
    if song.grid.beat_count < 4:
        raise EditError(tr("There are too few beats to count half as fast."))
    return recount(song, Fraction(1, 2)), tr("counted half as fast")


def count_as(song: Song, grid: Grid, words: str) -> Edited:
    """Take a whole count that the analysis offers instead of the one that stands; ``words`` say what is other."""
    check_apart(grid.times)
    return onto(song, grid), tr("counted otherwise: {words}", words=words)


def set_tempo(song: Song, tempo: float) -> Edited:
    """State the tempo in counted beats a minute; the analysis finds the beats again near it."""
    now = song.grid.tempo()
    if not 20 <= tempo <= 480:
        raise EditError(tr("A tempo lies between 20 and 480 beats a minute."))
    ratio = tempo / now
    near = min(LEVELS, key=lambda level: abs(float(level) / ratio - 1))
    if abs(ratio - 1) < 0.04:
        raise EditError(tr("The count is {now:.0f} a minute already.", now=now))
    factor = near if abs(float(near) / ratio - 1) < 0.12 else Fraction(ratio).limit_denominator(24)
    return recount(song, factor), tr("the tempo is {tempo:.0f}", tempo=tempo)


def tap(song: Song, taps: Sequence[float]) -> Edited:
    """Beats where they were tapped (times of the record); the rest follows their tempo."""
    taps = sorted(taps)
    if len(taps) < FEWEST_TAPS:
        raise EditError(tr("Tap at least {fewest_taps} beats in a row.", fewest_taps=FEWEST_TAPS))
    gaps = [b - a for a, b in zip(taps, taps[1:], strict=False)]
    usual = median(gaps)
    if min(gaps) < 0.6 * usual or max(gaps) > 1.6 * usual or usual < 0.12:
        raise EditError(tr("These taps are too uneven to be beats; nothing was changed."))
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
    return onto(song, made, *beats_at(made, taps)), tr(
        "{count} beats tapped, {usual:.0f} a minute", count=len(taps), usual=60 / usual
    )
