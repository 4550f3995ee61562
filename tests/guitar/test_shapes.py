"""From chords to shapes, from shapes to fingers and names, and along a whole song."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.guitar.known_shapes import known
from ychronos.guitar import hands, setups
from ychronos.guitar.candidates import _table, candidates, common_shapes, needed, pitches, with_notes
from ychronos.guitar.fingering import SAFE, THUMB, finger, parse_shape, shape_text
from ychronos.guitar.fretting import Fretting, read_fretting
from ychronos.guitar.instrument import STANDARD, TUNINGS
from ychronos.guitar.naming import names, same_notes
from ychronos.guitar.odds import HIGHEST, LOWEST, HeardNotes
from ychronos.theory.chord import NO_CHORD, QUALITIES, Chord, parse_chord
from ychronos.theory.key import parse_key


def frets(text: str) -> tuple[int | None, ...]:
    return tuple(None if c == "x" else int(c) for c in text)


def line(text: str) -> list[Chord]:
    return [parse_chord(x) for x in text.split()]


# ---------------------------------------------------------------- shapes of a chord


@pytest.mark.parametrize(
    ("chord", "shape"),
    [("C", "x32010"), ("G", "320003"), ("D", "xx0232"), ("F", "133211"), ("D/F#", "2x0232"), ("B7", "x21202"),
     ("Cadd9", "x32030"), ("E5", "022xxx"), ("G5", "3x0033"), ("D5", "xx023x"), ("Bm7b5", "x2323x")],
)  # fmt: skip
def test_the_first_shape_is_the_one_everybody_knows(chord: str, shape: str) -> None:
    assert candidates(parse_chord(chord), STANDARD)[0].shape == frets(shape)


def test_known_shapes_come_early_and_are_named_right() -> None:
    named = early = count = 0
    for tuning, text, name in known():
        strings, chord = TUNINGS[tuning], parse_chord(name)
        shape = parse_shape(text, len(strings))
        found = names(pitches(shape, strings))
        named += bool(found) and found[0].chord == chord
        early += shape in [c.shape for c in candidates(chord, strings)[:3]]
        count += 1
    assert count >= 120
    assert named >= 0.95 * count
    assert early >= 0.9 * count


def test_the_table_holds_only_shapes_of_its_chords() -> None:
    for tuning, own in {"standard": _table()["standard"], **_table()["tunings"]}.items():
        for name, shapes in own.items():
            chord = parse_chord(name)
            for text in shapes:
                sounding = {p % 12 for p in pitches(frets(text), TUNINGS[tuning])}
                assert pitches(frets(text), TUNINGS[tuning])[0] % 12 == chord.sounding_bass, (tuning, name, text)
                assert needed(chord)[1] <= sounding <= chord.pitch_classes, (tuning, name, text)
                assert finger(frets(text)) is not None, (tuning, name, text)


@given(st.integers(0, 11), st.sampled_from(sorted(QUALITIES)), st.sampled_from(sorted(TUNINGS)), st.integers(0, 4))
def test_every_shape_can_be_played_and_is_the_chord(root: int, quality: str, tuning: str, capo: int) -> None:
    chord = Chord(root, quality)
    for c in candidates(chord, TUNINGS[tuning], capo)[:12]:
        sounding = pitches(c.shape, TUNINGS[tuning], capo)
        assert {n % 12 for n in sounding} <= chord.pitch_classes
        assert sounding[0] % 12 == root
        assert c.fingering.span <= SAFE and c.fingering.count <= 4 + (THUMB in c.fingering.fingers)
        assert all((finger_ == 0) == (not fret) for finger_, fret in zip(c.fingering.fingers, c.shape, strict=True))


@given(st.integers(0, 11), st.sampled_from(["maj", "min", "7", "min7", "sus4", "maj7"]), st.integers(0, 9))
def test_a_capo_moves_shapes_and_nothing_else(root: int, quality: str, capo: int) -> None:
    chord = Chord(root, quality)
    assert [c.shape for c in candidates(chord.transposed(capo), STANDARD, capo)] == [
        c.shape for c in candidates(chord, STANDARD)
    ]


def test_no_chord_has_no_shape() -> None:
    assert candidates(NO_CHORD, STANDARD) == ()
    assert finger((None,) * 6) is None
    assert finger(frets("1x9xxx")) is None


def test_movable_forms_lie_where_their_root_is() -> None:
    found = [shape_text(s) for s, _ in common_shapes(parse_chord("C#m"), STANDARD)]
    assert "x46654" in found and "9 11 11 9 9 9" in found
    assert common_shapes(parse_chord("C/E"), STANDARD)[0][0] == frets("032010")


def test_a_wished_top_note_or_bass() -> None:
    found = with_notes(candidates(parse_chord("D"), STANDARD), STANDARD, top=2, bass=None)
    assert found and all(max(pitches(c.shape, STANDARD)) % 12 == 2 for c in found)


# ---------------------------------------------------------------- fingers


@pytest.mark.parametrize(
    ("shape", "fingers"),
    [("x32010", "032010"), ("320003", "210003"), ("xx0232", "000132"), ("133211", "134211"), ("x21202", "021304"),
     ("x13331", "012341"), ("x02220", "001230"), ("xx3211", "003211"), ("x13333", "013333")],
)  # fmt: skip
def test_fingers(shape: str, fingers: str) -> None:
    found = finger(frets(shape))
    assert found is not None
    assert "".join(map(str, found.fingers)) == fingers


def test_barres_thumbs_and_stretches() -> None:
    barre = finger(frets("133211"))
    assert barre is not None and barre.barre is not None and (barre.barre.fret, barre.barre.strings) == (1, 6)
    thumb = finger(frets("2x4232"))
    assert thumb is None or THUMB in thumb.fingers or thumb.barre
    wide, narrow = finger(frets("1x4xxx")), finger((9, None, 12, None, None, None))
    assert wide is not None and narrow is not None and wide.wide and not narrow.wide
    open_c, full = finger(frets("x32010")), finger(frets("133211"))
    assert open_c is not None and full is not None and full.effort > 2 * open_c.effort


@given(st.lists(st.one_of(st.none(), st.integers(0, 24)), min_size=4, max_size=12))
def test_shapes_are_read_as_they_are_written(shape: list[int | None]) -> None:
    assert parse_shape(shape_text(tuple(shape)), len(shape)) == tuple(shape)


@pytest.mark.parametrize("text", ["x3201", "x3201z", "", "x 3 2 0 1 25", "x320101"])
def test_what_is_no_shape_is_said(text: str) -> None:
    with pytest.raises(ValueError, match=r"strings|fret"):
        parse_shape(text, 6)


def test_typed_in_other_ways() -> None:
    assert parse_shape("X-3-2-0-1-0", 6) == parse_shape("×32010", 6) == parse_shape("m 3 2 0 1 0", 6) == frets("x32010")


# ---------------------------------------------------------------- a song


def test_a_way_through_a_song() -> None:
    song = line("C Am F G C Am F G")
    held = hands.hold(song, STANDARD)
    assert [shape_text(h.shape) for h in held if h] == ["x32010", "x02210", "133211", "320003"] * 2
    assert held[2] is not None and held[2].barre == 6


def test_levels_keep_what_they_promise() -> None:
    song = line("C F Bm G#dim7 Ebmaj9 F#m7b5 A/C# G7")
    for level in hands.LEVELS:
        for held in hands.hold(song, STANDARD, 0, level):
            assert held is not None
            found = finger(held.shape)
            assert found is not None and found.count <= level.fingers
            assert found.barre is None or found.barre.strings <= level.barre
            if level.top:
                assert all(f is None for f in held.shape[: -level.top])
    assert hands.effort_of(hands.hold(song, STANDARD, 0, hands.level_of("no barre"))) > 0


def test_the_users_shapes_stay() -> None:
    song = line("C Am F G")
    mine = frets("x3201x")
    held = hands.hold(song, STANDARD, 0, hands.LEVELS[1], {0: mine, 2: frets("xx3211")})
    assert held[0] is not None and held[0].shape == mine and held[0].stated
    assert held[2] is not None and held[2].shape == frets("xx3211")
    assert held[1] is not None and not held[1].stated


def test_what_a_simpler_shape_loses_is_known() -> None:
    song = line("Am Am(maj7)/G# Am7/G D/F# F")
    held = hands.hold(song, STANDARD, 0, hands.level_of("top strings"))
    assert held[1] is not None and 8 in held[1].lost | {8}
    lines = hands.lost_lines(song, held)
    assert lines and len(lines[0][1]) >= 3
    assert hands.lost_lines(song, hands.hold(song, STANDARD)) == []


def test_silence_is_not_held() -> None:
    assert hands.hold([NO_CHORD, parse_chord("C"), NO_CHORD], STANDARD)[::2] == [None, None]
    assert hands.hold([], STANDARD) == []
    assert setups.ranked([NO_CHORD], [3.0]) == []


@pytest.mark.parametrize(
    ("song", "best"), [("Eb Ab Bb Cm", {1, 3}), ("G C D Em", {0}), ("B E F# G#m", {2, 4}), ("C#m A E B", {0, 2, 4})]
)
def test_a_capo_goes_where_chords_are_open(song: str, best: set[int]) -> None:
    chords = line(song) * 6
    found = setups.ranked(chords, [2.0] * len(chords))
    assert found[0].capo in best
    assert [c.score for c in found] == sorted((c.score for c in found), reverse=True)
    assert sum(c.share for c in found) == pytest.approx(1)


def test_the_record_has_a_say() -> None:
    """Where the record holds the notes of one shape, that shape and its capo win."""
    chord = parse_chord("A")
    shape = frets("320003")  # of G, with a capo at 2
    notes = set(pitches(shape, STANDARD, 2))
    row = tuple(3.0 if n in notes else -3.0 for n in range(LOWEST, HIGHEST + 1))
    heard = HeardNotes(((chord, row),))
    assert (
        heard.knows(chord) and heard(chord, sorted(notes)) == pytest.approx(18) and heard(parse_chord("B"), [59]) == 0
    )
    assert setups.ranked([chord] * 4, [2.0] * 4, heard=heard)[0].capo == 2
    held = hands.hold([chord], STANDARD, 2, hands.LEVELS[0], heard=heard)
    assert held[0] is not None and held[0].shape == shape
    with pytest.raises(ValueError, match="number a note"):
        HeardNotes(((chord, (1.0,)),))


# ---------------------------------------------------------------- chosen shapes as data


def test_a_chosen_shape_is_read_as_written() -> None:
    one = Fretting(parse_chord("A"), frets("320003"), STANDARD, 2, (2, 1, 0, 0, 0, 3))
    assert read_fretting(one.plain()) == one


@pytest.mark.parametrize(
    "wrong",
    [None, [], {"chord": "A:maj"}, {"chord": "N", "frets": "x32010", "strings": list(STANDARD)},
     {"chord": "A:maj", "frets": "x3201", "strings": list(STANDARD)}, {"chord": "A:maj", "frets": "xxxxxx", "strings": list(STANDARD)},
     {"chord": "A:maj", "frets": "x32010", "strings": list(STANDARD), "capo": -1},
     {"chord": "A:maj", "frets": "x32010", "strings": list(STANDARD), "fingers": [9] * 6},
     {"chord": "A:maj", "frets": "x32010", "strings": ["E"] * 6}],
)  # fmt: skip
def test_what_is_no_chosen_shape_is_refused(wrong: object) -> None:
    with pytest.raises((ValueError, TypeError)):
        read_fretting(wrong)


# ---------------------------------------------------------------- names of shapes


@pytest.mark.parametrize(
    ("shape", "first", "also"),
    [
        ("x32010", "C", None),
        ("x02010", "Am7", "C6/A"),
        ("x32210", "Am/C", "C6"),
        ("2x0232", "D/F♯", None),
        ("x32310", "C7", None),
        ("x30232", "D/C", "D7/C"),
        ("022100", "E", None),
        ("320001", "G7", None),
    ],
)
def test_frets_have_names(shape: str, first: str, also: str | None) -> None:
    found = [n.chord.name() for n in names(pitches(frets(shape), STANDARD), parse_key("C major"))]
    assert found[0] == first and (also is None or also in found)


def test_sevenths_without_a_third_and_stacked_fourths_have_names() -> None:
    assert "G7(no3)" in [n.chord.name() for n in names([43, 50, 53, 55])]
    assert names([45, 50, 55]) and names([45, 50, 55])[0].chord.pitch_classes == {9, 2, 7}


def test_the_same_notes_have_other_names() -> None:
    found = same_notes(parse_chord("C6"))
    assert parse_chord("Am7/C") in found or parse_chord("Am7").over(0) in found
    assert same_notes(NO_CHORD) == []


def test_too_little_has_no_name() -> None:
    assert names([]) == [] and names([40, 52]) == []


@given(st.lists(st.integers(40, 76), min_size=3, max_size=6))
def test_names_hold_all_that_sounds(notes: list[int]) -> None:
    for named in names(notes):
        assert {n % 12 for n in notes} <= named.chord.pitch_classes
        assert named.chord.sounding_bass == min(notes) % 12
