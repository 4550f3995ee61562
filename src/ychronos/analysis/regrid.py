"""Beats and bar lines decided again around what is stated about them.

Facts of a ``Grid`` (stated beats, bar lines, lengths, meters) become hard constraints of ``pulse`` and
``bars``; facts on other beats than the old ones are carried over by the clock.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from scipy.ndimage import median_filter

from ..song.grid import Bar, Grid
from ..song.regrid import nearest_beat
from . import bars, count, ending, pulse
from .pulsenet import PulseEvidence, period_class
from .spectra import BAND_RATE

SLOWER, FASTER = 1.28, 0.78  # how far from the usual one intervals may be; farther is another level
STEADINESS = 150.0  # more than at first: a count that stands goes on as it is
AT_THE_END = 16  # beats in which nothing may be stated for the ending to be followed by itself
AROUND = 9  # beats whose median interval is the usual one at a place
REACH = 12.0  # seconds around what is stated in which beats are found again
ANOTHER_SPEED = 0.2  # natural log of the tempo's ratio
LOYALTY = 1.2  # spread of intervals around the usual one, in the net's classes of tempo (6 % each)
MATCH = 0.15  # seconds within which a bar line is carried over to a new beat


def grid_of(decided: bars.Bars, times: bars.Floats, end: float) -> Grid:
    """A grid from decided bars; ``end`` is where the last beat ends (s)."""
    starts = [0, *(i for i in range(1, len(times)) if decided.position[i] == 1)]
    made: list[Bar] = []
    for start, stop in zip(starts, [*starts[1:], len(times)], strict=True):
        made.append(
            Bar(
                meter=bars.meter_of(int(decided.meter[start])),
                beats=stop - start,
                first=int(decided.position[start]),
                confidence=float(decided.one[start]),
            )
        )
    return Grid(tuple(made), (*map(float, times), float(end)), 1 if made[0].first > 1 else 0)


def news(before: Grid, grid: Grid) -> tuple[float, float] | None:
    """Where beats were stated that were not in an earlier grid, in seconds; None when there are none, or when
    the whole song is counted at another speed."""
    if abs(np.log(grid.tempo() / before.tempo())) > ANOTHER_SPEED:
        return None
    known = {before.times[b] for b in before.stated_beats}
    new = [grid.times[b] for b in grid.stated_beats if grid.times[b] not in known]
    return (min(new), max(new)) if new else None


def beats_again(grid: Grid, evidence: PulseEvidence, around: tuple[float, float] | None = None) -> pulse.Times:
    """Beat times around the stated beats of a grid, at the speed it counts in. Between two neighbouring
    stated beats there is no other. With ``around`` beats farther than REACH from it stay as they are."""
    old = np.array(grid.times[:-1])
    first, last = 0, len(old)  # beats to find again; the ones beside them hold
    if around is not None:
        first = int(np.searchsorted(old, around[0] - REACH))
        last = int(np.searchsorted(old, around[1] + REACH))
    held = ([float(old[first - 1])] if first else []) + ([float(old[last])] if last < len(old) else [])
    begin = max(0, int(old[first - 1] * BAND_RATE) - 2) if first else 0
    stop = int(old[last] * BAND_RATE) + 3 if last < len(old) else len(evidence.beat)
    shift = begin / BAND_RATE
    part = PulseEvidence(
        evidence.beat[begin:stop], evidence.bar[begin:stop], evidence.period[begin:stop], evidence.meter[begin:stop]
    )

    said = sorted(grid.stated_beats)
    pairs = [(grid.times[a], grid.times[b]) for a, b in zip(said, said[1:], strict=False) if b == a + 1]
    local = median_filter(np.diff(grid.times), AROUND, mode="nearest")
    low, high = np.percentile(local, [5, 95]) * BAND_RATE
    stated = [(b - a) * BAND_RATE for a, b in pairs]
    shortest = max(4, int(min([FASTER * low, *(g - 1 for g in stated)])))
    longest = min(200, int(np.ceil(max([SLOWER * high, *(g + 1 for g in stated)]))))
    inside = [t - shift for t in (*(grid.times[b] for b in said), *held)]
    fixed = pulse.Fixed(tuple(inside), tuple((a - shift, b - shift) for a, b in pairs))
    # the count that stands is a fact too: what the net thinks of the level does not matter any more
    frames = np.arange(begin, stop) / BAND_RATE
    usual = np.interp(frames, old, [period_class(60 / g) for g in local])
    away = (np.arange(part.period.shape[1], dtype=np.float32)[None] - usual[:, None].astype(np.float32)) / LOYALTY
    found = pulse.beats(replace(part, period=-0.5 * away**2), shortest, longest, fixed, STEADINESS) + shift
    if first:
        found = np.concatenate([old[: first - 1], found])
    if last < len(old):
        found = np.concatenate([found, old[last + 1 :]])
    if last == len(old) and not any(grid.times[b] > old[max(0, len(old) - AT_THE_END)] for b in said):
        found = ending.slowed(evidence, found)
    kept = count.trimmed(found, evidence)
    facts_at = [grid.times[b] for b in said] + ([float(old[0])] if first else []) + held
    facts_at += [float(old[-1])] if last < len(old) else []
    kept = kept[kept <= old[-1] + 0.6 * local[-1]]  # what was not counted at the end stays so
    if facts_at:  # what is stated or held are beats, however quiet
        kept = found[(found >= min(kept[0], *facts_at) - 0.01) & (found <= max(kept[-1], *facts_at) + 0.01)]
    return kept if len(kept) >= 3 else old


def facts(grid: Grid, times: bars.Floats) -> bars.Fixed:
    """What is stated about bars, on beats at ``times``."""
    ones: set[int] = set()
    others: set[int] = set()
    meters: list[tuple[int, int, int]] = []
    standing: list[tuple[int, int, int]] = []
    for _, start, bar in grid.walk():
        stop = start + bar.beats
        first, last = nearest_beat(times, grid.clock(start)), nearest_beat(times, grid.clock(stop))
        if grid.clock(stop) > times[-1] + MATCH:
            last = len(times)
        if bar.stated and abs(times[first] - grid.clock(start)) < MATCH:
            ones.add(first)
        if bar.length_stated and last - first == bar.beats:
            ones |= {first, last} if bar.first == 1 else {last}
            others |= set(range(first + 1, last))
        index = bars.meter_index(bar.meter)
        if index is not None:
            (meters if bar.meter_stated else standing).append((first, last, index))
    ones.discard(len(times))
    lines = frozenset(nearest_beat(times, grid.clock(s)) for s in grid.ones)
    return bars.Fixed(frozenset(ones), frozenset(others - ones), tuple(meters), lines, tuple(standing))


def bars_again(old: Grid, times: bars.Floats, end: float, evidence: PulseEvidence, changes: bars.ChordChanges) -> Grid:
    """Bars on beats at ``times`` around what is stated in a grid; the facts stay marked as such."""
    fixed = facts(old, times)
    decided = grid_of(bars.decide(evidence, times, changes, fixed), times, end)
    stated = {nearest_beat(times, old.clock(s)) for _, s, b in old.walk() if b.stated}
    by_start = {nearest_beat(times, old.clock(s)): b for _, s, b in old.walk()}
    made: list[Bar] = []
    for _, start, bar in decided.walk():
        before = by_start.get(start)
        same = before is not None and before.beats == bar.beats
        made.append(
            replace(
                bar,
                stated=start in stated & fixed.ones,
                length_stated=same and before is not None and before.length_stated,
                meter_stated=any(first <= start < last for first, last, _ in fixed.meters),
                grouping=before.grouping if same and before is not None else (),
            )
        )
    said = frozenset(nearest_beat(times, old.times[b]) for b in old.stated_beats)
    return replace(decided, bars=tuple(made), stated_beats=said)
