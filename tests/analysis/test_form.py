"""Repeats, sections, strokes, what statements lead to, and the count's helpers, on made-up evidence by value."""

from __future__ import annotations

import itertools
from dataclasses import fields, replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.analysis.synth import plainly_played
from tests.analysis.test_parts import pulse_evidence
from ychronos.analysis import spectra
from ychronos.analysis.beats import count, ending, levels, pulse
from ychronos.analysis.beats.pulsenet import PulseEvidence
from ychronos.analysis.chords import alike, harmony
from ychronos.analysis.chords.chordnet import CHORDS
from ychronos.analysis.explain import stops
from ychronos.analysis.form import boundaries, repeats, sections, tapes, wholes
from ychronos.theory.chord import parse_chord

RNG = np.random.default_rng(11)
TONES = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9}


def music(text: str) -> sections.BarFeatures:
    """Features of bars, each a letter: the same letter sounds the same; ``|`` is a change of sound."""
    palette = {k: RNG.normal(0, 1, (sections.SLICES, 12)) for k in "CDEFGA"}
    colours = RNG.normal(0, 1, (8, 9))
    rows, sound, numbers, part = [], [], [], 0
    for letter in text:
        if letter == "|":
            part += 1
            continue
        rows.append(palette[letter] + RNG.normal(0, 0.05, (sections.SLICES, 12)))
        sound.append(colours[part % len(colours)] + RNG.normal(0, 0.05, 9))
        numbers.append([TONES[letter] * 3] * sections.SLICES)
    harmony_rows = np.array(rows)
    harmony_rows /= np.sqrt((harmony_rows**2).sum((1, 2), keepdims=True))
    chances = np.zeros((len(rows), 36))
    chances[np.arange(len(rows)), [n[0] for n in numbers]] = 1.0
    return sections.BarFeatures(
        harmony_rows, np.array(sound), np.zeros(len(rows)), chances, np.array(numbers), *plainly_played(len(rows))
    )


def found_repeats(text: str) -> repeats.Repeats:
    made = music(text)
    like, _ = sections.similarity(made)
    return repeats.find(like, made.chords)


def test_repeats_are_told_by_bars_in_order() -> None:
    made = found_repeats("CFGCDEFACFGC")
    assert made.alike((0, 4), (8, 12)) > 0.95
    assert made.alike((0, 4), (4, 8)) < repeats.SAME
    assert made.alike((0, 2), (8, 12)) < made.alike((0, 4), (8, 12))


def test_a_repeat_with_a_bar_more_is_recognised() -> None:
    made = found_repeats("CFGCDA" + "EEEE" + "CFGFCDA")
    assert made.alike((0, 6), (10, 17)) > repeats.SAME
    plain = repeats._best(made.plain, np.array([0]), np.array([6]), (10, 17), np.array([6]))[0]
    assert made.alike((0, 6), (10, 17)) > plain * (6 / 7) ** 0.3, "the gap is what makes it alike"


def test_a_repeat_at_another_pitch_is_recognised() -> None:
    made = found_repeats("CFGC" + "EEEE" + "DGAD")
    assert made.transposed((0, 4), (8, 12)) == pytest.approx(1.0)
    assert made.alike((0, 4), (8, 12)) < repeats.SAME
    assert made.changes[-1] == 8


def test_a_stretch_is_divided_where_a_shorter_one_stands_alone_too() -> None:
    verse, chorus = "CFGCDEFA", "FFGGEEDD"
    made = found_repeats(verse + verse + chorus + verse + chorus)
    assert repeats.divided([0, 8, 24, 40], made) == [0, 8, 16, 24, 32, 40]
    backwards = found_repeats(chorus + verse + chorus + verse + verse)
    assert repeats.divided([0, 16, 32, 40], backwards) == [0, 8, 16, 24, 32, 40]
    four = found_repeats(verse[:4] + verse + verse)  # an intro on half a verse leaves the verse whole
    assert repeats.divided([0, 4, 12, 20], four) == [0, 4, 12, 20]
    assert repeats.divided([0, 8, 24], found_repeats(chorus + verse + "GGGGAAAA")) == [0, 8, 24]


