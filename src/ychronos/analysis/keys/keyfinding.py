"""Keys over time, from the chords, and the arguments for them.

Method: every key expects chords by their place in it, as songs of two habits use them (:mod:`keyhabits`); the
song's own chords tell which habit is its. Each bar's chords then speak for each key; the first and last chord
of the song and those on which every fourth bar begins speak for home. A hidden Markov model over bars, in which a change of key costs much,
less where a section begins, decides (key finding from chords: Papadopoulos and Peeters, "Joint estimation of chords and downbeats from an audio signal",
IEEE TASLP 2011, section on keys). What is shown to the user as arguments (home, cadences, first and last chord,
notes of the scale) is counted from the chords and stands beside the decision; it does not make it.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from ...theory.chord import Chord
from ...theory.key import Key
from ..chains import best_path, posterior
from . import dominants, keyhabits
from .keyhabits import HOMING, KEYS, ROAMING, BarChords, at_home, homes, kind, triad

CHANGE_COST = {"homing": 7.5, "roaming": 12.0}
# The same in a homing song whose sections are known, where one begins and where none does
AT_LINES, ELSEWHERE = 3.5, 9.0
# Besides, in a homing song: between a major key and its relative minor, those of one tonic, any others, and into or out of a rarer mode
RELATIVE, PARALLEL, FAR, RARER = 0.0, 0.5, 2.0, 4.0
STATED_COST = 0.0  # of a change at the end of a stretch whose key is stated
END_WEIGHT = 3.0  # the last chord's word for home, in bars of its own; the first chord's is half of that
FOURTH_WEIGHT = 1.0  # of home at the beginning of every fourth bar, where phrases mostly begin
COMES_HOME_WEIGHT = 1.5  # the same in a song whose first chord opens most of its phrases
HOME_WEIGHT = 0.25  # of each bar at home in a homing song, beyond how often home is expected
SEVENTHS_WEIGHT = 0.1  # of a sixth or seventh inside the scale or outside it
SEVENTH_AT_HOME = 0.5  # against a major key whose home chord would be a dominant seventh
PRIOR = {  # per bar, for the rarer modes
    "homing": {"dorian": -0.12, "mixolydian": -0.12, "phrygian": -0.3, "lydian": -0.3},
    "roaming": {"dorian": -0.1, "mixolydian": -0.1},
}
# once, for a homing song in a rarer mode
ENTRY = {"dorian": -1.0, "mixolydian": -1.0, "phrygian": -2.0, "lydian": -2.0}
ROAMS = -0.08  # log likelihood per bar by which a song must look more like roaming than like homing
OPENS_ROAMS = 0.12  # the same in a song whose first chord opens most of its phrases
OPENS = 0.7  # share of the phrases that it opens then
RESOLVED = 0.6  # of each dominant seventh that falls a fifth, for homing: a song that has them leads somewhere
PREPARED_TELLS, PREPARED = 0.6, 0.3  # of each ii-V: for homing, and for the home that it leads to
ENDS_TELL = {"homing": 5.0, "roaming": 3.0}  # as END_WEIGHT and CHANGE_COST, where the habits are compared
CHANGES_TELL = {"homing": 9.0, "roaming": 12.0}
LEAST = -60.0  # log weight that any key keeps in a bar
AROUND = 4  # bars to either side that are looked at together to show what speaks for a key
SPOKEN = 1.2  # temper of what is shown: neighbouring bars are not independent witnesses
Floats = NDArray[np.float64]


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
        fit = SEVENTHS_WEIGHT * sum(1 if s in key.scale else -1 for s in sevenths)
        expected = keyhabits.expectation((chord.root - key.tonic) % 12, triad(chord), key.mode)
        leads_on = SEVENTH_AT_HOME * (key.mode == "major" and chord.root == key.tonic and kind(chord) == "7")
        out[n] = expected + fit + HOME_WEIGHT * at_home(chord, key) - leads_on
    return out


@cache
def _shares(chord: Chord, habit: str, sevenths: bool = True) -> Floats:
    """Log share of a chord in each key by a habit, without ``sevenths`` that of its triad; modes a habit does not know get
    nothing."""
    out = np.full(len(KEYS), -12.0)
    if chord.root is None:
        return np.zeros(len(KEYS))
    known = ROAMING if habit == "roaming" else HOMING
    for n, key in enumerate(KEYS):
        if key.mode in known:
            share, step = keyhabits.log_shares(habit, key.mode), (chord.root - key.tonic) % 12
            out[n] = share[step, kind(chord) if sevenths else triad(chord)]
            if not sevenths and triad(chord) == "M":  # with a seventh or without
                out[n] = np.logaddexp(out[n], share[step, "7"])
    return out


@cache
def _between() -> Floats:
    """(len(KEYS), len(KEYS)) what a change from one key to another costs in a homing song besides."""
    out = np.full((len(KEYS), len(KEYS)), FAR)
    for i, one in enumerate(KEYS):
        for j, two in enumerate(KEYS):
            if one.mode != two.mode and {one.mode, two.mode} != {"major", "minor"}:
                out[i, j] = RARER
            elif one.mode != two.mode and one.signature % 12 == two.signature % 12:
                out[i, j] = RELATIVE
            elif one.mode != two.mode and one.tonic == two.tonic:
                out[i, j] = PARALLEL
    return out


def _ends(bars: Sequence[BarChords], weight: float) -> Floats:
    """(bars, len(KEYS)) the word that a song's last chord has for home, and half as loudly its first one."""
    out = np.zeros((len(bars), len(KEYS)))
    sounding = dominants.sounding(bars)
    if sounding:
        for (i, chord, *_), w in ((sounding[0], weight / 2), (sounding[-1], weight)):
            out[i] += w * homes(chord)
    return out


