"""Lines: notes on strings as statements of the user's."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from tests.conftest import make_song
from ychronos.formats import project
from ychronos.guitar.instrument import TUNINGS, GuitarSetup
from ychronos.song import edits
from ychronos.song.edits import EditError, HeardNote
from ychronos.song.linenotes import read_line_note
from ychronos.song.model import Song

RIFF = (45, 48, 50, 52, 50, 48)


def riff(song: Song, at: Fraction = Fraction(4), lane: int = 0) -> Song:
    notes = [
        HeardNote(at + Fraction(k, 2), Fraction(1, 2), n, sure=0.4 if k == 2 else 0.9, rivals=(n + 12,))
        for k, n in enumerate(RIFF)
    ]
    return edits.put_line(song, at, at + 4, notes, lane)[0]


def shown(song: Song) -> list[tuple[Fraction, int, int]]:
    return [(n.at, song.spot_of(n.value).string, song.spot_of(n.value).fret) for n in song.line]


def test_a_line_lies_on_the_strings() -> None:
    song = riff(make_song())
    assert shown(song) == [
        (Fraction(4), 1, 0), (Fraction(9, 2), 1, 3), (Fraction(5), 2, 0), (Fraction(11, 2), 2, 2), (Fraction(6), 2, 0), (Fraction(13, 2), 1, 3),
    ]  # fmt: skip
    assert len(song.line_of_bar(1)) == 6 and not song.line_of_bar(0)


def test_a_new_line_takes_the_place_of_the_old_one_there_only() -> None:
    song = riff(riff(make_song()), Fraction(8))
    song = edits.put_line(song, Fraction(4), Fraction(8), [HeardNote(Fraction(5), Fraction(1), 64)])[0]
    assert [n.value.note for n in song.line_of_bar(1)] == [64]
    assert len(song.line_of_bar(2)) == 6


def test_two_lines_leave_each_other_alone() -> None:
    song = riff(riff(make_song()), lane=1)
    assert len(song.line) == 12
    song = edits.clear_line(song, Fraction(0), Fraction(8), 1)[0]
    assert {n.value.lane for n in song.line} == {0} and len(song.line) == 6


def test_frets_are_typed_and_changed() -> None:
    song = edits.set_fret(make_song(), Fraction(2), 5, 3)[0]
    assert song.line[0].value.note == 67 and song.line[0].value.sure == 1.0
    song = edits.set_fret(song, Fraction(2), 5, 5)[0]
    assert [n.value.note for n in song.line] == [69]
    with pytest.raises(EditError, match="Frets go from 0 to 24"):
        edits.set_fret(song, Fraction(2), 5, 25)
    with pytest.raises(EditError, match="6 strings"):
        edits.set_fret(song, Fraction(2), 6, 1)


def test_another_string_has_the_same_note() -> None:
    song = edits.set_fret(make_song(), Fraction(2), 4, 5)[0]
    song = edits.other_string(song, Fraction(2), 4, step=1)[0]
    assert shown(song) == [(Fraction(2), 5, 0)]
    with pytest.raises(EditError, match="No higher string"):
        edits.other_string(song, Fraction(2), 5, step=1)


def test_the_other_reading_takes_its_place_and_comes_back() -> None:
    song = riff(make_song())
    at, string = song.line[0].at, song.line[0].value.string
    song = edits.next_reading(song, at, string)[0]
    first = song.line_of_bar(1)[0]
    assert first.value.note == 57 and first.value.rivals == (45,)
    song = edits.next_reading(song, at, first.value.string)[0]
    assert song.line_of_bar(1)[0].value.note == 45


def test_a_note_moves_in_time_and_keeps_its_string() -> None:
    song = riff(make_song())
    song = edits.move_line_note(song, Fraction(4), 1, Fraction(3))[0]
    assert shown(song)[0] == (Fraction(3), 1, 0) and len(song.line) == 6


def test_how_a_note_begins() -> None:
    song = riff(make_song())
    song = edits.set_sign(song, Fraction(9, 2), 1, "h")[0]
    assert song.line[1].value.sign == "h"
    assert edits.set_sign(song, Fraction(9, 2), 1, "h")[0].line[1].value.sign == ""
    with pytest.raises(EditError):
        edits.set_sign(song, Fraction(9, 2), 3, "h")


def test_a_line_goes_elsewhere_on_the_neck() -> None:
    song = riff(make_song())
    high = edits.refret(song, Fraction(4), Fraction(8), 7)[0]
    assert min(f for _, _, f in shown(high)) >= 5
    assert [n.value.note for n in high.line] == list(RIFF)


def test_another_tuning_shows_the_same_notes() -> None:
    song = riff(make_song())
    song = replace(song, guitar=GuitarSetup(TUNINGS["drop D"], 2))
    for n in song.line:
        spot = song.spot_of(n.value)
        if n.value.note >= 40:
            assert song.guitar.strings[spot.string] + 2 + spot.fret == n.value.note


def test_a_line_moves_with_the_count_and_through_a_file() -> None:
    song = riff(make_song())
    seconds = [song.grid.clock(n.at) for n in song.line]
    half = edits.half_tempo(song)[0]
    assert [half.grid.clock(n.at) for n in half.line] == pytest.approx(seconds)
    again = project.loads(project.dumps(song))
    assert again.line == song.line


@pytest.mark.parametrize(
    "value",
    [None, [], ["1", 60, 0, "", 1], ["1", 60.5, 0, "", 1, 0], ["1", 60, 0, "z", 1, 0], ["0", 60, 0, "", 1, 0], ["1", 300, 0, "", 1, 0],
     ["1", 60, 0, "", 7, 0], ["1", 60, 0, "", 1, 9], ["1", True, 0, "", 1, 0], ["1", 60, 0, "", 1, 0, 1, 2, 3, 4]],
)  # fmt: skip
def test_what_is_no_note_is_refused(value: object) -> None:
    with pytest.raises(ValueError):
        read_line_note(value)
