"""Tablature in letters, riffs, and what other formats make of lines."""

from __future__ import annotations

import io
import json
import xml.etree.ElementTree as ET
from fractions import Fraction

import mido
from pypdf import PdfReader

from tests.conftest import make_song
from ychronos.chart import sound, tablature
from ychronos.formats import jams, midi, musicxml, pdfchart, textchart
from ychronos.song import edits
from ychronos.song.edits import HeardNote
from ychronos.song.model import Song

RIFF = (45, 48, 50, 52, 50, 48, 45, 43)


def with_riff(bars: tuple[int, ...], change: int | None = None) -> Song:
    song = make_song(bars=12)
    for bar in bars:
        at = song.grid.bar_range(bar)[0]
        notes = [
            HeardNote(at + Fraction(k, 2), Fraction(1, 2), n + (1 if bar == change and k == 7 else 0))
            for k, n in enumerate(RIFF)
        ]
        song = edits.put_line(song, at, at + 4, notes)[0]
    return song


def words_of(data: bytes) -> str:
    return "\n".join(page.extract_text() for page in PdfReader(io.BytesIO(data)).pages)


def test_a_bar_in_letters() -> None:
    song = with_riff((1,))
    assert tablature.tab_lines(song, [1]) == [
        "E|-----------------|",
        "B|-----------------|",
        "G|-----------------|",
        "D|-----0-2-0-------|",
        "A|-0-3-------3-0---|",
        "E|---------------3-|",
    ]
    assert tablature.tab_lines(song, [0]) == []


def test_triplets_get_columns_of_their_own() -> None:
    song = make_song()
    notes = [HeardNote(Fraction(k, 3), Fraction(1, 3), 64 + k) for k in range(3)]
    song = edits.put_line(song, Fraction(0), Fraction(4), notes)[0]
    made = tablature.tab_bar(song, 0)
    assert made is not None and len(made.columns) == 12


def test_a_riff_has_a_letter_and_is_written_once() -> None:
    song = with_riff((1, 2, 5))
    (found,) = tablature.riffs(song)
    assert (found.letter, found.first, found.last) == ("A", 1, 2)
    written = tablature.written(song)
    assert written.names == {1: "riff A", 2: "riff A", 5: "riff A"}
    assert [b for b in range(12) if written.has_tab(song, b)] == [1]


def test_the_bar_that_differs_is_written() -> None:
    song = with_riff((0, 1, 2, 3, 4, 5, 6, 7), change=7)
    written = tablature.written(song)
    assert 7 in [b for b in range(12) if written.has_tab(song, b)]


def test_degrees_over_the_chord() -> None:
    song = with_riff((0,))  # over G
    assert [tablature.degree_text(song, n) for n in song.line][:4] == ["2", "4", "5", "6"]


def test_text_and_page_show_the_line() -> None:
    song = with_riff((1, 5))
    text = textchart.render(song)
    assert "A|-0-3-------3-0---|" in text and text.count("riff A") == 2
    assert "A|-0-3" not in textchart.render(song, tabs=False)
    page = words_of(pdfchart.render(song))
    assert page.count("riff A") == 2 and "Tablature: strings E A D G B E" in page
    assert "riff A" not in words_of(pdfchart.render(song, tabs=False))


def test_jams_midi_and_score_carry_it() -> None:
    song = with_riff((1,))
    rows = next(
        a["data"]
        for a in json.loads(jams.dumps(song))["annotations"]
        if a["annotation_metadata"].get("data_source") == "lead"
    )
    assert [r["value"] for r in rows] == list(RIFF)
    assert rows[0]["time"] == song.grid.clock(4)
    file = mido.MidiFile(file=io.BytesIO(midi.render(song)))
    (track,) = [t for t in file.tracks if t.name == "Line"]
    assert [m.note for m in track if m.type == "note_on"] == list(RIFF)
    score = ET.fromstring(musicxml.render(song))
    notes = [n for n in score.findall("part[@id='P2']/measure/note") if n.find("pitch") is not None]
    found = [(n.findtext("notations/technical/string"), n.findtext("notations/technical/fret")) for n in notes]
    assert found == [("5", "0"), ("5", "3"), ("4", "0"), ("4", "2"), ("4", "0"), ("5", "3"), ("5", "0"), ("6", "3")]
    assert (notes[0].findtext("pitch/step"), notes[0].findtext("pitch/octave")) == ("A", "2")


def test_every_bar_of_the_score_is_full() -> None:
    score = ET.fromstring(musicxml.render(with_riff((1, 2))))
    for measure in score.findall("part[@id='P2']/measure"):
        assert (
            sum(int(n.findtext("duration") or 0) for n in measure.findall("note") if n.find("chord") is None) == 4 * 48
        )


def test_it_can_be_heard() -> None:
    song = with_riff((1,))
    voices = sound.line_voices(song, 8000, 0.0, 2.0)
    assert [v.start for v in voices][:2] == [
        round(2 * song.grid.clock(4) * 8000),
        round(2 * song.grid.clock(Fraction(9, 2)) * 8000),
    ]
