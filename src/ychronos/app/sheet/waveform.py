"""The stretch of waveform under each bar, as pictures ready to draw.

The outline is worked out for a whole bar at once, a column of pixels at a time, with its edges softened: as points of a
polygon it took most of the time in which a row is painted. A picture is kept as long as the bar's beats stay where
they are, whatever else changes.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QImage, QPainter

from ...audio.recording import PEAK_RATE, Recording
from ...song.grid import Grid
from .geometry import BarBox

KEPT = 400  # pictures of bars
INSET = 4.0  # pixels between a bar's line and its sound
THINNEST = 0.6  # pixels that silence is drawn with, each side


class Waveform:
    """A recording's peaks, stretched to musical time."""

    def __init__(self, recording: Recording) -> None:
        self.peaks = recording.peaks
        # for how loud it is some of the points do: of hours of sound all take too long
        some = self.peaks[:: max(1, len(self.peaks) // 200_000)]
        loud = np.percentile(np.abs(some), 99.5) if len(some) else 1.0
        self.scale = 1.0 / max(float(loud), 1e-4)
        self._kept: dict[object, QImage] = {}

    def _extent(self, times: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Lowest and highest value between successive times."""
        count = len(self.peaks)
        at = np.clip((np.clip(times, -1.0, 1e7) * PEAK_RATE).astype(int), 0, max(0, count - 1))
        first, last = at[:-1], np.maximum(at[1:], at[:-1] + 1)
        if not count:
            zero = np.zeros(len(first))
            return zero, zero
        window = self.peaks[first[0] : min(count, last[-1])]
        starts = np.clip(first - first[0], 0, len(window) - 1)
        low = np.minimum.reduceat(window[:, 0], starts)
        high = np.maximum.reduceat(window[:, 1], starts)
        return np.clip(low * self.scale, -1, 0), np.clip(high * self.scale, 0, 1)

    def paint_bar(self, painter: QPainter, grid: Grid, box: BarBox, half: float, colour: QColor) -> None:
        """Draw a bar's sound around y = 0, ``half`` pixels high on each side."""
        start = grid.starts[box.bar]
        own = grid.times[start : start + box.beats + 1]
        width = max(4.0, box.width - 2 * INSET)
        ratio = painter.device().devicePixelRatio()
        key = (own, round(width, 2), half, ratio, colour.rgba())
        image = self._kept.pop(key, None)
        if image is None:
            columns = _columns(width, ratio)
            times = np.interp(np.linspace(0, box.beats, columns + 1), np.arange(len(own)), own)
            image = _picture(*self._extent(times), half, ratio, colour)
            while len(self._kept) >= KEPT:
                del self._kept[next(iter(self._kept))]
        self._kept[key] = image  # the newest is the last to go
        painter.drawImage(QPointF(box.x + INSET, -half - 1), image)

    def paint_stretch(
        self, painter: QPainter, times: tuple[float, float], x: float, width: float, half: float, colour: QColor
    ) -> None:
        """Draw a stretch of clock time around y = 0, for a record without bars yet."""
        ratio = painter.device().devicePixelRatio()
        extent = self._extent(np.linspace(*times, _columns(width, ratio) + 1))
        painter.drawImage(QPointF(x, -half - 1), _picture(*extent, half, ratio, colour))


def _columns(width: float, ratio: float) -> int:
    return max(1, round(width * ratio))


def _picture(low: NDArray[np.float64], high: NDArray[np.float64], half: float, ratio: float, colour: QColor) -> QImage:
    """The outline filled with a colour: each pixel as far as it lies within."""
    middle = (half + 1) * ratio
    top = middle - np.maximum(high * half, THINNEST) * ratio
    bottom = middle - np.minimum(low * half, -THINNEST) * ratio
    rows = np.arange(int(np.ceil(2 * middle)), dtype=np.float32)[:, None]
    covered = np.clip(np.minimum(rows + 1, bottom) - np.maximum(rows, top), 0, 1).astype(np.float32)
    alpha = covered * colour.alphaF()
    pixels = np.empty((*covered.shape, 4), np.uint8)  # blue, green, red, alpha; the colours already weighed
    for i, value in enumerate((colour.blueF(), colour.greenF(), colour.redF(), 1.0)):
        pixels[..., i] = np.round(255 * value * alpha)
    height, width = covered.shape
    data = pixels.tobytes()
    image = QImage(data, width, height, 4 * width, QImage.Format.Format_ARGB32_Premultiplied).copy()
    image.setDevicePixelRatio(ratio)
    return image
