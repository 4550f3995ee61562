"""How often chords stand at each place of a key: two habits of writing songs.

*Homing* songs keep coming back to their home chord; the weights are a musician's, for popular songs. *Roaming*
songs wander among the chords of a mode, home being only one of them; the weights were counted in 200 songs of
the song maker's random generator (seeds 100-299). Tables: mode -> (semitones above the tonic, kind) -> weight,
kinds as in :func:`kind`.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache

import numpy as np
from numpy.typing import NDArray

from ...theory.chord import Chord
from ...theory.key import Key

HOMING: dict[str, dict[tuple[int, str], float]] = {
    "major": {(0, "M"): 30, (5, "M"): 18, (7, "M"): 19, (9, "m"): 11, (2, "m"): 8, (4, "m"): 4, (11, "d"): 1, (10, "M"): 2.0, (5, "m"): 1.0, (8, "M"): 0.8, (2, "M"): 1.2, (4, "M"): 1.2, (3, "M"): 0.6, (9, "M"): 0.8, (7, "m"): 0.6},
    "minor": {(0, "m"): 30, (5, "m"): 11, (7, "M"): 9, (7, "m"): 5, (10, "M"): 11, (8, "M"): 12, (3, "M"): 10, (2, "d"): 2.5, (5, "M"): 1.5, (11, "d"): 1, (1, "M"): 0.6, (0, "M"): 1.0, (2, "m"): 0.7},
    "dorian": {(0, "m"): 32, (5, "M"): 18, (10, "M"): 14, (3, "M"): 9, (7, "m"): 8, (2, "m"): 6, (9, "d"): 1, (8, "M"): 1, (7, "M"): 2},
    "mixolydian": {(0, "M"): 32, (10, "M"): 16, (5, "M"): 16, (7, "m"): 7, (9, "m"): 7, (2, "m"): 6, (7, "M"): 2.5, (3, "M"): 1, (8, "M"): 0.6},
    "phrygian": {(0, "m"): 34, (1, "M"): 20, (10, "m"): 9, (8, "M"): 8, (3, "M"): 6, (5, "m"): 6, (7, "d"): 1},
    "lydian": {(0, "M"): 34, (2, "M"): 20, (7, "M"): 10, (9, "m"): 7, (11, "m"): 7, (4, "m"): 5, (6, "d"): 1},
}  # fmt: skip
ROAMING: dict[str, dict[tuple[int, str], float]] = {
    "major": {(9, "m"): 198, (7, "M"): 176, (0, "M"): 110, (2, "m"): 107, (5, "M"): 105, (4, "m"): 97, (11, "d"): 93, (7, "?"): 38, (7, "7"): 17, (5, "m"): 13, (10, "M"): 10, (2, "7"): 10, (4, "7"): 9, (8, "M"): 9, (0, "?"): 4, (5, "?"): 4},
    "minor": {(8, "M"): 196, (0, "m"): 118, (3, "M"): 111, (7, "7"): 98, (5, "m"): 96, (10, "M"): 94, (2, "d"): 90, (7, "m"): 87, (7, "?"): 30, (11, "d"): 18, (7, "M"): 17, (5, "M"): 16, (1, "M"): 11, (8, "?"): 9, (3, "?"): 4, (10, "?"): 3, (5, "?"): 2},
    "dorian": {(0, "m"): 200, (5, "M"): 128, (7, "m"): 126, (5, "7"): 115, (10, "M"): 111, (2, "m"): 96, (3, "M"): 90, (7, "7"): 44, (7, "?"): 30, (8, "M"): 27, (7, "M"): 16, (10, "?"): 8, (3, "?"): 6, (5, "?"): 3},
    "mixolydian": {(5, "M"): 216, (2, "m"): 145, (0, "M"): 118, (0, "7"): 114, (9, "m"): 105, (7, "m"): 89, (10, "M"): 87, (7, "?"): 36, (8, "M"): 26, (7, "7"): 24, (3, "M"): 19, (7, "M"): 12, (5, "?"): 8},
}  # fmt: skip
BarChords = Sequence[tuple[Chord, float]]
"""Chords of a bar with their share of it."""
KEYS: tuple[Key, ...] = tuple(Key(t, m) for m in HOMING for t in range(12))
KINDS = "Mm7d+?"
_FIFTH_ONLY = 0.6  # a bare fifth may be major or minor
_ELSEWHERE = 0.25  # weight of a place that is not listed, of about 100
_COUNTED = 40.0  # what is not listed among the counted thousand, shared by all places


def kind(chord: Chord) -> str:
    """``M`` major, ``m`` minor, ``7`` dominant seventh, ``d`` diminished, ``+`` augmented, ``?`` no third."""
    steps = chord.intervals
    if 4 in steps:
        return "+" if 8 in steps and 7 not in steps else "7" if 10 in steps else "M"
    if 3 in steps:
        return "d" if 6 in steps and 7 not in steps else "m"
    return "?"


def triad(chord: Chord) -> str:
    """The kind without sevenths: ``M``, ``m``, ``d`` or ``?``."""
    found = kind(chord)
    return "M" if found in "7+" else found


def at_home(chord: Chord, key: Key) -> bool:
    """Whether a chord is the home chord of a key."""
    return chord.root == key.tonic and triad(chord) in ("m" if key.minorish else "M", "?")


@cache
def homes(chord: Chord) -> NDArray[np.float64]:
    """(len(KEYS),) whether a chord is the home chord of each key."""
    return np.array([float(at_home(chord, k)) for k in KEYS])


@cache
def log_shares(habit: str, mode: str) -> dict[tuple[int, str], float]:
    """Log share of every place among all chords of a song in a mode, by habit ("homing" or "roaming")."""
    out: dict[tuple[int, str], float] = {}
    if habit == "roaming":
        weights = ROAMING[mode]
        for step in range(12):
            for k in KINDS:
                out[step, k] = float(np.log((weights.get((step, k), 0) + _COUNTED / 72) / (1000 + _COUNTED)))
        return out
    weights = HOMING[mode]
    total = sum(weights.values()) + 12
    for step in range(12):
        for k in KINDS:
            if k == "?":
                value = _FIFTH_ONLY * max(weights.get((step, t), 0) for t in "Mm") + _ELSEWHERE
            else:
                value = weights.get((step, "M" if k in "7+" else k), 0) + _ELSEWHERE
            seventh = 0.5 if step == 7 else 0.2
            value *= {"M": 1 - seventh, "7": seventh, "+": 0.02}.get(k, 1.0)
            out[step, k] = float(np.log(value / total))
    return out


@cache
def expectation(step: int, chord_kind: str, mode: str) -> float:
    """Log of how much a homing song expects a triad at a place of its key, against an average chord."""
    weights = HOMING[mode]
    if chord_kind == "?":
        share = _FIFTH_ONLY * max(weights.get((step, k), 0.0) for k in "Mm") + _ELSEWHERE
    else:
        share = weights.get((step, chord_kind), 0.0) + _ELSEWHERE
    return float(np.log(share / (sum(weights.values()) + 12.0) * 36))
