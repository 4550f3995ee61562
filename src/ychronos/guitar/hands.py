"""Which shapes a whole song is played with: one path of least effort over the shapes of its chords.

Method: every chord name gets the shape that is easiest to hold, to reach from its neighbours and, where the record was
heard, likeliest to have been played; then dynamic programming over all changes (Viterbi, as in chord decoding) lets a
single place depart from it where that saves more than a second shape of one name costs. What the user chose is fixed.
Levels bound what a hand may be asked; what a simpler shape leaves out is kept with it.
Conventions: chords are what sounds, shapes are relative to the capo (:mod:`fingering`).
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..theory.chord import QUALITIES, Chord
from ..tongue import tr
from .candidates import Candidate, candidates
from .fingering import Fingering, Shape, finger, measure

FIRST = 12  # candidates of a chord that are looked at
NEAR = 5  # of them that a single place may have
MOVE = 0.22  # effort of moving the hand a fret
STAY = 0.18  # effort that a finger saves that stays
TWO_SHAPES = 1.1  # effort of having a second shape of one name
UNHELD = 3.0  # effort of a chord that nobody can hold
Heard = Callable[[Chord, Sequence[int]], float]


@dataclass(frozen=True)
class Level:
    """What a hand may be asked: ``fingers`` at most, a ``barre`` over at most so many strings, only so many ``top``
    strings (0 for all); ``listens``: the record has a say."""

    id: str
    words: str
    tip: str
    fingers: int = 4
    barre: int = 12
    top: int = 0
    listens: bool = False


LEVELS: tuple[Level, ...] = (
    Level("recorded", tr("as on the record"), tr("The shapes that agree best with what is heard"), listens=True),
    Level("standard", tr("standard"), tr("What most players reach for first")),
    Level("no barre", tr("no barre"), tr("No finger lies across more than two strings"), barre=2),
    Level("three fingers", tr("three fingers"), tr("At most three fingers, no barre"), fingers=3, barre=0),
    Level("top strings", tr("top strings"), tr("The four highest strings only"), fingers=3, barre=0, top=4),
)


def level_of(name: str) -> Level:
    """A level by its id; the first where there is none of that name."""
    return next((x for x in LEVELS if x.id == name), LEVELS[0])


@dataclass(frozen=True)
class Held:
    """How one chord of the song is held: ``played`` is what the shape sounds, ``lost`` the pitch classes of the chord
    that it leaves out, ``stated``: the user chose it."""

    shape: Shape
    effort: float
    barre: int
    wide: bool
    played: Chord
    lost: frozenset[int]
    stated: bool = False
    fingers: tuple[int, ...] = ()  # as the user chose them


def simpler(chord: Chord) -> Iterator[Chord]:
    """A chord and what may stand for it, the nearest first: without its other bass, without tensions, as a triad, as a
    fifth."""
    seen: list[Chord] = []

    def fresh(c: Chord) -> bool:
        new = c not in seen
        seen.append(c)
        return new

    root = chord.root
    assert root is not None
    steps = set(chord.intervals)
    plain = Chord(root, chord.quality, None, chord.changes)
    third = "maj" if 4 in steps else "min" if 3 in steps else "sus4" if 5 in steps else "sus2" if 2 in steps else "5"
    if 6 in steps and 3 in steps and 7 not in steps:
        third = "dim"
    elif 8 in steps and 4 in steps and 7 not in steps:
        third = "aug"
    seventh = {("maj", 10): "7", ("maj", 11): "maj7", ("min", 10): "min7", ("min", 11): "minmaj7", ("sus4", 10): "7sus4",
               ("dim", 10): "hdim7", ("dim", 9): "dim7"}  # fmt: skip
    middle = next((seventh[third, s] for s in (10, 11, 9) if s in steps and (third, s) in seventh), None)
    for quality in (middle, third):
        if quality is not None:
            for bass in (chord.bass, None):
                seen_bass = bass if bass is None or (bass - root) % 12 in QUALITIES[quality].intervals else None
                for c in (chord, plain, Chord(root, quality, seen_bass)):
                    if fresh(c):
                        yield c
    if 7 in steps and fresh(Chord(root, "5")):
        yield Chord(root, "5")


Found = tuple[tuple[Candidate, Chord], ...]  # shapes, each with the chord that it is
Asked = tuple[Chord, tuple[int, ...], int, Level]  # chord, strings, capo, level
KEPT = 4096  # chords whose shapes are kept
_KNOWN: dict[Asked, Found] = {}


def options(chord: Chord, strings: tuple[int, ...], capo: int, level: Level) -> Found:
    """The shapes that a level allows for a chord, with the chord that they are; simpler chords where it allows none.
    A search of some ten milliseconds the first time, then kept."""
    asked = (chord, strings, capo, level)
    found = _KNOWN.get(asked)
    if found is None:
        found = _options(*asked)
        learn({asked: found})
    return found


def unknown(chords: Sequence[Chord], strings: tuple[int, ...], capo: int, level: Level) -> list[Asked]:
    """What of :func:`options` would have to be searched for a song's chords."""
    asked = [(c, strings, capo, level) for c in dict.fromkeys(chords) if c.root is not None]
    return [a for a in asked if a not in _KNOWN]