def test_a_song_whose_parts_share_their_first_bar_begins_with_whole_phrases() -> None:
    """Verse and chorus both begin with a bar of C: as well as in eights the song repeats in eights from the second bar on."""
    verse, chorus = "CFDGAEFG", "CAAGFFGG"
    made = found_repeats(verse + verse + chorus + verse)
    late = [0, 9, 17, 25, 32]
    begin = np.full(32, -4.0)
    begin[[9, 17, 25]] = 0.0
    begin[[8, 16, 24]] = -1.5
    assert sections._in_whole_phrases(late, begin, made, first=0) == [0, 8, 16, 24, 32]
    assert sections._in_whole_phrases(late, begin, made, first=1) == late, "after a bar that counts in it does already"
    assert sections._in_whole_phrases([0, 8, 16, 24, 32], begin, made, first=1) == [0, 9, 17, 25, 32]
    begin[[8, 16, 24]] = -6.0
    assert sections._in_whole_phrases(late, begin, made, first=0) == late, "what is plainly heard stays"
    assert sections._in_whole_phrases([0, 9, 32], begin, made, first=0) == [0, 9, 32]


def test_from_one_section_on_a_song_may_be_told_a_bar_late_too() -> None:
    """Only the third and fourth sections begin with the same bar of C."""
    made = found_repeats("GFDEGAEF" + "AGFDEEDA" + "CFDGAEFG" + "CAAGFFGG" + "CFDGAEFG")
    late = [0, 8, 17, 25, 33, 40]
    begin = np.full(40, -4.0)
    begin[[8, 17, 25, 33]] = 0.0
    begin[[16, 24, 32]] = -1.0
    assert sections._in_whole_phrases(late, begin, made, first=0) == [0, 8, 16, 24, 32, 40]
    begin[[16, 24, 32]] = -6.0
    assert sections._in_whole_phrases(late, begin, made, first=0) == late, "a section of nine bars"
    assert sections._in_whole_phrases([0, 8, 16, 25, 40], begin, made, first=0) == [0, 8, 16, 25, 40], (
        "one limit by itself"
    )


def test_a_few_sections_in_the_midst_may_be_told_a_bar_late_too() -> None:
    """From the last one on all stands where it should again."""
    made = found_repeats("GFDEGAEF" + "AGFDEEDA" + "CFDGAEFG" + "CAAGFFGG" + "GFDEGAEF")
    late = [0, 8, 17, 25, 32, 40]
    begin = np.full(40, -4.0)
    begin[[8, 17, 25, 32]] = 0.0
    begin[[16, 24]] = -1.0
    assert sections._in_whole_phrases(late, begin, made, first=0) == [0, 8, 16, 24, 32, 40]
    begin[[16, 24]] = -8.0
    assert sections._in_whole_phrases(late, begin, made, first=0) == late, "what is plainly heard stays"


def test_two_verses_before_the_first_chorus_are_two(monkeypatch: pytest.MonkeyPatch) -> None:
    verse, chorus = "CFGCDEFA", "FFGGEEDD"
    monkeypatch.setattr(sections, "_by_repeats", lambda *_: [0, 8, 24, 40])  # the verse, then both together twice
    made = sections.decide(music(verse + verse + chorus + verse + chorus)).sections
    assert [(d.first, d.letter) for d in made] == [(0, "A"), (8, "A"), (16, "B"), (24, "A"), (32, "B")]


@given(st.integers(1, 6), st.integers(0, 5), st.integers(0, 5))
def test_diagonal_sums_are_means(length: int, a: int, b: int) -> None:
    like = np.random.default_rng(3).random((12, 12))
    made = repeats.find(like, np.full((12, 4), -1))
    want = like[a + np.arange(length), b + np.arange(length)].mean()
    first, last = np.array([a]), np.array([a + length])
    assert repeats._best(made.plain, first, last, (b, b + length), np.array([length]))[0] == pytest.approx(want)


