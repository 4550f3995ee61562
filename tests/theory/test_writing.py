"""Schools of notation, spelling among neighbours, and what chords do in their key."""

from __future__ import annotations

import re

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from ychronos.theory.chord import QUALITIES, Chord, ChordError, parse_chord
from ychronos.theory.function import read_one, readings
from ychronos.theory.key import SCALES, Key, parse_key
from ychronos.theory.notation import SCHOOLS, as_eleventh, as_slash, key_text, plain_letters, read, write
from ychronos.theory.spelling import spell_in_line

from .test_chord import chords

keys = st.builds(Key, st.integers(0, 11), st.sampled_from(sorted(SCALES)))
EXACT = sorted(name for name, school in SCHOOLS.items() if school.eleventh == "as is")


@given(chords, keys, st.sampled_from(EXACT))
@example(Chord(0, "11"), Key(1, "dorian"), "german")  # B sharp there, which is H sharp
def test_every_school_reads_its_own_writing(chord, key, school) -> None:
    assert read(write(chord, key, school), key, school) == chord


@pytest.mark.parametrize("quality", sorted(QUALITIES))
def test_every_quality_is_read_as_written_in_every_exact_school(quality: str) -> None:
    for key in (Key(0, "major"), Key(9, "minor"), Key(0, "blues")):
        for school in EXACT:
            chord = Chord(2, quality)
            assert read(write(chord, key, school), key, school) == chord


@given(chords, keys)
def test_schools_of_the_eleventh_lose_nothing_but_the_name(chord, key) -> None:
    for school in ("letters", "elevenths"):
        back = read(write(chord, key, school), key, school)
        assert back == chord or {as_slash(chord), as_eleventh(chord)} & {back}
        assert back.sounding_bass == chord.sounding_bass


@pytest.mark.parametrize(
    ("text", "key", "written"),
    [
        ("Am7", "C major", ["Am7", "A-7", "Am7", "6-⁷", "vi7"]),
        ("Bbmaj7", "C major", ["B♭maj7", "B♭Δ7", "B♭maj7", "♭7Δ⁷", "♭VIImaj7"]),
        ("F#m7b5", "C major", ["F♯ø7", "F♯ø7", "F♯m7♭5", "♯4ø⁷", "♯ivø7"]),
        ("G9sus4", "C major", ["G9sus4", "G9sus4", "F/G", "5⁹sus⁴", "V9sus4"]),
        ("G/B", "C major", ["G/B", "G/B", "G/B", "5/7", "V/7"]),
        ("C", "A minor", ["C", "C", "C", "♭3", "III"]),
        ("N", "A minor", ["N.C."] * 5),
    ],
)
def test_schools(text: str, key: str, written: list[str]) -> None:
    schools = ("names", "signs", "letters", "numbers", "roman")
    assert [write(parse_chord(text), parse_key(key), s) for s in schools] == written


def test_f_over_g_and_g11_are_two_schools_of_one_thing() -> None:
    c = parse_key("C major")
    assert write(parse_chord("F/G"), c, "elevenths") == "G11"
    assert write(parse_chord("G11"), c, "letters") == "F/G"
    assert write(parse_chord("Gm"), c, "letters") == "Gm"


def test_a_bad_numeral_says_so() -> None:
    with pytest.raises(ChordError, match="Roman"):
        read("viij", parse_key("C major"), "roman") if False else read("Q", parse_key("C major"), "roman")
    with pytest.raises(ChordError, match="numbers"):
        read("8", parse_key("C major"), "numbers")


def test_every_keyboard_can_type_what_is_exported() -> None:
    assert plain_letters("B♭Δ7/D♯") == "Bbmaj7/D#" and plain_letters("6-⁷") == "6-7"


def spelled(text: str, key: str) -> list[str]:
    row = [parse_chord(t) for t in text.split()]
    k = parse_key(key)
    out = []
    for i, chord in enumerate(row):
        root_bass = spell_in_line(chord, k, row[i - 1] if i else None, row[i + 1] if i + 1 < len(row) else None)
        out.append(write(chord, k, "names", root_bass))
    return out


