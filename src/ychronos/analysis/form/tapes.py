"""Tapes of many songs: where they are cut, so that bars are compared within half an hour or so, and no further.

Conventions as in :mod:`.repeats`.
"""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .repeats import Repeats, Stretch

LONGEST = 900  # bars: half an hour at 120 beats a minute
SHORTEST = 300
LULL = 4  # bars over which a level is averaged, so that a stop within a song does not count


def cuts(level: NDArray[np.float64]) -> list[int]:
    """Bars at which a tape is cut, by the level (n,) of its bars in dB: the quietest places that leave no piece longer
    than :data:`LONGEST` and none much shorter than :data:`SHORTEST`. None for one song."""
    out: list[int] = []
    count = len(level)
    smooth = np.convolve(level, np.ones(LULL) / LULL, "same")
    at = 0
    while count - at > LONGEST:
        first, last = at + SHORTEST, min(at + LONGEST, count - SHORTEST // 2)
        at = first + int(smooth[first:last].argmin())
        out.append(at)
    return out


@dataclass(frozen=True)
class Apart:
    """Likenesses of stretches of a tape that was cut at ``cuts``; those of different pieces are not alike."""

    cuts: tuple[int, ...]
    pieces: tuple[Repeats | None, ...]

    def _within(self, one: Stretch, two: Stretch) -> tuple[Repeats, Stretch, Stretch] | None:
        piece = bisect_right(self.cuts, one[0])
        start, end = (0, *self.cuts)[piece], (*self.cuts, 10**9)[piece]
        repeats = self.pieces[piece]
        if repeats is None or not all(start <= s[0] and s[1] <= end for s in (one, two)):
            return None
        return repeats, (one[0] - start, one[1] - start), (two[0] - start, two[1] - start)

    def alike(self, one: Stretch, two: Stretch) -> float:
        found = self._within(one, two)
        return found[0].alike(*found[1:]) if found else 0.0

    def transposed(self, one: Stretch, two: Stretch) -> float:
        found = self._within(one, two)
        return found[0].transposed(*found[1:]) if found else 0.0
