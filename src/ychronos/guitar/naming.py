"""What a handful of notes is called: the sensible names, the plainest first, and what else the same notes are."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..theory.chord import QUALITIES, Chord
from ..theory.key import Key
from ..tongue import tr

_THIRDLESS = ("7", "maj7", "9", "add9", "6")


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
    not have, and when at most a fifth (or, in big chords, a ninth) that it has is missing. A seventh or ninth that only
    the bass has is a bass: ``D/C``, not ``D7/C``. Sevenths without a third are named so.
    """
    if not notes:
        return []
    lowest = min(notes)
    bass = lowest % 12
    bass_only = sum(n % 12 == bass for n in notes) == 1
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
            # an outer note alone in the bass is named after the stroke, at little more than an inversion
            value += 0.8 * (bass != root) + 0.9 * len(missing) + (0.35 if bass_only else 1.2) * len(extra)
            tension = (bass - root) % 12 in (1, 2, 5, 8, 9, 10, 11) and bass not in extra
            value += 0.9 * (bass_only and tension and len(have) > 3)
            if scale:
                value += 0.3 * len({(root + i) % 12 for i in quality.intervals} - scale) + 0.3 * (root not in scale)
            words = quality.words + (tr(", without its fifth") if missing else "")
            if bass != root:
                words += tr(", another note in the bass") if extra else tr(", inverted")
            out[chord] = Named(chord, value, words)
        if root in classes and not {(root + 3) % 12, (root + 4) % 12} & classes:
            for chord in _thirdless(root, bass, classes):
                out.setdefault(chord, Named(chord, 1.6 + 0.8 * (bass != root), chord.words))
    return sorted(out.values(), key=lambda n: n.cost)[:count]


def _thirdless(root: int, bass: int, classes: frozenset[int]) -> list[Chord]:
    """Sevenths, ninths and sixths on a root that lack their third and are otherwise what sounds."""
    out = []
    for quality in _THIRDLESS:
        steps = {i for i in QUALITIES[quality].intervals if i not in (3, 4)}
        if classes - {bass} <= {(root + i) % 12 for i in steps} and {(root + i) % 12 for i in steps - {7}} <= classes:
            chord = Chord(root, quality, bass, ("*3",))
            if chord.changes:  # otherwise it is a plain chord of another name, which is there already
                out.append(chord)
    return out


def same_notes(chord: Chord, key: Key | None = None) -> list[Chord]:
    """Other chords with exactly the same notes: ``Am7/C`` for ``C6``, ``Csus2`` for ``Gsus4/C``."""
    if chord.root is None or chord.sounding_bass is None:
        return []
    notes = [48 + chord.sounding_bass, *(60 + p for p in chord.pitch_classes)]
    return [n.chord for n in names(notes, key, 12) if n.chord != chord and n.chord.pitch_classes == chord.pitch_classes]
