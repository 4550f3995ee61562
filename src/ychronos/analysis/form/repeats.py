"""How well stretches of bars repeat each other, at the same pitch or moved.

Method: likenesses of bars are summed along all diagonals once, after which the mean likeness of any two stretches
of equal length costs two look-ups; stretches of unequal length are compared from their starts and from their ends.
Moved repeats are told by the share of equal chords under each transposition.
Conventions: bars by index, stretches as (first, last exclusive), likenesses 1 for the same.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int_]
Stretch = tuple[int, int]
SAME = 0.62  # likeness from which on two stretches are the same music
GAP = 0.2  # of likeness, that a bar costs which only one of two stretches has
CLOSE, FEWEST = 0.7, 4  # share of the longer one's length, and bars, from which on gaps are allowed
KINDS = 3  # different chords that a stretch must have to be recognised at another pitch
LONG, REST, WITHIN = (
    8,
    4,
    0.7,
)  # bars of a stretch by which a longer one is divided, bars left of that one, likeness of the two
MOVED = 0.8  # share of equal chords from which on a stretch is the same music at another pitch


def _diagonals(like: Floats) -> Floats:
    """(n + 1, n + 1) sums along the diagonals: ``out[i + m, j + m] - out[i, j]`` is that of m bars from (i, j)."""
    count = len(like)
    out = np.zeros((count + 1, count + 1))
    for k in range(count):
        out[k + 1, 1:] = out[k, :-1] + like[k]
    return out


@dataclass(frozen=True)
class Repeats:
    """Likenesses of a song's stretches. ``plain`` and ``moved`` (for 1 .. 11 semitones) are sums along diagonals,
    ``changes`` (n + 1,) changes of chord before each bar line, ``chords`` the chords by which they were told."""

    plain: Floats
    moved: tuple[Floats, ...]
    changes: Ints
    chords: Ints

    def of(self, first: Ints, last: Ints, other: Stretch) -> tuple[Floats, Floats]:
        """(likeness, share of equal chords moved as fits best) of stretches ``first`` .. ``last`` to another one,
        as far as both reach."""
        length = np.minimum(last - first, other[1] - other[0])
        moved = np.zeros(len(first))
        for sums in self.moved:
            moved = np.maximum(moved, _best(sums, first, last, other, length))
        return _best(self.plain, first, last, other, length), moved

    def alike(self, one: Stretch, two: Stretch) -> float:
        """How well two stretches match, the best of aligning starts, ends or, where their lengths are close, with
        bars left out; less for unequal lengths."""
        length, longest = sorted((one[1] - one[0], two[1] - two[0]))
        plain = _best(self.plain, np.array([one[0]]), np.array([one[1]]), two, np.array([length]))
        found = float(plain[0] * (length / longest) ** 0.3)
        return max(found, self._with_gaps(one, two)) if CLOSE * longest <= length >= FEWEST else found

    def _with_gaps(self, one: Stretch, two: Stretch) -> float:
        """Mean likeness of the best alignment with gaps (Needleman and Wunsch, as in :mod:`..song.passes`)."""
        a, b = np.ix_(range(*one), range(*two))
        like = (self.plain[a + 1, b + 1] - self.plain[a, b]).tolist()
        width = two[1] - two[0]
        row = [-GAP * j for j in range(width + 1)]
        for i, line in enumerate(like, 1):
            above, row = row, [-GAP * i] * (width + 1)
            for j in range(1, width + 1):
                row[j] = max(above[j - 1] + line[j - 1], above[j] - GAP, row[j - 1] - GAP)
        return float(row[width] / max(len(like), width))

    def transposed(self, one: Stretch, two: Stretch) -> float:
        """Share of equal chords under the best transposition; 0 where the lengths differ too much to tell, or so few
        chords are played that they fit in many places."""
        length, longest = sorted((one[1] - one[0], two[1] - two[0]))
        kinds = min(len(np.unique(self.chords[a:b])) for a, b in (one, two))
        if length < 2 or longest > 1.5 * length or kinds < KINDS:
            return 0.0
        return float(self.of(np.array([one[0]]), np.array([one[1]]), two)[1][0])


def divided(limits: Sequence[int], repeats: Repeats) -> list[int]:
    """Limits of stretches, and where in one of them another, shorter one ends that begins it, or begins that ends it: what also
    stands alone is a phrase of its own there (A, then AB twice, is A A B A B)."""
    spans, sums = list(pairwise(limits)), repeats.plain
    more: set[int] = set()
    for a, b in spans:
        for c, d in spans:
            length = d - c
            if length < LONG or b - a - length < REST:
                continue
            begins = float(sums[a + length, d] - sums[a, c]) / length
            ends = float(sums[b, d] - sums[b - length, c]) / length
            if max(begins, ends) >= WITHIN:
                more.add(a + length if begins >= ends else b - length)
    return sorted({*limits, *more})


def _best(sums: Floats, first: Ints, last: Ints, other: Stretch, length: Ints) -> Floats:
    """The better of aligning starts and ends, a mean over ``length`` bars."""
    starts = sums[first + length, other[0] + length] - sums[first, other[0]]
    ends = sums[last, other[1]] - sums[last - length, other[1] - length]
    return np.asarray(np.maximum(starts, ends) / np.maximum(length, 1))


def find(like: Floats, chords: Ints) -> Repeats:
    """Repeats of a song by the likeness of its bars (n, n) and their chords (n, slices), root * 3 + kind, -1 for
    none."""
    moved = []
    known = chords >= 0
    both = known[:, None] & known[None]
    for up in range(1, 12):
        equal = both & (((chords[:, None] + 3 * up) % 36) == chords[None])
        moved.append(_diagonals(equal.mean(2)))
    flat = chords.ravel()
    steps = np.concatenate([[False], flat[1:] != flat[:-1]]).reshape(chords.shape).sum(1)
    return Repeats(_diagonals(like), tuple(moved), np.concatenate([[0], np.cumsum(steps)]), chords)
