"""What Qt calls of ours must not break: an error is told, and the window lives on.

Qt ends the whole process when a painter is still at work on a widget that is done with being painted; and the binding
does when some errors come out of an event that is handled in the midst of another call.
"""

from __future__ import annotations

import functools
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from PySide6.QtCore import QObject
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


# What Qt calls and does not take an answer from, and what it does.
HANDLERS = (
    "changeEvent", "closeEvent", "contextMenuEvent", "dragEnterEvent", "dragMoveEvent", "dropEvent", "enterEvent",
    "focusInEvent", "focusOutEvent", "hideEvent", "keyPressEvent", "keyReleaseEvent", "leaveEvent", "mouseDoubleClickEvent",
    "mouseMoveEvent", "mousePressEvent", "mouseReleaseEvent", "moveEvent", "paint", "resizeEvent", "scrollContentsBy",
    "showEvent", "timerEvent", "wheelEvent",
)  # fmt: skip
ASKED = ("event", "eventFilter", "heightForWidth", "minimumSizeHint", "sizeHint", "viewportEvent")


def guard(package: str = "ychronos.app") -> None:
    """Make what Qt calls in all classes of a package tell its errors instead of raising them; once for each class."""
    # A copy is made in one piece; a list of the items is not, and a library may come in from another thread meanwhile.
    for name, module in sys.modules.copy().items():
        if name.startswith(package):
            for kind in vars(module).values():
                if isinstance(kind, type) and issubclass(kind, QObject) and kind.__module__ == name:
                    _guard(kind)


def _guard(kind: type) -> None:
    for name in (*HANDLERS, *ASKED):
        method = kind.__dict__.get(name)
        if callable(method) and not hasattr(method, "guarded"):
            setattr(kind, name, _guarded(kind, name, method))


def _guarded(kind: type, name: str, method: Callable[..., Any]) -> Callable[..., Any]:
    @functools.wraps(method)
    def run(self: Any, *values: Any) -> Any:
        try:
            return method(self, *values)
        except Exception as error:
            sys.excepthook(type(error), error, error.__traceback__)
            return getattr(super(kind, self), name)(*values) if name in ASKED else None

    run.guarded = True  # type: ignore[attr-defined]
    return run
