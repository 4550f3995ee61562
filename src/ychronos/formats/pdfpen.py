"""A pen on the pages of a PDF: texts that fit, lines, the signs of music, columns and new pages.

Lengths are in points of the page as it is scaled; y grows upwards, as in PDF.
"""

from __future__ import annotations

import io

from reportlab.pdfgen.canvas import Canvas

from ..song.strumming import PLUCKS
from . import pdffonts
from .paper import Paper
from .pdffonts import ITALIC

MARGIN, GUTTER = 48.0, 26.0  # of a page, between columns
SMALL = 8.5
INK, QUIET, LINE = (0.13, 0.19, 0.23), (0.42, 0.42, 0.39), (0.75, 0.73, 0.68)


class Pen:
    """``y`` is where the next thing goes; ``left`` and ``right`` are the edges of the column it is in. ``foot`` is called
    before a page is left."""

    def __init__(self, paper: Paper) -> None:
        pdffonts.register()
        self.buffer = io.BytesIO()
        self.canvas = Canvas(self.buffer, pagesize=paper.points, invariant=1)
        self.scale = paper.scale
        self.canvas.scale(self.scale, self.scale)
        self.width, self.height = (x / self.scale for x in paper.points)
        self.number = 1
        self.columns = self.column = 1
        self.y = self.top = self.height - MARGIN
        self.left, self.right = MARGIN, self.width - MARGIN

    def begin_columns(self, count: int) -> None:
        """From here on what is written stands in so many columns."""
        self.columns, self.top = count, self.y
        self._go_to(1)

    def _go_to(self, column: int) -> None:
        wide = (self.width - 2 * MARGIN - (self.columns - 1) * GUTTER) / self.columns
        self.column, self.y = column, self.top
        self.left = MARGIN + (column - 1) * (wide + GUTTER)
        self.right = self.left + wide

    def room_for(self, height: float) -> bool:
        """Go to the next column or page unless there is so much room; says whether it did."""
        if self.y - height >= MARGIN or self.y >= self.top:  # what is higher than a page is not sent on for ever
            return False
        if self.column < self.columns:
            self._go_to(self.column + 1)
            return True
        self.foot()
        self.canvas.showPage()
        self.canvas.scale(self.scale, self.scale)
        self.number += 1
        self.top = self.height - MARGIN
        self._go_to(1)
        return True

    @property
    def left_over(self) -> float:
        """Room that is left in this column."""
        return self.y - MARGIN

    def foot(self) -> None:
        """What stands at the foot of a page."""

    def finish(self) -> bytes:
        self.foot()
        self.canvas.save()
        return self.buffer.getvalue()

    # ------------------------------------------------------------ texts

    def text(
        self, x: float, y: float, text: str, font: str, size: float, colour: tuple[float, float, float] = INK
    ) -> None:
        self.canvas.setFillColorRGB(*colour)
        for piece, name in pdffonts.runs(text, font):
            self.canvas.setFont(name, size)
            self.canvas.drawString(x, y, piece)
            x += pdffonts.width(piece, name, size)

    def text_right(self, x: float, y: float, text: str, font: str, size: float, colour: tuple[float, float, float] = INK) -> None:  # fmt: skip
        self.text(x - pdffonts.width(text, font, size), y, text, font, size, colour)

    def fit(self, text: str, font: str, size: float, room: float) -> float:
        """A size at which the text fits into ``room`` points."""
        wide = pdffonts.width(text, font, size)
        return size if wide <= room else max(6.0, size * room / wide)

    def wrapped(self, text: str, font: str, size: float, room: float) -> list[str]:
        """A text in lines that fit into ``room`` points."""
        out: list[str] = []
        for word in text.split():
            longer = f"{out[-1]} {word}" if out else word
            if out and pdffonts.width(longer, font, size) <= room:
                out[-1] = longer
            else:
                out.append(word)
        return out

    # ------------------------------------------------------------ lines and signs

    def line(self, x: float, top: float, base: float, width: float) -> None:
        """A bar line."""
        self.canvas.setStrokeColorRGB(*INK)
        self.canvas.setLineWidth(width)
        self.canvas.line(x, top - 2, x, base)

    def repeat(self, x: float, top: float, base: float, side: int) -> None:
        """A repeat sign whose dots stand to the right (1) or left (-1) of it."""
        self.line(x - side, top, base, 2.6)
        self.canvas.setFillColorRGB(*INK)
        for height in (0.38, 0.62):
            self.canvas.circle(x + 2.6 * side, base + height * (top - 2 - base), 1.0, stroke=0, fill=1)

    def roof(self, x: float, y: float, wide: float) -> None:
        """A small roof, over what comes between the beats."""
        self.canvas.setStrokeColorRGB(*INK)
        self.canvas.setLineWidth(0.9)
        self.canvas.lines([(x, y, x + wide / 2, y + wide / 3), (x + wide / 2, y + wide / 3, x + wide, y)])

    def stroke(self, x: float, y: float, letter: str, both: bool = False) -> None:
        """A stroke of the strumming hand around ``y``: an arrow, with two shafts where two guitars play it, a cross where it is muted, a dot
        where there is none."""
        self.canvas.setStrokeColorRGB(*INK)
        self.canvas.setFillColorRGB(*LINE)
        if letter == "-":
            self.canvas.circle(x, y, 0.6, stroke=0, fill=1)
            return
        if letter in PLUCKS:
            self.text(x - 2, y - 3, letter, pdffonts.BOLD, SMALL)
            return
        self.canvas.setLineWidth(1.0 if letter.isupper() else 0.6)
        if letter == "x":
            self.canvas.lines([(x - 1.8, y - 1.8, x + 1.8, y + 1.8), (x - 1.8, y + 1.8, x + 1.8, y - 1.8)])
            return
        way = -1 if letter in "Dd" else 1
        reach = way * (5.0 if letter.isupper() else 3.3)
        tip = y + reach
        shafts = (-0.9, 0.9) if both else (0.0,)
        self.canvas.lines([(x + off, y - reach, x + off, tip - abs(off) * way) for off in shafts])
        self.canvas.lines([(x - 1.7, tip - 2 * way, x, tip), (x + 1.7, tip - 2 * way, x, tip)])

    def sign(self, x: float, y: float, words: str, glyph: str = "") -> float:
        """Words in a frame, where the way goes, with the sign itself before them; returns the width."""
        wide = pdffonts.width(words, ITALIC, SMALL)
        room = 13.0 if glyph else 0.0
        self.canvas.setStrokeColorRGB(*INK)
        self.canvas.setLineWidth(0.7)
        if words:
            self.canvas.rect(x + room, y - 2.5, wide + 8, SMALL + 2.5)
            self.text(x + room + 4, y, words, ITALIC, SMALL)
        if glyph:
            (self._segno if glyph == "segno" else self._coda)(x + 5, y + 3)
        return float(room + (wide + 8 if words else 0))

    def _segno(self, x: float, y: float) -> None:
        """The sign that one goes back to: an S, struck through, with a dot on either side."""
        self.canvas.setLineWidth(1.3)
        self.canvas.setStrokeColorRGB(*INK)
        path = self.canvas.beginPath()
        path.moveTo(x + 2.6, y + 3.2)
        path.curveTo(x - 1.0, y + 6.4, x - 5.2, y + 2.6, x, y)
        path.curveTo(x + 5.2, y - 2.6, x + 1.0, y - 6.4, x - 2.6, y - 3.2)
        self.canvas.drawPath(path, stroke=1, fill=0)
        self.canvas.setLineWidth(0.8)
        self.canvas.line(x - 4.0, y - 5.0, x + 4.0, y + 5.0)
        self.canvas.setFillColorRGB(*INK)
        for side in (-1, 1):
            self.canvas.circle(x + 4.2 * side, y - 1.0 * side, 0.9, stroke=0, fill=1)

    def _coda(self, x: float, y: float) -> None:
        """The sign of the coda: an upright ring with a cross through it."""
        self.canvas.setStrokeColorRGB(*INK)
        self.canvas.setLineWidth(1.1)
        self.canvas.ellipse(x - 3.0, y - 4.0, x + 3.0, y + 4.0, stroke=1, fill=0)
        self.canvas.setLineWidth(0.8)
        self.canvas.line(x - 5.0, y, x + 5.0, y)
        self.canvas.line(x, y - 6.0, x, y + 6.0)
