"""The project file: one readable JSON document with everything decided and stated.

Positions are written as fractions of beats (``"9/2"``), chords and keys as interchange labels. The file
carries its schema version; a newer one is refused with a sentence and never overwritten by accident.
"""

from __future__ import annotations

import os
from fractions import Fraction
from pathlib import Path

import msgspec

from ..guitar.tuning import STANDARD, GuitarSetup
from ..song.grid import Bar, Grid
from ..song.model import ChordSpan, Entry, KeySpan, Mark, PitchGround, RecordingRef, Section, Song
from ..theory.chord import Chord, parse_harte
from ..theory.key import Key, parse_key
from ..theory.meter import parse_meter
from . import atomic

FORMAT, SCHEMA = "ychronos-project", 2
SUFFIX = ".ychronos"
_PLACES = 4  # decimals of a probability


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
    stated: bool = False
    length_stated: bool = False
    meter_stated: bool = False
    grouping: list[int] = []


class _Guitar(msgspec.Struct, omit_defaults=True):
    strings: tuple[int, ...] = STANDARD
    capo: int = 0
    show: str = "sounding"


class _Rival(msgspec.Struct):
    chord: str
    probability: float


class _Chord(msgspec.Struct, omit_defaults=True):
    at: str
    chord: str
    confidence: float = 1.0
    rivals: list[_Rival] = []
    stated: bool = False
    unsure: bool = False
    comment: str = ""
    articulation: str = "strummed"
    again: bool = False
    follows: bool = False


class _Key(msgspec.Struct, omit_defaults=True):
    at: str
    key: str
    confidence: float = 1.0
    stated: bool = False


class _Section(msgspec.Struct, omit_defaults=True):
    at: str
    name: str
    material: str = ""
    confidence: float = 1.0
    stated: bool = False
    material_stated: bool = False


class _Mark(msgspec.Struct, omit_defaults=True):
    at: str
    text: str = ""


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
    stated_beats: list[int] = []
    notation: str = "names"
    marks: list[_Mark] = []
    checked: list[str] = []
    log: list[_Log] = []


class _Head(msgspec.Struct):
    format: str
    schema: int


def dumps(song: Song, folder: Path | None = None) -> bytes:
    """A song as a project document; with ``folder`` the recording's path is also kept relative to it."""
    recording = Path(song.recording.path)
    relative = str(recording)
    if folder is not None and recording.is_absolute():
        relative = os.path.relpath(recording, folder.resolve())
    document = _Project(
        format=FORMAT,
        schema=SCHEMA,
        title=song.title,
        artist=song.artist,
        recording=_Recording(
            relative, song.recording.sha256, round(song.recording.duration, 4), song.recording.note, str(recording)
        ),
        beats=[round(t, 5) for t in song.grid.times],
        bars=[_bar_out(b) for b in song.grid.bars],
        stated_beats=sorted(song.grid.stated_beats),
        lead_in=song.grid.lead_in,
        chords=[_chord_out(s) for s in song.chords],
        keys=[_Key(str(k.start), _key_label(k.key), round(k.confidence, _PLACES), k.stated) for k in song.keys],
        sections=[
            _Section(str(s.start), s.name, s.material, round(s.confidence, _PLACES), s.stated, s.material_stated)
            for s in song.sections
        ],
        tuning_cents=round(song.ground.cents, 3),
        tuning_confidence=round(song.ground.confidence, _PLACES),
        tape_cents=round(song.ground.tape_cents, 3),
        corrected_clock=song.ground.corrected_clock,
        guitar=_Guitar(song.guitar.strings, song.guitar.capo, song.guitar.show),
        notation=song.notation,
        marks=[_Mark(str(m.at), m.text) for m in song.marks],
        checked=[str(p) for p in sorted(song.checked)],
        log=[_Log(e.when, e.what) for e in song.log],
    )
    return msgspec.json.format(msgspec.json.encode(document), indent=1) + b"\n"


def _bar_out(b: Bar) -> _Bar:
    confidence = round(b.confidence, _PLACES)
    said = (b.stated, b.length_stated, b.meter_stated)
    return _Bar(str(b.meter), b.beats, b.first, confidence, *said, list(b.grouping))


def _bar_in(b: _Bar) -> Bar:
    said = (b.stated, b.length_stated, b.meter_stated)
    return Bar(parse_meter(b.meter), b.beats, b.first, b.confidence, *said, tuple(b.grouping))


