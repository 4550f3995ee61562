"""The folded page and the flat song are two views of one truth; the lines of a chart say both."""

from __future__ import annotations

import io
from dataclasses import replace
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st
from pypdf import PdfReader

from tests.song.test_passes import letters, song_of
from ychronos.chart.folding import Again, Back, Fold, fold, fold_words, page, part_words, unfold
from ychronos.chart.lines import lines
from ychronos.chart.order import order_text
from ychronos.formats import pdfchart, textchart
from ychronos.song import edits
from ychronos.song.model import Song
from ychronos.theory.chord import parse_chord

names = st.sampled_from(["Verse", "Chorus", "Bridge"])


def says(song: Song, bar: int) -> list[object]:
    start, end = song.grid.bar_range(bar)
    steps = [start + (end - start) * Fraction(k, 8) for k in range(8)]
    return [song.chords[song.chord_index(p)].chord for p in steps]


def test_folding_with_first_and_second_endings() -> None:
    song = song_of("Verse: C F G C C F G C", "Verse: C F G C C F G Am", "Bridge: Em D", "Verse: C F G C")
    made = fold(song)
    assert [(f.times, len(f.bars), len(f.endings)) for f in made] == [(2, 7, 2), (1, 2, 0), (1, 4, 0)]
    assert fold_words(song, made[0]) == "Verse ×2; 1st time: C; 2nd time: Am"
    assert unfold(made) == [(b, 0) for b in (*range(8), *range(7), 15, 16, 17, 18, 19, 20, 21)]


def test_a_song_begins_when_its_count_in_is_over() -> None:
    song = song_of("Verse: C F G C", "Bridge: Em D", "Verse: C F G C")
    counted = replace(song, grid=replace(song.grid, lead_in=1))
    first, bar = counted.grid.clock(counted.grid.starts[1]), counted.grid.clock(counted.grid.starts[4])
    told = [line.clock for line in lines(counted, folded=True) if line.opens]
    assert told[:2] == [f"0:{int(first):02d}", f"0:{int(bar):02d}"] and int(first) > 0


def test_endings_that_would_take_more_lines_are_not_made() -> None:
    song = song_of("Verse: C F G C", "Verse: C F G Am")
    assert [f.times for f in fold(song)] == [1, 1]
    assert [type(p) for p in page(song)] == [Fold, Again]


@given(st.lists(letters, min_size=1, max_size=4))
def test_neighbouring_passes_folded_are_the_flat_song(parts: list[list[str]]) -> None:
    song = song_of(*("Verse: " + " ".join(p) for p in parts))
    flat = unfold(fold(song))
    assert len(flat) == len(song.grid.bars)
    assert all(says(song, bar) == says(song, there) for bar, (there, _) in enumerate(flat))


@given(
    st.lists(st.tuples(names, st.integers(0, 2)), min_size=1, max_size=9),
    st.lists(letters, min_size=9, max_size=9),
)
def test_the_folded_page_is_the_flat_song(form: list[tuple[str, int]], music: list[list[str]]) -> None:
    """Whatever the form, with variants of each section: every bar is played in its place, and nothing is longer."""
    where = {"Verse": 0, "Chorus": 3, "Bridge": 6}
    song = song_of(*(f"{name}: " + " ".join(music[where[name] + variant]) for name, variant in form))
    parts = page(song)
    flat = unfold(parts)
    assert len(flat) == len(song.grid.bars)
    assert all(says(song, bar) == [c.transposed(up) for c in says(song, there)] for bar, (there, up) in enumerate(flat))
    assert [s for p in parts for s in p.sections] == list(range(len(song.sections)))
    assert len(lines(song)) <= len(lines(song, folded=False))


def test_a_later_pass_is_one_line_that_says_what_is_other() -> None:
    song = song_of("Verse: C F G C", "Bridge: Em D", "Verse: C F G Am", "Bridge: Em D")
    parts = page(song)
    assert [type(p) for p in parts] == [Fold, Fold, Again, Again]
    assert isinstance(parts[2], Again) and parts[2].changes == ((3, 9),)
    assert part_words(song, parts, parts[2]) == "Verse as the 1st time, but 4th bar: Am"
    assert part_words(song, parts, parts[3]) == "Bridge as the 1st time"


def test_a_later_pass_is_like_one_of_those_written_together() -> None:
    song = song_of(
        "Verse: C F G C C F G C", "Verse: C F G C C F G Am", "Bridge: Em D", "Verse: C F G C C F G Am", "Tag: C F"
    )  # fmt: skip
    parts = page(song)
    again = parts[2]
    assert isinstance(again, Again) and (again.of, again.time, again.changes) == (0, 2, ())
    assert part_words(song, parts, again) == "Verse as the 2nd time"
    assert [b for b, _ in unfold(parts)[-10:]] == [0, 1, 2, 3, 4, 5, 6, 15, 26, 27]


