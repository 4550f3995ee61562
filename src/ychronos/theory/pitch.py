"""Note names and their spelling.

Task: turn pitch classes (0 = C .. 11 = B) into written notes and back.
Convention: a written note is a place on the *line of fifths* (F = -1, C = 0, G = 1 ...; seven steps
raise a letter by a sharp), because the spelling that fits a key is the one near its tonic on that line
(Temperley, "The Cognition of Basic Musical Structures", 2001, ch. 5).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from ..tongue import tr

LETTERS_BY_FIFTHS = "FCGDAEB"
_LETTER_PITCH = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
_ACCIDENTALS = {"#": 1, "♯": 1, "b": -1, "♭": -1, "𝄪": 2, "𝄫": -2, "×": 2}
# Fifths below and above the tonic that spell the twelve notes of a key: b2 .. #4.
LOWEST_FIFTH, HIGHEST_FIFTH = -5, 6


@dataclass(frozen=True, order=True)
class Note:
    """A written note without octave, as its place on the line of fifths (C = 0)."""

    fifths: int

    @property
    def letter(self) -> str:
        return LETTERS_BY_FIFTHS[(self.fifths + 1) % 7]

    @property
    def alter(self) -> int:
        """Semitones added to the letter: +1 for a sharp, -1 for a flat."""
        return (self.fifths + 1) // 7

    @property
    def pitch_class(self) -> int:
        return (self.fifths * 7) % 12

    def up(self, semitones: int, steps: int) -> Note:
        """The note so many semitones and letters higher: a minor third is ``up(3, 2)``."""
        natural = Note(((self.fifths + 1 + 2 * steps) % 7) - 1)  # two fifths make one letter
        there = (self.pitch_class + semitones - natural.pitch_class + 6) % 12 - 6
        return Note(natural.fifths + 7 * there)

    def simple(self) -> Note:
        """The note itself, or where it has a double sharp or flat its other name: nobody writes a chord on A double flat."""
        return self if abs(self.alter) < 2 else Note(self.fifths - 12 * (1 if self.alter > 0 else -1))

    def name(self, ascii_only: bool = False) -> str:
        """The name as written, for instance ``B♭`` or ``F♯♯`` (``Bb``, ``F##`` in ASCII)."""
        sharp, flat = ("#", "b") if ascii_only else ("♯", "♭")
        return self.letter + (sharp * self.alter if self.alter > 0 else flat * -self.alter)


def parse_note(text: str) -> tuple[Note, str]:
    """The note at the start of ``text`` and what follows it.

    Raises
    ------
    ValueError
        when the text does not begin with a letter from A to G.
    """
    if not text or text[0].upper() not in _LETTER_PITCH:
        raise ValueError(tr("a note begins with a letter from A to G, not with “{text}”", text=text[:1]))
    letter, alter, at = text[0].upper(), 0, 1
    while at < len(text) and text[at] in _ACCIDENTALS:
        alter += _ACCIDENTALS[text[at]]
        at += 1
    return Note(LETTERS_BY_FIFTHS.index(letter) - 1 + 7 * alter), text[at:]


@lru_cache(maxsize=4096)  # asked for each chord at each step
def spell(pitch_class: int, tonic: Note) -> Note:
    """The note of a pitch class that lies between the flat second and the sharp fourth of a tonic."""
    for step in range(LOWEST_FIFTH, HIGHEST_FIFTH + 1):
        note = Note(tonic.fifths + step)
        if note.pitch_class == pitch_class % 12:
            return note
    raise AssertionError("twelve neighbouring fifths hold every pitch class")


def spell_plain(pitch_class: int) -> Note:
    """The commonest spelling where no key is known: E♭ A♭ B♭ but C♯ F♯."""
    return spell(pitch_class, Note(2))
