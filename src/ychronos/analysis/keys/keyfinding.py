"""Keys over time, from the chords, and the arguments for them.

Method: every key expects chords by their place in it, as songs of two habits use them (:mod:`keyhabits`); the
song's own chords tell which habit is its. Each bar's chords then speak for each key; the first and last chord
of the song speak for home. A hidden Markov model over bars, in which a change of key costs much, decides (key
finding from chords: Papadopoulos and Peeters, "Joint estimation of chords and downbeats from an audio signal",
IEEE TASLP 2011, section on keys). What is shown to the user as arguments (home, cadences, first and last chord,
notes of the scale) is counted from the chords and stands beside the decision; it does not make it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from ...theory.chord import Chord
from ...theory.key import Key
from ..chains import best_path, posterior
from . import keyhabits
from .keyhabits import HOMING, ROAMING, kind, triad

KEYS: tuple[Key, ...] = tuple(Key(t, m) for m in HOMING for t in range(12))
CHANGE_COST = {"homing": 9.0, "roaming": 12.0}
STATED_COST = 1.0  # of a change at the end of a stretch whose key is stated
# The last chord's word for home, in bars of its own; the first chord's is half of that.
END_WEIGHT = {"homing": 5.0, "roaming": 3.0}
PRIOR = {"dorian": -0.12, "mixolydian": -0.12, "phrygian": -0.6, "lydian": -0.6}  # per bar, for the rarer modes
ROAMS = 0.0  # log likelihood per bar by which a song must look more like roaming than like homing
LEAST = -60.0  # log weight that any key keeps in a bar
AROUND = 4  # bars to either side that are looked at together to show what speaks for a key
SPOKEN = 1.2  # temper of what is shown: neighbouring bars are not independent witnesses
Floats = NDArray[np.float64]
BarChords = Sequence[tuple[Chord, float]]


@dataclass(frozen=True)
class DecidedKey:
    """A key over bars ``first`` .. ``last`` (exclusive)."""

    first: int
    last: int
    key: Key
    confidence: float


@dataclass(frozen=True)
class KeyEvidence:
    """What speaks for which key: ``chance`` (bars, len(KEYS)) by what the bar and its neighbours alone say,
    each row 1 in all; ``habit`` of the song's chords; ``decided`` keys."""

    chance: Floats
    habit: str
    decided: tuple[DecidedKey, ...]

    def leading(self, count: int = 4) -> list[int]:
        """Indexes into KEYS of the keys for which most speaks in all; what is decided anywhere comes first."""
        total = self.chance.sum(0)
        chosen = list(dict.fromkeys(KEYS.index(d.key) for d in self.decided if d.key in KEYS))[:count]
        rest = [int(k) for k in np.argsort(-total) if k not in chosen]
        return [*sorted(chosen, key=lambda k: -total[k]), *rest][:count]


@dataclass(frozen=True)
class Arguments:
    """What a musician would put forward for a key, over a stretch of bars: ``home`` share of the time on its
    home chord, ``cadences`` how often a dominant falls to it, ``inside`` share of the time on chords of its
    notes, and whether the stretch begins and ends at home."""

    key: Key
    home: float
    cadences: int
    inside: float
    first: bool
    last: bool


@cache
def _speech(chord: Chord) -> Floats:
    """What a chord says for each key in a homing song: (len(KEYS),)."""
    out = np.zeros(len(KEYS))
    if chord.root is None:
        return out
    sevenths = [(chord.root + i) % 12 for i in chord.intervals if i in (10, 11, 9)]
    for n, key in enumerate(KEYS):
        fit = sum(0.25 if s in key.scale else -0.25 for s in sevenths)
        out[n] = keyhabits.expectation((chord.root - key.tonic) % 12, triad(chord), key.mode) + fit
    return out


@cache
def _shares(chord: Chord, habit: str) -> Floats:
    """Log share of a chord in each key by a habit; modes a habit does not know get nothing."""
    out = np.full(len(KEYS), -12.0)
    if chord.root is None:
        return np.zeros(len(KEYS))
    known = ROAMING if habit == "roaming" else HOMING
    for n, key in enumerate(KEYS):
        if key.mode in known:
            out[n] = keyhabits.log_shares(habit, key.mode)[(chord.root - key.tonic) % 12, kind(chord)]
    return out


def _at_home(chord: Chord, key: Key) -> bool:
    return chord.root == key.tonic and triad(chord) in ("m" if key.minorish else "M", "?")


