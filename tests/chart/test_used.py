"""Shapes in use, as drawings and in words, on every page."""

from __future__ import annotations

import io
from dataclasses import replace
from itertools import groupby

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pypdf import PdfReader

from tests.conftest import make_song
from ychronos.chart.diagram import diagram
from ychronos.chart.handwords import choice_words, handed_words, in_order, level_words
from ychronos.chart.order import order, order_text
from ychronos.chart.sound import held_notes, strokes
from ychronos.chart.used import losses, remarks, used
from ychronos.formats import pdfchart, textchart
from ychronos.formats.paper import Paper, papers
from ychronos.guitar.candidates import pitches
from ychronos.guitar.instrument import LEVEL_IDS, TUNINGS, GuitarSetup
from ychronos.song import edits


def test_a_drawing_of_a_shape() -> None:
    open_c = diagram((None, 3, 2, 0, 1, 0))
    assert open_c.nut and open_c.base == 1 and open_c.rows == 4
    assert open_c.mutes == (0,) and open_c.opens == (3, 5)
    assert open_c.dots == ((1, 2, 3), (2, 1, 2), (4, 0, 1))
    barre = diagram((5, 7, 7, 6, 5, 5))
    assert not barre.nut and barre.base == 5 and barre.barre == (0, 0, 5)
    assert all(d[1] > 0 for d in barre.free_dots)
    assert diagram((None, 3, 2, 0, 1, 0), left=True).mutes == (5,)


@given(st.lists(st.one_of(st.none(), st.integers(0, 24)), min_size=4, max_size=8), st.booleans())
def test_every_shape_can_be_drawn_and_its_mirror_is_the_same(shape: list[int | None], left: bool) -> None:
    one = diagram(tuple(shape), left=left)
    other = diagram(tuple(shape), left=not left)
    flip = len(shape) - 1
    assert sorted(flip - c for c in one.opens) == list(other.opens)
    assert sorted((flip - c, r, f) for c, r, f in one.dots) == list(other.dots)
    assert all(0 <= r < one.rows for _, r, _ in one.dots)
    assert len(one.dots) + len(one.opens) + len(one.mutes) == len(shape)


@given(
    st.sampled_from(sorted(TUNINGS)), st.integers(0, 9), st.sampled_from(LEVEL_IDS), st.integers(-11, 11),
    st.sampled_from(["half step down", "standard", "drop D"]),
)  # fmt: skip
def test_no_name_of_what_sounds_on_a_page_of_shapes(
    tuning: str, capo: int, level: str, moved: int, second: str
) -> None:
    """With shapes shown every name on the page is that of a shape, wherever the capo and in whatever key."""
    song = replace(make_song("Eb Bb/D Cm7 Ab"), guitar=GuitarSetup(TUNINGS[tuning], capo, "shapes", level, moved=moved))
    shapes = {song.shape_name(i) for i in range(len(song.chords))}
    text = textchart.render(song, shapes=True)
    names = {one.name for one in used(song)}
    assert names <= shapes
    plain = {song.chords[i].chord.transposed(song.guitar.shift).name(song.guitar.shape_key(song.key_at(s.start)))
             for i, s in enumerate(song.chords)}  # fmt: skip
    assert len(shapes) == len(plain) == 4
    sounding = {song.sounding_name(i) for i in range(len(song.chords))} - shapes
    if not song.guitar.plain:
        bars = [t for line in text.splitlines() if line.startswith("|") for t in line.replace("|", " ").split()]
        assert not sounding & set(bars)
        strip = text[text.index("Shapes,") :].split()
        assert not {s for s in sounding if s in strip} - names


def test_the_page_has_the_strip() -> None:
    song, _ = edits.set_guitar(make_song("G D/F# Em7 C"), GuitarSetup(capo=2, show="both"))
    song, _ = edits.set_second_guitar(song, GuitarSetup(TUNINGS["drop D"], 5))
    text = PdfReader(io.BytesIO(pdfchart.render(song))).pages[0].extract_text()
    assert "First guitar" in text and "Second guitar, drop D, capo 5" in text
    held = song.held[0]
    assert held is not None and "".join("x" if f is None else str(f) for f in held.shape) in text
    assert "sounds in G major, shapes of F major" in text
    without = PdfReader(io.BytesIO(pdfchart.render(song, shapes=False))).pages[0].extract_text()
    assert "First guitar" not in without
    plain = textchart.render(song, shapes=True)
    assert "Shapes, standard tuning, capo 2, frets from the capo:" in plain and "Shapes, drop D, capo 5" in plain
    nut, _ = edits.set_guitar(song, replace(song.guitar, from_nut=True))
    assert "frets from the nut:" in textchart.render(nut, shapes=True)


