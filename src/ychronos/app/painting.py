"""Painting that ends in every case: an error of ours while a widget is painted is told once, and the window lives on.

Qt ends the whole process when a painter is still at work on a widget that is done with being painted.
"""

from __future__ import annotations

import functools
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from PySide6.QtGui import QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QAbstractScrollArea, QWidget


@contextmanager
def painting(on: QWidget | QPixmap) -> Iterator[QPainter]:
    """A painter with smooth edges on a widget or a picture; it ends whatever happens, and errors are told, not raised."""
    painter = QPainter(on)
    try:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        yield painter
    except Exception as error:
        sys.excepthook(type(error), error, error.__traceback__)
    finally:
        painter.end()


def painted(paint: Callable[[Any, QPainter, QPaintEvent], None]) -> Callable[[Any, QPaintEvent], None]:
    """Make a ``paintEvent`` of a function that gets the painter too."""

    @functools.wraps(paint)
    def paint_event(widget: QWidget, event: QPaintEvent) -> None:
        with painting(widget.viewport() if isinstance(widget, QAbstractScrollArea) else widget) as painter:
            paint(widget, painter, event)

    return paint_event
