"""What a chord does in its key: at home in it, or where it comes from.

A reading is words a player understands (“secondary dominant of Dm”), found by rules in the order in which a
teacher would try them: of the key, a dominant or leading-tone chord of the next, a passing diminished chord,
a line within a chord that stays, borrowed from another mode on the same tonic. Neighbours decide, so whole
sequences are read (Kostka and Payne, "Tonal Harmony", chapters on secondary functions and mode mixture).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..tongue import tr
from .chord import Chord
from .key import SCALES, Key
from .notation import write

INSIDE = ("of the key", "no chord")
_LENDERS = {  # modes on the same tonic, the commonest lender first
    False: ("minor", "mixolydian", "dorian", "lydian", "phrygian", "harmonic minor"),
    True: ("dorian", "major", "phrygian", "mixolydian", "harmonic minor", "lydian"),
}


@dataclass(frozen=True)
class Reading:
    """``kind`` is one of a few words, ``words`` a phrase for the user, ``numeral`` its place in the key."""

    kind: str
    words: str
    numeral: str

    @property
    def outside(self) -> bool:
        """Whether the chord does not belong to its key."""
        return self.kind not in INSIDE


def scale_of(key: Key) -> frozenset[int]:
    """The notes that are at home in a key; in minor also the raised seventh."""
    notes = set(key.scale)
    if key.mode == "minor":
        notes.add((key.tonic + 11) % 12)
    return frozenset(notes)


def belongs(chord: Chord, key: Key) -> bool:
    """Whether a chord is made of the key's notes; colours above the seventh may lie outside it."""
    if chord.root is None:
        return True
    steps = [i for i in chord.intervals if i not in (1, 2, 5) or chord.quality in ("sus2", "sus4", "7sus4", "9sus4")]
    notes = {(chord.root + i) % 12 for i in steps}
    if key.mode == "blues":
        return (chord.root - key.tonic) % 12 in (0, 5, 7) and chord.quality in ("maj", "7", "9", "13", "6", "7#9", "5")
    if key.mode == "minor":
        raised = (key.tonic + 11) % 12
        home = scale_of(key)
        # the raised seventh stands in the chords on five and seven only
        return notes <= home and (raised not in notes or (chord.root - key.tonic) % 12 in (7, 11))
    return notes <= set(key.scale)


def readings(chords: Sequence[Chord], keys: Sequence[Key]) -> list[Reading]:
    """A reading for each chord of a sequence; ``keys`` is the key at each."""
    return [
        read_one(
            c,
            keys[i],
            chords[i - 1] if i else None,
            chords[i + 1] if i + 1 < len(chords) else None,
        )
        for i, c in enumerate(chords)
    ]


def read_one(chord: Chord, key: Key, before: Chord | None = None, after: Chord | None = None) -> Reading:
    """The reading of one chord between its neighbours."""
    if chord.root is None:
        return Reading(tr("no chord"), tr("nobody plays a chord"), "")
    numeral = write(chord, key, "roman")
    if belongs(chord, key):
        raised = key.mode == "minor" and (key.tonic + 11) % 12 in chord.pitch_classes
        words = tr("of {name}", name=key.name()) + (tr(", with its raised seventh") if raised else "")
        return Reading("of the key", words, numeral)
    before = before if before is not None and before.root is not None else None
    after = after if after is not None and after.root is not None else None
    return (
        _line(chord, key, before, after, numeral)
        or _leading(chord, key, before, after, numeral)
        or _dominant(chord, key, after, numeral)
        or _borrowed(chord, key, numeral)
        or _unresolved(chord, key, numeral)
        or Reading("from outside", tr("from outside {name}", name=key.name()), numeral)
    )


def _named(root: int, key: Key) -> str:
    """The key's own triad on a root, named."""
    return _triad(root, key).name(key)


def _triad(root: int, key: Key) -> Chord:
    scale = set(key.scale)
    third = "min" if (root + 3) % 12 in scale and (root + 4) % 12 not in scale else "maj"
    if third == "min" and (root + 7) % 12 not in scale and (root + 6) % 12 in scale:
        return Chord(root, "dim")
    return Chord(root, third)


def _dominant_like(chord: Chord) -> bool:
    return 4 in chord.intervals and 11 not in chord.intervals