def test_words_for_hands() -> None:
    song = make_song("Am Am(maj7)/G# Am7/G D/F#")
    top, _ = edits.set_level(song, "top strings")
    shapes = used(top)
    said = level_words(top, shapes, losses(top), top.guitar)
    assert "the line A–G♯–G–F♯" in said
    one = used(song)[0]
    assert "A on top" in handed_words(song, one, (5, 7, 7, 5, 5, 5), song.guitar)
    assert "barre over 6 strings" in handed_words(song, one, (5, 7, 7, 5, 5, 5), song.guitar)
    assert "out of reach of one hand" in handed_words(song, one, (1, 9, 9, None, None, None), song.guitar)
    chosen, _ = edits.choose_shape(song, 0, (None, 0, 2, 2, 1, 0))
    assert "you chose it" in remarks(chosen, used(chosen)[0])
    rows = in_order(song.capos)
    first, second = choice_words(song, rows[0], rows)
    assert first.startswith(("No capo", "Capo")) and "shapes" in first and "barre" in second


def test_the_chart_sounds_as_it_is_held() -> None:
    song, _ = edits.set_guitar(make_song("G C"), GuitarSetup(capo=5))
    song, _ = edits.choose_shape(song, 0, (None, None, 0, 2, 3, 2))
    expected = tuple(pitches((None, None, 0, 2, 3, 2), song.guitar.strings, 5))
    assert held_notes(song, 0) == expected
    first = strokes(song, song.chords[0].start, song.chords[1].start)[0]
    assert first.fretted == expected
    moved, _ = edits.write_in_key(song, 2)
    assert {n % 12 for n in held_notes(moved, 0)} <= song.chords[0].chord.pitch_classes, "at the record's own pitch"


@pytest.mark.parametrize("wrong", [(None,) * 6, (1, 2, 3), (0, 0, 0, 0, 0, 25)])
def test_what_is_no_shape_is_refused(wrong: tuple[int | None, ...]) -> None:
    with pytest.raises(edits.EditError, match="no shape"):
        edits.choose_shape(make_song(), 0, wrong)


def test_a_newer_shape_holds_where_it_speaks() -> None:
    song = make_song("G C G C", bars=8)
    song, _ = edits.choose_shape(song, 0, (3, 2, 0, 0, 0, 3))
    song, _ = edits.choose_shape(song, 2, (3, 5, 5, 4, 3, 3), "here")
    held = [h.shape if h else None for h in song.held]
    g = [i for i, s in enumerate(song.chords) if s.chord.name() == "G"]
    assert [held[i] for i in g[:3]] == [(3, 2, 0, 0, 0, 3), (3, 5, 5, 4, 3, 3), (3, 2, 0, 0, 0, 3)]
    song, _ = edits.choose_shape(song, 1, (None, 3, 2, 0, 1, 0))
    assert [song.held[i].shape for i in g[:3]] == [held[i] for i in g[:3]], "a shape of C leaves those of G alone"  # type: ignore[union-attr]
    other, _ = edits.set_guitar(song, GuitarSetup(capo=3))
    assert not any(h and h.stated for h in other.held), "shapes are of one instrument"
    back, _ = edits.set_guitar(other, GuitarSetup())
    assert [h and h.stated for h in back.held] == [h and h.stated for h in song.held]
    forgotten, _ = edits.forget_shape(song, 1)
    assert not forgotten.held[1].stated  # type: ignore[union-attr]
    with pytest.raises(edits.EditError):
        edits.forget_shape(make_song(), 0)


def test_the_order_stands_in_a_line() -> None:
    song = make_song("G C", bars=12)
    song, _ = edits.start_section(song, song.grid.bar_range(8)[0], "Verse")
    song, _ = edits.start_section(song, song.grid.bar_range(10)[0], "End")
    names = [s.name for s in song.sections]
    assert [(s.name, len(s.sections)) for s in order(song)] == [(n, len(list(g))) for n, g in groupby(names)]
    assert sum(len(s.sections) for s in order(song)) == len(song.sections)
    assert order_text(song) in textchart.render(song)
    assert " ×2" not in order_text(song, ascii_only=True)
    assert order_text(make_song(bars=2)) == "" or len(make_song(bars=2).sections) > 1


@pytest.mark.parametrize("paper", papers())
def test_every_paper_holds_the_whole_chart(paper: Paper) -> None:
    song = make_song("G D/F# Em7 C", bars=90)
    pages = PdfReader(io.BytesIO(pdfchart.render(song, paper=paper))).pages
    box = pages[0].mediabox
    assert (round(float(box.width)), round(float(box.height))) == tuple(round(x) for x in paper.points)
    assert (len(pages) == 1) or not paper.one_page or paper.size in ("A5", "tablet")
    plain = PdfReader(io.BytesIO(pdfchart.render(song))).pages
    count = ["".join(p.extract_text() for p in x).count("Em7") for x in (pages, plain)]
    assert count[0] == count[1]


def test_papers_that_are_none() -> None:
    for wrong in ({"size": "A9"}, {"scale": 9.0}):
        with pytest.raises(ValueError, match=r"paper|per cent"):
            Paper(**wrong)  # type: ignore[arg-type]
    assert len({p.words for p in papers()}) == len(papers())
