"""Tunings and capo: from what sounds to the shape that is played.

A shape is named as it would sound on a guitar in standard tuning without a capo. Only what moves all strings
alike changes the name: a capo makes the shape's name lower than what sounds, a guitar tuned down makes it
higher. Open and dropped tunings change shapes, not names.
Conventions: strings as MIDI notes from the lowest string up; capo as a fret.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..theory.chord import Chord
from ..theory.key import Key
from ..theory.pitch import parse_note
from ..tongue import mark, tr, trn

STANDARD = (40, 45, 50, 55, 59, 64)
BASS = (28, 33, 38, 43)
TUNINGS: dict[str, tuple[int, ...]] = {
    "standard": STANDARD,
    "half step down": tuple(n - 1 for n in STANDARD),
    "whole step down": tuple(n - 2 for n in STANDARD),
    "drop D": (38, 45, 50, 55, 59, 64),
    "double drop D": (38, 45, 50, 55, 59, 62),
    "DADGAD": (38, 45, 50, 55, 57, 62),
    "open G": (38, 43, 50, 55, 59, 62),
    "open D": (38, 45, 50, 54, 57, 62),
    "open E": (40, 47, 52, 56, 59, 64),
    "open C": (36, 43, 48, 55, 60, 64),
    "drop C": (36, 43, 48, 53, 57, 62),
    "baritone": tuple(n - 5 for n in STANDARD),
    "seven strings": (35, *STANDARD),
    "bass": BASS,
    "bass, five strings": (23, *BASS),
}
mark("half step down"), mark("whole step down"), mark("drop D"), mark("double drop D"), mark("open G"), mark("open D")
mark("open E"), mark("open C"), mark("drop C"), mark("baritone"), mark("seven strings"), mark("bass")
mark("bass, five strings"), mark("standard")
HIGHEST_CAPO = 12
SHOWS = (mark("sounding"), mark("shapes"), mark("both"))
LEVEL_IDS = ("recorded", "standard", "no barre", "three fingers", "top strings")


@dataclass(frozen=True)
class GuitarSetup:
    """A guitar as it is tuned, its capo, and which names the sheet shows: one of SHOWS. ``level`` is what its shapes ask
    of a hand (:mod:`hands`); ``left``: diagrams are mirrored for left-handed players; ``from_nut``: frets are counted
    from the nut, not from the capo. ``moved``: the chart is written in another key, so many semitones higher."""

    strings: tuple[int, ...] = STANDARD
    capo: int = 0
    show: str = "sounding"
    level: str = "standard"
    left: bool = False
    from_nut: bool = False
    moved: int = 0

    def __post_init__(self) -> None:
        if not 4 <= len(self.strings) <= 12 or not all(20 <= n <= 90 for n in self.strings):
            raise ValueError("a guitar has 4 to 12 strings between MIDI notes 20 and 90")
        if not 0 <= self.capo <= HIGHEST_CAPO:
            raise ValueError(f"a capo sits at a fret from 0 to {HIGHEST_CAPO}")
        if not -11 <= self.moved <= 11:
            raise ValueError("a chart is moved by less than an octave")
        if self.level not in LEVEL_IDS:
            raise ValueError(f"shapes are one of {', '.join(LEVEL_IDS)}")
        if self.show not in SHOWS:
            raise ValueError(f"chords are shown as one of {', '.join(SHOWS)}")

    @property
    def tuning_name(self) -> str:
        """The tuning's name, or its notes where it has none."""
        known = next((name for name, strings in TUNINGS.items() if strings == self.strings), None)
        return known or self.string_names

    @property
    def string_names(self) -> str:
        """The notes of the open strings without a capo, from the lowest: ``E A D G B E``."""
        return " ".join(_note_name(n) for n in self.strings)

    @property
    def offset(self) -> int:
        """Semitones by which all strings are off standard tuning; 0 where they are not moved alike."""
        for standard in (STANDARD, (35, *STANDARD), BASS, (23, *BASS)):
            if len(standard) == len(self.strings):
                moved = {a - b for a, b in zip(self.strings, standard, strict=True)}
                return moved.pop() if len(moved) == 1 else 0
        return 0

    @property
    def shift(self) -> int:
        """Semitones from what sounds on the record to the name of the shape."""
        return self.moved - self.capo - self.offset

    @property
    def shown_shift(self) -> int:
        """Semitones from what sounds on the record to the names that are shown first."""
        return self.shift if self.show == "shapes" else self.moved

    @property
    def plain(self) -> bool:
        """Whether shapes have the names of what sounds when they are played."""
        return (self.capo + self.offset) % 12 == 0

    def shape(self, chord: Chord) -> Chord:
        """The chord as it is fingered."""
        return chord.transposed(self.shift)

    def sounding(self, shape: Chord) -> Chord:
        """What sounds when a shape is fingered."""
        return shape.transposed(-self.shift)

    def shape_key(self, key: Key) -> Key:
        """The key of the shapes."""
        return self.key_moved(key, self.shift)

    def key_moved(self, key: Key, shift: int) -> Key:
        """A key as it is written so many semitones higher; the very key where it is not moved."""
        if shift % 12 == 0:
            return key
        shapes = Key((key.tonic + shift) % 12, key.mode)
        # six flats or six sharps: on the neck people think of F♯, whose shapes are B and C♯
        return shapes.respell() if shapes.signature == -6 and not shapes.minorish else shapes

    def nut_frets(self, shape: tuple[int | None, ...]) -> tuple[int | None, ...]:
        """Frets counted from the nut of a shape that is counted from the capo."""
        return tuple(None if f is None else f + self.capo for f in shape)

    def same_strings(self, other: GuitarSetup) -> bool:
        """Whether shapes of one are those of the other."""
        return (self.strings, self.capo) == (other.strings, other.capo)

    @property
    def usual(self) -> bool:
        """Whether it is in standard tuning without a capo."""
        return self.strings == STANDARD and not self.capo and not self.moved

    def brief(self) -> str:
        """``capo 2``, ``drop D, capo 2``: what is not standard."""
        parts = [tr(self.tuning_name)] if self.tuning_name != "standard" else []
        parts += [tr("capo {capo}", capo=self.capo)] if self.capo else []
        parts += [self.moved_words()] if self.moved else []
        return ", ".join(parts) or tr("standard tuning")

    def moved_words(self) -> str:
        """``written 2 semitones higher``, "" where the chart is in the record's key."""
        far = abs(self.moved)
        if self.moved > 0:
            return trn("written {count} semitone higher", "written {count} semitones higher", far, count=far)
        return trn("written {count} semitone lower", "written {count} semitones lower", far, count=far) if far else ""

    def describe(self) -> str:
        """``standard tuning, capo 2``."""
        tuning = tr("standard tuning") if self.tuning_name == "standard" else tr(self.tuning_name)
        text = tr("{tuning}, capo {capo}", tuning=tuning, capo=self.capo) if self.capo else tuning
        return f"{text}, {self.moved_words()}" if self.moved else text