def _openings(bars: Sequence[BarChords]) -> list[tuple[int, Chord]]:
    """The chords on which every fourth bar begins, from the first that sounds, each with its bar."""
    first = next((i for i, bar in enumerate(bars) if any(not c.is_none for c, _ in bar)), len(bars))
    begun = ((i, next((c for c, _ in bars[i] if not c.is_none), None)) for i in range(first, len(bars), 4))
    return [(i, chord) for i, chord in begun if chord is not None]


def _phrases(bars: Sequence[BarChords]) -> Floats:
    """(bars, len(KEYS)) the word for home of the chords on which every fourth bar begins, but for the first of a ii-V."""
    out = np.zeros((len(bars), len(KEYS)))
    weight = COMES_HOME_WEIGHT if _comes_home(bars) else FOURTH_WEIGHT
    leading_on = {(two, (home.tonic + 2) % 12) for two, _, home in dominants.prepared(bars)}
    for i, chord in _openings(bars):
        if (i, chord.root) not in leading_on:
            out[i] = weight * homes(chord)
    return out


def _comes_home(bars: Sequence[BarChords]) -> bool:
    """Whether the song's first chord opens most of its phrases: to that it keeps coming home, whatever else it is made of."""
    chords = [(c.root, triad(c)) for _, c in _openings(bars)]
    return bool(chords) and chords.count(chords[0]) >= OPENS * len(chords)


def _said(bars: Sequence[BarChords], speech: Callable[[Chord], Floats]) -> Floats:
    """(bars, len(KEYS)) what the chords of each bar say, by how long they last."""
    return np.array([sum((share * speech(chord) for chord, share in bar), np.zeros(len(KEYS))) for bar in bars])


def _likelihood(bars: Sequence[BarChords], habit: str) -> float:
    """How likely a song's chords are by a habit, in the keys that suit it best: by their triads, as sevenths are a matter of
    the style and are heard less surely."""
    score = _said(bars, lambda chord: _shares(chord, habit, sevenths=False)) + _ends(bars, ENDS_TELL[habit])
    cost = CHANGES_TELL[habit]
    worth = _path_score(score, best_path(score, np.full(len(bars), cost)), cost)
    if habit == "homing":
        worth += RESOLVED * dominants.resolved(bars) + PREPARED_TELLS * len(dominants.prepared(bars))
    return worth


