"""What the record says about which notes of a chord are played, as far as it says so.

For each chord of a song a logarithm of odds for every note of a guitar's range: how much likelier the record is with that
note among those played than without. A shape's notes add up (:meth:`HeardNotes.__call__`). It is worked out by
``analysis.hands`` and kept with the song, so that shapes are the same where the recording is not at hand.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, cached_property
from importlib import resources
from typing import Any

from ..theory.chord import Chord

LOWEST, HIGHEST = 36, 88  # MIDI notes


@cache
def fitted() -> dict[str, Any]:
    """The weights of what is heard (``training/fit_hands.py``): of notes, and of capos against it."""
    return dict(json.loads(resources.files(__package__).joinpath("odds.json").read_text(encoding="utf-8")))


@dataclass(frozen=True)
class HeardNotes:
    """``odds`` holds (chord, one number for each note from :data:`LOWEST` to :data:`HIGHEST`)."""

    odds: tuple[tuple[Chord, tuple[float, ...]], ...] = ()

    def __post_init__(self) -> None:
        if any(len(row) != HIGHEST - LOWEST + 1 for _, row in self.odds):
            raise ValueError("what was heard has one number a note")

    @cached_property
    def _rows(self) -> dict[Chord, tuple[float, ...]]:
        return dict(self.odds)

    def knows(self, chord: Chord) -> bool:
        return chord in self._rows

    def __call__(self, chord: Chord, notes: Sequence[int]) -> float:
        """What the record says for these notes sounding the chord; 0 where it says nothing."""
        row = self._rows.get(chord)
        if row is None:
            return 0.0
        return sum(row[n - LOWEST] for n in set(notes) if LOWEST <= n <= HIGHEST)
