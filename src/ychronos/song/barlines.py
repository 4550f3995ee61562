"""Bar lines on other beats: each goes with the clock to the beat nearest to where it was."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from .grid import Bar, Grid

Times = Sequence[float] | NDArray[np.float64]


def nearest_beat(times: Times, seconds: float) -> int:
    """Index of the beat nearest to a time; ``times`` without the end."""
    i = bisect_left(times, seconds)
    if i <= 0:
        return 0
    if i >= len(times):
        return len(times) - 1
    return i if times[i] - seconds < seconds - times[i - 1] else i - 1


def bars_by_clock(old: Grid, times: Sequence[float]) -> Grid:
    """Old bar lines on other beats: each on the beat nearest to where it was. ``times`` ends with the end. A bar
    whose number of beats came out otherwise than its meter says keeps the meter and is odd."""
    beats = times[:-1]
    lines: dict[int, Bar] = {}
    for _, start, bar in old.walk():
        beat = nearest_beat(beats, old.clock(start))
        if beat not in lines or bar.stated:
            lines[beat] = bar
    first = min(lines)
    if first and lines[first].stated and first < lines[first].meter.beats:  # what comes before it is a pick-up
        lines[0] = Bar(lines[first].meter, first, 2)
    elif first:
        lines[0] = lines.pop(first)
    starts = sorted(lines)
    bars: list[Bar] = []
    for start, stop in zip(starts, [*starts[1:], len(beats)], strict=True):
        bar = lines[start]
        count = stop - start
        kept = bar.grouping if sum(bar.grouping) == count else ()
        pick_up = start == 0 and bar.first > 1 and count < bar.meter.beats
        first_number = bar.meter.beats - count + 1 if pick_up else 1
        bars.append(replace(bar, beats=count, first=first_number, grouping=kept))
    return Grid(tuple(bars), tuple(times), min(old.lead_in, len(bars) - 1))
