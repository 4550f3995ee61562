"""Long work: what the session asks of whoever runs it. The window runs it in threads, the command line at once."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import fields
from fractions import Fraction
from typing import Any, ClassVar, Protocol

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
    """Work that another process can carry out: a data class of what it needs, and nothing that stays here. It begins
    ``later`` by so many seconds."""

    later: ClassVar[float] = 0.0

    @abstractmethod
    def __call__(self, under: Under) -> Any: ...

    def evidences(self) -> Sequence[Evidence]:
        """The evidence that it needs, which is sent only once."""
        return [value for value in self._values() if isinstance(value, Evidence)]

    def shared(self) -> Sequence[object]:
        """What its result may have in common with it: parts in an order that only depends on their values."""
        out: list[object] = []
        for value in self._values():
            if not isinstance(value, Evidence):
                add_pieces(value, out)
        return out

    def _values(self) -> list[object]:
        return [getattr(self, f.name) for f in fields(self)]  # type: ignore[arg-type]

    def found(self, result: Any) -> Sequence[Evidence]:
        """The evidence that its result holds, which stays where it was found as well."""
        return ()


def add_pieces(value: object, out: list[object]) -> None:
    """Add a data class or tuple, and what it consists of, down to what is neither: a song has ten thousand of them, and
    the window waits meanwhile."""
    names = names_of(type(value))
    if names is None and not isinstance(value, tuple):
        return
    out.append(value)
    for one in value if names is None else [getattr(value, name) for name in names]:  # type: ignore[attr-defined]
        if type(one) not in PLAIN:
            add_pieces(one, out)


PLAIN = frozenset((int, float, str, bool, type(None), Fraction))  # consist of nothing


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
