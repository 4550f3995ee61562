"""The shapes that a chart uses, drawn on paper: a strip of diagrams in order of appearance."""

from __future__ import annotations

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfgen.canvas import Canvas

from ..chart.diagram import Diagram, diagram
from ..chart.used import Used
from ..guitar.fingering import shape_text
from ..guitar.instrument import GuitarSetup

WIDE, HIGH = 50.0, 76.0  # points that one shape takes
INK, QUIET = (0.13, 0.19, 0.23), (0.45, 0.45, 0.42)
_GRID_TOP, _GRID = 21.0, 30.0  # below the top, height of the grid
_ACROSS = 5.4  # between strings


def draw(canvas: Canvas, one: Used, guitar: GuitarSetup, x: float, top: float, fonts: tuple[str, str]) -> None:
    """A shape with its name, fingers and frets; ``x`` is the left edge, ``top`` the upper one, in points."""
    bold, plain = fonts
    drawing = diagram(one.held.shape, one.held.fingers, guitar.left)
    left = x + 10
    across = min(_ACROSS, (WIDE - 16) / max(1, drawing.columns - 1))
    middle = left + across * (drawing.columns - 1) / 2
    canvas.setFillColorRGB(*INK)
    size = min(11.0, 11.0 * (WIDE - 2) / max(1.0, pdfmetrics.stringWidth(one.title, bold, 11)))
    canvas.setFont(bold, size)
    canvas.drawCentredString(middle, top - 10, one.title)
    _grid(canvas, drawing, left, top - _GRID_TOP, across, plain)
    canvas.setFillColorRGB(*QUIET)
    canvas.setFont(plain, 6)
    frets = shape_text(guitar.nut_frets(one.held.shape) if guitar.from_nut else one.held.shape)
    canvas.drawCentredString(middle, top - _GRID_TOP - _GRID - 14, frets)


def _grid(canvas: Canvas, drawing: Diagram, left: float, top: float, across: float, plain: str) -> None:
    down = _GRID / drawing.rows
    right = left + across * (drawing.columns - 1)
    canvas.setStrokeColorRGB(*QUIET)
    for row in range(drawing.rows + 1):
        heavy = row == 0 and drawing.nut
        canvas.setStrokeColorRGB(*(INK if heavy else QUIET))
        canvas.setLineWidth(1.8 if heavy else 0.45)
        canvas.line(left, top - row * down, right, top - row * down)
    canvas.setStrokeColorRGB(*QUIET)
    canvas.setLineWidth(0.45)
    for column in range(drawing.columns):
        canvas.line(left + column * across, top, left + column * across, top - _GRID)
    canvas.setStrokeColorRGB(*INK)
    canvas.setFillColorRGB(*INK)
    canvas.setLineWidth(0.6)
    for column in drawing.opens:
        canvas.circle(left + column * across, top + 3.4, 1.5, stroke=1, fill=0)
    for column in drawing.mutes:
        x, y = left + column * across, top + 3.4
        canvas.line(x - 1.4, y - 1.4, x + 1.4, y + 1.4)
        canvas.line(x - 1.4, y + 1.4, x + 1.4, y - 1.4)
    if drawing.base > 1:
        canvas.setFont(plain, 6.5)
        canvas.drawRightString(left - 2.5, top - down / 2 - 2.2, str(drawing.base))
    dot = 0.34 * min(across, down)
    if drawing.barre is not None:
        row, first, last = drawing.barre
        canvas.setLineWidth(dot * 2)
        canvas.setLineCap(1)
        y = top - (row + 0.5) * down
        canvas.line(left + first * across, y, left + last * across, y)
        canvas.setLineCap(0)
    for column, row, _ in drawing.free_dots:
        canvas.circle(left + column * across, top - (row + 0.5) * down, dot, stroke=0, fill=1)
    canvas.setFillColorRGB(*QUIET)
    canvas.setFont(plain, 5.5)
    for column, _, number in drawing.dots:
        canvas.drawCentredString(left + column * across, top - _GRID - 6.5, drawing.finger_text(number))
