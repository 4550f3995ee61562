"""What is kept of one recording between one decision and the next.

Deciding again asks the same questions of the same evidence; the last answers are kept with the evidence itself, never in
a module. Several threads may ask at once.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Any, TypeVar

from .spectra import Array, Floats, running_sums

T = TypeVar("T")
LAST = 4  # answers kept of each kind


class Kept:
    """Answers by kind and question; two evidences are never the same one for it."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._answers: dict[str, list[tuple[Any, Any]]] = {}

    def get(self, kind: str, question: Any, make: Callable[[], T]) -> T:
        """The answer kept for a question, or the one that is made now."""
        with self._lock:
            for known, answer in self._answers.get(kind, []):
                if known == question:
                    return answer  # type: ignore[no-any-return]
        made = make()
        with self._lock:
            answers = self._answers.setdefault(kind, [])
            answers.append((question, made))
            del answers[:-LAST]
        return made

    def sums(self, name: str, frames: Array) -> Floats:
        """Running sums of frames, which always are the same for a name."""
        return self.get(f"sums of {name}", None, lambda: running_sums(frames))
