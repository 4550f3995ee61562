"""How likely a section begins at each bar line.

Method: what bars look like around the line: how much the sound and the chords change there at four scales (a checkerboard kernel, Foote,
"Automatic audio segmentation using a measure of audio novelty", ICME 2000), how the level steps, how much the pattern of repetitions
changes (structure features, Serra et al., "Unsupervised music structure annotation by time series structure features and segment
similarity", IEEE TMM 2014), how plainly a repeat begins or ends there; and what players do at such a place: what is struck at its start,
a fill before it, a dominant that leads home, a bar of another length. Three small nets of dilated convolutions over the lines read that in
the light of the lines around, and speak together. They were trained on pieces cut out of songs anywhere, so that they cannot count from
the beginning. Trained by ``training/fit_sections.py``.
Conventions: likenesses are (bars, bars), 1 on the diagonal.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .. import net
from ..spectra import Array

Floats = NDArray[np.float64]
AHEAD = 4  # bars over which a repeat is followed
NEAREST = 4  # bars within which nothing counts as a repeat
BANDS = 12  # of a part of a bar
NETS, DILATIONS = 3, (1, 4, 8)
AROUND = 33  # of what is looked at, that a plain regression sees too
BY_NETS, BY_LINE = 0.4, 0.3  # shares of the nets and of the regression in the log odds


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
    from scipy.ndimage import gaussian_filter

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


def _step(level: Floats, width: int) -> Floats:
    """How much higher a curve is in the bars from each line on than in as many before it, 0 at the first."""
    after = range(len(level))
    return np.array([level[i : i + width].mean() - level[max(0, i - width) : i].mean() if i else 0.0 for i in after])


def features(level: Floats, harmony: Floats, sound: Floats, chances: Floats, chords: NDArray[np.int_]) -> Floats:
    """(n, 33) of what each bar line looks like; ``level`` (n,) in dB, ``chords`` (n, slices) as numbers, the rest
    likenesses."""
    rows = [_checkerboard(like, half) for like in (sound, chances) for half in (1, 2, 4, 8)]
    for width in (1, 2, 4):
        step = _step(level, width)
        rows += [np.abs(step) / 6, np.maximum(step, 0) / 6]
    rows.append(novelty(harmony, sound))
    equal = (chords[:, None] == chords[None]).mean(2)
    mixed = 0.6 * equal + 0.4 * np.clip(sound, 0, 1)
    for like in (equal, np.minimum(1.0, 1.2 * chances), mixed):
        rows += list(_repeats(like))
    return np.stack(rows, 1)


@dataclass(frozen=True)
class Looked:
    """What is looked at, bar by bar: ``level`` (n,) in dB, the likenesses ``harmony``, ``sound`` and ``chances`` (n, n), ``chords``
    (n, slices) as root * 3 + kind, -1 for none, ``parts`` (n, 8, 24) the sound of each eighth of a bar, its level in twelve bands and
    what begins in them, ``tonic`` (n,) of the key there, ``beats`` (n,) of the bar."""

    level: Floats
    harmony: Floats
    sound: Floats
    chances: Floats
    chords: NDArray[np.int_]
    parts: Floats
    tonic: NDArray[np.int_]
    beats: NDArray[np.int_]

    def features(self) -> Floats:
        """(n, 70) of what each bar line looks like."""
        around = features(self.level, self.harmony, self.sound, self.chances, self.chords)
        return np.concatenate([around, self.played()], axis=1)

    def played(self) -> Floats:
        """(n, 37): what is struck at the start of each bar and before it, in three regions; which chords lead over the line;
        which bars have another length."""
        level, begins = self.parts[:, :, :BANDS], self.parts[:, :, BANDS:]
        rows: list[Floats] = []
        for low in range(0, BANDS, BANDS // 3):
            region = slice(low, low + BANDS // 3)
            struck = begins[:, :, region]
            rows.append(_against(struck[:, 0].mean(1)))
            rows.append(_before(_against(struck[:, 6:].mean((1, 2)))))
            rows.append(_before(_against(struck[:, 4:].mean((1, 2))) - _against(struck[:, :4].mean((1, 2)))))
            loud = level[:, :, region].mean((1, 2))
            for width in (1, 4):
                step = _step(loud, width)
                rows += [2 * step, 2 * np.abs(step)]
        rows.append(_before(_against(level[:, 6:].mean((1, 2))) - _against(level.mean((1, 2)))))
        root = np.where(self.chords >= 0, self.chords // 3, -1)
        degree = np.where(root >= 0, (root - self.tonic[:, None]) % 12, -1)
        first, last = degree[:, 0], np.concatenate([[-1], degree[:-1, -1]])
        rows += [np.asarray(first == k, float) for k in (0, 5, 7, 9)] + [
            np.asarray(last == k, float) for k in (0, 5, 7)
        ]
        rows += [np.asarray(x, float) for x in ((last == 7) & (first == 0), first == -1, last == -1)]
        rows.append(np.asarray(root[:, 0] == np.concatenate([[-2], root[:-1, -1]]), float))
        changes = np.asarray((np.diff(root, axis=1) != 0).sum(1), float)
        changes -= changes.mean()
        other = np.asarray(self.beats != np.median(self.beats), float)
        rows += [_before(changes), changes, _before(other), other]
        return np.stack(rows, 1)


def _against(x: Floats) -> Floats:
    """How far each value is from the song's usual one, in its usual spread."""
    spread = np.percentile(x, 84) - np.percentile(x, 16) + 1e-3
    return np.asarray(np.clip((x - np.median(x)) / spread, -3, 3))


def _before(x: Floats) -> Floats:
    """The value of the bar before."""
    return np.concatenate([x[:1], x[:-1]])


def log_odds(looked: Looked) -> Floats:
    """Log odds that a section begins at each bar line, (n,)."""
    w = net.weights("sections")
    x = np.asarray((looked.features() - w["mean"]) / w["scale"], np.float32)
    nets = np.mean([_net(x, w, str(k)) for k in range(NETS)], axis=0)
    line = x[:, :AROUND] @ w["line.weight"] + w["line.bias"][0]
    return np.asarray(BY_NETS * nets + BY_LINE * line, np.float64)


def _net(x: Array, w: dict[str, Array], name: str) -> Array:
    inner = net.elu(x @ w[f"{name}.in.weight"] + w[f"{name}.in.bias"])
    for k, dilation in enumerate(DILATIONS):
        inner = inner + net.elu(net.conv(inner, w[f"{name}.block{k}.weight"], w[f"{name}.block{k}.bias"], dilation))
    return np.asarray(
        (x @ w[f"{name}.plain.weight"] + inner @ w[f"{name}.out.weight"])[:, 0] + w[f"{name}.out.bias"][0]
    )
