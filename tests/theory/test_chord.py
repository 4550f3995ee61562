"""Chord names: what people type, what is written, and that nothing is lost between them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ychronos.theory.chord import NO_CHORD, QUALITIES, Chord, ChordError, parse_chord, parse_harte
from ychronos.theory.key import SCALES, Key, parse_key

CHANGES = ("b9", "9", "#9", "11", "#11", "b13", "13", "*3", "*5", "7", "b7", "b5", "#5")


def build(root: int, quality: str, bass: int | None, changes: list[str]) -> Chord:
    try:
        return Chord(root, quality, bass, tuple(changes))
    except ValueError:  # too little is left of it
        return Chord(root, quality, bass)


chords = st.builds(
    build,
    st.integers(0, 11),
    st.sampled_from(sorted(QUALITIES)),
    st.one_of(st.none(), st.integers(0, 11)),
    st.lists(st.sampled_from(CHANGES), max_size=2),
)
keys = st.builds(Key, st.integers(0, 11), st.sampled_from(sorted(SCALES)))


@pytest.mark.parametrize(
    ("text", "root", "quality", "bass"),
    [
        ("C", 0, "maj", None),
        ("Bm7b5", 11, "hdim7", None),
        ("Bø", 11, "hdim7", None),
        ("B-7(b5)", 11, "hdim7", None),
        ("Cmaj7", 0, "maj7", None),
        ("CΔ", 0, "maj7", None),
        ("CM7", 0, "maj7", None),
        ("Cm7", 0, "min7", None),
        ("F/G", 5, "maj", 7),
        ("G11", 7, "11", None),
        ("Gsus", 7, "sus4", None),
        ("E5", 4, "5", None),
        ("bbm", 10, "min", None),
        ("A6/9", 9, "69", None),
        ("A6/9/E", 9, "69", 4),
        ("F#m(maj7)", 6, "minmaj7", None),
        ("E7#9", 4, "7#9", None),
        ("C°7", 0, "dim7", None),
        ("Co7", 0, "dim7", None),
        ("C+", 0, "aug", None),
        ("Cadd9", 0, "add9", None),
        ("D7sus4", 2, "7sus4", None),
        ("C/C", 0, "maj", None),
        ("d♭m7/A♭", 1, "min7", 8),
    ],
)
def test_reads_what_people_write(text: str, root: int, quality: str, bass: int | None) -> None:
    assert parse_chord(text) == Chord(root, quality, bass)


@pytest.mark.parametrize("text", ["N", "NC", "n.c.", "no chord", " N "])
def test_reads_no_chord(text: str) -> None:
    assert parse_chord(text) is NO_CHORD


@pytest.mark.parametrize(
    ("text", "word"),
    [("", "Type a chord"), ("H7", "A to G"), ("Cxyz", "xyz"), ("C/", "bass"), ("C/H", "H"), ("C/Gm", "m")],
)
def test_says_what_it_does_not_understand(text: str, word: str) -> None:
    with pytest.raises(ChordError, match=word):
        parse_chord(text)


@given(chords, keys)
def test_written_name_reads_back(chord: Chord, key: Key) -> None:
    assert parse_chord(chord.name(key)) == chord
    assert parse_chord(chord.name(key, ascii_only=True)) == chord


@given(chords, keys)
def test_label_reads_back(chord: Chord, key: Key) -> None:
    assert parse_harte(chord.harte(key)) == chord
    assert parse_harte(chord.harte()) == chord


@given(chords, st.integers(-24, 24))
def test_transposing_moves_every_note(chord: Chord, steps: int) -> None:
    moved = chord.transposed(steps)
    assert moved.pitch_classes == {(p + steps) % 12 for p in chord.pitch_classes}
    assert moved.transposed(-steps) == chord


@given(st.text(max_size=12))
def test_any_text_is_a_chord_or_a_sentence(text: str) -> None:
    try:
        chord = parse_chord(text)
    except ChordError as error:
        assert str(error).endswith(".")
    else:
        assert chord.is_none or chord.pitch_classes


def test_bass_belongs_to_the_chord_when_spelled() -> None:
    assert parse_chord("D/F#").name(parse_key("G major")) == "D/F♯"
    assert parse_chord("Ab/C").name(parse_key("E♭ major")) == "A♭/C"
    assert parse_chord("E/G#").name(parse_key("C major")) == "E/G♯"
    assert parse_chord("C7/Bb").name(parse_key("F major")) == "C7/B♭"


def test_silence_has_no_bass() -> None:
    with pytest.raises(ValueError, match="silence"):
        Chord(None, "N", 3)
    with pytest.raises(ValueError, match="unknown"):
        Chord(3, "nonsense")


@pytest.mark.parametrize(
    ("text", "name", "notes"),
    [
        ("C7(no3)", "C7(no3)", "C G B♭"),
        ("Cadd11", "C(add11)", "C E G F"),
        ("Cm7add11", "Cm7(add11)", "C E♭ G B♭ F"),
        ("C7b9#11", "C7♭9(♯11)", "C E G B♭ D♭ F♯"),
        ("C(b5)", "C(♭5)", "C E G♭"),
        ("C6add9", "C6/9", "C E G A D"),
        ("C7#5#9", "C7♯5(♯9)", "C E G♯ B♭ D♯"),
        ("Cno3", "C5", "C G"),
        ("C°7", "C°7", "C E♭ G♭ B♭♭"),
        ("Cmaj13", "Cmaj13", "C E G B D A"),
    ],
)
def test_degrees_are_added_and_left_out(text: str, name: str, notes: str) -> None:
    chord = parse_chord(text)
    assert chord.name() == name
    spelled = chord.spelled()
    assert spelled is not None
    assert " ".join(n.name() for n in chord.notes(spelled[0])) == notes


@given(chords)
def test_the_canonical_form_depends_on_the_notes_alone(chord: Chord) -> None:
    if chord.root is not None and chord.changes:
        again = Chord(chord.root, chord.quality, chord.bass, chord.changes)
        assert again == chord
        assert len(chord.intervals) == len(set(chord.intervals))


def test_what_is_no_chord_is_refused() -> None:
    with pytest.raises(ValueError, match="too little"):
        Chord(0, "5", None, ("*5",))
    with pytest.raises(ValueError, match="root itself"):
        Chord(0, "maj", None, ("1",))
    with pytest.raises(ChordError, match="vocabulary"):
        parse_harte("C:strange")
    with pytest.raises(ChordError, match="no degree"):
        parse_harte("C:maj/8")
