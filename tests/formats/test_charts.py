"""Charts as text, PDF and JAMS say what the song says."""

from __future__ import annotations

import io
from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pypdf import PdfReader

from tests.conftest import make_song
from ychronos.chart.facts import count_text, facts, guidance, tuning_text
from ychronos.chart.rows import bar_marks, fold, section_title
from ychronos.formats import jams, pdfchart, textchart
from ychronos.guitar.instrument import STANDARD, GuitarSetup
from ychronos.song import edits
from ychronos.song.words import beats_text, clock_text
from ychronos.theory.chord import parse_chord


@given(st.integers(1, 40), st.integers(1, 8), st.integers(0, 3), st.sets(st.integers(1, 30), max_size=5))
def test_folding_has_every_bar_once_and_breaks_at_sections(
    bars: int, per_row: int, lead: int, starts: set[int]
) -> None:
    song = make_song(bars=bars + 2, lead=lead)
    for bar in starts:
        if min(lead, 1) < bar < len(song.grid.bars) and song.grid.bar_range(bar)[0] not in {
            s.start for s in song.sections
        }:
            song, _ = edits.start_section(song, song.grid.bar_range(bar)[0], f"Part {bar}")
    rows = fold(song, per_row)
    assert [b for r in rows for b in range(r.first, r.last)] == list(range(len(song.grid.bars)))
    assert all(r.last - r.first <= per_row for r in rows if not r.lead_in)
    firsts = {r.first for r in rows}
    assert all(song.grid.bar_at(s.start) in firsts for s in song.sections)
    assert sum(r.opens for r in rows) == len(song.sections)


def test_marks_of_a_bar() -> None:
    song, _ = edits.state_chord(make_song(), Fraction(7, 2), Fraction(6), parse_chord("Am"))
    first, second = bar_marks(song, 0), bar_marks(song, 1)
    assert [(m.offset, m.name, m.begins) for m in first] == [(0, "G", True), (Fraction(7, 2), "Am", True)]
    assert [(m.offset, m.name, m.begins) for m in second] == [(0, "Am", False), (2, "D/F♯", True)]


def test_text_chart_reads_like_a_chart() -> None:
    song, _ = edits.state_chord(make_song(), Fraction(7, 2), Fraction(6), parse_chord("Am"))
    text = textchart.render(song)
    assert text.startswith("Lamps Along the Mole – Tin Dory\nG major · 4/4, 120 · 12 ¢ sharp\n")
    assert "| G . . .&Am  | Am . D/F♯ . | Em7         | C           |" in text
    assert "Verse  0:01" in text
    assert "on the “and”" in text
    plain = textchart.render(song, ascii_only=True)
    assert plain.isascii() or "♯" not in plain


def test_odd_bars_and_doubts_are_said() -> None:
    song, _ = edits.one_is_here(make_song(), 2)
    song, _ = edits.one_is_here(song, 9)
    song, _ = edits.mark_unsure(song, 1, True)
    text = textchart.render(song)
    assert "(3 beats)" in text
    assert "Not sure: D/F♯" in text


def test_lead_in_is_silent_only_without_chords() -> None:
    song = make_song(lead=1)
    assert fold(song)[0].lead_in
    assert not fold(song)[0].silent
    hushed, _ = edits.state_chord(song, *song.grid.bar_range(0), parse_chord("N"))
    assert fold(hushed)[0].silent
    assert beats_text(1) == "1 beat"
    assert beats_text(3) == "3 beats"


def test_pdf_has_the_names_and_turns_pages() -> None:
    song = make_song(bars=120)
    data = pdfchart.render(song, folded=False)
    reader = PdfReader(io.BytesIO(data))
    assert len(reader.pages) > 1
    first = reader.pages[0].extract_text()
    for words in ("Lamps Along the Mole", "Tin Dory", "G major", "Verse", "D/F♯", "12 ¢ sharp"):
        assert words in first
    everything = "".join(page.extract_text() for page in reader.pages)
    assert everything.count("Em7") == 15 + 1, "in fifteen bars and among the shapes"
    assert pdfchart.render(song, folded=False) == data, "the same song gives the same file"


def test_facts_in_words() -> None:
    song = make_song()
    assert facts(song).home == "G major"
    assert facts(song).checked == "0 of 8 bars"
    assert tuning_text(-30.6) == "31 ¢ flat"
    assert tuning_text(0.4) == "in tune (A = 440)"
    assert "443.1 Hz" in guidance(song)
    assert "concert pitch" in guidance(replace(song, ground=replace(song.ground, cents=1.0)))
    shifted = edits.one_is_here(edits.one_is_here(song, 2)[0], 9)[0]
    assert shifted.grid.bars[-1].odd
    assert count_text(shifted) == "4/4, 120 · 1 odd bar", "a record that ends within a bar makes no odd bar"
    assert section_title(song, 0) == ("Verse", "")
    assert section_title(edits.start_section(song, Fraction(8))[0], 1) == ("Part C", "")


