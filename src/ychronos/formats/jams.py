"""JAMS: the exchange format of music research, plain JSON.

Times in seconds of the recording; chord labels at sounding pitch with the bass as a degree.
"""

from __future__ import annotations

import json
from dataclasses import replace
from fractions import Fraction
from typing import Any

from ..guitar.fingering import shape_text
from ..song import strumming
from ..song.model import Song
from ..theory.meter import Meter

# Modes that the exchange format does not know, as the nearest it knows.
_MODES = {"harmonic minor": "minor", "melodic minor": "minor", "blues": "mixolydian"}
_MERGE = 1e-3  # seconds, shorter rows are left out


def document(song: Song) -> dict[str, Any]:
    """The song as a JAMS dictionary."""
    duration = song.recording.duration
    guitar, shapes = _hands(song, duration)
    return {
        "file_metadata": {
            "title": song.title,
            "artist": song.artist,
            "duration": round(duration, 4),
            "jams_version": "0.3.4",
        },
        "annotations": [
            _annotation("chord_harte", _chords(song, duration)),
            _annotation("beat_position", _beats(song)),
            _annotation("key_mode", _keys(song, duration)),
            _annotation("segment_open", _segments(song, duration)),
            _annotation("tempo", _tempo(song, duration)),
            _annotation("tag_open", shapes, "shapes"),
            _annotation("tag_open", _strokes(song), "strokes"),
            _annotation("tag_open", _claimed(song), "strokes_claimed"),
            _annotation("tag_open", _rung(song, duration), "articulation"),
            _annotation("tag_open", [(a, b - a, "voice", None) for a, b in song.sung], "singing"),
            _annotation("note_midi", [(max(0.0, n.at), n.length, n.note, n.sure) for n in song.bassline], "bass"),
            _annotation("note_midi", _line(song), "lead"),
            _annotation("lyrics", _words(song, duration)),
        ],
        "sandbox": {"tuning_cents": round(song.ground.cents, 2), "guitar": guitar},
    }


def dumps(song: Song) -> bytes:
    return json.dumps(document(song), indent=1, ensure_ascii=False).encode() + b"\n"


Row = tuple[float, float, Any, float | None]


def _annotation(namespace: str, rows: list[Row], source: str = "") -> dict[str, Any]:
    return {
        "namespace": namespace,
        "annotation_metadata": {"data_source": source} if source else {},
        "sandbox": {},
        "data": [
            {"time": round(t, 5), "duration": round(d, 5), "value": v, "confidence": None if c is None else round(c, 4)}
            for t, d, v, c in rows
        ],
    }


def _clip(start: float, end: float, duration: float) -> tuple[float, float]:
    return max(0.0, start), min(duration, end)


def _chords(song: Song, duration: float) -> list[Row]:
    rows: list[Row] = []
    begin = max(0.0, song.grid.clock(song.chords[0].start))
    if begin > _MERGE:
        rows.append((0.0, begin, "N", 1.0))
    for i, span in enumerate(song.chords):
        a, b = (song.grid.clock(p) for p in song.chord_range(i))
        a, b = _clip(a, b, duration)
        if b - a > _MERGE:
            rows.append((a, b - a, span.chord.harte(song.key_at(span.start)), span.confidence))
    end = rows[-1][0] + rows[-1][1] if rows else 0.0
    if duration - end > _MERGE:
        rows.append((end, duration - end, "N", 1.0))
    return rows


def _hands(song: Song, duration: float) -> tuple[dict[str, Any], list[Row]]:
    """The guitar and the shapes played on it, frets counted from the nut; where nobody set the guitar up, the capo that
    is likeliest, and what was most likely played there."""
    found = song.capos
    guitar = song.guitar
    if guitar.usual and found:
        guitar = replace(guitar, strings=found[0].strings, capo=found[0].capo, level="recorded")
    rows: list[Row] = []
    held = song.held if guitar == song.guitar else song.held_on(guitar)
    for i, one in enumerate(held):
        a, b = (song.grid.clock(p) for p in song.chord_range(i))
        a, b = _clip(a, b, duration)
        if one is not None and b - a > _MERGE:
            rows.append((a, b - a, shape_text(guitar.nut_frets(one.shape)), None))
    ranking = list(dict.fromkeys(c.capo for c in found))
    return {"tuning": list(guitar.strings), "capo": guitar.capo, "capo_ranking": ranking}, rows


def _words(song: Song, duration: float) -> list[Row]:
    """The words of the song, each line up to the next one."""
    times = [max(0.0, song.grid.clock(m.at)) for m in song.lyrics]
    ends = [*times[1:], max(duration, times[-1])] if times else []
    return [(t, max(0.0, e - t), m.text, None) for t, e, m in zip(times, ends, song.lyrics, strict=True)]