def _scores(bars: Sequence[BarChords], habit: str, counted: bool) -> Floats:
    """What the bars say for each key, (bars, len(KEYS)); ``counted`` as log shares, else against an average
    chord."""
    score = np.zeros((len(bars), len(KEYS)))
    for i, bar in enumerate(bars):
        for chord, share in bar:
            score[i] += share * (_shares(chord, habit) if counted else _speech(chord))
    if not counted:
        score += np.array([PRIOR.get(k.mode, 0.0) for k in KEYS])
    sounding = [(i, c) for i, bar in enumerate(bars) for c, _ in bar if not c.is_none]
    if sounding:
        weight = END_WEIGHT[habit]
        for (i, chord), w in ((sounding[0], weight / 2), (sounding[-1], weight)):
            score[i] += w * np.array([_at_home(chord, k) for k in KEYS])
    return score


def gather(bars: Sequence[BarChords], stated: Mapping[int, Key] | None = None) -> KeyEvidence:
    """Evidence and decision, given for each bar its chords with their share of it; ``stated`` fixes the key of
    single bars."""
    homing, roaming = (_scores(bars, habit, True) for habit in ("homing", "roaming"))
    likely = [
        _path_score(s, best_path(s, np.full(len(bars), CHANGE_COST[h])), CHANGE_COST[h])
        for s, h in ((homing, "homing"), (roaming, "roaming"))
    ]
    habit = "roaming" if likely[1] - likely[0] > ROAMS * len(bars) else "homing"
    score = roaming if habit == "roaming" else _scores(bars, habit, False)
    fixed = {i: KEYS.index(Key(k.tonic, k.mode)) for i, k in (stated or {}).items() if Key(k.tonic, k.mode) in KEYS}
    for i, k in fixed.items():
        score[i] -= 1e3
        score[i, k] += 1e3
    cost = np.full(len(bars), CHANGE_COST[habit])
    for i in range(1, len(bars)):  # who states the key of a stretch says that it may change at its ends
        if (i in fixed) != (i - 1 in fixed):
            cost[i] = STATED_COST
    path = best_path(score, cost)
    chance = posterior(score, cost, least=LEAST)
    out: list[DecidedKey] = []
    first = 0
    for i in range(1, len(path) + 1):
        if i == len(path) or path[i] != path[first]:
            out.append(DecidedKey(first, i, KEYS[path[first]], float(chance[first:i, path[first]].mean())))
            first = i
    return KeyEvidence(_around(score), habit, tuple(out))


def decide(bars: Sequence[BarChords], stated: Mapping[int, Key] | None = None) -> list[DecidedKey]:
    """Keys of a song given, for each bar, its chords with their share of the bar."""
    return list(gather(bars, stated).decided)


def arguments(bars: Sequence[BarChords], key: Key) -> Arguments:
    """What speaks for a key over a stretch of bars."""
    flat = [(c, share) for bar in bars for c, share in bar if not c.is_none]
    time = sum(share for _, share in flat) or 1.0
    run: list[Chord] = []
    for chord, _ in flat:
        if not run or run[-1] != chord:
            run.append(chord)
    falls = sum(
        1
        for a, b in zip(run, run[1:], strict=False)
        if _at_home(b, key) and a.root == (key.tonic + 7) % 12 and triad(a) in "M?"
    )
    scale = set(key.scale)
    inside = sum(share for c, share in flat if c.pitch_classes <= scale) / time
    home = sum(share for c, share in flat if _at_home(c, key)) / time
    return Arguments(
        key, home, falls, inside, bool(run) and _at_home(run[0], key), bool(run) and _at_home(run[-1], key)
    )


# ---------------------------------------------------------------- the chain over bars


def _path_score(score: Floats, path: NDArray[np.int_], cost: float) -> float:
    return float(score[np.arange(len(path)), path].sum() - cost * np.count_nonzero(np.diff(path)))


def _around(score: Floats) -> Floats:
    """Chances of keys from a bar and its neighbours, without the chain."""
    weight = np.hanning(2 * AROUND + 3)[1:-1]
    total = (
        np.stack([np.convolve(column, weight, "same")[: len(score)] for column in np.clip(score, -30, 30).T], 1)
        if len(score) >= len(weight)
        else np.repeat(score.sum(0, keepdims=True), len(score), 0)
    )
    spoken = np.exp((total - total.max(1, keepdims=True)) / SPOKEN)
    return np.asarray(spoken / spoken.sum(1, keepdims=True))
