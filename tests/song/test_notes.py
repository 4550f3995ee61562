"""Notes with kinds: what they are, where they go, what of them is written out."""

from __future__ import annotations

import io
import xml.etree.ElementTree as ET
from dataclasses import replace
from fractions import Fraction

import mido
import pytest
from pypdf import PdfReader

from tests.conftest import make_song
from ychronos.formats import midi, musicxml, pdfchart, project, textchart
from ychronos.formats.options import Options
from ychronos.formats.registry import exporter
from ychronos.song import edits
from ychronos.song.bassnotes import BassNote
from ychronos.song.edits import EditError
from ychronos.song.model import Song

WORDS = {"cue": "horns come in", "advice": "palm muted", "doubt": "maybe Em7", "private": "ask the drummer"}


def noted() -> Song:
    song = make_song()
    for at, (kind, text) in zip((4, 4, 12, 17), WORDS.items(), strict=True):
        song, _ = edits.set_note(song, Fraction(at), kind, text)
    return song


def pdf_text(data: bytes) -> str:
    return "\n".join(p.extract_text() for p in PdfReader(io.BytesIO(data)).pages)


def test_kinds_stand_beside_each_other_and_in_order() -> None:
    song = noted()
    assert [(n.at, n.kind, n.text) for n in song.notes] == [
        (4, "cue", "horns come in"), (4, "advice", "palm muted"), (12, "doubt", "maybe Em7"), (17, "private", "ask the drummer"),
    ]  # fmt: skip
    assert [n.text for n in song.notes_of_bar(1)] == ["horns come in", "palm muted"]
    assert song.chords[3].unsure and song.marks[0].text == "ask the drummer"
    again, said = edits.set_note(song, Fraction(4), "cue", "brass  comes\nin")
    assert [n.text for n in again.notes if n.at == 4] == ["brass comes in", "palm muted"] and "brass" in said
    less, _ = edits.set_note(again, Fraction(4), "advice", " ")
    assert [n.kind for n in less.notes if n.at == 4] == ["cue"]
    with pytest.raises(EditError, match="no such note"):
        edits.set_note(less, Fraction(4), "advice", "")
    with pytest.raises(EditError, match="A note is one of"):
        edits.set_note(song, Fraction(4), "rumour", "x")
    assert project.loads(project.dumps(song)).notes == song.notes


def test_notes_move_with_the_count() -> None:
    song, _ = edits.insert_beat(noted(), 2)
    assert song.notes[0].at == 5


@pytest.mark.parametrize("kinds", [("cue",), ("advice", "private"), ("doubt",), ()])
def test_the_user_says_which_are_written_out(kinds: tuple[str, ...]) -> None:
    song, options = noted(), Options(notes=kinds)
    pages = pdf_text(pdfchart.render(song, options))
    text = textchart.render(song, options)
    score = ET.fromstring(exporter("musicxml").written(song, options))
    directions = " ".join(w.text or "" for w in score.iter("words"))
    file = mido.MidiFile(file=io.BytesIO(exporter("midi").written(song, options)))
    cues = " ".join(m.text for m in file.tracks[0] if m.type == "cue_marker")
    for kind, words in WORDS.items():
        for written in (pages, text, directions, cues):
            assert (words in written) == (kind in kinds), (kind, written)
    with pytest.raises(ValueError, match="notes are"):
        Options(notes=("rumour",))


def test_words_and_notes_stand_at_their_beats_in_musicxml_and_midi() -> None:
    song, _ = edits.set_lyric(noted(), Fraction(9), "low water")
    score = ET.fromstring(musicxml.render(song))
    third = score.findall("part/measure")[2]
    at, found = 0, None
    for note in third.iter("note"):
        lyric = note.find("lyric/text")
        if lyric is not None:
            found = (at, lyric.text)
        at += int(note.findtext("duration") or 0)
    assert found == (musicxml.DIVISIONS, "low water") and at == 4 * musicxml.DIVISIONS
    track = mido.MidiFile(file=io.BytesIO(midi.render(song))).tracks[0]
    now, times = 0, {}
    for message in track:
        now += message.time
        if message.type in ("lyrics", "cue_marker"):
            times[message.text] = now
    assert times["low water"] - times["horns come in"] == 5 * midi.TICKS


def test_many_notes_in_one_bar_do_not_lie_on_each_other() -> None:
    song = make_song()
    for k in range(4):
        song, _ = edits.set_note(song, Fraction(4 + k), "cue", f"voice {k} comes in with the whole choir behind it")
    places: list[tuple[float, float, str]] = []

    def see(text: str, _cm: object, tm: list[float], _font: object, _size: float) -> None:
        if "comes in" in text:
            places.append((tm[4], tm[5], text.strip()))

    PdfReader(io.BytesIO(pdfchart.render(song))).pages[0].extract_text(visitor_text=see)
    assert len(places) == 4
    for a in places:
        for b in places:
            if a is not b and abs(a[1] - b[1]) < 5:
                assert abs(a[0] - b[0]) > 60, "beside each other or on lines of their own"


def test_the_bass_as_played_goes_into_midi() -> None:
    song = replace(make_song(), bassline=(BassNote(1.0, 0.4, 43), BassNote(1.5, 0.4, 45), BassNote(2.25, 0.2, 47)))
    track = mido.MidiFile(file=io.BytesIO(midi.render(song))).tracks[2]
    now, begun = 0, []
    for message in track:
        now += message.time
        if message.type == "note_on" and message.velocity:
            begun.append((now, message.note))
    first = begun[0][0]
    assert [(t - first, n) for t, n in begun] == [(0, 43), (midi.TICKS, 45), (round(2.5 * midi.TICKS), 47)]
    plain = mido.MidiFile(file=io.BytesIO(midi.render(make_song()))).tracks[2]
    assert sum(m.type == "note_on" for m in plain) == len(make_song().chords)
