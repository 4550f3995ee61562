"""Which capo and tuning suit the open song, worked out beside the window."""

from __future__ import annotations

from dataclasses import dataclass

from ..guitar.setups import Choice, usual_tunings
from ..song.model import Song
from .jobs import Far, Under
from .latest import Latest
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
        self._weighed: Latest[tuple[Choice, ...]] = Latest(lambda: session.jobs, ())
        self.changed = self._weighed.changed
        self.every_tuning = False
        self.wanted = False
        self._session = session
        session.watch(self.look, "chords", "grid", "song", "heard", "guitar")

    @property
    def found(self) -> tuple[Choice, ...]:
        """The latest ranking, the best first; empty before the first."""
        return self._weighed.answer

    @property
    def weighing(self) -> bool:
        return self._weighed.busy

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
        self._weighed.ask(key, lambda: Weighed(song, self.every_tuning))
