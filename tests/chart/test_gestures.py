"""What players have a word for inside a form."""

from __future__ import annotations

import io

from hypothesis import given
from hypothesis import strategies as st
from pypdf import PdfReader

from tests.song.test_passes import letters, song_of
from ychronos.chart.gestures import gestures
from ychronos.chart.lines import lines
from ychronos.formats import pdfchart, textchart


def test_a_turnaround_leads_back_home() -> None:
    song = song_of("Verse: G C G G C C G G D C G D", "Verse: G C G G C C G G D C G G")
    assert gestures(song, 0) == ["turnaround in bars 11 to 12"]
    assert gestures(song, 1) == [], "nothing follows"


def test_what_does_not_lead_home_is_none() -> None:
    assert gestures(song_of("Verse: G C G C", "Chorus: G D G D"), 0) == []
    assert gestures(song_of("Verse: G C G D", "Chorus: Em C G D"), 0) == [], "what follows is not home"


def test_a_vamp_goes_round() -> None:
    song = song_of("Intro: Am D Am D Am D Am D", "Verse: C F G C")
    assert gestures(song, 0) == ["a vamp on Am and D"]
    assert gestures(song_of("Verse: Am D Am D", "Chorus: C F G C"), 0) == [], "twice round is none"
    assert gestures(song_of("Verse: C C C C", "Chorus: F G F G"), 0) == ["a vamp on C"]


def test_a_tag_is_the_last_phrase_again() -> None:
    song = song_of("Verse: C F Am G", "Bridge: Em D Em D", "Verse: C F Am G Am G Am C")
    assert gestures(song, 2) == ["tag: the last 2 bars twice more"]
    other = song_of("Verse: C F Am G", "Bridge: Em D Em D", "Verse: C F Am G F F F F")
    assert gestures(other, 2) == []
    once = song_of("Verse: C F Am G", "Bridge: Em D Em D", "Verse: C F Am G G")
    assert gestures(once, 2) == ["tag: the last bar once more"]
    for last in ("N", "C"):  # nothing of the phrase comes again
        assert gestures(song_of("Verse: C F Am G", "Bridge: Em D Em D", f"Verse: C F Am G {last}"), 2) == []


def test_text_page_and_the_user_say_whether_it_is_written() -> None:
    song = song_of("Verse: G C G D", "Verse: G C G D", "Bridge: Am D Am D Am D Am D")
    text = textchart.render(song)
    page = " ".join(p.extract_text() for p in PdfReader(io.BytesIO(pdfchart.render(song))).pages)
    for shown in (text, " ".join(page.split())):
        assert "turnaround in bars 3 to 4" in shown and "a vamp on Am and D" in shown
    assert "turnaround" not in textchart.render(song, gestures=False)
    flat = [w for line in lines(song, folded=False) for w in line.gestures]
    assert flat == ["turnaround in bars 3 to 4", "a vamp on Am and D"], "the second verse leads to the bridge, not home"


@given(st.lists(letters, min_size=1, max_size=5))
def test_any_form_is_told_without_an_error(parts: list[list[str]]) -> None:
    song = song_of(*(f"Part {i}: " + " ".join(p) for i, p in enumerate(parts)))
    for i in range(len(song.sections)):
        for words in gestures(song, i):
            assert words and len(song.section_bars(i)) >= 4
