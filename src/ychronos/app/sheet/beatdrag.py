"""Dragging a beat in the sound of the sheet: grip, move within its neighbours, let go."""

from __future__ import annotations

from fractions import Fraction
from typing import Protocol

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QWidget

from ...session.session import Session
from ...song.words import clock_text
from ..theme import Theme
from .geometry import BarBox, RowBox, SheetGeometry
from .sheetpaint import LEAD_SHIFT, LINE_BOTTOM, LINE_TOP, WAVE_CENTRE, WAVE_HALF


class Sheet(Protocol):
    """What dragging needs of the sheet."""

    session: Session
    theme: Theme
    geometry_: SheetGeometry | None

    def bar_under(self, point: QPointF) -> tuple[RowBox, BarBox, float] | None: ...
    def viewport(self) -> QWidget: ...


GRIP, DRAG_FROM = 4.0, 4.0  # pixels around a beat that grip it, and from which on it moves
FARTHEST = 0.92  # of the way to the neighbour


class BeatDrag:
    """The beat that is held, if any; coordinates are the sheet's content's."""

    def __init__(self, sheet: Sheet) -> None:
        self.sheet = sheet
        self.held: int | None = None
        self._pressed = 0.0
        self._moved_to: float | None = None

    def beat_under(self, point: QPointF) -> int | None:
        """The beat whose line in the sound is at a point."""
        hit, song, geometry = self.sheet.bar_under(point), self.sheet.session.song, self.sheet.geometry_
        if hit is None or song is None or geometry is None:
            return None
        row, box, offset = hit
        shift = LEAD_SHIFT * geometry.scale if row.row.silent else 0.0
        if abs(point.y() - row.y - WAVE_CENTRE * geometry.scale - shift) > (WAVE_HALF + 5) * geometry.scale:
            return None
        near = round(offset)
        beat = song.grid.starts[box.bar] + near
        return beat if abs(point.x() - box.x_of(near)) <= GRIP and beat < song.grid.beat_count else None

    def press(self, beat: int, x: float) -> None:
        self.held, self._pressed, self._moved_to = beat, x, None

    def move(self, x: float) -> None:
        """The held beat follows the pointer, once it has moved a little."""
        geometry = self.sheet.geometry_
        if self.held is None or geometry is None or (self._moved_to is None and abs(x - self._pressed) < DRAG_FROM):
            return
        row, here = geometry.point(Fraction(self.held))
        reach = FARTHEST * row.beat_width
        self._moved_to = min(max(x, here - reach), here + reach)
        self.sheet.viewport().update()

    def time(self) -> float | None:
        """Clock time to which the held beat has been moved, or None."""
        song, geometry = self.sheet.session.song, self.sheet.geometry_
        if self.held is None or self._moved_to is None or song is None or geometry is None:
            return None
        row, here = geometry.point(Fraction(self.held))
        return song.grid.clock(self.held + (self._moved_to - here) / row.beat_width)

    def release(self) -> tuple[int, float] | None:
        """Let go; the beat and its new time, or None when it was not moved."""
        seconds, beat = self.time(), self.held
        self.cancel()
        return None if seconds is None or beat is None else (beat, seconds)

    def cancel(self) -> None:
        self.held = self._moved_to = None
        self.sheet.viewport().update()

    def paint(self, painter: QPainter) -> None:
        """Where the beat was, dashed, and where it would be, with the time."""
        seconds, song, geometry = self.time(), self.sheet.session.song, self.sheet.geometry_
        if seconds is None or self.held is None or self._moved_to is None or song is None or geometry is None:
            return
        theme = self.sheet.theme
        row, here = geometry.point(Fraction(self.held))
        top, bottom = row.y + LINE_TOP * geometry.scale, row.y + LINE_BOTTOM * geometry.scale
        painter.setPen(QPen(theme.colour("faded"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(here, top), QPointF(here, bottom))
        painter.setPen(QPen(theme.colour("stated"), 2))
        painter.drawLine(QPointF(self._moved_to, top), QPointF(self._moved_to, bottom))
        moved = seconds - song.grid.times[self.held]
        text = f"{clock_text(song.shown_clock(seconds), tenths=True)}  {1000 * moved:+.0f} ms"
        painter.setFont(theme.sans(9))
        tag = QRectF(self._moved_to + 6, top, painter.fontMetrics().horizontalAdvance(text) + 12, 20)
        if tag.right() > self.sheet.viewport().width():
            tag.moveRight(self._moved_to - 6)
        painter.fillRect(tag, theme.colour("stated"))
        painter.setPen(theme.colour("paper"))
        painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, text)
