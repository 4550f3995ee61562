"""Hearing the chart: a chord by itself, its readings in turn under the record, the chart or its bass along.

Everything is plucked strings at the record's own tuning (:mod:`..chart.sound`); what takes longer than a moment
to make is made beside the window.
"""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer, Signal

from ...audio.synth.strings import hertz, pluck
from ...audio.synth.voices import Voice, Voices
from ...chart import sound
from ...chart.demonstration import demonstration
from ...song.model import Song
from ...theory.chord import Chord
from ...tongue import tr
from ..jobs import Job
from ..shell import Shell

ALONE = 2.2  # seconds that a chord by itself rings
KINDS = ("off", "chart", "bass", "line")
TURN_EVERY = 60  # ms between looks at whose turn it is


class Hearing(QObject):
    """Keeps what the player sounds besides the record in step with the song."""

    turn_changed = Signal(str)

    def __init__(self, window: Shell) -> None:
        super().__init__(window)
        self.window = window
        self.kind = "off"
        self.readings: list[Chord] = []
        self._made_for: tuple[Song, str, float, float] | None = None
        self._job: Job | None = None
        self._again = False
        self._shown = -1
        self._wish: object = None
        self._timer = QTimer(self)
        self._timer.setInterval(TURN_EVERY)
        self._timer.timeout.connect(self._say_turn)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(120)
        self._later.timeout.connect(self._make)

    def cents(self) -> float:
        """How far the record, as it is played, is from A = 440 Hz."""
        song = self.window.session.song
        own = song.ground.cents - song.ground.tape_cents if song is not None else 0.0
        return own + self.window.practice.cents

    # ------------------------------------------------------------ by itself

    def hear(self, chord: Chord | None = None) -> None:
        """A chord by itself, the one at the caret by default, struck once."""
        w = self.window
        song = w.session.song
        if song is None:
            return
        fretted = sound.held_notes(song, w.session.chord_index) if chord is None else ()
        chord = song.chords[w.session.chord_index].chord if chord is None else chord
        if chord.is_none:
            w.say(tr("Nobody plays a chord here"))
            return
        stroke, rate, cents = sound.Stroke(0.0, ALONE, chord, fretted=fretted), self._rate(), self.cents()
        self._alone(lambda: sound.voices([stroke], rate, cents))
        w.say(tr("{name} by itself", name=song.name_of(chord, w.session.selection.caret)))

    def hear_shape(self, notes: list[int]) -> None:
        """The same for whoever looks through shapes: where there is no sound yet, nothing is said about it."""
        if self.window.player is not None:
            self.hear_notes(notes)

    def hear_notes(self, notes: list[int]) -> None:
        """MIDI notes as a hand strums them."""
        rate, cents = self._rate(), self.cents()
        self._alone(
            lambda: [
                Voice(round(i * sound.STRUM * rate), round(ALONE * rate), pluck(rate, hertz(n, cents), 0.45), 0.6)
                for i, n in enumerate(sorted(notes))
            ]
        )

    def hear_figure(self, bar: int, figure: str, share: float) -> None:
        """A figure by itself at a share of the record's speed, with the count."""
        song = self.window.session.song
        if song is not None and figure:
            rate, cents = self._rate(), self.cents()
            self._alone(lambda: demonstration(song, bar, figure, share, rate, cents))

    def _rate(self) -> int:
        player = self.window.player
        return player.rate if player is not None else 44100

    def _alone(self, make: Callable[[], list[Voice]]) -> None:
        """Play voices by themselves, plucked beside the window; of several wishes in a row the last one is heard."""
        w, player = self.window, self.window.player
        if player is None:
            w.notice.say(tr("There is no sound to play with yet: the recording is not open."), error=False)
            return
        self._wish = wish = object()

        def begin(voices: list[Voice]) -> None:
            if self._wish is wish and w.player is player:
                player.sound(Voices(voices, player.rate))
                w.ensure_device()

        w.session.jobs.start(lambda _: make(), begin, lambda words: w.notice.say(words))

    # ------------------------------------------------------------ readings in turn

    def toggle_readings(self) -> None:
        """Play the chord at the caret round and round, each reading under the record in turn; or stop that."""
        if self.readings:
            self.stop_readings()
            return
        w = self.window
        song, player = w.session.song, w.player
        if song is None or player is None:
            return
        index = w.session.chord_index
        span = song.chords[index]
        start, end = song.chord_range(index)
        self.readings = [c for c in (span.chord, *(r for r, _ in span.rivals)) if not c.is_none]
        if not self.readings:
            w.say(tr("Nobody plays a chord here"))
            return
        wanted, cents = self.readings, self.cents()

        def plucked(_: object) -> tuple[Voices, ...]:
            return tuple(
                Voices(
                    sound.voices(sound.strokes(song, start, end, c), player.rate, cents, player.stretch), player.rate
                )
                for c in wanted
            )

        def begin(turns: tuple[Voices, ...]) -> None:
            if self.readings is not wanted or w.player is not player:
                return  # another wish came meanwhile
            w.practice.loop(None)
            player.set_loop((song.grid.clock(start), song.grid.clock(end)))
            player.take_turns(turns)
            self._shown = -1
            w.hear_from(song.grid.clock(start))
            w.session.select(span.start, chord=True)
            self._timer.start()
            self._say_turn()

        w.session.jobs.start(plucked, begin, lambda words: w.notice.say(words))

    def stop_readings(self) -> None:
        """Back to the record alone."""
        w = self.window
        self.readings = []
        self._timer.stop()
        if w.player is not None:
            w.player.take_turns(())
        w.stop_playing()
        w.show_loop()
        w.actions_.refresh()

    def _say_turn(self) -> None:
        w = self.window
        player, song = w.player, w.session.song
        if player is None or song is None or not player.playing:
            if self.readings:
                self.stop_readings()
            return
        turn = player.turn % len(self.readings)
        if turn != self._shown:
            self._shown = turn
            name = song.name_of(self.readings[turn], w.session.selection.caret)
            w.say(
                tr("Under the record: {name} ({turn} of {count})", name=name, turn=turn + 1, count=len(self.readings))
            )
            self.turn_changed.emit(name)

    # ------------------------------------------------------------ the chart along

    def set_kind(self, kind: str) -> None:
        """Let the chart sound along: "off", "chart", "bass" or "line"."""
        self.kind = kind
        self.follow()
        self.window.actions_.refresh()

    def follow(self) -> None:
        """Make the sound match the song, soon: a few edits in a row are worked up once."""
        player = self.window.player
        if player is None:
            return
        if self.kind == "off" or self.window.session.song is None:
            player.chart = None
            self._made_for = None
            return
        if player.chart is None:
            self._made_for = None
        self._later.start()

    def _make(self) -> None:
        w = self.window
        song, player, kind = w.session.song, w.player, self.kind
        if song is None or player is None or kind == "off":
            return
        made_for = (song, kind, player.stretch, self.cents())
        if self._made_for is not None and self._made_for[0] is song and self._made_for[1:] == made_for[1:]:
            return
        if self._job is not None and self._job.running:
            # one at a time: several beside each other are done no sooner, and the window waits for them
            self._again = True
            return
        rate, stretch, cents = player.rate, player.stretch, self.cents()

        def work(_: Job) -> Voices:
            if kind == "line":
                return Voices(sound.line_voices(song, rate, cents, stretch), rate)
            played = sound.strokes(song, song.chords[0].start, song.grid.end)
            return Voices(sound.voices(played, rate, cents, stretch, kind == "bass"), rate)

        def done(result: object) -> None:
            if w.player is player and self.kind == kind and isinstance(result, Voices):
                player.chart = result
                self._made_for = made_for

        def over() -> None:
            if self._again:
                self._again = False
                self._make()

        self._job = Job(work, self)
        self._job.done.connect(done)
        self._job.over.connect(over)
        self._job.start()
