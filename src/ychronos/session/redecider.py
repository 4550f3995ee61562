"""Deciding again beside the window: the one place from which it is asked for.

The latest song wins. What is to be decided again gathers until it is served: a statement made while an answer is under
way stops that work and takes over what it had been asked. Every state of the history knows what it still waits for,
so that stepping back to one gets it served too, and no answer is lost.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import ClassVar

from ..analysis import pipeline
from ..analysis.evidence import Evidence
from ..song.history import History, Waiting
from ..song.model import Song
from .events import Event
from .jobs import Far, Handle, Runner, Under

LEVELS: tuple[pipeline.What, ...] = ("chords", "bars", "beats")


def deeper(one: pipeline.What | None, two: pipeline.What | None) -> pipeline.What | None:
    """Which of two asks for more."""
    return max(one, two, key=lambda w: LEVELS.index(w) if w else -1)


@dataclass(frozen=True)
class Deciding(Far):
    """Decides a song again; see :func:`..analysis.pipeline.redecide`."""

    song: Song
    evidence: Evidence
    what: pipeline.What
    before: Song | None
    later: ClassVar[float] = 0.06  # the window first shows what was said, with all of the processor to itself

    def __call__(self, under: Under) -> Song:
        return pipeline.redecide(self.song, self.evidence, self.what, self.before, cancelled=under.cancelled)


@dataclass(frozen=True)
class Answer:
    """A song decided again, the song it was decided from, and the one before what was said."""

    song: Song
    said: Song
    before: Song


class Redecider:
    """See the module. ``answered`` says that the present state of the history was replaced by an answer."""

    def __init__(self, history: Callable[[], History], evidence: Callable[[], Evidence | None], jobs: Runner) -> None:
        self.answered, self.failed = Event(), Event()
        self._history, self._evidence, self._jobs = history, evidence, jobs
        self._job: Handle | None = None
        self._turn = 0
        self._for: Song | None = None

    @property
    def running(self) -> bool:
        return self._job is not None

    def serve(self) -> None:
        """Decide again what the present state waits for; whatever is under way for another state is stopped."""
        history, evidence = self._history(), self._evidence()
        song, waiting = history.song, history.waiting
        if self._job is not None:
            if song is self._for:
                return
            self.stop()
        if song is None or waiting is None or evidence is None:
            return
        what: pipeline.What = waiting.what  # type: ignore[assignment]
        before = waiting.before
        self._for = song
        self._turn += 1
        turn = self._turn

        def done(result: object) -> None:
            if self._turn == turn and history.song is song and isinstance(result, Song):
                self._job = None
                self._turn += 1
                history.answer(result)
                self.answered.emit(Answer(result, song, before or song))

        def failed(text: str) -> None:
            if self._turn == turn:
                self._job = None
                self._turn += 1
                history.answer(song)  # it stays as it was said; not asked again and again
                self.failed.emit(text)

        job = self._jobs.start(Deciding(song, evidence, what, before), done, failed)
        if self._turn == turn:  # it was not done at once
            self._job = job

    def stop(self) -> None:
        if self._job is not None:
            self._job.cancel()
            self._job = None
            self._turn += 1


def waiting_after(history: History, what: pipeline.What | None, song: Song) -> Waiting | None:
    """What a new state waits for when it is made from the present one, ``song``: what that still waits for, and what
    was said now."""
    old = history.waiting
    need = deeper(old.what if old else None, what)  # type: ignore[arg-type]
    if need is None:
        return None
    return Waiting(need, old.before if old else song)
