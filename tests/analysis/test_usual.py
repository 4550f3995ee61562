"""What is usual in a song: where chords change, which they are, whether they have sevenths."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from ychronos.analysis.chords import usual
from ychronos.analysis.chords.chordnet import CHORDS, QUALITIES_HEARD, HarmonyEvidence
from ychronos.analysis.chords.harmony import free
from ychronos.theory.chord import parse_chord

BARS = 24
GROUPS = [list(range(8 * bar, 8 * bar + 8)) for bar in range(BARS)]  # 4/4 in eighths
ON_BEAT = np.arange(8 * BARS) % 2 == 0
ON_ONE = np.arange(8 * BARS) % 8 == 0


def number(name: str) -> int:
    return CHORDS.index(parse_chord(name))


def test_a_song_full_of_sevenths_believes_them_more() -> None:
    def gain(*names: str) -> tuple[float, float]:
        out = usual.colour(np.array([number(n) for n in names]), np.ones(len(names)))
        return float(out[number("G7")]), float(out[number("G")])

    full, some, none = gain("Cmaj7", "Am7", "D7", "G"), gain("C", "G7", "F", "N"), gain("C", "F", "N", "Am")
    assert full[0] > 0 > some[0] > none[0] and full[1] == some[1] == none[1] == 0
    assert gain("N", "N") == none, "where nobody plays a chord as where all are plain"
    assert abs(none[0]) < 2, "never so much that what is plainly heard is not believed"


def test_a_chord_that_is_often_played_is_believed_more() -> None:
    names = ["C"] * 6 + ["F"] * 3 + ["Dm7"] + ["N"] * 20
    gain = usual.familiar(np.array([number(n) for n in names]), np.ones(len(names)))
    assert gain[number("C")] > gain[number("F")] > gain[number("Dm7")] > gain[number("G")] == gain[number("N")] == 0
    assert gain.max() <= usual.FAMILIAR_WEIGHT * usual.MOST_FAMILIAR


def test_harmony_that_moves_by_half_bars_may_do_so_everywhere() -> None:
    cost = usual.costs(ON_BEAT, ON_ONE)
    assert cost[:4].tolist() == [5, 8, 6, 8]
    chords = np.repeat(np.arange(2 * BARS) % 5, 4)  # a new one every half bar
    turned = usual.rhythm(chords, cost, GROUPS).reshape(BARS, 8)
    assert np.ptp(turned, axis=0).max() < 1e-9, "every bar alike"
    bar = turned[5]
    assert bar[4] < bar[0] < 0, "half bars are what is unusual here"
    assert 0 < bar[2] == bar[6] and 0 < bar[1] == bar[3], "and nowhere else"
    assert not usual.rhythm(chords[:24], cost[:24], GROUPS[:3]).any(), "three bars are no habit"


@given(st.lists(st.integers(0, 3), min_size=8 * BARS, max_size=8 * BARS))
def test_no_habit_says_more_than_a_bound(path: list[int]) -> None:
    turned = usual.rhythm(np.array(path), usual.costs(ON_BEAT, ON_ONE), GROUPS)
    assert np.abs(turned).max() <= usual.MOST_RHYTHM


def heard(chords: list[str], doubt: int) -> HarmonyEvidence:
    """Evidence of a chord for every segment, at one of which the one before and a strange one are as likely."""
    score = np.full((len(chords), len(CHORDS)), -9.0, np.float32)
    bass, notes = np.full((len(chords), 13), -6.0, np.float32), np.full((len(chords), 12), -5.0, np.float32)
    for k, name in enumerate(chords):
        chord = parse_chord(name)
        score[k, number(name)], bass[k, chord.root] = -0.1, -0.1
        notes[k, sorted(chord.pitch_classes)] = 5
    for k in range(doubt, doubt + 4):
        score[k, number(chords[doubt - 1])] = score[k, number(chords[k])] - 1.1
        bass[k], notes[k] = -2.5, 0
    return HarmonyEvidence(score, bass, notes)


def test_a_doubtful_change_is_believed_where_the_song_has_changes() -> None:
    loop, still = ["C", "C", "F", "F"], ["C", "C", "C", "C"]
    at = 8 * 12 + 4

    def found(bar: list[str]) -> int:
        chords = [c for k in range(BARS) for c in (bar if k != 12 else loop) for _ in range(2)]
        edges = np.arange(len(chords) + 1) / 10.766  # one frame a segment
        return sum(first == at for first, _, _ in free(heard(chords, at), edges, ON_BEAT, ON_ONE, GROUPS))

    assert QUALITIES_HEARD[0] == "maj"
    assert found(loop) == 1 and found(still) == 0
