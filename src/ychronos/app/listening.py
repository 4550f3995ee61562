"""The listening half of the window: player, device, cursor, loop, click, level."""

from __future__ import annotations

import time
from fractions import Fraction

from PySide6.QtCore import QTimer

from ..audio.click import Clicks
from ..audio.decode import Samples
from ..chart.rows import clock_text, section_title
from . import devices
from .actions import Actions
from .desk import Desk
from .document import Document
from .ground import GroundView
from .hearing import Hearing
from .keyview import KeyView
from .player import Player, level_to_gain
from .sheet import SheetView


class Listening:
    """What the window needs to play; its parts are the window's."""

    document: Document
    player: Player | None
    output: devices.Output
    sheet: SheetView
    ground: GroundView
    keys: KeyView
    hearing: Hearing
    desk: Desk
    actions_: Actions
    clicking: bool
    cap_lifted: bool
    _device_on: bool
    _said_until: float
    _cursor_timer: QTimer

    @property
    def playing(self) -> bool:
        return self.player is not None and self.player.playing

    def heard(self) -> float:
        """Clock time of what is heard now, in seconds."""
        if self.player is None:
            return 0.0
        late = self.output.latency / self.player.stretch if self.player.playing else 0.0
        return max(0.0, self.player.seconds - late)

    def _ensure_device(self) -> None:
        if self._device_on or self.player is None:
            return
        try:
            self.output.start(self.player.rate, self._fill)
        except devices.DeviceError:
            self.output = devices.SimulatedOutput()
            self.desk.output.setText(self.output.note)
            self.output.start(self.player.rate, self._fill)
        self._device_on = True

    def _fill(self, out: Samples) -> None:
        player = self.player
        if player is None:
            out[:] = 0
        else:
            player.fill(out)

    def stop_device(self) -> None:
        if self.player is not None:
            self.player.stop()
        if self._device_on:
            self.output.stop()
            self._device_on = False
        self._set_playing(False)

    def play_from_caret(self) -> None:
        song = self.document.song
        if self.player is None:
            return
        start: float | None = None
        if song is not None:
            start = song.grid.clock(self.document.selection.caret)
            if self.sheet.loop is not None:
                first, last = (
                    song.grid.clock(song.grid.bar_range(b)[k]) for b, k in zip(self.sheet.loop, (0, 1), strict=True)
                )
                if not first <= start < last:
                    start = first
        else:
            start = self.heard()
        self.player.play(start)
        self._ensure_device()
        self._set_playing(True)

    def resume_playing(self) -> None:
        if self.player is not None:
            self.player.play()
            self._ensure_device()
            self._set_playing(True)

    def stop_playing(self) -> None:
        if self.player is not None:
            self.player.stop()
        self._set_playing(False)

    def _set_playing(self, playing: bool) -> None:
        self.desk.set_playing(playing)
        if playing:
            self._cursor_timer.start()
        elif hasattr(self, "_cursor_timer"):
            self._cursor_timer.stop()
            self._tick()

    def _tick(self) -> None:
        if self.player is None:
            return
        at = self.heard()
        self.sheet.set_clock(at, follow=self.playing)
        self.ground.time.set_clock(at)
        self.keys.lanes.set_clock(at)
        self._show_time(at)
        if self.playing:
            self._show_place()
        elif self._cursor_timer.isActive():
            self._set_playing(False)

    def _show_time(self, at: float) -> None:
        song = self.document.song
        self.desk.time.setText(clock_text(song.shown_clock(at) if song else at, tenths=True))

    def _show_place(self) -> None:
        if time.monotonic() < self._said_until:  # a word about what happened is to be read first
            return
        song = self.document.song
        if song is None:
            self.desk.place.setText("")
            return
        position = song.grid.position(self.heard()) if self.playing else float(self.document.selection.caret)
        position = min(max(position, 0.0), song.grid.beat_count - 1e-6)
        bar = song.grid.bar_at(position)
        beat = int(position - song.grid.starts[bar]) + song.grid.bars[bar].first
        name, which = section_title(song, song.section_index(song.grid.bar_range(bar)[0]))
        self.desk.place.setText(f"{name}{f', {which}' if which else ''} · bar {song.grid.number(bar)} · beat {beat}")

    def seek(self, seconds: float) -> None:
        """Put the playhead at a time; playing goes on from there."""
        if self.player is None:
            return
        self.player.seek(seconds)
        self.sheet.set_clock(seconds)
        self.ground.time.set_clock(seconds)
        self.keys.lanes.set_clock(seconds)
        self._show_time(seconds)

    def set_loop(self, bars: tuple[int, int] | None) -> None:
        song = self.document.song
        self.sheet.set_loop(bars if song is not None else None)
        self.show_loop()
        self.actions_.refresh()

    def show_loop(self) -> None:
        """Give the player and the desk the sheet's loop as it is on the present grid."""
        song, bars = self.document.song, self.sheet.loop
        if song is None or bars is None:
            self.desk.set_loop("")
            if self.player is not None:
                self.player.set_loop(None)
            return
        first, last = (song.grid.number(b) for b in bars)
        self.desk.set_loop(f"bar {first}" if first == last else f"bars {first}–{last}")
        if self.player is not None:
            self.player.set_loop(
                (song.grid.clock(song.grid.bar_range(bars[0])[0]), song.grid.clock(song.grid.bar_range(bars[1])[1]))
            )

    def apply_clicks(self) -> None:
        """Give the player the ticks of the present grid, or none."""
        self.desk.click.setChecked(self.clicking)
        song, player = self.document.song, self.player
        if player is None:
            return
        if song is None or not self.clicking:
            player.clicks = None
            return
        grid = song.grid
        ones = set(grid.ones)
        player.clicks = Clicks.at(
            grid.times[:-1],
            ["one" if i in ones else "beat" for i in range(grid.beat_count)],
            player.rate,
            player.stretch,
        )

    def _loop_pressed(self) -> None:
        if self.document.song is None:
            self.desk.set_loop("")
            return
        s = self.document.selection
        self.set_loop(None if self.sheet.loop is not None else (s.first, s.last))

    def apply_level(self) -> None:
        if self.player is not None:
            self.player.set_gain(level_to_gain(self.desk.level.value() / 100, self.cap_lifted))
        self.desk.level.setToolTip(f"Level {self.desk.level.value()} % (+ and -)")

    def hear_from(self, seconds: float) -> None:
        """Put the playhead and the caret at a time and play on from there."""
        song = self.document.song
        if song is not None:
            beat = min(max(0, int(song.grid.position(seconds))), song.grid.beat_count - 1)
            self.document.select(Fraction(beat))
        if self.player is not None:
            self.seek(seconds)
            self.player.play(seconds)
            self._ensure_device()
            self._set_playing(True)
