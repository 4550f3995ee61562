"""Chord diagrams on the screen: one drawn anywhere, and a row or grid of them to choose from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QFontMetricsF,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from ...chart.diagram import Diagram, diagram
from ...guitar.fingering import Shape
from ...tongue import tr
from ..guarding import painted
from ..theme import Theme

_SIGNS = 0.17  # of the height, above the grid, for open and muted strings
_FINGERS = 0.15  # and below it for fingers


def paint_diagram(
    p: QPainter, area: QRectF, drawing: Diagram, theme: Theme, stated: bool = False, fingers: bool = True
) -> None:
    """Draw a diagram into an area; ``stated`` ones have a line under them, as chords that the user stated."""
    top = area.top() + _SIGNS * area.height()
    bottom = area.bottom() - (_FINGERS * area.height() if fingers else 2)
    left, right = area.left() + 0.2 * area.width(), area.right() - 0.06 * area.width()
    across = (right - left) / max(1, drawing.columns - 1)
    down = (bottom - top) / drawing.rows
    small = min(across, down)
    ink, thin = theme.colour("ink"), theme.colour("faded")
    p.setBrush(Qt.BrushStyle.NoBrush)
    for row in range(drawing.rows + 1):
        heavy = row == 0 and drawing.nut
        p.setPen(QPen(ink if heavy else thin, 2.4 if heavy else 0.9, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
        p.drawLine(QPointF(left - 0.5, top + row * down), QPointF(right + 0.5, top + row * down))
    p.setPen(QPen(thin, 0.9))
    for column in range(drawing.columns):
        x = left + column * across
        p.drawLine(QPointF(x, top), QPointF(x, bottom))
    sign = min(3.4, 0.3 * across + 0.6)
    y = top - 0.5 * _SIGNS * area.height()
    p.setPen(QPen(ink, 1.0))
    for column in drawing.opens:
        p.drawEllipse(QPointF(left + column * across, y), sign, sign)
    for column in drawing.mutes:
        x = left + column * across
        p.drawLine(QPointF(x - sign * 0.8, y - sign * 0.8), QPointF(x + sign * 0.8, y + sign * 0.8))
        p.drawLine(QPointF(x - sign * 0.8, y + sign * 0.8), QPointF(x + sign * 0.8, y - sign * 0.8))
    if drawing.base > 1:
        p.setFont(theme.sans(max(6.0, 0.095 * area.height())))
        p.setPen(ink)
        box = QRectF(area.left() - 6, top, left - area.left() + 6 - 0.36 * across, down)
        p.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, str(drawing.base))
    dot = 0.36 * small
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(ink)
    if drawing.barre is not None:
        row, first, last = drawing.barre
        height = dot * 1.15
        bar = QRectF(
            left + first * across - dot,
            top + (row + 0.5) * down - height / 2,
            (last - first) * across + 2 * dot,
            height,
        )
        p.drawRoundedRect(bar, height / 2, height / 2)
    for column, row, _ in drawing.free_dots:
        p.drawEllipse(QPointF(left + column * across, top + (row + 0.5) * down), dot, dot)
    p.setBrush(Qt.BrushStyle.NoBrush)
    if fingers:
        p.setFont(theme.sans(max(5.5, 0.085 * area.height())))
        p.setPen(thin)
        for column, _, number in drawing.dots:
            box = QRectF(left + (column - 0.5) * across, bottom, across, _FINGERS * area.height())
            p.drawText(box, Qt.AlignmentFlag.AlignCenter, drawing.finger_text(number))
    if stated:
        p.setPen(QPen(theme.colour("stated"), 2))
        p.drawLine(QPointF(left, area.bottom()), QPointF(right, area.bottom()))


@dataclass(frozen=True)
class Card:
    """A diagram to choose: ``title`` above, ``note`` below it, ``tip`` for the pointer and screen readers."""

    shape: Shape
    fingers: tuple[int, ...] = ()
    title: str = ""
    note: str = ""
    tip: str = ""
    stated: bool = False
    doubtful: bool = False


class Cards(QWidget):
    """Diagrams in rows that wrap; one is chosen. Arrow keys walk, Enter takes, a click chooses, a double click takes."""

    chosen = Signal(int)
    taken = Signal(int)

    def __init__(self, theme: Theme, wide: float = 98.0, high: float = 128.0, wraps: bool = True) -> None:
        super().__init__()
        self.theme, self.wide, self.high, self.wraps = theme, wide, high, wraps
        self.cards: list[Card] = []
        self.current = -1
        self.left = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._fit()

    def set_theme(self, theme: Theme) -> None:
        self.theme = theme
        self.update()

    def show_cards(self, cards: Sequence[Card], current: int = -1, left: bool = False) -> None:
        current = current if 0 <= current < len(cards) else -1
        if (self.cards, self.current, self.left) == (list(cards), current, left):
            return
        self.cards, self.current, self.left = list(cards), current, left
        self._fit()
        self._describe()
        self.update()

    def choose(self, index: int) -> None:
        if 0 <= index < len(self.cards):
            self.current = index
            self._describe()
            self.update()
            self.chosen.emit(index)

    # ------------------------------------------------------------ where cards are

    @property
    def columns(self) -> int:
        return max(1, int(self.width() // self.wide)) if self.wraps else max(1, len(self.cards))

    def box(self, index: int) -> QRectF:
        row, column = divmod(index, self.columns)
        return QRectF(column * self.wide, row * self.high, self.wide, self.high)

    def at(self, point: QPointF) -> int:
        """The card under a point, -1 for none."""
        return next((i for i in range(len(self.cards)) if self.box(i).contains(point)), -1)

    def sizeHint(self) -> QSize:
        rows = -(-len(self.cards) // self.columns) if self.cards else 0
        return QSize(int(self.wide * (1 if self.wraps else len(self.cards))), int(self.high * max(1, rows)))

    def minimumSizeHint(self) -> QSize:
        return QSize(int(self.wide), int(self.high))

    def _fit(self) -> None:
        self.setFixedHeight(self.sizeHint().height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _describe(self) -> None:
        card = self.cards[self.current] if self.current >= 0 else None
        words = (
            tr(
                "{title} {tip}, {current} of {count}",
                title=card.title,
                tip=card.tip,
                current=self.current + 1,
                count=len(self.cards),
            )
            if card
            else tr("{count} shapes", count=len(self.cards))
        )
        self.setAccessibleDescription(words)

    # ------------------------------------------------------------ mouse, keys

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.choose(self.at(event.position()))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        index = self.at(event.position())
        if index >= 0:
            self.taken.emit(index)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: -1,
            Qt.Key.Key_Right: 1,
            Qt.Key.Key_Up: -self.columns,
            Qt.Key.Key_Down: self.columns,
        }
        step = steps.get(Qt.Key(event.key()))
        if step is not None and self.cards:
            self.choose(max(0, min(len(self.cards) - 1, self.current + step)) if self.current >= 0 else 0)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.current >= 0:
            self.taken.emit(self.current)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            index = self.at(QPointF(event.pos()))
            if index >= 0:
                QToolTip.showText(event.globalPos(), self.cards[index].tip, self)
                return True
        return super().event(event)

    @painted
    def paintEvent(self, p: QPainter, event: QPaintEvent) -> None:
        t = self.theme
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        for i, card in enumerate(self.cards):
            box = self.box(i).adjusted(2, 2, -4, -4)
            if not QRectF(event.rect()).intersects(box):
                continue
            if i == self.current:
                p.setPen(QPen(t.colour("stated"), 2 if self.hasFocus() else 1))
                p.setBrush(t.colour("chosen"))
                p.drawRoundedRect(box, 5, 5)
            top = box.top() + 3
            if card.title:
                p.setFont(t.serif(12, bold=True))
                metrics = QFontMetricsF(p.font())
                p.setPen(t.colour("doubt" if card.doubtful else "ink"))
                text = metrics.elidedText(card.title, Qt.TextElideMode.ElideRight, box.width() - 6)
                p.drawText(QRectF(box.left() + 3, top, box.width() - 6, 18), Qt.AlignmentFlag.AlignCenter, text)
                top += 19
            low = box.bottom() - (14 if card.note else 3)
            inner = QRectF(box.left() + 3, top, box.width() - 8, low - top)
            wide = min(inner.width(), inner.height() * 0.92)
            middle = QRectF(inner.center().x() - wide / 2 - 3, inner.top(), wide, inner.height())
            paint_diagram(p, middle, diagram(card.shape, card.fingers, self.left), t, card.stated)
            if card.note:
                p.setFont(t.sans(8))
                p.setPen(t.colour("faded"))
                note = QFontMetricsF(p.font()).elidedText(card.note, Qt.TextElideMode.ElideRight, box.width() - 4)
                p.drawText(
                    QRectF(box.left() + 2, box.bottom() - 14, box.width() - 4, 13), Qt.AlignmentFlag.AlignCenter, note
                )
