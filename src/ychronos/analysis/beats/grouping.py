"""How the beats of odd bars are grouped: 2+2+3 or 3+2+2.

Method: for every place in the bars of one meter the accents are averaged over all those bars: how strongly a
beat is heard there, how like a bar line it is, and how much the chords change. The grouping in twos and threes
wins whose first beats stand out most from the others. Where nothing stands out, nothing is said.
"""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np

from ...song.grid import Grid
from . import bars
from .pulsenet import PulseEvidence

ODD = (5, 7, 11, 13)
FEWEST_BARS = 3
CLEAR = 0.35  # by how many standard deviations of all accents the first beats of groups must stand out


@cache
def groupings(beats: int) -> tuple[tuple[int, ...], ...]:
    """All ways to make a bar of twos and threes, one odd beat or pair at least among them."""
    if beats == 0:
        return ((),)
    return tuple((first, *rest) for first in (2, 3) if first <= beats for rest in groupings(beats - first))


def accents(evidence: PulseEvidence, times: bars.Floats, changes: bars.ChordChanges) -> bars.Floats:
    """(n,) how much each beat stands out, standardised."""
    beat, one = bars.log_odds_at(evidence.beat, times, 1), bars.log_odds_at(evidence.bar, times)
    parts = [beat, one, 4 * changes.at(times, 1)]
    summed = np.sum([(p - p.mean()) / (p.std() + 1e-6) for p in parts], axis=0)
    return np.asarray(summed / (summed.std() + 1e-6))


def decide(grid: Grid, evidence: PulseEvidence, changes: bars.ChordChanges) -> Grid:
    """The grid with groupings where they can be heard; those already there are kept."""
    odd = {b.beats for b in grid.bars if b.beats in ODD and b.first == 1 and not b.odd}
    if not odd:
        return grid
    strength = accents(evidence, np.array(grid.times[:-1]), changes)
    found: dict[int, tuple[int, ...]] = {}
    for beats in odd:
        rows = [strength[s : s + beats] for _, s, b in grid.walk() if b.beats == beats and b.first == 1 and not b.odd]
        if len(rows) < FEWEST_BARS:
            continue
        mean = np.mean(rows, axis=0)
        best: tuple[int, ...] = ()
        clear = CLEAR
        for parts in groupings(beats):
            firsts = np.cumsum((0, *parts[:-1]))[1:]  # the one itself stands out anyhow
            others = np.setdiff1d(np.arange(1, beats), firsts)
            margin = float(mean[firsts].mean() - mean[others].mean())
            if margin > clear:
                best, clear = parts, margin
        if best:
            found[beats] = best
    return replace(
        grid,
        bars=tuple(
            replace(b, grouping=found[b.beats])
            if b.beats in found and not b.grouping and not b.odd and b.first == 1
            else b
            for b in grid.bars
        ),
    )
