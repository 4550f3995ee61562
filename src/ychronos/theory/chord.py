"""Chords: structure, a forgiving parser, and names.

Task: one value for each chord, many ways to write it. A chord is a root, a quality, degrees added to or left
out of it, and a bass, roots and basses as pitch classes; the spelling comes from the key in which it is shown. Interchange labels follow Harte et
al., "Symbolic representation of musical chords", ISMIR 2005.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

from ..tongue import tr
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
    "maj": Quality("", (0, 4, 7), "maj", tr("major"), ("maj", "M", "major", "ma")),
    "min": Quality("m", (0, 3, 7), "min", tr("minor"), ("min", "-", "mi", "minor")),
    "5": Quality("5", (0, 7), "5", tr("fifth, no third"), ("(no3)", "no3", "power")),
    "6": Quality("6", (0, 4, 7, 9), "maj6", tr("sixth"), ("maj6", "M6", "add6", "(add6)")),
    "min6": Quality("m6", (0, 3, 7, 9), "min6", tr("minor sixth"), ("-6", "min6", "mi6")),
    "69": Quality("6/9", (0, 4, 7, 9, 2), "maj6(9)", tr("six-nine"), ("69", "6(9)", "6add9")),
    "7": Quality("7", (0, 4, 7, 10), "7", tr("seventh"), ("dom7", "dom")),
    "maj7": Quality(
        "maj7", (0, 4, 7, 11), "maj7", tr("major seventh"), ("M7", "Δ", "Δ7", "△", "△7", "ma7", "j7", "^7", "^")
    ),
    "min7": Quality("m7", (0, 3, 7, 10), "min7", tr("minor seventh"), ("-7", "min7", "mi7")),
    "minmaj7": Quality(
        "m(maj7)",
        (0, 3, 7, 11),
        "minmaj7",
        tr("minor with major seventh"),
        ("mmaj7", "mM7", "-Δ", "-maj7", "minmaj7", "mΔ", "m(M7)"),
    ),
    "9": Quality("9", (0, 4, 7, 10, 2), "9", tr("ninth"), ("7(9)",)),
    "maj9": Quality("maj9", (0, 4, 7, 11, 2), "maj9", tr("major ninth"), ("M9", "Δ9", "maj7(9)", "ma9")),
    "min9": Quality("m9", (0, 3, 7, 10, 2), "min9", tr("minor ninth"), ("-9", "min9", "m7(9)", "mi9")),
    "add9": Quality("add9", (0, 4, 7, 2), "maj(9)", tr("added ninth"), ("(add9)", "add2", "(9)", "2", "maj(9)")),
    "minadd9": Quality(
        "m(add9)", (0, 3, 7, 2), "min(9)", tr("minor with added ninth"), ("madd9", "m(9)", "-add9", "min(9)", "madd2")
    ),
    "11": Quality("11", (0, 4, 7, 10, 2, 5), "11", tr("eleventh")),
    "min11": Quality("m11", (0, 3, 7, 10, 2, 5), "min11", tr("minor eleventh"), ("-11", "min11")),
    "13": Quality("13", (0, 4, 7, 10, 2, 9), "13", tr("thirteenth")),
    "maj13": Quality("maj13", (0, 4, 7, 11, 2, 9), "maj13", tr("major thirteenth"), ("M13", "Δ13", "ma13")),
    "min13": Quality("m13", (0, 3, 7, 10, 2, 9), "min13", tr("minor thirteenth"), ("-13", "min13", "mi13")),
    "sus2": Quality("sus2", (0, 2, 7), "sus2", tr("second for the third"), ("(sus2)",)),
    "sus4": Quality("sus4", (0, 5, 7), "sus4", tr("fourth for the third"), ("sus", "(sus4)", "(sus)", "4")),
    "7sus4": Quality(
        "7sus4", (0, 5, 7, 10), "sus4(b7)", tr("seventh with fourth"), ("7sus", "sus7", "sus4(b7)", "7(sus4)")
    ),
    "9sus4": Quality("9sus4", (0, 5, 7, 10, 2), "sus4(b7,9)", tr("ninth with fourth"), ("9sus", "sus9", "9(sus4)")),
    "dim": Quality("°", (0, 3, 6), "dim", tr("diminished"), ("dim", "o", "mb5", "m(b5)", "-b5")),
    "dim7": Quality("°7", (0, 3, 6, 9), "dim7", tr("diminished seventh"), ("dim7", "o7")),
    "hdim7": Quality(
        "ø7",
        (0, 3, 6, 10),
        "hdim7",
        tr("half-diminished"),
        ("ø", "m7b5", "m7(b5)", "-7b5", "-7(b5)", "min7b5", "hdim7", "hdim", "Ø", "Ø7", "0"),
    ),
    "aug": Quality("+", (0, 4, 8), "aug", tr("augmented"), ("aug", "#5", "(#5)", "maj#5")),
    "aug7": Quality(
        "7♯5",
        (0, 4, 8, 10),
        "aug(b7)",
        tr("augmented seventh"),
        ("+7", "aug7", "7#5", "7(#5)", "7+", "aug(b7)"),
    ),
    "7b5": Quality("7♭5", (0, 4, 6, 10), "(1,3,b5,b7)", tr("seventh with flat five"), ("7b5", "7(b5)")),
    "7b9": Quality("7♭9", (0, 4, 7, 10, 1), "7(b9)", tr("seventh with flat nine"), ("7b9", "7(b9)")),
    "7#9": Quality("7♯9", (0, 4, 7, 10, 3), "7(#9)", tr("seventh with sharp nine"), ("7#9", "7(#9)")),
    "7#11": Quality("7♯11", (0, 4, 7, 10, 6), "7(#11)", tr("seventh with sharp eleven"), ("7#11", "7(#11)")),
}
NO_CHORD_NAMES = ("N", "NC", "N.C.", "N.C", "-", "no chord")
_DEGREES = ("1", "b2", "2", "b3", "3", "4", "b5", "5", "b6", "6", "b7", "7")
_DEGREE_STEPS = {"1": 0, "2": 2, "3": 4, "4": 5, "5": 7, "6": 9, "7": 11, "9": 2, "11": 5, "13": 9}
_BY_SET = {frozenset(q.intervals): name for name, q in reversed(QUALITIES.items())}


class ChordError(ValueError):
    """A chord name that cannot be read; the text is a sentence for the user."""


def degree_step(degree: str) -> int:
    """Semitones above the root of a degree such as ``b9``; raises ValueError for no degree."""
    number = degree.lstrip("#b")
    if number not in _DEGREE_STEPS:
        raise ValueError(f"“{degree}” is no degree of a chord")
    signs = degree[: len(degree) - len(number)]
    return (_DEGREE_STEPS[number] + signs.count("#") - signs.count("b")) % 12


def _degree_name(step: int, notes: frozenset[int]) -> str:
    """How an added note is called beside the other notes of its chord."""
    names = {1: "b9", 2: "9", 3: "b3", 4: "3", 5: "11", 6: "b5", 7: "5", 8: "#5", 9: "13", 10: "b7", 11: "7"}
    if step == 3 and 4 in notes:
        return "#9"
    if step == 6 and 7 in notes:
        return "#11"
    if step == 8 and 7 in notes:
        return "b13"
    return names[step]


def _canonical(notes: frozenset[int]) -> tuple[str, tuple[str, ...]]:
    """The quality and the changes of a set of steps above the root: as few changes as can be, those of a
    plainer quality first."""
    if notes in _BY_SET:
        return _BY_SET[notes], ()

    def cost(item: tuple[int, str]) -> tuple[int, int, int]:
        steps = set(QUALITIES[item[1]].intervals)
        added, gone = notes - steps, steps - notes
        count = len(added) + sum(1 if i in (3, 4, 7) else 3 for i in gone)
        if 7 in gone and added & {6, 8}:  # an altered fifth is one change, not two
            count -= 1
        return count, len(added), item[0]

    quality = min(enumerate(QUALITIES), key=cost)[1]
    steps = set(QUALITIES[quality].intervals)
    added = [_degree_name(i, notes) for i in sorted(notes - steps)]
    omitted = ["*" + _degree_name(i, frozenset(steps)) for i in sorted(steps - notes)]
    return quality, (*added, *omitted)


@dataclass(frozen=True)
class Chord:
    """A chord as pitch classes.

    ``root`` is None for "nobody plays a chord" (then ``quality`` is ``"N"``); ``bass`` is None where the
    root is in the bass. ``changes`` are degrees added to the quality (``"11"``, ``"b13"``) or left out of it
    (``"*5"``); whatever is given, the one canonical form is kept: ``maj`` with ``9`` is ``add9``.
    """

    root: int | None
    quality: str = "maj"
    bass: int | None = None
    changes: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if self.root is None:
            if self.quality != "N" or self.bass is not None or self.changes:
                raise ValueError("silence has neither a quality nor a bass")
            return
        if not 0 <= self.root < 12 or (self.bass is not None and not 0 <= self.bass < 12):
            raise ValueError("root and bass are pitch classes from 0 to 11")
        if self.quality not in QUALITIES:
            raise ValueError(f"unknown chord quality “{self.quality}”")
        if self.bass == self.root:
            object.__setattr__(self, "bass", None)
        if self.changes:
            notes = set(QUALITIES[self.quality].intervals)
            for change in self.changes:
                step = degree_step(change.lstrip("*"))
                if step == 0:
                    raise ValueError("the root itself is neither added nor left out")
                if change.startswith("*"):
                    notes.discard(step)
                else:
                    notes.add(step)
            if len(notes) < 2:
                raise ValueError("too little of the chord is left")
            quality, changes = _canonical(frozenset(notes))
            object.__setattr__(self, "quality", quality)
            object.__setattr__(self, "changes", changes)

    @property
    def is_none(self) -> bool:
        return self.root is None

    @property
    def sounding_bass(self) -> int | None:
        return self.root if self.bass is None else self.bass

    @property
    def intervals(self) -> tuple[int, ...]:
        """Steps above the root, the bass not counted, as the quality lists them."""
        if self.root is None:
            return ()
        base = QUALITIES[self.quality].intervals
        if not self.changes:
            return base
        gone = {degree_step(c[1:]) for c in self.changes if c.startswith("*")}
        return (*(i for i in base if i not in gone), *(degree_step(c) for c in self.changes if not c.startswith("*")))

    @property
    def pitch_classes(self) -> frozenset[int]:
        """All that sounds, the bass included."""
        return _pitch_classes(self)

    @property
    def words(self) -> str:
        """What it is in words: ``minor seventh, without the fifth``."""
        if self.root is None:
            return tr("no chord")
        text = QUALITIES[self.quality].words
        altered = {"b5", "#5"} & set(self.changes)
        for change in self.changes:
            if change == "*5" and altered:
                continue
            name = change.lstrip("*").replace("b", "♭").replace("#", "♯")
            text += tr(", without {name}", name=name) if change.startswith("*") else tr(", {name} added", name=name)
        return text

    def transposed(self, semitones: int) -> Chord:
        if self.root is None or semitones % 12 == 0:
            return self
        bass = None if self.bass is None else (self.bass + semitones) % 12
        return Chord((self.root + semitones) % 12, self.quality, bass, self.changes)

    def over(self, bass: int | None) -> Chord:
        """The same chord with another bass; None for the root."""
        return self if self.root is None else Chord(self.root, self.quality, bass, self.changes)

    def spelled(self, key: Key | None = None) -> tuple[Note, Note] | None:
        """Written root and bass in a key; None for no chord."""
        if self.root is None:
            return None
        root = _spell_root(self.root, key, leads=self.quality in LEADING)
        return root, root if self.bass is None else spell_bass(self, root, key)

    def notes(self, root: Note) -> list[Note]:
        """The written notes above a written root, as the quality lists them."""
        return list(_notes(self, root))

    def name(self, key: Key | None = None, ascii_only: bool = False) -> str:
        """The written name, spelled for ``key``: ``F♯m7``, ``B♭/D``, ``N.C.``"""
        spelled = self.spelled(key)
        if spelled is None:
            return "N.C."
        root, bass = spelled
        text = root.name(ascii_only) + QUALITIES[self.quality].suffix + changes_text(self)
        if self.bass is not None:
            text += "/" + bass.name(ascii_only)
        if ascii_only:
            for sign, plain in (("♭", "b"), ("♯", "#"), ("°", "dim"), ("ø7", "m7b5")):
                text = text.replace(sign, plain)
        return text

    def harte(self, key: Key | None = None) -> str:
        """Interchange label with the bass as a degree above the root: ``Bb:min7/b3``, ``N``."""
        return _harte(self, key)


@lru_cache(maxsize=8192)
def _harte(chord: Chord, key: Key | None) -> str:
    spelled = chord.spelled(key)
    if spelled is None:
        return "N"
    shorthand = QUALITIES[chord.quality].harte
    if chord.changes:
        inside = ",".join(chord.changes)
        shorthand = f"{shorthand[:-1]},{inside})" if shorthand.endswith(")") else f"{shorthand}({inside})"
    root, _ = spelled
    text = f"{root.name(ascii_only=True)}:{shorthand}"
    return text if chord.bass is None else f"{text}/{_DEGREES[(chord.bass - root.pitch_class) % 12]}"


@lru_cache(maxsize=8192)
def _pitch_classes(chord: Chord) -> frozenset[int]:
    if chord.root is None:
        return frozenset()
    notes = {(chord.root + i) % 12 for i in chord.intervals}
    return frozenset(notes | ({chord.bass} if chord.bass is not None else set()))


@lru_cache(maxsize=8192)
def _notes(chord: Chord, root: Note) -> tuple[Note, ...]:
    return tuple(root.up(i, _letters(i, chord)) for i in chord.intervals)


def changes_text(chord: Chord) -> str:
    """Added and left out degrees as written after a quality: ``(add11)``, ``(♭13,no5)``."""
    if not chord.changes:
        return ""
    sevenths = {10, 11} & set(QUALITIES[chord.quality].intervals)
    parts = []
    altered = {"b5", "#5"} & set(chord.changes)
    for change in chord.changes:
        if change == "*5" and altered:
            continue
        plain = change.lstrip("*").replace("b", "♭").replace("#", "♯")
        if change.startswith("*"):
            parts.append("no" + plain)
        else:
            parts.append(plain if plain[0] in "♭♯" and (sevenths or change in altered) else "add" + plain)
    return f"({','.join(parts)})"


def _letters(step: int, chord: Chord) -> int:
    """How many letters above the root a step of a chord is written: the ♯9 of a seventh is a second."""
    letters = {0: 0, 1: 1, 2: 1, 3: 2, 4: 2, 5: 3, 6: 4, 7: 4, 8: 4, 9: 5, 10: 6, 11: 6}[step]
    have = chord.intervals
    if step == 3 and 4 in have:
        return 1
    if step == 6 and 7 in have:
        return 3
    if step == 8 and 7 in have:
        return 5
    if step == 9 and 6 in have and 7 not in have:
        return 6  # the seventh of a diminished chord
    return letters


NO_CHORD = Chord(None, "N")
LEADING = ("dim", "dim7", "hdim7", "aug")  # qualities of chords that lead on, mostly by a semitone up


def _spell_root(root: int, key: Key | None, leads: bool = True) -> Note:
    """A root, or a note of the bass, as a key writes it. Half an octave above a minor home a chord that does not lead on, as one from
    below the fifth does, stands on the flat fifth: B♭5 in E minor."""
    if key is None:
        return spell_plain(root)
    if key.minorish and (root - key.tonic) % 12 == 6 and not leads:
        return key.note.up(6, 4).simple()
    return key.spell(root).simple()


def spell_bass(chord: Chord, root: Note, key: Key | None) -> Note:
    """A bass that belongs to the chord, or is its seventh, is spelled from its root; others from the key."""
    assert chord.bass is not None
    step = (chord.bass - root.pitch_class) % 12
    if step in chord.intervals or step in (10, 11):
        note = root.up(step, _letters(step, chord))
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
        raise ChordError(tr("Type a chord, such as Bm7 or F/G, or N for no chord."))
    if text.upper() in (n.upper() for n in NO_CHORD_NAMES):
        return NO_CHORD
    try:
        root, rest = parse_note(text)
    except ValueError as error:
        raise ChordError(tr("No chord yet: {error}.", error=error)) from None
    bass = None
    found = _quality_of(_plain(rest))
    if found is None and "/" in rest:
        rest, _, bass_text = rest.rpartition("/")
        found = _quality_of(_plain(rest))
        if not bass_text:
            raise ChordError(tr("Which note is in the bass? Write it after the slash, as in F/G."))
        try:
            bass_note, left = parse_note(bass_text)
        except ValueError:
            raise ChordError(
                tr("“{bass_text}” is no bass note; write one from A to G after the slash.", bass_text=bass_text)
            ) from None
        if left:
            raise ChordError(
                tr("“{left}” after the bass note {name} is not understood.", left=left, name=bass_note.name())
            )
        bass = bass_note.pitch_class
    if found is None:
        raise ChordError(tr("“{rest}” after {name} is not a chord I know.", rest=rest, name=root.name()))
    try:
        return Chord(root.pitch_class, found[0], bass, found[1])
    except ValueError as error:
        raise ChordError(f"“{text}”: {error}.") from None


_CHANGE = re.compile(r"(add|no|omit|\*)?([#b]{0,2}\d{1,2})")


def _quality_of(suffix: str) -> tuple[str, tuple[str, ...]] | None:
    """Quality and changes of a suffix, or None; the longest quality at its start that leaves only degrees."""
    for candidate in (suffix, suffix.replace("(", "").replace(")", "")):
        known = _known(candidate)
        if known is not None:
            return known, ()
    for stop in range(len(suffix), -1, -1):
        head = suffix[:stop]
        quality = "maj" if stop == 0 else _known(head) or _known(re.sub(r"[(),]", "", head))
        rest = re.sub(r"[(), ]", "", suffix[stop:])
        if quality is None or not rest:
            continue
        changes, at = [], 0
        while at < len(rest):
            match = _CHANGE.match(rest, at)
            if match is None or match.group(2).lstrip("#b") not in _DEGREE_STEPS:
                break
            changes.append(("*" if match.group(1) in ("no", "omit", "*") else "") + match.group(2))
            at = match.end()
        if at == len(rest):
            return quality, _with_replaced(quality, changes)
    return None


def _with_replaced(quality: str, changes: list[str]) -> tuple[str, ...]:
    """An altered fifth takes the place of the plain one."""
    if any(c in ("b5", "#5") for c in changes) and 7 in QUALITIES[quality].intervals:
        return (*changes, "*5")
    return tuple(changes)


def _known(suffix: str) -> str | None:
    if suffix in _SUFFIXES:
        return _SUFFIXES[suffix]
    if "M" not in suffix and suffix.lower() in _SUFFIXES_FOLDED:
        return _SUFFIXES_FOLDED[suffix.lower()]
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
    found = _harte_quality(shorthand or "maj")
    if found is None:
        raise ChordError(f"“{label}” has a quality outside the vocabulary.")
    try:
        bass = None if not degree else (note.pitch_class + degree_step(degree)) % 12
        return Chord(note.pitch_class, found[0], bass, found[1])
    except ValueError as error:
        raise ChordError(f"“{label}”: {error}.") from None


def _harte_quality(shorthand: str) -> tuple[str, tuple[str, ...]] | None:
    if shorthand in _HARTE_QUALITIES:
        return _HARTE_QUALITIES[shorthand], ()
    if not shorthand.endswith(")"):
        return None
    base, _, inside = shorthand[:-1].partition("(")
    degrees = [d for d in inside.split(",") if d]
    for keep in range(len(degrees), -1, -1):  # as many of the degrees as a quality of the table has
        known = f"{base}({','.join(degrees[:keep])})" if keep else base
        if known in _HARTE_QUALITIES:
            return _HARTE_QUALITIES[known], tuple(degrees[keep:])
    return None