def _line(song: Song) -> list[Row]:
    """The notes of lines: riffs, licks, fills."""
    clock = song.grid.clock
    return [
        (max(0.0, clock(n.at)), clock(min(n.end, song.grid.end)) - clock(n.at), n.value.note, n.value.sure)
        for n in song.line
    ]


def _strokes(song: Song) -> list[Row]:
    """Strokes of the strumming hand: "D" or "U", with an x where they are muted; where two guitars play them, each twice."""
    rows: list[Row] = []
    for bar, sure in _figured(song):
        start, beats = song.grid.starts[bar], song.grid.bars[bar].beats
        for offset, letter in strumming.places(song.figure_of_bar(bar), beats, song.strummed.swing):
            if letter in strumming.PLUCKS:  # no stroke, one string
                continue
            at = start + offset
            index = song.chord_index(min(at, song.grid.end - Fraction(1, 64)))
            if song.chords[index].articulation != "strummed" and at >= song.chords[index].start + Fraction(1, 4):
                continue  # it rings, or was cut short
            value = "Dx" if letter == "x" else letter.upper()
            row = (max(0.0, song.grid.clock(start + offset)), 0.0, value, sure)
            rows += [row] * (2 if song.paired_in(bar) else 1)
    return rows


def _rung(song: Song, duration: float) -> list[Row]:
    """Chords that are struck once and ring ("ring") or are cut short ("stop"), with how sure that is."""
    rows: list[Row] = []
    for i, span in enumerate(song.chords):
        if span.articulation == "strummed":
            continue
        a, b = (song.grid.clock(p) for p in song.chord_range(i))
        a, b = _clip(a, b, duration)
        if b - a > _MERGE:
            value, sure = ("ring", span.rings) if span.articulation == "held" else ("stop", span.cut)
            rows.append((a, b - a, value, 1.0 if span.how_stated else sure))
    return rows


def _claimed(song: Song) -> list[Row]:
    """The bars whose strokes are told."""
    rows: list[Row] = []
    for bar, sure in _figured(song):
        a, b = (song.grid.clock(p) for p in song.grid.bar_range(bar))
        rows.append((max(0.0, a), b - max(0.0, a), song.sections[song.section_of_bar(bar)].name, sure))
    return rows


def _figured(song: Song) -> list[tuple[int, float]]:
    """(bar, how sure) of bars whose figure is stated or heard."""
    out = []
    for bar in range(len(song.grid.bars)):
        text = song.figure_of_bar(bar)
        heard = song.strummed.of(bar) == text
        if any(x in strumming.STROKES for x in text):  # strings plucked one by one are no strokes
            out.append((bar, song.strummed.sure[bar] if heard else 1.0))
    return out


def _beats(song: Song) -> list[Row]:
    grid = song.grid
    rows: list[Row] = []
    for index, start, bar in grid.walk():
        for i in range(bar.beats):
            value = {
                "position": bar.first + i,
                "measure": grid.number(index),
                "num_beats": bar.meter.beats if bar.first > 1 or not bar.odd else bar.beats,
                "beat_units": bar.meter.denominator,
            }
            rows.append((max(0.0, grid.times[start + i]), 0.0, value, bar.confidence if i == 0 else None))
    return rows


def _keys(song: Song, duration: float) -> list[Row]:
    rows: list[Row] = []
    ends = [*[k.start for k in song.keys[1:]], song.grid.end]
    for span, end in zip(song.keys, ends, strict=True):
        a, b = _clip(song.grid.clock(span.start), song.grid.clock(end), duration)
        mode = _MODES.get(span.key.mode, span.key.mode)
        rows.append((a, max(0.0, b - a), f"{span.key.note.name(ascii_only=True)}:{mode}", span.confidence))
    return rows


def _segments(song: Song, duration: float) -> list[Row]:
    rows: list[Row] = []
    for i, section in enumerate(song.sections):
        a, b = (song.grid.clock(p) for p in song.section_range(i))
        a, b = _clip(a, b, duration)
        rows.append((a, max(0.0, b - a), section.name, section.confidence))
    return rows


def _tempo(song: Song, duration: float) -> list[Row]:
    """One row for each stretch of one kind of beat."""
    grid = song.grid
    rows: list[Row] = []
    stretch: list[int] = []

    def close() -> None:
        first, last = grid.starts[stretch[0]], grid.starts[stretch[-1] + 1]
        gaps = sorted(b - a for a, b in zip(grid.times[first:last], grid.times[first + 1 : last + 1], strict=False))
        a, b = _clip(grid.times[first], grid.times[last], duration)
        rows.append((a, max(0.0, b - a), round(60 / gaps[len(gaps) // 2], 3), None))

    def kind(meter: Meter) -> str:
        return meter.beat_name

    for index, _, bar in grid.walk():
        if stretch and kind(bar.meter) != kind(grid.bars[stretch[-1]].meter):
            close()
            stretch = []
        stretch.append(index)
    close()
    return rows
