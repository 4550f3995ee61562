"""Long work: what the session asks of whoever runs it. The window runs it in threads, the command line at once."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Iterator, Sequence
from dataclasses import fields
from typing import Any, Protocol

from ..analysis.evidence import Evidence
from .wire import names_of


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


class Far(ABC):
    """Work that another process can carry out: a data class of what it needs, and nothing that stays here."""

    @abstractmethod
    def __call__(self, under: Under) -> Any: ...

    def evidences(self) -> Sequence[Evidence]:
        """The evidence that it needs, which is sent only once."""
        return [value for value in self._values() if isinstance(value, Evidence)]

    def shared(self) -> Sequence[object]:
        """What its result may have in common with it: parts in an order that only depends on their values."""
        return [part for value in self._values() if not isinstance(value, Evidence) for part in pieces(value)]

    def _values(self) -> list[object]:
        return [getattr(self, f.name) for f in fields(self)]  # type: ignore[arg-type]

    def found(self, result: Any) -> Sequence[Evidence]:
        """The evidence that its result holds, which stays where it was found as well."""
        return ()


def pieces(value: object) -> Iterator[object]:
    """A data class or tuple, and what it consists of, down to what is neither."""
    inner: Sequence[object]
    if isinstance(value, tuple):
        inner = value
    else:
        names = names_of(type(value))
        if names is None:
            return
        inner = [getattr(value, name) for name in names]
    yield value
    for one in inner:
        yield from pieces(one)


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
