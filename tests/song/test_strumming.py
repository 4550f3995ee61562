"""Figures of the strumming hand: as text, in bars, as statements, in JAMS and on the page."""

from __future__ import annotations

import io
from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pypdf import PdfReader

from tests.conftest import make_song
from ychronos.chart import sound
from ychronos.chart.demonstration import demonstration
from ychronos.chart.figured import picked, told
from ychronos.formats import jams, pdfchart, project, textchart
from ychronos.session.commands import figuring
from ychronos.session.session import Session
from ychronos.song import edits
from ychronos.song.edits import EditError
from ychronos.song.model import Song
from ychronos.song.strumming import LETTERS, SLOTS, Strummed, fits, places, plainest, read_figure, tapped, usual
from ychronos.theory.chord import parse_chord

FIGURE = "D-dU-Udu"


def heard(bars: int = 8) -> Song:
    """Four bars of a figure, one that is other, three of which nothing is known."""
    texts = [FIGURE] * 4 + ["DdDd"] + [""] * (bars - 5)
    sure = [0.9] * 5 + [0.0] * (bars - 5)
    return replace(make_song(bars=bars), strummed=Strummed(tuple(texts), tuple(sure), 0.5, frozenset({6})))


def rows(song: Song, source: str) -> list[tuple[float, float, str, float]]:
    found = next(a for a in jams.document(song)["annotations"] if a["annotation_metadata"].get("data_source") == source)
    return [(r["time"], r["duration"], r["value"], r["confidence"]) for r in found["data"]]


@pytest.mark.parametrize(
    ("typed", "read"),
    [("D-dU-Udu", FIGURE), ("| D - d U . U d u |", FIGURE), ("↓ ↑ ↓ ↑", "DUDU"), ("XdX_", "xdx-")],
)
def test_figures_are_read_as_typed(typed: str, read: str) -> None:
    assert read_figure(typed) == read


@pytest.mark.parametrize("typed", ["", "   ", "DxZ", "D" * 400, None])
def test_what_is_no_figure_is_refused_in_a_sentence(typed: object) -> None:
    with pytest.raises(ValueError, match=r"figure|text|bar"):
        read_figure(typed)


@given(st.integers(1, 7), st.sampled_from(SLOTS), st.data())
def test_the_plainest_writing_means_the_same(beats: int, slots: int, data: st.DataObject) -> None:
    text = data.draw(st.text(LETTERS, min_size=beats * slots, max_size=beats * slots))
    short = plainest(text, beats)
    assert fits(text, beats) and fits(short, beats) and len(short) <= len(text)
    assert places(short, beats) == places(text, beats)


def test_places_and_swing() -> None:
    assert places("D-du", 2) == [(0, "D"), (1, "d"), (Fraction(3, 2), "u")]
    assert places("D-du", 2, 0.66)[-1] == (1 + Fraction(33, 50), "u")
    assert places("DuDu", 1, 0.6) == [(0, "D"), (Fraction(3, 10), "u"), (Fraction(3, 5), "D"), (Fraction(4, 5), "u")]
    assert usual(["", "DdDd", FIGURE, FIGURE]) == FIGURE and usual(["", ""]) == ""


def test_what_is_heard_and_what_is_stated() -> None:
    song = heard()
    assert [song.figure_of_bar(b) for b in (0, 4, 5)] == [FIGURE, "DdDd", ""]
    said, words = edits.set_figure(song, [1, 2, 6], "D D d d")
    assert [said.figure_of_bar(b) for b in range(8)] == [FIGURE, "DDdd", "DDdd", FIGURE, "DdDd", "", "DDdd", ""]
    assert words == "DDdd in 3 bars"
    back, _ = edits.forget_figure(said, [2])
    assert back.figure_of_bar(1) == "DDdd" and back.figure_of_bar(2) == FIGURE
    with pytest.raises(EditError, match="4, 8, 12, 16, 24"):
        edits.set_figure(song, [0], "DDD")
    with pytest.raises(EditError, match="Nothing is stated"):
        edits.forget_figure(song, [0])


def test_a_click_goes_through_what_a_stroke_can_be() -> None:
    song = heard()
    seen = []
    for _ in range(4):
        song, _ = edits.next_stroke(song, 0, 1, 2)
        seen.append(song.figure_of_bar(0))
    assert seen == ["DudU-Udu", "DUdU-Udu", "DxdU-Udu", "D-dU-Udu"]
    empty, _ = edits.next_stroke(song, 7, 2, 2)
    assert empty.figure_of_bar(7) == "-d--" and empty.figure_of_bar(6) == ""


def test_figures_go_along_with_the_count_and_into_the_project() -> None:
    song, _ = edits.set_figure(heard(), [3], "DDDD")
    again = project.loads(project.dumps(song))
    assert again.strummed == song.strummed and again.figure_of_bar(3) == "DDDD"
    assert project.loads(project.dumps(make_song())).strummed == Strummed()


def test_jams_has_strokes_and_claims_only_what_is_known() -> None:
    song = heard()
    strokes = rows(song, "strokes")
    first = [r for r in strokes if r[0] < 3 - 1e-6]
    assert [(round(t, 3), v) for t, _, v, _ in first] == [
        (1.0, "D"),
        (1.5, "D"),
        (1.75, "U"),
        (2.25, "U"),
        (2.5, "D"),
        (2.75, "U"),
    ]
    assert len(strokes) == 4 * 6 + 4 and all(c >= 0.5 for *_, c in strokes)
    claimed = rows(song, "strokes_claimed")
    assert [round(t, 3) for t, *_ in claimed] == [1.0, 3.0, 5.0, 7.0, 9.0] and claimed[0][1] == pytest.approx(2.0)
    muted, _ = edits.set_figure(song, [0], "x-dU-Udu")
    assert rows(muted, "strokes")[0][2] == "Dx"
    assert rows(make_song(), "strokes") == []


