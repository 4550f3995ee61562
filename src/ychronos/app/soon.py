"""What need not happen within the same press of a key: once in the next turn of the event loop that has time."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import ClassVar

from PySide6.QtCore import QAbstractEventDispatcher, QObject, QTimer

ENOUGH = 0.03  # seconds of a turn after which what need not happen in it waits for the next


class _Turn:
    """When the present turn of the event loop began."""

    def __init__(self) -> None:
        self.began = time.perf_counter()
        self._watched: QAbstractEventDispatcher | None = None

    def spent(self) -> float:
        """Seconds since the present turn began; none where there is no event loop."""
        loop = QAbstractEventDispatcher.instance()
        if loop is None:
            return 0.0
        if loop is not self._watched:
            self._watched = loop
            loop.awake.connect(self._begin)
            self._begin()
        return time.perf_counter() - self.began

    def _begin(self) -> None:
        self.began = time.perf_counter()


TURN = _Turn()


class Soon:
    """Calls a function once in the next turn of the event loop that has not had its share of work yet, however often it
    was asked for before."""

    waits: ClassVar[bool] = True  # False calls it at once
    PATIENCE = 5  # turns, after which it is called in any

    def __init__(self, run: Callable[[], object], parent: QObject) -> None:
        self._run = run
        self._put_off = 0
        self._timer = QTimer(parent)
        self._timer.setSingleShot(True)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._due)

    def _due(self) -> None:
        if self._put_off < self.PATIENCE and TURN.spent() > ENOUGH:
            self._put_off += 1
            self._timer.start()
        else:
            self._put_off = 0
            self._run()

    def __call__(self) -> None:
        if self.waits:
            self._timer.start()
        else:
            self._run()

    def done(self) -> None:
        """It is done already."""
        self._timer.stop()