def learn(found: Mapping[Asked, Found]) -> None:
    """Keep what :func:`options` gave, here or in another process."""
    while _KNOWN and len(_KNOWN) + len(found) > KEPT:
        _KNOWN.pop(next(iter(_KNOWN)), None)
    _KNOWN.update(found)


def _options(chord: Chord, strings: tuple[int, ...], capo: int, level: Level) -> Found:
    if chord.root is None:
        return ()
    silent = max(0, len(strings) - level.top) if level.top else 0
    for c in simpler(chord):
        found = candidates(c, strings[silent:], capo, free_bass=bool(silent))
        allowed = [
            Candidate((*(None,) * silent, *x.shape), x.fingering, x.common, x.cost) if silent else x
            for x in found
            if x.fingering.count <= level.fingers
            and (x.fingering.barre is None or x.fingering.barre.strings <= level.barre)
        ]
        if allowed:
            return tuple((x, c) for x in allowed[: FIRST if not level.listens else 2 * FIRST])
    return ()


def lost_notes(chord: Chord, played: Chord, shape: Shape, strings: Sequence[int], capo: int) -> frozenset[int]:
    """Pitch classes of a chord that a simpler one for it does not sound; fifths that any voicing may leave out and
    notes of the chord itself that its own usual shapes leave out do not count."""
    sounding = {(s + capo + f) % 12 for s, f in zip(strings, shape, strict=True) if f is not None}
    gone = chord.pitch_classes - sounding
    lowest = next(((s + capo + f) % 12 for s, f in zip(strings, shape, strict=True) if f is not None), None)
    out = set(gone) if played != chord else set()
    if chord.bass is not None and lowest != chord.bass:
        out.add(chord.bass)
    assert chord.root is not None
    return frozenset(out - ({(chord.root + 7) % 12} if len(set(chord.intervals)) > 3 else set()))


def _place(shape: Shape) -> float:
    """Where the hand is: the fret of the index finger; open chords are about the first."""
    fretted = [f for f in shape if f]
    return float(min(fretted)) if fretted else 1.0


@lru_cache(maxsize=65536)
def reach(a: Shape, b: Shape) -> float:
    """Effort of going from one shape to another: how far the hand moves, less for fingers that stay."""
    if a == b:
        return 0.0
    stay = sum(1 for x, y in zip(a, b, strict=True) if x and x == y)
    return max(0.0, 0.5 + MOVE * abs(_place(a) - _place(b)) - STAY * stay)


@lru_cache(maxsize=2048)
def _ways(before: tuple[Shape, ...], after: tuple[Shape, ...]) -> NDArray[np.float64]:
    """(before, after) effort of going from each shape to each."""
    return np.array([[reach(a, b) for b in after] for a in before])


