"""Practising with the record: loops that move and grow, phrases in turn, a drill, a count-in, speed and pitch.

Keeps what the user wants of the listening desk and brings the player to it; the player may be exchanged for
another one (another record, the tape corrected) at any time. What the desk shows is read back from here.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from typing import Protocol

from ..audio.play.ear import MODES, filters
from ..audio.play.engine import Player
from ..audio.play.stretch import HIGHEST, LOWEST, StretchMissing
from ..audio.synth.clicks import Clicks
from ..loading import FILTERS, is_loaded, load_soon
from ..song import edits
from ..song.grid import Position
from ..song.track import Move
from ..tongue import sentence, tr
from .events import Event
from .session import Session

STEP = 0.05  # of the speed, by key
KEPT_LOOPS, KEPT_PLACES = 8, 30
REMIND_AFTER = 45.0  # minutes of playing, unless the settings say otherwise
CLICKS = ("off", "ones", "beats", "between")


@dataclass(frozen=True)
class Drill:
    """From one speed to another, a step at a time, each after so many times round the loop."""

    first: float = 0.5
    last: float = 1.0
    step: float = 0.05
    every: int = 2


class Playing(Protocol):
    """What practising needs of whoever plays: the engine, and to have shown and played what is wanted."""

    player: Player | None

    def seek(self, seconds: float) -> None: ...
    def hear_from(self, seconds: float) -> None: ...
    def stop_playing(self) -> None: ...
    def show_loop(self, tell_player: bool = True) -> None: ...
    def apply_clicks(self) -> None: ...
    def chart_along(self) -> None: ...
    def chart_is_heard(self) -> bool: ...
    def reminder_after(self) -> float: ...
    def remind_after(self, minutes: float) -> None: ...
    def play_if_still(self) -> None: ...


class Practice:
    """See the module. ``changed`` says that what is wanted is another."""

    def __init__(self, session: Session, playing: Playing) -> None:
        self.session, self.playing = session, playing
        self.changed = Event()
        self.speed, self.semitones, self.fine = 1.0, 0, 0.0
        self.in_tune = False  # shifted by the record's own offset, so that it sounds at concert pitch
        self.ear, self.balance = "whole", 0.0
        self.click = "off"
        self.count_in, self.times = False, 0
        self.drill: Drill | None = None
        self.span: tuple[Position, Position] | None = None  # what is looped
        self.loops: list[tuple[Position, Position]] = []  # looped lately, the last first
        self.trail: list[Position] = []  # places that were left by a jump
        self.passes_on = False
        self.played = 0.0  # seconds of playing, for the reminder
        self.reminded = False
        self._rounds = 0
        self._last_tick = time.monotonic()
        self._ab: float | None = None  # the balance before A/B was pressed
        session.moved.connect(self._follow_count)
        session.place_left.connect(lambda: self.leave(session.selection.caret))

    def _follow_count(self, mapped: Move) -> None:
        """Keep what is looped, was looped lately or was left on the music it stands on."""

        def stretch(span: tuple[Position, Position]) -> tuple[Position, Position]:
            a, b = (max(Fraction(0), min(mapped(x), mapped.new.end)) for x in span)
            return (a, b) if b > a else (max(Fraction(0), b - 1), b)

        self.span = stretch(self.span) if self.span is not None else None
        self.loops = list(dict.fromkeys(stretch(s) for s in self.loops))
        self.trail = [max(Fraction(0), mapped(at)) for at in self.trail]

    # ------------------------------------------------------------ speed and pitch

    @property
    def cents(self) -> float:
        """How far the record is moved from its own pitch."""
        song = self.session.song
        tuned = -(song.ground.cents - song.ground.tape_cents) if self.in_tune and song is not None else 0.0
        return 100.0 * self.semitones + self.fine + tuned

    def set_speed(self, speed: float) -> None:
        self.speed = round(min(HIGHEST, max(LOWEST, speed)), 3)
        self.apply()

    def change_speed(self, step: float) -> None:
        self.set_speed(round(self.speed / STEP) * STEP + step)
        self.session.say(tr("Speed {speed:.0%}", speed=self.speed))

    def transpose(self, semitones: int, fine: float | None = None) -> None:
        self.semitones = max(-12, min(12, semitones))
        if fine is not None:
            self.fine = max(-100.0, min(100.0, fine))
        self.apply()
        self.session.say(sentence(self.pitch_words()))

    def toggle_in_tune(self) -> None:
        self.in_tune = not self.in_tune
        self.apply()
        self.session.say(tr("Played as if in tune") if self.in_tune else tr("Played at the record’s own pitch"))

    def pitch_words(self) -> str:
        """``as it is``, ``2 up``, ``1 down and +20 ¢``."""
        parts = []
        if self.semitones:
            parts.append(f"{abs(self.semitones)} {tr('up') if self.semitones > 0 else tr('down')}")
        if self.fine:
            parts.append(f"{self.fine:+.0f} ¢")
        if self.in_tune:
            parts.append(tr("in tune"))
        return tr("pitch ") + (tr(" and ").join(parts) or tr("as it is"))

    def apply(self) -> None:
        """Bring the player to what is wanted."""
        player = self.playing.player
        if player is not None:
            try:
                player.set_speed(self.speed, self.cents)
            except StretchMissing as error:
                self.speed, self.semitones, self.fine, self.in_tune = 1.0, 0, 0.0, False
                self.session.tell(str(error), error=True)
            self._hear(player)
            player.record_gain, player.chart_gain = self.gains()
        self.changed.emit()

    # ------------------------------------------------------------ what to hear

    def _hear(self, player: Player) -> None:
        """Let the player hear what is wanted; when that can be filtered, the record goes on as it was until then."""
        if filters(self.ear) and not is_loaded(FILTERS):
            load_soon(FILTERS, 0.0, lambda: self._hear(player))
            return
        while player.ear != self.ear:  # another may be chosen meanwhile: this may be a thread beside
            player.set_ear(self.ear)

    def set_ear(self, mode: str) -> None:
        self.ear = mode
        self.apply()

    def next_ear(self) -> None:
        modes = list(MODES)
        self.set_ear(modes[(modes.index(self.ear) + 1) % len(modes)])
        self.session.say(tr("Hearing {modes}", modes=MODES[self.ear]))

    def gains(self) -> tuple[float, float]:
        """(record, chart) by the balance, -1 the record alone, 1 the chart alone."""
        return min(1.0, 1.0 - self.balance), min(1.0, 1.0 + self.balance)

    def set_balance(self, balance: float) -> None:
        self.balance, self._ab = max(-1.0, min(1.0, balance)), None
        if self.balance > -1 and not self.playing.chart_is_heard() and self.balance != 0:
            self.playing.chart_along()
        self.apply()

    def toggle_ab(self) -> None:
        """From the record to the chart at the same place, and back."""
        before = self._ab if self._ab is not None else self.balance
        if not self.playing.chart_is_heard():
            self.playing.chart_along()
        chart_alone = self.balance >= 1
        self.balance, self._ab = (-1.0 if chart_alone else 1.0), before
        self.apply()
        self.session.say(tr("The record alone") if chart_alone else tr("The chart alone"))

    def set_click(self, kind: str) -> None:
        self.click = kind
        self.playing.apply_clicks()
        words = {"off": tr("No click"), "ones": tr("Click on ones"), "beats": tr("Click on beats")}
        self.session.say(words.get(kind, tr("Click on beats and between")))

    def clicks(self) -> Clicks | None:
        """The ticks of the present grid, or None."""
        song, player = self.session.song, self.playing.player
        if song is None or player is None or self.click == "off":
            return None
        grid = song.grid
        ones = set(grid.ones)
        times: list[float] = []
        kinds: list[str] = []
        for _, start, bar in grid.walk():
            for beat in range(start, start + bar.beats):
                if beat in ones or self.click != "ones":
                    times.append(grid.times[beat])
                    kinds.append("one" if beat in ones else "beat")
                if self.click == "between":
                    for part in range(1, bar.meter.division):
                        times.append(grid.clock(beat + Fraction(part, bar.meter.division)))
                        kinds.append("between")
        return Clicks.at(times, kinds, player.rate, player.stretch)

    def counted_in(self, at: Position) -> tuple[Clicks, int] | None:
        """Ticks of one bar of the song's own meter before a place, at the speed it will be played."""
        song, player = self.session.song, self.playing.player
        if song is None or player is None or not self.count_in:
            return None
        grid = song.grid
        bar = grid.bars[grid.bar_at(at)]
        beat = (grid.clock(at + 1) - grid.clock(at)) * player.stretch / self.speed
        count = bar.meter.beats
        kinds = ["one"] + ["beat"] * (count - 1)
        return Clicks.at([i * beat for i in range(count)], kinds, player.rate), round(count * beat * player.rate)

    # ------------------------------------------------------------ loops

    def loop_bars(self, first: int, last: int) -> None:
        song = self.session.song
        if song is not None:
            self.loop(song.grid.bar_range(first)[0], song.grid.bar_range(last)[1])

    def loop(self, start: Position | None, end: Position | None = None) -> None:
        """Loop between two positions, or nothing."""
        song = self.session.song
        self.passes_on = False
        if start is None or end is None or song is None:
            self.span, self.drill = None, None
        else:
            start, end = max(Fraction(0), start), min(song.grid.end, end)
            if end - start < Fraction(1, 4):
                self.session.say(tr("Too short to loop"))
                return
            self.span = (start, end)
            self.loops = [self.span, *(s for s in self.loops if s != self.span)][:KEPT_LOOPS]
        self.playing.show_loop()
        self.changed.emit()

    def shift_loop(self, bars: int = 0, beats: int = 0) -> None:
        """Move the loop on or back, while it plays."""
        self._change(lambda a, b: (self._moved(a, bars, beats), self._moved(b, bars, beats)))

    def grow_loop(self, bars: int = 0, beats: int = 0) -> None:
        """Move the loop's end."""
        self._change(lambda a, b: (a, self._moved(b, bars, beats)))

    def _change(self, change: Callable[[Position, Position], tuple[Position, Position]]) -> None:
        song = self.session.song
        if song is None or self.span is None:
            self.session.say(tr("Nothing is looped"))
            return
        a, b = change(*self.span)
        if 0 <= a < b <= song.grid.end:
            self.loop(a, b)
            player = self.playing.player
            if player is not None and player.playing and not a <= song.grid.position(player.seconds) < b:
                self.playing.seek(song.grid.clock(a))

    def _moved(self, at: Position, bars: int, beats: int) -> Position:
        song = self.session.song
        assert song is not None
        grid = song.grid
        if bars:
            lines = list(grid.starts)
            here = max(i for i, s in enumerate(lines) if s <= at)
            there = here + bars
            if not 0 <= there < len(lines):
                return Fraction(-1) if there < 0 else grid.end + 1
            return Fraction(lines[there]) + (at - lines[here] if at > lines[here] else 0)
        return at + beats

    def plan(self) -> list[tuple[float, float, int]]:
        """What the player is to loop: the loop, and with ``times`` the phrases of the same length after it."""
        song = self.session.song
        if song is None or self.span is None:
            return []
        grid = song.grid
        a, b = self.span
        if not self.times or self.drill is not None:
            return [(grid.clock(a), grid.clock(b), 0)]
        out = []
        first = grid.bar_at(a)
        length = max(1, grid.bar_at(b - Fraction(1, 8)) - first + 1)
        whole = (a, b) == (Fraction(grid.starts[first]), Fraction(grid.starts[first + length]))
        out.append((grid.clock(a), grid.clock(b), self.times))
        while whole and first + 2 * length <= len(grid.bars):
            first += length
            limits = grid.bar_range(first)[0], grid.bar_range(first + length - 1)[1]
            out.append((grid.clock(limits[0]), grid.clock(limits[1]), self.times))
        return out

    def toggle_passes(self) -> None:
        """Play the selected bars in every pass of their section, one after the other, over and over; or stop."""
        song, player = self.session.song, self.playing.player
        if song is None or player is None:
            return
        if self.passes_on:
            self.loop(None)
            self.playing.stop_playing()
            return
        s = self.session.selection
        groups = [[s.first, s.last]]
        for twin in edits.twins(song, s.first):
            groups.append([twin, min(len(song.grid.bars) - 1, twin + s.last - s.first)])
        if len(groups) == 1:
            self.session.say(tr("This section comes only once"))
            return
        limits = sorted((song.grid.bar_range(a)[0], song.grid.bar_range(b)[1]) for a, b in groups)
        self.loop(None)
        player.set_plan([(song.grid.clock(a), song.grid.clock(b), 1) for a, b in limits], again=True)
        self.passes_on = True
        self.playing.hear_from(song.grid.clock(limits[0][0]))
        self.session.say(tr("{count} times in a row", count=len(limits)))
        self.changed.emit()

    def start_drill(self, drill: Drill) -> None:
        """Loop what is looped or selected, slower at first."""
        if self.span is None:
            s = self.session.selection
            self.loop_bars(s.first, s.last)
        self.drill = drill
        self._rounds = 0
        self.playing.show_loop()
        self.set_speed(drill.first)

    # ------------------------------------------------------------ places

    def leave(self, at: Position) -> None:
        """Remember a place that is left by a jump."""
        if not self.trail or self.trail[-1] != at:
            self.trail = [*self.trail, at][-KEPT_PLACES:]

    def back(self) -> None:
        song = self.session.song
        if song is None or not self.trail:
            self.session.say(tr("There is no place to go back to"))
            return
        at = min(self.trail.pop(), song.grid.end - Fraction(1, 8))
        self.session.select(at)
        self.playing.seek(song.grid.clock(at))

    # ------------------------------------------------------------ as time goes by

    def tick(self) -> None:
        """While it plays: the drill's next step, the plan's next phrase, the reminder."""
        now = time.monotonic()
        passed, self._last_tick = min(1.0, now - self._last_tick), now
        player, song = self.playing.player, self.session.song
        if player is None or song is None or not player.playing:
            return
        player.prepare()
        self.played += passed
        after = self.playing.reminder_after()
        if not self.reminded and after > 0 and self.played > 60 * after:
            self.reminded = True
            self.session.tell(
                tr(
                    "You have been listening for {played:.0f} minutes. Ears tire before one notices: a break, or a little softer, helps.",
                    played=self.played / 60,
                ),
                {tr("Never remind me"): lambda: self.playing.remind_after(0)},
            )
        drill = self.drill
        if drill is not None and player.rounds - self._rounds >= drill.every and self.speed < drill.last - 1e-6:
            self._rounds = player.rounds
            self.set_speed(min(drill.last, self.speed + drill.step))
            self.session.say(tr("Drill: {speed:.0%}", speed=self.speed))
        limits = player.loop
        if limits is not None and self.times and self.span is not None:
            shown = round(song.grid.clock(self.span[0]) * player.rate * player.stretch)
            if abs(shown - limits[0]) > 2:  # the plan has come to its next phrase
                a, b = (Fraction(round(song.grid.position(x / player.rate / player.stretch))) for x in limits)
                self.span = (a, b)
                self.playing.show_loop(tell_player=False)
