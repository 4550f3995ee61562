"""Bars that say the same: what one bar leaves open, its likes may tell.

Method: bars are compared by the chord chances of their segments in order, with their neighbours on either side,
so that a bar is like another only where the music around them is alike too. The evidence of a bar is then
averaged with that of its few best likes, segment by segment, and only as far as both agree on the root there:
where a pass has another chord it keeps it. Bars are the unit because passes differ by whole bars.
Conventions: ``groups[bar]`` are the segments of a bar; chances (segments, chords) are probabilities.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
CONTEXT = 3  # bars to either side
ALIKE = 0.5  # likeness from which on a bar counts as a like, 1 being the same
LIKES = 4  # of each bar at most
WEIGHT = 1.5  # of a perfect like's evidence against the bar's own
_LEAST = 0.05


def likeness(chances: Floats, groups: Sequence[Sequence[int]]) -> tuple[Floats, list[int]]:
    """How alike the bars of the usual number of segments are, 0 .. 1 with 0 on the diagonal, and which they are.

    Bars are compared by the Bhattacharyya coefficient of their segments' chances.
    """
    usual = Counter(len(g) for g in groups).most_common(1)[0][0]
    bars = [b for b, g in enumerate(groups) if len(g) == usual]
    flat = np.sqrt(np.maximum(chances, 1e-9))[[list(groups[b]) for b in bars]].reshape(len(bars), -1)
    same = flat @ flat.T / usual
    total, weight = np.zeros_like(same), np.zeros_like(same)
    for step in range(-CONTEXT, CONTEXT + 1):
        at = np.arange(max(0, -step), min(len(bars), len(bars) - step))
        share = 1 / (1 + abs(step))
        total[np.ix_(at, at)] += share * same[np.ix_(at + step, at + step)]
        weight[np.ix_(at, at)] += share
    total /= np.maximum(weight, 1e-9)
    np.fill_diagonal(total, 0)
    return total, bars


def pool(score: Floats, chances: Floats, roots: NDArray[np.int_], groups: Sequence[Sequence[int]]) -> Floats:
    """Log scores (segments, chords), averaged among bars that are alike. ``chances`` are those of the chords by
    the bars' own evidence, ``roots`` (chords,) says which chords have the same root."""
    same, bars = likeness(chances, groups)
    weight = np.clip((same - ALIKE) / (1 - ALIKE), 0, 1)
    by_root = np.stack([chances[:, roots == r].sum(1) for r in np.unique(roots)], 1)
    root = np.sqrt(np.maximum(by_root, 1e-9))
    out = score.copy()
    for i, bar in enumerate(bars):
        likes = [j for j in np.argsort(-weight[i])[:LIKES] if weight[i, j] > _LEAST]
        if not likes:
            continue
        mine = list(groups[bar])
        told, shares = np.zeros((len(mine), score.shape[1])), np.zeros((len(mine), 1))
        for j in likes:
            theirs = list(groups[bars[j]])
            agree = (root[mine] * root[theirs]).sum(1)[:, None]
            told += weight[i, j] * agree * score[theirs]
            shares += weight[i, j] * agree
        out[mine] = (score[mine] + WEIGHT * told) / (1 + WEIGHT * shares)
    return out
