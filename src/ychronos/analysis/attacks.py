"""How much begins in each frame of the bands, and what a usual strong stroke is: for whoever asks whether somebody strikes.

Conventions: bands (T, k) at 50 frames a second, magnitudes on a linear scale.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .spectra import BAND_RATE, Array

Floats = NDArray[np.float64]
SECOND = int(BAND_RATE)
GROUPS = 6  # of bands, in which what begins is told
AT_ONCE = 30_000  # frames


def loudness(bands: NDArray[np.floating]) -> float:
    """How loud a band is in the mean where the record is loud: the 95th percentile of its frames."""
    return float(np.percentile(bands.astype(np.float32).sum(1), 95) / bands.shape[1] + 1e-9)


def sounding(bands: NDArray[np.floating], floor: float) -> NDArray[np.bool_]:
    """(T,) where a record is louder than ``floor`` of its loud parts, the 90th percentile of its frames."""
    loud = bands.astype(np.float32).sum(1)
    return np.asarray(loud > floor * np.percentile(loud, 90))


def rising(
    bands: NDArray[np.floating], loud: float | NDArray[np.floating]
) -> tuple[NDArray[np.floating], NDArray[np.floating]]:
    """(log bands against a loudness, how much each of them rises from the frame before), (T, k) both."""
    log = np.log1p(20 * bands / loud)
    return log, np.maximum(0, np.diff(log, axis=0, prepend=log[:1]))


def around(mean: NDArray[np.floating]) -> NDArray[np.floating]:
    """(T,) the mean loudness within half a second to either side."""
    half = SECOND // 2
    return np.convolve(np.pad(mean, half, mode="edge"), np.ones(2 * half + 1) / (2 * half + 1), "valid")


def usual(rise: NDArray[np.floating]) -> float:
    """A usual strong stroke: what half of the stretches of a second have."""
    if len(rise) < SECOND:
        return float(rise.max(initial=0.0))
    whole = rise[: len(rise) // SECOND * SECOND]
    return float(np.median(whole.reshape(-1, SECOND).max(1)))


def onsets(bands: NDArray[np.floating]) -> Array:
    """(T, GROUPS) how much begins in each frame of the bands, each group of bands about its own mean, in its own spread."""
    pieces = [slice(first, first + AT_ONCE) for first in range(0, len(bands), AT_ONCE)]  # of hours not all at once
    loud = loudness(bands)
    rise = np.empty((len(bands), GROUPS), np.float32)
    for p in pieces:
        before = max(0, p.start - 1)
        begun = rising(bands[before : p.stop].astype(np.float32), loud)[1][p.start - before :]
        rise[p] = begun.reshape(len(begun), GROUPS, -1).mean(2)
    rise[1:-1] = (rise[:-2] + 2 * rise[1:-1] + rise[2:]) / 4
    rise -= rise.mean(0)
    return np.asarray(rise / (rise.std(0) + 1e-6), np.float32)


def in_beats(begun: Array, times: Floats, phases: int) -> Array:
    """(beats - 1, phases, GROUPS) what begins at equally many places of each beat."""
    gaps = np.diff(times)
    at = np.clip((times[:-1, None] + np.arange(phases) / phases * gaps[:, None]) * BAND_RATE, 0, len(begun) - 1.001)
    low = at.astype(int)
    part = (at - low)[..., None].astype(np.float32)
    return np.asarray(begun[low] * (1 - part) + begun[low + 1] * part)
