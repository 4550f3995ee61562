"""What is kept of one recording between one decision and the next.

Deciding again asks the same questions of the same evidence; the last answers are kept with the evidence itself, never in
a module. Several threads may ask at once.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Any, TypeVar

from .spectra import PITCH_RATE, Array, Floats, means_from, means_without_sums, running_sums

T = TypeVar("T")
LAST = 4  # answers kept of each kind
LARGE = 64 << 20  # bytes of frames, an hour of chords, whose sums are not kept


class Kept:
    """Answers by kind and question; two evidences are never the same one for it."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._answers: dict[str, list[tuple[Any, Any]]] = {}

    def get(self, kind: str, question: Any, make: Callable[[], T], last: int = LAST) -> T:
        """The answer kept for a question, or the one that is made now; the ``last`` answers are kept."""
        with self._lock:
            for known, answer in self._answers.get(kind, []):
                if known == question:
                    return answer  # type: ignore[no-any-return]
        made = make()
        with self._lock:
            answers = self._answers.setdefault(kind, [])
            answers.append((question, made))
            del answers[: max(0, len(answers) - last)]
        return made

    def sums(self, name: str, frames: Array) -> Floats:
        """Running sums of frames, which always are the same for a name."""
        return self.get(f"sums of {name}", None, lambda: running_sums(frames))

    def means(self, name: str, frames: Array, edges: Floats, rate: float = PITCH_RATE) -> Floats:
        """Means of frames (T, n) between neighbouring ``edges`` (m + 1,) in seconds: (m, n)."""
        if is_large(frames):
            return means_without_sums(frames, edges, rate)
        return means_from(self.sums(name, frames), edges, rate)


def is_large(frames: Array) -> bool:
    """Whether a recording is so long that what is kept of it must be little."""
    return frames.nbytes > LARGE