def _dominant(chord: Chord, key: Key, after: Chord | None, numeral: str) -> Reading | None:
    assert chord.root is not None
    if not _dominant_like(chord) or after is None or after.root is None:
        return None
    name = _plain_name(after, key)
    if after.root == (chord.root + 5) % 12 and after.root in key.scale and after.root != key.tonic:
        return Reading(
            "secondary dominant", tr("secondary dominant: leads to {name}", name=name), f"V/{_numeral_of(after, key)}"
        )
    if 10 in chord.intervals and after.root == (chord.root + 11) % 12 and after.root in scale_of(key):
        return Reading("substitute", tr("dominant from a tritone away: falls to {name}", name=name), numeral)
    return None


def _unresolved(chord: Chord, key: Key, numeral: str) -> Reading | None:
    assert chord.root is not None
    target = (chord.root + 5) % 12
    if _dominant_like(chord) and target in key.scale and target != key.tonic:
        name = _named(target, key)
        return Reading(
            "secondary dominant", tr("secondary dominant of {name} that does not go there", name=name), numeral
        )
    return None


def _leading(chord: Chord, key: Key, before: Chord | None, after: Chord | None, numeral: str) -> Reading | None:
    assert chord.root is not None
    if chord.quality not in ("dim", "dim7", "hdim7"):
        return None
    if after is not None and (chord.root + 1) % 12 in (after.root, after.sounding_bass):
        name = _plain_name(after, key)
        if (chord.root + 1) % 12 != after.root:  # it rises to the bass of an inversion
            return Reading(
                "passing diminished", tr("passing diminished chord, up to {name}", name=after.name(key)), numeral
            )
        if before is not None and before.sounding_bass in ((chord.root - 1) % 12, chord.root):
            words = tr("passing diminished chord between {plain} and {name}", plain=_plain_name(before, key), name=name)
            return Reading("passing diminished", words, numeral)
        return Reading(
            "leading-tone chord", tr("leading-tone chord of {name}", name=name), f"vii°/{_numeral_of(after, key)}"
        )
    if after is not None and (chord.root - 1) % 12 in (after.root, after.sounding_bass):
        return Reading(
            "passing diminished",
            tr("passing diminished chord, down to {plain}", plain=_plain_name(after, key)),
            numeral,
        )
    for other in (after, before):
        if other is not None and other.root == chord.root:
            return Reading(
                "passing diminished", tr("diminished chord around {plain}", plain=_plain_name(other, key)), numeral
            )
    return None


def _line(chord: Chord, key: Key, before: Chord | None, after: Chord | None, numeral: str) -> Reading | None:
    """One voice moves by steps while the rest of a chord stays."""
    for other in (before, after):
        if other is None or other.root != chord.root or other.intervals == chord.intervals:
            continue
        gone = other.pitch_classes - chord.pitch_classes
        come = chord.pitch_classes - other.pitch_classes
        if len(come) <= 1 and len(gone) <= 1 and 3 <= len(chord.intervals) <= 4 and 4 not in {len(come | gone)}:
            plain = Chord(chord.root, "min" if 3 in chord.intervals else "maj")
            return Reading("line", tr("a line moves within {name}", name=plain.name(key)), numeral)
    return None


def _borrowed(chord: Chord, key: Key, numeral: str) -> Reading | None:
    for mode in _LENDERS[key.minorish]:
        if mode != key.mode and set(SCALES[mode]) != set(SCALES[key.mode]):
            lender = Key(key.tonic, mode)
            if belongs(chord, lender):
                return Reading("borrowed", tr("borrowed from {name}", name=lender.name()), numeral)
    return None


def _plain_name(chord: Chord, key: Key) -> str:
    """A neighbour named short: its triad."""
    assert chord.root is not None
    kind = "min" if 3 in chord.intervals and 4 not in chord.intervals else "maj"
    if kind == "min" and 6 in chord.intervals and 7 not in chord.intervals:
        kind = "dim"
    return Chord(chord.root, kind).name(key)


def _numeral_of(chord: Chord, key: Key) -> str:
    assert chord.root is not None
    kind = "min" if 3 in chord.intervals and 4 not in chord.intervals else "maj"
    return write(Chord(chord.root, kind), key, "roman")
