"""How well the sound agrees with a chord that somebody has in mind.

The chances of all chords by the sound of a stretch alone, as the decoder weighs them (:mod:`harmony`), tempered the
same way; a chord agrees as much as it is likely against the likeliest one there. 1 is full agreement.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ...theory.chord import Chord
from . import harmony
from .chordnet import CHORDS, HarmonyEvidence


def agreement(evidence: HarmonyEvidence, pieces: Sequence[tuple[float, float, Chord]]) -> list[float]:
    """For each (from, to in seconds, chord) how well it agrees, 0 .. 1."""
    out = []
    for start, stop, chord in pieces:
        edges = np.linspace(start, max(stop, start + 0.05), max(2, round((stop - start) / 0.25) + 1))
        plain = harmony.plain_scores(evidence, edges).mean(0)
        near = harmony.heard_as(chord)
        index = CHORDS.index(near.over(None) if near.root is not None else near)
        best = float(plain.max())
        out.append(float(np.exp((plain[index] - best) / harmony.TEMPERATURE)))
    return out
