"""Musical time and the clock."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import make_song
from ychronos.formats import project
from ychronos.song import edits
from ychronos.song.grid import Bar, Grid
from ychronos.song.positions import read_position
from ychronos.song.track import FINEST, move
from ychronos.theory.meter import Meter

FOUR = Meter(4)
gaps = st.lists(st.floats(0.2, 1.5), min_size=4, max_size=40)


def grid_of(lengths: list[float]) -> Grid:
    times = [0.5]
    for gap in lengths:
        times.append(times[-1] + gap)
    whole, rest = divmod(len(lengths), 4)
    return Grid((*[Bar(FOUR, 4)] * whole, *([Bar(FOUR, rest)] if rest else [])), tuple(times))


@given(gaps, st.floats(-3, 45))
def test_clock_and_position_are_inverse(lengths: list[float], position: float) -> None:
    grid = grid_of(lengths)
    assert grid.position(grid.clock(position)) == pytest.approx(position, abs=1e-6)


@given(gaps)
def test_clock_rises(lengths: list[float]) -> None:
    grid = grid_of(lengths)
    steps = [grid.clock(Fraction(i, 3)) for i in range(-6, 3 * grid.beat_count + 6)]
    assert all(b > a for a, b in zip(steps, steps[1:], strict=False))


@given(gaps)
def test_every_beat_is_in_its_bar(lengths: list[float]) -> None:
    grid = grid_of(lengths)
    for beat in range(grid.beat_count):
        first, last = grid.bar_range(grid.bar_at(beat))
        assert first <= beat < last


def test_numbers_leave_the_pick_up_out() -> None:
    grid = make_song(lead=1).grid
    assert [grid.number(i) for i in range(3)] == [0, 1, 2]
    assert grid.beat_name(Fraction(0)) == "bar 0, beat 4"
    assert grid.beat_name(Fraction(3, 2)) == "bar 1, after beat 1"


def test_tempo_and_meter() -> None:
    grid = make_song(tempo=96, beats=3).grid
    assert grid.tempo() == pytest.approx(96)
    assert grid.usual_meter() == Meter(3)


@pytest.mark.parametrize(
    ("bars", "times", "word"),
    [
        ((), (0.0,), "at least one bar"),
        ((Bar(FOUR, 2),), (0.0, 1.0), "need 3 times"),
        ((Bar(FOUR, 2),), (0.0, 1.0, 1.0), "rise"),
    ],
)
def test_a_grid_that_cannot_be_is_refused(bars: tuple[Bar, ...], times: tuple[float, ...], word: str) -> None:
    with pytest.raises(ValueError, match=word):
        Grid(bars, times)


def test_places_that_go_from_grid_to_grid_can_still_be_written() -> None:
    """A thousandth kill of a session found a place told in parts that no file could hold."""
    old, new = grid_of([0.5] * 31), grid_of([0.5] * 33)
    place = move(old, new)(Fraction(145296388, 13459365))
    assert place.denominator <= FINEST and float(place) == pytest.approx(145296388 / 13459365)
    assert move(old, new)(Fraction(17, 7)) == Fraction(17, 7)
    assert read_position(str(place)) == place


@pytest.mark.parametrize("text", ["1452963886/13459365", "0", "9/2", "999999999/999999999"])
def test_positions_are_read(text: str) -> None:
    assert read_position(text) == Fraction(text)


@pytest.mark.parametrize("text", ["1e40", "-1", "1/0", "1" * 19, "2000000000", "1/1234567890", "½", "", None, 3])
def test_what_is_no_position_is_refused(text: object) -> None:
    with pytest.raises(ValueError, match=r"position|beyond"):
        read_position(text)


def test_a_count_never_gets_quicker_than_files_can_hold() -> None:
    song = make_song()
    for _ in range(12):
        try:
            song = edits.double_tempo(song)[0]
        except edits.EditError as error:
            assert "too close" in str(error)
            break
    else:
        pytest.fail("beats came closer and closer")
    assert project.dumps(project.loads(project.dumps(song))) == project.dumps(song)