def _key_label(key: Key) -> str:
    return f"{key.note.name(ascii_only=True)}:{key.mode}"


def _chord_out(span: ChordSpan) -> _Chord:
    return _Chord(
        at=str(span.start),
        chord=span.chord.harte(),
        confidence=round(span.confidence, _PLACES),
        rivals=[_Rival(c.harte(), round(p, _PLACES)) for c, p in span.rivals],
        stated=span.stated,
        unsure=span.unsure,
        comment=span.comment,
        articulation=span.articulation,
        again=span.again,
        follows=span.follows,
    )


def loads(data: bytes, name: str = "the file", folder: Path | None = None) -> Song:
    """A song from a project document.

    Raises
    ------
    ProjectError
        with a sentence on what is wrong: not a project, newer than this program, damaged.
    """
    try:
        head = msgspec.json.decode(data, type=_Head)
    except (msgspec.DecodeError, UnicodeDecodeError):
        raise ProjectError(f"“{name}” is not a Ychronos project, or it is damaged; it was left as it is.") from None
    if head.format != FORMAT:
        raise ProjectError(f"“{name}” is not a Ychronos project; it was left as it is.")
    if head.schema > SCHEMA:
        raise ProjectError(
            f"“{name}” was saved by a newer Ychronos (file version {head.schema}, this program reads up to {SCHEMA}); "
            "it was left as it is."
        )
    try:
        return _song(msgspec.json.decode(data, type=_Project), folder)
    except (msgspec.DecodeError, ValueError, ZeroDivisionError) as error:
        raise ProjectError(f"“{name}” is damaged and was left as it is: {error}.") from None


def _song(p: _Project, folder: Path | None) -> Song:
    return Song(
        title=p.title,
        artist=p.artist,
        recording=RecordingRef(_find(p.recording, folder), p.recording.sha256, p.recording.duration, p.recording.note),
        grid=Grid(
            tuple(_bar_in(b) for b in p.bars),
            tuple(p.beats),
            p.lead_in,
            frozenset(p.stated_beats),
        ),
        chords=tuple(_chord_in(c) for c in p.chords),
        keys=tuple(KeySpan(Fraction(k.at), parse_key(k.key), k.confidence, k.stated) for k in p.keys),
        sections=tuple(
            Section(Fraction(s.at), s.name, s.material, s.confidence, s.stated, s.material_stated) for s in p.sections
        ),
        ground=PitchGround(p.tuning_cents, p.tuning_confidence, p.tape_cents, p.corrected_clock),
        guitar=GuitarSetup(p.guitar.strings, p.guitar.capo, p.guitar.show),
        notation=p.notation,
        marks=tuple(Mark(Fraction(m.at), m.text) for m in p.marks),
        checked=frozenset(Fraction(c) for c in p.checked),
        log=tuple(Entry(e.when, e.what) for e in p.log),
    )


def _chord_in(c: _Chord) -> ChordSpan:
    rivals: tuple[tuple[Chord, float], ...] = tuple((parse_harte(r.chord), r.probability) for r in c.rivals)
    return ChordSpan(
        start=Fraction(c.at),
        chord=parse_harte(c.chord),
        confidence=c.confidence,
        rivals=rivals,
        stated=c.stated,
        unsure=c.unsure,
        comment=c.comment,
        articulation=c.articulation,
        again=c.again,
        follows=c.follows,
    )


def _find(recording: _Recording, folder: Path | None) -> str:
    """Where the recording is: beside the project as saved, else where it was, else as written."""
    candidates = []
    if folder is not None:
        candidates.append((folder / recording.path).resolve())
    candidates += [Path(p) for p in (recording.absolute, recording.path) if p]
    for candidate in candidates:
        if candidate.is_file():
            return str(candidate)
    return str(candidates[0])


def save(song: Song, path: Path) -> None:
    """Write a project file whole or not at all; raises :class:`~.atomic.SaveError`."""
    atomic.write(path, dumps(song, path.parent))


def load(path: Path) -> Song:
    """Read a project file; raises :class:`ProjectError`."""
    try:
        data = path.read_bytes()
    except OSError as error:
        why = "it is not there any more" if isinstance(error, FileNotFoundError) else error.strerror or str(error)
        raise ProjectError(f"“{path.name}” cannot be opened: {why}.") from None
    if not data.strip():
        raise ProjectError(f"“{path.name}” is empty; it was left as it is.")
    return loads(data, path.name, path.parent)
