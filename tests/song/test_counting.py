"""What a user says about the count, and what follows for everything that stands on it."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import make_song
from ychronos.song import edits
from ychronos.song.barlines import bars_by_clock, nearest_beat
from ychronos.song.grid import Bar
from ychronos.song.model import Song
from ychronos.theory.meter import Meter


@pytest.fixture
def song() -> Song:
    return make_song()


def chord_clocks(song: Song) -> list[tuple[float, str]]:
    return [(round(song.grid.clock(s.start), 4), song.chord_name(i)) for i, s in enumerate(song.chords)]


def test_a_moved_beat_takes_what_stands_on_it_along(song: Song) -> None:
    new, sentence = edits.move_beat(song, 4, song.grid.times[4] + 0.2)
    assert new.grid.times[4] == pytest.approx(song.grid.times[4] + 0.2)
    assert new.grid.stated_beats == {4}
    assert new.chords == song.chords
    assert new.grid.clock(new.chords[1].start) == pytest.approx(song.grid.times[4] + 0.2)
    assert "3.20 s" in sentence
    far, _ = edits.move_beat(song, 4, 99.0)
    assert far.grid.times[4] < far.grid.times[5], "it stays between its neighbours"
    with pytest.raises(edits.EditError):
        edits.move_beat(song, 32, 1.0)


@given(st.integers(0, 31))
def test_inserting_and_removing_a_beat_leaves_the_clock_of_chords(beat: int) -> None:
    song = make_song()
    more, _ = edits.insert_beat(song, beat)
    index = song.grid.bar_at(beat)
    assert more.grid.bars[index].beats == 5
    assert more.grid.bars[index].length_stated
    assert chord_clocks(more) == chord_clocks(song)
    back, _ = edits.remove_beat(more, beat + 1)
    assert back.grid.times == song.grid.times
    assert chord_clocks(back) == chord_clocks(song)


def test_a_bar_of_one_beat_goes_with_its_beat() -> None:
    song = make_song(lead=1)
    less, _ = edits.remove_beat(song, 0)
    assert less.grid.lead_in == 0
    assert len(less.grid.bars) == len(song.grid.bars) - 1


def test_beats_between_move_by_half(song: Song) -> None:
    new, _ = edits.between_beats(song, 0, 7)
    assert new.grid.times[:4] == pytest.approx([1.25, 1.75, 2.25, 2.75])
    assert new.grid.beat_count == 32
    assert not new.grid.stated_beats
    part, _ = edits.between_beats(song, 2, 4)
    stated = [part.grid.times[b] for b in sorted(part.grid.stated_beats)]
    assert stated[1:] == pytest.approx([5.25 + 0.5 * i for i in range(len(stated) - 1)])
    gaps = [b - a for a, b in zip(part.grid.times, part.grid.times[1:], strict=False)]
    assert min(gaps) >= 0.3
    assert max(gaps) <= 0.8
    assert part.grid.times[:8] == song.grid.times[:8]


def test_split_and_join_are_opposites(song: Song) -> None:
    split, _ = edits.split_bar(song, 6)
    assert split.grid.starts[:5] == (0, 4, 6, 8, 12)
    assert [b.length_stated for b in split.grid.bars[:4]] == [False, True, True, False]
    joined, _ = edits.join_bars(split, 1, 2)
    assert joined.grid.starts == song.grid.starts
    assert joined.chords == song.chords
    for wrong in (lambda: edits.split_bar(song, 4), lambda: edits.join_bars(song, 7, 7)):
        with pytest.raises(edits.EditError):
            wrong()


@given(st.integers(0, 7), st.integers(1, 9))
def test_a_stated_length_holds_and_later_bars_follow(bar: int, beats: int) -> None:
    song = make_song()
    try:
        new, _ = edits.set_length(song, bar, beats)
    except edits.EditError as error:
        assert song.grid.starts[bar] + beats > 32, error
        return
    assert new.grid.bars[bar].beats == beats
    assert new.grid.bars[bar].length_stated
    assert new.grid.starts[bar] == song.grid.starts[bar]
    assert new.grid.times == song.grid.times
    after = new.grid.bars[bar + 1 : -1]
    assert all(b.beats == 4 for b in after)
    again, _ = edits.one_is_here(new, new.grid.starts[bar])
    assert again.grid.bars[bar].beats in (4, beats, 32 - song.grid.starts[bar])


def test_a_meter_that_counts_the_same_beats_lays_new_bars(song: Song) -> None:
    new, sentence = edits.set_meter(song, 2, 4, Meter(3))
    assert new.grid.starts == (0, 4, 8, 11, 14, 17, 20, 24, 28, 32)
    assert [b.meter_stated for b in new.grid.bars] == [False, False, True, True, True, True, False, False, False]
    assert new.chords == song.chords
    assert "3/4" in sentence


def test_six_eight_for_three_four_keeps_the_bars_and_counts_two() -> None:
    song = make_song(beats=3, bars=6)
    new, _ = edits.set_meter(song, 0, 5, Meter(6, 8))
    assert [b.beats for b in new.grid.bars] == [2] * 6
    assert chord_clocks(new) == chord_clocks(song)
    assert [new.grid.clock(s) for s in new.grid.starts] == pytest.approx([song.grid.clock(s) for s in song.grid.starts])
    back, _ = edits.set_meter(new, 0, 5, Meter(3))
    assert back.grid.times == pytest.approx(song.grid.times)


def test_eighths_for_quarters_are_twice_as_many_at_the_same_speed(song: Song) -> None:
    new, _ = edits.set_meter(song, 2, 5, Meter(7, 8))
    assert [b.beats for b in new.grid.bars] == [4, 4, 7, 7, 7, 7, 4, 4, 4]
    assert chord_clocks(new) == chord_clocks(song)
    assert new.grid.times[8:12] == pytest.approx([5.0, 5.25, 5.5, 5.75])
    whole, _ = edits.set_meter(song, 0, 7, Meter(7, 8))
    assert whole.grid.tempo() == pytest.approx(240)
    back, _ = edits.set_meter(whole, 0, len(whole.grid.bars) - 1, Meter(4))
    assert back.grid.times == pytest.approx(song.grid.times)


@pytest.mark.parametrize("by", [1, -1])
def test_ones_shift_and_shift_back(song: Song, by: int) -> None:
    new, _ = edits.shift_ones(song, by)
    ones = [s for s, b in zip(new.grid.starts, new.grid.bars, strict=False) if b.first == 1]
    assert all(s % 4 == by % 4 for s in ones)
    assert new.grid.beat_count == 32
    back, _ = edits.shift_ones(new, -by)
    assert [s for s in back.grid.starts if s % 4] == []


def test_pick_up_grows(song: Song) -> None:
    one, _ = edits.lengthen_pick_up(song)
    assert (one.grid.bars[0].beats, one.grid.bars[0].first, one.grid.lead_in) == (1, 4, 1)
    assert one.grid.times[0] == pytest.approx(0.5)
    two, _ = edits.lengthen_pick_up(one)
    assert (two.grid.bars[0].beats, two.grid.bars[0].first) == (2, 3)
    assert two.grid.number(1) == 1
    assert chord_clocks(two)[1:] == chord_clocks(song)[1:]
    with pytest.raises(edits.EditError, match="record begins"):
        edits.lengthen_pick_up(two)


def test_tempo_is_stated(song: Song) -> None:
    assert edits.set_tempo(song, 60)[0].grid.tempo() == pytest.approx(60)
    assert edits.set_tempo(song, 178)[0].grid.tempo() == pytest.approx(180)
    assert edits.set_tempo(song, 100)[0].grid.tempo() == pytest.approx(100)
    for wrong in (121, 5, 999):
        with pytest.raises(edits.EditError):
            edits.set_tempo(song, wrong)


@given(st.integers(3, 12), st.integers(0, 15), st.floats(-0.05, 0.05))
def test_taps_become_beats(number: int, first: int, late: float) -> None:
    song = make_song()
    taps = [1.0 + 0.5 * (first + i) + late for i in range(number)]
    new, _ = edits.tap(song, taps)
    assert set(taps) <= set(new.grid.times)
    assert {new.grid.times[b] for b in new.grid.stated_beats} == set(taps)
    assert new.grid.beat_count in (32, 33)
    assert new.grid.tempo() == pytest.approx(120, rel=0.05)


def test_taps_at_another_speed_change_the_count(song: Song) -> None:
    slow, _ = edits.tap(song, [2.0, 3.0, 4.0, 5.0])
    assert slow.grid.tempo() == pytest.approx(60, rel=0.02)
    for wrong in ([2.0, 3.0], [1.0, 2.0, 2.2, 5.0]):
        with pytest.raises(edits.EditError):
            edits.tap(song, wrong)


def test_groupings(song: Song) -> None:
    seven = make_song(beats=7, bars=4)
    new, _ = edits.set_grouping(seven, 0, 3, (2, 2, 3))
    assert all(b.grouping == (2, 2, 3) for b in new.grid.bars)
    with pytest.raises(edits.EditError, match="makes 5 beats"):
        edits.set_grouping(seven, 0, 3, (2, 3))
    with pytest.raises(ValueError, match="does not make"):
        Bar(Meter(7, 8), 7, grouping=(2, 2))


@given(st.lists(st.floats(0, 20), min_size=1, max_size=20, unique=True), st.floats(-1, 21))
def test_nearest_beat(times: list[float], seconds: float) -> None:
    times = sorted(times)
    assert abs(times[nearest_beat(times, seconds)] - seconds) == min(abs(t - seconds) for t in times)


def test_bar_lines_follow_the_clock_to_other_beats(song: Song) -> None:
    grid = song.grid
    jitter = [t + 0.03 * (-1) ** i for i, t in enumerate(grid.times)]
    new = bars_by_clock(grid, jitter)
    assert new.starts == grid.starts
    without = bars_by_clock(grid, [t for i, t in enumerate(grid.times) if i != 5])
    assert without.bars[1].beats == 3
    assert without.bars[1].odd


def test_chords_on_half_beats_stay_there_when_beats_are_recounted(song: Song) -> None:
    pushed, _ = edits.state_chord(song, Fraction(7, 2), Fraction(6), song.chords[0].chord)
    double, _ = edits.double_tempo(pushed)
    assert Fraction(7) in double.chord_starts
    half, _ = edits.half_tempo(double)
    assert Fraction(7, 2) in half.chord_starts


def test_a_grouped_pick_up_takes_a_beat_more() -> None:
    song = make_song()
    first = replace(song.grid.bars[0], meter=Meter(7, 8), beats=song.grid.bars[0].beats, first=3, grouping=(1, 3))
    assert first.beats == 4
    song = replace(
        song, grid=replace(song.grid, bars=(first, *song.grid.bars[1:]), times=tuple(t + 2 for t in song.grid.times))
    )
    longer, _ = edits.lengthen_pick_up(song)
    assert (longer.grid.bars[0].beats, longer.grid.bars[0].first, longer.grid.bars[0].grouping) == (5, 2, ())