def test_a_figure_is_told_once_and_where_it_changes() -> None:
    song = heard()
    assert told(song) == {0: FIGURE, 4: "DdDd"}
    text = textchart.render(song)
    assert f"strokes from bar 1: {FIGURE}" in text and "strokes from bar 5: DdDd" in text
    assert "strokes" not in textchart.render(song, strokes=False)
    page = PdfReader(io.BytesIO(pdfchart.render(song))).pages[0].extract_text()
    assert "Arrows: strokes" in page
    bare = pdfchart.render(song, strokes=False)
    assert "Arrows" not in PdfReader(io.BytesIO(bare)).pages[0].extract_text()


def test_the_chart_sounds_as_its_figure_says() -> None:
    song = heard()
    played = list(sound.strokes(song, Fraction(0), Fraction(4)))
    assert [(round(s.start, 3), s.up, s.strength) for s in played] == [
        (1.0, False, 1.0), (1.5, False, 0.6), (1.75, True, 0.85), (2.25, True, 0.85), (2.5, False, 0.6), (2.75, True, 0.5),
    ]  # fmt: skip
    muted, _ = edits.set_figure(song, [0], "x-d-x-d-")
    first = sound.strokes(muted, Fraction(0), Fraction(4))[0]
    assert first.muted and first.stop - first.start < 0.1
    silent, _ = edits.set_figure(song, [0], "--------")
    assert len(sound.strokes(silent, Fraction(0), Fraction(4))) == 1, "a chord is heard at least once"
    down, up = (
        [v.start for v in sound.voices([sound.Stroke(1.0, 2.0, parse_chord("G"), up=way)], 48000, 0.0) if v.gain < 1]
        for way in (False, True)
    )
    assert down == sorted(down) and up == sorted(up) and len(up) == len(down)
    plain = sound.strokes(make_song(), Fraction(0), Fraction(4))
    assert [round(s.start, 2) for s in plain] == [1.0, 1.5, 2.0, 2.5]


@given(
    text=st.text("DdUux-", min_size=8, max_size=8).filter(lambda t: t[0] != "-" and t.strip("-")),
    rounds=st.integers(1, 5),
    late=st.floats(-0.05, 0.05),
)
def test_taps_give_back_the_places_of_a_figure(text: str, rounds: int, late: float) -> None:
    bars = [(5 * k, 4) for k in range(rounds)]
    positions = [start + k / 2 + late for start, _ in bars for k, x in enumerate(text) if x != "-"]
    found = tapped(bars, positions)
    longer = "".join(x + "-" * (8 // len(found) - 1) for x in found) if len(found) < 8 else found
    assert [x != "-" for x in longer] == [x != "-" for x in text]
    assert all(x in "Dd-" for x in longer[::2]) and all(x in "u-" for x in longer[1::2])


def test_a_slip_in_one_bar_is_left_out() -> None:
    bars = [(0, 4), (5, 4), (10, 4)]
    positions = [s + k for s, _ in bars for k in (0, 1, 2, 3)] + [6.5]
    assert plainest(tapped(bars, positions), 4) == "Dddd"
    assert tapped(bars, []) == "" and tapped([], [1.0]) == ""


def test_one_string_is_told_from_a_stroke() -> None:
    assert read_figure("b 3 2 1") == "b321"
    with pytest.raises(ValueError, match="plucked strings"):
        read_figure("b9")
    assert sound.plucked([40, 47, 52, 59], "b") == [40]
    assert sound.plucked([40, 47, 52, 59], "1") == [59]
    assert sound.plucked([40, 47], "6") == [40]


def test_a_demonstration_has_the_count_and_the_strokes() -> None:
    song = make_song()
    voices = demonstration(song, 1, "D-d-", 0.5, 8000, 0.0)
    beat = 0.5 / 0.5 * 8000
    ticks = [v.start for v in voices if v.gain in (0.6,) or len(v.sound) < 400]
    assert {round(k * beat) for k in range(8)} <= set(ticks)
    assert all(v.start < 8 * beat + 200 for v in voices)


def test_a_line_over_the_shape_is_a_way_of_picking_it() -> None:
    song = make_song("G D Em C")
    low = sound.held_notes(song, 0)
    notes = [
        edits.HeardNote(Fraction(k, 2), Fraction(1, 2), low[i]) for k, i in enumerate((0, -3, -2, -1, 0, -3, -2, -1))
    ]
    song = edits.put_line(song, Fraction(0), Fraction(4), notes)[0]
    assert picked(song, 0) == "b321b321"
    assert picked(song, 1) == ""
    other = edits.put_line(
        make_song(), Fraction(0), Fraction(4), [edits.HeardNote(Fraction(k), Fraction(1), 61 + k) for k in range(4)]
    )[0]
    assert picked(other, 0) == "", "a tune is no way of picking"


def test_it_becomes_the_figure_of_its_bars() -> None:
    song = make_song("G D Em C")
    low = sound.held_notes(song, 0)
    song = edits.put_line(
        song,
        Fraction(0),
        Fraction(4),
        [edits.HeardNote(Fraction(k), Fraction(1), low[0 if k % 2 == 0 else -1]) for k in range(4)],
    )[0]
    session = Session()
    session.set_song(song, None)
    session.select(Fraction(0), 0, 1)
    figuring.from_line(session)
    assert session.song is not None and session.song.figure_of_bar(0) == "b1b1"
    session.undo()
    assert session.song.figure_of_bar(0) == ""
