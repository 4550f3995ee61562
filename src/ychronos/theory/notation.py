"""Schools of writing chords, and reading them back.

Names with the field's usual suffixes, with signs (Δ, -, ø), or in plain letters; numbers and Roman numerals
relative to the key. Numbers count from the tonic's major scale (B♭ in C is ♭7), Roman numerals from the scale
of the mode (C in A minor is III), as is the custom of either; a bass is a plain number after a slash.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from ..tongue import tr
from .chord import NO_CHORD, QUALITIES, Chord, ChordError, changes_text, parse_chord
from .key import SCALES, Key
from .pitch import Note

_SIGNS = {
    "min": "-", "min6": "-6", "maj7": "Δ7", "min7": "-7", "minmaj7": "-Δ7", "maj9": "Δ9", "min9": "-9",
    "minadd9": "-(add9)", "min11": "-11", "aug7": "+7",
}  # fmt: skip
_LETTERS = {
    "dim": "dim", "dim7": "dim7", "hdim7": "m7♭5", "aug": "aug", "aug7": "7♯5", "minmaj7": "m(maj7)",
}  # fmt: skip
_UP = str.maketrans("0123456789", "⁰¹²³⁴⁵⁶⁷⁸⁹")
_DOWN = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹", "0123456789")
_ROMAN = ("I", "II", "III", "IV", "V", "VI", "VII")


@dataclass(frozen=True)
class Notation:
    """A school: what it is called, how roots are written ("names", "numbers", "roman"), which suffixes differ
    from the usual ones, how the ninth with a fourth is written: "as is", "slash" (F/G) or "eleventh" (G11), and
    whether B is called H and B♭ is called B (``german``)."""

    words: str
    roots: str = "names"
    suffixes: dict[str, str] = field(default_factory=dict)
    eleventh: str = "as is"
    german: bool = False
    short: str = ""  # within a sentence


SCHOOLS: dict[str, Notation] = {
    "names": Notation(tr("Names: Am7, B♭maj7, Eø7, G9sus4"), short=tr("names")),
    "signs": Notation(tr("Signs: A-7, B♭Δ7, Eø7, G9sus4"), suffixes=_SIGNS, short=tr("signs")),
    "letters": Notation(
        tr("Letters: Am7, B♭maj7, Em7♭5, F/G"), suffixes=_LETTERS, eleventh="slash", short=tr("letters")
    ),
    "elevenths": Notation(
        tr("Letters: Am7, B♭maj7, Em7♭5, G11"), suffixes=_LETTERS, eleventh="eleventh", short=tr("letters")
    ),
    "german": Notation(tr("German names: Hm7, Bmaj7, G9sus4"), german=True, short=tr("german names")),
    "numbers": Notation(tr("Numbers in the key: 6-⁷, ♭7Δ⁷, 5/7"), "numbers", _SIGNS, short=tr("numbers in the key")),
    "roman": Notation(tr("Roman numerals: vi7, ♭VIImaj7, V/7"), "roman", short=tr("roman numerals")),
}


_PLAIN = (
    ("♭", "b"), ("♯", "#"), ("ø7", "m7b5"), ("ø", "m7b5"), ("°", "dim"), ("Δ", "maj"),
)  # fmt: skip


_IN_GERMAN = {"B": "H", "B♯": "H♯", "B♯♯": "H♯♯", "B♭": "B"}  # B♭♭ stays: B♭ is read as what others call so


def note_text(note: Note, school: str = "names") -> str:
    """A note as a school calls it: in German B is H and B♭ is B; all others have the same names everywhere."""
    name = note.name()
    return _IN_GERMAN.get(name, name) if SCHOOLS[school].german else name


def key_text(key: Key, school: str = "names") -> str:
    """The name of a key in a school's note names."""
    return tr("{tonic} {mode}", tonic=note_text(key.note, school), mode=tr(key.mode))


def plain_letters(text: str) -> str:
    """A written chord in the characters of every keyboard."""
    for sign, plain in _PLAIN:
        text = text.replace(sign, plain)
    return text.translate(_DOWN)


def as_slash(chord: Chord) -> Chord:
    """G9sus4 or G11 as F/G; any other chord as it is."""
    if chord.root is not None and chord.quality in ("9sus4", "11") and chord.bass is None and not chord.changes:
        return Chord((chord.root + 10) % 12, "maj", chord.root)
    return chord


def as_eleventh(chord: Chord) -> Chord:
    """F/G or G9sus4 as G11; any other chord as it is."""
    if chord.root is None or chord.changes:
        return chord
    if chord.quality == "9sus4" and chord.bass is None:
        return Chord(chord.root, "11")
    if chord.quality == "maj" and chord.bass == (chord.root + 2) % 12:
        return Chord(chord.bass, "11")
    return chord


