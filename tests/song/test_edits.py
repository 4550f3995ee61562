"""Edits: what is stated is there, what is not touched stays, and every result is a whole song."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import make_song
from ychronos.song import edits
from ychronos.song.history import History
from ychronos.song.model import Section, Song
from ychronos.song.track import Track
from ychronos.theory.chord import parse_chord
from ychronos.theory.key import parse_key

halves = st.integers(0, 63).map(lambda n: Fraction(n, 2))


def names(song: Song) -> list[tuple[Fraction, str]]:
    return [(s.start, song.chord_name(i)) for i, s in enumerate(song.chords)]


def test_stating_a_chord(song: Song) -> None:
    new, sentence = edits.state_chord(song, Fraction(2), Fraction(4), parse_chord("C9"))
    assert names(new)[:3] == [(0, "G"), (2, "C9"), (4, "D/F♯")]
    assert new.chords[1].stated
    assert new.chords[1].confidence == 1
    assert sentence == "C9 at bar 1, beat 3"
    assert song.chords[0].start == 0, "the old song is as it was"


def test_stating_inside_a_chord_splits_it(song: Song) -> None:
    new, _ = edits.state_chord(song, Fraction(1), Fraction(2), parse_chord("Bb"))
    assert names(new)[:4] == [(0, "G"), (1, "B♭"), (2, "G"), (4, "D/F♯")]


@given(halves, halves, st.sampled_from(["C", "F#m7b5", "N", "Gsus4"]))
def test_stated_range_holds_exactly_the_chord(a: Fraction, b: Fraction, text: str) -> None:
    song = make_song()
    start, end = min(a, b), min(max(a, b) + Fraction(1, 2), song.grid.end)
    if start >= end:
        return
    new, _ = edits.state_chord(song, start, end, parse_chord(text))
    step = Fraction(1, 4)
    for k in range(int(song.grid.end / step)):
        at = k * step
        here = new.chords[new.chord_index(at)]
        if start <= at < end:
            assert here.chord == parse_chord(text)
            assert here.stated
        else:
            assert here.chord == song.chords[song.chord_index(at)].chord


def test_removing_a_change(song: Song) -> None:
    new, _ = edits.remove_chord(song, 1)
    assert names(new)[:2] == [(0, "G"), (8, "Em7")]
    with pytest.raises(edits.EditError, match="nothing before"):
        edits.remove_chord(song, 0)


def test_marks_and_ticks(song: Song) -> None:
    new, _ = edits.mark_unsure(song, 2, True, "organ hides it")
    assert new.chords[2].doubtful
    assert new.doubts() == [2]
    back, _ = edits.mark_unsure(new, 2, False)
    assert back.doubts() == []
    ticked, sentence = edits.accept_bars(song, [1, 2])
    assert ticked.checked_bars() == 2
    assert sentence == "bars 2 to 3 checked"
    assert edits.accept_bars(ticked, [1], False)[0].checked_bars() == 1
    with pytest.raises(edits.EditError, match="No bar"):
        edits.accept_bars(song, [])


def test_a_bar_of_stated_chords_counts_as_checked(song: Song) -> None:
    new, _ = edits.state_chord(song, Fraction(4), Fraction(8), parse_chord("D"))
    assert [new.bar_checked(i) for i in range(3)] == [False, True, False]


def test_renaming_reaches_the_other_passes() -> None:
    song = make_song()
    song = replace(song, sections=Track([*song.sections, Section(Fraction(24), "Verse", "A")]))
    new, sentence = edits.rename_section(song, 0, "  Strophe ")
    assert [s.name for s in new.sections] == ["Strophe", "Chorus", "Strophe"]
    assert sentence == "“Verse” is now “Strophe”, all 2 times"
    one, sentence = edits.rename_section(new, 2, "Outro", all_passes=False)
    assert [s.name for s in one.sections] == ["Strophe", "Chorus", "Outro"]
    assert sentence == "“Strophe” at bar 7 is “Outro”, this time only"
    with pytest.raises(edits.EditError, match="name"):
        edits.rename_section(song, 0, "   ")


def test_sections_begin_and_join(song: Song) -> None:
    new, _ = edits.start_section(song, Fraction(8))
    assert [s.start for s in new.sections] == [0, 8, 16]
    joined, _ = edits.join_section(new, 1)
    assert [s.start for s in joined.sections] == [0, 16]
    for wrong in (lambda: edits.start_section(song, Fraction(0)), lambda: edits.join_section(song, 0)):
        with pytest.raises(edits.EditError):
            wrong()


def test_one_is_here_moves_the_bar_lines(song: Song) -> None:
    new, _ = edits.one_is_here(song, 2)
    assert new.grid.starts[:4] == (0, 2, 6, 10)
    assert new.grid.bars[0].first == 3, "the first bar became a pick-up"
    assert new.grid.number(1) == 1
    assert new.grid.bars[1].stated
    assert names(new) == names(song), "chords stay on their beats"
    assert new.grid.times == song.grid.times
    assert all(s.start in new.grid.starts for s in new.sections)


@given(st.lists(st.integers(0, 31), min_size=1, max_size=4, unique=True))
def test_stated_ones_all_hold(beats: list[int]) -> None:
    song = make_song()
    for beat in beats:
        song, _ = edits.one_is_here(song, beat)
    for beat in beats:
        index = song.grid.bar_at(beat)
        assert song.grid.starts[index] == beat
        assert song.grid.bars[index].stated
    assert song.grid.beat_count == 32


def test_double_and_half_undo_each_other(song: Song) -> None:
    double, _ = edits.double_tempo(song)
    assert len(double.grid.bars) == 16
    assert double.grid.tempo() == pytest.approx(240)
    assert double.chords[1].start == 8
    half, _ = edits.half_tempo(double)
    assert half.grid.times == pytest.approx(song.grid.times)
    assert half.chords == song.chords
    assert half.sections == song.sections


@given(st.integers(3, 9), st.integers(2, 7), st.integers(0, 1))
def test_counting_differently_keeps_the_clock_of_chords(bars: int, beats: int, lead: int) -> None:
    song = make_song(bars=bars, beats=beats, lead=lead)
    for change in (edits.double_tempo, edits.half_tempo):
        new, _ = change(song)
        old_times = [song.grid.clock(s.start) for s in song.chords]
        new_times = [new.grid.clock(s.start) for s in new.chords]
        late = sum(1 for t in old_times if min(abs(t - n) for n in new_times) > 1e-6)
        assert late <= 1, "at most a chord before the first kept beat moves"


def test_key_and_title(song: Song) -> None:
    assert edits.state_key(song, parse_key("E minor"))[0].keys[0].stated
    assert edits.rename_song(song, " Fog  Signal ", "Low Tide")[0].title == "Fog Signal"
    with pytest.raises(edits.EditError):
        edits.rename_song(song, " ", "")


def test_history_undoes_and_redoes(song: Song) -> None:
    history = History()
    history.start(song)
    assert not history.can_undo
    second, sentence = edits.remove_chord(song, 1)
    history.do(second, sentence)
    assert history.undo_text == sentence
    assert history.undo() == sentence
    assert history.song is song
    assert history.redo() == sentence
    assert history.song is second
    history.undo()
    history.do(song, "something else")
    assert not history.can_redo