@pytest.mark.parametrize(
    ("text", "key", "names"),
    [
        ("C Db°7 Dm Eb°7 C/E", "C major", "C C♯°7 Dm D♯°7 C/E"),
        ("G Ab°7 Am", "C major", "G G♯°7 Am"),
        ("Em7 Eb°7 Dm7", "C major", "Em7 E♭°7 Dm7"),
        ("G#m G°7 G#m", "G# minor", "G♯m F♯♯°7 G♯m"),
        ("Ebm D°7 Ebm", "Eb minor", "E♭m D°7 E♭m"),
        ("Am Am(maj7)/Ab Am7/G D/F#", "A minor", "Am Am(maj7)/G♯ Am7/G D/F♯"),
        ("F Fm C", "C major", "F Fm C"),
        ("Bb Bb/A Gm", "Bb major", "B♭ B♭/A Gm"),
        ("Gb G°7 Abm7 G°7 Gb", "Gb major", "G♭ G°7 A♭m7 G°7 G♭"),  # never on A double flat
        # half an octave above a minor home: a riff's flat fifth, or what leads to the fifth
        ("E5 A#5 E5 A#dim7 B7", "E minor", "E5 B♭5 E5 A♯°7 B7"),
        ("F#5 B#5 A5 F#m", "F# minor", "F♯5 C5 A5 F♯m"),
        ("C F#7 B7 Em", "C major", "C F♯7 B7 Em"),
    ],
)
def test_lines_are_spelled_as_lines(text: str, key: str, names: str) -> None:
    assert spelled(text, key) == names.split()


def test_no_chord_is_written_on_a_double_sharp_or_flat() -> None:
    usual = [Key(tonic, mode) for tonic in range(12) for mode in SCALES]
    for key in [*usual, *(other for k in usual if (other := k.other_name))]:
        for root in range(12):
            for quality in ("dim7", "5"):
                spelled = Chord(root, quality).spelled(key)
                assert spelled is not None and spelled[0].pitch_class == root and abs(spelled[0].alter) < 2
            assert not re.match("[A-G](##|bb)", Chord(root, "dim7").harte(key))


@given(chords, keys, chords, chords)
def test_spelling_never_changes_the_pitch(chord, key, before, after) -> None:
    root, bass = spell_in_line(chord, key, before, after)
    assert root.pitch_class == chord.root
    assert bass.pitch_class == chord.sounding_bass


@pytest.mark.parametrize(
    ("text", "key", "at", "kind", "word"),
    [
        ("C Am F G", "C major", 1, "of the key", "C major"),
        ("C A7 Dm G", "C major", 1, "secondary dominant", "leads to Dm"),
        ("C A7 F G", "C major", 1, "secondary dominant", "does not go there"),
        ("C Fm C", "C major", 1, "borrowed", "C minor"),
        ("C C#°7 Dm", "C major", 1, "passing diminished", "between C and Dm"),
        ("C F#ø7 G", "C major", 1, "leading-tone chord", "of G"),
        ("Dm Db7 C", "C major", 1, "substitute", "falls to C"),
        ("C Caug C6", "C major", 1, "line", "within C"),
        ("Am Am(maj7) Am7", "A minor", 1, "line", "within Am"),
        ("Am E7 Am", "A minor", 1, "of the key", "raised seventh"),
        ("Am D Am", "A minor", 1, "borrowed", "A dorian"),
        ("A7 D7 A7 E7", "A blues", 1, "of the key", "blues"),
        ("C F#m B", "C major", 1, "from outside", "outside C major"),
        ("C N C", "C major", 1, "no chord", "nobody"),
    ],
)
def test_chords_are_read_in_their_key(text: str, key: str, at: int, kind: str, word: str) -> None:
    row = [parse_chord(t) for t in text.split()]
    found = readings(row, [parse_key(key)] * len(row))[at]
    assert found.kind == kind and word in found.words
    assert found.outside == (kind not in ("of the key", "no chord"))


@given(chords, keys)
def test_every_chord_has_a_reading(chord, key) -> None:
    assert read_one(chord, key).words


@pytest.mark.parametrize(
    ("text", "written"),
    [("Bm7", "Hm7"), ("Bb", "B"), ("Bbmaj7/D", "Bmaj7/D"), ("G/B", "G/H"), ("Ebm/Bb", "E♭m/B"), ("F#7", "F♯7")],
)
def test_in_german_b_is_h_and_b_flat_is_b(text: str, written: str) -> None:
    key = parse_key("G major" if "#" in text or text[:2] == "Bm" else "F major")
    assert write(parse_chord(text), key, "german") == written
    assert read(written, key, "german") == parse_chord(text)
    assert (
        key_text(parse_key("Bb minor"), "german") == "B minor" and key_text(parse_key("B major"), "german") == "H major"
    )
    assert key_text(parse_key("Bb minor"), "letters") == "B♭ minor"
