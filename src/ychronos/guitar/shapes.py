"""Shapes of chords on a fretboard, and the chords that a shape can be.

Conventions: a shape is one fret for each string, lowest string first, relative to the capo; 0 is the open
string, None is not played. A shape is playable when at most four fingers, one of them perhaps as a barre, reach
it within four frets.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from ..theory.chord import QUALITIES, Chord
from ..theory.key import Key

Shape = tuple[int | None, ...]
REACH = 3  # frets between the lowest and the highest finger
HIGHEST = 12
# Steps that a voicing may leave out of a chord with more than three notes, the first first.
_SPARE = (7, 2, 5, 0)


def pitches(shape: Shape, strings: Sequence[int], capo: int = 0) -> list[int]:
    """MIDI notes that sound, from the lowest string up."""
    return [s + capo + f for s, f in zip(strings, shape, strict=True) if f is not None]


def cost(shape: Shape) -> float:
    """How awkward a shape is; infinite when no hand can play it."""
    used = [i for i, f in enumerate(shape) if f is not None]
    fretted = [f for f in shape if f]
    if not used:
        return float("inf")
    low, high = (min(fretted), max(fretted)) if fretted else (0, 0)
    if high - low > REACH:
        return float("inf")
    on_lowest = [i for i in used if shape[i] == low and low]
    barre = len(on_lowest) > 1 and all(f is None or f >= low for f in shape[on_lowest[0] : on_lowest[-1] + 1])
    fingers = len(fretted) - (len(on_lowest) - 1 if barre else 0)
    if fingers > 4:
        return float("inf")
    inner = used[-1] - used[0] + 1 - len(used)
    missing_top = len(shape) - 1 - used[-1]
    return 5.0 * inner + 1.1 * low + 0.7 * (high - low) + 1.5 * barre + 1.2 * (len(shape) - len(used)) + 2 * missing_top


@lru_cache(maxsize=512)
def find(chord: Chord, strings: tuple[int, ...], capo: int = 0, count: int = 3) -> tuple[Shape, ...]:
    """Playable shapes of a chord with its bass lowest, the easiest first; empty for no chord or where none is."""
    if chord.root is None:
        return ()
    opens = [s + capo for s in strings]
    tones = chord.pitch_classes
    steps = list(dict.fromkeys(chord.intervals))
    needed = set(steps)
    for spare in _SPARE:
        if len(needed) > 4 or (spare == 7 and len(needed) > 3):
            needed.discard(spare)
    essential = {(chord.root + i) % 12 for i in needed} | {chord.sounding_bass or 0}
    best: dict[Shape, float] = {}
    for position in range(HIGHEST - REACH + 1):
        choices: list[list[int | None]] = [
            [None, *(f for f in dict.fromkeys([0, *range(max(1, position), position + REACH + 1)])
                     if (o + f) % 12 in tones)]
            for o in opens
        ]  # fmt: skip
        _search(choices, opens, chord.sounding_bass or 0, frozenset(essential), [], best)
    order = sorted(best, key=lambda s: (best[s], sum(f or 0 for f in s)))
    return tuple(order[:count])


def _search(
    choices: list[list[int | None]],
    opens: list[int],
    bass: int,
    essential: frozenset[int],
    frets: list[int | None],
    best: dict[Shape, float],
) -> None:
    string = len(frets)
    if string == len(choices):
        classes = {(o + f) % 12 for o, f in zip(opens, frets, strict=True) if f is not None}
        if essential <= classes and sum(f is not None for f in frets) >= min(3, len(essential) + 1):
            shape = tuple(frets)
            value = cost(shape)
            if value < float("inf"):
                best[shape] = value
        return
    started = any(f is not None for f in frets)
    fretted = [f for f in frets if f]
    for fret in choices[string]:
        if fret is not None and not started and (opens[string] + fret) % 12 != bass:
            continue
        if fret is None and started and None in frets[next(i for i, f in enumerate(frets) if f is not None) :]:
            continue  # no more than one muted string inside
        if fret and fretted and max(*fretted, fret) - min(*fretted, fret) > REACH:
            continue
        frets.append(fret)
        _search(choices, opens, bass, essential, frets, best)
        frets.pop()


# ---------------------------------------------------------------- what a handful of notes is called


@dataclass(frozen=True)
class Named:
    """A chord that notes can be, with a cost (0 is plainest) and what is odd about it in words."""

    chord: Chord
    cost: float
    words: str


_RANK = {name: i for i, name in enumerate(QUALITIES)}
_PLAIN = {"maj": 0.0, "min": 0.0, "5": 0.2, "7": 0.3, "min7": 0.3, "maj7": 0.4, "sus4": 0.5, "sus2": 0.6, "add9": 0.6,
          "6": 0.7, "min6": 0.8, "dim": 0.7, "7sus4": 0.7, "9": 0.7, "min9": 0.8, "maj9": 0.8, "dim7": 0.7,
          "hdim7": 0.8, "aug": 0.8, "minadd9": 0.9}  # fmt: skip


def names(notes: Sequence[int], key: Key | None = None, count: int = 6) -> list[Named]:
    """The sensible names for sounding MIDI notes, the plainest first; empty for fewer than two pitch classes.

    A name is sensible when the lowest note is its root or one of its notes, when nothing sounds that it does
    not have, and when at most a fifth (or, in big chords, a ninth) that it has is missing.
    """
    if not notes:
        return []
    bass = min(notes) % 12
    classes = frozenset(n % 12 for n in notes)
    if len(classes) < 2:
        return []
    scale = frozenset(key.scale) if key is not None else frozenset()
    out: dict[Chord, Named] = {}
    for root in range(12):
        for name, quality in QUALITIES.items():
            have = {(root + i) % 12 for i in quality.intervals}
            extra, missing = classes - have, have - classes
            if root not in classes or extra - {bass}:
                continue
            spare = {(root + 7) % 12} if len(have) > 3 else set()
            if len(have) > 5:
                spare |= {(root + 2) % 12, (root + 5) % 12}
            if missing - spare or (bass in extra and len(have) > 4):
                continue
            chord = Chord(root, name, bass)
            value = _PLAIN.get(name, 1.0) + 0.02 * _RANK[name] / len(_RANK)
            value += 0.8 * (bass != root) + 0.9 * len(missing) + 1.2 * len(extra)
            if scale:
                value += 0.3 * len({(root + i) % 12 for i in quality.intervals} - scale) + 0.3 * (root not in scale)
            words = quality.words + (", without its fifth" if missing else "")
            if bass != root:
                words += ", another note in the bass" if extra else ", inverted"
            out[chord] = Named(chord, value, words)
    return sorted(out.values(), key=lambda n: n.cost)[:count]