@given(st.floats(0, 7000))
def test_clock_text(seconds: float) -> None:
    minutes, rest = clock_text(seconds, tenths=True).split(":")
    assert abs(int(minutes) * 60 + float(rest) - seconds) < 0.1001


def test_jams_covers_the_record() -> None:
    song = make_song(lead=1)
    document = jams.document(song)
    rows = {a["namespace"]: a["data"] for a in document["annotations"]}
    assert set(rows) == {
        "chord_harte",
        "beat_position",
        "key_mode",
        "segment_open",
        "tempo",
        "tag_open",
        "note_midi",
        "lyrics",
    }
    chords = rows["chord_harte"]
    assert chords[0] == {"time": 0.0, "duration": 1.0, "value": "N", "confidence": 1.0}
    for a, b in zip(chords, chords[1:], strict=False):
        assert abs(a["time"] + a["duration"] - b["time"]) < 1e-4
    assert abs(chords[-1]["time"] + chords[-1]["duration"] - song.recording.duration) < 1e-3
    assert rows["beat_position"][0]["value"] == {"position": 4, "measure": 0, "num_beats": 4, "beat_units": 4}
    assert rows["beat_position"][1]["value"]["measure"] == 1
    assert rows["key_mode"][0]["value"] == "G:major"
    assert rows["tempo"][0]["value"] == 120.0
    guitar = document["sandbox"].pop("guitar")
    assert document["sandbox"] == {"tuning_cents": 12.0}
    assert guitar["tuning"] == [40, 45, 50, 55, 59, 64] and guitar["capo"] == guitar["capo_ranking"][0] == 0
    assert sorted(guitar["capo_ranking"]) == list(range(10))


def test_jams_has_the_shapes_as_they_are_held() -> None:
    song, _ = edits.set_guitar(make_song("G C D G"), GuitarSetup(capo=2))
    song, _ = edits.choose_shape(song, 0, (3, 3, 0, 2, 1, 1))
    document = jams.document(song)
    shapes = next(a for a in document["annotations"] if a["annotation_metadata"].get("data_source") == "shapes")
    assert document["sandbox"]["guitar"]["capo"] == 2
    assert shapes["data"][0]["value"] == "552433", "counted from the nut, as the user chose it"
    assert len(shapes["data"]) == len(song.chords)
    for row, span in zip(shapes["data"], song.chords, strict=True):
        frets = [None if f == "x" else int(f) for f in (row["value"].split() if " " in row["value"] else row["value"])]
        if span.chord != song.chords[0].chord:
            sounding = {(s + f) % 12 for s, f in zip(STANDARD, frets, strict=True) if f is not None}
            assert sounding <= span.chord.pitch_classes


def test_charts_name_shapes_as_the_guitar_asks() -> None:
    song, _ = edits.set_guitar(make_song(), GuitarSetup(capo=2, show="both"))
    text = textchart.render(song)
    assert "Guitar: standard tuning, capo 2; sounds in G major, shapes of F major; shapes in brackets." in text
    assert "| G(F)" in text
    shapes, _ = edits.set_guitar(song, GuitarSetup(capo=2, show="shapes"))
    assert "| F " in textchart.render(shapes)
    assert [m.name for m in bar_marks(shapes, 1)] == ["C/E"]
    first = PdfReader(io.BytesIO(pdfchart.render(song))).pages[0].extract_text()
    assert "G (F)" in first
    assert "capo 2" in first


def test_charts_show_the_clock_that_was_asked_for() -> None:
    song = make_song(bars=64)
    song = replace(song, ground=replace(song.ground, cents=49.0))
    corrected, sentence = edits.correct_tape(song, True)
    assert "2.8 % slower" in sentence
    assert "Times are those of the original" in textchart.render(corrected)
    both, _ = edits.show_corrected_clock(corrected, True)
    lines = textchart.render(both)
    assert "Corrected to concert pitch" in lines
    assert both.shown_clock(100.0) == pytest.approx(100 * 2 ** (49 / 1200))
    assert both.grid == song.grid, "the model keeps the original's times"
    back, _ = edits.correct_tape(both, False)
    assert back.ground == song.ground
    for wrong in (
        lambda: edits.show_corrected_clock(song, True),
        lambda: edits.correct_tape(replace(song, ground=replace(song.ground, cents=0.2)), True),
    ):
        with pytest.raises(edits.EditError):
            wrong()
