"""Where players stop: how much is struck in each part of a bar, and how loud it is.

Method: rises of the log bands (spectral flux), the strongest in each eighth of a bar, against the song's usual
strong one. A bar stops against another when, from some place on, hardly anything is struck in it that is struck in
the other; the thresholds were set on twelve made songs with chords left to ring and cut short (``docs/analysis.md``).
Conventions: frames at 50 a second, lines in seconds.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...tongue import tr
from ..form.sections import Frames
from ..spectra import BAND_RATE

PARTS = 8
FROM = (slice(1, 8), slice(3, 7), slice(4, 8))  # stretches of a bar that may be empty in one of two
STOPS = 0.9  # natural log of how much more is struck, from which on one bar stops and the other does not
QUIET = 8.0  # dB below the other bar at its end: cut short, else it rings
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Strokes:
    """Per bar and part: ``struck`` (bars, PARTS), 1 being a usual strong stroke, and ``level`` in dB."""

    struck: Floats
    level: Floats

    def less(self, bar: int, other: int) -> float:
        """How much less is struck in a bar than in another where they differ most, as a natural log."""
        one, two = (np.minimum(self.struck[b], 1.5) for b in (bar, other))
        return max(float(np.log((np.median(two[part]) + 0.08) / (np.median(one[part]) + 0.08))) for part in FROM)

    def differs(self, bar: int, other: int) -> tuple[str, float] | None:
        """(how a bar is played against another one, how sure), where one of them stops."""
        for one, two, words in ((bar, other, ""), (other, bar, tr("played on, not stopped"))):
            much = self.less(one, two)
            if much >= STOPS:
                quiet = float((self.level[two] - self.level[one])[PARTS // 2 :].mean()) >= QUIET
                how = words or (tr("cut short") if quiet else tr("struck and left to ring"))
                return how, float(1 / (1 + np.exp(-4 * (much - 0.6))))
        return None


def find(kept: Frames, lines: Floats) -> Strokes:
    """Strokes of the bars between ``lines`` (n + 1,)."""
    rise, level = kept.flux, 10 * np.log10(kept.power[:, 0] + 1e-9)
    count = len(lines) - 1
    edges = np.interp(np.arange(count * PARTS + 1) / PARTS, np.arange(count + 1), lines) * BAND_RATE
    first = np.clip(edges[:-1].astype(int) - 1, 0, len(rise) - 1)
    last = np.clip(edges[1:].astype(int) - 1, first + 1, len(rise))
    struck = np.array([rise[a:b].max() for a, b in zip(first, last, strict=True)])
    loudness = np.array([level[a:b].mean() for a, b in zip(first, last, strict=True)])
    usual = np.percentile(struck, 75) + 1e-9
    return Strokes((struck / usual).reshape(count, PARTS), loudness.reshape(count, PARTS))