def _scores(bars: Sequence[BarChords], habit: str, lines: Collection[int] = ()) -> Floats:
    """What the bars say for each key, (bars, len(KEYS)): of a roaming song log shares, else against an average chord. Sections begin
    on the bars ``lines``."""
    score = _said(bars, (lambda chord: _shares(chord, habit)) if habit == "roaming" else _speech)
    score += np.array([PRIOR[habit].get(k.mode, 0.0) for k in KEYS])
    if habit == "homing":
        score[0] += np.array([ENTRY.get(k.mode, 0.0) for k in KEYS])
        for _, bar, home in dominants.prepared(bars):
            score[bar, KEYS.index(home)] += PREPARED
        score += dominants.led_to(bars) + dominants.blues(bars) + dominants.closes(bars, lines)
    return np.asarray(score + _ends(bars, END_WEIGHT) + _phrases(bars))


def gather(
    bars: Sequence[BarChords], stated: Mapping[int, Key] | None = None, lines: Collection[int] | None = None
) -> KeyEvidence:
    """Evidence and decision, given for each bar its chords with their share of it; ``stated`` fixes the key of
    single bars, ``lines`` are the bars on which sections begin, where they are known."""
    needed = (OPENS_ROAMS if _comes_home(bars) else ROAMS) * len(bars)
    roams = _likelihood(bars, "roaming") - _likelihood(bars, "homing") > needed
    habit = "roaming" if roams else "homing"
    score = _scores(bars, habit, lines or ())
    fixed = {i: KEYS.index(Key(k.tonic, k.mode)) for i, k in (stated or {}).items() if Key(k.tonic, k.mode) in KEYS}
    for i, k in fixed.items():
        score[i] -= 1e3
        score[i, k] += 1e3
    cost = np.full(len(bars), CHANGE_COST[habit])
    if lines is not None and habit == "homing":
        cost = np.array([AT_LINES if i in lines else ELSEWHERE for i in range(len(bars))])
    for i in range(1, len(bars)):  # who states the key of a stretch says that it may change at its ends
        if (i in fixed) != (i - 1 in fixed):
            cost[i] = STATED_COST
    between = _between() if habit == "homing" else None
    path = best_path(score, cost, between)
    chance = posterior(score, cost, least=LEAST, between=between)
    out: list[DecidedKey] = []
    first = 0
    for i in range(1, len(path) + 1):
        if i == len(path) or path[i] != path[first]:
            out.append(DecidedKey(first, i, KEYS[path[first]], float(chance[first:i, path[first]].mean())))
            first = i
    return KeyEvidence(_around(score), habit, tuple(out))


def decide(
    bars: Sequence[BarChords], stated: Mapping[int, Key] | None = None, lines: Collection[int] | None = None
) -> list[DecidedKey]:
    """Keys of a song, as :func:`gather`."""
    return list(gather(bars, stated, lines).decided)


def arguments(bars: Sequence[BarChords], key: Key) -> Arguments:
    """What speaks for a key over a stretch of bars."""
    flat = [(c, share) for _, c, _, share in dominants.sounding(bars)]
    time = sum(share for _, share in flat) or 1.0
    run = [chord for _, chord, _ in dominants.in_turn(bars)]
    falls = sum(
        1
        for a, b in zip(run, run[1:], strict=False)
        if at_home(b, key) and a.root == (key.tonic + 7) % 12 and triad(a) in "M?"
    )
    scale = set(key.scale)
    inside = sum(share for c, share in flat if c.pitch_classes <= scale) / time
    home = sum(share for c, share in flat if at_home(c, key)) / time
    return Arguments(key, home, falls, inside, bool(run) and at_home(run[0], key), bool(run) and at_home(run[-1], key))


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
