"""Which notes sound: a pitch spectrum explained as a sum of harmonic tones.

Method: each frame of the pitch spectrum is approximated by non-negative amounts of 84 note shapes (a
fundamental and partials that fall off geometrically), fitted by multiplicative updates with a fixed
dictionary (Lee and Seung, "Algorithms for non-negative matrix factorization", NIPS 2000; as a front end
for chords: Mauch and Dixon, "Approximate note transcription for the improved identification of difficult
chords", ISMIR 2010). Before that the spectrum is flattened: each bin is set against the spectrum around
it, which takes out the tone colour of the record and much of the drums.
Conventions: notes are MIDI 24 (C1) .. 107 (B7), frames as in :mod:`spectra`.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

import numpy as np

from ..spectra import BINS, OCTAVES, PITCH_BINS, Array

NOTES = OCTAVES * 12
PARTIALS = 12
DECAY = 0.72  # strength of each partial relative to the one below it
ITERATIONS = 24
_BLOCK = 2048  # frames fitted at a time


@lru_cache(maxsize=1)
def _dictionary() -> Array:
    """(PITCH_BINS, NOTES) shapes of unit sum."""
    shapes = np.zeros((PITCH_BINS, NOTES))
    bins = np.arange(PITCH_BINS)
    for note in range(NOTES):
        for partial in range(1, PARTIALS + 1):
            centre = note * BINS + 1 + 12 * BINS * np.log2(partial)
            if centre < PITCH_BINS:
                shapes[:, note] += DECAY ** (partial - 1) * np.exp(-0.5 * ((bins - centre) / 0.75) ** 2)
    return np.asarray(shapes / shapes.sum(0), np.float32)


def flatten(spectrum: Array) -> Array:
    """A pitch spectrum with its tone colour taken out: what stands above its surroundings, compressed."""
    from scipy.ndimage import uniform_filter1d

    loud = np.sqrt((spectrum**2).mean(axis=1, keepdims=True)) + 1e-7
    log = np.log1p(30 * spectrum / np.maximum(loud, 0.02 * loud.max()))
    mean = uniform_filter1d(log, 12 * BINS + 1, axis=1, mode="nearest")
    # the filter keeps running sums: where all is silent they can end a little below nothing
    spread = np.sqrt(np.maximum(0, uniform_filter1d((log - mean) ** 2, 12 * BINS + 1, axis=1, mode="nearest")))
    return np.asarray(np.maximum(0, log - mean) / (spread + 0.25) ** 0.7, np.float32)


def activations(spectrum: Array, tick: Callable[[float], None] = lambda _: None) -> Array:
    """Amounts of each note in each frame, (frames, NOTES), from a pitch spectrum (frames, PITCH_BINS)."""
    shapes = _dictionary()
    out = np.empty((len(spectrum), NOTES), np.float32)
    flat = flatten(spectrum)
    gram = shapes.T @ shapes
    for start in range(0, len(spectrum), _BLOCK):
        block = flat[start : start + _BLOCK]
        target = block @ shapes
        amounts = target + 1e-3
        for _ in range(ITERATIONS):
            amounts *= target / (amounts @ gram + 1e-6)
        out[start : start + len(block)] = amounts
        tick(min(1.0, (start + _BLOCK) / len(spectrum)))
    return out


def change(chroma: Array, reach: float) -> Array:
    """How much the notes around each frame change: cosine distance of what is before and after.

    ``chroma`` is (frames, n); ``reach`` the width in frames of what is compared. Returns (frames,) in [0, 1].
    """
    from scipy.ndimage import uniform_filter1d

    half = max(1, int(round(reach)))
    smooth = uniform_filter1d(chroma, half, axis=0, mode="nearest")
    before = np.roll(smooth, (half + 1) // 2 + half % 2, axis=0)
    after = np.roll(smooth, -(half // 2), axis=0)
    before[:half], after[-half:] = smooth[:half], smooth[-half:]
    dot = (before * after).sum(1)
    size = np.sqrt((before**2).sum(1) * (after**2).sum(1)) + 1e-6
    return np.asarray(1 - dot / size, np.float32)


def smooth(values: Array, sigma: float) -> Array:
    from scipy.ndimage import gaussian_filter1d

    return np.asarray(gaussian_filter1d(values, sigma, axis=0), np.float32)
