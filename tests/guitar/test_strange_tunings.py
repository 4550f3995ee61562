"""Instruments that nobody has: the search for shapes stays small, and what it finds can be held."""

from __future__ import annotations

import pytest

from ychronos.guitar import candidates
from ychronos.guitar.candidates import GROWN
from ychronos.guitar.instrument import STANDARD
from ychronos.theory.chord import parse_chord

TWELVE = (90, 55, 55, 55, 55, 55, 20, 90, 55, 55, 90, 90)


@pytest.mark.parametrize("name", ["G", "Bm7", "E9", "F#m7b5"])
def test_twelve_strings_of_a_strange_tuning_stay_within_bounds(name: str) -> None:
    chord = parse_chord(name)
    assert len(candidates._all(TWELVE, chord, True)) <= 14 * GROWN
    for found in candidates.candidates(chord, TWELVE, 0, True):
        assert {n % 12 for n in candidates.pitches(found.shape, TWELVE)} <= set(chord.pitch_classes)


@pytest.mark.parametrize("name", ["G", "Bm7", "E9", "F#m7b5", "C/G"])
def test_a_guitar_is_searched_to_the_end(name: str, monkeypatch: pytest.MonkeyPatch) -> None:
    chord = parse_chord(name)
    bounded = candidates._all(STANDARD, chord, False)
    monkeypatch.setattr(candidates, "GROWN", 10**9)
    assert (bounded == candidates._all(STANDARD, chord, False)).all()
