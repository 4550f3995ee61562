"""The project file: one readable JSON document with everything decided and stated.

Positions are written as fractions of beats (``"9/2"``), chords and keys as interchange labels. What the user said is
the list of statements; chords, keys, sections and bars are what was decided around it when it was saved. The file
carries its schema version; older ones are brought up to date (:mod:`upgrades`), a newer one is refused with a
sentence and never overwritten by accident. Fields that this program does not know are kept when it saves.
"""

from __future__ import annotations

import math
import numbers
import os
import stat
from collections.abc import Callable, Mapping
from itertools import pairwise
from pathlib import Path
from typing import Any, Generic, TypeVar

import msgspec

from ...guitar.instrument import LEVEL_IDS, STANDARD, GuitarSetup
from ...guitar.odds import HeardNotes
from ...paths import as_text, from_text, shown
from ...song import statements as said
from ...song.bassnotes import BassNote
from ...song.closing import Closing
from ...song.grid import Bar, Grid
from ...song.merge import merged
from ...song.model import ChordSpan, Entry, KeySpan, PitchGround, RecordingRef, Section, Song
from ...song.positions import read_position
from ...song.statements import KINDS, Statement
from ...song.strumming import Strummed, read_figure
from ...song.track import Track
from ...theory.chord import Chord, parse_harte
from ...theory.key import parse_key
from ...theory.meter import parse_meter
from ...tongue import tr
from .. import atomic
from .known import FORMAT, is_file
from .upgrades import upgraded

SCHEMA = 3
SUFFIX = ".ychronos"
LARGEST = 64 << 20  # bytes of a project that is read
MOST = 200_000  # of anything in a song: eight hours of beats at 400 a minute
CLOSEST, LONGEST = 0.001, 1e6  # seconds between beats; to the last of them
FURTHEST = 4800  # cents: four octaves
_PLACES = 4  # decimals of a probability
T = TypeVar("T")


DAMAGE = (  # what a document that is no song of ours can raise
    msgspec.ValidationError, msgspec.DecodeError, ValueError, ArithmeticError, LookupError, TypeError, AttributeError, RecursionError,
)  # fmt: skip


class ProjectError(Exception):
    """A project file that cannot be used; the text is one sentence for the user."""


class _Recording(msgspec.Struct):
    path: str
    sha256: str
    duration: float
    note: str = ""
    absolute: str = ""


class _Bar(msgspec.Struct, omit_defaults=True):
    meter: str
    beats: int
    first: int = 1
    confidence: float = 1.0
    grouping: list[int] = []


class _Guitar(msgspec.Struct, omit_defaults=True):
    strings: tuple[int, ...] = STANDARD
    capo: int = 0
    show: str = "sounding"
    level: str = "standard"
    left: bool = False
    from_nut: bool = False
    moved: int = 0


class _Heard(msgspec.Struct):
    """What the record says of the notes of a chord: logarithms of odds from the lowest note on."""

    chord: str
    odds: list[float]


class _Rival(msgspec.Struct):
    chord: str
    probability: float


class _Chord(msgspec.Struct, omit_defaults=True):
    at: str
    chord: str
    confidence: float = 1.0
    rivals: list[_Rival] = []
    follows: bool = False
    rings: float = 0.0
    cut: float = 0.0


class _Key(msgspec.Struct, omit_defaults=True):
    at: str
    key: str
    confidence: float = 1.0


class _Section(msgspec.Struct, omit_defaults=True):
    at: str
    name: str
    material: str = ""
    confidence: float = 1.0
    called: float = 1.0  # how sure the name is


class _Statement(msgspec.Struct, omit_defaults=True):
    kind: str
    at: str
    until: str | None = None
    value: Any = None
    when: str = ""
    why: str = ""


class _Strummed(msgspec.Struct, omit_defaults=True):
    bars: list[str] = []
    sure: list[float] = []
    swing: float = 0.5
    hidden: list[int] = []
    paired: list[int] = []


