"""How much begins in each frame of the bands, and what a usual strong stroke is: for whoever asks whether somebody strikes.

Conventions: bands (T, k) at 50 frames a second, magnitudes on a linear scale.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .spectra import BAND_RATE

Floats = NDArray[np.float64]
SECOND = int(BAND_RATE)


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
