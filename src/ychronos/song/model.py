"""The song: everything decided about a recording and everything stated by the user.

Values are immutable; an edit makes a new song. The chord spans, key spans and sections each tile the grid
from its first bar line to its end without gaps. They are shown as they stand here: decisions with the user's
``statements`` laid over them (:mod:`merge`); what marks them as stated is read off the statements.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import cached_property
from itertools import accumulate, pairwise
from typing import Any, TypeVar

from ..guitar import hands, setups
from ..guitar.fretting import Fretting
from ..guitar.hands import Held
from ..guitar.instrument import STANDARD, GuitarSetup
from ..guitar.odds import HeardNotes
from ..guitar.setups import Choice
from ..guitar.tab import Spot, spots
from ..theory.chord import NO_CHORD, Chord
from ..theory.key import Key
from ..theory.notation import SCHOOLS, key_text, note_text, plain_letters, write
from ..theory.pitch import Note
from ..theory.spelling import spell_in_line
from ..tongue import tr
from . import sectionnames, strumming
from . import statements as said
from .bassnotes import BassNote
from .closing import Closing
from .grid import Grid, Position
from .linenotes import LineNote, Plucked
from .noted import KINDS, Noted
from .statements import ARTICULATIONS, Statement, Statements
from .strumming import Strummed
from .track import Placed, Track

S = TypeVar("S", bound=Placed)
SIGNS = {"strummed": "", "held": "◊", "stopped": "•"}  # written after a chord's name
PLAIN_SIGNS = {"": "", "◊": "<>", "•": "!"}  # in the characters of every keyboard
# A name of a section less probable than this is shown with a question mark: of 30 such names 7 were right, above .75 four in five.
NAME_DOUBTFUL = 0.65
DOUBTFUL = 0.6  # a decided chord less probable than this is worth a second listen


@dataclass(frozen=True)
class RecordingRef:
    """Which recording a song belongs to. ``path`` is where it seems to be, ``known`` where it was last seen for sure,
    "" where that is the same."""

    path: str
    sha256: str
    duration: float
    note: str = ""
    known: str = ""


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
        return f"{abs((1 / self.stretch - 1) * 100):.1f} % {tr('slower') if self.tape_cents > 0 else tr('faster')}"


# How likely a chord rings, or is cut short, where that is in doubt; and from which on it is shown so.
RINGS_MAYBE, RINGS_SURE = 0.3, 0.6


@dataclass(frozen=True)
class ChordSpan:
    """A chord from a position on; it lasts to the next span.

    ``rivals`` are other readings with their probabilities, the best first. ``stated`` chords come from the
    user and are never changed by the analysis. ``unsure`` is the user's own mark. ``articulation`` is one of
    ARTICULATIONS, ``rings`` and ``cut`` how likely it sounded struck once and left to ring, or cut short; ``again`` says that a change to the same chord
    is meant: it is struck anew;
    ``follows``: a statement in another pass led to it. ``spelling`` is how the user typed it: the fifths of root and
    bass (None for the root), and how many semitones away from what sounds shapes were then.
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
    spelling: tuple[int, int | None, int] | None = None
    rings: float = 0.0
    cut: float = 0.0
    how_stated: bool = False

    def __post_init__(self) -> None:
        if self.articulation not in ARTICULATIONS:
            raise ValueError(f"a chord is one of {', '.join(ARTICULATIONS)}, not “{self.articulation}”")

    @property
    def doubtful(self) -> bool:
        return self.unsure or (not self.stated and not self.chord.is_none and self.confidence < DOUBTFUL)

    @property
    def ring_doubtful(self) -> bool:
        """Whether it may ring or not, and nobody has said so."""
        return not self.how_stated and RINGS_MAYBE <= self.rings < RINGS_SURE

    @property
    def cut_doubtful(self) -> bool:
        """Whether it may be cut short or not, and nobody has said so."""
        return not self.how_stated and RINGS_MAYBE <= self.cut < RINGS_SURE

    @property
    def how_heard(self) -> str:
        """The one of ARTICULATIONS that it sounded like."""
        return "held" if self.rings >= RINGS_SURE else "stopped" if self.cut >= RINGS_SURE else "strummed"


