"""The chart as MusicXML 4.0: bars with meters, chords with kind, bass, changed degrees and diagram, sections as rehearsal marks.

Every bar is written as it is played, notes and words of the song at their beats. Between chords stand rests of their length, so that a notation program has the chords on
their beats; chord names are those of what sounds (in the key that the chart is written in).
"""

from __future__ import annotations

import xml.etree.ElementTree as ET
from collections.abc import Collection
from fractions import Fraction

from ..chart.rows import section_title
from ..guitar.hands import Held
from ..song.model import Song
from ..song.noted import PRINTED
from ..theory.chord import QUALITIES
from ..theory.key import Key
from . import musicxmltab
from .musicxmltab import text as _text

DIVISIONS = 48  # of a quarter note
HEAD = b'<?xml version="1.0" encoding="UTF-8"?>\n'
# The format's own kinds; other qualities are the nearest kind with degrees added, altered or taken away.
KINDS = {
    "maj": "major", "min": "minor", "5": "power", "6": "major-sixth", "min6": "minor-sixth", "7": "dominant", "maj7": "major-seventh",
    "min7": "minor-seventh", "minmaj7": "major-minor", "9": "dominant-ninth", "maj9": "major-ninth", "min9": "minor-ninth",
    "11": "dominant-11th", "min11": "minor-11th", "13": "dominant-13th", "maj13": "major-13th", "min13": "minor-13th",
    "sus2": "suspended-second", "sus4": "suspended-fourth", "dim": "diminished", "dim7": "diminished-seventh",
    "hdim7": "half-diminished", "aug": "augmented", "aug7": "augmented-seventh",
}  # fmt: skip
_BASE = {"69": ("6", ("9",)), "add9": ("maj", ("9",)), "minadd9": ("min", ("9",)), "7sus4": ("sus4", ("b7",)),
         "9sus4": ("sus4", ("b7", "9")), "7b5": ("7", ("*b5",)), "7b9": ("7", ("b9",)), "7#9": ("7", ("#9",)),
         "7#11": ("7", ("#11",))}  # fmt: skip
_MODES = {"major", "minor", "dorian", "phrygian", "lydian", "mixolydian", "aeolian", "locrian"}


def _note(parent: ET.Element, tag: str, step: str, alter: int) -> None:
    box = ET.SubElement(parent, tag)
    _text(box, f"{tag}-step", step)
    if alter:
        _text(box, f"{tag}-alter", alter)


def _degree(parent: ET.Element, change: str) -> None:
    kind = "subtract" if change.startswith("*") else "add"
    name = change.lstrip("*")
    if change.startswith("*b") or change.startswith("*#"):  # an altered note of the chord itself
        kind = "alter"
    value = name.lstrip("#b")
    box = ET.SubElement(parent, "degree")
    _text(box, "degree-value", value)
    _text(box, "degree-alter", name.count("#") - name.count("b"))
    _text(box, "degree-type", kind)


def _harmony(song: Song, index: int, held: Held | None) -> ET.Element:
    chord = song.chords[index].chord.transposed(song.guitar.moved)
    out = ET.Element("harmony")
    root, bass = song.written_notes(index)
    _note(out, "root", root.letter, root.alter)
    base, changes = _BASE.get(chord.quality, (chord.quality, ()))
    suffix = QUALITIES[chord.quality].suffix
    kind = _text(out, "kind", KINDS[base])
    kind.set("text", suffix.replace("♭", "b").replace("♯", "#"))
    if chord.bass is not None:
        _note(out, "bass", bass.letter, bass.alter)
    for change in (*changes, *chord.changes):
        _degree(out, change)
    if held is not None:
        _frame(out, held)
    return out


def _frame(parent: ET.Element, held: Held) -> None:
    """The shape: strings are counted from the highest, frets from the capo."""
    frets = [f for f in held.shape if f]
    low, high = (min(frets), max(frets)) if frets else (1, 1)
    first = low if high > 4 else 1
    frame = ET.SubElement(parent, "frame")
    _text(frame, "frame-strings", len(held.shape))
    _text(frame, "frame-frets", max(4, high - first + 1))
    if first > 1:
        _text(frame, "first-fret", first)
    for string, fret in enumerate(held.shape):
        if fret is not None:
            note = ET.SubElement(frame, "frame-note")
            _text(note, "string", len(held.shape) - string)
            _text(note, "fret", fret)


def _attributes(measure: ET.Element, song: Song, key: Key | None, meter: tuple[int, int] | None, first: bool) -> None:
    if key is None and meter is None and not first:
        return
    box = ET.SubElement(measure, "attributes")
    if first:
        _text(box, "divisions", DIVISIONS)
    if key is not None:
        inner = ET.SubElement(box, "key")
        _text(inner, "fifths", max(-7, min(7, key.signature)))
        _text(inner, "mode", key.mode if key.mode in _MODES else "minor" if key.minorish else "major")
    if meter is not None:
        musicxmltab.time(box, meter)
    if first:
        clef = ET.SubElement(box, "clef")
        _text(clef, "sign", "G")
        _text(clef, "line", 2)


def _direction(measure: ET.Element, tag: str, text: str = "") -> ET.Element:
    box = ET.SubElement(measure, "direction")
    box.set("placement", "above")
    inner = ET.SubElement(ET.SubElement(box, "direction-type"), tag)
    if text:
        inner.text = text
    return box


