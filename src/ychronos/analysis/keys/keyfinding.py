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
from itertools import groupby, pairwise

import numpy as np
from numpy.typing import NDArray

from ...theory.chord import Chord
from ...theory.key import Key
from ..chains import best_path, posterior
from . import keyhabits
from .keyhabits import HOMING, ROAMING, kind, triad

KEYS: tuple[Key, ...] = tuple(Key(t, m) for m in HOMING for t in range(12))
CLOSING = np.array([k.mode in ("major", "minor", "dorian") for k in KEYS])  # keys whose dominant may be a major chord
CHANGE_COST = {"homing": 7.5, "roaming": 12.0}
# The same in a homing song whose sections are known, where one begins and where none does
AT_LINES, ELSEWHERE = 3.5, 9.0
# Besides, in a homing song: between a major key and its relative minor, those of one tonic, any others, and into or out of a rarer mode
RELATIVE, PARALLEL, FAR, RARER = 0.0, 0.5, 2.0, 4.0
STATED_COST = 1.0  # of a change at the end of a stretch whose key is stated
END_WEIGHT = 3.0  # the last chord's word for home, in bars of its own; the first chord's is half of that
FOURTH_WEIGHT = 1.0  # of home at the beginning of every fourth bar, where phrases mostly begin
COMES_HOME_WEIGHT = 1.5  # the same in a song whose first chord opens most of its phrases
CLOSES = 1.5  # of home, of the chord on which a section ends that comes from its dominant
HOME_WEIGHT = 0.25  # of each bar at home in a homing song, beyond how often home is expected
SEVENTHS_WEIGHT = 0.1  # of a sixth or seventh inside the scale or outside it
SEVENTH_AT_HOME = 0.5  # against a major key whose home chord would be a dominant seventh
BLUES_AT_HOME = 0.8  # for it where it is a blues: first, fourth and fifth degree are dominant sevenths alike
APPLIED = 0.6  # how much a dominant seventh is expected that leads to a usual chord of the key other than home
USUAL = 4  # weight from which on a place of a key is usual
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
        fit = SEVENTHS_WEIGHT * sum(1 if s in key.scale else -1 for s in sevenths)
        expected = keyhabits.expectation((chord.root - key.tonic) % 12, triad(chord), key.mode)
        leads_on = SEVENTH_AT_HOME * (key.mode == "major" and chord.root == key.tonic and kind(chord) == "7")
        out[n] = expected + fit + HOME_WEIGHT * _at_home(chord, key) - leads_on
    return out


@cache
def _applied(root: int, third: str) -> Floats:
    """What the dominant seventh of a chord says beyond its place in each key, (len(KEYS),), where it leads to that chord (its root and
    triad): it belongs to it, so that where that one is usual it is no stranger either (D7 in C, to G; A7 to Dm). What leads home,
    or to the relative key, speaks for that one alone."""
    out = np.zeros(len(KEYS))
    for n, key in enumerate(KEYS):
        target = (root - key.tonic) % 12
        if target not in (0, 3 if key.minorish else 9) and HOMING[key.mode].get((target, third), 0) >= USUAL:
            out[n] = max(0.0, APPLIED - keyhabits.expectation((target + 7) % 12, "M", key.mode))
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


def _at_home(chord: Chord, key: Key) -> bool:
    return chord.root == key.tonic and triad(chord) in ("m" if key.minorish else "M", "?")


@cache
def _homes(chord: Chord) -> Floats:
    """(len(KEYS),) whether a chord is the home chord of each key."""
    return np.array([float(_at_home(chord, k)) for k in KEYS])


def _ends(bars: Sequence[BarChords], weight: float) -> Floats:
    """(bars, len(KEYS)) the word that a song's last chord has for home, and half as loudly its first one."""
    out = np.zeros((len(bars), len(KEYS)))
    sounding = [(i, c) for i, bar in enumerate(bars) for c, _ in bar if not c.is_none]
    if sounding:
        for (i, chord), w in ((sounding[0], weight / 2), (sounding[-1], weight)):
            out[i] += w * _homes(chord)
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
    leading_on = {(two, (home.tonic + 2) % 12) for two, _, home in _prepared(bars)}
    for i, chord in _openings(bars):
        if (i, chord.root) not in leading_on:
            out[i] = weight * _homes(chord)
    return out


