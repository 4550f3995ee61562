"""A stretch of sound in fine detail, for the notes of a line: 86 frames a second of three bins a semitone.

Three lengths of window, long for low notes and short for high ones, so that a semitone is told everywhere and an attack is not
smeared where that is not needed. Conventions: mono float32 at 22,050 Hz; frame i is centred on i * HOP / rate seconds; pitch as MIDI
numbers at the record's own tuning.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ...audio.recording import ANALYSIS_RATE as RATE
from ..spectra import Array, magnitudes

HOP = 256
FINE_RATE = RATE / HOP
LOW_BIN, HIGH_BIN, BINS = 16, 121, 3  # MIDI of the first bin, of the end, bins a semitone
COUNT = (HIGH_BIN - LOW_BIN) * BINS
WINDOWS = ((8192, 16, 55), (4096, 55, 76), (2048, 76, 121))  # samples, first MIDI, end
FLUX = 8  # bands whose rise is kept
FLUX_FFT = 1024


@lru_cache(maxsize=8)
def _places(size: int, low: int, high: int, cents: float) -> tuple[Array, Array]:
    """(whole, part) of the bins of a spectrum of ``size`` samples that the log bins lie at."""
    midi = low + np.arange((high - low) * BINS) / BINS
    hertz = 440 * 2 ** ((midi - 69 + cents / 100) / 12)
    at = np.minimum(hertz * size / RATE, size // 2 - 1.001)
    whole = np.floor(at)
    return whole.astype(int), (at - whole).astype(np.float32)


def spectrum(mono: Array, cents: float) -> Array:
    """(frames, COUNT) magnitudes at the tuning ``cents`` from A4 = 440 Hz, log-compressed against the loudest of the stretch."""
    parts = []
    for size, low, high in WINDOWS:
        whole, part = _places(size, low, high, round(cents, 1))
        rows = [block[:, whole] * (1 - part) + block[:, whole + 1] * part for _, block in magnitudes(mono, size, HOP)]
        parts.append(np.concatenate(rows))
    out = np.concatenate(parts, axis=1)
    reference = np.percentile(out.max(1), 90) + 1e-7
    return np.asarray(np.log1p(100 * out / reference) / np.log(101), np.float32)


def flux(mono: Array) -> Array:
    """(frames, FLUX) how much the sound rises in wide bands: attacks, sharper in time than the spectrum."""
    edges = np.geomspace(3, FLUX_FFT // 2, FLUX + 1).astype(int)
    rows = [
        np.stack([block[:, a:b].mean(1) for a, b in zip(edges[:-1], edges[1:], strict=False)], axis=1)
        for _, block in magnitudes(mono, FLUX_FFT, HOP)
    ]
    level = np.concatenate(rows)
    log = np.log1p(100 * level / (np.percentile(level.max(1), 90) + 1e-7)) / np.log(101)
    return np.asarray(np.maximum(0, np.diff(log, axis=0, prepend=log[:1])) * 4, np.float32)
