"""Playing a record at true pitch: the corrected samples are made once, beside the window."""

from __future__ import annotations

from pathlib import Path
from typing import cast

from PySide6.QtCore import QObject

from ...audio.decode import AudioError, Samples
from ...audio.play import tape
from ...audio.play.engine import Player
from ...audio.recording import Recording
from ...paths import shown
from ...song import edits
from ...tongue import tr
from ..jobs import Job
from ..shell import Shell


class TapeControl(QObject):
    """Keeps the player at the speed that the song asks for."""

    def __init__(self, window: Shell) -> None:
        super().__init__(window)
        self.window = window
        self._under_way: float | None = None  # a correction that is under way
        self._keep: object = None

    def follow(self) -> None:
        """Make the player match the song, unless other work goes on."""
        w = self.window
        song, player, sound = w.session.song, w.player, w.session.recording
        if song is None or player is None or sound is None or w.job is not None or sound.samples is None:
            return
        cents = song.ground.tape_cents
        if abs(song.ground.stretch - player.stretch) < 1e-9:
            self._under_way = None
            return
        if not cents:
            self._swap(sound, sound.samples, 1.0)
        elif cents == self._under_way:  # it was stopped, or failed: say what is so
            self._under_way = None
            w.session.edit(lambda s: edits.correct_tape(s, False))
        else:
            self._under_way = cents
            samples, stretch = sound.samples, song.ground.stretch

            def done(result: object) -> None:
                made, self._keep = cast(tuple[Samples, object], result)
                self._under_way = None
                self._swap(sound, made, stretch)

            def work(job: Job) -> object:
                return tape.corrected(samples, cents, lambda x: job.report(tr("Correcting the tape"), x), job.cancelled)

            w.start_job(tr("Correcting the tape"), work, done, w.notice.say)

    def _swap(self, sound: Recording, samples: Samples, stretch: float) -> None:
        w = self.window
        assert w.player is not None
        at, playing = w.heard(), w.playing
        w.player.stop()
        w.player = Player(samples, sound.rate, stretch)
        w.apply_level()
        w.apply_clicks()
        w.practice.apply()
        w.show_loop()
        w.player.seek(at)
        if playing:
            w.player.play(at)

    def export(self, path: Path) -> None:
        """Write the record at true pitch to a file, beside the window."""
        w = self.window
        song, sound = w.session.song, w.session.recording
        if song is None or sound is None or sound.samples is None:
            return
        cents, samples, rate = song.ground.cents, sound.samples, sound.rate

        def work(job: Job) -> object:
            made, _keep = tape.corrected(
                samples, cents, lambda x: job.report(tr("Correcting the tape"), x / 2), job.cancelled
            )
            tape.export(made, rate, path, lambda x: job.report(tr("Writing the record"), 0.5 + x / 2), job.cancelled)
            return path

        def done(_: object) -> None:
            w.say(tr("“{shown}” is written, {cents:+.0f} ¢ corrected", shown=shown(path), cents=cents))

        if path.resolve() == sound.path.resolve():
            raise AudioError(tr("That is the original record, which stays as it is; choose another name."))
        w.start_job(tr("Correcting the tape"), work, done, w.notice.say)
