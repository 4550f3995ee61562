"""How likely a section begins at each bar line.

Method: a logistic regression over what bars look like around the line: how much the sound and the chords change
there at four scales (a checkerboard kernel, Foote, "Automatic audio segmentation using a measure of audio
novelty", ICME 2000), how the level steps, how much the pattern of repetitions changes (structure features, Serra
et al., "Unsupervised music structure annotation by time series structure features and segment similarity", IEEE
TMM 2014), and how plainly a repeat begins or ends there: the next bars are those that begin elsewhere while the
bar before is not the bar before there. Fitted by ``training/fit_sections.py``.
Conventions: likenesses are (bars, bars), 1 on the diagonal.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter

from .. import net

Floats = NDArray[np.float64]
AHEAD = 4  # bars over which a repeat is followed
NEAREST = 4  # bars within which nothing counts as a repeat


def _checkerboard(like: Floats, half: int) -> Floats:
    """How much more alike the bars on each side of a line are than across it, (n,), by an integral image."""
    padded = np.pad(like, half, mode="edge")
    whole = np.zeros((len(padded) + 1, len(padded) + 1))
    whole[1:, 1:] = padded.cumsum(0).cumsum(1)
    at = np.arange(len(like))

    def mean(row: int, column: int) -> Floats:
        a, b = at + row, at + column
        total = whole[a + half, b + half] - whole[a, b + half] - whole[a + half, b] + whole[a, b]
        return np.asarray(total / half**2)

    return mean(0, 0) + mean(half, half) - mean(0, half) - mean(half, 0)


def novelty(harmony: Floats, sound: Floats) -> Floats:
    """How much begins at each bar line, (n,), about 1 for a typical section start."""
    count = len(harmony)
    foote = sum(w * np.maximum(0.0, _checkerboard(sound, half)) for half, w in ((2, 0.4), (4, 0.6)))
    structure = np.zeros(count)
    ranked = np.sort(harmony, axis=1)[:, ::-1]
    near = max(2, min(count - 1, int(0.15 * count)))
    close = (harmony >= ranked[:, near : near + 1]) * np.clip(harmony, 0, 1)
    close = np.minimum(close, close.T)
    lag = np.zeros((count, 2 * count))
    for i in range(count):
        lag[i, (np.arange(count) - i) + count] = close[i]
    blurred = gaussian_filter(lag, (1.6, 0.4))
    structure[1:] = np.sqrt(((blurred[1:] - blurred[:-1]) ** 2).sum(1))
    out = np.zeros(count)
    for curve, weight in ((foote, 0.55), (structure, 0.45)):
        spread = np.percentile(curve, 90) + 1e-6
        out += weight * np.clip(curve / spread, 0, 2.5)
    return out


def _along(like: Floats, ahead: int) -> Floats:
    """Mean along the diagonals over the next bars."""
    count = len(like)
    total, weight = np.zeros_like(like), np.zeros_like(like)
    for k in range(min(ahead, count)):
        at = slice(0, count - k)
        total[at, at] += like[k:, k:]
        weight[at, at] += 1
    return total / np.maximum(weight, 1)


def _repeats(like: Floats) -> Floats:
    """(6, n): how plainly a repeat begins at each bar (best, best two, how many) and ends before it (best, best
    two), and both at once."""
    count = len(like)
    forward = _along(like, AHEAD)
    backward = _along(like[::-1, ::-1], AHEAD)[::-1, ::-1]
    before = np.zeros_like(like)
    before[1:, 1:] = like[:-1, :-1]
    past = np.zeros_like(like)
    past[1:, 1:] = backward[:-1, :-1]
    far = np.abs(np.arange(count)[:, None] - np.arange(count)[None]) >= NEAREST
    starts = far & (np.arange(count)[None] <= count - 3)
    ends = far & (np.arange(count)[None] >= 3)
    on = np.sort(np.where(starts, forward**2 * (1 - before), 0.0), axis=1)[:, ::-1]
    off = np.sort(np.where(ends, past**2 * (1 - like), 0.0), axis=1)[:, ::-1]
    off[0] = 0.0
    many = np.minimum((on > 0.6).sum(1), 3)
    return np.stack([on[:, 0], on[:, :2].mean(1), many, off[:, 0], off[:, :2].mean(1), on[:, 0] * off[:, 0]])


def features(level: Floats, harmony: Floats, sound: Floats, chances: Floats, chords: NDArray[np.int_]) -> Floats:
    """(n, 33) of what each bar line looks like; ``level`` (n,) in dB, ``chords`` (n, slices) as numbers, the rest
    likenesses."""
    count = len(level)
    rows = [_checkerboard(like, half) for like in (sound, chances) for half in (1, 2, 4, 8)]
    for width in (1, 2, 4):
        step = np.array(
            [level[i : i + width].mean() - level[max(0, i - width) : i].mean() if i else 0.0 for i in range(count)]
        )
        rows += [np.abs(step) / 6, np.maximum(step, 0) / 6]
    rows.append(novelty(harmony, sound))
    equal = (chords[:, None] == chords[None]).mean(2)
    mixed = 0.6 * equal + 0.4 * np.clip(sound, 0, 1)
    for like in (equal, np.minimum(1.0, 1.2 * chances), mixed):
        rows += list(_repeats(like))
    return np.stack(rows, 1)


def log_odds(level: Floats, harmony: Floats, sound: Floats, chances: Floats, chords: NDArray[np.int_]) -> Floats:
    """Log odds that a section begins at each bar line, (n,)."""
    w = net.weights("sections")
    x = (features(level, harmony, sound, chances, chords) - w["mean"]) / w["scale"]
    return np.asarray(x @ w["weight"] + w["bias"][0], np.float64)
