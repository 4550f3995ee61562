"""Statements: what was said stays said, in whatever order, and nothing but they marks what is stated."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import make_song
from ychronos.formats import project
from ychronos.guitar.fretting import Fretting
from ychronos.guitar.instrument import STANDARD
from ychronos.song import edits
from ychronos.song import statements as said
from ychronos.song.grid import Bar, Grid
from ychronos.song.linenotes import LineNote
from ychronos.song.merge import merged, merged_chords, restated
from ychronos.song.model import Section, Song
from ychronos.song.statements import KINDS, Statement
from ychronos.song.track import Track, move
from ychronos.theory.chord import parse_chord
from ychronos.theory.key import parse_key
from ychronos.theory.meter import Meter

SCHEMA_2 = Path(__file__).parent.parent / "formats" / "data" / "schema2.ychronos"
places = st.integers(0, 63).map(lambda n: Fraction(n, 2))
stretches = st.tuples(places, st.integers(1, 12)).map(lambda x: (x[0], x[0] + Fraction(x[1], 2)))


# ---------------------------------------------------------------- values


@given(st.lists(st.tuples(stretches, st.sampled_from(["C", "Am", "F/G"])), max_size=6))
def test_a_newer_word_holds_where_it_speaks_and_older_ones_elsewhere(
    put: list[tuple[tuple[Fraction, Fraction], str]],
) -> None:
    found: said.Statements = ()
    for (a, b), text in put:
        found = said.put(found, Statement("chord", a, b, parse_chord(text)))
    for k in range(160):
        at = Fraction(k, 2)
        want = next((t for (a, b), t in reversed(put) if a <= at < b), None)
        have = said.at(found, "chord", at)
        assert (have.value if have else None) == (parse_chord(want) if want else None)
    assert found == said.ordered(found)
    words = [Statement("chord", a, b, parse_chord(text)) for (a, b), text in put]
    assert said.put((), *words) == found, "said at once they are the same"


def test_a_statement_that_makes_no_sense_is_refused() -> None:
    for wrong in (
        lambda: Statement("chord", Fraction(1)),
        lambda: Statement("one", Fraction(1), Fraction(2)),
        lambda: Statement("chord", Fraction(2), Fraction(2)),
        lambda: Statement("feeling", Fraction(2)),
    ):
        with pytest.raises(ValueError, match="“"):
            wrong()


def test_a_piece_of_a_bars_length_says_nothing() -> None:
    length = said.put((), Statement("length", Fraction(4), Fraction(9)))
    assert said.cut(length, ["length"], Fraction(6), Fraction(7)) == ()
    assert said.cut(length, ["chord"], Fraction(6), Fraction(7)) == length
    assert len(said.cut(said.put((), Statement("checked", Fraction(0), Fraction(8))), ["checked"], Fraction(2), Fraction(4))) == 2  # fmt: skip


def test_when_and_why_are_for_the_record_only() -> None:
    one = Statement("one", Fraction(4))
    (late,) = said.stamped((one,), "2031-01-01", "one is here")
    assert late == one and late.when == "2031-01-01" and late.why == "one is here"
    assert said.stamped((late,), "2032-01-01")[0].when == "2031-01-01"
    assert said.news((one,), (late, Statement("one", Fraction(8)))) == [Statement("one", Fraction(8))]


# ---------------------------------------------------------------- independent statements

INDEPENDENT: list[Callable[[Song], edits.Edited]] = [
    lambda s: edits.state_chord(s, Fraction(2), Fraction(4), parse_chord("C9"), (0, None, 0)),
    lambda s: edits.remove_chord(s, s.chord_index(Fraction(24))),
    lambda s: edits.mark_unsure(s, s.chord_index(Fraction(8)), True, "organ hides it"),
    lambda s: edits.articulate(s, s.chord_index(Fraction(12)), "stopped"),
    lambda s: edits.join_section(s, s.section_index(Fraction(16))),
    lambda s: edits.state_key(s, parse_key("E minor"), 4, 5),
    lambda s: edits.accept_bars(s, [1]),
    lambda s: edits.set_mark(s, Fraction(9), "the fill"),
    lambda s: edits.one_is_here(s, 28),
    lambda s: edits.move_beat(s, 20, s.grid.times[20] + 0.05),
]


@given(st.permutations(range(len(INDEPENDENT))), st.integers(1, len(INDEPENDENT)))
def test_the_order_of_independent_statements_leaves_no_trace(order: list[int], number: int) -> None:
    some = order[:number]
    songs = []
    for way in (some, sorted(some)):
        song = make_song()
        for k in way:
            song = INDEPENDENT[k](song)[0]
        songs.append(song)
    assert songs[0] == songs[1]
    assert songs[0].statements == songs[1].statements


@given(st.permutations(range(len(INDEPENDENT))))
def test_every_statement_survives_every_other_and_the_file(order: list[int]) -> None:
    song = make_song()
    for k in order:
        before = song.statements
        song = INDEPENDENT[k](song)[0]
        assert set(map(str, before)) <= set(map(str, song.statements))
        assert merged(song) == song, "merging what is merged changes nothing"
    back = project.loads(project.dumps(song))
    assert back.statements == song.statements
    assert [c.stated for c in back.chords] == [c.stated for c in song.chords]
    assert (back.chords, back.keys, back.grid.bars) == (song.chords, song.keys, song.grid.bars)


@given(st.permutations([0, 1, 2, 3, 4]))
def test_what_was_removed_stays_removed(order: list[int]) -> None:
    """Whatever is said after it, a change of chord and a section that were taken away do not come back by merging what
    the analysis would decide."""
    song = make_song()
    decided = song.chords
    song, _ = edits.remove_chord(song, 2)
    song, _ = edits.join_section(song, 1)
    for k in order:
        song = [INDEPENDENT[i] for i in (0, 2, 3, 5, 7)][k](song)[0]
        again = merged(replace(song, chords=merged_chords(decided, song.statements, song.grid.end)))
        assert Fraction(8) not in again.chords.starts
        assert Fraction(16) not in song.sections.starts


def test_a_removed_change_goes_on_with_whatever_comes_to_stand_before_it(song: Song) -> None:
    new, _ = edits.remove_chord(song, 1)
    new, _ = edits.state_chord(new, Fraction(0), Fraction(4), parse_chord("Bb"))
    assert [new.chord_name(i) for i in range(2)] == ["B♭", "Em7"]
    inside, _ = edits.state_chord(new, Fraction(5), Fraction(6), parse_chord("F"))
    assert [(s.start, s.chord) for s in inside.chords[:4]] == [
        (0, parse_chord("Bb")), (5, parse_chord("F")), (6, parse_chord("Bb")), (8, parse_chord("Em7")),
    ]  # fmt: skip


# ---------------------------------------------------------------- the count moves everything


def test_half_as_fast_keeps_every_mark_on_its_music() -> None:
    song, _ = edits.mark_unsure(make_song(), 3, True, "organ hides it")
    song, _ = edits.accept_bars(song, [0, 1])
    song, _ = edits.set_mark(song, Fraction(9), "the fill")
    clock = song.grid.clock(song.chords[3].start)
    half, _ = edits.half_tempo(song)
    doubtful = [s for s in half.chords if s.unsure]
    assert [s.comment for s in doubtful] == ["organ hides it"]
    assert half.grid.clock(doubtful[0].start) == pytest.approx(clock)
    assert half.grid.clock(half.marks[0].at) == pytest.approx(song.grid.clock(Fraction(9)))
    assert half.bar_checked(0) and not half.bar_checked(1), "two checked bars are one checked bar"
    back, _ = edits.double_tempo(half)
    assert (back.statements, back.chords) == (song.statements, song.chords)


def test_one_is_here_on_a_bar_line_changes_nothing_else(song: Song) -> None:
    song, _ = edits.accept_bars(song, range(6))
    new, _ = edits.one_is_here(song, 8)
    assert new.checked_bars() == 6
    assert new.grid.starts == song.grid.starts and new.grid.bars[2].stated


def test_checked_bars_whose_lines_move_are_not_checked_any_more(song: Song) -> None:
    song, _ = edits.accept_bars(song, range(8))
    new, _ = edits.one_is_here(song, 18)
    ticks = [new.bar_checked(i) for i in range(len(new.grid.bars))]
    whole = [i for i, b in enumerate(new.grid.bars) if b.beats == 4]
    assert not any(ticks[i] for i in whole if new.grid.starts[i] not in song.grid.starts)
    shifted, _ = edits.shift_ones(song, 1)
    assert not any(shifted.bar_checked(i) for i, b in enumerate(shifted.grid.bars) if b.beats == 4)


@given(st.integers(1, 30), st.sampled_from([Fraction(1, 2), Fraction(2), Fraction(2, 3)]))
def test_a_move_of_the_count_keeps_the_clock_of_places(place: int, factor: Fraction) -> None:
    song = make_song()
    new = edits.recount(song, factor).grid
    mapped = move(song.grid, new)
    for at in (Fraction(place), place + Fraction(1, 2), place + Fraction(1, 3)):
        assert new.clock(mapped(at)) == pytest.approx(song.grid.clock(at), abs=0.13)
        if factor != Fraction(2, 3):
            assert mapped(at) == at * factor and move(new, song.grid)(mapped(at)) == at


def test_a_beat_more_moves_what_comes_after_it_by_a_beat(song: Song) -> None:
    new, _ = edits.insert_beat(song, 9)
    mapped = move(song.grid, new.grid)
    assert [mapped(Fraction(x)) for x in (3, 9, 10, 20)] == [3, 9, 11, 21]
    assert mapped(Fraction(61, 3)) == Fraction(64, 3)


def test_bar_lines_are_followed_by_what_stands_on_them(song: Song) -> None:
    song, _ = edits.start_section(song, Fraction(8))
    new, _ = edits.shift_ones(song, 1)
    assert Fraction(9) in new.sections.starts and all(s.start in new.grid.starts or not s.start for s in new.sections)


def test_tracks_look_things_up() -> None:
    song = make_song()
    track: Track = song.chords
    assert track.index_at(Fraction(-3)) == 0 and track.at(Fraction(5)) is track[1]
    assert track.range_of(len(track) - 1, song.grid.end)[1] == song.grid.end
    assert list(track.touching(Fraction(4), Fraction(9))) == [1, 2]
    assert [b for _, b, _ in track.ranges(song.grid.end)][-1] == 32


def test_what_was_said_is_kept_by_a_song_that_is_analysed_anew(song: Song) -> None:
    spoken, _ = edits.state_chord(song, Fraction(8), Fraction(12), parse_chord("C9"))
    times = tuple(t + 0.01 for t in song.grid.times)
    other = replace(song, grid=Grid(tuple(Bar(Meter(4), 4) for _ in range(8)), times))
    new = restated(other, spoken)
    assert new.chords.at(Fraction(8)).chord == parse_chord("C9") and new.chords.at(Fraction(8)).stated


# ---------------------------------------------------------------- meters, sections, spelling


@pytest.mark.parametrize("text", ["10/8", "8/8", "15/8", "3/8", "9/4", "10/4"])
def test_any_meter_can_be_stated(text: str) -> None:
    song = make_song(beats=5, bars=12)
    numerator, denominator = map(int, text.split("/"))
    new, words = edits.set_meter(song, 2, 5, Meter(numerator, denominator))
    stated = [b for b in new.grid.bars if b.meter_stated]
    assert stated and all(str(b.meter) == text for b in stated) and f"in {text}" in words
    assert sum(not b.odd for b in stated) >= len(stated) - 1
    assert [str(b.meter) for b in new.grid.bars[:2]] == ["5/4", "5/4"]


def test_a_single_bar_gets_a_meter_of_its_own(song: Song) -> None:
    new, words = edits.set_meter(song, 2, 2, Meter(5))
    assert [b.beats for b in new.grid.bars[:4]] == [4, 4, 5, 4]
    assert words == "bar 3 is in 5/4" and [b.meter_stated for b in new.grid.bars[:4]] == [False, False, True, False]
    with pytest.raises(edits.EditError, match="beats are left"):
        edits.set_meter(song, 7, 7, Meter(5))


def test_the_first_and_the_last_pass_of_one_music_have_names_of_their_own() -> None:
    song = make_song()
    thirds = [replace(song.sections[0], start=Fraction(8 * i), material="A", name="Verse") for i in range(4)]
    song = replace(song, sections=Track(thirds))
    song, _ = edits.rename_section(song, 0, "Intro", all_passes=False)
    song, _ = edits.rename_section(song, 3, "Outro", all_passes=False)
    song, words = edits.rename_section(song, 1, "Strophe")
    assert [s.name for s in song.sections] == ["Intro", "Strophe", "Strophe", "Outro"]
    assert words == "“Verse” is now “Strophe”, all 2 times"
    assert {s.material for s in song.sections} == {"A"}


def test_a_section_begins_inside_a_bar(song: Song) -> None:
    new, words = edits.start_section(song, Fraction(11))
    assert words == "a section begins at bar 3, beat 4"
    assert Fraction(11) in new.sections.starts
    assert [list(new.section_bars(i)) for i in range(3)] == [[0, 1, 2], [3], [4, 5, 6, 7]]
    near, _ = edits.start_section(song, Fraction(15))
    assert [s.start for s in near.sections] == [0, 15], "the beginning on the next bar line was meant to be this one"
    assert near.sections[1].name == "Chorus" and list(near.section_bars(1)) == [4, 5, 6, 7]
    assert project.loads(project.dumps(near)).sections == near.sections


def test_not_the_same_is_a_statement_too() -> None:
    song = make_song()
    song = replace(song, sections=Track(replace(s, material="A", name="Verse") for s in song.sections))
    new, words = edits.state_material(song, 1, 0, positive=False)
    assert new.sections[1].material != "A" and words == "“Verse” at bar 5 is not the same as “Verse”"
    assert merged(replace(new, sections=song.sections)).sections[1].material != "A", "also when it is decided so again"


@pytest.mark.parametrize(
    ("key", "line", "typed"),
    [("C major", "D7 Db C", "D♭"), ("E major", "E Bm/G# E", "Bm/G♯"), ("Eb minor", "Ebm B Ebm", "B")],
)
def test_what_was_typed_is_spelled_as_typed(key: str, line: str, typed: str) -> None:
    from ychronos.theory.chordtext import parse_line

    song = make_song(chords="N", key=key)
    (bar,) = parse_line(line)
    pieces = [(Fraction(4 * k), Fraction(4 * k + 4), t.chord, (*t.spelling, 0)) for k, t in enumerate(bar) if t]
    new, _ = edits.state_chords(song, pieces)
    assert new.chord_name(1) == typed
    assert project.loads(project.dumps(new)).chord_name(1) == typed
    other, _ = edits.state_chord(new, Fraction(4), Fraction(8), parse_chord("A"))
    assert other.chord_name(1) == "A", "another chord is not spelled so"


def test_an_older_project_opens_with_all_its_statements() -> None:
    song = project.loads(SCHEMA_2.read_bytes())
    grid = song.grid
    assert [i for i, b in enumerate(grid.bars) if b.stated] == [5, 6, 10]
    assert [i for i, b in enumerate(grid.bars) if b.length_stated] == [6]
    assert [i for i, b in enumerate(grid.bars) if b.meter_stated] == [10, 11, 12]
    assert grid.stated_beats == {9} and grid.bars[6].grouping == (2, 3)
    assert next((s.start, s.chord.harte()) for s in song.chords if s.stated) == (4, "F#:hdim7")
    assert [s.comment for s in song.chords if s.unsure] == ["organ hides it"]
    assert [s.start for s in song.chords if s.again] == [14] and "held" in {s.articulation for s in song.chords}
    assert next((k.start, k.key.name()) for k in song.keys if k.stated)[1] == "E minor"
    assert [s.name for s in song.sections] == ["Strophe", "Chorus", "Strophe", "Chorus"]
    assert [m.text for m in song.marks] == ["the fill"] and [song.bar_checked(i) for i in (1, 2, 3)] == [
        False,
        True,
        True,
    ]
    assert project.loads(project.dumps(song)) == song


def test_fields_of_a_later_program_are_kept() -> None:
    import json

    document = json.loads(project.dumps(make_song()))
    document["lyrics"] = {"lines": ["low tide"]}
    document["statements"].append({"kind": "stroke", "at": "4", "value": "D"})
    song = project.loads(json.dumps(document).encode())
    song, _ = edits.set_mark(song, Fraction(4), "here")
    again = json.loads(project.dumps(song))
    assert again["lyrics"] == {"lines": ["low tide"]}
    assert {"kind": "stroke", "at": "4", "value": "D"} in again["statements"]


def test_every_kind_is_read_and_written() -> None:
    values = {
        "chord": parse_chord("F/G"), "key": parse_key("D dorian"), "meter": Meter(7, 8), "grouping": (2, 2),
        "spelling": (2, None, -3), "same": Fraction(16), "not same": Fraction(16), "beat": 5.0, "articulation": "held",
        "unsure": "why", "mark": "note", "lyric": "low tide", "sung": False, "paired": True, "note": ("cue", "horns"), "figure": "D-dU", "line": LineNote(Fraction(3, 4), 57, 2, "h", 0.42, 1, (45, 64)), "pass name": "Intro", "music name": "Verse",
        "shape": Fretting(parse_chord("A"), (3, 2, 0, 0, 0, 3), STANDARD, 2, (3, 2, 0, 0, 0, 4)),
    }  # fmt: skip
    for kind, k in KINDS.items():
        at = Fraction(8)
        s = Statement(kind, at, Fraction(12) if k.stretch else None, values.get(kind), "2031-05-01T10:00:00", "why")
        song = replace(make_song(), statements=(s,))
        (back,) = project.loads(project.dumps(song)).statements
        assert (back, back.when, back.why) == (s, s.when, s.why)


def test_undo_and_redo_give_the_very_song() -> None:
    from ychronos.song.history import History

    history = History()
    history.start(make_song())
    songs = [history.song]
    for k in range(len(INDEPENDENT)):
        assert history.song is not None
        history.do(*INDEPENDENT[k](history.song))
        songs.append(history.song)
    for one in itertools.chain(reversed(songs[:-1])):
        history.undo()
        assert history.song is one


# ---------------------------------------------------------------- what is said of sections, all at once

_lines = st.integers(0, 7).map(lambda n: Fraction(4 * n))
_of_sections = st.one_of(
    _lines.map(lambda at: Statement("section", at)),
    st.tuples(_lines, st.integers(1, 3)).map(lambda x: Statement("one section", x[0], x[0] + 4 * x[1])),
    st.tuples(_lines, st.none() | _lines).map(lambda x: Statement("same", x[0], None, x[1])),
    st.tuples(_lines, _lines).map(lambda x: Statement("not same", x[0], None, x[1])),
    st.tuples(_lines, st.sampled_from(["Verse", "Harbour part"])).map(
        lambda x: Statement("music name", x[0], None, x[1])
    ),
    st.tuples(_lines, st.sampled_from(["Verse", "Tag"])).map(lambda x: Statement("pass name", x[0], None, x[1])),
)


@given(st.lists(_of_sections, max_size=8), st.lists(st.sampled_from("ABC"), min_size=8, max_size=8))
@settings(max_examples=400)
def test_whatever_is_said_of_sections_is_the_same_when_it_is_read_again(
    put: list[Statement], letters: list[str]
) -> None:
    song = make_song()
    song = replace(
        song,
        sections=Track(
            Section(Fraction(4 * i), f"Part {x}", x) for i, x in enumerate(letters) if 4 * i < song.grid.end
        ),
        statements=said.put((), *(s for s in put if s.end <= song.grid.end)),
    )
    once = merged(song)
    assert merged(once) == once
    assert project.loads(project.dumps(once)).sections == once.sections
