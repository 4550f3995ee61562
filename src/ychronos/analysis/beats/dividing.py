"""Whether beats divide in two or in three: what begins between them.

Method: what begins (:func:`..attacks.onsets`) a quarter, a third, a half, two thirds and three quarters of a beat after each
beat, and near the beats, in the mean of the beats around; a logistic regression on these six (``training/fit_dividing.py``). A swing
has hardly anything a third after a beat, twelve eighths do. Conventions: times in seconds.
"""

from __future__ import annotations

import numpy as np

from ..attacks import in_beats
from ..spectra import Array, Floats, running_sums

PHASES = 24
PLACES = (6, 8, 12, 16, 18)  # of the 24th parts of a beat: those at which somebody plays where a beat is divided
BESIDE = (2, 3, 4, 20, 21, 22)  # those at which nobody plays on purpose
AROUND = 128  # beats asked together: songs of a tape, and parts of a song, may divide their beats in other ways
MOST_SURE = 8.0  # log odds beyond which it makes no difference
# of what begins at PLACES, of what begins at BESIDE in the mean; constant
WEIGHTS = (0.78, 7.04, -1.81, 1.64, -1.35, -6.38, -3.23)


def features(begun: Array, times: Floats) -> Floats:
    """(beats - 1, 6) what begins in each beat at :data:`PLACES`, and at :data:`BESIDE` in the mean."""
    seen = in_beats(begun, times, PHASES).mean(2)
    beside = seen[:, list(BESIDE)].mean(1, keepdims=True)
    return np.concatenate([seen[:, list(PLACES)], beside], axis=1).astype(float)


def in_threes(begun: Array, times: Floats) -> Floats:
    """(beats - 1,) log odds that the beats around each beat of ``times`` divide in three."""
    rows = features(begun, times)
    at = np.arange(len(rows))
    first = np.clip(at - AROUND // 2, 0, max(0, len(rows) - AROUND))
    last = np.minimum(first + AROUND, len(rows))
    sums = running_sums(rows)
    mean = (sums[last] - sums[first]) / (last - first)[:, None]
    return np.asarray(np.clip(np.c_[mean, np.ones(len(mean))] @ np.array(WEIGHTS), -MOST_SURE, MOST_SURE))