def _tempo(measure: ET.Element, song: Song) -> None:
    meter = song.grid.usual_meter()
    box = _direction(measure, "metronome")
    inner = box.find("direction-type/metronome")
    assert inner is not None
    _text(inner, "beat-unit", "quarter" if meter.compound else meter.beat_name.replace("sixteenth", "16th"))
    if meter.compound:
        ET.SubElement(inner, "beat-unit-dot")
    _text(inner, "per-minute", round(song.grid.tempo()))


def render(song: Song, kinds: Collection[str] = PRINTED) -> bytes:
    """The file's bytes, with notes of these ``kinds``."""
    score = ET.Element("score-partwise", version="4.0")
    work = ET.SubElement(score, "work")
    _text(work, "work-title", song.title)
    identification = ET.SubElement(score, "identification")
    if song.artist:
        _text(identification, "creator", song.artist).set("type", "composer")
    _text(ET.SubElement(identification, "encoding"), "software", "Ychronos")
    part_list = ET.SubElement(score, "part-list")
    listed = ET.SubElement(part_list, "score-part", id="P1")
    _text(listed, "part-name", "Chords")
    lanes = musicxmltab.lanes(song)
    for k, _ in enumerate(lanes):
        _text(ET.SubElement(part_list, "score-part", id=f"P{k + 2}"), "part-name", f"Line {k + 1}" if k else "Line")
    part = ET.SubElement(score, "part", id="P1")
    held = song.held
    openings = {song.grid.bar_at(s.start): i for i, s in reversed(list(enumerate(song.sections)))}
    previous_key: Key | None = None
    previous_meter: tuple[int, int] | None = None
    for index, start, bar in song.grid.walk():
        measure = ET.SubElement(part, "measure", number=str(song.grid.number(index)))
        if bar.first > 1:
            measure.set("implicit", "yes")
        key = song.guitar.key_moved(song.key_at(Fraction(start)), song.guitar.moved)
        meter = bar.meter.with_beats(bar.beats) if bar.odd else bar.meter
        written = meter.numerator, meter.denominator
        _attributes(
            measure,
            song,
            key if key != previous_key else None,
            written if written != previous_meter else None,
            index == 0,
        )
        previous_key, previous_meter = key, written
        if index == 0:
            _tempo(measure, song)
        if index in openings:
            name, which = section_title(song, openings[index])
            _direction(measure, "rehearsal", f"{name}, {which}" if which else name)
        quarters = Fraction(3, 2) if meter.compound else Fraction(4, meter.denominator)
        _bar(measure, song, index, held, quarters, kinds)
    for k, lane in enumerate(lanes):
        _line(ET.SubElement(score, "part", id=f"P{k + 2}"), song, lane)
    ET.indent(score, " ")
    return bytes(HEAD + ET.tostring(score, encoding="utf-8") + b"\n")


def _line(part: ET.Element, song: Song, lane: int) -> None:
    """The part of a line, bar by bar as the chords have them."""
    previous: tuple[int, int] | None = None
    for index, _, bar in song.grid.walk():
        measure = ET.SubElement(part, "measure", number=str(song.grid.number(index)))
        if bar.first > 1:
            measure.set("implicit", "yes")
        meter = bar.meter.with_beats(bar.beats) if bar.odd else bar.meter
        written = meter.numerator, meter.denominator
        musicxmltab.attributes(measure, song, DIVISIONS, written if written != previous else None, index == 0)
        previous = written
        quarters = Fraction(3, 2) if meter.compound else Fraction(4, meter.denominator)
        musicxmltab.bar(measure, song, index, lane, quarters * DIVISIONS)


def _bar(
    measure: ET.Element, song: Song, index: int, held: list[Held | None], quarters: Fraction, kinds: Collection[str]
) -> None:
    """The chords, notes and words that begin in a bar, with rests between them; words hang on the rest at their place."""
    start, end = song.grid.bar_range(index)
    words = {m.at: m.text for m in song.lyrics_of_bar(index)}
    notes = song.notes_of_bar(index, kinds)
    first = song.chord_index(start)
    chords = {song.chords[i].start: i for i in range(first, len(song.chords)) if start <= song.chords[i].start < end}
    points = sorted({start, *words, *chords, *(n.at for n in notes)})
    for at, until in zip(points, [*points[1:], end], strict=True):
        for note in notes:
            if note.at == at:
                _direction(measure, "words", note.line)
        if at in chords and song.chords[chords[at]].chord.is_none:
            _direction(measure, "words", "N.C.")
        elif at in chords:
            measure.append(_harmony(song, chords[at], held[chords[at]]))
        ticks = [round((x - start) * quarters * DIVISIONS) for x in (at, until)]
        _rest(measure, max(1, ticks[1] - ticks[0]), words.get(at, ""))


def _rest(measure: ET.Element, ticks: int, words: str = "") -> None:
    note = ET.SubElement(measure, "note")
    ET.SubElement(note, "rest")
    _text(note, "duration", ticks)
    _text(note, "voice", 1)
    if words:
        lyric = ET.SubElement(note, "lyric")
        _text(lyric, "syllabic", "single")
        _text(lyric, "text", words)