def _note_name(midi: int) -> str:
    return ("C", "C♯", "D", "E♭", "E", "F", "F♯", "G", "A♭", "A", "B♭", "B")[midi % 12]


def parse_strings(text: str) -> tuple[int, ...]:
    """Strings from a tuning's name or from notes, lowest first, as ``D A D G A D``; each note is taken in the
    octave nearest to the string's standard one.

    Raises
    ------
    ValueError
        with a sentence when the text is no tuning.
    """
    text = " ".join(text.split())
    for name, strings in TUNINGS.items():
        if text.lower() in (name.lower(), tr(name).lower()):
            return strings
    notes: list[int] = []
    rest = text.replace(" ", "")
    while rest:
        try:
            note, rest = parse_note(rest)
        except ValueError:
            raise ValueError(
                tr("“{text}” is no tuning; name its strings from the lowest, as D A D G B E", text=text)
            ) from None
        notes.append(note.pitch_class)
    standards = {4: BASS, 5: (23, *BASS), 6: STANDARD, 7: (35, *STANDARD)}
    if len(notes) not in standards:
        raise ValueError(
            tr("A bass has four or five strings here, a guitar six or seven, not {count}.", count=len(notes))
        )
    return tuple(s + (n - s + 6) % 12 - 6 for n, s in zip(notes, standards[len(notes)], strict=True))
