"""Where A is: the record's offset from A4 = 440 Hz.

Method: peaks of long-window spectra, interpolated to fractions of a bin; each peak votes for its distance
from the nearest equal-tempered semitone. The votes live on a circle of 100 cents: their weighted circular
mean is found, then refined by the votes near the mode, which drums, bends and vibrato do not move
(circular tuning statistic: Dressler and Streich, "Tuning frequency estimation using circular statistics",
ISMIR 2007).
Conventions: cents in [-50, 50); confidence in [0, 1].
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..audio.recording import ANALYSIS_RATE as RATE
from .spectra import Array, magnitudes

FFT, HOP = 8192, 4096
LOWEST, HIGHEST = 110.0, 2500.0  # Hz: below, a bin is too wide; above, few partials are in tune
NEAR = 18.0  # cents around the mode that take part in the refined mean
HISTOGRAM_STEP = 2.0  # cents
STRETCH = 12.0  # seconds over which drift is averaged
FIRM = 0.25  # share of the votes near the mode that a stretch needs to tell its offset
# Cents away from the record's offset from which on a tape is heard at the offset it has at each moment, if that is told as sharply: by this
# share of the votes of half of its stretches (sliding tapes .40 and more; music that floats, of which no offset is firm, .33 and less)
FOLLOWED, SHARPLY = 12.0, 0.36


@dataclass(frozen=True)
class Tuning:
    """``histogram`` is (50,) votes per 2 cents from -50 on, summing to 1; ``drift`` is (n, 2): seconds and the
    offset around them, for stretches in which it can be told; ``uneven``, whether the machine ran so unevenly that the record is to be
    heard at the offset of each moment."""

    cents: float
    confidence: float
    histogram: NDArray[np.float64]
    drift: NDArray[np.float64]
    uneven: bool = False

    def over(self, times: NDArray[np.float64]) -> NDArray[np.float64]:
        """The offset at each of ``times`` in seconds."""
        return np.interp(times, *self.drift.T) if self.uneven else np.full(len(times), self.cents)


def _votes(signal: Array, tick: Callable[[float], None]) -> tuple[NDArray[np.float64], ...]:
    """Cents from the nearest semitone, weight and time (s) of every peak."""
    cents, weights, times = [], [], []
    low, high = int(LOWEST * FFT / RATE), int(HIGHEST * FFT / RATE)
    for start, block in magnitudes(signal, FFT, HOP, tick):
        log = np.log(block[:, low - 1 : high + 2] + 1e-9)
        middle, left, right = log[:, 1:-1], log[:, :-2], log[:, 2:]
        floor = np.median(log, axis=1, keepdims=True) + 1.5
        rows, cols = np.nonzero((middle > left) & (middle >= right) & (middle > floor))
        if not len(rows):
            continue
        a, b, c = left[rows, cols], middle[rows, cols], right[rows, cols]
        shift = 0.5 * (a - c) / (a - 2 * b + c - 1e-9)
        frequency = (cols + low + shift) * RATE / FFT
        midi = 69 + 12 * np.log2(frequency / 440)
        cents.append(100 * (midi - np.round(midi)))
        weights.append(np.exp(b) ** 0.5)
        times.append((start + rows) * HOP / RATE)
    if not cents:
        return np.zeros(0), np.zeros(0), np.zeros(0)
    return tuple(np.concatenate(part).astype(np.float64) for part in (cents, weights, times))


def wrap(cents: NDArray[np.float64] | float) -> NDArray[np.float64]:
    """Into [-50, 50)."""
    return np.asarray((np.asarray(cents) + 50) % 100 - 50)


def estimate(signal: Array, tick: Callable[[float], None] = lambda _: None) -> Tuning:
    """The offset of a mono signal at 22,050 Hz; 0 cents with no confidence for one without pitch."""
    cents, weights, times = _votes(signal, tick)
    edges = np.arange(-50, 50 + HISTOGRAM_STEP, HISTOGRAM_STEP)
    if not len(cents) or weights.sum() <= 0:
        return Tuning(0.0, 0.0, np.full(len(edges) - 1, 1 / (len(edges) - 1)), np.zeros((0, 2)))
    histogram = np.histogram(cents, edges, weights=weights)[0]
    histogram = histogram / histogram.sum()
    kernel = np.exp(-0.5 * (np.arange(-6, 7) * HISTOGRAM_STEP / 5.0) ** 2)
    smooth = np.convolve(np.tile(histogram, 3), kernel, "same")[len(histogram) : 2 * len(histogram)]
    centre = float(edges[int(np.argmax(smooth))] + HISTOGRAM_STEP / 2)
    centre = float(wrap(_refined(centre, cents, weights, 5)[0]))
    strength = abs((weights * np.exp(2j * np.pi * cents / 100)).sum()) / weights.sum()
    drift, sharp = _drift(cents, weights, times, centre)
    uneven = bool(sharp >= SHARPLY and np.abs(drift[:, 1] - centre).max() >= FOLLOWED)
    if uneven:
        middle = float(np.median(drift[:, 1]))
        centre = float(wrap(middle))
        drift[:, 1] += centre - middle
    return Tuning(centre, float(np.clip(strength * 2, 0, 1)), histogram, drift, uneven)


def _drift(
    cents: NDArray[np.float64], weights: NDArray[np.float64], times: NDArray[np.float64], centre: float
) -> tuple[NDArray[np.float64], float]:
    """The offset in overlapping stretches of the record: of the one in which most votes lie near the record's, then of each refined
    from the one beside it; and the share of the votes near it in half of them."""
    away = wrap(cents - centre)
    starts = np.arange(0, max(times[-1], STRETCH) - STRETCH / 2, STRETCH / 2)
    limits = [np.searchsorted(times, [start, start + STRETCH]) for start in starts]
    stretches = [(away[a:b], weights[a:b]) for a, b in limits]
    at = int(np.argmax([_refined(0.0, *stretch)[1] for stretch in stretches]))
    found: dict[int, tuple[float, float]] = {}  # how far away from the record's offset, and the share of the votes
    for way in (range(at, len(starts)), range(at, -1, -1)):
        here = found[at][0] if at in found else 0.0
        for k in way:
            refined, share = _refined(here, *stretches[k])
            if share > FIRM:
                here, found[k] = refined, (refined, share)
    drift = np.array([(starts[k] + STRETCH / 2, centre + found[k][0]) for k in sorted(found)]).reshape(-1, 2)
    return drift, float(np.median([share for _, share in found.values()])) if found else 0.0


def _refined(
    here: float, away: NDArray[np.float64], weights: NDArray[np.float64], rounds: int = 4
) -> tuple[float, float]:
    """Where the votes near ``here`` have their middle, and their share."""
    pull = np.zeros(len(away))
    for _ in range(rounds):
        beside = wrap(away - here)
        pull = weights * np.clip(1 - (beside / NEAR) ** 2, 0, None)
        if pull.sum() <= 0:
            break
        here = float(here + (pull * beside).sum() / pull.sum())
    return here, float(pull.sum() / (weights.sum() + 1e-9))
