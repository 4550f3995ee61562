"""The figure's box at work: it listens to taps over the loop, and lets the figure be heard by itself."""

from __future__ import annotations

from ...session.commands import figuring
from ...song import strumming
from ...song.model import Song
from ...tongue import tr
from ..dialogs.asking import asked
from ..dialogs.figuredialog import FigureDialog
from ..shell import Shell


class FigureTaps:
    """Taps of one figure while a stretch plays."""

    def __init__(self, w: Shell, dialog: FigureDialog, bars: list[int]) -> None:
        self.w, self.dialog, self.bars = w, dialog, bars
        self.positions: list[float] = []
        self.played: list[
            tuple[int, int]
        ] = []  # (first beat, beats): every time that a bar was played counts by itself
        self._last, self._bar = -1.0, -1

    def tap(self) -> None:
        """One tap: the first starts the loop."""
        w, song = self.w, self.w.session.song
        if song is None or w.player is None:
            self.dialog.said.setText(tr("There is no sound to tap to yet"))
            return
        if not w.playing:
            a, b = song.grid.bar_range(self.bars[0])[0], song.grid.bar_range(self.bars[-1])[1]
            w.practice.loop(a, b)
            w.hear_from(song.grid.clock(a))
            w.resume_playing()
            self.dialog.said.setText(tr("Tap every stroke"))
            return
        self.take(song, w.heard())

    def take(self, song: Song, seconds: float) -> None:
        """A tap at a time of the record. Each round of the loop is laid behind the one before, so that it counts by itself."""
        grid = song.grid
        position = grid.position(seconds)
        bar = grid.bar_at(min(max(position + 0.25, 0.0), float(grid.end) - 0.01))
        if bar not in self.bars:
            return
        start, beats = grid.starts[bar], grid.bars[bar].beats
        if not self.played or seconds < self._last or self._bar != bar:
            laid = self.played[-1][0] + self.played[-1][1] + 1 if self.played else 0
            self.played.append((laid, beats))
            self._bar = bar
        self._last = seconds
        self.positions.append(self.played[-1][0] + position - start)
        figure = strumming.tapped(self.played, self.positions, song.strummed.swing)
        self.dialog.show_tapped(figure, len(self.positions), len(self.played))


def figure(w: Shell) -> None:
    """Type, click or tap the figure of the bar, of its section, or of all its times; nothing typed leaves it to what is heard."""
    song = w.session.song
    if song is None:
        return
    s = w.session.selection
    bar = s.first
    reaches = figuring.reaches(song, w.session)
    dialog = FigureDialog(w.theme, song.grid.bars[bar].beats, figuring.choices(song, bar), list(reaches), w.widget())
    here = list(range(s.first, s.last + 1)) if s.many else list(song.section_bars(song.section_of_bar(bar))) or [bar]
    taps = FigureTaps(w, dialog, here)
    dialog.tapped.connect(taps.tap)
    dialog.demonstrated.connect(lambda text, share: w.hearing.hear_figure(bar, text, share))
    if asked(dialog):
        figuring.state(w.session, dialog.text, list(reaches.values())[dialog.reach])