def test_a_later_pass_with_a_bar_more() -> None:
    song = song_of("Verse: C F G C", "Bridge: Em D", "Verse: C F G C Am", "Tag: C F")
    parts = page(song)
    again = parts[2]
    assert isinstance(again, Again) and again.more == (10,)
    assert part_words(song, parts, again) == "Verse as the 1st time, then Am"
    assert len(unfold(parts)) == len(song.grid.bars)


def test_going_back_to_the_sign_and_on_to_the_coda() -> None:
    song = song_of(
        "Intro: C C", "Verse: C F G C", "Chorus: F G Am F", "Bridge: Em D", "Verse: C F G C", "Chorus: F G Am F", "Tag: C F C C"
    )  # fmt: skip
    parts = page(song)
    assert [type(p) for p in parts] == [Fold, Fold, Fold, Fold, Back, Fold]
    assert [getattr(p, "segno", False) for p in parts] == [False, True, False, False, False, False]
    assert [getattr(p, "leaves", False) for p in parts] == [False, False, True, False, False, False]
    assert isinstance(parts[5], Fold) and parts[5].coda
    assert part_words(song, parts, parts[4]) == "D.S. al coda: again from the sign, Verse to Chorus, then the coda"
    plain = textchart.render(song, plain=True)
    assert "Verse to Chorus as above, from bar" in plain and "[when played again: on to" in plain
    assert "coda" not in plain.lower() and "sign" not in plain.lower()
    text = textchart.render(song)
    assert "[Sign] Verse" in text and "[to the coda]" in text and "[Coda] Tag" in text
    assert text.count("| Am") == 1 and textchart.render(song, folded=False).count("| Am") == 2


def test_a_way_back_that_ends_the_song() -> None:
    song = song_of("Verse: C F G C", "Chorus: F G Am F", "Bridge: Em D", "Verse: C F G C", "Chorus: F G Am F")
    parts = page(song)
    assert [type(p) for p in parts] == [Fold, Fold, Fold, Back]
    assert "D.S. al fine" in part_words(song, parts, parts[3]) and "[Fine]" in textchart.render(song)
    plain = textchart.render(song, plain=True)
    assert "D.S." not in plain and "Fine]" not in plain and "Sign]" not in plain
    assert "as above, from bar" in plain and "then the end" in plain


def test_three_times_with_another_third() -> None:
    verse = "C F G C C F G"
    song = song_of(f"Verse: {verse} C", f"Verse: {verse} C", f"Verse: {verse} Am", "Bridge: Em D")
    text = textchart.render(song)
    assert "Verse ×3  0:01, 0:17, 0:33" in text
    assert "|: C" in text and "1st and 2nd time" in text and "3rd time" in text
    assert [(x.ending, x.repeats) for x in lines(song) if x.ending] == [
        ("1st and 2nd time", (False, True)),
        ("3rd time", (False, False)),
    ]


def test_a_stop_keeps_passes_apart() -> None:
    song = song_of("Verse: C F G C", "Bridge: Em D", "Verse: C F G C")
    stopped, _ = edits.articulate(song, 2, "stopped")
    again = page(stopped)[2]
    assert isinstance(again, Again) and again.changes == ((2, 8),)


def test_the_printed_page_is_folded_too() -> None:
    song = song_of(
        "Verse: C F G C C F G C", "Verse: C F G C C F G Am", "Chorus: F G Am F", "Bridge: Em D", "Chorus: F G Am F", "Verse: C G C G"
    )  # fmt: skip
    folded = PdfReader(io.BytesIO(pdfchart.render(song))).pages[0].extract_text()
    assert "Verse ×2" in folded and "1st time" in folded and "2nd time" in folded and "as the 1st time" in folded
    flat = PdfReader(io.BytesIO(pdfchart.render(song, folded=False))).pages[0].extract_text()
    flat = flat.replace(order_text(song), "")  # the order of the sections stands over both
    assert "×2" not in flat and flat.count("Verse") == 3 and "as the" not in flat


def test_a_phrase_that_comes_again_is_written_once_with_its_odd_row() -> None:
    phrase = "C F G Am "
    song = song_of(f"Verse: {phrase * 3}Em D", "Bridge: F G")
    (verse, _) = page(song)
    assert isinstance(verse, Fold)
    assert [(p.bars, p.times) for p in verse.phrases] == [((0, 1, 2, 3), 3), ((12, 13), 1)]
    assert fold_words(song, verse) == "Verse: 4 bars ×3, 2 bars"
    assert [b for b, _ in unfold(page(song))] == [*range(4), *range(4), *range(4), 12, 13, 14, 15]
    made = [(x.bars, x.repeats, x.times) for x in lines(song)]
    assert made[0] == ((0, 1, 2, 3), (True, True), 3) and made[1] == ((12, 13), (False, False), 0)
    assert ":| ×3" in textchart.render(song) and ":| x3" in textchart.render(song, ascii_only=True)
    assert "×3" in PdfReader(io.BytesIO(pdfchart.render(song))).pages[0].extract_text()
    assert len(lines(song, folded=False)) == 5


