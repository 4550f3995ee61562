"""Long work: what the session asks of whoever runs it. The window runs it in threads, the command line at once."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol


class Under(Protocol):
    """What work gets while it runs: a way to report, and whether it is still wanted."""

    def report(self, stage: str, share: float) -> None: ...
    def partly(self, result: object) -> None: ...
    def cancelled(self) -> bool: ...


class Handle(Protocol):
    """Work under way."""

    def cancel(self) -> None: ...


class Runner(Protocol):
    """Runs work and hands its result, or a sentence on what went wrong, back in the thread of the session."""

    def start(
        self, work: Callable[[Under], Any], done: Callable[[Any], None], failed: Callable[[str], None]
    ) -> Handle: ...


class AtOnce:
    """Runs work on the spot: for the command line, benches and tests. Its errors are the caller's."""

    def __init__(
        self,
        reports: Callable[[str, float], object] = lambda _stage, _share: None,
        parts: Callable[[object], object] = lambda _part: None,
    ) -> None:
        self._reports, self._parts = reports, parts

    def report(self, stage: str, share: float) -> None:
        self._reports(stage, share)

    def partly(self, result: object) -> None:
        self._parts(result)

    def cancelled(self) -> bool:
        return False

    def cancel(self) -> None:
        pass

    def start(self, work: Callable[[Under], Any], done: Callable[[Any], None], failed: Callable[[str], None]) -> Handle:
        done(work(self))
        return self