class _Log(msgspec.Struct):
    when: str
    what: str


class _Project(msgspec.Struct):
    format: str
    schema: int
    title: str
    recording: _Recording
    beats: list[float]
    bars: list[_Bar]
    chords: list[_Chord]
    keys: list[_Key]
    sections: list[_Section]
    artist: str = ""
    lead_in: int = 0
    tuning_cents: float = 0.0
    tuning_confidence: float = 0.0
    tape_cents: float = 0.0
    corrected_clock: bool = False
    guitar: _Guitar = msgspec.field(default_factory=_Guitar)
    second_guitar: _Guitar | None = None
    heard: list[_Heard] = []
    strummed: _Strummed | None = None
    bassline: list[list[float]] = []  # seconds, length, MIDI number, how sure
    sung: list[tuple[float, float]] = []  # seconds of the record from and to which somebody sings
    closing: list[str | float] = []  # how it ends, and the second of the record where that begins
    notation: str = "names"
    statements: list[_Statement] = []
    log: list[_Log] = []


class _Head(msgspec.Struct):
    format: str
    schema: int


def dumps(song: Song, folder: Path | None = None) -> bytes:
    """A song as a project document; with ``folder`` the recording's path is also kept relative to it.

    Raises ValueError for a song that holds a number that is none (not finite): it could not be read again.
    """
    return msgspec.json.format(encoded(plain(song, folder)), indent=1) + b"\n"


def encoded(document: object) -> bytes:
    """A plain document as JSON in one line; raises ValueError where a number is not finite, which JSON cannot hold."""
    if not _finite(document):
        raise ValueError("a number of this song is not finite")
    return msgspec.json.encode(document)


def _finite(value: object) -> bool:
    if isinstance(value, float):
        return math.isfinite(value)
    if isinstance(value, dict):
        return all(map(_finite, value.values()))
    return all(map(_finite, value)) if isinstance(value, list | tuple) else True


def plain(song: Song, folder: Path | None = None) -> dict[str, Any]:
    """The document of a song as plain values (dict, list, str, numbers)."""
    recording = Path(song.recording.path)
    relative, known = str(recording), song.recording.known or str(recording)
    if folder is not None and recording.is_absolute():
        relative = os.path.relpath(recording, folder.resolve())
    document = _Project(
        format=FORMAT,
        schema=SCHEMA,
        title=song.title,
        artist=song.artist,
        recording=_Recording(
            as_text(relative),
            song.recording.sha256,
            round(song.recording.duration, 4),
            song.recording.note,
            as_text(known),
        ),
        beats=[],
        bars=[],
        lead_in=song.grid.lead_in,
        chords=[_chord_out(s) for s in song.chords],
        keys=[_Key(str(k.start), k.key.label(), round(k.confidence, _PLACES)) for k in song.keys],
        sections=[
            _Section(str(s.start), s.name, s.material, round(s.confidence, _PLACES), round(s.sure, 2))
            for s in song.sections
        ],
        tuning_cents=round(song.ground.cents, 3),
        tuning_confidence=round(song.ground.confidence, _PLACES),
        tape_cents=round(song.ground.tape_cents, 3),
        corrected_clock=song.ground.corrected_clock,
        guitar=_guitar_out(song.guitar),
        second_guitar=_guitar_out(song.second) if song.second is not None else None,
        strummed=_strummed_out(song.strummed),
        sung=[(round(a, 2), round(b, 2)) for a, b in song.sung],
        closing=[song.closing.kind, round(song.closing.at, 3)] if song.closing.kind else [],
        notation=song.notation,
        statements=[_statement_out(s) for s in song.statements],
        log=[_Log(e.when, e.what) for e in song.log],
    )
    whole = {**msgspec.to_builtins(document, enc_hook=_plain), **_without_known(song.unknown)}
    whole |= {"beats": _BEATS(song.grid.times), "bars": _BARS(song.grid.bars)}
    whole |= {"heard": _HEARD(song.heard.odds), "bassline": _BASSLINE(song.bassline)}
    whole["statements"] += song.unknown.get("statements", [])
    return whole


