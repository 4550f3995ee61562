"""Plain bars laid around what is stated of the count, for all edits of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

from ...theory.meter import Meter
from ...tongue import tr
from ..barlines import nearest_beat
from ..grid import Bar, Grid
from ..merge import onto
from ..model import Song
from ..statements import Statement
from .common import EditError

CLOSEST = 0.08  # seconds that two beats are apart at least
QUICKEST = 0.01  # seconds below which nobody counts, and which no file holds


def check_beat(grid: Grid, beat: int) -> None:
    if not 0 <= beat < grid.beat_count:
        raise EditError(tr("There is no beat at this place."))


def fast_lines(grid: Grid) -> list[int]:
    """Beats at which bar lines stand fast: stated ones, and both ends of bars whose length is stated."""
    fast = {0, grid.beat_count}
    for _, start, bar in grid.walk():
        if bar.stated or bar.length_stated:
            fast.add(start)
        if bar.length_stated:
            fast.add(start + bar.beats)
    return sorted(fast)


def plain_bars(meter: Meter, first: int, last: int, from_end: bool = False, pick_up: bool = False) -> list[Bar]:
    """Plain bars over beats first .. last; what is left over is a short bar at the far end, or a pick-up."""
    whole, rest = divmod(last - first, meter.beats)
    bars = [Bar(meter, meter.beats)] * whole
    if not rest:
        return bars
    if from_end:
        return [Bar(meter, rest, meter.beats - rest + 1 if pick_up else 1), *bars]
    return [*bars, Bar(meter, rest)]


def bars_between(grid: Grid, first: int, last: int) -> list[Bar]:
    return [b for _, s, b in grid.walk() if first <= s < last]


def with_bars(song: Song, bars: Sequence[Bar], *new: Statement, lead_in: int | None = None) -> Song:
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


def one_at(beat: int) -> Statement:
    return Statement("one", Fraction(beat))


def length_of(first: int, last: int) -> Statement:
    return Statement("length", Fraction(first), Fraction(last))


def beats_at(grid: Grid, times: Sequence[float]) -> list[Statement]:
    """Beats stated at times that are beats of the grid."""
    beats = [nearest_beat(grid.times[:-1], t) for t in times]
    return [Statement("beat", Fraction(b), value=grid.times[b]) for b in beats]


def check_apart(times: Sequence[float]) -> None:
    """Refuse beats that are too close together to be kept."""
    if any(b - a < QUICKEST for a, b in pairwise(times)):
        raise EditError(tr("Beats would be too close together to be counted so quickly."))
