"""What else could be counted: other speeds, other beats, other ones, with how likely each is.

Method: the candidates that ``count`` weighs, without the one that stands; and on the beats that stand the other meters
that a song could be in and the other beats of the bar that could be one, told by the same log weights. Weights of
neighbouring beats are not independent witnesses: the constants that turn them into chances were fitted on songs with truth
(docs/analysis.md). Nothing here depends on what is stated: a rival is what the sound alone would say next.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ...audio.decode import Cancelled
from ...song.grid import Grid
from ...tongue import tr
from ..evidence import Evidence
from . import bars, count, recount
from .counting import grid_of, of_several_songs, somebody_plays, weigh
from .pulsenet import METERS

SHOWN = 3  # rivals at most
LEAST = 0.02  # probability from which on a rival is worth showing
SPEED_TEMPER, ONES_TEMPER = 1.0, 9.0  # by which log weights are divided
SAME_BEATS = 0.8  # share of common beats
SAME_SPEED = 0.12  # natural log of a ratio of tempi, within which they are one


@dataclass(frozen=True)
class Rival:
    """Another count of a whole recording: what is other about it in ``words``, how likely it is, and its grid."""

    words: str
    share: float
    grid: Grid


def find(evidence: Evidence, grid: Grid, cancelled: Callable[[], bool] = lambda: False) -> tuple[Rival, ...]:
    """The likeliest counts of a recording other than ``grid``, likeliest first; raises Cancelled when ``cancelled()``
    became true."""

    def tick(_: float) -> None:
        if cancelled():
            raise Cancelled

    changes, sounding = evidence.changes, somebody_plays(evidence)
    if of_several_songs(evidence) is not None:
        return tuple(_on_these_beats(evidence, changes, grid))
    weighed = weigh(evidence, changes, tick)
    belief = weighed.belief ** (1 / SPEED_TEMPER)
    belief /= belief.sum()
    here = np.array(grid.times[:-1])
    out: list[Rival] = []
    for times, share in zip(weighed.times, belief, strict=True):
        if share < LEAST or len(out) >= SHOWN:
            break
        speed = count.tempo_of(times) if len(times) >= count.FEWEST else 0.0
        if not speed or _same(times, here) or any(abs(speed / r.grid.tempo() - 1) < 0.04 for r in out):
            continue  # of one speed the likeliest beats are enough
        tick(1.0)
        made = grid_of(count.barred(evidence.pulse, times, changes, sounding), evidence, changes)
        out.append(Rival(_words(grid, made), float(share), made))
    out += _on_these_beats(evidence, changes, grid)
    return tuple(sorted(out, key=lambda r: -r.share)[:SHOWN])


def _on_these_beats(evidence: Evidence, changes: bars.ChordChanges, grid: Grid) -> list[Rival]:
    """Other ones and other meters on the beats that stand; none for a song that changes its meter."""
    usual = grid.usual_meter()
    index = bars.meter_index(usual)
    beats = np.array(grid.times[:-1])
    body = [b for b in grid.bars if b.meter == usual]
    if index is None or len(beats) < count.FEWEST or sum(b.beats for b in body) < 0.9 * len(beats):
        return []
    odds = bars.log_odds_of_one(evidence.pulse, beats, changes)
    lead, size = next(s for s, b in zip(grid.starts, grid.bars, strict=False) if b.first == 1), usual.beats
    place = np.concatenate([b.first - 1 + np.arange(b.beats) for b in grid.bars])  # in the bar, from 0
    standing = float(odds[place == 0].sum())
    # words, log weight against what stands, meter, place in the bar of each beat
    ways: list[tuple[str, float, int, bars.Ints]] = []
    for later in range(1, size):
        moved = np.concatenate([size - later + np.arange(later), place[:-later]]) % size
        words = tr("one {later} {word} later", later=later, word=tr("beat") if later == 1 else tr("beats"))
        ways.append((words, float(odds[moved == 0].sum()) - standing, index, moved))
    costs = bars.range_cost(grid.tempo())
    for other in sorted(bars.COMMON_METERS):
        length, compound, _ = METERS[other]
        if length != size and compound == usual.compound and usual.denominator == 4:
            places = [(np.arange(len(beats)) - lead - k) % length for k in range(length)]
            worth = [float(odds[p == 0].sum()) for p in places]
            best = int(np.argmax(worth))
            cost = float(costs[other] - costs[index] - bars.OTHER_COST) * len(beats)
            ways.append(
                (tr("in {meter}", meter=bars.meter_of(other)), worth[best] - standing + cost, other, places[best])
            )
    # beats that could as well divide in three as in two, or in two as in three: a swing, or twelve eighths
    otherwise = (size, not usual.compound, False)
    if otherwise in METERS and (usual.compound or usual.denominator == 4):
        other = METERS.index(otherwise)
        said = bars.said_of_meters(evidence.pulse, np.array(grid.times)).sum(0)
        worth_it = float(said[other] - said[index] + (costs[other] - costs[index]) * len(beats))
        ways.append((tr("in {meter}", meter=bars.meter_of(other)), worth_it, other, place))
    weights = np.array([0.0, *(w for _, w, _, _ in ways)]) / ONES_TEMPER
    shares = np.exp(weights - weights.max())
    shares /= shares.sum()
    out: list[Rival] = []
    for (words, _, meter, places_), share in zip(ways, shares[1:], strict=True):
        if share >= LEAST:
            decided = bars.Bars(places_ + 1, np.full(len(beats), meter), 1 / (1 + np.exp(-odds)))
            out.append(Rival(words, float(share), recount.grid_of(decided, beats, grid.times[-1])))
    return out


def same_ones(one: Grid, two: Grid) -> bool:
    """Whether two grids count the same bars but for a few: in one meter, and most ones of each are ones of the other."""
    a, b = (np.array([g.times[s] for s in g.ones]) for g in (one, two))
    if one.usual_meter() != two.usual_meter():
        return False
    if min(len(a), len(b)) == 0 or max(len(a), len(b)) > 1.3 * min(len(a), len(b)) + 2:
        return False
    near = 0.25 * 60 / one.tempo()
    return all(float((count.distances(x, y) < near).mean()) > SAME_BEATS for x, y in ((a, b), (b, a)))


def _same(one: count.Times, two: count.Times) -> bool:
    """Whether two sequences are the same beats as far as both go."""
    low, high = max(one[0], two[0]), min(one[-1], two[-1])
    a, b = (t[(t >= low - 0.1) & (t <= high + 0.1)] for t in (one, two))
    if min(len(a), len(b)) < count.FEWEST or max(len(a), len(b)) > 1.6 * min(len(a), len(b)):
        return False
    few, many = sorted((a, b), key=len)  # stretches in eighths have more beats
    return bool((count.distances(few, many) < 0.15 * np.median(np.diff(few))).mean() > SAME_BEATS)


def _words(grid: Grid, other: Grid) -> str:
    """What is other about a count than about the one that stands."""
    ratio = other.tempo() / grid.tempo()
    meter = other.usual_meter()
    tail = "" if meter == grid.usual_meter() else tr(", in {meter}", meter=meter)
    if abs(np.log(ratio)) < SAME_SPEED:
        return tr("between these beats") + tail
    return tr("{tempo:.0f} a minute", tempo=other.tempo()) + tail
