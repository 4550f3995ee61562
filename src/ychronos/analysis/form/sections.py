"""Sections: where they begin and which are the same music.

Method: every bar is described by its harmony (notes in four slices), its sound (bands), the chances of its chords
and the chords decided. How likely a section begins at each bar line is told by :mod:`boundaries`; dynamic
programming sets the boundaries, with a preference for usual lengths; then again, with the sections that stand as
patterns that others may repeat (:mod:`repeats`). Sections whose bars match in order share a letter, transposed ones
too; names are suggested by :mod:`called`.
Conventions: bars by index; letters A, B, C ... in order of appearance.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from ...song.sectionnames import PART, SONG
from ...theory.chord import Chord
from ..attacks import rising
from ..chords.chordnet import HarmonyEvidence
from ..kept import Kept
from ..spectra import BAND_RATE, Array
from . import boundaries, called, tapes, wholes
from .repeats import MOVED, SAME, Repeats, divided, find

SLICES, EIGHTHS = 4, 8
TAPE_CUT = 0.9  # how sure it is that something begins where a tape of many songs was cut
Floats = NDArray[np.float64]
Ints = NDArray[np.int_]
SHORT = 0.6  # of a section's usual length: only a piece of it
LENGTH_WEIGHT, BEGIN = 1.0, 1.0
CHOSEN = (0.9, 2.3)  # of the log odds of a line that is chosen, and constant: how likely a section does begin there
REPEAT = 0.4  # log weight of a bar that is just as in another section
# of a bar that is as in another section at another pitch, and bars for the section: boundaries do not see such repeats
MOVED_WORTH, MOVED_EXTRA = 0.8, 4.0
FITS = 0.06  # of how well two lengths fit, below which stretches are not compared
RICH = 3  # changes of chord in a stretch, from which on it can be recognised at another pitch
NEAR = 1  # bars around a stated beginning in which no other begins by itself
MORE = (0.0, 1.0, 2.0)  # log weight of each beginning besides, to begin with
PHRASE, WHOLE_PHRASES = 4, 7.5  # bars of a phrase, and log weight of a stretch of whole ones before others
MOST_MOVED = 8  # limits that are moved together, but for all to the end
ROUNDS = 3  # of setting the sections again with those that stand as patterns
# How welcome a length in bars is; lengths not listed get the default.
_LENGTHS = {1: -5.0, 2: -1.6, 3: -1.8, 4: 0.0, 5: -0.9, 6: -0.7, 7: -1.2, 8: 0.6, 9: -0.5, 10: -0.6, 11: -1.0, 12: 0.1,
            13: -1.0, 14: -0.6, 16: 0.0, 20: -1.0, 24: -1.0}  # fmt: skip
_OTHER_LENGTH = -1.2
_TOO_LONG = 32
_PRIOR = LENGTH_WEIGHT * np.array([_LENGTHS.get(k, _OTHER_LENGTH) for k in range(_TOO_LONG + 1)])


UNHEARD = 0.4  # how sure the name of a stretch is that the user made a section


@dataclass(frozen=True)
class DecidedSection:
    """A section over bars ``first`` .. ``last`` (exclusive); ``confidence`` is of its beginning, ``sure`` of its name."""

    first: int
    last: int
    letter: str
    name: str
    confidence: float
    sure: float = 1.0


@dataclass(frozen=True)
class BarFeatures:
    """Per bar: ``harmony`` (n, SLICES, 12) unit rows, ``sound`` (n, k) standardised, ``level`` (n,) in dB,
    ``chances`` (n, k) unit rows of the roots of chord chances, ``chords`` (n, SLICES) root * 3 + kind, -1 for
    none, ``parts`` (n, EIGHTHS, k) the sound of the parts of a bar, ``tonic`` (n,) of the key, ``beats`` (n,) of the bar."""

    harmony: Floats
    sound: Floats
    level: Floats
    chances: Floats
    chords: NDArray[np.int_]
    parts: Floats
    tonic: NDArray[np.int_]
    beats: NDArray[np.int_]

    def between(self, first: int, last: int) -> BarFeatures:
        return BarFeatures(*(getattr(self, f.name)[first:last] for f in fields(self)))


def chord_number(chord: Chord) -> int:
    """Root and third as a number; -1 for none."""
    if chord.root is None:
        return -1
    steps = chord.intervals
    return chord.root * 3 + (1 if 3 in steps and 4 not in steps else 0 if 4 in steps else 2)


@dataclass(frozen=True)
class Frames:
    """What bars are described from, frame by frame: ``chroma`` (T, 12), ``sound`` (S, k), ``power`` (S, 1)."""

    chroma: Array
    sound: Array
    power: Array
    kept: Kept = field(default_factory=Kept, compare=False, repr=False)

    @property
    def flux(self) -> Array:
        """(S,) how much rises in all bands at each frame, in units of its own."""
        return np.asarray(self.sound[:, self.sound.shape[1] // 2 :].sum(1))

    def levels(self, lines: Floats) -> Floats:
        """(n,) level of the stretches between ``lines`` (n + 1,) in seconds, in dB."""
        power = self.kept.means("power", self.power, lines, BAND_RATE)[:, 0]
        return np.asarray(10 * np.log10(np.maximum(0, power) + 1e-9))


def frames(bands: Array, notes: Array) -> Frames:
    """Frames of a recording; they do not depend on its bars and can be kept."""
    octaves = notes.reshape(len(notes), 7, 12)
    chroma = np.sqrt(octaves[:, 2:6].sum(1) + 0.5 * octaves[:, :2].sum(1))
    loud = np.percentile(bands.sum(1), 95) / bands.shape[1] + 1e-9
    log, rise = rising(bands, loud)
    groups = log.shape[1] // 5
    sound = np.concatenate([log, 3 * rise], axis=1).reshape(len(log), 2 * groups, 5).mean(2)
    return Frames(chroma, sound.astype(np.float32), (bands**2).sum(1, keepdims=True))


def describe(
    kept: Frames,
    chords_heard: HarmonyEvidence,
    lines: Floats,
    chords: Sequence[Sequence[Chord]],
    tonic: Sequence[int],
    beats: Sequence[int],
) -> BarFeatures:
    """Features of the bars between the bar lines ``lines`` (n + 1,) in seconds; ``chords_heard`` is what the net
    hears, ``chords`` those that were decided in SLICES parts of each bar, ``tonic`` of its key, ``beats`` how many it has."""
    count = len(lines) - 1
    slices = np.interp(np.arange(count * SLICES + 1) / SLICES, np.arange(count + 1), lines)
    harmony = kept.kept.means("chroma", kept.chroma, slices).reshape(count, SLICES, 12)
    harmony -= harmony.mean(axis=2, keepdims=True)
    harmony /= np.sqrt((harmony**2).sum((1, 2), keepdims=True)) + 1e-6
    per_bar = kept.kept.means("sound", kept.sound, lines, BAND_RATE)
    standard = (per_bar - per_bar.mean(0)) / (0.5 * per_bar.std(0) + 0.5 * per_bar.std() + 1e-6)
    level = kept.levels(lines)
    eighths = np.interp(np.arange(count * EIGHTHS + 1) / EIGHTHS, np.arange(count + 1), lines)
    parts = kept.kept.means("sound", kept.sound, eighths, BAND_RATE).reshape(count, EIGHTHS, -1)
    chance = np.exp(np.maximum(chords_heard.kept.means("chords", chords_heard.chord, eighths), -12))
    chance = np.sqrt(chance / chance.sum(1, keepdims=True)).reshape(count, -1) / np.sqrt(EIGHTHS)
    numbers = np.array([[chord_number(c) for c in bar] for bar in chords])
    return BarFeatures(harmony, standard, level, chance, numbers, parts, np.array(tonic), np.array(beats))


def busy(features: BarFeatures) -> Floats:
    """(n,) how much begins in each bar against the other bars, in all bands."""
    return np.asarray(features.sound[:, features.sound.shape[1] // 2 :].mean(1))


def similarity(features: BarFeatures) -> tuple[Floats, Floats]:
    """(harmony, sound) similarity of all pairs of bars, 1 on the diagonal."""
    flat = features.harmony.reshape(len(features.harmony), -1)
    harmony = flat @ flat.T
    sound = features.sound
    size = (sound**2).mean(1)
    distance = np.sqrt(np.maximum(0, size[:, None] + size[None] - 2 * (sound @ sound.T) / sound.shape[1]))
    return harmony, np.exp(-distance)


def looked_at(features: BarFeatures, harmony: Floats, sound: Floats, shared: Floats) -> boundaries.Looked:
    """What tells where sections begin."""
    return boundaries.Looked(
        features.level, harmony, sound, shared, features.chords, features.parts, features.tonic, features.beats
    )


@dataclass(frozen=True)
class Heard:
    """Sections by sound alone, with what tells of them: ``repeats`` compares stretches, ``chance`` (n,) that one begins
    at each bar."""

    sections: tuple[DecidedSection, ...]
    repeats: Repeats | tapes.Apart | None
    chance: Floats


def decide(features: BarFeatures) -> Heard:
    """Sections of a song by its sound. A tape of many songs, on which comparing all bars with all would take memory
    without end, is cut where it is quietest, and each piece decided for itself."""
    cuts = tapes.cuts(features.level)
    if not cuts:
        return _of_one(features)
    pieces = [_of_one(features.between(a, b)) for a, b in zip([0, *cuts], [*cuts, len(features.level)], strict=True)]
    out: list[DecidedSection] = []
    letters = 0
    for start, piece in zip([0, *cuts], pieces, strict=True):
        own = {x: _letter(letters + i) for i, x in enumerate(dict.fromkeys(s.letter for s in piece.sections))}
        letters += len(own)
        out += [
            replace(s, first=s.first + start, last=s.last + start, letter=own[s.letter],
                    confidence=s.confidence if s.first or not start else TAPE_CUT)
            for s in piece.sections
        ]  # fmt: skip
    repeats = tapes.Apart(tuple(cuts), tuple(p.repeats for p in pieces if not isinstance(p.repeats, tapes.Apart)))
    return Heard(tuple(out), repeats, np.concatenate([p.chance for p in pieces]))


def stretches(features: BarFeatures) -> tuple[list[int], list[str], Floats, Floats, Repeats]:
    """The phrases of a song: their limits, the end with them, and letters; how alike bars sound (n, n), the log odds of a beginning
    at each (n,), and what repeats."""
    harmony, sound = similarity(features)
    shared = features.chances @ features.chances.T
    odds = boundaries.log_odds(looked_at(features, harmony, sound, shared))
    repeats = find(_both(harmony, shared), features.chords)
    limits = divided(_by_repeats(odds + BEGIN, repeats), repeats)
    limits = _in_whole_phrases(limits, odds + BEGIN, repeats, first=int((features.chords >= 0).any(1).argmax()))
    return limits, _letters_of(limits, repeats), sound, odds, repeats


def _of_one(features: BarFeatures) -> Heard:
    count = len(features.level)
    if count < 4:
        return Heard((DecidedSection(0, count, "A", SONG, 0.5),), None, np.zeros(count))
    limits, letters, sound, odds, repeats = stretches(features)
    limits = wholes.join(limits, letters, sound, features.level, odds)
    chance = 1 / (1 + np.exp(-CHOSEN[0] * odds - CHOSEN[1]))
    return Heard(tuple(_named(limits, repeats, features, chance)), repeats, chance)


def around(heard: Heard, begins: Sequence[int] = (), whole: Sequence[tuple[int, int]] = ()) -> list[DecidedSection]:
    """Sections with what is stated of them: bars that ``begins`` one, and stretches that are one ``whole``.

    What is stated of a section holds in its other passes too, as far as nothing is stated there; no other section
    moves. Beginnings close to a stated one that are not stated give way.
    """
    base = heard.sections
    count = base[-1].last
    lines = {s.first for s in base}
    said = {b for b in begins if 0 < b < count}
    joined = [(a, b) for a, b in whole if b - a > 1]
    inside = {x for a, b in joined for x in range(a + 1, b)} - said
    near = {x for b in said - lines for x in range(b - NEAR, b + NEAR + 1)} - said - {0}
    more, fewer = _in_other_passes(base, said, joined, said | inside | near)
    limits = sorted((lines | said | more) - (inside | near | fewer) | {0})
    return _called_again(heard, [*limits, count])


def _in_other_passes(
    base: Sequence[DecidedSection], said: set[int], joined: Sequence[tuple[int, int]], taken: set[int]
) -> tuple[set[int], set[int]]:
    """Where else sections begin, and do not, by what is stated of other passes of the same music. Bars in ``taken``
    are stated about already."""
    more: set[int] = set()
    fewer: set[int] = set()
    for s in base:
        for bar in said:
            if s.first < bar < s.last:
                twins = [
                    o for o in base if o.letter == s.letter and o is not s and o.last - o.first == s.last - s.first
                ]
                more |= {o.first + bar - s.first for o in twins}
    for a, b in joined:
        run = [s for s in base if a <= s.first and s.last <= b]
        if len(run) < 2 or run[0].first != a or run[-1].last != b:
            continue
        shape = [(s.letter, s.last - s.first) for s in run]
        for k in range(len(base) - len(run) + 1):
            other = base[k : k + len(run)]
            if other[0] is not run[0] and [(s.letter, s.last - s.first) for s in other] == shape:
                fewer |= {s.first for s in other[1:]}
    return more - taken, fewer - taken


def _called_again(heard: Heard, limits: list[int]) -> list[DecidedSection]:
    """The stretches between limits as sections: those that were there as they were, others compared with them."""
    base = {(s.first, s.last): s for s in heard.sections}
    spans = list(zip(limits, limits[1:], strict=False))
    groups: dict[str, list[tuple[int, int]]] = {}
    names: dict[str, str] = {}
    for s in heard.sections:
        names.setdefault(s.letter, s.name)
        if (s.first, s.last) in spans:
            groups.setdefault(s.letter, []).append((s.first, s.last))
    used = {s.letter for s in heard.sections}
    out: list[DecidedSection] = []
    for span in spans:
        if span in base:
            out.append(base[span])
            continue
        cut, sure = _mostly(heard.sections, span), UNHEARD
        if cut is not None:
            letter, name, sure = cut.letter, cut.name, cut.sure
        else:
            length = span[1] - span[0]
            fitting = {k: [o for o in g if SHORT <= length / (o[1] - o[0]) <= 1 / SHORT] for k, g in groups.items()}
            letter = _like(heard.repeats, span, {k: g for k, g in fitting.items() if g})
            letter = letter or next(x for x in (_letter(i) for i in range(1000)) if x not in used)
            first = next((s for s in heard.sections if s.first == span[0] and s.last < span[1]), None)
            name = names.get(letter) or (first.name if first is not None else PART + letter)
        used.add(letter)
        names.setdefault(letter, name)
        groups.setdefault(letter, []).append(span)
        chance = float(heard.chance[span[0]]) if span[0] else 1.0
        out.append(DecidedSection(*span, letter, name, chance, sure))
    return out


def _mostly(base: Sequence[DecidedSection], span: tuple[int, int]) -> DecidedSection | None:
    """The section that a stretch is the greater part of, the first half of two."""
    for s in base:
        common = min(s.last, span[1]) - max(s.first, span[0])
        half = common * 2 == s.last - s.first and span[0] == s.first
        if common > 0.6 * (span[1] - span[0]) and (common * 2 > s.last - s.first or half):
            return s
    return None


def _like(
    repeats: Repeats | tapes.Apart | None, span: tuple[int, int], groups: Mapping[str, list[tuple[int, int]]]
) -> str:
    """The letter of the group that a stretch is like, at its pitch or at another; "" for none."""
    if repeats is None or not groups:
        return ""
    scores = {k: float(np.mean([repeats.alike(span, o) for o in g])) for k, g in groups.items()}
    letter = max(scores, key=lambda k: scores[k])
    if scores[letter] >= SAME:
        return letter
    shifts = {k: max(repeats.transposed(span, o) for o in g) for k, g in groups.items()}
    best = max(shifts, key=lambda k: shifts[k])
    return best if shifts[best] >= MOVED else ""


def _by_repeats(begin: Floats, repeats: Repeats) -> list[int]:
    """Where sections begin, and the end, by ``begin`` (n,) and by what repeats. A repeat is only seen against sections that stand already, so where too few stand
    nothing repeats and they stay: it is begun with few sections and with many, and what is worth most in the end holds."""
    count = len(begin)
    first, length = np.divmod(np.arange(count * _TOO_LONG), _TOO_LONG)
    last = np.minimum(first + length + 1, count)

    def worth_of(limits: list[int]) -> Floats:
        return np.asarray(REPEAT * _repeating(repeats, limits, first, last))

    found: dict[tuple[int, ...], float] = {}
    for more in MORE:
        limits = _limits(begin + more, np.zeros(count * _TOO_LONG))
        worth = worth_of(limits)
        for _ in range(ROUNDS):
            again = _limits(begin, worth)
            if again == limits:
                break
            limits, worth = again, worth_of(again)
        found[tuple(limits)] = _worth(limits, begin, repeats)
    best: tuple[int, ...] = max(found, key=lambda x: found[x])
    return [*best]


def _worth(limits: list[int], begin: Floats, repeats: Repeats) -> float:
    """Log weight of stretches between limits: their lengths, where they begin, what repeats."""
    first, last = np.array(limits[:-1]), np.array(limits[1:])
    lengths = _PRIOR[np.minimum(last - first, _TOO_LONG)]
    total = lengths + REPEAT * _repeating(repeats, limits, first, last) + np.where(first > 0, begin[first], 0.0)
    return float(total.sum())


def _in_whole_phrases(limits: list[int], begin: Floats, repeats: Repeats, first: int) -> list[int]:
    """The limits with some that follow each other a bar earlier or later, where the stretch before them then is whole phrases (the first
    from bar ``first`` on, from which the song sounds), and so is the one after them unless they go on to the end, and that outweighs
    what it costs. Where sections share their first bar, what repeats is as well told a bar late from there on, and only such stretches
    tell. The last limit by itself stays: an ending repeats nothing."""
    worth, best = _worth(limits, begin, repeats) - WHOLE_PHRASES, limits
    last = len(limits) - 1
    for k, end in combinations(range(1, last + 1), 2):
        if end - k > MOST_MOVED and end < last:
            continue
        before = first if k == 1 else limits[k - 1]
        step = next((step for step in (-1, 1) if (limits[k] + step - before) % PHRASE == 0), 0)
        moved = [*limits[:k], *(x + step for x in limits[k:end]), *limits[end:]]
        if not step or min(moved[k] - before, moved[end] - moved[end - 1]) < 1:
            continue
        fits = end - k > 1 if end == last else (moved[end] - moved[end - 1]) % PHRASE == 0
        if fits and (value := _worth(moved, begin, repeats)) > worth:
            worth, best = value, moved
    return best


def _limits(begin: Floats, worth: Floats) -> list[int]:
    """Where sections begin, and the end, on the best path: ``begin`` (n,) are log weights of a beginning, ``worth``
    (n * _TOO_LONG,) those of each stretch by its first bar and its length."""
    count = len(begin)
    best = np.full(count + 1, -np.inf)
    best[0] = 0.0
    back = np.zeros(count + 1, int)
    for end in range(1, count + 1):
        starts = np.arange(max(0, end - _TOO_LONG), end)
        value = best[starts] + _PRIOR[end - starts] + np.where(starts > 0, begin[starts], 0.0)
        value += worth[starts * _TOO_LONG + end - starts - 1]
        chosen = int(value.argmax())
        best[end], back[end] = value[chosen], starts[chosen]
    limits = [count]
    while limits[-1] > 0:
        limits.append(int(back[limits[-1]]))
    return limits[::-1]


def alike_bars(harmony: Floats, features: BarFeatures) -> Floats:
    """How alike every two bars are, by their notes and by their chord chances: (n, n)."""
    return _both(harmony, features.chances @ features.chances.T)


def _both(harmony: Floats, shared: Floats) -> Floats:
    return np.asarray((harmony + np.clip(1.2 * shared, 0, 1)) / 2)


def _repeating(repeats: Repeats, limits: list[int], first: Ints, last: Ints) -> Floats:
    """How much each stretch ``first`` .. ``last`` is worth, in bars, for being a repeat of one of the sections
    between ``limits`` that it does not touch."""
    length = last - first
    rich = repeats.changes[last] - repeats.changes[first] >= RICH
    best = np.zeros(len(first))
    for a, b in zip(limits, limits[1:], strict=False):
        common = np.minimum(length, b - a)
        fits = (common / np.maximum(length, b - a)) ** 4
        near = np.flatnonzero((fits > FITS) & ((last <= a) | (first >= b)))
        plain, moved = repeats.of(first[near], last[near], (a, b))
        same = np.clip((plain - SAME) / (1 - SAME), 0, 1) * common[near]
        extra = np.where(rich[near] & (common[near] >= 3), MOVED_WORTH * common[near] + MOVED_EXTRA, 0.0)
        other = np.clip((moved - 0.7) / 0.3, 0, 1) * extra
        best[near] = np.maximum(best[near], np.maximum(same, other) * fits[near])
    return best


def _named(limits: list[int], repeats: Repeats, features: BarFeatures, chance: Floats) -> list[DecidedSection]:
    spans = list(zip(limits, limits[1:], strict=False))
    letters = _letters_of(limits, repeats)
    names = called.suggest(spans, letters, features.level, busy(features))
    return [
        DecidedSection(a, b, k, n.name, float(chance[a]) if a else 1.0, round(float(n.sure), 2))
        for (a, b), k, n in zip(spans, letters, names, strict=True)
    ]


def _letters_of(limits: list[int], repeats: Repeats) -> list[str]:
    """A letter for each stretch between limits, the same for those that are the same music."""
    letters: list[str] = []
    groups: dict[str, list[tuple[int, int]]] = {}
    for span in zip(limits, limits[1:], strict=False):
        letter = _like(repeats, span, groups) or _letter(len(groups))
        groups.setdefault(letter, []).append(span)
        letters.append(letter)
    return letters


def _letter(index: int) -> str:
    return chr(ord("A") + index) if index < 26 else f"A{index - 25}"
