"""From chords to shapes and from shapes to names."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ychronos.guitar.instrument import STANDARD, TUNINGS
from ychronos.guitar.shapes import REACH, cost, find, names, pitches
from ychronos.theory.chord import NO_CHORD, QUALITIES, Chord, parse_chord
from ychronos.theory.key import parse_key


def frets(text: str) -> tuple[int | None, ...]:
    return tuple(None if c == "x" else int(c) for c in text)


@pytest.mark.parametrize(
    ("chord", "shape"),
    [("C", "x32010"), ("G", "320003"), ("D", "xx0232"), ("F", "133211"), ("D/F#", "200232"), ("B7", "x21202"), ("Cadd9", "x30010")],
)  # fmt: skip
def test_the_easiest_shape_is_the_one_everybody_knows(chord: str, shape: str) -> None:
    assert find(parse_chord(chord), STANDARD)[0] == frets(shape)


@given(st.integers(0, 11), st.sampled_from(sorted(QUALITIES)), st.sampled_from(sorted(TUNINGS)), st.integers(0, 4))
def test_every_shape_can_be_played_and_is_the_chord(root: int, quality: str, tuning: str, capo: int) -> None:
    chord = Chord(root, quality)
    for shape in find(chord, TUNINGS[tuning], capo):
        sounding = pitches(shape, TUNINGS[tuning], capo)
        assert {n % 12 for n in sounding} <= chord.pitch_classes
        assert min(sounding) % 12 == root or sounding[0] % 12 == root
        fretted = [f for f in shape if f]
        assert not fretted or max(fretted) - min(fretted) <= REACH
        assert cost(shape) < float("inf")


def test_no_chord_has_no_shape() -> None:
    assert find(NO_CHORD, STANDARD) == ()
    assert cost((None,) * 6) == float("inf")
    assert cost(frets("1x5xxx")) == float("inf")


@pytest.mark.parametrize(
    ("shape", "first", "also"),
    [
        ("x32010", "C", None),
        ("x02010", "Am7", "C6/A"),
        ("x32210", "Am/C", "C6"),
        ("200232", "D/F♯", None),
        ("x32310", "C7", None),
        ("022100", "E", None),
        ("320001", "G7", None),
    ],
)
def test_frets_have_names(shape: str, first: str, also: str | None) -> None:
    found = [n.chord.name() for n in names(pitches(frets(shape), STANDARD), parse_key("C major"))]
    assert found[0] == first and (also is None or also in found)


def test_too_little_has_no_name() -> None:
    assert names([]) == [] and names([40, 52]) == []


@given(st.lists(st.integers(40, 76), min_size=3, max_size=6))
def test_names_hold_all_that_sounds(notes: list[int]) -> None:
    for named in names(notes):
        assert {n % 12 for n in notes} <= named.chord.pitch_classes
        assert named.chord.sounding_bass == min(notes) % 12
