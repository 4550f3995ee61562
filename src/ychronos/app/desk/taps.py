"""Tapping along: presses become times of the record; a pause ends the row."""

from __future__ import annotations

from PySide6.QtCore import QObject, QTimer

from ...song import edits
from ...tongue import tr
from ..shell import Shell

PAUSE = 1800  # ms without a tap that end the row


class Taps(QObject):
    """Collects taps while the record plays and states them as beats."""

    def __init__(self, window: Shell) -> None:
        super().__init__(window)
        self.window = window
        self.times: list[float] = []
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(PAUSE)
        self._timer.timeout.connect(self.finish)

    def tap(self) -> None:
        """One tap, at what is heard now."""
        w = self.window
        if not w.playing:
            w.notice.say(tr("Start playing, then tap T with the beat; a pause ends the row."), error=False)
            return
        now = w.heard()
        if self.times and now <= self.times[-1]:  # the loop went round
            self.times = []
        self.times.append(now)
        self._timer.start()
        count = len(self.times)
        tempo = ""
        if count > 1:
            tempo = tr(", {count:.0f} a minute", count=60 * (count - 1) / (self.times[-1] - self.times[0]))
        w.say(tr("Tapped {count}{tempo}", count=count, tempo=tempo))

    def finish(self) -> None:
        """The row is over: state it."""
        self._timer.stop()
        times, self.times = self.times, []
        if times:
            self.window.session.edit(lambda song: edits.tap(song, times), decide="beats")
