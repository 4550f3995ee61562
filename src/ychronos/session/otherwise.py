"""What else the open recording could be counted as, worked out beside the window once its count stands still."""

from __future__ import annotations

from dataclasses import dataclass

from ..analysis.beats.rivals import Rival, find, same_ones
from ..analysis.evidence import Evidence
from ..song.edits import count_as
from ..song.grid import Grid
from .events import Event
from .jobs import Far, Handle, Under
from .session import Session

NEAR = 0.15  # probability from which on another count is a doubt that is shown


@dataclass(frozen=True)
class Weighing(Far):
    """Gives the likeliest other counts."""

    evidence: Evidence
    grid: Grid

    def __call__(self, under: Under) -> tuple[Rival, ...]:
        return find(self.evidence, self.grid, under.cancelled)


class Otherwise:
    """See the module. ``changed`` says that other counts are known now, or are not any more."""

    def __init__(self, session: Session) -> None:
        self.changed = Event()
        self.rivals: tuple[Rival, ...] = ()
        self._session = session
        self._for: tuple[Evidence, Grid] | None = None
        self._job: Handle | None = None
        self._turn = 0
        session.heard.connect(self.look)
        session.watch(self.look, "grid", "song")

    @property
    def near(self) -> Rival | None:
        """The likeliest other count, when it is near."""
        return self.rivals[0] if self.rivals and self.rivals[0].share >= NEAR else None

    @property
    def weighing(self) -> bool:
        return self._job is not None

    def look(self) -> None:
        """See whether the song that is open is still counted as it was, and else ask again."""
        song, evidence = self._session.song, self._session.evidence
        if song is None or evidence is None:
            if self._for is not None or self._job is not None:
                self._stop()
                self._for, self.rivals = None, ()
                self.changed.emit()
            return
        if self._for is not None and self._for[0] is evidence and same_ones(self._for[1], song.grid):
            return
        self._stop()
        self._for = evidence, song.grid
        self._turn += 1
        turn = self._turn

        def done(found: tuple[Rival, ...]) -> None:
            if turn == self._turn:
                self._job, self.rivals = None, found
                self.changed.emit()

        def failed(_: str) -> None:
            if turn == self._turn:
                self._job = None

        self.rivals = ()
        self.changed.emit()
        job = self._session.jobs.start(Weighing(evidence, song.grid), done, failed)
        if not self.rivals and turn == self._turn:
            self._job = job

    def take(self, rival: Rival) -> None:
        """Count the song so; chords, keys and sections follow. One undo takes it back."""
        self._session.edit(lambda song: count_as(song, rival.grid, rival.words), decide="chords")

    def _stop(self) -> None:
        if self._job is not None:
            self._job.cancel()
            self._job = None