def hold(
    chords: Sequence[Chord],
    strings: tuple[int, ...],
    capo: int = 0,
    level: Level = LEVELS[1],
    fixed: Mapping[int, Shape] | None = None,
    heard: Heard | None = None,
) -> list[Held | None]:
    """The shapes of a song's chords in order; None where nobody plays, or no hand can.

    ``fixed`` are shapes that the user chose, by index. ``heard`` gives what the record says for a chord's MIDI notes, as
    a logarithm of odds; it counts where the level listens.
    """
    listens = heard if level.listens else None
    way = _hold_again if listens is None else _hold
    return list(way(tuple(chords), strings, capo, level, tuple(sorted((fixed or {}).items())), listens))


def _hold(
    chords: tuple[Chord, ...],
    strings: tuple[int, ...],
    capo: int,
    level: Level,
    chosen: tuple[tuple[int, Shape], ...],
    heard: Heard | None,
) -> tuple[Held | None, ...]:
    fixed = dict(chosen)
    names = list(dict.fromkeys(c for c in chords if c.root is not None))
    found = {c: options(c, strings, capo, level) for c in names}
    prices: dict[Chord, NDArray[np.float64]] = {}
    for c in names:
        price = np.array([x.cost for x, _ in found[c]])
        if heard is not None and level.listens and len(price):
            price = price - np.array([heard(c, _notes(x.shape, strings, capo)) for x, _ in found[c]])
        prices[c] = price
    home = _homes(chords, names, found, prices, fixed)
    return tuple(_path(chords, strings, capo, found, prices, home, fixed))


_hold_again = lru_cache(maxsize=16)(_hold)  # most statements leave the chords in their order, and views ask again


def _notes(shape: Shape, strings: Sequence[int], capo: int) -> list[int]:
    return [s + capo + f for s, f in zip(strings, shape, strict=True) if f is not None]


Of = Mapping[Chord, Found]  # the shapes of each name


def _homes(
    chords: Sequence[Chord],
    names: Sequence[Chord],
    found: Of,
    prices: Mapping[Chord, NDArray[np.float64]],
    fixed: Mapping[int, Shape],
) -> dict[Chord, int]:
    """One shape for each name: iterated, each name given those of the others (Besag's conditional modes)."""
    count = Counter(c for c in chords if c.root is not None)
    pairs: Counter[tuple[Chord, Chord]] = Counter()
    for a, b in zip(chords, chords[1:], strict=False):
        if a.root is not None and b.root is not None and a != b:
            pairs[a, b] += 1
    home = {c: int(prices[c].argmin()) for c in names if len(prices[c])}
    beside: dict[Chord, Counter[Chord]] = {c: Counter() for c in names}
    for (a, b), n in pairs.items():
        beside[a][b] += n
        beside[b][a] += n
    for _ in range(4):
        changed = False
        for c in home:
            cost = prices[c] * count[c]
            for other, n in beside[c].items():
                if other in home:
                    there = found[other][home[other]][0].shape
                    cost = cost + n * np.array([reach(x.shape, there) for x, _ in found[c]])
            best = int(cost.argmin())
            changed |= best != home[c]
            home[c] = best
        if not changed:
            break
    return home


