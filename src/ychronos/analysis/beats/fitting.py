"""What speaks for a count besides the nets' opinion of it: chords that change on its beats, and beats that sound alike.

In a bar of six eighths the chord changes on the fourth, which is between the beats for whoever counts in quarters; where most chords
change on bar lines or in the middle of bars, the count is at the players' own speed; a figure of sixteenths comes again after a beat, and after half of one it does not. Conventions: times in seconds.
"""

from __future__ import annotations

import numpy as np

from ..attacks import in_beats
from ..spectra import Array
from .bars import ChordChanges, Floats, Ints

PHASES = 12  # places in a beat at which what begins is compared
LAGS = (1, 2, 4)  # beats later
NEAR = 0.09  # seconds within which a chord changes on a beat
MOST_BY_CHANCE = 0.95
FEWEST_CHANGES = 4


def alike(begun: Array, times: Floats) -> list[float]:
    """How much alike what begins in each beat of a count is to what begins LAGS beats later: correlations, none being 0."""
    seen = in_beats(begun, times, PHASES).reshape(len(times) - 1, -1)

    def after(lag: int) -> float:
        if len(seen) <= lag + 2:
            return 0.0
        one, other = seen[:-lag], seen[lag:]
        return float((one * other).sum() / np.sqrt(float((one**2).sum()) * float((other**2).sum()) + 1e-9))

    return [after(lag) for lag in LAGS]


def changes_on(changes: ChordChanges, times: Floats) -> float:
    """The share of chord changes that fall on a count's beats, beyond what would by chance: 1 if all do, 0 if as many as
    anywhere, less if fewer."""
    chance = min(MOST_BY_CHANCE, 2 * NEAR / float(np.median(np.diff(times))))
    share = _share_on(changes, times)
    return 0.0 if share is None else (share - chance) / (1 - chance)


def changes_in_bars(changes: ChordChanges, times: Floats, position: Ints) -> tuple[float, float]:
    """The shares of chord changes that fall on bar lines and on the middle of bars of an even number of beats, whose places
    (from 1) ``position`` gives. Who counts half as fast as the players has half of their bar lines there."""
    ones = np.flatnonzero(position == 1)
    lengths = np.diff(np.append(ones, len(position)))
    even = lengths % 2 == 0
    middles = ones[even] + lengths[even] // 2
    on_lines, inside = _share_on(changes, times[ones]), _share_on(changes, times[middles])
    return on_lines or 0.0, inside or 0.0


def _share_on(changes: ChordChanges, times: Floats) -> float | None:
    """The share of chord changes near some times; None where there are too few of either."""
    at, much = changes.moments
    if len(at) < FEWEST_CHANGES or len(times) < 2:
        return None
    place = np.clip(np.searchsorted(times, at), 1, len(times) - 1)
    apart = np.minimum(np.abs(times[place] - at), np.abs(times[place - 1] - at))
    return float((much * (apart < NEAR)).sum() / much.sum())
