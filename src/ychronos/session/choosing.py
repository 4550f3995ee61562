"""Which capo and tuning suit the open song, worked out beside the window."""

from __future__ import annotations

from dataclasses import dataclass

from ..guitar.setups import Choice, usual_tunings
from ..song.model import Song
from .events import Event
from .jobs import Far, Handle, Under
from .session import Session


@dataclass(frozen=True)
class Weighed(Far):
    """Gives the setups, the best first: capos on the strings as they are tuned, or with every usual tuning."""

    song: Song
    every_tuning: bool

    def __call__(self, under: Under) -> tuple[Choice, ...]:
        strings = self.song.guitar.strings
        tunings = [strings, *(t for t in usual_tunings() if t != strings)] if self.every_tuning else [strings]
        return tuple(self.song.setups_ranked(tunings))


class Choosing:
    """See the module. ``changed`` says that the ranking is another one, or is not known any more."""

    def __init__(self, session: Session) -> None:
        self.changed = Event()
        self.found: tuple[Choice, ...] = ()
        self.every_tuning = False
        self.wanted = False
        self._session = session
        self._for: object = None
        self._job: Handle | None = None
        self._turn = self._answered = 0
        session.watch(self.look, "chords", "grid", "song", "heard", "guitar")

    @property
    def weighing(self) -> bool:
        return self._job is not None

    def want(self, wanted: bool) -> None:
        """Whether anybody looks: nothing is worked out for nobody."""
        self.wanted = wanted
        self.look()

    def set_every_tuning(self, every: bool) -> None:
        self.every_tuning = every
        self.look()

    def look(self) -> None:
        """See whether the song is still the one that was weighed, and else ask again."""
        song = self._session.song
        if not self.wanted or song is None:
            return
        key = (song.chords, song.grid, song.heard, song.guitar.strings, song.guitar.moved, self.every_tuning)
        if self._for == key:
            return
        if self._job is not None:
            self._job.cancel()
            self._job = None
        self._for = key
        self._turn += 1
        turn = self._turn

        def done(found: tuple[Choice, ...]) -> None:
            if turn == self._turn:
                self._job, self.found, self._answered = None, found, turn
                self.changed.emit()

        def failed(_: str) -> None:
            if turn == self._turn:
                self._job, self._for, self._answered = None, None, turn

        job = self._session.jobs.start(Weighed(song, self.every_tuning), done, failed)
        if self._answered != turn:
            self._job = job