def _plain(value: object) -> object:
    """Numbers of arrays as plain ones: whatever a song holds, saving it must not fail for that."""
    if isinstance(value, numbers.Integral):
        return int(value)
    if isinstance(value, numbers.Real):
        return float(value)
    raise NotImplementedError(f"a project cannot hold {type(value).__name__}")


class _Kept(Generic[T]):
    """The plain form of a part that a song mostly has in common with the one before: a statement changes neither the
    beats nor what is heard, and it is written down while the user waits."""

    def __init__(self, make: Callable[[T], object]) -> None:
        self._make = make
        self._last: tuple[T, Any] | None = None

    def __call__(self, part: T) -> Any:
        last = self._last
        if last is None or last[0] is not part:
            last = self._last = part, msgspec.to_builtins(self._make(part), enc_hook=_plain)
        return last[1]


_BEATS = _Kept[tuple[float, ...]](lambda times: [round(t, 5) for t in times])
_BARS = _Kept[tuple[Bar, ...]](lambda bars: [_bar_out(b) for b in bars])
_HEARD = _Kept[tuple[tuple[Chord, tuple[float, ...]], ...]](
    lambda odds: [_Heard(c.harte(), [round(x, 2) for x in row]) for c, row in odds]
)
_BASSLINE = _Kept[tuple[BassNote, ...]](
    lambda line: [[round(n.at, 4), round(n.length, 4), n.note, round(n.sure, 2)] for n in line]
)


def _without_known(unknown: Mapping[str, Any]) -> dict[str, Any]:
    return {k: v for k, v in unknown.items() if k not in _Project.__struct_fields__}


def _guitar_out(g: GuitarSetup) -> _Guitar:
    return _Guitar(g.strings, g.capo, g.show, g.level, g.left, g.from_nut, g.moved)


def _guitar_in(g: _Guitar) -> GuitarSetup:
    level = g.level if g.level in LEVEL_IDS else GuitarSetup().level
    return GuitarSetup(g.strings, g.capo, g.show, level, g.left, g.from_nut, g.moved)


def _statement_out(s: Statement) -> _Statement:
    value = KINDS[s.kind].write(s.value)
    return _Statement(s.kind, str(s.at), str(s.until) if s.until is not None else None, value, s.when, s.why)


def _statement_in(s: _Statement) -> Statement:
    value = KINDS[s.kind].read(s.value)
    until = read_position(s.until) if s.until is not None else None
    return Statement(s.kind, read_position(s.at), until, value, s.when, s.why)


def _bar_out(b: Bar) -> _Bar:
    return _Bar(str(b.meter), b.beats, b.first, round(b.confidence, _PLACES), list(b.grouping))


def _bar_in(b: _Bar) -> Bar:
    return Bar(parse_meter(b.meter), b.beats, b.first, b.confidence, grouping=tuple(b.grouping))


def _chord_out(span: ChordSpan) -> _Chord:
    return _Chord(
        at=str(span.start),
        chord=span.chord.harte(),
        confidence=round(span.confidence, _PLACES),
        rivals=[_Rival(c.harte(), round(p, _PLACES)) for c, p in span.rivals],
        follows=span.follows,
        rings=round(span.rings, 2),
        cut=round(span.cut, 2),
    )


def loads(data: bytes, name: str = tr("the file"), folder: Path | None = None) -> Song:
    """A song from a project document.

    Raises
    ------
    ProjectError
        with a sentence on what is wrong: not a project, newer than this program, damaged.
    """
    try:
        head = msgspec.json.decode(data, type=_Head)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        raise ProjectError(
            tr("“{name}” is not a Ychronos project, or it is damaged; it was left as it is.", name=name)
        ) from None
    if head.format != FORMAT:
        raise ProjectError(tr("“{name}” is not a Ychronos project; it was left as it is.", name=name))
    if head.schema > SCHEMA:
        raise ProjectError(
            tr(
                "“{name}” was saved by a newer Ychronos (file version {schema}, this program reads up to {schema2}); it was left as it is.",
                name=name,
                schema=head.schema,
                schema2=SCHEMA,
            )
        )
    try:
        return song_of(msgspec.json.decode(data, type=dict[str, Any]), folder)
    except DAMAGE as error:
        words = " ".join(str(error).split())[:160] or type(error).__name__
        raise ProjectError(tr("“{name}” is damaged and was left as it is: {words}.", name=name, words=words)) from None


