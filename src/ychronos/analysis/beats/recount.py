"""Beats and bar lines decided again around what is stated about them.

What is stated of the count (beats, ones, lengths, meters) becomes hard constraints of ``pulse`` and ``bars``. What
stood before the news stands on where the evidence says little; and what is decided otherwise far from the news, with
bars between that stayed, is left as it was: a statement speaks of its place. Meters that the analysis does not know
and bars longer than any of its meters are kept as they were laid.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ...song.barlines import bars_by_clock, nearest_beat
from ...song.grid import Bar, Grid
from ...song.model import Song
from ..spectra import BAND_RATE
from . import bars, beginning, count, ending, pulse
from .pulsenet import PulseEvidence, period_class

SLOWER, FASTER = 1.28, 0.78  # how far from the usual one intervals may be; farther is another level
STEADINESS = 150.0  # more than at first: a count that stands goes on as it is
AT_THE_END = 16  # beats in which nothing may be stated for the ending to be followed by itself
PUT_RIGHT = 0.2  # of a beat, within which a stated beat is one that was counted before, put right
ALIKE = 0.12  # of a beat, within which beats found again are the old ones
BEAT_LOYALTY = 1.5  # log odds that a beat has for having been counted before
AROUND = 9  # beats whose median interval is the usual one at a place
SLOWEST_FOUND = 200  # frames, 4 s: beats farther apart are not looked for
REACH = 12.0  # seconds around what is stated in which beats are found again
ANOTHER_SPEED = 0.2  # natural log of the tempo's ratio
LOYALTY = 1.2  # spread of intervals around the usual one, in the net's classes of tempo (6 % each)
COUNTING = ("beat", "one", "length", "meter")  # kinds of statements from which the count is decided again


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


def news(before: Song, song: Song) -> list[tuple[float, float]] | None:
    """Where something was stated of the count that was not before: stretches in seconds, apart from each other; None
    when the whole song is counted at another speed."""
    if abs(np.log(song.grid.tempo() / before.grid.tempo())) > ANOTHER_SPEED:
        return None
    known = set(_placed(before))
    found = sorted((place[1], place[2]) for place in _placed(song) if place not in known)
    out: list[tuple[float, float]] = []
    for a, b in found:
        if out and a <= out[-1][1] + 2 * REACH:
            out[-1] = (out[-1][0], max(out[-1][1], b))
        else:
            out.append((a, b))
    return out


def same_beats(before: Song, song: Song) -> bool:
    """Whether a song has the very beats and bars of one before, each a little moved, and nothing was said of bars."""
    one, two = before.grid, song.grid
    known = set(_placed(before))
    said_of_bars = any(place[0] != "beat" for place in _placed(song) if place not in known)
    if said_of_bars or one.beat_count != two.beat_count or one.starts != two.starts or one.times == two.times:
        return False
    gap = 60 / one.tempo()
    return max(abs(a - b) for a, b in zip(one.times, two.times, strict=True)) < PUT_RIGHT * gap


def _placed(song: Song) -> list[tuple[str, float, float, str]]:
    """Statements about the count with the clock times of their places, to the hundredth."""
    clock = song.grid.clock
    return [
        (s.kind, round(clock(s.at), 2), round(clock(s.end), 2), str(s.value) if s.kind == "meter" else "")
        for s in song.statements
        if s.kind in COUNTING
    ]


def beats_around(
    grid: Grid, evidence: PulseEvidence, places: Sequence[tuple[float, float]] | None, before: Grid | None = None
) -> pulse.Times:
    """Beat times found again around each of the places (all of them where places is None). Where beats were only put
    right a little, against ``before``, those around it stay beats as long as the sound allows it."""
    if places is None:
        return beats_again(grid, evidence)
    times = np.array(grid.times[:-1])
    for place in places:
        standing = before is not None and _only_put_right(grid, before, place)
        part = beats_again(grid, evidence, place, standing)
        if standing:
            part = _as_far_as_alike(np.array(grid.times[:-1]), part, place)
        low, high = place[0] - REACH - 1, place[1] + REACH + 1
        times = np.concatenate([times[times < low], part[(part >= low) & (part <= high)], times[times > high]])
    return times


def _only_put_right(grid: Grid, before: Grid, place: tuple[float, float]) -> bool:
    """Whether every beat stated at a place is close to one that was counted before."""
    said = [grid.times[b] for b in grid.stated_beats if place[0] - 0.01 <= grid.times[b] <= place[1] + 0.01]
    gap = 60 / grid.tempo()
    return all(abs(before.times[nearest_beat(before.times[:-1], t)] - t) < PUT_RIGHT * gap for t in said)


def _as_far_as_alike(old: bars.Floats, new: bars.Floats, place: tuple[float, float]) -> bars.Floats:
    """New beats from a place outwards as long as they are nearly the old ones, the old ones from there on: what was
    put right a little is no reason to count otherwise seconds away."""
    gap = float(np.median(np.diff(old)))

    def reach(times: bars.Floats, counted: bars.Floats, start: float, step: int) -> float:
        side = times[(times > start) if step > 0 else (times < start)][::step]
        there = counted[(counted > start) if step > 0 else (counted < start)][::step]
        end = start
        for a, b in zip(side, there, strict=False):
            if abs(a - b) > ALIKE * gap:
                break
            end = float(max(a, b) if step > 0 else min(a, b))
        else:
            return np.inf * step if len(side) == len(there) else end
        return end

    low, high = reach(new, old, place[0] - 0.01, -1), reach(new, old, place[1] + 0.01, 1)
    return np.concatenate([old[old < low], new[(new >= low) & (new <= high)], old[old > high]])


def _leaning(beat: NDArray[np.floating], times: bars.Floats) -> NDArray[np.floating]:
    """Activations (50 Hz) with those at standing beats raised."""
    odds = np.log(np.clip(beat, 1e-4, 1 - 1e-4).astype(np.float64) / (1 - np.clip(beat, 1e-4, 1 - 1e-4)))
    frames = np.round(times * BAND_RATE).astype(int)
    for step in (-1, 0, 1):
        at = frames + step
        at = at[(at >= 0) & (at < len(odds))]
        odds[at] += BEAT_LOYALTY * (1.0 if step == 0 else 0.6)
    return np.asarray(1 / (1 + np.exp(-odds)), np.float32)


def beats_again(
    grid: Grid, evidence: PulseEvidence, around: tuple[float, float] | None = None, standing: bool = False
) -> pulse.Times:
    """Beat times around the stated beats of a grid, at the speed it counts in. Between two neighbouring
    stated beats there is no other; where a bar line is stated there is a beat. With ``around`` beats farther than REACH from it stay as they are; ``standing``
    says that those within it are beats unless the sound speaks against it."""
    from scipy.ndimage import median_filter

    old = np.array(grid.times[:-1])
    first, last = 0, len(old)  # beats to find again; the ones beside them hold
    if around is not None:
        first = int(np.searchsorted(old, around[0] - REACH))
        last = int(np.searchsorted(old, around[1] + REACH))
    held = ([float(old[first - 1])] if first else []) + ([float(old[last])] if last < len(old) else [])
    begin = max(0, int(old[first - 1] * BAND_RATE) - 2) if first else 0
    stop = int(old[last] * BAND_RATE) + 3 if last < len(old) else len(evidence.beat)
    shift = begin / BAND_RATE
    part = evidence.between(begin, stop)
    if standing:
        part = replace(part, beat=_leaning(part.beat, old - shift))
    said = sorted(grid.stated_beats)
    pairs = [(grid.times[a], grid.times[b]) for a, b in zip(said, said[1:], strict=False) if b == a + 1]
    local = median_filter(np.diff(grid.times), AROUND, mode="nearest")
    low, high = np.percentile(local, [5, 95]) * BAND_RATE
    stated = [(b - a) * BAND_RATE for a, b in pairs]
    shortest = max(4, int(min([FASTER * low, *(g - 1 for g in stated)])))
    if shortest >= SLOWEST_FOUND:
        return old  # nobody counts so slowly: beats are where they were put
    longest = min(SLOWEST_FOUND, int(np.ceil(max([SLOWER * high, *(g + 1 for g in stated)]))))
    ones = [s for _, s, bar in grid.walk() if bar.stated and first <= s < last]
    must = [grid.times[b] for b in sorted({*said, *ones})]
    inside = [t - shift for t in (*must, *held)]
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
    facts_at = must + ([float(old[0])] if first else []) + held
    facts_at += [float(old[-1])] if last < len(old) else []
    # what was not counted at the ends stays so
    kept = kept[(kept >= old[0] - 0.6 * local[0]) & (kept <= old[-1] + 0.6 * local[-1])]
    if facts_at:  # what is stated or held are beats, however quiet
        reach = [*kept[:1], *kept[-1:], *facts_at]
        kept = found[(found >= min(reach) - 0.01) & (found <= max(reach) + 0.01)]
    if not first and old[0] < 2 * beginning.AT_ONCE:  # what was counted from the beginning of the record stays so
        kept = beginning.from_the_start(kept, evidence)
    # at a speed at which what is stated cannot be beats, as 5 s apart, they are where they were put
    there = all(np.abs(kept - t).min(initial=np.inf) < 1e-6 for t in must)
    return kept if len(kept) >= 3 and there else old


@dataclass(frozen=True)
class Pin:
    """Bars that stay as they were laid: over beats ``first`` .. ``last`` (exclusive)."""

    first: int
    last: int
    bars: tuple[Bar, ...]


def pins(grid: Grid) -> list[Pin]:
    """Runs of bars that the analysis cannot decide for itself: of stated length, or in a stated meter that it does
    not know."""
    out: list[Pin] = []
    for _, start, bar in grid.walk():
        if not (bar.length_stated or (bar.meter_stated and bars.meter_index(bar.meter) is None)):
            continue
        if out and out[-1].last == start:
            out[-1] = Pin(out[-1].first, start + bar.beats, (*out[-1].bars, bar))
        else:
            out.append(Pin(start, start + bar.beats, (bar,)))
    return out


def facts(grid: Grid, standing: Grid, pinned: Sequence[Pin]) -> bars.Fixed:
    """What is stated about the bars of a grid, and what stood in another one on the same beats."""
    count = grid.beat_count
    ones = {s for _, s, b in grid.walk() if b.stated}
    meters: list[tuple[int, int, int]] = []
    for _, start, bar in grid.walk():
        index = bars.meter_index(bar.meter)
        if bar.meter_stated and index is not None:
            meters.append((start, start + bar.beats, index))
    silent: set[int] = set()
    for pin in pinned:
        ones = {o for o in ones if not pin.first < o < pin.last} | {pin.first, pin.last}
        silent |= set(range(pin.first + 1, pin.last))
    ones.discard(count)
    if grid.bars[0].first > 1:
        ones.discard(0)
    lines = frozenset(s for s in standing.ones if s not in silent)
    stood = []
    for _, start, bar in standing.walk():
        index = bars.meter_index(bar.meter)
        if index is not None:
            stood.append((start, start + bar.beats, index))
    return bars.Fixed(frozenset(ones), frozenset(), tuple(meters), lines, tuple(stood), frozenset(silent))


def bars_again(
    grid: Grid,
    before: Grid,
    places: Sequence[tuple[float, float]] | None,
    evidence: PulseEvidence,
    changes: bars.ChordChanges,
) -> Grid:
    """Bars on the beats of a grid around what is stated in it.

    ``before`` is the grid before the news, on other beats perhaps: what stood in it stands on where little speaks
    against it. ``places`` are the news in seconds: bars that are decided otherwise elsewhere, with bars between that
    stayed, are as they were; with None all may change.
    """
    times = np.array(grid.times[:-1])
    standing = before if before.times == grid.times else bars_by_clock(before, grid.times)
    pinned = pins(grid)
    decided = bars.decide(evidence, times, changes, facts(grid, standing, pinned))
    made = _with_pins(grid_of(decided, times, grid.times[-1]), pinned)
    if places is not None:
        beats = [(nearest_beat(times, a), nearest_beat(times, b)) for a, b in places]
        made = _near_only(made, standing, beats)
    known = {(s, b.beats, b.meter): b for _, s, b in standing.walk()}
    kept = tuple(known.get((s, b.beats, b.meter), b) for _, s, b in made.walk())
    return replace(made, bars=kept, lead_in=max(made.lead_in, min(standing.lead_in, len(kept) - 1)))


def _with_pins(grid: Grid, pinned: Sequence[Pin]) -> Grid:
    """A grid with the pinned bars laid over its own."""
    for pin in pinned:
        out: list[Bar] = []
        for _, start, bar in grid.walk():
            stop = start + bar.beats
            if start < pin.first:
                short = min(stop, pin.first) - start
                out.append(bar if short == bar.beats else replace(bar, beats=short, grouping=()))
            if start <= pin.first < stop:
                out += pin.bars
            if stop > pin.last and start < pin.last:
                out.append(replace(bar, beats=stop - pin.last, first=1, grouping=()))
            elif start >= pin.last:
                out.append(bar)
        grid = replace(grid, bars=tuple(out), lead_in=min(grid.lead_in, len(out) - 1))
    return grid


def _near_only(made: Grid, standing: Grid, places: Sequence[tuple[int, int]]) -> Grid:
    """Bars as decided where they hang together with the news (beats from, to), elsewhere as they stood. Where the news
    begin or end on a bar line that stood, what lies beyond it is no business of theirs."""
    new, old = ({s: b for _, s, b in g.walk()} for g in (made, standing))
    common = [*sorted(set(new) & set(old)), made.beat_count]
    runs = list(zip(common, common[1:], strict=False))  # between bar lines that both have

    def bars_in(grid: dict[int, Bar], run: tuple[int, int]) -> list[Bar]:
        return [grid[s] for s in sorted(grid) if run[0] <= s < run[1]]

    other = [
        [(b.beats, b.meter) for b in bars_in(new, r)] != [(b.beats, b.meter) for b in bars_in(old, r)] for r in runs
    ]
    chosen: set[int] = set()
    for first, last in places:
        inside = [k for k, (a, b) in enumerate(runs) if (a < last and first < b) or (first == last and a <= first <= b)]
        mine = {k for k in inside if other[k]}
        for edge, step, stood in ((first, -1, first in old), (last, 1, last in old)):
            k = (min(inside) if step < 0 else max(inside)) if inside else 0
            while not stood and 0 <= k < len(runs) and (other[k] or k in inside):
                mine |= {k} if other[k] else set()
                k += step
            if stood:
                mine -= {k for k in mine if (runs[k][1] <= edge if step < 0 else runs[k][0] >= edge)}
        chosen |= mine
    out = [b for k, run in enumerate(runs) for b in bars_in(new if k in chosen else old, run)]
    lead = made.lead_in if out[0].first > 1 else standing.lead_in
    return replace(made, bars=tuple(out), lead_in=min(lead, len(out) - 1))
