"""One stroke of the strumming hand, drawn at any size: on the sheet and in the figure's box."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from ...song.strumming import PLUCKS
from ..theme import Theme

HARD, SOFT, ARM = 7.0, 4.4, 3.0  # half the length of arrows, the width of half their heads
SHAFT = 1.3  # half of how far two shafts are apart


def paint_stroke(
    painter: QPainter,
    theme: Theme,
    x: float,
    middle: float,
    letter: str,
    colour: QColor,
    size: float = 1.0,
    both: bool = False,
) -> None:
    """An arrow down or up, longer where it is hard, a cross where it is muted, a dot where the hand goes by, a letter or
    digit where one string is plucked; ``both``: two guitars do it, the arrow has two shafts."""
    pen = 1.0 + 0.4 * (size - 1)
    painter.setPen(QPen(colour, (1.8 if letter.isupper() else 1.2) * pen))
    if letter in PLUCKS:
        painter.setFont(theme.sans(8 * size if size < 2 else 13, strong=True))
        painter.drawText(QRectF(x - 12, middle - 12, 24, 24), Qt.AlignmentFlag.AlignCenter, letter)
    elif letter == "-":
        painter.setPen(QPen(theme.colour("sound"), 1.6 * pen))
        painter.drawPoint(QPointF(x, middle))
    elif letter == "x":
        arm = ARM * size**0.6
        painter.drawLine(QPointF(x - arm, middle - arm), QPointF(x + arm, middle + arm))
        painter.drawLine(QPointF(x - arm, middle + arm), QPointF(x + arm, middle - arm))
    else:
        way = 1 if letter in "Dd" else -1
        reach, arm = (HARD if letter.isupper() else SOFT) * size, ARM * size**0.5
        tip = middle + way * reach
        shafts = (x - SHAFT * size, x + SHAFT * size) if both else (x,)
        for shaft in shafts:
            painter.drawLine(
                QPointF(shaft, middle - way * reach), QPointF(shaft, tip - (way * SHAFT * size if both else 0))
            )
        painter.drawPolyline(
            [QPointF(x - arm, tip - 1.15 * arm * way), QPointF(x, tip), QPointF(x + arm, tip - 1.15 * arm * way)]
        )