@dataclass(frozen=True)
class KeySpan:
    """A key from a position on."""

    start: Position
    key: Key
    confidence: float = 1.0
    stated: bool = False


@dataclass(frozen=True)
class Section:
    """A section from a position on, usually a bar line; ``material`` is a letter, the same for the same music.
    ``stated``: the user let it begin there, ``material_stated``: told what it is the same as, ``named``: named it."""

    start: Position
    name: str
    material: str = ""
    confidence: float = 1.0
    stated: bool = False
    material_stated: bool = False
    named: bool = False
    sure: float = 1.0  # of the name

    @property
    def title(self) -> str:
        """Its name as it is read."""
        return sectionnames.said(self.name)

    @property
    def name_doubtful(self) -> bool:
        """Whether it may well be called otherwise."""
        return not self.named and self.sure < NAME_DOUBTFUL


@dataclass(frozen=True)
class Mark:
    """A place to come back to, with a note."""

    at: Position
    text: str = ""

    @property
    def start(self) -> Position:
        return self.at


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
    chords: Track[ChordSpan]
    keys: Track[KeySpan]
    sections: Track[Section]
    statements: Statements = ()
    artist: str = ""
    ground: PitchGround = PitchGround()
    guitar: GuitarSetup = field(default_factory=GuitarSetup)
    second: GuitarSetup | None = None  # another guitar that plays along elsewhere on the neck
    heard: HeardNotes = field(default_factory=HeardNotes)  # what the record says of the notes of its chords
    strummed: Strummed = field(default_factory=Strummed)  # what the strumming hand does, as heard
    bassline: tuple[BassNote, ...] = ()  # the bass as it is played, as heard
    closing: Closing = field(default_factory=Closing)  # how the record ends, as heard
    sung: tuple[tuple[float, float], ...] = ()  # seconds of the record from and to which somebody sings, as heard
    notation: str = "names"
    log: tuple[Entry, ...] = field(default=())
    unknown: Mapping[str, Any] = field(default_factory=dict, compare=False)  # of a project file, kept on saving

    def __post_init__(self) -> None:
        if self.notation not in SCHOOLS:
            raise ValueError(f"unknown way of writing chords “{self.notation}”")
        for name in ("chords", "keys", "sections"):
            track = getattr(self, name)
            if not isinstance(track, Track):
                track = Track(track)
                object.__setattr__(self, name, track)
            _check_tiling(name, track.floats, self.grid.beat_count)

    # ------------------------------------------------------------ looking things up

    @property
    def chord_starts(self) -> tuple[Position, ...]:
        return self.chords.starts

    def chord_index(self, position: Position) -> int:
        return self.chords.index_at(position)

    def chord_range(self, index: int) -> tuple[Position, Position]:
        return self.chords.range_of(index, self.grid.end)

    def key_at(self, position: Position) -> Key:
        return self.keys.at(position).key

    def section_index(self, position: Position) -> int:
        return self.sections.index_at(position)

    def section_range(self, index: int) -> tuple[Position, Position]:
        return self.sections.range_of(index, self.grid.end)

    def section_bars(self, index: int) -> range:
        """The bars of a section: from the first that begins in it. The bar that it begins inside of belongs to the
        section before; the count-in to none."""
        grid = self.grid
        start, end = self.section_range(index)
        first, last = (min(bisect_left(grid.starts, x), len(grid.bars)) for x in (start, end))
        return range(max(first, grid.lead_in if index == 0 else 0), last)

    def section_of_bar(self, bar: int) -> int:
        """The section in which a bar begins."""
        return self.section_index(self.grid.bar_range(bar)[0])

    @cached_property
    def marks(self) -> Track[Mark]:
        return Track(Mark(s.at, s.value) for s in said.of(self.statements, "mark"))

    @cached_property
    def notes(self) -> Track[Noted]:
        """All notes with words, in order of their places: cues, advice, doubts with their reasons, private ones."""
        found = [Noted(s.at, *s.value) for s in said.of(self.statements, "note")]
        found += [Noted(c.start, "doubt", c.comment) for c in self.chords if c.unsure and c.comment]
        found += [Noted(m.at, "private", m.text) for m in self.marks if m.text]
        return Track(sorted(found, key=lambda n: (n.at, list(KINDS).index(n.kind))))

    def notes_of_bar(self, bar: int, kinds: Collection[str] = tuple(KINDS)) -> list[Noted]:
        """Notes of some kinds that stand in a bar."""
        return [n for n in self._of_bar(self.notes, bar) if n.kind in kinds]

    @cached_property
    def lyrics(self) -> Track[Mark]:
        """The words of the song, each where they begin."""
        return Track(Mark(s.at, s.value) for s in said.of(self.statements, "lyric"))

    def lyrics_of_bar(self, bar: int) -> list[Mark]:
        """Words that begin in a bar."""
        return self._of_bar(self.lyrics, bar)

    def _of_bar(self, track: Track[S], bar: int) -> list[S]:
        """What of a track begins in a bar."""
        if not track:
            return []
        first, last = (bisect_left(track.starts, p) for p in self.grid.bar_range(bar))
        return list(track[first:last])

    @cached_property
    def line(self) -> Track[Plucked]:
        """The notes of lines, each where it begins; those at one place from the lowest string."""
        return Track(Plucked(s.at, s.value) for s in said.of(self.statements, "line"))

    def line_of_bar(self, bar: int) -> list[Plucked]:
        """Notes of lines that begin in a bar."""
        return self._of_bar(self.line, bar)

    def spot_of(self, note: LineNote) -> Spot:
        """Where a note of a line lies on the guitar as it is set up now: on its string, or where that cannot be on another one,
        at last on the string that comes nearest."""
        guitar = self.guitar
        found = spots(note.note + guitar.moved, guitar.strings, guitar.capo)
        if found:
            return min(found, key=lambda s: (abs(s.string - note.string), s.fret))
        return Spot(min(note.string, len(guitar.strings) - 1), 0)

    def figure_of_bar(self, bar: int) -> str:
        """What the strumming hand does in a bar, as stated or as heard, "" where that is not known (:mod:`strumming`)."""
        beats = self.grid.bars[bar].beats
        word = said.at(self.statements, "figure", self.grid.bar_range(bar)[0])
        if word is not None and strumming.fits(word.value, beats):
            return str(word.value)
        heard = self.strummed.of(bar)
        return heard if strumming.fits(heard, beats) else ""

    def paired_in(self, bar: int) -> bool:
        """Whether two guitars play the strokes of a bar, as stated or as heard."""
        word = said.at(self.statements, "paired", self.grid.bar_range(bar)[0])
        return bar in self.strummed.paired if word is None else bool(word.value)

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

    # ------------------------------------------------------------ names: every one that anybody reads comes from here

    def chord_name(self, index: int, ascii_only: bool = False) -> str:
        """A chord's name as it is shown: of what sounds, of the shape under the capo, or of both as ``Gm (Em)``; in
        the key that holds there, spelled as typed or among its neighbours, in the song's notation."""
        name, shape = self.chord_names(index, ascii_only)
        return f"{name} ({shape})" if shape else name

    def chord_names(self, index: int, ascii_only: bool = False) -> tuple[str, str]:
        """The name as it is shown, and that of the shape where both are shown and differ."""
        if self.guitar.show == "shapes":
            return self.shape_name(index, ascii_only), ""
        name = self.sounding_name(index, ascii_only)
        both = self.guitar.show == "both" and not self.guitar.plain and not self.chords[index].chord.is_none
        shape = self.shape_name(index, ascii_only) if both else ""
        return name, shape if shape != name else ""

    def sign(self, index: int, ascii_only: bool = False) -> str:
        """What is written after a chord's name where it is not strummed on: ◊ it rings, • it is cut short."""
        sign = SIGNS[self.chords[index].articulation]
        return PLAIN_SIGNS[sign] if ascii_only else sign

    def sounding_name(self, index: int, ascii_only: bool = False) -> str:
        """The name of what sounds; in the key that the chart is written in, where that is another."""
        return self._written(index, self.guitar.moved, ascii_only)

    def shape_name(self, index: int, ascii_only: bool = False) -> str:
        """The name of the chord's shape on the guitar as it is set up."""
        return self._written(index, self.guitar.shift, ascii_only)

    def shape_name_on(self, guitar: GuitarSetup, index: int, ascii_only: bool = False) -> str:
        """The name of the chord's shape on any guitar."""
        return self._written(index, guitar.shift, ascii_only)

    def shape_name_of(self, guitar: GuitarSetup, chord: Chord, position: Position) -> str:
        """What the shape of any chord would be called on a guitar."""
        return write(chord.transposed(guitar.shift), self._key_for(position, guitar.shift), self.notation)

    def shape_note_on(self, guitar: GuitarSetup, index: int, pitch_class: int) -> str:
        """A note that sounds when the chord is played on a guitar, named as its shapes are."""
        return self._note(index, pitch_class - guitar.moved, guitar.shift)

    def _written(self, index: int, shift: int, ascii_only: bool) -> str:
        span = self.chords[index]
        chord = span.chord.transposed(shift)
        if chord.root is None:
            return "N.C."
        key = self._key_for(span.start, shift)
        text = write(chord, key, self.notation, self._spelled(index, shift))
        return plain_letters(text) if ascii_only else text

    def _key_for(self, position: Position, shift: int) -> Key:
        key = self.key_at(position)
        return self.guitar.key_moved(key, shift)

    def _spelled(self, index: int, shift: int) -> tuple[Note, Note]:
        """Root and bass of a chord that is not silence, as typed or among its neighbours."""
        span = self.chords[index]
        if span.spelling is not None and (span.spelling[2] - shift) % 12 == 0:
            root, bass, _ = span.spelling
            return Note(root), Note(root if bass is None else bass)
        before, after = (c.transposed(shift) if c else None for c in self.neighbours(index))
        return spell_in_line(span.chord.transposed(shift), self._key_for(span.start, shift), before, after)

    # ------------------------------------------------------------ hands

    @cached_property
    def held(self) -> list[Held | None]:
        """How each chord is held on the guitar: as the user chose, the others along the easiest way. None where nobody
        plays, or no hand can."""
        return self.held_on(self.guitar)

    @cached_property
    def held_on_second(self) -> list[Held | None]:
        """The same on the second guitar; empty without one."""
        return self.held_on(self.second) if self.second is not None else []

    def held_unknown(self, guitar: GuitarSetup) -> list[hands.Asked]:
        """Chords whose shapes on a guitar were never looked for: how long :meth:`held_on` would take."""
        chords = [s.chord.transposed(guitar.moved) for s in self.chords]
        return hands.unknown(chords, guitar.strings, guitar.capo, hands.level_of(guitar.level))

    def held_on(self, guitar: GuitarSetup) -> list[Held | None]:
        """The same on any guitar."""
        chords = [s.chord.transposed(guitar.moved) for s in self.chords]
        level = hands.level_of(guitar.level)
        heard = None if guitar.moved else self.heard  # the record says nothing of another key
        chosen = self.chosen_shapes(guitar)
        fixed = {i: f.shape for i, f in chosen.items()}
        held = hands.hold(chords, guitar.strings, guitar.capo, level, fixed, heard)
        for i, fretting in chosen.items():
            one = held[i]
            if one is not None and fretting.fingers:
                held[i] = replace(one, fingers=fretting.fingers)
        return held

    @cached_property
    def capos(self) -> list[Choice]:
        """Every capo in standard tuning, the best for the song first; the record has a say where it was heard and the
        chart is written in its key."""
        return self.setups_ranked([STANDARD])

    def setups_ranked(self, tunings: Sequence[tuple[int, ...]]) -> list[Choice]:
        """The same with every one of the tunings."""
        moved = self.guitar.moved
        chords = [s.chord.transposed(moved) for s in self.chords]
        ranges = [self.chord_range(i) for i in range(len(self.chords))]
        seconds = [max(0.0, self.grid.clock(b) - self.grid.clock(a)) for a, b in ranges]
        return setups.ranked(chords, seconds, tunings, self.heard if self.heard.odds and not moved else None)

    def chosen_shapes(self, guitar: GuitarSetup) -> dict[int, Fretting]:
        """Shapes that the user chose on a guitar, by the index of their chord."""
        said_of: dict[Any, list[Statement]] = {}
        for s in said.of(self.statements, "shape"):
            said_of.setdefault(s.about, []).append(s)
        if not said_of:
            return {}
        out: dict[int, Fretting] = {}
        for i, span in enumerate(self.chords):
            for s in said_of.get((span.chord.transposed(guitar.moved), guitar.strings, guitar.capo), ()):
                if s.covers(span.start):
                    out[i] = s.value
        return out

    def written_notes(self, index: int) -> tuple[Note, Note]:
        """Root and bass of a chord that is not silence, as they are written for what sounds."""
        return self._spelled(index, self.guitar.moved)

    def _called(self, note: Note) -> str:
        return note_text(note, self.notation)

    def note_name(self, index: int, pitch_class: int) -> str:
        """A note beside a chord as it is shown: spelled as the chord has it, else as the key does."""
        return self._note(index, pitch_class, self.guitar.shown_shift)

    def _note(self, index: int, pitch_class: int, shift: int) -> str:
        span = self.chords[index]
        note_class = (pitch_class + shift) % 12
        if span.chord.root is not None:
            root, bass = self._spelled(index, shift)
            for note in (*span.chord.transposed(shift).notes(root), bass):
                if note.pitch_class == note_class:
                    return self._called(note)
        return self._called(self._key_for(span.start, shift).spell(note_class))

    def as_shown(self, index: int) -> tuple[Chord, Key, Chord | None, Chord | None]:
        """A chord, its key and its neighbours, moved to where they are shown: what is said of them in words then has
        the names that are shown."""
        shift = self.guitar.shown_shift
        span = self.chords[index]
        before, after = (c.transposed(shift) if c else None for c in self.neighbours(index))
        return span.chord.transposed(shift), self._key_for(span.start, shift), before, after

    def notes_of(self, chord: Chord, position: Position) -> list[tuple[int, str]]:
        """The notes of any chord as (pitch class that sounds, name as it is shown)."""
        shift = self.guitar.shown_shift
        shape = chord.transposed(shift)
        spelled = shape.spelled(self._key_for(position, shift))
        if spelled is None:
            return []
        return [((note.pitch_class - shift) % 12, self._called(note)) for note in shape.notes(spelled[0])]

    def shown_note(self, position: Position, pitch_class: int) -> str:
        """A note by itself as it is shown, spelled for the key."""
        shift = self.guitar.shown_shift
        return self._called(self._key_for(position, shift).spell((pitch_class + shift) % 12))

    def name_of(self, chord: Chord, position: Position) -> str:
        """What any chord would be called at a position, as it is shown."""
        shift = self.guitar.shift
        shape = write(chord.transposed(shift), self._key_for(position, shift), self.notation)
        if self.guitar.show == "shapes":
            return shape
        name = write(chord.transposed(self.guitar.moved), self._key_for(position, self.guitar.moved), self.notation)
        both = self.guitar.show == "both" and not self.guitar.plain and chord.root is not None and shape != name
        return f"{name} ({shape})" if both else name

    def name_as_typed(self, chord: Chord, position: Position, spelling: tuple[int, int | None, int] | None) -> str:
        """What a chord is called that is being typed: its notes as they were typed."""
        if spelling is None or chord.root is None:
            return self.name_of(chord, position)
        root, bass, shift = spelling
        spelled = Note(root), Note(root if bass is None else bass)
        return write(chord.transposed(shift), self._key_for(position, shift), self.notation, spelled)

    def key_name(self, key: Key) -> str:
        """A key as it is shown: as it sounds, or of the shapes, or both."""
        written = key_text(self.guitar.key_moved(key, self.guitar.moved), self.notation)
        if self.guitar.plain or self.guitar.show == "sounding":
            return written
        shapes = key_text(self.guitar.shape_key(key), self.notation)
        return (
            tr("shapes of {shapes}", shapes=shapes)
            if self.guitar.show == "shapes"
            else tr("{written} (shapes of {shapes})", written=written, shapes=shapes)
        )

    def key_written(self, key: Key) -> Key:
        """A key in the spelling that it has in the song; one that is not in it as it is written beside those that are."""
        known = (k.key for k in self.keys if (k.key.tonic, k.key.mode) == (key.tonic, key.mode))
        return next(known, key.beside(sum(k.key.signature for k in self.keys)))

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
        """A bar counts as checked when the user said so, or stated every chord in it. What was checked as other bars
        does not count, but for bars that are made of whole checked ones, or a part of one."""
        return self._bars_checked[index]

    @cached_property
    def _bars_checked(self) -> tuple[bool, ...]:
        """Of every bar: views ask of all of them at each statement."""
        checks = said.of(self.statements, "checked")
        said_so = [(float(s.at), float(s.end)) for s in checks]
        whole = [(float(a), float(b)) for a, b in said.stretches(self.statements, "checked")]
        edges = {x for check in said_so for x in check}
        open_ = [0, *accumulate(not s.stated or s.unsure for s in self.chords)]  # chords not stated, up to each
        out = []
        for start, end in pairwise(self.grid.starts):
            within = whole if start in edges and end in edges else said_so
            if any(a <= start and end <= b for a, b in within):
                out.append(True)
                continue
            first, last = self.chords.index_at(start), self.chords.index_at(end - 1 / 64)
            out.append(open_[first] == open_[last + 1])
        return tuple(out)

    def checked_bars(self) -> int:
        return sum(self._bars_checked)

    def doubts(self) -> list[int]:
        """Indexes of doubtful chords, the most costly (long and improbable) first."""
        cost: dict[int, float] = {}
        for i, span in enumerate(self.chords):
            if span.doubtful:
                start, end = self.chord_range(i)
                cost[i] = float(end - start) * (1.5 if span.unsure else 1 - span.confidence)
        return sorted(cost, key=lambda i: -cost[i])


def _check_tiling(name: str, starts: Sequence[float], end: float) -> None:
    if not starts or starts[0] != 0:
        raise ValueError(f"the {name} do not begin at the first bar line")
    if any(b <= a for a, b in zip(starts, starts[1:], strict=False)) or starts[-1] >= end:
        raise ValueError(f"the {name} are not in order within the grid")


def blank_song(title: str, recording: RecordingRef, grid: Grid) -> Song:
    """A song of which only the grid is known."""
    zero = Fraction(0)
    return Song(
        title=title,
        recording=recording,
        grid=grid,
        chords=Track([ChordSpan(zero, NO_CHORD, 0.0)]),
        keys=Track([KeySpan(zero, Key(0), 0.0)]),
        sections=Track([Section(zero, sectionnames.SONG)]),
    )


def logged(song: Song, when: str, what: str) -> Song:
    return replace(song, log=(*song.log, Entry(when, what)))
