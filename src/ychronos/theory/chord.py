"""Chords: structure, a forgiving parser, and names.

Task: one value for each chord, many ways to write it. A chord is a root, a quality and a bass, all as
pitch classes; the spelling comes from the key in which it is shown. Interchange labels follow Harte et
al., "Symbolic representation of musical chords", ISMIR 2005.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from .key import Key
from .pitch import Note, parse_note, spell_plain


@dataclass(frozen=True)
class Quality:
    """What stands on a root: written suffix, intervals in semitones, Harte shorthand, words."""

    suffix: str
    intervals: tuple[int, ...]
    harte: str
    words: str
    aliases: tuple[str, ...] = ()


# The key of the table is the quality's one canonical form in the model and in files.
QUALITIES: dict[str, Quality] = {
    "maj": Quality("", (0, 4, 7), "maj", "major", ("maj", "M", "major", "ma")),
    "min": Quality("m", (0, 3, 7), "min", "minor", ("min", "-", "mi", "minor")),
    "5": Quality("5", (0, 7), "5", "fifth, no third", ("(no3)", "no3", "power")),
    "6": Quality("6", (0, 4, 7, 9), "maj6", "sixth", ("maj6", "M6", "add6", "(add6)")),
    "min6": Quality("m6", (0, 3, 7, 9), "min6", "minor sixth", ("-6", "min6", "mi6")),
    "69": Quality("6/9", (0, 4, 7, 9, 2), "maj6(9)", "six-nine", ("69", "6(9)", "6add9")),
    "7": Quality("7", (0, 4, 7, 10), "7", "seventh", ("dom7", "dom")),
    "maj7": Quality(
        "maj7", (0, 4, 7, 11), "maj7", "major seventh", ("M7", "Δ", "Δ7", "△", "△7", "ma7", "j7", "^7", "^")
    ),
    "min7": Quality("m7", (0, 3, 7, 10), "min7", "minor seventh", ("-7", "min7", "mi7")),
    "minmaj7": Quality(
        "m(maj7)",
        (0, 3, 7, 11),
        "minmaj7",
        "minor with major seventh",
        ("mmaj7", "mM7", "-Δ", "-maj7", "minmaj7", "mΔ", "m(M7)"),
    ),
    "9": Quality("9", (0, 4, 7, 10, 2), "9", "ninth", ("7(9)",)),
    "maj9": Quality("maj9", (0, 4, 7, 11, 2), "maj9", "major ninth", ("M9", "Δ9", "maj7(9)", "ma9")),
    "min9": Quality("m9", (0, 3, 7, 10, 2), "min9", "minor ninth", ("-9", "min9", "m7(9)", "mi9")),
    "add9": Quality("add9", (0, 4, 7, 2), "maj(9)", "added ninth", ("(add9)", "add2", "(9)", "2", "maj(9)")),
    "minadd9": Quality(
        "m(add9)", (0, 3, 7, 2), "min(9)", "minor with added ninth", ("madd9", "m(9)", "-add9", "min(9)", "madd2")
    ),
    "11": Quality("11", (0, 4, 7, 10, 2, 5), "11", "eleventh"),
    "min11": Quality("m11", (0, 3, 7, 10, 2, 5), "min11", "minor eleventh", ("-11", "min11")),
    "13": Quality("13", (0, 4, 7, 10, 2, 9), "13", "thirteenth"),
    "sus2": Quality("sus2", (0, 2, 7), "sus2", "second for the third", ("(sus2)",)),
    "sus4": Quality("sus4", (0, 5, 7), "sus4", "fourth for the third", ("sus", "(sus4)", "(sus)", "4")),
    "7sus4": Quality(
        "7sus4", (0, 5, 7, 10), "sus4(b7)", "seventh with fourth", ("7sus", "sus7", "sus4(b7)", "7(sus4)")
    ),
    "9sus4": Quality("9sus4", (0, 5, 7, 10, 2), "sus4(b7,9)", "ninth with fourth", ("9sus", "sus9", "9(sus4)")),
    "dim": Quality("°", (0, 3, 6), "dim", "diminished", ("dim", "o", "mb5", "m(b5)", "-b5")),
    "dim7": Quality("°7", (0, 3, 6, 9), "dim7", "diminished seventh", ("dim7", "o7")),
    "hdim7": Quality(
        "ø7",
        (0, 3, 6, 10),
        "hdim7",
        "half-diminished",
        ("ø", "m7b5", "m7(b5)", "-7b5", "-7(b5)", "min7b5", "hdim7", "hdim", "Ø", "Ø7", "0"),
    ),
    "aug": Quality("+", (0, 4, 8), "aug", "augmented", ("aug", "#5", "(#5)", "maj#5")),
    "aug7": Quality(
        "7♯5",
        (0, 4, 8, 10),
        "aug(b7)",
        "augmented seventh",
        ("+7", "aug7", "7#5", "7(#5)", "7+", "7b13", "7(b13)", "aug(b7)"),
    ),
    "7b5": Quality("7♭5", (0, 4, 6, 10), "(1,3,b5,b7)", "seventh with flat five", ("7b5", "7(b5)")),
    "7b9": Quality("7♭9", (0, 4, 7, 10, 1), "7(b9)", "seventh with flat nine", ("7b9", "7(b9)")),
    "7#9": Quality("7♯9", (0, 4, 7, 10, 3), "7(#9)", "seventh with sharp nine", ("7#9", "7(#9)")),
    "7#11": Quality("7♯11", (0, 4, 7, 10, 6), "7(#11)", "seventh with sharp eleven", ("7#11", "7(#11)")),
}
NO_CHORD_NAMES = ("N", "NC", "N.C.", "N.C", "-", "no chord")
_DEGREES = ("1", "b2", "2", "b3", "3", "4", "b5", "5", "b6", "6", "b7", "7")


class ChordError(ValueError):
    """A chord name that cannot be read; the text is a sentence for the user."""


@dataclass(frozen=True)
class Chord:
    """A chord as pitch classes.

    ``root`` is None for "nobody plays a chord" (then ``quality`` is ``"N"``); ``bass`` is None where the
    root is in the bass.
    """

    root: int | None
    quality: str = "maj"
    bass: int | None = None

    def __post_init__(self) -> None:
        if self.root is None:
            if self.quality != "N" or self.bass is not None:
                raise ValueError("silence has neither a quality nor a bass")
            return
        if not 0 <= self.root < 12 or (self.bass is not None and not 0 <= self.bass < 12):
            raise ValueError("root and bass are pitch classes from 0 to 11")
        if self.quality not in QUALITIES:
            raise ValueError(f"unknown chord quality “{self.quality}”")
        if self.bass == self.root:
            object.__setattr__(self, "bass", None)

    @property
    def is_none(self) -> bool:
        return self.root is None

    @property
    def sounding_bass(self) -> int | None:
        return self.root if self.bass is None else self.bass

    @property
    def pitch_classes(self) -> frozenset[int]:
        """All that sounds, the bass included."""
        if self.root is None:
            return frozenset()
        notes = {(self.root + i) % 12 for i in QUALITIES[self.quality].intervals}
        return frozenset(notes | ({self.bass} if self.bass is not None else set()))

    def transposed(self, semitones: int) -> Chord:
        if self.root is None:
            return self
        bass = None if self.bass is None else (self.bass + semitones) % 12
        return Chord((self.root + semitones) % 12, self.quality, bass)

    def name(self, key: Key | None = None, ascii_only: bool = False) -> str:
        """The written name, spelled for ``key``: ``F♯m7``, ``B♭/D``, ``N.C.``"""
        if self.root is None:
            return "N.C."
        root = _spell_root(self.root, key)
        text = root.name(ascii_only) + QUALITIES[self.quality].suffix
        if self.bass is not None:
            text += "/" + _spell_bass(self, root, key).name(ascii_only)
        if ascii_only:
            for sign, plain in (("♭", "b"), ("♯", "#"), ("°", "dim"), ("ø7", "m7b5")):
                text = text.replace(sign, plain)
        return text

    def harte(self, key: Key | None = None) -> str:
        """Interchange label with the bass as a degree above the root: ``Bb:min7/b3``, ``N``."""
        if self.root is None:
            return "N"
        text = f"{_spell_root(self.root, key).name(ascii_only=True)}:{QUALITIES[self.quality].harte}"
        return text if self.bass is None else f"{text}/{_DEGREES[(self.bass - self.root) % 12]}"


NO_CHORD = Chord(None, "N")


def _spell_root(root: int, key: Key | None) -> Note:
    return spell_plain(root) if key is None else key.spell(root)


def _spell_bass(chord: Chord, root: Note, key: Key | None) -> Note:
    """A bass that belongs to the chord is spelled as a third, fifth or seventh of its root."""
    assert chord.bass is not None
    step = (chord.bass - root.pitch_class) % 12
    fifths = {1: -5, 2: 2, 3: -3, 4: 4, 5: -1, 6: -6, 7: 1, 8: -4, 9: 3, 10: -2, 11: 5}[step]
    if step in {i % 12 for i in QUALITIES[chord.quality].intervals} or step == 10:
        note = Note(root.fifths + (8 if step == 8 else fifths))
        if abs(note.alter) < 2:
            return note
    return _spell_root(chord.bass, key)


def _plain(suffix: str) -> str:
    """A suffix in the plainest characters, so that one table serves every way of typing it."""
    for sign, plain in (("♭", "b"), ("♯", "#"), (" ", ""), ("º", "°")):
        suffix = suffix.replace(sign, plain)
    return suffix


_SUFFIXES: dict[str, str] = {}
for _name, _quality in QUALITIES.items():
    for _alias in (_quality.suffix, _quality.harte, *_quality.aliases):
        _SUFFIXES.setdefault(_plain(_alias), _name)
_SUFFIXES_FOLDED = {k.lower(): v for k, v in _SUFFIXES.items() if "M" not in k}


def parse_chord(text: str) -> Chord:
    """A chord from what people write: ``Bm7b5``, ``Bø``, ``B-7(b5)``, ``CΔ``, ``F/G``, ``Gsus``, ``NC``.

    Raises
    ------
    ChordError
        with one sentence that says which part is not understood.
    """
    text = text.strip()
    if not text:
        raise ChordError("Type a chord, such as Bm7 or F/G, or N for no chord.")
    if text.upper() in (n.upper() for n in NO_CHORD_NAMES):
        return NO_CHORD
    try:
        root, rest = parse_note(text)
    except ValueError as error:
        raise ChordError(f"No chord yet: {error}.") from None
    bass = None
    quality = _quality_of(_plain(rest))
    if quality is None and "/" in rest:
        rest, _, bass_text = rest.rpartition("/")
        quality = _quality_of(_plain(rest))
        if not bass_text:
            raise ChordError("Which note is in the bass? Write it after the slash, as in F/G.")
        try:
            bass_note, left = parse_note(bass_text)
        except ValueError:
            raise ChordError(f"“{bass_text}” is no bass note; write one from A to G after the slash.") from None
        if left:
            raise ChordError(f"“{left}” after the bass note {bass_note.name()} is not understood.")
        bass = bass_note.pitch_class
    if quality is None:
        raise ChordError(f"“{rest}” after {root.name()} is not a chord I know.")
    return Chord(root.pitch_class, quality, bass)


def _quality_of(suffix: str) -> str | None:
    for candidate in (suffix, suffix.replace("(", "").replace(")", "")):
        if candidate in _SUFFIXES:
            return _SUFFIXES[candidate]
        if "M" not in candidate and candidate.lower() in _SUFFIXES_FOLDED:
            return _SUFFIXES_FOLDED[candidate.lower()]
    return None


_HARTE = re.compile(r"^([A-G][b#]*)(?::([^/]*))?(?:/(.+))?$")
_HARTE_QUALITIES = {q.harte: name for name, q in QUALITIES.items()}


def parse_harte(label: str) -> Chord:
    """A chord from an interchange label; raises ChordError for one outside the vocabulary."""
    if label in ("N", "X"):
        return NO_CHORD
    match = _HARTE.match(label)
    if not match:
        raise ChordError(f"“{label}” is no chord label.")
    root, shorthand, degree = match.groups()
    note, _ = parse_note(root)
    quality = _HARTE_QUALITIES.get(shorthand or "maj")
    if quality is None:
        raise ChordError(f"“{label}” has a quality outside the vocabulary.")
    bass = None
    if degree:
        number = re.sub(r"[^0-9]", "", degree)
        steps = {"1": 0, "2": 2, "3": 4, "4": 5, "5": 7, "6": 9, "7": 11, "9": 2, "11": 5, "13": 9}
        if number not in steps:
            raise ChordError(f"“{label}” has a bass that is no degree.")
        bass = (note.pitch_class + steps[number] + degree.count("#") - degree.count("b")) % 12
    return Chord(note.pitch_class, quality, bass)
