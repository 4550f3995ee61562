"""The stretch of waveform under each bar, as polygons ready to draw."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPolygonF

from ...audio.recording import PEAK_RATE, Recording
from ...song.grid import Grid
from .geometry import BarBox


class Waveform:
    """Outlines of a recording's peaks, stretched to musical time and kept until something changes."""

    def __init__(self, recording: Recording) -> None:
        self.peaks = recording.peaks
        loud = np.percentile(np.abs(self.peaks), 99.5) if len(self.peaks) else 1.0
        self.scale = 1.0 / max(float(loud), 1e-4)
        self._kept: dict[tuple[int, float, float, float], QPolygonF] = {}

    def forget(self) -> None:
        self._kept.clear()

    def _extent(self, times: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Lowest and highest value between successive times."""
        count = len(self.peaks)
        at = np.clip((times * PEAK_RATE).astype(int), 0, max(0, count - 1))
        first, last = at[:-1], np.maximum(at[1:], at[:-1] + 1)
        if not count:
            zero = np.zeros(len(first))
            return zero, zero
        window = self.peaks[first[0] : min(count, last[-1])]
        starts = np.clip(first - first[0], 0, len(window) - 1)
        low = np.minimum.reduceat(window[:, 0], starts)
        high = np.maximum.reduceat(window[:, 1], starts)
        return np.clip(low * self.scale, -1, 0), np.clip(high * self.scale, 0, 1)

    def _outline(
        self, low: NDArray[np.float64], high: NDArray[np.float64], x: float, width: float, half: float
    ) -> QPolygonF:
        steps = np.linspace(x, x + width, len(low) + 1)
        centre = 0.5 * (steps[:-1] + steps[1:])
        upper = [QPointF(a, -b) for a, b in zip(centre, np.maximum(high * half, 0.6), strict=True)]
        lower = [QPointF(a, -b) for a, b in zip(centre[::-1], np.minimum(low * half, -0.6)[::-1], strict=True)]
        return QPolygonF(upper + lower)

    def bar(self, grid: Grid, box: BarBox, half: float) -> QPolygonF:
        """The outline of a bar around y = 0, ``half`` pixels high on each side."""
        key = (box.bar, box.x, box.width, half)
        if key not in self._kept:
            inset = 4.0
            columns = max(8, int((box.width - 2 * inset) / 1.5))
            start = grid.starts[box.bar]
            beats = start + np.linspace(0, box.beats, columns + 1)
            times = np.interp(beats, np.arange(len(grid.times)), grid.times)
            low, high = self._extent(times)
            self._kept[key] = self._outline(low, high, box.x + inset, box.width - 2 * inset, half)
        return self._kept[key]

    def stretch(self, first: float, last: float, x: float, width: float, half: float) -> QPolygonF:
        """The outline of a stretch of clock time, for a record without bars yet."""
        columns = max(8, int(width / 1.5))
        low, high = self._extent(np.linspace(first, last, columns + 1))
        return self._outline(low, high, x, width, half)
