"""The listening half of the window: player, device, cursor, loop, click, level."""

from __future__ import annotations

import contextlib
import time
from fractions import Fraction
from typing import Any

from PySide6.QtCore import QTimer

from ..audio.decode import Samples
from ..audio.play import outputs
from ..audio.play.engine import level_to_gain
from ..chart.rows import section_title
from ..session.practice import REMIND_AFTER
from ..song.words import clock_text
from ..tongue import tr
from .shell import Shell


class Listening(Shell):
    """The playing half of the window; the other half is :class:`~.window.Window`."""

    output: outputs.Output
    views: dict[str, Any]
    _device_on: bool
    _said_until: float
    _cursor_timer: QTimer

    def _clock_of_views(self, seconds: float) -> None:
        for page in self.views.values():
            page.set_clock(seconds)
        if self.stage is not None and self.stage.isVisible():
            self.stage.set_clock(seconds)

    # ------------------------------------------------------------ what practising asks for

    def chart_along(self) -> None:
        self.hearing.set_kind("chart")

    def chart_is_heard(self) -> bool:
        return bool(self.hearing.kind != "off")

    def reminder_after(self) -> float:
        return self.settings.number("remind_after", REMIND_AFTER, 0, 24 * 60)

    def remind_after(self, minutes: float) -> None:
        self.settings.set("remind_after", minutes)

    def play_if_still(self) -> None:
        if not self.playing:
            self.play_from_caret()

    @property
    def playing(self) -> bool:
        return self.player is not None and self.player.playing

    def heard(self) -> float:
        """Clock time of what is heard now, in seconds."""
        if self.player is None:
            return 0.0
        player = self.player
        late = self.output.latency * player.speed / player.stretch if player.playing else 0.0
        at = player.seconds - late
        limits = player.loop
        if limits is not None and player.playing and player.rounds:  # what is heard is still the end of the loop
            first, last = (x / (player.rate * player.stretch) for x in limits)
            if at < first <= player.seconds:
                at += last - first
        return max(0.0, at)

    def ensure_device(self) -> None:
        if self._device_on or self.player is None:
            return
        try:
            self.output.start(self.player.rate, self._fill)
        except outputs.DeviceError:
            self.output = outputs.SimulatedOutput()
            self.desk.set_output(self.output.note)
            self.output.start(self.player.rate, self._fill)
        self._device_on = True

    def _device_lost(self) -> None:
        """The sound card went away: playing goes on in silence, nothing else changes."""
        with contextlib.suppress(outputs.DeviceError):
            self.output.stop()
        self.output = outputs.SimulatedOutput(outputs.LOST_NOTE)
        self.desk.set_output(self.output.note)
        self._device_on = False
        if self.player is not None:
            self.ensure_device()
        self.notice.say(
            tr("The sound card went away; the record goes on in silence, and nothing is lost."),
            {tr("Look for it again"): self.find_device},
            error=False,
        )

    def find_device(self) -> None:
        """Look for a sound card again."""
        playing = self.playing
        if self._device_on:
            self.output.stop()
            self._device_on = False
        self.output = outputs.choose(self.habits.device)
        self.desk.set_output(self.output.note)
        if playing:
            self.ensure_device()

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
        song = self.session.song
        if self.player is None:
            return
        start: float | None = None
        count_in = None
        if song is not None:
            at = self.session.selection.caret
            span = self.practice.span
            if span is not None and not span[0] <= at < span[1]:
                at = span[0]
            start = song.grid.clock(at)
            count_in = self.practice.counted_in(at)
        else:
            start = self.heard()
        self.player.play(start, count_in)
        self.ensure_device()
        self._set_playing(True)

    def resume_playing(self) -> None:
        if self.player is not None:
            self.player.play()
            self.ensure_device()
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
        if self.output.lost:
            self._device_lost()
        self.practice.tick()
        at = self.heard()
        self.sheet.set_clock(at, follow=self.playing)
        self._clock_of_views(at)
        self._show_time(at)
        if self.playing:
            self._show_place()
        elif self._cursor_timer.isActive():
            self._set_playing(False)

    def _show_time(self, at: float) -> None:
        song = self.session.song
        self.desk.time.setText(clock_text(song.shown_clock(at) if song else at, tenths=True))

    def _show_place(self) -> None:
        if time.monotonic() < self._said_until:  # a word about what happened is to be read first
            return
        song = self.session.song
        if song is None:
            self.desk.place.setText("")
            return
        position = song.grid.position(self.heard()) if self.playing else float(self.session.selection.caret)
        if self.playing and not 0 <= position < song.grid.beat_count:  # an announcement, applause
            self.desk.place.setText(tr("before the first bar") if position < 0 else tr("after the last bar"))
            return
        position = min(max(position, 0.0), song.grid.beat_count - 1e-6)
        bar = song.grid.bar_at(position)
        beat = int(position - song.grid.starts[bar]) + song.grid.bars[bar].first
        name, which = section_title(song, song.section_index(song.grid.bar_range(bar)[0]))
        self.desk.place.setText(
            tr(
                "{name}{word} · bar {number} · beat {beat}",
                name=name,
                word=f", {which}" if which else "",
                number=song.grid.number(bar),
                beat=beat,
            )
        )

    def seek(self, seconds: float) -> None:
        """Put the playhead at a time; playing goes on from there."""
        if self.player is None:
            return
        self.player.seek(seconds)
        self.sheet.set_clock(seconds)
        self._clock_of_views(seconds)
        self._show_time(seconds)

    def set_loop(self, bars: tuple[int, int] | None) -> None:
        """Loop bars, or nothing."""
        if bars is None:
            self.practice.loop(None)
        else:
            self.practice.loop_bars(*bars)

    def show_loop(self, tell_player: bool = True) -> None:
        """Give the player, the sheet and the desk the loop as it is on the present grid."""
        song, span = self.session.song, self.practice.span
        if song is None or span is None or span[1] > song.grid.end:
            self.sheet.set_loop(None)
            self.desk.set_loop("")
            if self.player is not None and not self.hearing.readings and not self.practice.passes_on:
                self.player.set_loop(None)
            return
        grid = song.grid
        first, last = grid.bar_at(span[0]), grid.bar_at(span[1] - Fraction(1, 8))
        self.sheet.set_loop((first, last))
        whole = span == (Fraction(grid.starts[first]), Fraction(grid.starts[last + 1]))
        one, two = grid.number(first), grid.number(last)
        text = tr("bar {one}", one=one) if one == two else tr("bars {one}–{two}", one=one, two=two)
        self.desk.set_loop(
            text if whole else tr("{span:g} beats in {text}", span=round(float(span[1] - span[0]), 1), text=text)
        )
        if self.player is not None and tell_player and not self.hearing.readings:
            self.player.set_plan(self.practice.plan())

    def apply_clicks(self) -> None:
        """Give the player the ticks of the present grid, or none."""
        self.desk.show_practice(self.practice)
        if self.player is not None:
            self.player.clicks = self.practice.clicks()

    def _loop_pressed(self) -> None:
        if self.session.song is None:
            self.desk.set_loop("")
            return
        s = self.session.selection
        self.set_loop(None if self.practice.span is not None else (s.first, s.last))

    def apply_level(self) -> None:
        if self.player is not None:
            self.player.set_gain(level_to_gain(self.desk.level.value() / 100, self.cap_lifted))
        self.desk.level.setToolTip(
            tr(
                "Level {value} % ({keys} and {keys2})",
                value=self.desk.level.value(),
                keys=self.actions_.keys_of("louder"),
                keys2=self.actions_.keys_of("softer"),
            )
        )

    def hear_from(self, seconds: float) -> None:
        """Put the playhead and the caret at a time and play on from there."""
        song = self.session.song
        if song is not None:
            self.practice.leave(self.session.selection.caret)
            beat = min(max(0, int(song.grid.position(seconds))), song.grid.beat_count - 1)
            self.session.select(Fraction(beat))
        if self.player is not None:
            self.seek(seconds)
            self.player.play(seconds)
            self.ensure_device()
            self._set_playing(True)
