"""When Python looks for unused objects that refer to each other, and where: in the thread of the window, alone.

Qt wants its objects to end in the thread that made them. Python's own looks fall into whichever thread happens to make an object,
so that a window that was closed could end in the middle of a job, its timers and children with it.
"""

from __future__ import annotations

import gc
import time
from collections.abc import Callable

from PySide6.QtCore import QAbstractEventDispatcher, QEvent, QObject, QTimer
from PySide6.QtGui import QWindow

from ..memory import used

QUIET = 3.0  # seconds without a key or a click after which nobody is waiting
LONGEST = 600.0  # seconds after which it is done all the same
GROWN = 100 << 20  # bytes more than after the last time: unused recordings may be among them
MUCH = 400 << 20  # bytes more than after the last look at all there is: it is due in the middle of work too
OLDEST = 1_000_000  # the oldest generation is not collected in the middle of work


def look_only_here() -> None:
    """From now on it is looked for them only before the event loop of the present thread waits, when as many objects
    were made as Python itself would wait for; call it where the loop will run."""
    gc.disable()
    loop = QAbstractEventDispatcher.instance()
    if loop is not None:
        loop.aboutToBlock.connect(look_at_new)


def look_at_new() -> None:
    """Look at the generations of objects that are due."""
    for generation, (count, limit) in reversed(list(enumerate(zip(gc.get_count(), gc.get_threshold(), strict=True)))):
        if count > limit:
            gc.collect(generation)
            return


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
        """All is looked at as usual again, also what the program began with."""
        self._timer.stop()
        gc.set_threshold(*self._usual)
        gc.unfreeze()
