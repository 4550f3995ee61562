"""What every view that draws time across has: one axis, one playhead."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QWidget

from ..session.session import Session
from .theme import Theme

TIME_STEPS = (5, 10, 15, 30, 60, 120, 300, 600, 1800)  # seconds
ROUND_STEPS = (1, 2, 5, 10, 20, 50, 100, 500)


def step_of(length: float, most: int, steps: Sequence[int] = TIME_STEPS) -> int:
    """The first of some round steps that divides a length into at most so many parts; larger than all where it must."""
    return next((s for s in steps if length / s <= most), steps[-1] * max(1, math.ceil(length / steps[-1] / most)))


def line_through(x: NDArray[np.float64], y: NDArray[np.float64]) -> list[QLineF]:
    """A line through points from left to right, in pieces, which Qt draws fifteen times faster than it does a bent line
    wider than one pixel. Of many in one column of pixels only the first, the highest, the lowest
    and the last are drawn, which look the same: a long jam has thousands of beats."""
    column = np.floor(x).astype(int)
    starts = np.flatnonzero(np.diff(column, prepend=column[:1] - 1))
    if len(x) > 4 * len(starts):
        ends = np.append(starts[1:], len(x))
        kept = sorted(
            {
                int(k)
                for a, b in zip(starts, ends, strict=True)
                for k in (a, a + y[a:b].argmin(), a + y[a:b].argmax(), b - 1)
            }
        )
        x, y = x[kept], y[kept]
    points = [QPointF(a, b) for a, b in zip(x.tolist(), y.tolist(), strict=True)]
    return [QLineF(a, b) for a, b in pairwise(points)]


class TimeAxis(QWidget):
    """A widget with time across. Those made of it say between which times (:meth:`times`) and pixels (:meth:`sides`)."""

    session: Session
    theme: Theme
    _clock: float | None = None

    def times(self) -> tuple[float, float]:
        """The first and the last time shown, in seconds: by default those of the song's first and last beat."""
        song = self.session.song
        return (song.grid.times[0], song.grid.times[-1]) if song is not None else (0.0, 1.0)

    def sides(self) -> tuple[float, float]:
        """Where they stand, in pixels."""
        return 0.0, float(self.width())

    def x_of(self, seconds: float) -> float:
        (first, last), (left, right) = self.times(), self.sides()
        return left + (right - left) * (seconds - first) / max(1e-6, last - first)

    def xs_of(self, seconds: NDArray[np.float64]) -> NDArray[np.float64]:
        """:meth:`x_of` for many times at once."""
        (first, last), (left, right) = self.times(), self.sides()
        return np.asarray(left + (right - left) * (seconds - first) / max(1e-6, last - first))

    def seconds_at(self, x: float) -> float:
        """The time at a place, the nearest shown one for a place outside."""
        (first, last), (left, right) = self.times(), self.sides()
        share = (x - left) / max(1.0, right - left)
        return first + min(max(share, 0.0), 1.0) * (last - first)

    def set_clock(self, seconds: float | None) -> None:
        """Show the playhead at a time; None hides it."""
        self._clock = seconds
        self.update()

    def paint_playhead(self, painter: QPainter, top: float, bottom: float) -> None:
        if self._clock is not None and self.session.song is not None:
            x = self.x_of(self._clock)
            painter.setPen(QPen(self.theme.colour("cursor"), 2))
            painter.drawLine(QPointF(x, top), QPointF(x, bottom))