def song_of(document: dict[str, Any], folder: Path | None = None) -> Song:
    """The song of a plain document; raises one of :data:`DAMAGE`."""
    document = upgraded(document, SCHEMA)
    unknown = {k: v for k, v in document.items() if k not in _Project.__struct_fields__}
    strange = [s for s in document.get("statements", []) if isinstance(s, dict) and s.get("kind") not in KINDS]
    if strange:
        unknown["statements"] = strange
        document["statements"] = [s for s in document["statements"] if s not in strange]
    return _song(msgspec.convert(document, type=_Project), folder, unknown)


def _bass_in(row: list[float]) -> BassNote:
    at, length, note, sure = row
    at, length = round(at, 4), round(length, 4)  # as it is written: a length must not become none there
    if not (-LONGEST < at < LONGEST and 0 < length < LONGEST and 0 <= sure <= 1 and note == int(note)):
        raise ValueError("a note of the bass has a time, a length, a note and how sure it is")
    return BassNote(at, length, int(note), sure)


def _strummed_out(found: Strummed) -> _Strummed | None:
    if not any(found.bars) and not found.hidden:
        return None
    return _Strummed(list(found.bars), list(found.sure), found.swing, sorted(found.hidden), sorted(found.paired))


def _strummed_in(p: _Strummed | None) -> Strummed:
    if p is None:
        return Strummed()
    if max(len(p.bars), len(p.sure), len(p.hidden), len(p.paired)) > MOST or len(p.sure) != len(p.bars):
        raise ValueError("strokes are told bar by bar")
    if not 0.4 <= p.swing <= 0.8:
        raise ValueError("no band swings so far")
    return Strummed(
        tuple(read_figure(b) if b else "" for b in p.bars),
        tuple(p.sure),
        p.swing,
        frozenset(p.hidden),
        frozenset(p.paired),
    )


def _closing_in(p: list[str | float]) -> Closing:
    if not p:
        return Closing()
    kind, at = p
    if not isinstance(kind, str) or isinstance(at, str) or not 0 <= at < LONGEST:
        raise ValueError("how a record ends is a word and a time")
    return Closing(kind, float(at))


