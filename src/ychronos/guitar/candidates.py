"""Shapes that a chord can be played with on a tuned instrument, those that players reach for first in front.

Method: for each place of the hand on the neck, every string is muted, open or stopped at a fret that gives a note of
the chord; all combinations that hold what the chord cannot do without are measured at once (:mod:`fingering`), and
ordered by effort and by how common they are (``common.json``, a table made for this program).
Conventions: shapes are relative to the capo (see :mod:`fingering`); chords are what sounds.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from importlib import resources
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..theory.chord import Chord, ChordError, parse_chord
from .fingering import MUTED, Fingering, Shape, as_array, fingerings, measure, shape_text
from .instrument import STANDARD, TUNINGS

REACH = 4  # frets beyond the index finger that are tried
HIGHEST = 12  # of the index finger
MOST = 40  # shapes kept of a chord
GROWN = 40_000  # combinations that grow on; six and seven strings have fewer, twelve of a strange tuning millions
# Steps that a voicing may leave out of a chord with more than three notes, the first first.
SPARE = (7, 2, 5, 0)
UNCOMMON = 1.9  # effort that a shape outside the table is worth in addition
LATER = 0.9  # and each place further down in the table
EASE = 0.3  # what effort counts among shapes that everybody knows
_MOVED = 0.5  # a movable form against an open shape of the same rank


@dataclass(frozen=True)
class Candidate:
    """A shape with its fingers; ``common`` says that it is in the table; ``cost`` orders candidates of one chord."""

    shape: Shape
    fingering: Fingering
    common: bool
    cost: float

    @property
    def text(self) -> str:
        return shape_text(self.shape)


def pitches(shape: Shape, strings: Sequence[int], capo: int = 0) -> list[int]:
    """MIDI notes that sound, from the lowest string up."""
    return [s + capo + f for s, f in zip(strings, shape, strict=True) if f is not None]


@cache
def _table() -> dict[str, Any]:
    return dict(json.loads(resources.files(__package__).joinpath("common.json").read_text(encoding="utf-8")))


def _read(text: str) -> Shape:
    return tuple(None if c == "x" else int(c) for c in text)


@cache
def _known(strings: tuple[int, ...]) -> dict[Chord, list[Shape]]:
    """The table's own shapes for a tuning, by the chord that they sound without a capo."""
    table = _table()
    offset = strings[0] - STANDARD[0]
    name = next((n for n, s in TUNINGS.items() if len(s) == len(strings)
                 and {a - b for a, b in zip(strings, s, strict=True)} == {strings[0] - s[0]}), "")  # fmt: skip
    own: dict[str, list[str]]
    if len(strings) == len(STANDARD) and {a - b for a, b in zip(strings, STANDARD, strict=True)} == {offset}:
        own = table["standard"]
    else:
        own = table["tunings"].get(name, {})
        offset = strings[0] - TUNINGS[name][0] if name else 0
    out: dict[Chord, list[Shape]] = {}
    for label, shapes in own.items():
        try:
            chord = parse_chord(label).transposed(offset)
        except ChordError:  # pragma: no cover - the table is tested
            continue
        out.setdefault(chord, []).extend(_read(s) for s in shapes)
    return out


def common_shapes(chord: Chord, strings: tuple[int, ...]) -> list[tuple[Shape, float]]:
    """Shapes of the table for a chord, each with what its place in the table costs."""
    out = [(shape, LATER * i) for i, shape in enumerate(_known(strings).get(chord, []))]
    alike = len(strings) >= 6 and len({a - b for a, b in zip(strings[-6:], STANDARD, strict=True)}) == 1
    if not alike or chord.root is None or chord.bass is not None or chord.changes:
        return out
    extra: tuple[int | None, ...] = (None,) * (len(strings) - 6)
    for i, (form, string) in enumerate(_table()["movable"].get(chord.quality, [])):
        shape = _read(form)
        at = 6 - int(string)
        root = strings[len(extra) + at] + (shape[at] or 0)
        up = (chord.root - root) % 12
        for move in (up, up - 12):
            moved = tuple(None if f is None else f + move for f in shape)
            if all(f is None or f >= 0 for f in moved) and not any(s == (*extra, *moved) for s, _ in out):
                if any(f is not None and f > HIGHEST + REACH for f in moved):
                    continue
                out.append(((*extra, *moved), _MOVED + LATER * (i + 0.5 * (move != up))))
    return out


def known_candidates(chord: Chord, strings: tuple[int, ...]) -> list[Candidate]:
    """Those of the table only, unordered."""
    known = common_shapes(chord, strings)
    if not known:
        return []
    shapes = [shape for shape, _ in known]
    fingers = fingerings(shapes, measure(as_array(shapes)))
    return [
        Candidate(shape, f, True, EASE * f.effort + place)
        for (shape, place), f in zip(known, fingers, strict=True)
        if f is not None
    ]


def needed(chord: Chord) -> tuple[frozenset[int], frozenset[int]]:
    """(pitch classes that may sound, those that must): fifths and some tensions of big chords may be left out."""
    assert chord.root is not None and chord.sounding_bass is not None
    must = set(chord.intervals)
    if {4, 5, 10} <= must:  # an eleventh leaves its third out
        must = {0, 5, 10}
    for spare in SPARE:
        if len(must) > 4 or (spare == 7 and len(must) > 3):
            must.discard(spare)
    return chord.pitch_classes, frozenset({(chord.root + i) % 12 for i in must} | {chord.sounding_bass})


