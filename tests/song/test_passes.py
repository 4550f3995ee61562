"""Passes side by side: alignment with gaps, kinds of differences, folding."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import make_song
from ychronos.chart.rows import fold as rows
from ychronos.chart.rows import stack
from ychronos.formats import project
from ychronos.song import edits
from ychronos.song.alignment import align, alike, bars_of, differing_bars, passes
from ychronos.song.edits import EditError
from ychronos.song.model import Section, Song
from ychronos.theory.chord import parse_chord


def song_of(*parts: str, names: str = "") -> Song:
    """A song of parts, each ``Name: chords``; parts of one name are the same music."""
    chords = " ".join(p.split(":")[1] for p in parts)
    song = make_song(chords, bars=len(chords.split()))
    at, out = 0, []
    for part in parts:
        name, text = part.split(":")
        out.append(Section(Fraction(4 * at), name, name[0]))
        at += len(text.split())
    return replace(song, sections=tuple(out))


def words(song: Song, section: int = 0) -> list[str]:
    return [d.words for p in passes(song, section) for d in p.differences]


def test_passes_that_are_the_same_have_no_differences() -> None:
    assert words(song_of("Verse: C F G C", "Verse: C F G C")) == []


def test_another_chord_and_another_bass() -> None:
    song = song_of("Verse: C F G C", "Bridge: Em D", "Verse: C F7 G/B C")
    found = [d for p in passes(song, 0) for d in p.differences]
    assert [(d.kind, d.bar, d.twin) for d in found] == [("chord", 7, 1), ("bass", 8, 2)]
    assert found[0].words == "bar 8: F7 instead of F"


def test_added_and_missing_bars() -> None:
    song = song_of("Verse: C F G C", "Verse: C F Am D G C", "Verse: C G C")
    kinds = [(d.kind, d.section, d.words) for p in passes(song, 0) for d in p.differences]
    assert kinds == [("added", 1, "bars 7 to 8 are added: Am | D"), ("missing", 2, "bar 2 is missing")]


def test_two_other_bars_are_not_one_missing_and_one_added() -> None:
    """But a figure that comes a bar later is one bar more before it, and one less after."""
    assert words(song_of("Verse: C F G Am", "Verse: C Dm F Am")) == [
        "bar 6: Dm instead of F",
        "bar 7: F instead of G",
    ]
    assert words(song_of("Verse: C F G Am D Em", "Verse: C Bm F G Am Em")) == ["bar 8 is added: Bm", "bar 5 is missing"]


def test_a_short_pass_is_a_part_and_the_usual_length_is_the_model() -> None:
    song = song_of("Verse: C F", "Verse: C F G C Am D", "Bridge: Em D", "Verse: C F G C Am F")
    found = passes(song, 0)
    assert [p.model for p in found] == [False, True, False]
    assert [(d.kind, d.words) for p in found for d in p.differences] == [
        ("part", "only a part: bars 3 to 4"),
        ("chord", "bar 16: F instead of D"),
    ]


def test_what_is_other_in_a_higher_pass_is_told_at_its_own_pitch() -> None:
    song = song_of("Verse: C F G C Am F C G", "Verse: D G A D Bm E D A")
    assert words(song) == ["all of it is a whole step higher", "bar 14: E instead of G"]


def test_the_rest_of_a_record_is_no_bar_that_was_added() -> None:
    song = song_of("Verse: C F G C", "Verse: C F G C Am")
    assert words(song) == ["bar 9 is added: Am"]
    bars = (*song.grid.bars[:-1], replace(song.grid.bars[-1], beats=2))
    short = replace(song, grid=replace(song.grid, bars=bars, times=song.grid.times[:-2]))
    assert words(short) == []


def test_a_change_that_comes_early() -> None:
    song = song_of("Verse: C F G C", "Verse: C F G C")
    pushed, _ = edits.move_change(song, 5, Fraction(-1, 2))
    found = [d.kind for p in passes(pushed, 0) for d in p.differences]
    assert found == ["chord"], "the bar before has the pushed chord in it"
    whole = song_of("Verse: C F G C", "Verse: C F G C")
    two, _ = edits.state_chord(whole, Fraction(2), Fraction(4), parse_chord("Am"))
    two, _ = edits.state_chord(two, Fraction(19), Fraction(20), parse_chord("Am"))
    late = [d for p in passes(two, 0) for d in p.differences]
    assert [d.kind for d in late] == ["timing"] and "1 beat later" in late[0].words


def test_a_stop_is_a_difference() -> None:
    song = song_of("Verse: C F G C", "Verse: C F G C")
    stopped, _ = edits.articulate(song, 2, "stopped")
    assert words(stopped) == ["bar 7: G instead of G•"]


def test_a_pass_that_is_higher_is_told_once() -> None:
    song = song_of("Verse: C F G C Am F", "Verse: D G A D Bm G")
    assert words(song) == ["all of it is a whole step higher"]
    down = song_of("Verse: C F G C Am F", "Verse: B E F# B G#m E7")
    assert words(down)[0] == "all of it is a half step lower" and len(words(down)) == 2


def test_sound_alone() -> None:
    song = song_of("Verse: C F G C", "Verse: C F G C")
    found = [
        d
        for p in passes(song, 0, heard=lambda bar, twin, up: ("sound", "x", 0.9) if bar == 6 else None)
        for d in p.differences
    ]
    assert [(d.kind, d.bar) for d in found] == [("sound", 6)] and found[0].sure == pytest.approx(0.9)


letters = st.lists(st.sampled_from(["C", "F", "G", "Am", "D7", "Em/B"]), min_size=2, max_size=7)


@given(letters, letters)
def test_alignment_keeps_every_bar_in_order(one: list[str], two: list[str]) -> None:
    song = song_of("Verse: " + " ".join(one), "Verse: " + " ".join(two))
    a, b = bars_of(song, 0), bars_of(song, 1)
    pairs = align(song, a, b)
    assert [x for x, _ in pairs if x is not None] == list(a)
    assert [y for _, y in pairs if y is not None] == list(b)
    assert (None, None) not in pairs
    assert all(alike(song, x, x) == pytest.approx(1) for x in a)


def test_rows_are_stacked_by_section() -> None:
    song = song_of("Verse: C F G C", "Bridge: Em D", "Verse: C F G C")
    made = stack(song, rows(song))
    assert [r.section for r in made] == [0, 2, 1]
    assert sorted(r.first for r in made) == [r.first for r in rows(song)]


def test_a_section_is_moved_and_said_to_be_the_same() -> None:
    song = song_of("Verse: C F G C", "Bridge: Em D C D", "Chorus: F G C C")
    new, said = edits.move_section(song, 1, Fraction(20))
    assert new.sections[1].start == 20 and new.sections[1].stated and said == "“Bridge” begins at bar 6"
    with pytest.raises(EditError, match="neighbours"):
        edits.move_section(song, 1, Fraction(32))
    with pytest.raises(EditError, match="first section"):
        edits.move_section(song, 0, Fraction(8))
    same, said = edits.state_material(song, 2, 0)
    assert same.sections[2].material == "V" and same.sections[2].name == "Verse" and "same as" in said
    own, _ = edits.state_material(same, 2, None)
    assert own.sections[2].material not in ("V", "B") and own.sections[2].material_stated
    assert project.loads(project.dumps(own)).sections == own.sections
    with pytest.raises(EditError, match="itself"):
        edits.state_material(song, 1, 1)


def test_marks_are_set_and_taken_away(song: Song) -> None:
    new, said = edits.set_mark(song, Fraction(5), "  the  fill ")
    assert new.marks[0].text == "the fill" and said == "marked bar 2, beat 2"
    with pytest.raises(EditError, match="no mark"):
        edits.remove_mark(new, Fraction(6))
    assert edits.remove_mark(new, Fraction(5))[0].marks == ()


def test_bars_that_differ_are_those_of_all_passes() -> None:
    song = song_of("Verse: C F G C", "Bridge: Em D", "Verse: C F7 G C", "Bridge: Em D Am", "Verse: D G A D")
    differs = differing_bars(song)
    assert 7 in differs and 12 in differs
    assert not differs & {0, 1, 2, 3, 4, 5, 6}
