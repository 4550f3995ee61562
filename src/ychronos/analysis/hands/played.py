"""Which notes of each chord are played on the record: odds for every note of a guitar's range.

Task: of the many shapes of a chord, and of the capos at which it can be held, find those that the record speaks for.
Method: the note activations (:mod:`..chords.notes`) are averaged over all places where a chord sounds, which takes most
of the melody and the drums out; a note's odds are a weighted sum of how loud it is there beside the others, whether its
octaves are, and how high it lies. The weights come from a conditional logit over the shapes of songs whose hands are
known (``training/fit_hands.py``; McFadden, "Conditional logit analysis of qualitative choice behavior", 1974): what a
shape is worth is the sum of its notes, less what it costs a hand.
"""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

from ...guitar.odds import HIGHEST, LOWEST, HeardNotes, fitted
from ...song.model import Song
from ...theory.chord import Chord
from ..evidence import Evidence
from ..spectra import LOWEST_MIDI, PITCH_RATE

Floats = NDArray[np.float64]
EDGE = 0.03  # seconds left out at both ends of a chord
FEWEST = 6  # frames of a chord from which on it says anything
LOUDEST = slice(12, 60)  # activations that levels are measured against: C2 to B5
FEATURES = 18


@cache
def weights() -> Floats:
    """(FEATURES,) weights of a note's features."""
    return np.array(fitted()["notes"], float)


def features(amounts: Floats) -> Floats:
    """(HIGHEST - LOWEST + 1, FEATURES) of the notes of a chord, from the mean activations (84,) over its places."""
    level = np.sqrt(np.maximum(amounts, 0))
    level = level / (level[LOUDEST].max() + 1e-6)
    notes = np.arange(LOWEST, HIGHEST + 1)
    padded = np.concatenate([np.zeros(36), level, np.zeros(36)])
    at = notes - LOWEST_MIDI + 36

    def off(steps: int) -> Floats:
        return padded[at + steps]

    loudest = np.array([level[LOUDEST][k::12].max() for k in range(12)])[(notes - LOWEST_MIDI) % 12]
    own, height = off(0), (notes - 60) / 12
    low, high = notes < 45, notes >= 64
    columns = [np.ones(len(notes)), height, height**2, own, own * height, own**2, off(-12), off(12), off(-19), off(-24),
               off(7), off(-7), own / (loudest + 1e-3), off(-12) / (own + 0.1), low, low * own, high, high * own]  # fmt: skip
    return np.stack(columns, 1)


def chord_means(song: Song, evidence: Evidence) -> dict[Chord, tuple[Floats, int]]:
    """Mean note activations (84,) over all places of each chord, with the number of frames."""
    sums: dict[Chord, Floats] = {}
    count: dict[Chord, int] = {}
    total = len(evidence.notes)
    for i, span in enumerate(song.chords):
        if span.chord.is_none:
            continue
        a, b = (song.grid.clock(p) for p in song.chord_range(i))
        first, last = int((a + EDGE) * PITCH_RATE) + 1, int((b - EDGE) * PITCH_RATE)
        first = min(max(0, first), total - 1)
        last = min(total, max(last, first + 1))
        part = evidence.notes[first:last].astype(np.float32).sum(0, dtype=np.float64)
        sums[span.chord] = sums.get(span.chord, 0.0) + part
        count[span.chord] = count.get(span.chord, 0) + last - first
    return {c: (sums[c] / count[c], count[c]) for c in sums}


def heard_notes(song: Song, evidence: Evidence) -> HeardNotes:
    """What the record says of the notes of the song's chords."""
    w = weights()
    rows = [
        (chord, tuple(round(float(x), 2) for x in features(mean) @ w))
        for chord, (mean, frames) in chord_means(song, evidence).items()
        if frames >= FEWEST
    ]
    return HeardNotes(tuple(sorted(rows, key=lambda r: r[0].harte())))
