"""The song: everything decided about a recording and everything stated by the user.

Values are immutable; an edit makes a new song. The chord spans, key spans and sections each tile the grid
from its first bar line to its end without gaps.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import cached_property

from ..guitar.tuning import GuitarSetup
from ..theory.chord import NO_CHORD, Chord
from ..theory.key import Key
from ..theory.notation import SCHOOLS, plain_letters, write
from ..theory.spelling import spell_in_line
from .grid import Grid, Position

ARTICULATIONS = ("strummed", "held", "stopped")  # played on; struck once and left to ring; cut short
DOUBTFUL = 0.6  # a decided chord less probable than this is worth a second listen


@dataclass(frozen=True)
class RecordingRef:
    """Which recording a song belongs to."""

    path: str
    sha256: str
    duration: float
    note: str = ""


@dataclass(frozen=True)
class PitchGround:
    """Where A is on the record: cents from 440 Hz.

    ``tape_cents`` is how many of them are corrected by the speed it is played at (0: it is played as it is);
    ``corrected_clock`` says that times are shown as those of the corrected record. All times in the model are
    those of the original record, always.
    """

    cents: float = 0.0
    confidence: float = 0.0
    tape_cents: float = 0.0
    corrected_clock: bool = False

    @property
    def stretch(self) -> float:
        """Length of the record as played against the original's."""
        return float(2 ** (self.tape_cents / 1200))

    def speed_words(self) -> str:
        """How the record is played where its tape is corrected: ``2.0 % slower``."""
        return f"{abs((1 / self.stretch - 1) * 100):.1f} % {'slower' if self.tape_cents > 0 else 'faster'}"


@dataclass(frozen=True)
class ChordSpan:
    """A chord from a position on; it lasts to the next span.

    ``rivals`` are other readings with their probabilities, the best first. ``stated`` chords come from the
    user and are never changed by the analysis. ``unsure`` is the user's own mark. ``articulation`` is one of
    ARTICULATIONS; ``again`` says that a change to the same chord is meant: it is struck anew;
    ``follows``: a statement in another pass led to it.
    """

    start: Position
    chord: Chord
    confidence: float = 1.0
    rivals: tuple[tuple[Chord, float], ...] = ()
    stated: bool = False
    unsure: bool = False
    comment: str = ""
    articulation: str = "strummed"
    again: bool = False
    follows: bool = False

    def __post_init__(self) -> None:
        if self.articulation not in ARTICULATIONS:
            raise ValueError(f"a chord is one of {', '.join(ARTICULATIONS)}, not “{self.articulation}”")

    @property
    def doubtful(self) -> bool:
        return self.unsure or (not self.stated and not self.chord.is_none and self.confidence < DOUBTFUL)


@dataclass(frozen=True)
class KeySpan:
    """A key from a position on."""

    start: Position
    key: Key
    confidence: float = 1.0
    stated: bool = False


@dataclass(frozen=True)
class Section:
    """A section from a bar line on; ``material`` is a letter, the same for the same music; ``material_stated``
    says that the user told what it is the same as."""

    start: Position
    name: str
    material: str = ""
    confidence: float = 1.0
    stated: bool = False
    material_stated: bool = False


@dataclass(frozen=True)
class Mark:
    """A place to come back to, with a note."""

    at: Position
    text: str = ""


@dataclass(frozen=True)
class Entry:
    """One line of the record of what was decided: ISO time, and what and why in words."""

    when: str
    what: str