def test_a_round_with_words_of_its_own_is_written_out() -> None:
    song = song_of("Verse: " + "C F G Am " * 3)
    assert len(lines(song)) == 1
    sung, _ = edits.set_lyric(song, Fraction(18), "low water")
    assert len(lines(sung)) > 1 and "low water" in textchart.render(sung)


def test_a_last_chorus_a_whole_step_higher() -> None:
    song = song_of("Chorus: C F G Am F G C C", "Bridge: Em D", "Chorus: D G A Bm G A D E7")
    parts = page(song)
    again = parts[2]
    assert isinstance(again, Again) and again.moved == 2 and again.changes == ((7, 17),)
    assert part_words(song, parts, again) == "Chorus as the 1st time, a whole step higher, but 8th bar: E7"
    assert unfold(parts)[-8:] == [(0, 2), (1, 2), (2, 2), (3, 2), (4, 2), (5, 2), (6, 2), (17, 0)]


def test_half_a_verse() -> None:
    song = song_of("Verse: C F G C Am F G C", "Bridge: Em D", "Verse: Am F G C")
    parts = page(song)
    again = parts[2]
    assert isinstance(again, Again) and again.half == 2
    assert part_words(song, parts, again) == "Verse second half of the 1st time"
    assert [b for b, _ in unfold(parts)[-4:]] == [4, 5, 6, 7]


def test_what_is_other_is_told_with_its_beats() -> None:
    song = song_of("Verse: C F G C", "Bridge: Em D", "Verse: C F G C")
    song, _ = edits.state_chord(song, song.grid.bar_range(9)[0] + 2, song.grid.end, parse_chord("E7"))
    parts = page(song)
    assert part_words(song, parts, parts[2]) == "Verse as the 1st time, but 4th bar: C on 1, E7 on 3"


def test_words_of_a_later_time_are_not_lost() -> None:
    song = song_of("Verse: C F G Am F G C C", "Verse: C F G Am F G C C", "Bridge: Em D", "Verse: C F G Am F G C C")
    for bar, words in ((0, "low water"), (8, "high water"), (18, "no water at all")):
        song, _ = edits.set_lyric(song, song.grid.bar_range(bar)[0], words)
    song, _ = edits.set_note(song, song.grid.bar_range(20)[0], "cue", "horns")
    for text in (textchart.render(song), PdfReader(io.BytesIO(pdfchart.render(song))).pages[0].extract_text()):
        assert "low water" in text and "2nd time: high water" in text and "no water at all" in text
        assert "bar 21, beat 1: horns" in text


def words_of(data: bytes) -> str:
    return " ".join(" ".join(p.extract_text() for p in PdfReader(io.BytesIO(data)).pages).split())


def test_what_a_pass_that_is_not_written_plays_of_its_own_is_told() -> None:
    """Strokes and a line of a second time, whose bars stand nowhere on the page."""
    song = song_of("Verse: C F G C", "Bridge: Em D Em D", "Verse: C F G C")
    song = edits.set_figure(song, list(range(12)), "D-d-D-d-")[0]
    plain = textchart.render(song, strokes=True, tabs=True)
    assert any(isinstance(p, Again | Back) for p in page(song)) and "strokes from bar 9" not in plain
    song = edits.set_figure(song, [9, 10], "DuDuDuDu")[0]
    start = Fraction(song.grid.starts[11])
    song = edits.put_line(
        song, start, start + 4, [edits.HeardNote(start + k, Fraction(1), 64 + 2 * k) for k in range(3)]
    )[0]
    text, printed = (
        textchart.render(song, strokes=True, tabs=True),
        words_of(pdfchart.render(song, strokes=True, tabs=True)),
    )
    for shown in (text, printed):
        assert "strokes from bar 10: DuDuDuDu" in shown
        assert "strokes from bar 12: D-d-D-d-" in shown, "and where it goes back to what is written"
        assert "line in bar 12: " in shown
        assert "strokes from bar 2" not in shown, "what is as written is not told again"
    quiet = textchart.render(song, strokes=False, tabs=False)
    assert "strokes" not in quiet and "line in" not in quiet


def test_strokes_of_a_second_time_are_told_with_the_time() -> None:
    song = song_of("Verse: C F G C", "Verse: C F G C")
    assert fold(song)[0].times == 2
    song = edits.set_figure(song, [0, 1, 2, 3], "D-d-D-d-")[0]
    song = edits.set_figure(song, [4, 5, 6, 7], "D---D---")[0]
    text = textchart.render(song, strokes=True)
    assert "strokes from bar 1: D-d-D-d-" in text and "2nd time: strokes from bar 5: D---D---" in text
