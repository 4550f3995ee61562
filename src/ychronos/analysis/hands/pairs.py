"""Whether two guitars play the strokes of a section, one on each side of the stereo picture, or one does.

Method: of what begins at the strokes, in four bands, how far from the middle it lies, how widely its bins are strewn, and how much both channels
move together; medians and spreads over the strokes, weighed by a small net (``training/fit_pairs.py``). One guitar gives one place, and channels
that move together; two takes, each from its side, give neither. What only singers, drums and others do there is learned from songs that have them.
A record in mono cannot say; there it is one.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ...audio.breadth import BANDS, HOP, RATE
from .. import net
from ..spectra import Array

Floats = NDArray[np.float64]
FEWEST = 8  # strokes that can tell
NARROW = 0.03  # radians that the bins of the lower bands are strewn in the mean, below which it is a record in mono in all but name
PLAINLY = 0.8  # log odds from which on there are two


def features(breadth: Array, times: Floats) -> Floats | None:
    """(28,) what is weighed of the strokes at ``times`` (seconds); ``breadth`` is as in the evidence. None where there is too little."""
    at = np.unique(np.round(times * RATE / HOP).astype(int))
    at = at[(at > 1) & (at < len(breadth))]
    if len(at) < FEWEST:
        return None
    angle, square, together = breadth[at].astype(float).reshape(len(at), 3, BANDS).transpose(1, 0, 2)
    strewn = np.median(np.sqrt(np.maximum(0, square - angle**2)), axis=0)
    if strewn[:-1].mean() < NARROW:
        return None
    strewn = np.log(strewn + 0.01)
    aside = np.log(np.abs(np.median(angle, axis=0)) + 0.01)
    apart = [np.log(np.maximum(0, 1 - np.quantile(together, q, axis=0)) + 0.005) for q in (0.5, 0.25, 0.75)]
    return np.concatenate([aside, strewn, *apart, np.log(angle.std(0) + 0.01), strewn - aside])


def two(breadth: Array, parts: Sequence[Floats]) -> list[bool]:
    """Whether two guitars strike, for each of the parts of a song (seconds of its strokes): what a part says and what all say together
    count alike, since who plays seldom changes."""
    everywhere = _odds(features(breadth, np.concatenate(parts or [np.zeros(0)])))
    if everywhere is None:
        return [False] * len(parts)
    each = [_odds(features(breadth, times)) for times in parts]
    return [everywhere + (everywhere if odds is None else odds) > 2 * PLAINLY for odds in each]


def _odds(row: Floats | None) -> float | None:
    """Log odds that two strike."""
    if row is None:
        return None
    chance = float(np.clip(net.chances("pairs", row[None])[0, 0], 1e-4, 1 - 1e-4))
    return float(np.log(chance / (1 - chance)))
