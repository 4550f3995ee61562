"""The bass where it walks: told from holding and alternating, written under its bars."""

from __future__ import annotations

import io
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st
from pypdf import PdfReader

from tests.conftest import make_song
from ychronos.chart.basswalk import frets, walk, walks, words
from ychronos.formats import pdfchart, textchart
from ychronos.guitar.instrument import BASS
from ychronos.song.bassnotes import BassNote
from ychronos.song.model import Song


def played(*bars: tuple[int, ...], sure: float = 0.9) -> Song:
    """C in every bar but the second, which is A minor; notes a beat apart, at 120 a minute from one second on."""
    song = make_song("C Am C Am", bars=4, key="C major")
    notes = [
        BassNote(1.0 + 2 * b + 0.5 * k, 0.45, n, sure) for b, bar in enumerate(bars) for k, n in enumerate(bar) if n
    ]
    return replace(song, bassline=tuple(notes))


def test_walking_is_told_from_holding_and_alternating() -> None:
    song = played((36, 36, 38, 40), (33, 40, 33, 40), (36, 36, 36, 36), (33, 35, 36, 38))
    assert words(song, 0) == "walks C D E into A (A3, D0 2)"
    assert words(song, 1) == "root and fifth in turn"
    assert words(song, 2) == "holds C"
    assert words(song, 3) == "walks A B C D (A0 2 3, D0)"
    assert sorted(walks(song)) == [0, 3]
    assert [(s.offset, s.name) for s in walk(song, 0)] == [(0, "C"), (2, "D"), (3, "E")]


@given(st.lists(st.integers(20, 70), min_size=4, max_size=4), st.integers(20, 70))
def test_frets_of_a_walk_sound_its_notes(bar: list[int], after: int) -> None:
    song = played(tuple(bar), (after, after, after, after))
    steps, shown = walk(song, 0), frets(song, 0)
    if shown:
        notes = []
        for part in shown.split(", "):
            open_ = BASS["EADG".index(part[0])]
            notes += [open_ + int(fret) for fret in part[1:].split()]
        assert notes == [s.note for s in steps]
    else:
        assert not steps or min(*bar, after) < BASS[0] or max(*bar, after) > BASS[-1] + 24


def test_leaps_to_notes_of_the_chord_are_no_walk() -> None:
    assert walk(played((36, 40, 43, 36)), 0) == []


def test_what_is_not_sure_is_not_written() -> None:
    assert walks(played((36, 38, 40, 41), sure=0.2)) == {}


def test_page_and_text_have_it_on_demand() -> None:
    song = played((36, 36, 38, 40), (33, 33, 33, 33))
    text = textchart.render(song, bass=True)
    assert "bass in bar 1: walks C D E into A" in text
    assert "walks" not in textchart.render(song)
    page = "\n".join(p.extract_text() for p in PdfReader(io.BytesIO(pdfchart.render(song, bass=True))).pages)
    assert "the bass where it walks" in page
    plain = "\n".join(p.extract_text() for p in PdfReader(io.BytesIO(pdfchart.render(song))).pages)
    assert "the bass where it walks" not in plain


@given(st.lists(st.tuples(st.floats(0, 12), st.integers(24, 60), st.floats(0, 1)), max_size=24))
def test_any_bass_can_be_written(rows: list[tuple[float, int, float]]) -> None:
    song = replace(make_song(bars=4), bassline=tuple(BassNote(a, 0.2, n, s) for a, n, s in sorted(rows)))
    for bar, steps in walks(song).items():
        offsets = [s.offset for s in steps]
        assert offsets == sorted(offsets) and all(0 <= o < song.grid.bars[bar].beats for o in offsets)
        assert words(song, bar).startswith("walks ")
    textchart.render(song, bass=True)
