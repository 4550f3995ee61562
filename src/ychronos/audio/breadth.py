"""Where in the stereo picture something begins, moment by moment: what lies there of what rises in each of a few bands.

Method: of each bin of a short-time spectrum of both channels how much it rises, at which angle between left and right it lies, and whether the
channels move together (1) or not; means over a band's bins, weighted by their rises (as in time-frequency panning; Avendano, WASPAA 2003). One player
in one place gives one angle and channels that move together, wherever it is; two takes of the same on two sides give neither.
Conventions: frames of 2048 samples, every 1024, at 22,050 Hz; angles in radians from the middle, right positive.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float32]
RATE = 22050
SIZE, HOP = 2048, 1024
BACK = 2  # frames before with which a frame is compared: the last one that it does not overlap
EDGES = (150, 400, 1000, 2500, 6000)  # Hz
BANDS = len(EDGES) - 1
WIDTH = 3 * BANDS  # mean angle of each band, mean of its square, mean of how much channels move together
AT_ONCE = 256  # frames


def nothing() -> NDArray[np.float16]:
    """Of a recording that has no two channels."""
    return np.zeros((0, WIDTH), np.float16)


class Breadth:
    """Fed with a recording's sound in blocks of any size, keeps little of it."""

    def __init__(self) -> None:
        self.window = np.hanning(SIZE).astype(np.float32)
        edges = np.searchsorted(np.fft.rfftfreq(SIZE, 1 / RATE), EDGES)
        self.bins, self.cuts = slice(edges[0], edges[-1]), edges[:-1] - edges[0]
        self.rest: Floats = np.zeros((0, 2), np.float32)
        self.before: Floats = np.zeros((BACK, 2, int(edges[-1] - edges[0])), np.float32)
        self.out = [nothing()]

    def feed(self, block: Floats) -> None:
        """``block`` (n, 2): the mean of left and right, and half of what left has more than right."""
        data = np.concatenate([self.rest, block]) if len(self.rest) else block
        while len(data) >= SIZE:
            count = min(AT_ONCE, (len(data) - SIZE) // HOP + 1)
            self._frames(data[: (count - 1) * HOP + SIZE])
            data = data[count * HOP :]
        self.rest = data.copy()

    def _frames(self, data: Floats) -> None:
        ears = np.stack([data[:, 0] + data[:, 1], data[:, 0] - data[:, 1]])
        cut = np.lib.stride_tricks.sliding_window_view(ears, SIZE, axis=1)[:, ::HOP].swapaxes(0, 1)
        spectra = np.fft.rfft(cut * self.window)[..., self.bins].astype(np.complex64)
        loud = np.abs(spectra)
        left, right = loud[:, 0], loud[:, 1]
        together = (spectra[:, 0] * spectra[:, 1].conj()).real / (left * right + 1e-9)
        angle = np.arctan2(right, left + 1e-12) - np.float32(np.pi / 4)
        known = np.concatenate([self.before, loud])
        rise = (np.maximum(0, loud - known[:-BACK]) ** 2).sum(1)
        self.before = known[-BACK:].copy()
        total = np.add.reduceat(rise, self.cuts, 1) + np.float32(1e-12)
        means = [np.add.reduceat(rise * x, self.cuts, 1) / total for x in (angle, angle**2, together)]
        self.out.append(np.concatenate(means, axis=1).astype(np.float16))

    def finish(self) -> NDArray[np.float16]:
        """(frames, WIDTH)."""
        return np.concatenate(self.out)
