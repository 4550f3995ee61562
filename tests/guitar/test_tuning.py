"""Capo and tunings: what sounds, and what it is called under the hand."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ychronos.guitar.instrument import STANDARD, TUNINGS, GuitarSetup, parse_strings
from ychronos.theory.chord import parse_chord
from ychronos.theory.key import Key, parse_key


@pytest.mark.parametrize(
    ("tuning", "capo", "sounding", "shape"),
    [
        ("standard", 0, "G", "G"),
        ("standard", 2, "A/C#", "G/B"),
        ("standard", 5, "Cm7", "Gm7"),
        ("half step down", 0, "Eb", "E"),
        ("half step down", 1, "E", "E"),
        ("whole step down", 0, "D7", "E7"),
        ("drop D", 0, "D5", "D5"),
        ("DADGAD", 2, "E", "D"),
        ("baritone", 0, "B", "E"),
        ("seven strings", 3, "C", "A"),
    ],
)
def test_shapes(tuning: str, capo: int, sounding: str, shape: str) -> None:
    setup = GuitarSetup(TUNINGS[tuning], capo)
    assert setup.shape(parse_chord(sounding)).name() == parse_chord(shape).name()
    assert setup.tuning_name == tuning


@given(st.sampled_from(sorted(TUNINGS)), st.integers(0, 12), st.integers(0, 11))
def test_the_shape_sounds_as_the_chord(tuning: str, capo: int, tonic: int) -> None:
    setup = GuitarSetup(TUNINGS[tuning], capo)
    key = setup.shape_key(Key(tonic))
    assert (key.tonic + capo + setup.offset) % 12 == tonic
    assert setup.plain == (key.tonic == tonic)


def test_own_tunings_are_read_in_the_right_octave() -> None:
    assert parse_strings("D A D G B E") == (38, 45, 50, 55, 59, 64)
    assert parse_strings("dadgad") == TUNINGS["DADGAD"]
    assert parse_strings("Eb Ab Db Gb Bb Eb") == TUNINGS["half step down"]
    assert parse_strings("Open C") == TUNINGS["open C"]
    assert parse_strings("C G C F A D") == (36, 43, 48, 53, 57, 62)
    assert GuitarSetup((36, 43, 48, 53, 57, 63)).tuning_name == "C G C F A E♭"
    for wrong in ("", "E A D", "X Y Z", "E A D G B E E E"):
        with pytest.raises(ValueError, match=r"\w"):
            parse_strings(wrong)


@pytest.mark.parametrize("wrong", [{"capo": 13}, {"strings": (40,)}, {"show": "all"}])
def test_impossible_guitars(wrong: dict) -> None:
    with pytest.raises(ValueError, match=r"\w"):
        GuitarSetup(**wrong)


def test_in_words() -> None:
    assert GuitarSetup().describe() == "standard tuning"
    assert GuitarSetup(TUNINGS["drop D"], 2).describe() == "drop D, capo 2"
    assert GuitarSetup(STANDARD, 3).shape_key(parse_key("Bb major")).name() == "G major"
