"""What need not happen within the same press of a key: once in the next turn of the event loop, or when nobody is waiting."""

from __future__ import annotations

import gc
import time
from collections.abc import Callable
from typing import ClassVar

from PySide6.QtCore import QAbstractEventDispatcher, QEvent, QObject, QTimer
from PySide6.QtGui import QWindow

from ..memory import used

ENOUGH = 0.03  # seconds of a turn after which what need not happen in it waits for the next
QUIET = 3.0  # seconds without a key or a click after which nobody is waiting
LONGEST = 600.0  # seconds after which it is done all the same
GROWN = 100 << 20  # bytes more than after the last time: unused recordings may be among them
MUCH = 400 << 20  # bytes more than after the last look at all there is: it is due in the middle of work too
OLDEST = 1_000_000  # the oldest generation is not collected in the middle of work


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


class Collector(QObject):
    """Has Python look for unused objects that refer to each other while nobody is waiting: the window, and whatever fills
    the sound card's buffer, stand still meanwhile. What the program begins with is never looked at again."""

    def __init__(self, window: QWindow, playing: Callable[[], bool]) -> None:
        super().__init__(window)
        gc.collect()
        gc.freeze()
        self._usual = gc.get_threshold()
        gc.set_threshold(*self._usual[:2], OLDEST)
        self._playing = playing
        self.touched = self.collected = time.monotonic()
        self._used = self._used_then = used()  # after the last look, after the last one at all there is
        window.installEventFilter(self)  # the system's window, which has no events but the user's
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.look)
        self._timer.start(round(1000 * QUIET))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() in (
            QEvent.Type.KeyPress,
            QEvent.Type.MouseButtonPress,
            QEvent.Type.MouseMove,
            QEvent.Type.Wheel,
        ):
            self.touched = time.monotonic()
        return False

    def look(self) -> None:
        """Collect now if nobody is waiting and something was done since the last time."""
        now = time.monotonic()
        rests = self.touched > self.collected and now - self.touched > QUIET
        grown = used() > self._used + GROWN
        if ((rests or grown) and not self._playing()) or now - self.collected > LONGEST:
            self._collect(all_=rests or not grown or used() > self._used_then + MUCH)

    def _collect(self, all_: bool) -> None:
        """Look at all there is, or in the middle of work at what came since the last time only, which takes a tenth of it."""
        if all_:
            gc.unfreeze()
        gc.collect()
        gc.freeze()
        self.collected, self._used = time.monotonic(), used()
        if all_:
            self._used_then = self._used

    def end(self) -> None:
        """Python collects by itself again."""
        self._timer.stop()
        gc.set_threshold(*self._usual)
        gc.unfreeze()
