"""Where lines lie on the neck."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from ychronos.guitar import tab
from ychronos.guitar.instrument import STANDARD, TUNINGS
from ychronos.guitar.tab import Spot, place, spots, ways


def line(*notes: int) -> list[tuple[float, list[int]]]:
    return [(k * 0.25, [n]) for k, n in enumerate(notes)]


def frets(way: list[tuple[Spot, ...]]) -> list[tuple[int, int]]:
    return [(s.string, s.fret) for one in way for s in one]


def test_every_place_of_a_note() -> None:
    assert spots(64, STANDARD) == [Spot(0, 24), Spot(1, 19), Spot(2, 14), Spot(3, 9), Spot(4, 5), Spot(5, 0)]
    assert spots(64, STANDARD, capo=2) == [Spot(0, 22), Spot(1, 17), Spot(2, 12), Spot(3, 7), Spot(4, 3)]
    assert spots(39, STANDARD) == []


def test_a_low_riff_stays_in_the_first_position() -> None:
    assert frets(place(line(45, 48, 50, 52, 50, 48, 45), STANDARD)) == [
        (1, 0), (1, 3), (2, 0), (2, 2), (2, 0), (1, 3), (1, 0),
    ]  # fmt: skip


def test_a_high_line_stays_in_one_position() -> None:
    found = frets(place(line(76, 79, 81, 79, 76, 74), STANDARD))
    assert max(f for _, f in found) - min(f for _, f in found) <= tab.REACH
    assert min(f for _, f in found) > 0


def test_the_hand_goes_where_it_is_wanted() -> None:
    low, high = (frets(place(line(60, 62, 64, 65), STANDARD, near=near)) for near in (1, 9))
    assert max(f for _, f in low) <= 5 and min(f for _, f in high) >= 7


def test_notes_at_once_lie_on_strings_of_their_own() -> None:
    (way,) = place([(0.0, [64, 69])], STANDARD)
    assert len({s.string for s in way}) == 2
    assert ways([40, 41], STANDARD) == []  # both only on the lowest string within reach


def test_hammered_notes_stay_on_their_string() -> None:
    (first,), (second,) = place(line(57, 59), STANDARD, signs=["", "h"])
    assert first.string == second.string and second.fret > 0


@given(
    notes=st.lists(st.lists(st.integers(20, 100), min_size=1, max_size=3), max_size=14),
    tuning=st.sampled_from(sorted(TUNINGS)),
    capo=st.integers(0, 12),
    near=st.none() | st.integers(0, 19),
)
def test_what_is_placed_can_be_played(notes: list[list[int]], tuning: str, capo: int, near: int | None) -> None:
    strings = TUNINGS[tuning]
    placed = place([(0.2 * k, group) for k, group in enumerate(notes)], strings, capo, near)
    assert len(placed) == len(notes)
    for group, way in zip(notes, placed, strict=True):
        assert all(strings[s.string] + capo + s.fret in group and 0 <= s.fret <= tab.FRETS - capo for s in way)
        assert len({s.string for s in way}) == len(way)
        held = [s.fret for s in way if s.fret]
        assert not held or max(held) - min(held) <= tab.REACH
        if any(spots(n, strings, capo) for n in group[-1:] if n == max(group)):
            assert way  # the highest note is never lost where a string has it
