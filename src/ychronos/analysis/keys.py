"""Keys over time, from the chords.

Method: every key expects chords by their place in it: degrees of its scale by the weight they have in
popular harmony, its home chord most. Each bar's chords speak for each key by those expectations; the first
and last chord of the song speak for home. A hidden Markov model over bars, in which a change of key costs
much, decides (key finding from chords: Papadopoulos and Peeters, "Joint estimation of chords and downbeats
from an audio signal", IEEE TASLP 2011, section on keys).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from ..theory.chord import QUALITIES, Chord
from ..theory.key import SCALES, Key

MODES = ("major", "minor", "dorian", "mixolydian")
KEYS: tuple[Key, ...] = tuple(Key(t, m) for m in MODES for t in range(12))
CHANGE_COST = 9.0
END_WEIGHT = 5.0  # the last chord's word for home, in bars of its own; the first chord's is half of that
PRIOR = {"major": 0.0, "minor": 0.0, "dorian": -0.12, "mixolydian": -0.12}  # per bar, for the rarer modes
Floats = NDArray[np.float64]

# Weight of roots (semitones above the tonic) with their usual triads; what is not listed is an outsider.
_WEIGHTS: dict[str, dict[tuple[int, str], float]] = {
    "major": {(0, "M"): 30, (5, "M"): 18, (7, "M"): 19, (9, "m"): 11, (2, "m"): 8, (4, "m"): 4, (11, "d"): 1, (10, "M"): 2.0, (5, "m"): 1.0, (8, "M"): 0.8, (2, "M"): 1.2, (4, "M"): 1.2, (3, "M"): 0.6, (9, "M"): 0.8, (7, "m"): 0.6},
    "minor": {(0, "m"): 30, (5, "m"): 11, (7, "M"): 9, (7, "m"): 5, (10, "M"): 11, (8, "M"): 12, (3, "M"): 10, (2, "d"): 2.5, (5, "M"): 1.5, (11, "d"): 1, (1, "M"): 0.6, (0, "M"): 1.0, (2, "m"): 0.7},
    "dorian": {(0, "m"): 32, (5, "M"): 18, (10, "M"): 14, (3, "M"): 9, (7, "m"): 8, (2, "m"): 6, (9, "d"): 1, (8, "M"): 1, (7, "M"): 2},
    "mixolydian": {(0, "M"): 32, (10, "M"): 16, (5, "M"): 16, (7, "m"): 7, (9, "m"): 7, (2, "m"): 6, (7, "M"): 2.5, (3, "M"): 1, (8, "M"): 0.6},
}  # fmt: skip
_FIFTH_ONLY = 0.6  # a bare fifth may be major or minor


@dataclass(frozen=True)
class DecidedKey:
    """A key over bars ``first`` .. ``last`` (exclusive)."""

    first: int
    last: int
    key: Key
    confidence: float


def _kind(quality: str) -> str:
    intervals = QUALITIES[quality].intervals
    if 6 in intervals and 7 not in intervals and 3 in intervals:
        return "d"
    if 3 in intervals and 4 not in intervals:
        return "m"
    return "M" if 4 in intervals else "?"


@cache
def expectation(chord: Chord, key: Key) -> float:
    """Log of how much a key expects a chord, against an average chord."""
    if chord.root is None:
        return 0.0
    weights = _WEIGHTS[key.mode]
    total = sum(weights.values()) + 12.0
    step, kind = (chord.root - key.tonic) % 12, _kind(chord.quality)
    if kind == "?":
        share = _FIFTH_ONLY * max(weights.get((step, k), 0.0) for k in "Mm") + 0.25
    else:
        share = weights.get((step, kind), 0.0) + 0.25
    inside = {(key.tonic + s) % 12 for s in SCALES[key.mode]}
    sevenths = [(chord.root + i) % 12 for i in QUALITIES[chord.quality].intervals if i in (10, 11, 9)]
    fit = sum(0.25 if s in inside else -0.25 for s in sevenths)
    return float(np.log(share / total * 36)) + fit


def decide(bars: Sequence[Sequence[tuple[Chord, float]]]) -> list[DecidedKey]:
    """Keys of a song given, for each bar, its chords with their share of the bar."""
    score = np.zeros((len(bars), len(KEYS)))
    for i, bar in enumerate(bars):
        for chord, share in bar:
            score[i] += share * np.array([expectation(chord, k) for k in KEYS])
    score += np.array([PRIOR[k.mode] for k in KEYS])
    sounding = [(i, c) for i, bar in enumerate(bars) for c, _ in bar if not c.is_none]
    if sounding:
        for (i, chord), weight in ((sounding[0], END_WEIGHT / 2), (sounding[-1], END_WEIGHT)):
            home = [chord.root == k.tonic and _kind(chord.quality) in ("m" if k.minorish else "M", "?") for k in KEYS]
            score[i] += weight * np.array(home)
    path, chance = _decode(score)
    out: list[DecidedKey] = []
    first = 0
    for i in range(1, len(path) + 1):
        if i == len(path) or path[i] != path[first]:
            out.append(DecidedKey(first, i, KEYS[path[first]], float(chance[first:i, path[first]].mean())))
            first = i
    return out


def _decode(score: Floats) -> tuple[NDArray[np.int_], Floats]:
    count, width = score.shape
    back = np.zeros((count, width), int)
    value = score[0].copy()
    for t in range(1, count):
        best = int(value.argmax())
        better = value < value[best] - CHANGE_COST
        back[t] = np.where(better, best, np.arange(width))
        value = np.where(better, value[best] - CHANGE_COST, value) + score[t]
    path = np.zeros(count, int)
    path[-1] = int(value.argmax())
    for t in range(count - 1, 0, -1):
        path[t - 1] = back[t, path[t]]
    likelihood, jump = np.exp(np.clip(score - score.max(1, keepdims=True), -60, 0)), np.exp(-CHANGE_COST)
    forward, backward = np.empty_like(score), np.ones_like(score)
    forward[0] = likelihood[0] / likelihood[0].sum()
    for t in range(1, count):
        row = likelihood[t] * (forward[t - 1] + jump) + 1e-300
        forward[t] = row / row.sum()
    for t in range(count - 2, -1, -1):
        ahead = likelihood[t + 1] * backward[t + 1]
        row = ahead + jump * ahead.sum() + 1e-300
        backward[t] = row / row.sum()
    both = forward * backward
    return path, both / both.sum(1, keepdims=True)