@dataclass(frozen=True)
class Song:
    """All that is known of one recording; see the module's docstring for what must hold."""

    title: str
    recording: RecordingRef
    grid: Grid
    chords: tuple[ChordSpan, ...]
    keys: tuple[KeySpan, ...]
    sections: tuple[Section, ...]
    artist: str = ""
    ground: PitchGround = PitchGround()
    guitar: GuitarSetup = field(default_factory=GuitarSetup)
    notation: str = "names"
    checked: frozenset[Position] = frozenset()
    marks: tuple[Mark, ...] = ()
    log: tuple[Entry, ...] = field(default=())

    def __post_init__(self) -> None:
        if self.notation not in SCHOOLS:
            raise ValueError(f"unknown way of writing chords “{self.notation}”")
        for name, spans in (("chords", self.chords), ("keys", self.keys), ("sections", self.sections)):
            _check_tiling(name, [s.start for s in spans], self.grid.end)
        lines = set(self.grid.starts)
        for section in self.sections:
            if section.start not in lines:
                raise ValueError(f"section “{section.name}” does not start on a bar line")

    # ------------------------------------------------------------ looking things up

    @cached_property
    def chord_starts(self) -> tuple[Position, ...]:
        return tuple(s.start for s in self.chords)

    def chord_index(self, position: Position) -> int:
        return max(0, bisect_right(self.chord_starts, position) - 1)

    def chord_range(self, index: int) -> tuple[Position, Position]:
        end = self.chords[index + 1].start if index + 1 < len(self.chords) else self.grid.end
        return self.chords[index].start, end

    def key_at(self, position: Position) -> Key:
        return _at(self.keys, position).key

    def section_index(self, position: Position) -> int:
        return max(0, bisect_right([s.start for s in self.sections], position) - 1)

    def section_range(self, index: int) -> tuple[Position, Position]:
        end = self.sections[index + 1].start if index + 1 < len(self.sections) else self.grid.end
        return self.sections[index].start, end

    def pass_number(self, index: int) -> int:
        """Which time this section's name comes, from 1."""
        name = self.sections[index].name
        return sum(1 for s in self.sections[: index + 1] if s.name == name)

    def passes(self, name: str) -> int:
        return sum(1 for s in self.sections if s.name == name)

    def neighbours(self, index: int) -> tuple[Chord | None, Chord | None]:
        """The chords before and after one, None where nobody plays."""
        before = self.chords[index - 1].chord if index else None
        after = self.chords[index + 1].chord if index + 1 < len(self.chords) else None
        return (
            before if before is not None and not before.is_none else None,
            after if after is not None and not after.is_none else None,
        )

    def chord_name(self, index: int, ascii_only: bool = False) -> str:
        """The chord's name in the key that holds there, spelled among its neighbours, in the song's notation."""
        return self._written(index, self.key_at(self.chords[index].start), 0, ascii_only)

    def shape_name(self, index: int, ascii_only: bool = False) -> str:
        """The name of the chord's shape on the guitar as it is set up."""
        key = self.guitar.shape_key(self.key_at(self.chords[index].start))
        return self._written(index, key, self.guitar.shift, ascii_only)

    def _written(self, index: int, key: Key, shift: int, ascii_only: bool) -> str:
        chord = self.chords[index].chord.transposed(shift)
        if chord.root is None:
            return "N.C."
        before, after = (c.transposed(shift) if c else None for c in self.neighbours(index))
        text = write(chord, key, self.notation, spell_in_line(chord, key, before, after))
        return plain_letters(text) if ascii_only else text

    def note_name(self, index: int, pitch_class: int) -> str:
        """A note beside a chord: spelled as the chord has it, else as the key does."""
        span = self.chords[index]
        key = self.key_at(span.start)
        if span.chord.root is not None:
            root, bass = spell_in_line(span.chord, key, *self.neighbours(index))
            for note in (*span.chord.notes(root), bass):
                if note.pitch_class == pitch_class:
                    return note.name()
        return key.spell(pitch_class).name()

    def name_of(self, chord: Chord, position: Position) -> str:
        """What any chord would be called at a position."""
        return write(chord, self.key_at(position), self.notation)

    def shown_clock(self, seconds: float) -> float:
        """A time of the original record as it is shown to the user."""
        return seconds * self.ground.stretch if self.ground.corrected_clock else seconds

    def main_key(self) -> Key:
        """The key that holds longest."""
        ends = [*[k.start for k in self.keys[1:]], self.grid.end]
        weight: dict[Key, Fraction] = {}
        for span, end in zip(self.keys, ends, strict=True):
            weight[span.key] = weight.get(span.key, Fraction(0)) + end - span.start
        return max(weight, key=lambda k: weight[k])

    def bar_checked(self, index: int) -> bool:
        """A bar counts as checked when the user said so, or stated every chord in it."""
        start, end = self.grid.bar_range(index)
        if start in self.checked:
            return True
        first, last = self.chord_index(start), self.chord_index(end - Fraction(1, 64))
        return all(s.stated and not s.unsure for s in self.chords[first : last + 1])

    def checked_bars(self) -> int:
        return sum(self.bar_checked(i) for i in range(len(self.grid.bars)))

    def doubts(self) -> list[int]:
        """Indexes of doubtful chords, the most costly (long and improbable) first."""
        cost: dict[int, float] = {}
        for i, span in enumerate(self.chords):
            if span.doubtful:
                start, end = self.chord_range(i)
                cost[i] = float(end - start) * (1.5 if span.unsure else 1 - span.confidence)
        return sorted(cost, key=lambda i: -cost[i])


def _check_tiling(name: str, starts: Sequence[Position], end: Position) -> None:
    if not starts or starts[0] != 0:
        raise ValueError(f"the {name} do not begin at the first bar line")
    if any(b <= a for a, b in zip(starts, starts[1:], strict=False)) or starts[-1] >= end:
        raise ValueError(f"the {name} are not in order within the grid")


def _at(spans: tuple[KeySpan, ...], position: Position) -> KeySpan:
    return spans[max(0, bisect_right([s.start for s in spans], position) - 1)]


def blank_song(title: str, recording: RecordingRef, grid: Grid) -> Song:
    """A song of which only the grid is known."""
    zero = Fraction(0)
    return Song(
        title=title,
        recording=recording,
        grid=grid,
        chords=(ChordSpan(zero, NO_CHORD, 0.0),),
        keys=(KeySpan(zero, Key(0), 0.0),),
        sections=(Section(zero, "Song"),),
    )


def logged(song: Song, when: str, what: str) -> Song:
    return replace(song, log=(*song.log, Entry(when, what)))
