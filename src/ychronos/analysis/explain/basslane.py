"""The bass of each beat, to be shown: what is heard where it is firm, the chord's own elsewhere."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...song.model import Song
from ..evidence import Evidence

FIRM = 0.5  # probability from which on the heard bass is shown instead of the chord's


def bass_of_beats(song: Song, evidence: Evidence) -> NDArray[np.int_]:
    """(beats,) pitch class of the bass, -1 for none."""
    harmony = evidence.harmony
    log = harmony.kept.means("bass", harmony.bass, np.array(song.grid.times))
    chance = np.exp(log - log.max(1, keepdims=True))
    chance /= chance.sum(1, keepdims=True)
    best = chance.argmax(1)
    basses = [s.chord.sounding_bass for s in song.chords]
    there = np.searchsorted(song.chords.floats, np.arange(song.grid.beat_count), "right") - 1
    named = np.array([-1 if b is None else b for b in basses])[there]
    heard = np.where(best == 12, -1, best)
    return np.asarray(np.where((chance.max(1) > FIRM) & (heard >= 0), heard, named))
