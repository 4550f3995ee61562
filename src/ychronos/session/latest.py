"""Work beside the window of which only the answer to the latest question counts."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

from .events import Event
from .jobs import Far, Handle, Runner

T = TypeVar("T")


class Latest(Generic[T]):
    """``answer`` is the newest there is, None before the first; ``changed`` is told of every new one, and ``failure`` says
    why there is none. ``jobs`` gives whoever runs work."""

    def __init__(self, jobs: Callable[[], Runner], empty: T) -> None:
        self.changed = Event()
        self.answer: T = empty
        self.failure = ""
        self._jobs = jobs
        self._asked: object = None
        self._job: Handle | None = None
        self._turn = self._answered = 0

    @property
    def busy(self) -> bool:
        """Whether the latest question has no answer yet."""
        return self._answered != self._turn

    def ask(self, question: object, work: Callable[[], Far]) -> None:
        """Have ``work`` done unless the same question was the latest; what is under way for another is given up."""
        if self._asked == question:
            return
        self.drop()
        self._asked = question
        self._turn += 1
        turn = self._turn

        def done(answer: T) -> None:
            if turn == self._turn:
                self._job, self._answered, self.answer, self.failure = None, turn, answer, ""
                self.changed.emit()

        def failed(why: str) -> None:
            if turn == self._turn:
                self._job, self._answered, self._asked, self.failure = None, turn, None, why
                self.changed.emit()

        job = self._jobs().start(work(), done, failed)
        if self._answered != turn:
            self._job = job

    def drop(self) -> None:
        """Give up what is under way."""
        if self._job is not None:
            self._job.cancel()
            self._job, self._asked = None, None
            self._answered = self._turn
