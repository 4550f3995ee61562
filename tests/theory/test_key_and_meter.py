"""Keys spell their notes; meters know their beats."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ychronos.theory.key import SCALES, SIX, Key, parse_key
from ychronos.theory.meter import Meter, parse_meter
from ychronos.theory.pitch import Note, parse_note, spell, spell_plain

keys = st.builds(Key, st.integers(0, 11), st.sampled_from(sorted(SCALES)))


@pytest.mark.parametrize(
    ("key", "notes"),
    [
        ("C major", "C D E F G A B"),
        ("E♭ minor", "E♭ F G♭ A♭ B♭ C♭ D♭"),
        ("F# minor", "F♯ G♯ A B C♯ D E"),
        ("A dorian", "A B C D E F♯ G"),
        ("E mixolydian", "E F♯ G♯ A B C♯ D"),
        ("Db major", "D♭ E♭ F G♭ A♭ B♭ C"),
    ],
)
def test_scales_are_spelled_by_the_signature(key: str, notes: str) -> None:
    k = parse_key(key)
    assert " ".join(k.spell(p).name() for p in k.scale) == notes


@given(keys)
def test_a_scale_uses_each_letter_once(key: Key) -> None:
    if key.mode != "blues":  # which has both thirds and two fifths
        assert len({key.spell(p).letter for p in key.scale}) == 7


def test_a_key_can_be_written_with_its_other_name() -> None:
    flat = parse_key("G♭ major")
    sharp = parse_key("F# major")
    assert (flat.name(), sharp.name()) == ("G♭ major", "F♯ major")
    assert flat.other_name == sharp and sharp.other_name == flat
    assert [sharp.spell(p).name() for p in sharp.scale] == ["F♯", "G♯", "A♯", "B", "C♯", "D♯", "E♯"]
    assert parse_key("C major").other_name is None


@given(keys, st.integers(-60, 60))
def test_a_key_is_written_as_those_beside_it(key: Key, signs: int) -> None:
    written = key.beside(signs)
    assert (written.tonic, written.mode) == (key.tonic, key.mode)
    six = abs(key.signature) == SIX
    assert written == key if not six or not signs else written.signature * signs > 0
    assert written.beside(signs) == written


def test_minor_has_more_than_one_scale() -> None:
    assert [parse_key("A harmonic minor").spell(p).name() for p in parse_key("A harmonic").scale][-1] == "G♯"
    assert parse_key("E melodic minor").scale == (4, 6, 7, 9, 11, 1, 3)
    assert not parse_key("A blues").minorish and parse_key("A phrygian").minorish


@given(keys, st.integers(0, 11))
def test_spelling_keeps_the_pitch(key: Key, pitch: int) -> None:
    assert key.spell(pitch).pitch_class == pitch


@given(keys)
def test_signature_is_small(key: Key) -> None:
    assert abs(key.signature) <= 6


def test_leading_tone_of_a_sharp_minor_key() -> None:
    assert parse_key("C# minor").spell(0).name() == "B♯"
    assert parse_key("G# minor").spell(7).name(ascii_only=True) == "F##"


@given(keys)
def test_key_names_read_back(key: Key) -> None:
    assert parse_key(key.name()) == key
    assert parse_key(key.name(ascii_only=True).replace(" ", ":")) == key


def test_keys_that_are_none_say_so() -> None:
    with pytest.raises(ValueError, match="no mode"):
        parse_key("C blue")
    with pytest.raises(ValueError, match="A to G"):
        parse_key("H minor")


@given(st.integers(-20, 20))
def test_notes_read_back(fifths: int) -> None:
    note = Note(fifths)
    assert parse_note(note.name()) == (note, "")
    assert spell(note.pitch_class, note) == note


def test_plain_spelling() -> None:
    assert [spell_plain(p).name() for p in (1, 3, 6, 8, 10)] == ["C♯", "E♭", "F♯", "G♯", "B♭"]


def test_meters() -> None:
    assert (Meter(6, 8).beats, Meter(6, 8).beat_name, Meter(6, 8).division) == (2, "dotted quarter", 3)
    assert (Meter(7, 8).beats, Meter(7, 8).beat_name) == (7, "eighth")
    assert Meter(12, 8).with_beats(2) == Meter(6, 8)
    assert parse_meter(" 3/4 ") == Meter(3, 4)
    assert str(Meter(5)) == "5/4"
    for wrong in ("four", "4", "4/5", "0/4"):
        with pytest.raises(ValueError, match="meter"):
            parse_meter(wrong)