def _closes(bars: Sequence[BarChords], lines: Collection[int]) -> Floats:
    """(bars, len(KEYS)) the word for home of the chords on which sections end, where they come from their dominants."""
    out = np.zeros((len(bars), len(KEYS)))
    for first, last in pairwise([*sorted({0, *lines}), len(bars)]):
        runs = [next(same)[:3] for _, same in groupby(_sounding(bars[first:last], first), key=lambda one: one[2])]
        if len(runs) > 2:
            (_, dominant, above), (bar, home, root) = runs[-2:]
            if (above - root) % 12 == 7 and triad(dominant) == "M" and kind(home) in "Mm":
                out[bar] = CLOSES * _homes(home) * CLOSING
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
    leads = RESOLVED * _resolved(bars) + PREPARED_TELLS * len(_prepared(bars)) if habit == "homing" else 0.0
    return _path_score(score, best_path(score, np.full(len(bars), cost)), cost) + leads


def _sounding(bars: Sequence[BarChords], first: int = 0) -> list[tuple[int, Chord, int, float]]:
    """The chords of bars numbered from ``first`` on: each with its bar, its root and its share of the bar."""
    return [
        (i, chord, chord.root, share)
        for i, bar in enumerate(bars, first)
        for chord, share in bar
        if chord.root is not None
    ]


def _in_turn(bars: Sequence[BarChords]) -> list[tuple[int, Chord, int]]:
    """The chords that follow each other, each once, with the bar in which it begins and its root."""
    return [next(same)[:3] for _, same in groupby(_sounding(bars), key=lambda one: one[1])]


def _resolved(bars: Sequence[BarChords]) -> int:
    """How many dominant sevenths are followed by a chord whose root is a fifth lower."""
    return sum(1 for (_, a, one), (_, _, two) in pairwise(_in_turn(bars)) if kind(a) == "7" and (one - two) % 12 == 7)


def _prepared(bars: Sequence[BarChords]) -> list[tuple[int, int, Key]]:
    """The bars of minor sevenths and of the dominant sevenths a fifth lower that they go to, with the home that both lead to,
    whether it comes or not: Dm7 G7 is a word for C major, Dm7♭5 G7 one for C minor."""
    out = []
    for (first, a, one), (bar, b, two) in pairwise(_in_turn(bars)):
        if kind(b) == "7" and (one - two) % 12 == 7 and {3, 10} <= set(a.intervals):
            out.append((first, bar, Key((two + 5) % 12, "minor" if kind(a) == "d" else "major")))
    return out


def _led_to(bars: Sequence[BarChords]) -> Floats:
    """(bars, len(KEYS)) what dominant sevenths say by the chords they lead to."""
    out = np.zeros((len(bars), len(KEYS)))
    flat = _sounding(bars)
    onto: tuple[int, str] | None = None  # the next chord on another root
    for (i, chord, root, share), (_, after, target, _) in reversed([*pairwise(flat)]):
        if target != root:
            onto = target, triad(after)
        if kind(chord) == "7" and onto is not None and onto[0] == (root + 5) % 12:
            out[i] += share * _applied(*onto)
    return out


def _blues(bars: Sequence[BarChords]) -> Floats:
    """(bars, len(KEYS)) the word for home of a dominant seventh in a blues, where the chords on the fourth and the fifth degree
    are mostly dominant sevenths as well."""
    flat = _sounding(bars)
    leaning = np.zeros(12)
    for _, chord, root, share in flat:
        leaning[root] += share if kind(chord) == "7" else -share
    dominant = leaning > 0
    homes = dominant & np.roll(dominant, -5) & np.roll(dominant, -7)
    out = np.zeros((len(bars), len(KEYS)))
    for i, chord, root, share in flat:
        if homes[root] and kind(chord) == "7":
            out[i, KEYS.index(Key(root, "major"))] += BLUES_AT_HOME * share
    return out


def _scores(bars: Sequence[BarChords], habit: str, lines: Collection[int] = ()) -> Floats:
    """What the bars say for each key, (bars, len(KEYS)): of a roaming song log shares, else against an average chord. Sections begin
    on the bars ``lines``."""
    score = _said(bars, (lambda chord: _shares(chord, habit)) if habit == "roaming" else _speech)
    score += np.array([PRIOR[habit].get(k.mode, 0.0) for k in KEYS])
    if habit == "homing":
        score[0] += np.array([ENTRY.get(k.mode, 0.0) for k in KEYS])
        for _, bar, home in _prepared(bars):
            score[bar, KEYS.index(home)] += PREPARED
        score += _led_to(bars) + _blues(bars)
        score += _closes(bars, lines)
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
    flat = [(c, share) for bar in bars for c, share in bar if not c.is_none]
    time = sum(share for _, share in flat) or 1.0
    run = [chord for _, chord, _ in _in_turn(bars)]
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