def test_an_intro_is_parted_from_the_verse_that_comes_again() -> None:
    verse, chorus = "CFGCDEFA", "FFGGEEDD"
    made = sections.decide(music("AACC|" + verse + "|" + chorus + "|" + verse + "|" + chorus)).sections
    limits = [d.first for d in made]
    assert {4, 12, 20, 28} <= set(limits), limits
    letters = {d.first: d.letter for d in made}
    assert letters[4] == letters[20] and letters[12] == letters[28] and letters[4] != letters[12]
    assert all(0 <= d.confidence <= 1 for d in made)


# ---------------------------------------------------------------- strokes


def bands_of(*bars: str) -> tuple[np.ndarray, np.ndarray]:
    """Bands of bars of two seconds, eight letters each: x struck, . ringing on, - silent."""
    frames = []
    level = 0.0
    for bar in bars:
        for letter in bar:
            for k in range(12 if len(frames) % 2 else 13):
                level = 1.0 if letter == "x" and k == 0 else 0.0 if letter == "-" else level * 0.995
                frames.append(np.full(10, level))
    lines = np.linspace(0, len(frames) / 50, len(bars) + 1)
    return np.array(frames), lines


def test_a_bar_that_stops_and_one_that_rings() -> None:
    bands, lines = bands_of("xxxxxxxx", "xxxxxxxx", "x.......", "xxx-----", "xxxxxxxx")
    made = stops.find(sections.frames(bands, np.zeros((len(bands) // 4, 84))), lines)
    assert made.differs(1, 0) is None and made.differs(4, 0) is None
    ring, cut, on = made.differs(2, 0), made.differs(3, 0), made.differs(0, 2)
    assert ring is not None and ring[0] == "struck and left to ring" and 0.75 < ring[1] <= 1
    assert cut is not None and cut[0] == "cut short"
    assert on is not None and on[0] == "played on, not stopped"


# ---------------------------------------------------------------- what statements lead to


def chance_of(*names: str, share: float = 0.9) -> np.ndarray:
    out = np.full((len(names), len(CHORDS)), (1 - share) / len(CHORDS))
    for i, name in enumerate(names):
        out[i, CHORDS.index(parse_chord(name))] += share
    return out


def test_chances_move_with_the_pitch() -> None:
    moved = alike.moved_up(chance_of("C", "Am7", "N"), 2)
    assert [CHORDS[i] for i in moved.argmax(1)] == [parse_chord(n) for n in ("D", "Bm7", "N")]
    assert alike.moved_up(moved, 0) is moved
    assert np.allclose(alike.moved_up(moved, 10), chance_of("C", "Am7", "N"))


def test_a_statement_travels_to_a_higher_pass_and_bars_of_odd_lengths() -> None:
    chances = chance_of("C", "C", "F", "F", "F", "D", "D", "G", "G", "G")
    groups = [[0, 1], [2, 3, 4], [5, 6], [7, 8, 9]]
    likes = alike.find(chances, groups)
    state = 100
    led = alike.travel(likes, chances, {3: state}, {1: [(3, 2)]}, lambda s, up: s + up)
    assert [(segment, s) for segment, s, _ in led] == [(8, 102)]
    other = chances.copy()
    other[8] = chance_of("Ebm")[0]
    assert alike.travel(likes, other, {3: state}, {1: [(3, 2)]}, lambda s, up: s + up) == []


def test_what_is_heard_alike_is_called_alike() -> None:
    chances = chance_of("C5", "G", "C5", "C5", "C5")
    chances[4] = chance_of("C5", share=0.1)[0]
    free = np.array([7, 9, 7, 7, 7])
    always = alike.echo(chances, free, {0: 50}, lambda heard, called: True)
    assert [(segment, state) for segment, state, _ in always] == [(2, 50), (3, 50)]
    assert alike.echo(chances, free, {0: 50}, lambda heard, called: False) == []
    kept = alike.echo(chances, free, {0: 50, 3: 7}, lambda heard, called: True)
    assert len(kept) <= 1, "a confirmed one keeps what is like it"
    assert alike.echo(chances, free, {}, lambda heard, called: True) == []


@pytest.mark.parametrize(
    ("heard", "called", "same"),
    [
        ("F#m7b5", "Am6/F#", True),
        ("C5", "Cm", True),
        ("C5", "C", True),
        ("C", "Am", False),
        ("C", "C/E", False),
        ("C6", "Am7", False),
        ("C6", "Am7/C", True),
        ("C", "N", False),
    ],
)
def test_other_names_of_one_sound(heard: str, called: str, same: bool) -> None:
    one, two = (harmony._nearest_state(parse_chord(n)) for n in (heard, called))
    assert harmony._renames(one, two) == same


def test_states_move_up() -> None:
    state = harmony._nearest_state(parse_chord("C/E"))
    assert harmony._states().chords[harmony._higher(state, 3)] == parse_chord("Eb/G")
    assert harmony._higher(state, 12) == state


# ---------------------------------------------------------------- the count


def test_a_speed_between_frames_is_followed() -> None:
    beats = 0.5 + np.arange(150) * 60 / 384
    found = pulse.quickest(pulse_evidence(beats, 8, beats[-1] + 0.5))
    inside = found.times[(found.times > 0.4) & (found.times < beats[-1] + 0.05)]
    assert len(inside) == pytest.approx(len(beats), abs=1)
    assert np.abs(beats[:, None] - inside[None]).min(1).max() < 0.04


def test_a_last_chord_that_rings_is_not_counted() -> None:
    beats = 0.5 + np.arange(32) * 0.5
    evidence = pulse_evidence(beats[:28], 4, 17.0)
    decided = count.bars.decide(evidence, beats)
    assert len(decided.position) == 32
    times, kept = ending.played(evidence, beats, decided)
    assert len(times) == len(kept.position) == len(kept.one) == 28
    same, _ = ending.played(pulse_evidence(beats, 4, 17.0), beats, decided)
    assert len(same) == 32
    clapped = 0.5 + np.arange(200) * 0.5  # twenty seconds of applause
    evidence = pulse_evidence(clapped[:160], 4, 101.0)
    assert len(ending.played(evidence, clapped, count.bars.decide(evidence, clapped))[0]) == 160


def test_a_song_of_weak_beats_is_counted_to_its_end() -> None:
    beats = 0.5 + np.arange(96) * 0.5
    evidence = pulse_evidence(beats, 4, 49.0)
    decided = count.bars.decide(evidence, beats)
    firm = (np.arange(len(evidence.beat)) < 12 * 50).astype(np.float32)  # a firm count for twelve seconds
    weak = replace(evidence, beat=evidence.beat * np.maximum(firm, 0.3), bar=evidence.bar * np.maximum(firm, 0.05))
    times, kept = ending.played(weak, beats, decided)
    assert len(times) == len(kept.position) == 96
    later = beats + 0.005 * np.maximum(0, np.minimum(np.arange(96), 30) - 14) ** 2  # slower for a while
    heard = pulse_evidence(later, 4, 52.0)
    firm = np.where(np.arange(len(heard.beat)) < 50 * (later[22] + 0.2), 1, 0.3).astype(np.float32)
    assert ending.slowed(replace(heard, beat=heard.beat * firm), later) is later


def with_odd_bars(odd: int) -> tuple[np.ndarray, PulseEvidence, list[float]]:
    """(beats as a band would be tapped along, evidence, true bar lines): six bars of 4/4, ``odd`` bars of 7/8 in which
    quarters are still heard most, six of 4/4."""
    quarter = 0.44
    lines = [0.5 + 4 * quarter * k for k in range(6)]
    at = lines[-1] + 4 * quarter
    for _ in range(odd):
        lines.append(at)
        at += 3.5 * quarter
    lines += [at + 4 * quarter * k for k in range(6)]
    beats = 0.5 + np.arange(round((lines[-1] + 4 * quarter - 0.5) / quarter)) * quarter
    evidence = pulse_evidence(beats, 1000, lines[-1] + 3)
    bar = np.full_like(evidence.bar, 0.01)
    beat = evidence.beat.copy()
    for line in lines:
        bar[round(line * 50)] = 0.9
    for eighth in np.arange(lines[5] + 4 * quarter, lines[6 + odd] - 0.1, quarter / 2):
        beat[round(eighth * 50)] = max(beat[round(eighth * 50)], 0.4)
    return beats, replace(evidence, bar=bar, beat=beat), lines


def test_a_stretch_in_eighths_is_counted_in_eighths() -> None:
    beats, evidence, lines = with_odd_bars(8)
    decided = count.bars.decide(evidence, beats)
    times, found = levels.decide(evidence, beats, decided, None)
    ones = times[found.position == 1]
    assert len(ones) == pytest.approx(len(lines), abs=1)
    assert max(np.abs(ones - line).min() for line in lines) < 0.03
    eighths = np.isin(found.meter, levels.EIGHTH)
    assert eighths.sum() == 56 and len(times) == len(beats) + 28
    assert ((found.one >= 0) & (found.one <= 1)).all()


def test_a_song_without_odd_bars_stays_as_it_is() -> None:
    beats, evidence, _ = with_odd_bars(0)
    decided = count.bars.decide(evidence, beats)
    times, found = levels.decide(evidence, beats, decided, None)
    assert times is beats and found is decided


def test_a_slow_waltz_has_no_other_level() -> None:
    beats = 0.5 + np.arange(60) * 1.0
    evidence = pulse_evidence(beats, 3, 62.0, meter=1)
    decided = count.bars.decide(evidence, beats)
    assert levels.decide(evidence, beats, decided, None)[0] is beats


def test_a_band_that_slows_down_is_followed_to_its_last_bar() -> None:
    steady = 0.5 + np.arange(29) * 0.5
    slow = steady[-1] + np.cumsum(0.5 * 1.05 ** np.arange(1, 12))
    beats = np.concatenate([steady, slow])
    evidence = pulse_evidence(beats, 4, beats[-1] + 2)
    quiet = evidence.beat.copy()
    for beat in slow[5:]:  # the last chord rings, but for one stroke
        if beat != slow[7]:
            quiet[round(beat * 50) - 2 : round(beat * 50) + 3] = 0.02
    heard = replace(evidence, beat=quiet)
    tapped = np.concatenate([steady, slow[:5]])
    found = ending.slowed(heard, tapped)
    assert np.abs(found[: len(beats)] - beats[: len(found)]).max() < 0.12
    assert np.abs(found - slow[7]).min() < 0.03, "the stroke is taken"
    assert len(found) >= len(tapped) + 3


@pytest.mark.parametrize(("ratio", "slower"), [(1.05, 7), (1.06, 5), (1.07, 5), (1.08, 5), (1.09, 4), (1.09, 6)])
def test_a_band_that_slows_down_at_once_is_not_counted_with_a_beat_too_many(ratio: float, slower: int) -> None:
    steady = 0.5 + np.arange(33) * 0.5
    beats = np.concatenate([steady, steady[-1] + np.cumsum(0.5 * ratio ** np.arange(1, slower + 1))])
    heard = pulse_evidence(beats, 4, beats[-1] + 1)
    # as a count goes on that keeps to its speed, to the last stroke
    between = round(float(beats[-1] - steady[-1]) / 0.5)
    tapped = np.concatenate([steady, np.linspace(steady[-1], beats[-1], between + 1)[1:]])
    found = ending.slowed(heard, tapped)
    assert between > slower
    assert np.abs(found[: len(beats)] - beats).max() < 0.07 and len(found) - len(beats) <= 2
    worse = replace(heard, beat=pulse_evidence(tapped, 4, beats[-1] + 1).beat)
    assert ending.slowed(worse, tapped)[: len(tapped)] == pytest.approx(tapped, abs=0.03), (
        "what is struck so is counted so"
    )


def test_a_steady_end_is_left_alone() -> None:
    beats = 0.5 + np.arange(40) * 0.5
    evidence = pulse_evidence(beats, 4, 23.0)
    assert ending.slowed(evidence, beats) is beats
    assert ending.slowed(evidence, beats[:5]) is not None


def test_the_last_bar_is_counted_to_its_end() -> None:
    beats = 0.5 + np.arange(34) * 0.5
    evidence = pulse_evidence(beats[:29], 4, 19.0)
    times, decided = ending.whole_bar(evidence, beats, count.bars.decide(evidence, beats))
    assert len(times) == 32 and decided.position[-1] == 4


@given(st.integers(5, 12), st.integers(0, 4), st.integers(1, 4), st.floats(0.35, 0.9))
def test_a_last_bar_is_whole_or_none(whole: int, struck: int, counted: int, beat: float) -> None:
    """A bar line is heard where everybody stops, though nothing begins there; a last bar with a stroke in it goes on to its end."""
    stopped = 4 * whole + struck
    beats = 0.5 + np.arange(max(stopped, 4 * whole + counted)) * beat
    seconds = float(beats[-1] + 5 * beat)
    heard = pulse_evidence(beats, 4, seconds)
    begun = np.full((len(heard.beat), 6), -0.3, np.float32)
    for at in np.round(beats[:stopped] * spectra.BAND_RATE).astype(int):
        begun[at - 1 : at + 2] = 3.0
    decided = count.bars.decide(heard, beats)
    times, kept = ending.last_bar(replace(heard, begun=begun), beats, decided)
    assert len(times) == len(kept.position) == len(kept.meter) == len(kept.one) == 4 * (whole + (struck > 0))
    assert kept.position[-1] == 4 and np.diff(times) == pytest.approx(beat)
    cut = replace(heard, beat=heard.beat[: int((beats[-1] + 0.2) * spectra.BAND_RATE)], begun=begun)
    if struck:
        assert len(ending.last_bar(cut, beats, decided)[0]) == len(beats), "not beyond the record"
    assert ending.last_bar(heard, beats, decided)[0] is beats, "where nobody knows what begins"


@pytest.mark.parametrize(("left", "counted"), [(0.06, 32), (0.3, 33)])
def test_a_record_that_is_cut_as_a_bar_begins_has_no_bar_there(left: float, counted: int) -> None:
    beats = 0.5 + np.arange(33) * 0.5
    heard = pulse_evidence(beats, 4, float(beats[-1]) + left)
    begun = np.full((len(heard.beat), 6), -0.3, np.float32)
    for at in np.round(beats * spectra.BAND_RATE).astype(int):
        begun[at - 1 : at + 2] = 3.0
    decided = count.bars.decide(heard, beats)
    times, kept = ending.last_bar(replace(heard, begun=begun), beats, decided)
    assert len(times) == len(kept.position) == counted


# ---------------------------------------------------------------- tapes of many songs


@given(st.lists(st.floats(-60, 0), min_size=1, max_size=4000))
def test_a_tape_is_cut_into_pieces_that_can_be_compared(level: list[float]) -> None:
    found = [0, *tapes.cuts(np.array(level)), len(level)]
    pieces = np.diff(found)
    assert (pieces > 0).all() and pieces.max() <= tapes.LONGEST
    assert len(level) > tapes.LONGEST or len(pieces) == 1
    assert len(pieces) == 1 or pieces.min() >= tapes.SHORTEST // 2


def test_a_tape_is_cut_between_its_songs_and_each_is_decided_for_itself() -> None:
    song = "CFGC" * 2 + "|" + "DAAE" * 2 + "|"
    one = music((song * 38)[:-1])  # 608 bars
    level = one.level.copy()
    level[-4:] = -60.0
    tape = sections.BarFeatures(*(np.concatenate([getattr(one, f.name)] * 2) for f in fields(one)))
    tape = replace(tape, level=np.tile(level, 2))
    found = sections.decide(tape)
    cut = next(s for s in found.sections if s.first >= 602)
    assert abs(cut.first - 606) <= tapes.LULL
    assert found.sections[0].first == 0 and found.sections[-1].last == 1216
    assert all(a.last == b.first for a, b in zip(found.sections, found.sections[1:], strict=False))
    before, after = ({s.letter for s in found.sections if (s.first >= cut.first) is late} for late in (False, True))
    assert not before & after  # the second song has letters of its own
    assert isinstance(found.repeats, tapes.Apart)
    inside = [s for s in found.sections if s.first > cut.first + 16]
    twin = next(s for s in inside[1:] if s.letter == inside[0].letter)
    assert found.repeats.alike((inside[0].first, inside[0].last), (twin.first, twin.last)) > repeats.SAME
    assert found.repeats.alike((0, 8), (cut.first + 8, cut.first + 16)) == 0.0
    said = sections.around(found, [inside[0].first + 1])
    assert inside[0].first + 1 in {s.first for s in said}


@pytest.mark.parametrize(
    ("lengths", "regular"),
    [
        ([7] * 6, True),
        ([7, 13] * 4, True),
        ([7, 13, 13, 7, 7, 13, 13, 7], True),
        ([13] * 8, False),
        ([7] * 6 + [5] * 6, False),  # no turns
        ([7, 7, 7], False),  # too few to tell
        ([13, 11, 5, 5, 11, 11, 13, 13, 11, 11, 5, 5], False),  # what a count falls apart into
        ([13, 13, 7, 13, 7, 7, 7, 13, 7, 7], False),
    ],
)
def test_a_stretch_in_eighths_follows_a_pattern(lengths: list[int], regular: bool) -> None:
    place = np.concatenate([np.arange(n) for n in lengths])
    assert levels._regular(np.zeros(len(place), int), place) is regular


# ---------------------------------------------------------------- phrases that make one section


def _textures(limits: list[int], of: list[float]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Likeness of bars, level and odds for stretches whose textures are numbers: where one changes it sounds like a beginning."""
    bars = np.concatenate([np.full(b - a, t) for a, b, t in zip(limits, limits[1:], of, strict=False)])
    odds = np.where(np.diff(bars, prepend=bars[:1]) != 0, 1.0, -4.0)
    return np.exp(-np.abs(bars[:, None] - bars[None])), 3 * bars, odds


def test_phrases_that_always_follow_each_other_in_one_texture_are_one_section() -> None:
    letters = list("XABABABCAB")
    limits = [0, *np.cumsum([4] + [8] * 9).tolist()]
    sound, level, odds = _textures(limits, [0.0] * 10)
    odds[[limits[i] for i, x in enumerate(letters) if x != "B"]] = (
        1.0  # something begins there, but not in the middle of a pair
    )
    plain = wholes.join(limits, letters, sound, level, odds)
    assert set(plain) == set(limits) - {limits[i + 1] for i, x in enumerate(letters) if x == "A"}
    louder = [0.0 if x != "B" else 1.5 for x in letters]  # every second one with all the band: a verse and a chorus
    sound, level, odds = _textures(limits, louder)
    odds[limits[:-1]] = 1.0
    assert wholes.join(limits, letters, sound, level, odds) == limits


@given(st.lists(st.tuples(st.sampled_from("ABC"), st.integers(1, 12), st.floats(0, 2)), min_size=1, max_size=20))
def test_wholes_begin_and_end_where_phrases_do(phrases: list[tuple[str, int, float]]) -> None:
    limits = [0, *np.cumsum([n for _, n, _ in phrases]).tolist()]
    made = wholes.join(limits, [x for x, _, _ in phrases], *_textures(limits, [t for _, _, t in phrases]))
    assert made[0] == 0 and made[-1] == limits[-1] and made == sorted(set(made)) and set(made) <= set(limits)
    joined = [b - a for a, b in itertools.pairwise(made) if (a, b) not in set(itertools.pairwise(limits))]
    assert all(n <= wholes.LONGEST for n in joined)


@pytest.mark.parametrize(
    ("letters", "begins"),
    [
        ("AABAB", "AABAB"),  # two verses, a chorus: the verse comes without it, so they are not one section
        ("AABABB", "AABABB"),
        ("AABAAABAAABA", "A...A...A..."),  # a whole song of one AABA after the other
        ("XABCABCDABC", "XA..A..DA.."),
        # the introduction is the first half of the verse, the ending that of the verse or the second of it
        ("AABABCAB", "AA.A.CA."),
        ("ABABCABB", "A.A.CA.B"),
        ("AABABCABA", "AA.A.CA.A"),
    ],
)
def test_what_repeats_tells_wholes_where_nothing_else_does(letters: str, begins: str) -> None:
    limits = [8 * k for k in range(len(letters) + 1)]
    sound, level, odds = _textures(limits, [0.0] * len(letters))
    made = wholes.join(limits, list(letters), sound, level, odds)
    assert made == [8 * k for k, x in enumerate(begins) if x != "."] + [limits[-1]]


@given(st.text("ABC", min_size=1, max_size=12), st.lists(st.text("ABC", min_size=2, max_size=4), max_size=3))
def test_a_reading_takes_the_longest_whole_that_fits(music: str, known: list[str]) -> None:
    begins = wholes.read(music, known)
    parts = [music[a:b] for a, b in itertools.pairwise((*begins, len(music)))]
    assert "".join(parts) == music and all(len(x) == 1 or x in known for x in parts)
    for at, part in zip(begins, parts, strict=True):
        assert not any(music.startswith(w, at) and len(w) > len(part) for w in known)
    phrases = wholes.Phrases(tuple(range(len(music) + 1)), music, np.zeros((len(music) - 1, 3)))
    assert len(wholes.features(phrases, begins)) == len(wholes.FEATURES) == len(wholes.WEIGHTS)


@pytest.mark.parametrize(
    ("whole", "returns"), [("AABA", True), ("ABA", True), ("AAB", False), ("ABAB", False), ("A", False), ("", False)]
)
def test_a_music_that_comes_back(whole: str, returns: bool) -> None:
    assert wholes.comes_back(whole) is returns


# ---------------------------------------------------------------- where sections begin


def played(begins: tuple[int, ...], bars: int = 32, seed: int = 3) -> sections.BarFeatures:
    """Bars of two musics that take turns, each of its own texture; before each beginning a fill, at it a crash and home."""
    rng = np.random.default_rng(seed)
    text, part = "", 0
    for bar in range(bars):
        if bar in begins:
            text += "|"
            part += 1
        text += ("CFGA", "EDEA")[part % 2][bar % 4]
    one = music(text)
    parts = np.abs(rng.normal(0.3, 0.03, (bars, 8, 24)))
    for bar in begins:
        parts[bar - 1, 6:, 12:] += 0.8
        parts[bar, 0, 12:] += 0.9
    return replace(
        one,
        parts=parts,
        level=rng.normal(0, 0.3, bars) + [float(text.replace("|", "")[b] in "ED") * 3 for b in range(bars)],
    )


def test_a_section_begins_where_everything_says_so() -> None:
    begins = (8, 16, 24)
    bars = played(begins)
    harmony, sound = sections.similarity(bars)
    odds = boundaries.log_odds(sections.looked_at(bars, harmony, sound, bars.chances @ bars.chances.T))
    assert set(np.argsort(odds[1:])[-3:] + 1) == set(begins)
    assert odds[list(begins)].min() > np.delete(odds, [0, *begins]).max() + 1
    assert [s.first for s in sections.decide(bars).sections] == [0, *begins]


def test_what_is_looked_at_does_not_depend_on_how_loud_the_record_is() -> None:
    bars = played((8, 16, 24))
    harmony, sound = sections.similarity(bars)
    shared = bars.chances @ bars.chances.T
    plain = sections.looked_at(bars, harmony, sound, shared).features()
    louder = sections.looked_at(replace(bars, level=bars.level + 20), harmony, sound, shared).features()
    assert plain.shape == (32, 70) and np.allclose(plain, louder)


def test_a_beginning_is_told_wherever_the_song_is_cut() -> None:
    """The nets do not count from the first bar: a piece of the song has the same beginnings."""
    bars = played((8, 16, 24), bars=40)
    whole = {s.first for s in sections.decide(bars).sections}
    piece = {s.first + 5 for s in sections.decide(bars.between(5, 40)).sections if s.first}
    assert piece == whole - {0}
