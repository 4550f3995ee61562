"""Which capo and tuning a song is easiest with, and which the record speaks for.

Method: for every setup the song's chords are held along the path of least effort (:mod:`hands`); its effort is weighed
by time, and what the record says for the shapes of that setup is added where the record was heard. A capo high on the
neck and a tuning that asks for retuning need a reason.
Conventions: as in :mod:`hands`; weights are seconds.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from ..theory.chord import Chord
from .candidates import candidates, known_candidates
from .fingering import Shape
from .hands import Heard, _notes, reach
from .instrument import STANDARD, TUNINGS
from .odds import fitted

HIGHEST = 9
HARD = 4.6  # effort of a chord that stays hard
FRET, FAR_UP = 0.06, 0.25  # what each fret of a capo needs as a reason, and each above the fifth in addition
RETUNED = 0.35  # and another tuning
SURE = 0.7  # of what the record says, as probabilities: chosen so that songs of all kinds are judged neither too surely nor too little
HEARD_RETUNED = 3.0  # the same where the record was heard
UNHELD, UNHEARD = 9.0, 5.0
LOOKED_AT, ENOUGH = 14, 3  # shapes of a chord; known ones from which on no others are looked for
SHARPNESS = 2.0  # of probabilities against effort
USUAL = ("standard", "half step down", "whole step down", "drop D", "double drop D", "DADGAD", "open G", "open D")


@dataclass(frozen=True)
class Choice:
    """A setup of the strings for a song. ``effort`` is the mean of a chord by time, ``barres`` how many of its chord
    names need a barre of four strings or more, ``hard`` the chords that stay hard with their effort, the hardest first;
    ``heard`` what the record says for it (logarithm of odds per chord, against the best), None where it was not heard.
    ``ease`` is how good it is for the hand alone; ``share`` is its probability among all that were looked at."""

    strings: tuple[int, ...]
    capo: int
    effort: float
    barres: int
    hard: tuple[tuple[Chord, float], ...]
    heard: float | None
    score: float
    ease: float
    share: float = 0.0


@lru_cache(maxsize=8192)
def shapes_of(chord: Chord, strings: tuple[int, ...], capo: int) -> tuple[tuple[Shape, float, float, int], ...]:
    """(shape, cost, effort, strings under a barre) of the shapes of a chord that are looked at."""
    found = sorted(known_candidates(chord.transposed(-capo), strings), key=lambda c: c.cost)
    if len(found) < ENOUGH:
        found = list(candidates(chord, strings, capo))
    return tuple(
        (c.shape, c.cost, c.fingering.effort, c.fingering.barre.strings if c.fingering.barre else 0)
        for c in found[:LOOKED_AT]
    )


def choice(
    weights: dict[Chord, float],
    pairs: dict[tuple[Chord, Chord], float],
    strings: tuple[int, ...],
    capo: int,
    heard: Heard | None = None,
) -> Choice:
    """One setup weighed: each chord by its seconds, each pair of neighbours by how often it comes."""
    total = sum(weights.values()) or 1.0
    effort, said, barres = 0.0, 0.0, 0
    hard: list[tuple[Chord, float]] = []
    homes: dict[Chord, Shape] = {}
    of_capo = fitted()["capo"]
    for chord, seconds in weights.items():
        shapes = shapes_of(chord, strings, capo)
        if not shapes:
            effort += UNHELD * seconds
            hard.append((chord, UNHELD))
            said -= UNHEARD * seconds
            continue
        best = min(shapes, key=lambda s: s[1])
        homes[chord] = best[0]
        effort += best[2] * seconds
        barres += best[3] >= 4
        if best[2] >= HARD:
            hard.append((chord, best[2]))
        if heard is not None:
            odds = np.array([heard(chord, _notes(s, strings, capo)) - cost for s, cost, _, _ in shapes])
            said += float(np.logaddexp.reduce(of_capo["cost"] * odds)) * seconds
    moves = sum(reach(homes[a], homes[b]) * n for (a, b), n in pairs.items() if a in homes and b in homes)
    mean = effort / total + 0.5 * moves / max(1.0, sum(pairs.values()))
    evidence = said / total if heard is not None else None
    retuned = strings != STANDARD
    ease = -SHARPNESS * (mean + FRET * capo + FAR_UP * max(0, capo - 5) + RETUNED * retuned)
    if evidence is None:
        score = ease
    else:
        prior = of_capo["fret"] * capo + of_capo["far"] * max(0, capo - 5)
        score = of_capo["trust"] * evidence - prior - HEARD_RETUNED * retuned
    hard.sort(key=lambda x: -x[1])
    return Choice(strings, capo, mean, barres, tuple(hard), evidence, score, ease)


def counted(
    chords: Sequence[Chord], seconds: Sequence[float]
) -> tuple[dict[Chord, float], dict[tuple[Chord, Chord], float]]:
    """Seconds of each chord, and how often each pair of different chords comes next to each other."""
    weights: dict[Chord, float] = {}
    pairs: dict[tuple[Chord, Chord], float] = {}
    for chord, length in zip(chords, seconds, strict=True):
        if chord.root is not None:
            weights[chord] = weights.get(chord, 0.0) + length
    for a, b in zip(chords, chords[1:], strict=False):
        if a.root is not None and b.root is not None and a != b:
            pairs[a, b] = pairs.get((a, b), 0.0) + 1
    return weights, pairs


def ranked(
    chords: Sequence[Chord],
    seconds: Sequence[float],
    tunings: Sequence[tuple[int, ...]] = (STANDARD,),
    heard: Heard | None = None,
    highest: int = HIGHEST,
) -> list[Choice]:
    """Every capo up to ``highest`` with every tuning, the best first; empty where nobody plays a chord."""
    weights, pairs = counted(chords, seconds)
    if not weights:
        return []
    out = [choice(weights, pairs, strings, capo, heard) for strings in tunings for capo in range(highest + 1)]
    scores = np.array([c.score for c in out])
    share = np.exp((SURE if heard is not None else 1.0) * (scores - scores.max()))
    share /= share.sum()
    best = max((c.heard for c in out if c.heard is not None), default=None)
    made = [
        replace(c, heard=None if c.heard is None or best is None else c.heard - best, share=float(p))
        for c, p in zip(out, share, strict=True)
    ]
    return sorted(made, key=lambda c: -c.score)


def usual_tunings() -> list[tuple[int, ...]]:
    return [TUNINGS[name] for name in USUAL]