def write(chord: Chord, key: Key, school: str = "names", spelled: tuple[Note, Note] | None = None) -> str:
    """A chord as a school writes it; ``spelled`` are root and bass where its neighbours decide them."""
    if chord.root is None:
        return "N.C."
    notation = SCHOOLS[school]
    if notation.eleventh != "as is":
        other = as_slash(chord) if notation.eleventh == "slash" else as_eleventh(chord)
        if other != chord:
            chord, spelled = other, None
    root, bass = spelled or chord.spelled(key) or (Note(0), Note(0))
    suffix = notation.suffixes.get(chord.quality, QUALITIES[chord.quality].suffix) + changes_text(chord)
    if notation.roots == "names":
        tail = f"/{note_text(bass, school)}" if chord.bass is not None else ""
        return note_text(root, school) + suffix + tail
    tail = "" if chord.bass is None else "/" + _degree(bass, key, notation.roots)
    if notation.roots == "numbers":
        return _degree(root, key, "numbers") + suffix.translate(_UP) + tail
    number = _degree(root, key, "roman")
    signs, digit = number[:-1], _ROMAN[int(number[-1]) - 1]
    lower = 3 in chord.intervals and 4 not in chord.intervals
    if lower:  # the small numeral says that it is minor
        suffix = suffix.removeprefix("m")
    return signs + (digit.lower() if lower else digit) + suffix + tail


def _scale(key: Key, roots: str) -> list[int]:
    """Fifths above the tonic of the seven degrees that a school counts from."""
    mode = key.mode if roots == "roman" and len(SCALES[key.mode]) == 7 and key.mode != "blues" else "major"
    if mode in ("harmonic minor", "melodic minor"):
        mode = "minor"
    return [_FIFTHS_OF[step] for step in SCALES[mode]]


_FIFTHS_OF = {0: 0, 1: -5, 2: 2, 3: -3, 4: 4, 5: -1, 6: 6, 7: 1, 8: -4, 9: 3, 10: -2, 11: 5}


def _degree(note: Note, key: Key, roots: str) -> str:
    """``♭7``: a note's place in a scale as signs and a number."""
    tonic = key.note
    letter = ((note.fifths - tonic.fifths) * 4) % 7  # a fifth is four letters
    natural = Note(tonic.fifths + _scale(key, roots)[letter])
    alter = (note.fifths - natural.fifths) // 7
    return ("♯" * alter if alter > 0 else "♭" * -alter) + str(letter + 1)


def _note_of(text: str, key: Key, roots: str) -> Note:
    number = text.lstrip("♭♯b#")
    if len(number) != 1 or number not in "1234567":
        raise ChordError(tr("“{text}” is no degree of the scale.", text=text))
    signs = text[: len(text) - 1]
    alter = sum(1 if s in "♯#" else -1 for s in signs)
    return Note(key.note.fifths + _scale(key, roots)[int(number) - 1] + 7 * alter)


_GERMAN = re.compile(r"(?:^|(?<=/))(?:([Hh])|([Bb])(?![b♭]))")


def _from_german(text: str) -> str:
    """H as B, and B as B♭, where a root or a bass stands."""
    return _GERMAN.sub(lambda m: "B" if m[1] else "Bb", text)


_NUMBER = re.compile(r"^([♭♯b#]*)([1-7])(.*)$")
_NUMERAL = re.compile(r"^([♭♯b#]*)(VII|VI|IV|V|III|II|I|vii|vi|iv|v|iii|ii|i)(.*)$")


def read(text: str, key: Key, school: str = "names") -> Chord:
    """A chord as a school writes it.

    Raises
    ------
    ChordError
        with a sentence when the text is none.
    """
    roots = SCHOOLS[school].roots
    text = text.strip()
    if roots == "names" or text.upper() in ("N", "NC", "N.C."):
        return parse_chord(_from_german(text) if SCHOOLS[school].german else text)
    match = (_NUMBER if roots == "numbers" else _NUMERAL).match(text)
    if match is None:
        raise ChordError(
            tr(
                "“{text}” is no chord in {word}.",
                text=text,
                word=tr("numbers") if roots == "numbers" else tr("Roman numerals"),
            )
        )
    signs, number, rest = match.groups()
    bass = None
    head, slash, tail = rest.rpartition("/")
    if slash and _NUMBER.match(tail) and not (head.endswith("6") and tail == "9"):
        rest, bass = head, _note_of(tail, key, roots).pitch_class
    if roots == "roman":
        degree = str(_ROMAN.index(number.upper()) + 1)
        if number.islower() and not rest.startswith(("°", "ø", "dim")):
            rest = "m" + rest
    else:
        degree, rest = number, rest.translate(_DOWN)
    root = _note_of(signs + degree, key, roots)
    chord = parse_chord("C" + rest)
    if chord.root is None:
        return NO_CHORD
    return Chord(root.pitch_class, chord.quality, bass, chord.changes)
