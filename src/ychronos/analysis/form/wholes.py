"""Phrases that make one section: what always follows each other in one texture is one whole.

Method: the stretches that repeat (:mod:`.sections`) are phrases; what players name is often two or four of them. All places where
phrases of two musics meet are one kind of joint; whether a kind is inside a section is told by a logistic regression over how often
the one is followed by the other and the other preceded by it, how much texture and level change there, how likely a section begins
there by the sound, and how long both are together. The likeliest joint is closed at all its places, and so on upwards, until none is
more likely inside than not. Fitted by ``training/fit_wholes.py``.
Conventions: phrases as (first, last exclusive) bars with a letter each; likenesses as in :mod:`.boundaries`.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
LONGEST = 40  # bars in a whole
# constant; followed and preceded, always so, the same music; change of texture, size and rise of the level's step, odds of a beginning;
# texture and odds against the song's usual; up to 8 bars, up to 16, above 24, one of 4, equal lengths; how often
WEIGHTS = (-1.64, 0.4, 0.35, -0.08, 0.05, -1.08, -0.72, -1.85, -0.1, 0.16, 0.14, 0.13, -0.09, -0.16, 0.37, 0.9)  # fmt: skip
SURE = 0.72


@dataclass(frozen=True)
class Joint:
    """A kind of joint: where it is (index of the left part), and its features."""

    places: tuple[int, ...]
    features: Floats


@dataclass(frozen=True)
class Part:
    """Neighbouring phrases as one: its bars, and what music it is."""

    first: int
    last: int
    letter: str


def parts_of(limits: Sequence[int], letters: Sequence[str]) -> list[Part]:
    return [Part(a, b, x) for a, b, x in zip(limits, limits[1:], letters, strict=False)]


def joints(parts: Sequence[Part], sound: Floats, level: Floats, odds: Floats) -> list[Joint]:
    """All kinds of joints of a song. ``sound`` (n, n) likeness of bars, ``level`` (n,) dB, ``odds`` (n,) of a beginning."""
    places: dict[tuple[str, str], list[int]] = {}
    i = 0
    while i < len(parts) - 1:
        one, two = parts[i].letter, parts[i + 1].letter
        places.setdefault((one, two), []).append(i)
        # a music that comes three times in a row meets itself once: the first two are a pair
        i += 2 if one == two and i + 2 < len(parts) and parts[i + 2].letter == one else 1
    count = Counter(p.letter for p in parts)
    out: list[Joint] = []
    told = np.array([_here(a, b, sound, level, odds) for a, b in pairwise(parts)])
    for (one, two), at in places.items():
        if any(parts[i + 1].last - parts[i].first > LONGEST for i in at):
            continue
        here = told[at].mean(axis=0)
        out.append(Joint(tuple(at), _features(parts, one, two, at, count, here - told.mean(axis=0), here)))
    return out


def _here(a: Part, b: Part, sound: Floats, level: Floats, odds: Floats) -> Floats:
    """(3,) what the sound says of one joint: change of texture, step of level in dB, log odds of a beginning."""
    left, right = range(max(a.first, a.last - 4), a.last), range(b.first, min(b.last, b.first + 4))
    inside = [float(sound[np.ix_(r, r)].mean()) for r in (left, right)]
    across = sum(inside) / 2 - float(sound[np.ix_(left, right)].mean())
    step = float(level[b.first : b.last].mean() - level[a.first : a.last].mean())
    return np.array([10 * across, np.clip(step, -4, 4), odds[b.first]])


def _features(
    parts: Sequence[Part], one: str, two: str, at: list[int], count: Counter[str], against: Floats, here: Floats
) -> Floats:
    """What is known of a kind of joint: ``here`` by the sound, ``against`` the usual one of the song."""
    times = len(at)
    follow, precede = times / count[one], times / count[two]
    if one == two:
        follow = precede = min(1.0, 2 * times / count[one])
    length = float(np.median([parts[i + 1].last - parts[i].first for i in at]))
    sizes = [parts[k].last - parts[k].first for k in (at[0], at[0] + 1)]
    return np.array([
        1.0, follow * precede, float(follow == precede == 1.0), float(one == two), here[0], abs(here[1]), max(0.0, here[1]), here[2],
        against[0], against[2], float(length <= 8), float(8 < length <= 16), float(length > 24), float(min(sizes) <= 4),
        float(sizes[0] == sizes[1]), min(3.0, np.log2(times)),
    ])  # fmt: skip


def closed(parts: Sequence[Part], joint: Joint) -> list[Part]:
    """The parts with one kind of joint closed at all its places."""
    out: list[Part] = []
    i = 0
    while i < len(parts):
        if i in joint.places and i + 1 < len(parts):
            a, b = parts[i], parts[i + 1]
            out.append(Part(a.first, b.last, f"({a.letter}{b.letter})"))
            i += 2
        else:
            out.append(parts[i])
            i += 1
    return out


def chance(joint: Joint) -> float:
    """How likely a kind of joint is inside a section."""
    return float(1 / (1 + np.exp(-np.dot(WEIGHTS, joint.features))))


def join(limits: Sequence[int], letters: Sequence[str], sound: Floats, level: Floats, odds: Floats) -> list[int]:
    """Limits of the wholes that phrases between ``limits`` make."""
    parts = parts_of(limits, letters)
    while True:
        likely = [(chance(j), j) for j in joints(parts, sound, level, odds)]
        best = max(likely, key=lambda x: x[0], default=None)
        if best is None or best[0] <= SURE:
            return [*(p.first for p in parts), parts[-1].last]
        parts = closed(parts, best[1])
