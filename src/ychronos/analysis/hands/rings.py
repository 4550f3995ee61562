"""Chords that are struck once and left to ring, by everybody who plays: told from how little begins after the first stroke.

Method: how much begins in each frame, against the song's usual strong stroke and, as a sound that dies away hides little, against the
loudness around; the most and the usual of that inside the chord, in how many eighths anything begins, how loud the chord is at its end against its
beginning, the same of the chords before and after, and how long it is. A logistic regression (``training/fit_rings.py``) on songs with chords that are
marked to ring. Conventions: frames at 50 a second, times in seconds.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ...song.model import Song
from ..attacks import around, rising, usual
from ..evidence import Evidence
from ..kept import is_large
from ..spectra import BAND_RATE

Floats = NDArray[np.float64]
SHORTEST = 0.7  # seconds of a chord that can be told
AFTER, BEFORE = 0.2, 0.09  # seconds after its stroke, and before the next one, that are not looked at
BEGUN = 0.3  # of a usual strong stroke: something begins
# constant, then one weight for each of FEATURES
WEIGHTS = (-8.23, -2.25, -1.66, -1.24, -0.52, 0.87, 0.12, 2.24, 1.58)
FEATURES = ("most", "usual", "often", "against its loudness", "falls", "most around", "often around", "long")


def strokes(bands: NDArray[np.floating]) -> tuple[Floats, Floats, Floats]:
    """(T,) each: how much begins, 1 being a usual strong stroke; the same against the loudness of the second around; level in dB."""
    bands = bands.astype(np.float32)
    mean = bands.mean(1)
    loud = np.percentile(mean, 95) + 1e-9
    near = around(mean) + 0.02 * loud
    both = []
    for scale in (loud, near[:, None]):
        rise = rising(bands, scale)[1].mean(1)
        both.append(np.asarray(rise / (usual(rise) + 1e-3), np.float64))
    return both[0], both[1], np.asarray(20 * np.log10(mean + 1e-4 * loud), np.float64)


def features(heard: tuple[Floats, Floats, Floats], spans: Sequence[tuple[float, float]], beat: float) -> Floats:
    """(spans, len(FEATURES)) of chords that sound from one time to another, in order; ``heard`` is what :func:`strokes` gives, ``beat`` in seconds. Rows of chords too short to tell are NaN."""
    begun, against, level = heard
    rows = np.full((len(spans), len(FEATURES)), np.nan)
    for k, (start, end) in enumerate(spans):
        a, b = int((start + AFTER) * BAND_RATE), min(len(begun), int((end - BEFORE) * BAND_RATE))
        if end - start < SHORTEST or not 0 <= a < b - 2:
            continue
        inside, lifted = begun[a:b], against[a:b]
        eighths = np.array_split(inside, max(2, round((end - start) / (beat / 2)) - 1))
        head = level[max(0, a - 8) : a + 4].mean()
        rows[k] = (
            *(
                inside.max(),
                np.mean([e.max() for e in eighths if len(e)]),
                np.mean([e.max() > BEGUN for e in eighths if len(e)]),
            ),
            *(lifted.max(), (head - level[max(a, b - 12) : b].mean()) / 10, 0.0, 0.0, np.log((end - start) / beat)),
        )
    for k in range(len(rows)):
        near = [rows[i] for i in (k - 2, k - 1, k + 1, k + 2) if 0 <= i < len(rows) and not np.isnan(rows[i][0])]
        if near:
            rows[k, 5], rows[k, 6] = np.mean([r[0] for r in near]), np.mean([r[2] for r in near])
    rows[:, [0, 1, 3, 5]] = np.log(rows[:, [0, 1, 3, 5]] + 0.05)
    return rows


def chances(rows: Floats) -> Floats:
    """(n,) how likely each is left to ring; 0 where that cannot be told."""
    odds = WEIGHTS[0] + np.nan_to_num(rows) @ np.array(WEIGHTS[1:])
    return np.where(np.isnan(rows).any(1), 0.0, 1 / (1 + np.exp(-np.clip(odds, -30, 30))))


def ringing(song: Song, evidence: Evidence) -> Floats:
    """(chords,) how likely each chord of a song is struck once and left to ring."""
    grid = song.grid
    spans = [tuple(grid.clock(p) for p in song.chord_range(i)) for i in range(len(song.chords))]
    heard = evidence.kept.get("one stroke", None, lambda: strokes(evidence.bands), 0 if is_large(evidence.bands) else 1)
    rows = features(heard, [(a, b) for a, b in spans], 60 / grid.tempo())
    plays = np.array([not c.chord.is_none for c in song.chords])
    return np.where(plays, chances(rows), 0.0)
