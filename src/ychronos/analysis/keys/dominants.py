"""What dominants say of home: chords that lead a fifth down, alone or prepared, at the ends of sections and in a blues.

Conventions: bars as lists of chords with their share of the bar, (chord, share); keys in the order of :data:`keyhabits.KEYS`.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from functools import cache
from itertools import groupby, pairwise

import numpy as np
from numpy.typing import NDArray

from ...theory.chord import Chord
from ...theory.key import Key
from . import keyhabits
from .keyhabits import HOMING, KEYS, BarChords, homes, kind, triad

BLUES_AT_HOME = 0.8  # of a home that is a dominant seventh, where those on the fourth and fifth degree are too
APPLIED = 0.6  # how much a dominant seventh is expected that leads to a usual chord of the key other than home
USUAL = 4  # weight from which on a place of a key is usual
CLOSES = 1.5  # of home, of the chord on which a section ends that comes from its dominant
CLOSING = np.array([k.mode in ("major", "minor", "dorian") for k in KEYS])  # keys whose dominant may be a major chord
Floats = NDArray[np.float64]


def sounding(bars: Sequence[BarChords], first: int = 0) -> list[tuple[int, Chord, int, float]]:
    """The chords of bars numbered from ``first`` on: each with its bar, its root and its share of the bar."""
    return [
        (i, chord, chord.root, share)
        for i, bar in enumerate(bars, first)
        for chord, share in bar
        if chord.root is not None
    ]


def in_turn(bars: Sequence[BarChords]) -> list[tuple[int, Chord, int]]:
    """The chords that follow each other, each once, with the bar in which it begins and its root."""
    return [next(same)[:3] for _, same in groupby(sounding(bars), key=lambda one: one[1])]


def resolved(bars: Sequence[BarChords]) -> int:
    """How many dominant sevenths are followed by a chord whose root is a fifth lower."""
    return sum(1 for (_, a, one), (_, _, two) in pairwise(in_turn(bars)) if kind(a) == "7" and (one - two) % 12 == 7)


def prepared(bars: Sequence[BarChords]) -> list[tuple[int, int, Key]]:
    """The bars of minor sevenths and of the dominant sevenths a fifth lower that they go to, with the home that both lead to,
    whether it comes or not: Dm7 G7 is a word for C major, Dm7♭5 G7 one for C minor."""
    out = []
    for (first, a, one), (bar, b, two) in pairwise(in_turn(bars)):
        if kind(b) == "7" and (one - two) % 12 == 7 and {3, 10} <= set(a.intervals):
            out.append((first, bar, Key((two + 5) % 12, "minor" if kind(a) == "d" else "major")))
    return out


@cache
def _applied(root: int, third: str) -> Floats:
    """What the dominant seventh of a chord says beyond its place in each major or minor key, (len(KEYS),), where it leads to that
    chord (its root and triad): it belongs to it, so that where that one is usual it is no stranger either (D7 in C, to G; A7 to Dm).
    What leads home, or to the relative key, speaks for that one alone."""
    out = np.zeros(len(KEYS))
    for n, key in enumerate(KEYS):
        target = (root - key.tonic) % 12
        if (
            key.mode in ("major", "minor")
            and target not in (0, 3 if key.minorish else 9)
            and HOMING[key.mode].get((target, third), 0) >= USUAL
        ):
            out[n] = max(0.0, APPLIED - keyhabits.expectation((target + 7) % 12, "M", key.mode))
    return out


def led_to(bars: Sequence[BarChords]) -> Floats:
    """(bars, len(KEYS)) what dominant sevenths say by the chords they lead to."""
    out = np.zeros((len(bars), len(KEYS)))
    flat = sounding(bars)
    onto: tuple[int, str] | None = None  # the next chord on another root
    for (i, chord, root, share), (_, after, target, _) in reversed([*pairwise(flat)]):
        if target != root:
            onto = target, triad(after)
        if kind(chord) == "7" and onto is not None and onto[0] == (root + 5) % 12:
            out[i] += share * _applied(*onto)
    return out


def closes(bars: Sequence[BarChords], lines: Collection[int]) -> Floats:
    """(bars, len(KEYS)) the word for home of the chords on which sections end, where they come from their dominants."""
    out = np.zeros((len(bars), len(KEYS)))
    for first, last in pairwise([*sorted({0, *lines}), len(bars)]):
        runs = [next(same)[:3] for _, same in groupby(sounding(bars[first:last], first), key=lambda one: one[2])]
        if len(runs) > 2:
            (_, dominant, above), (bar, home, root) = runs[-2:]
            if (above - root) % 12 == 7 and triad(dominant) == "M" and kind(home) in "Mm":
                out[bar] = CLOSES * homes(home) * CLOSING
    return out


def blues(bars: Sequence[BarChords]) -> Floats:
    """(bars, len(KEYS)) the word for home of a dominant seventh in a blues, where the chords on the fourth and the fifth degree
    are mostly dominant sevenths as well."""
    flat = sounding(bars)
    leaning = np.zeros(12)
    for _, chord, root, share in flat:
        leaning[root] += share if kind(chord) == "7" else -share
    dominant = leaning > 0
    homes = dominant & np.roll(dominant, -5) & np.roll(dominant, -7)
    out = np.zeros((len(bars), len(KEYS)))
    for i, chord, root, share in flat:
        if homes[root] and kind(chord) == "7":
            out[i, KEYS.index(Key(root, "major"))] += BLUES_AT_HOME * share
    return out
