"""Keys and modes: names, signatures and the spelling they give to notes."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache

from ..tongue import mark, tr
from .pitch import Note, parse_note, spell

# Semitones of each mode's scale, and its place among the modes of one signature in fifths:
# a mode's signature is that of the major key this many fifths below its tonic.
SCALES: dict[str, tuple[int, ...]] = {
    "major": (0, 2, 4, 5, 7, 9, 11),
    "minor": (0, 2, 3, 5, 7, 8, 10),
    "dorian": (0, 2, 3, 5, 7, 9, 10),
    "mixolydian": (0, 2, 4, 5, 7, 9, 10),
    "phrygian": (0, 1, 3, 5, 7, 8, 10),
    "lydian": (0, 2, 4, 6, 7, 9, 11),
    "harmonic minor": (0, 2, 3, 5, 7, 8, 11),
    "melodic minor": (0, 2, 3, 5, 7, 9, 11),
    "blues": (0, 3, 4, 5, 6, 7, 10),  # both thirds: the home chord is a major one, the tune leans on the minor
}
mark("major"), mark("minor"), mark("dorian"), mark("mixolydian"), mark("phrygian"), mark("lydian")
mark("harmonic minor"), mark("melodic minor"), mark("blues")
MODE_FIFTHS = {
    "major": 0,
    "minor": 3,
    "dorian": 2,
    "mixolydian": 1,
    "phrygian": 4,
    "lydian": -1,
    "harmonic minor": 3,
    "melodic minor": 3,
    "blues": 0,
}
SIX = 6  # signs, of which sharps and flats are equally many
MODE_ALIASES = {
    "maj": "major",
    "ionian": "major",
    "min": "minor",
    "m": "minor",
    "aeolian": "minor",
    "natural minor": "minor",
    "harmonic": "harmonic minor",
    "melodic": "melodic minor",
    "": "major",
}


@dataclass(frozen=True)
class Key:
    """A tonic pitch class (0 = C) and a mode of :data:`SCALES`.

    ``respelled`` writes it with the other name of its tonic: F♯ major for G♭ major.
    """

    tonic: int
    mode: str = "major"
    respelled: bool = False

    def __post_init__(self) -> None:
        if self.mode not in SCALES:
            raise ValueError(f"unknown mode “{self.mode}”")
        if not 0 <= self.tonic < 12:
            raise ValueError(f"a tonic is a pitch class from 0 to 11, not {self.tonic}")

    @property
    def note(self) -> Note:
        """The written tonic: of the possible ones, the one whose signature has fewest sharps or flats."""
        usual = _tonic(self.tonic, self.mode)
        if not self.respelled:
            return usual
        return Note(usual.fifths + (12 if usual.fifths - MODE_FIFTHS[self.mode] <= 0 else -12))

    @property
    def signature(self) -> int:
        """Sharps (positive) or flats (negative)."""
        return self.note.fifths - MODE_FIFTHS[self.mode]

    @property
    def scale(self) -> tuple[int, ...]:
        """Pitch classes of the scale, from the tonic."""
        return tuple((self.tonic + step) % 12 for step in SCALES[self.mode])

    @property
    def minorish(self) -> bool:
        """Whether the home chord is a minor one."""
        return 4 not in SCALES[self.mode]

    def transposed(self, semitones: int) -> Key:
        """The key on another tonic, in its usual spelling."""
        return Key((self.tonic + semitones) % 12, self.mode)

    @property
    def other_name(self) -> Key | None:
        """The key with its other name where that has no more than seven signs, else None."""
        other = self.respell()
        return other if abs(other.signature) <= 7 else None

    def respell(self) -> Key:
        """The same key written with its other name."""
        return Key(self.tonic, self.mode, not self.respelled)

    def beside(self, signs: float) -> Key:
        """The key as it is written beside others that have so many ``signs`` in all, sharps positive: six sharps and six flats weigh
        the same by themselves."""
        return self.respell() if abs(self.signature) == SIX and self.signature * signs < 0 else self

    def spell(self, pitch_class: int) -> Note:
        return spell(pitch_class, self.note)

    def label(self) -> str:
        """Interchange label: ``Eb:minor``."""
        return f"{self.note.name(ascii_only=True)}:{self.mode}"

    def name(self, ascii_only: bool = False) -> str:
        return tr("{tonic} {mode}", tonic=self.note.name(ascii_only), mode=tr(self.mode))


@cache
def _tonic(pitch_class: int, mode: str) -> Note:
    candidates = [Note(f) for f in range(-8, 13) if Note(f).pitch_class == pitch_class]
    # six sharps and six flats weigh the same: flats are taken, for E♭ minor is the commoner name
    return min(candidates, key=lambda n: (abs(n.fifths - MODE_FIFTHS[mode]), n.fifths))


def parse_key(text: str) -> Key:
    """A key from text such as ``E♭ minor``, ``Ebm`` or ``D:dorian``.

    Raises
    ------
    ValueError
        with a sentence for the user when the text names no key.
    """
    note, rest = parse_note(text.strip())
    mode = " ".join(re.sub("[_:-]", " ", rest).lower().split()) if rest.strip() != "M" else "major"
    mode = MODE_ALIASES.get(mode, {tr(m).lower(): m for m in SCALES}.get(mode, mode))
    if mode not in SCALES:
        raise ValueError(
            tr("“{text}” is no mode I know; try one of {scales}", text=rest.strip(), scales=", ".join(SCALES))
        )
    usual = Key(note.pitch_class, mode)
    other = usual.respell()
    return other if other.note == note else usual