def _sung_in(p: list[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
    if not all(0 <= a < b < LONGEST for a, b in p) or any(b > c for (_, b), (c, _) in pairwise(p)):
        raise ValueError("what is sung is one stretch after the other")
    return tuple((float(a), float(b)) for a, b in p)


def _check(p: _Project) -> None:
    """What no song has is refused before it is worked out: raises ValueError."""
    for name in ("beats", "bars", "chords", "keys", "sections", "statements", "log", "heard", "bassline", "sung"):
        if len(getattr(p, name)) > MOST:
            raise ValueError(f"more {name} than any song has")
    if any(b - a < CLOSEST for a, b in pairwise(p.beats)):
        raise ValueError("beats must rise, and be a millisecond apart")
    if not max(abs(p.tuning_cents), abs(p.tape_cents)) <= FURTHEST:
        raise ValueError("no tape runs so far from true pitch")
    if p.beats and not -LONGEST < p.beats[0] <= p.beats[-1] < LONGEST:
        raise ValueError("its beats lie outside any recording")


def _song(p: _Project, folder: Path | None, unknown: Mapping[str, Any]) -> Song:
    _check(p)
    song = Song(
        title=p.title,
        artist=p.artist,
        recording=_recording_in(p.recording, folder),
        grid=Grid(tuple(_bar_in(b) for b in p.bars), tuple(p.beats), p.lead_in),
        chords=Track(_chord_in(c) for c in p.chords),
        keys=Track(KeySpan(read_position(k.at), parse_key(k.key), k.confidence) for k in p.keys),
        sections=Track(
            Section(read_position(s.at), s.name, s.material, s.confidence, sure=s.called) for s in p.sections
        ),
        statements=said.ordered(_statement_in(s) for s in p.statements),
        ground=PitchGround(p.tuning_cents, p.tuning_confidence, p.tape_cents, p.corrected_clock),
        guitar=_guitar_in(p.guitar),
        second=_guitar_in(p.second_guitar) if p.second_guitar is not None else None,
        heard=HeardNotes(tuple((parse_harte(h.chord), tuple(h.odds)) for h in p.heard)),
        strummed=_strummed_in(p.strummed),
        bassline=tuple(_bass_in(n) for n in p.bassline),
        sung=_sung_in(p.sung),
        closing=_closing_in(p.closing),
        notation=p.notation,
        log=tuple(Entry(e.when, e.what) for e in p.log),
        unknown=unknown,
    )
    for s in song.statements:
        if not 0 <= s.at < song.grid.end or s.end > song.grid.end:
            raise ValueError(f"“{s.kind}” at {s.at} lies outside the song")
    return merged(song)


def _chord_in(c: _Chord) -> ChordSpan:
    rivals: tuple[tuple[Chord, float], ...] = tuple((parse_harte(r.chord), r.probability) for r in c.rivals)
    at, chord = read_position(c.at), parse_harte(c.chord)
    return ChordSpan(at, chord, c.confidence, rivals, follows=c.follows, rings=c.rings, cut=c.cut)


def _recording_in(recording: _Recording, folder: Path | None) -> RecordingRef:
    """Where the recording seems to be: beside the project as saved, else where it was known, else beside the project
    under its name. ``known`` is where it was last seen for sure; a guess never takes its place."""
    relative, known = from_text(recording.path), from_text(recording.absolute)
    guesses = [known or relative]
    if folder is not None:
        beside = os.path.realpath(folder / relative)
        guesses = [g for g in (beside, known, str(folder / Path(beside).name)) if g]
    path = next((g for g in guesses if is_file(Path(g))), known or guesses[0])
    return RecordingRef(path, recording.sha256, recording.duration, recording.note, known if known != path else "")


def save(song: Song, path: Path) -> None:
    """Write a project file whole or not at all, and only one that can be read again; raises
    :class:`~.atomic.SaveError`."""

    def readable(data: bytes) -> None:
        try:
            loads(data, shown(path))
        except ProjectError as error:
            raise ValueError(tr("it could not be read again ({error})", error=error)) from None

    try:
        data = dumps(song, path.parent)
    except ValueError as error:
        raise atomic.SaveError(
            tr("“{shown}” was not saved: {error}. {kept}", shown=shown(path), error=error, kept=atomic.KEPT)
        ) from None
    atomic.write(path, data, readable)


def load(path: Path) -> Song:
    """Read a project file; raises :class:`ProjectError`."""
    try:
        found = path.stat()
        if not stat.S_ISREG(found.st_mode):
            raise OSError(0, tr("it is no file") if not stat.S_ISDIR(found.st_mode) else tr("it is a folder"))
        if found.st_size > LARGEST:
            raise OSError(0, tr("with {st_size} MB it is larger than any project", st_size=found.st_size >> 20))
        data = path.read_bytes()
    except (OSError, ValueError) as error:
        why = str(error) if not isinstance(error, OSError) else error.strerror or str(error)
        if isinstance(error, FileNotFoundError):
            why = tr("it is not there any more")
        raise ProjectError(tr("“{shown}” cannot be opened: {why}.", shown=shown(path), why=why)) from None
    if not data.strip():
        raise ProjectError(tr("“{shown}” is empty; it was left as it is.", shown=shown(path)))
    return loads(data, shown(path), path.parent)
