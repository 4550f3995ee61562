"""What a user can say about chords beyond naming them: divided, joined, pushed, copied, held."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import make_song
from ychronos.formats import project
from ychronos.song import edits
from ychronos.song.edits import EditError
from ychronos.song.merge import merged
from ychronos.song.model import Section, Song
from ychronos.song.track import Track
from ychronos.theory.chord import NO_CHORD, parse_chord
from ychronos.theory.key import parse_key


def names(song: Song) -> list[str]:
    return [song.chord_name(i) for i in range(len(song.chords))]


def test_a_chord_is_divided_and_its_rest_can_be_another(song: Song) -> None:
    new, words = edits.split_chord(song, Fraction(2))
    assert names(new)[:3] == ["G", "G", "D/F♯"] and new.chords[1].again
    assert words == "G struck again at bar 1, beat 3"
    stated, _ = edits.state_chord(new, Fraction(2), Fraction(4), parse_chord("G7"))
    assert names(stated)[:3] == ["G", "G7", "D/F♯"]
    with pytest.raises(EditError, match="begins here already"):
        edits.split_chord(song, Fraction(4))


def test_a_divided_chord_survives_saving(song: Song) -> None:
    new, _ = edits.split_chord(song, Fraction(2))
    new, _ = edits.articulate(new, 3, "stopped")
    back = project.loads(project.dumps(new))
    assert back.chords == new.chords


def test_a_chord_goes_on_over_the_next(song: Song) -> None:
    new, words = edits.join_chord(song, 1)
    assert names(new)[:3] == ["G", "D/F♯", "C"] and "goes on over Em7" in words
    with pytest.raises(EditError, match="No chord comes after"):
        edits.join_chord(song, len(song.chords) - 1)


def test_a_push_and_a_pull(song: Song) -> None:
    pushed, words = edits.move_change(song, 1, Fraction(-1, 2))
    assert pushed.chords[1].start == Fraction(7, 2) and pushed.chords[1].stated
    assert words == "D/F♯ comes earlier, at bar 1, after beat 4"
    pulled, _ = edits.move_change(pushed, 1, Fraction(1))
    assert pulled.chords[1].start == Fraction(9, 2) and pulled.chords[0].stated
    with pytest.raises(EditError, match="no room"):
        edits.move_change(song, 1, Fraction(-4))
    with pytest.raises(EditError, match="first chord"):
        edits.move_change(song, 0, Fraction(1))


def three_passes() -> Song:
    song = make_song("C F G C", bars=12)
    thirds = [Section(Fraction(16 * i), "Verse", "A") for i in range(3)]
    return replace(song, sections=tuple(thirds))


def test_chords_are_copied_to_the_other_passes() -> None:
    song = three_passes()
    song, _ = edits.state_chord(song, Fraction(22), Fraction(24), parse_chord("Dm7"))
    new, words = edits.copy_to_passes(song, [5])
    at = [new.chords[new.chord_index(Fraction(p))] for p in (6, 22, 38)]
    assert [c.chord for c in at] == [parse_chord("Dm7")] * 3 and all(c.stated for c in at)
    assert words == "chords of bar 6 copied to 2 bars of other times"
    assert edits.twins(song, 5) == [1, 9]


def test_a_section_that_comes_once_has_nowhere_to_copy_to(song: Song) -> None:
    with pytest.raises(EditError, match="no other time"):
        edits.copy_to_passes(song, [0, 1])


def test_held_and_stopped(song: Song) -> None:
    new, words = edits.articulate(song, 2, "held")
    assert new.chords[2].articulation == "held" and words == "Em7 at bar 3, beat 1 is held"
    with pytest.raises(ValueError, match="strummed"):
        replace(song.chords[0], articulation="hummed")


def test_nobody_plays(song: Song) -> None:
    new, _ = edits.state_chord(song, Fraction(4), Fraction(8), NO_CHORD)
    assert new.chords[1].chord.is_none and new.chords[1].stated


def test_the_key_of_a_stretch(song: Song) -> None:
    new, words = edits.state_key(song, parse_key("D major"), 4, 5)
    assert [(k.start, k.key.name()) for k in new.keys] == [(0, "G major"), (16, "D major"), (24, "G major")]
    assert words == "the key is D major from bar 5"
    whole, _ = edits.state_key(new, parse_key("E minor"))
    assert [k.key.name() for k in whole.keys] == ["E minor"] and whole.keys[0].stated


def test_respelling_a_key_respells_its_chords() -> None:
    song = make_song("F# B C#7 A#m", key="Gb major")
    assert names(song)[:4] == ["G♭", "C♭", "D♭7", "B♭m"]
    new, words = edits.respell_keys(song, song.keys[0].key)
    assert names(new)[:4] == ["F♯", "B", "C♯7", "A♯m"]
    assert words == "G♭ major is written as F♯ major"
    assert project.loads(project.dumps(new)).keys == new.keys
    with pytest.raises(EditError, match="no other name"):
        edits.respell_keys(song, parse_key("C major"))


def test_every_school_writes_the_whole_song(song: Song) -> None:
    new, words = edits.set_notation(song, "roman")
    assert names(new)[:4] == ["I", "V/7", "vi7", "IV"] and words == "chords written as roman numerals"
    assert new.name_of(parse_chord("Am7"), Fraction(0)) == "ii7"
    assert project.loads(project.dumps(new)).notation == "roman"
    with pytest.raises(ValueError, match="way of writing"):
        replace(song, notation="runes")


@given(st.lists(st.tuples(st.integers(0, 63), st.integers(0, 5)), max_size=8))
def test_no_series_of_edits_breaks_the_song(steps: list[tuple[int, int]]) -> None:
    song = three_passes()
    for place, kind in steps:
        at = Fraction(place, 2)
        index = song.chord_index(at)
        try:
            if kind == 0:
                song, _ = edits.split_chord(song, at)
            elif kind == 1:
                song, _ = edits.join_chord(song, index)
            elif kind == 2:
                song, _ = edits.move_change(song, index, Fraction(-1, 2))
            elif kind == 3:
                song, _ = edits.move_change(song, index, Fraction(1, 2))
            elif kind == 4:
                song, _ = edits.copy_to_passes(song, [song.grid.bar_at(at)])
            else:
                song, _ = edits.articulate(song, index, "held")
        except EditError as error:
            assert str(error).endswith(".")
    assert project.loads(project.dumps(song)).chords == song.chords  # which checks that the spans tile the song


def test_chords_that_a_statement_does_not_touch_stay_the_same_objects() -> None:
    song, _ = edits.state_chord(make_song("C F G Am", bars=16), Fraction(9), Fraction(11), parse_chord("Dm7"))
    new, _ = edits.state_chord(song, Fraction(40), Fraction(44), parse_chord("E7"))
    before = {id(c) for c in song.chords if not c.stated}
    assert sum(id(c) in before for c in new.chords) >= len(before) - 2


@given(
    st.lists(st.tuples(st.integers(0, 63), st.integers(1, 24), st.sampled_from(["Dm7", "E7", "F", "N.C."])), max_size=8)
)
def test_what_was_stated_last_of_a_place_is_what_stands_there(stated: list[tuple[int, int, str]]) -> None:
    song = make_song("C F G Am", bars=16)
    expected = [song.chords[song.chord_index(Fraction(i, 2))].chord for i in range(128)]
    for at, length, name in stated:
        chord = NO_CHORD if name == "N.C." else parse_chord(name)
        a, b = Fraction(at, 2), min(song.grid.end, Fraction(at + length, 2))
        song, _ = edits.state_chord(song, a, b, chord)
        expected[at : int(2 * b)] = [chord] * (int(2 * b) - at)
    assert [song.chords[song.chord_index(Fraction(i, 2))].chord for i in range(128)] == expected
    assert list(song.chords.floats) == [float(c.start) for c in song.chords] == sorted(song.chords.floats)


def test_a_name_given_to_all_times_stays_where_one_is_heard_as_another_music() -> None:
    named, words = edits.rename_section(three_passes(), 0, "Hook")
    assert words.endswith("all 3 times")
    heard = [*named.sections[:2], replace(named.sections[2], material="B", name="Bridge")]
    there = [*heard, Section(Fraction(40), "Bridge", "B")]
    again = merged(replace(named, sections=Track(there)))
    assert [s.name for s in again.sections] == ["Hook", "Hook", "Hook", "Bridge"]
    newest, _ = edits.rename_section(named, 1, "Refrain")
    assert [s.name for s in newest.sections] == ["Refrain"] * 3
    assert sum(s.kind.endswith("name") for s in newest.statements) == 3, "older names are gone"
    alone, _ = edits.state_material(named, 2, None)
    assert [s.value for s in alone.statements if s.kind == "pass name"] == ["Hook"], "music of its own leaves its name"
