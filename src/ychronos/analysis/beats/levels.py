"""Stretches that are counted in eighths within a song that is counted in quarters: a bridge in 7/8, bars of 13/8.

Method: a hidden Markov model over beats and the points halfway between them. Its states are a meter and the place in
the bar: plain meters pass through halfway points without counting them, eighth meters count every point. Bar lines
that fall between the beats, and what the net hears there, speak for eighths; going over to them and back costs, but
among themselves odd meters change freely (7 + 13 in turn). Costs were set on development songs.
Conventions: points by index, even ones are the beats of the count.
"""

from __future__ import annotations

import numpy as np

from ..chains import best_paths
from ..spectra import runs
from . import bars, pulse
from .bars import Bars, ChordChanges, Floats, Ints
from .pulsenet import METERS, PulseEvidence

BEAT_WEIGHT = 0.1  # of what the net says of a beat; it tends to go on counting quarters
OVER_COST, AMONG_COST, SHORT_COST = 7.0, 1.0, 8.0
SLOWEST, QUICKEST = 75.0, 210.0  # beats a minute, within which half a beat can be a count
FEWEST = 16
FEWEST_BARS, MOST_KINDS = 4, 2  # bars of a stretch in eighths, and different lengths among them
NEARLY_TWELVE = {11, 13}  # eighths of bars that by themselves are rather miscounted ones
PATTERN = 4  # bars after which a pattern comes again at the latest
REGULAR = 0.9  # share of bars that keep to it

PLAIN = [i for i, (_, compound, eighth) in enumerate(METERS) if not compound and not eighth]
EIGHTH = [i for i, (_, _, eighth) in enumerate(METERS) if eighth]
_METER = np.array(PLAIN + EIGHTH)
_PLAIN = np.isin(_METER, PLAIN)
_LENGTH = np.array([METERS[i][0] for i in _METER]) * np.where(_PLAIN, 2, 1)
_PLACE = np.arange(int(_LENGTH.max()))
_THERE = _PLACE[None] < _LENGTH[:, None]
_BETWEEN = _PLAIN[:, None] & (_PLACE[None] % 2 == 1)  # places that are not counted
_LEAVING = np.where(_BETWEEN | (_PLACE[None] == 0), -SHORT_COST - 3, -SHORT_COST)
_LEAVING = np.where(_PLACE[None] == _LENGTH[:, None] - 1, 0.0, _LEAVING)
_LEAVING = np.where(_THERE, _LEAVING, -np.inf)
_CHANGE = np.where(~_PLAIN[:, None] & ~_PLAIN[None], -AMONG_COST, -OVER_COST)
np.fill_diagonal(_CHANGE, 0.0)


def decide(
    evidence: PulseEvidence, times: pulse.Times, decided: Bars, changes: ChordChanges | None
) -> tuple[pulse.Times, Bars]:
    """A count with its stretches in eighths counted so; as it was where there are none."""
    usual = decided.usual_meter
    if len(times) < FEWEST or usual not in PLAIN or not SLOWEST <= 60 / float(np.median(np.diff(times))) <= QUICKEST:
        return times, decided
    last = times[-1] + (times[-1] - times[-2]) / 2
    between = np.append((times[1:] + times[:-1]) / 2, last)
    points = np.stack([times, between], 1).ravel()
    odds = np.stack([bars.log_odds_of_one(evidence, t, changes) for t in (times, between)], 1).ravel()
    odds = bars.made_clear(odds, np.stack([decided.position == 1, np.zeros(len(times), bool)], 1).ravel())
    observed = _observe(evidence, times, points, odds)
    observed[:, _PLAIN & (usual != _METER)] -= bars.OTHER_COST / 2  # points are half beats
    while True:
        (path,) = best_paths([observed], _LEAVING, _CHANGE)
        meter, place = path // len(_PLACE), path % len(_PLACE)
        if _PLAIN[meter].all():
            return times, decided
        doubted = [span for span in runs(~_PLAIN[meter]) if not _regular(meter[slice(*span)], place[slice(*span)])]
        if not doubted:
            break
        for first, last in doubted:
            observed[first:last, ~_PLAIN] = -np.inf
    counted = ~_BETWEEN[meter, place]
    meter, place, odds = meter[counted], place[counted], odds[counted]
    position = np.where(_PLAIN[meter], place // 2, place) + 1
    score = float(odds[position == 1].sum())
    return points[counted], Bars(position, _METER[meter], 1 / (1 + np.exp(-odds)), score)


def _regular(meter: Ints, place: Ints) -> bool:
    """Whether the bars of a stretch follow a pattern of one or two meters: a band that plays odd bars repeats them, while
    bars of any length between beats that are not clear are what a count falls apart into."""
    starts = np.flatnonzero(place == 0)
    lengths = np.diff(np.append(starts, len(place)))
    kinds = set(lengths.tolist())
    if len(lengths) < FEWEST_BARS or len(kinds) > MOST_KINDS or (len(kinds) == 1 and kinds <= NEARLY_TWELVE):
        return False
    periods = range(len(kinds), min(PATTERN, len(lengths) // 2) + 1)  # two meters take turns
    return max(float(np.mean(lengths[k:] == lengths[:-k])) for k in periods) >= REGULAR


def _observe(evidence: PulseEvidence, times: pulse.Times, points: Floats, odds: Floats) -> Floats:
    """(points, meters, places) log weights; ``odds`` are the log odds of a bar line at each point."""
    beat = bars.log_odds_at(evidence.beat, points, 1, pulse.FLOOR)
    counted, passed = -BEAT_WEIGHT * np.logaddexp(0, -beat), -BEAT_WEIGHT * np.logaddexp(0, beat)
    out = np.where(_BETWEEN[None], passed[:, None, None], counted[:, None, None])
    out[:, :, 0] -= np.logaddexp(0, -odds)[:, None]
    out[:, :, 1:] -= np.logaddexp(0, odds)[:, None, None]
    tempo = 60 / float(np.median(np.diff(times)))
    by_meter = np.where(_PLAIN, bars.range_cost(tempo)[_METER] / 2, bars.range_cost(2 * tempo)[_METER])
    out += by_meter[None, :, None]
    out[:, ~_THERE] = -np.inf
    out[0, _BETWEEN] = -np.inf  # a song begins on a beat
    return np.asarray(out)
