"""Hum of the mains, taken out of a pitch spectrum."""

from __future__ import annotations

import numpy as np
import pytest

from tests.analysis.synth import RATE, pluck
from ychronos.analysis import hum, spectra

TONES = [40, 47, 52, 55, 59, 64, 45, 52, 57, 60, 64, 69]


def played(mains: float, level: float) -> np.ndarray:
    """Pitch spectrum of plucked notes over a hum of that level."""
    signal = np.concatenate([pluck(m, 1.0, 0.0, 0.3) for m in TONES * 2])
    t = np.arange(len(signal)) / RATE
    signal = signal + level * sum(np.sin(2 * np.pi * mains * k * t) / k for k in range(1, 7))
    return spectra.pitch(signal.astype(np.float32), 0.0)


@pytest.mark.parametrize("mains", [50.0, 50.2, 59.9])
def test_what_hums_goes_and_notes_stay(mains: float) -> None:
    clean, humming = played(mains, 0.0), played(mains, 0.05)
    still = hum.removed(humming, 0.0)
    bins = [round(spectra.BINS * (69 + 12 * np.log2(mains * k / 440) - spectra.LOWEST_MIDI)) + 1 for k in (1, 2, 3)]
    assert np.median(still[:, bins]) < 0.4 * np.median(humming[:, bins])
    strong = clean > 0.3 * clean.max()
    assert np.abs(still - clean)[strong].max() < 0.25 * clean.max()
    assert np.abs(still - clean).mean() < 0.5 * np.abs(humming - clean).mean()


def test_a_record_without_hum_is_left() -> None:
    spectrum = played(50.0, 0.0)
    assert hum.removed(spectrum, 0.0) is spectrum
    assert hum.removed(np.zeros((3, spectra.PITCH_BINS), np.float32), 0.0).max() == 0


@pytest.mark.parametrize("midi", [31, 35, 43])
def test_a_drone_is_no_hum(midi: int) -> None:
    t, f = np.arange(24 * RATE) / RATE, 440 * 2 ** ((midi - 69) / 12)  # G is near 50 Hz, B near 60
    drone = sum(0.05 / k * np.sin(2 * np.pi * f * k * t) for k in range(1, 7))
    signal = np.concatenate([pluck(m, 1.0, 0.0, 0.3) for m in TONES * 2]) + drone
    spectrum = spectra.pitch(signal.astype(np.float32), 0.0)
    assert hum.removed(spectrum, 0.0) is spectrum
