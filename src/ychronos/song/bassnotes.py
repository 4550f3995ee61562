"""The notes of a bass as they are played."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass

EARLY = 0.03  # seconds before a bar line within which a note is the bar's first
LOW, HIGH = 20, 70  # MIDI numbers that a bass may have


@dataclass(frozen=True)
class BassNote:
    """``at`` and ``length`` in seconds of the record, ``note`` a MIDI number; ``sure`` is how probable it is."""

    at: float
    length: float
    note: int
    sure: float = 1.0

    def __post_init__(self) -> None:
        if not LOW <= self.note <= HIGH:
            raise ValueError(f"no bass plays note {self.note}")


def between(notes: Sequence[BassNote], start: float, end: float) -> Sequence[BassNote]:
    """Those of some notes, in order, that begin from ``start`` up to ``end``."""
    first, last = (bisect_left(notes, x, key=lambda n: n.at) for x in (start, end))
    return notes[first:last]


def played(notes: Sequence[BassNote], start: float, end: float) -> Sequence[BassNote]:
    """Those of some notes, in order, that are played in bars from ``start`` up to ``end``, seconds of the record."""
    return between(notes, start - EARLY, end - EARLY)