def _path(
    chords: Sequence[Chord],
    strings: tuple[int, ...],
    capo: int,
    found: Of,
    prices: Mapping[Chord, NDArray[np.float64]],
    home: Mapping[Chord, int],
    fixed: Mapping[int, Shape],
) -> list[Held | None]:
    near: dict[Chord, tuple[tuple[Shape, ...], NDArray[np.float64]]] = {}
    for c in home:  # the shapes of a name that are weighed, and their prices
        apart = np.full(len(prices[c]), TWO_SHAPES)
        apart[home[c]] = 0.0
        first = np.argsort(prices[c] + apart, kind="stable")[:NEAR]
        near[c] = tuple(found[c][k][0].shape for k in first), (prices[c] + apart)[first]
    steps: list[tuple[int, tuple[Shape, ...], NDArray[np.float64]]] = []
    for i, c in enumerate(chords):
        if i in fixed:
            steps.append((i, (fixed[i],), np.zeros(1)))
        elif c in near:
            steps.append((i, *near[c]))
    best: list[NDArray[np.int_]] = []
    total: NDArray[np.float64] | None = None
    for n, (_, shapes, price) in enumerate(steps):
        if total is None:
            total, came = price, np.zeros(len(shapes), int)
        else:
            over = total[:, None] + _ways(steps[n - 1][1], shapes)
            came = over.argmin(0)
            total = over[came, np.arange(len(shapes))] + price
        best.append(came)
    out: list[Held | None] = [None] * len(chords)
    made: dict[tuple[Chord, Shape, bool], Held] = {}
    if total is None:
        return out
    k = int(total.argmin())
    for n in range(len(steps) - 1, -1, -1):
        i, shapes, _ = steps[n]
        known = (chords[i], shapes[k], i in fixed)
        if known not in made:
            made[known] = _held(chords[i], shapes[k], strings, capo, found.get(chords[i], ()), i in fixed)
        out[i] = made[known]
        k = int(best[n][k])
    return out


def _held(
    chord: Chord,
    shape: Shape,
    strings: tuple[int, ...],
    capo: int,
    found: Sequence[tuple[Candidate, Chord]],
    stated: bool,
) -> Held:
    fingers, span = _in_hand(shape, capo)
    played = chord if stated else next((c for x, c in found if x.shape == shape), chord)
    lost = frozenset() if stated else lost_notes(chord, played, shape, strings, capo)
    if fingers is None:  # a shape of the user's that this model of a hand cannot hold
        return Held(shape, UNHELD + 6, 0, True, played, lost, stated)
    barre = fingers.barre.strings if fingers.barre else 0
    return Held(shape, fingers.effort, barre, span > 95.0, played, lost, stated)


@lru_cache(maxsize=4096)
def _in_hand(shape: Shape, capo: int) -> tuple[Fingering | None, float]:
    """How a shape is fingered, and how far the hand is stretched in mm: with a capo the frets lie closer."""
    return finger(shape, 0), float(measure(_row(shape), capo).span[0])


def _row(shape: Shape) -> NDArray[np.int_]:
    return np.array([[-1 if f is None else f for f in shape]])


def effort_of(held: Sequence[Held | None]) -> float:
    """Effort of a whole path: holding each chord and going to the next."""
    shapes = [h for h in held if h is not None]
    return sum(h.effort for h in shapes) + sum(
        reach(a.shape, b.shape) for a, b in zip(shapes, shapes[1:], strict=False)
    )


def lost_lines(chords: Sequence[Chord], held: Sequence[Held | None]) -> list[tuple[int, tuple[int, ...]]]:
    """Lines that move by step through the chords and that a simpler way through the song loses a note of:
    (index of the first chord, pitch classes), the longest first, each once."""
    out: dict[tuple[int, ...], int] = {}
    n = len(chords)
    for start in range(n):
        for way in (-1, 1):
            for first in sorted(chords[start].pitch_classes):
                line, i = [first], start
                lost = _gone(held[start], first)
                while i + 1 < n:
                    after = chords[i + 1].pitch_classes
                    step = next((s for s in (1, 2) if (line[-1] + way * s) % 12 in after), None)
                    if step is None or (line[-1] in after and step == 2):
                        break
                    i += 1
                    line.append((line[-1] + way * step) % 12)
                    lost |= _gone(held[i], line[-1])
                if len(line) >= 3 and lost and tuple(line) not in out:
                    out[tuple(line)] = start
    kept: list[tuple[int, ...]] = []
    for notes in sorted(out, key=lambda x: -len(x)):
        if not any(_inside(notes, other) for other in kept):
            kept.append(notes)
    return [(out[notes], notes) for notes in kept]


def _gone(held: Held | None, note: int) -> bool:
    return held is not None and note in held.lost


def _inside(short: tuple[int, ...], long: tuple[int, ...]) -> bool:
    return any(long[k : k + len(short)] == short for k in range(len(long) - len(short) + 1))
