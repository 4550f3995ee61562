"""Which scales go with chords and lines."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from ychronos.theory.chord import QUALITIES, Chord, parse_chord
from ychronos.theory.key import parse_key
from ychronos.theory.scales import SCALES, fitting


def names(line: dict[int, float], chords: str, key: str) -> list[tuple[int, str]]:
    found = fitting(line, [(parse_chord(c), 1.0) for c in chords.split()], parse_key(key))
    return [(f.root, f.name) for f in found]


def test_the_keys_own_scale_fits_its_chords() -> None:
    assert names({}, "Am7 D7 Gmaj7", "G major")[0] == (7, "major")
    assert names({}, "Am G F", "A minor")[0] == (9, "natural minor")


def test_several_fit_where_several_do() -> None:
    assert {(7, "major"), (2, "mixolydian"), (9, "dorian")} <= set(names({}, "Am7 D7 Gmaj7", "G major"))


def test_a_line_of_five_notes_is_the_pentatonic() -> None:
    assert names({9: 2, 0: 1, 2: 1, 4: 1, 7: 1}, "Am G F Em", "A minor")[0] == (9, "minor pentatonic")


def test_blue_notes_over_dominants() -> None:
    assert names({4: 1, 7: 1, 9: 2, 10: 1, 11: 1, 2: 1}, "E7 A7", "E mixolydian")[0] == (4, "blues")


@given(
    line=st.dictionaries(st.integers(0, 11), st.floats(0.1, 8), max_size=9),
    chords=st.lists(st.tuples(st.integers(0, 11), st.sampled_from(sorted(QUALITIES))), max_size=4),
    key=st.sampled_from(["C major", "F# dorian", "B♭ minor", "E phrygian", "A lydian", "D mixolydian"]),
)
def test_what_is_said_of_a_scale_is_so(line: dict[int, float], chords: list[tuple[int, str]], key: str) -> None:
    found = fitting(line, [(Chord(r, q), 1.0) for r, q in chords], parse_key(key))
    for f in found:
        assert f.classes == {(f.root + s) % 12 for s in SCALES[f.name]}
        whole = sum(line.values())
        if whole:
            assert abs(f.notes - sum(w for n, w in line.items() if n in f.classes) / whole) < 1e-9
        assert 0 <= f.chords <= 1
        if len(f.classes) >= 7 and f.chords == 1.0:
            assert all(set(Chord(r, q).pitch_classes) <= f.classes for r, q in chords)
    assert [f.merit for f in found] == sorted((f.merit for f in found), reverse=True)