def _all(opens: tuple[int, ...], chord: Chord, free_bass: bool) -> NDArray[np.int_]:
    """(n, strings) every combination that sounds the chord, unplayable ones too.

    All places of the hand grow together, a string at a time; what cannot become a shape any more is dropped at once:
    another lowest note than the bass, more than one muted string between others, too few strings."""
    tones, must = needed(chord)
    wanted = int(sum(1 << p for p in must))
    in_chord = np.isin(np.arange(12), list(tones))
    strings = len(opens)
    fewest = max(min(3, len(must)), (5 if chord.quality == "5" else strings) - 3)
    places = np.arange(1, HIGHEST + 1)
    # columns: muted, open, then the frets that the hand reaches; the index finger must be in use, but for open shapes
    reached = np.concatenate([np.tile([MUTED, 0], (HIGHEST, 1)), places[:, None] + np.arange(REACH + 1)], axis=1)
    place, heard, played, pending, inner = np.arange(HIGHEST), *np.zeros((4, HIGHEST), int)
    index = np.zeros(HIGHEST, bool)  # whether the finger at the place itself is in use
    fretted = np.zeros(HIGHEST, bool)
    grown = np.zeros((HIGHEST, 0), int)
    for k, low in enumerate(opens):
        fits = in_chord[(low + reached) % 12]
        fits[:, 0] = True
        row, column = np.nonzero(fits[place])
        fret = reached[place[row], column]
        sounds = fret != MUTED
        note = (low + np.maximum(fret, 0)) % 12
        keep = played[row] + sounds + strings - k - 1 >= fewest
        if not free_bass:
            keep &= ~sounds | (played[row] > 0) | (note == chord.sounding_bass)
        inside = inner[row] + sounds * pending[row]
        keep &= inside <= 1
        row, column, fret, sounds, note, inner = (x[keep] for x in (row, column, fret, sounds, note, inside))
        before = played[row]
        place, grown = place[row], np.concatenate([grown[row], fret[:, None]], axis=1)
        heard = heard[row] | np.where(sounds, 1 << note, 0)
        played = before + sounds
        pending = np.where(sounds, 0, pending[row] + (before > 0))
        index = index[row] | (column == 2)
        fretted = fretted[row] | (column > 1)
        if len(place) > GROWN:  # those that ask least of the hand so far
            asked = (grown > 0).sum(1) + 0.5 * np.maximum(0, grown - 1 - place[:, None]).sum(1)
            few = np.sort(np.argpartition(asked, GROWN)[:GROWN])
            place, grown, heard, played, pending, inner, index, fretted = (
                x[few] for x in (place, grown, heard, played, pending, inner, index, fretted)
            )
    # a shape without any finger belongs to the first place
    whole = ((heard & wanted) == wanted) & (index | ((place == 0) & ~fretted))
    found: NDArray[np.int_] = grown[whole]
    return found


@lru_cache(maxsize=1024)
def _search(chord: Chord, strings: tuple[int, ...], free_bass: bool) -> tuple[Candidate, ...]:
    known = dict(common_shapes(chord, strings))
    frets = _all(strings, chord, free_bass)
    found = measure(frets)
    # few strings, and top strings that are not heard, are a little less than a whole chord
    few = 0.0 if chord.quality == "5" or len(strings) < 6 else 1.0
    silent, muted_top = (frets < 0).sum(1), (frets[:, ::-1] >= 0).argmax(1)
    cost = found.effort + UNCOMMON + few * (0.22 * silent + 0.3 * muted_top)
    best = [i for i in np.argsort(cost, kind="stable")[:MOST] if np.isfinite(cost[i])]
    shapes = [tuple(None if f < 0 else int(f) for f in frets[i]) for i in best]
    out = [
        Candidate(shape, fingers, False, float(cost[i]))
        for i, shape, fingers in zip(best, shapes, fingerings(shapes, found.at(best)), strict=True)
        if fingers is not None and shape not in known
    ]
    out += known_candidates(chord, strings)
    return tuple(sorted(out, key=lambda c: (c.cost, [f or 0 for f in c.shape])))


def candidates(chord: Chord, strings: tuple[int, ...], capo: int = 0, free_bass: bool = False) -> tuple[Candidate, ...]:
    """Shapes of a sounding chord, the ones to reach for first in front; empty for no chord, or where no hand can.

    The chord's bass is the lowest note, unless ``free_bass``.
    """
    if chord.root is None:
        return ()
    return _search(chord.transposed(-capo), strings, free_bass)


def with_notes(
    found: Sequence[Candidate], strings: Sequence[int], top: int | None, bass: int | None
) -> list[Candidate]:
    """Those candidates whose highest and lowest notes are of the wished pitch classes."""
    out = []
    for c in found:
        notes = pitches(c.shape, strings)
        if (top is None or max(notes) % 12 == top) and (bass is None or min(notes) % 12 == bass):
            out.append(c)
    return out
