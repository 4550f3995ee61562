"""Drift, causes and groupings, from sounds and arrays whose truth is known."""

from __future__ import annotations

import numpy as np
import pytest

from tests.analysis.synth import pluck
from tests.analysis.test_parts import harmony_evidence, pulse_evidence
from ychronos.analysis import spectra, tuning
from ychronos.analysis.beats import bars, grouping, recount
from ychronos.analysis.explain import causes
from ychronos.analysis.spectra import PITCH_RATE
from ychronos.guitar import setups
from ychronos.theory.chord import parse_chord
from ychronos.theory.key import parse_key


@pytest.mark.parametrize(("first", "last"), [(0.0, 0.0), (-12.0, 14.0), (30.0, 62.0), (-44.0, 44.0), (70.0, -20.0)])
def test_drift_follows_a_sliding_tape(first: float, last: float) -> None:
    number = 60
    offsets = np.linspace(first, last, number)
    signal = np.concatenate([pluck(m, 1.0, c, 0.3) for m, c in zip([45, 52, 57, 61, 64] * 12, offsets, strict=True)])
    found = tuning.estimate(signal.astype(np.float32))
    moved = found.drift[-1, 1] - found.drift[0, 1]
    expected = (last - first) * (found.drift[-1, 0] - found.drift[0, 0]) / number
    assert moved == pytest.approx(expected, abs=2.0)
    assert (np.diff(found.drift[:, 0]) > 0).all()


def test_notes_of_a_sliding_tape_stay_the_same_notes() -> None:
    offsets, tones = np.linspace(-45, 45, 60), [45, 52, 57, 61, 64] * 12
    signal = np.concatenate([pluck(m, 1.0, c, 0.3) for m, c in zip(tones, offsets, strict=True)]).astype(np.float32)
    found = tuning.estimate(signal)
    assert found.cents == pytest.approx(0, abs=4), "its own offset is the one in the middle"
    at = (np.arange(60) + 0.4) * PITCH_RATE
    times = np.arange(len(signal) // spectra.PITCH_HOP + 1) / PITCH_RATE
    followed = spectra.pitch(signal, found.over(times))[at.astype(int)].argmax(1)
    rigid = spectra.pitch(signal, found.cents)[at.astype(int)].argmax(1)
    bins = (np.array(tones) - spectra.LOWEST_MIDI) * spectra.BINS + 1
    assert np.array_equal(followed, bins) and (rigid != bins).sum() > 20


def test_a_steady_tape_is_heard_at_one_offset() -> None:
    drift = np.array([[6.0, 3.0], [12.0, 9.0], [18.0, -4.0]])
    at = np.array([0.0, 9.0, 99.0])
    assert tuning.Tuning(2.0, 0.9, np.zeros(50), drift).over(at).tolist() == [2.0, 2.0, 2.0]
    assert tuning.Tuning(2.0, 0.9, np.zeros(50), drift, True).over(at).tolist() == [3.0, 6.0, -4.0]


def test_what_floats_is_not_followed(monkeypatch: pytest.MonkeyPatch) -> None:
    rng = np.random.default_rng(6)
    slide, tones = np.linspace(-40, 40, 120), [45, 52, 57, 61, 64] * 24

    def heard(spread: float) -> bool:
        """Whether fifths slide, each of their tones beside its place by so much, as in a cloud of synths."""
        away = rng.normal(0, spread, (2, 120)) if spread else np.zeros((2, 120))
        both = [
            pluck(m, 0.5, c + a, 0.3) + pluck(m + 7, 0.5, c + b, 0.3)
            for m, c, a, b in zip(tones, slide, *away, strict=True)
        ]
        return tuning.estimate(np.concatenate(both).astype(np.float32)).uneven

    assert heard(0.0) and not heard(25.0)
    rng = np.random.default_rng(6)
    monkeypatch.setattr(tuning, "SHARPLY", 0.0)
    assert heard(25.0), "it slides as far"


def flat(cents: float) -> np.ndarray:
    return np.array([[6.0, cents], [60.0, cents]])


def test_causes_are_ranked_and_not_overstated() -> None:
    between = causes.causes(34.0, 0.9, flat(34.0))
    assert "2.0 % fast" in between[0].sentence
    assert between[0].word == "likely"
    assert "tempo" in between[0].sentence
    by_ear = causes.causes(-9.0, 0.9, flat(-9.0))
    assert "by ear" in by_ear[0].sentence
    assert by_ear[0].word == "possible"
    true = causes.causes(1.0, 0.9, flat(1.0))
    assert [c.sentence for c in true] == ["Tuned to A = 440 and run at true speed."]
    sliding = causes.causes(5.0, 0.9, np.array([[6.0, -5.0], [60.0, 15.0]]))
    assert "slid from start to end by 20" in sliding[0].sentence
    assert "cannot be told" in causes.causes(0.0, 0.05, flat(0.0))[0].sentence


@pytest.mark.parametrize(("midi", "word"), [(28, ""), (27, "half step"), (26, "down to D")])
def test_low_strings_speak_for_a_tuning_only_when_the_bass_is_there(midi: int, word: str) -> None:
    notes = np.zeros((200, 84), np.float32)
    notes[:, midi - 24] = 1.0
    bass = np.full((200, 13), -5.0, np.float32)
    bass[:, midi % 12] = -0.1
    found = " ".join(c.sentence for c in causes.causes(0.0, 0.9, flat(0.0), notes, bass))
    assert (word in found) if word else ("tuned down" not in found)
    drum = np.full((200, 13), -2.5, np.float32)
    assert "tuned down" not in " ".join(c.sentence for c in causes.causes(0.0, 0.9, flat(0.0), notes, drum))


def test_a_capo_is_a_cause_where_chords_or_the_record_speak_for_it() -> None:
    chords = [parse_chord(c) for c in ["Eb", "Ab", "Bb", "Cm"]] * 4
    ranked = setups.ranked(chords, [2.0] * len(chords))
    found = [c for c in causes.causes(0.0, 0.9, flat(0.0), key=parse_key("Eb major"), capos=ranked) if c.capo]
    assert [c.capo for c in found] == [ranked[0].capo] and "easier for the hand" in found[0].sentence
    assert f"fret {ranked[0].capo}" in found[0].sentence
    chords = [parse_chord(c) for c in ["G", "C", "D", "Em"]] * 4
    plain = setups.ranked(chords, [2.0] * len(chords))
    assert not [c for c in causes.causes(0.0, 0.9, flat(0.0), key=parse_key("G major"), capos=plain) if c.capo]


@pytest.mark.parametrize("parts", [(2, 2, 3), (3, 2, 2), (2, 3, 2)])
def test_groupings_of_seven_are_heard(parts: tuple[int, ...]) -> None:
    gap = 0.24
    times = 0.7 + np.arange(70) * gap
    evidence = pulse_evidence(times, 7, times[-1] + 1, 10)
    firsts = np.cumsum((0, *parts[:-1]))
    beat = evidence.beat.copy()
    frames = np.round(times * 50).astype(int)
    for i, frame in enumerate(frames):
        if i % 7 not in firsts:
            beat[max(0, frame - 2) : frame + 3] *= 0.6
    evidence = type(evidence)(beat, evidence.bar, evidence.period, evidence.meter)
    whole = harmony_evidence(["C"], int((times[-1] + 2) * PITCH_RATE))
    changes = bars.ChordChanges(whole)
    grid = recount.grid_of(bars.decide(evidence, times), times, times[-1] + gap)
    decided = grouping.decide(grid, evidence, changes)
    assert {b.grouping for b in decided.bars if b.beats == 7} == {parts}
    even = type(evidence)(
        pulse_evidence(times, 7, times[-1] + 1, 10).beat, evidence.bar, evidence.period, evidence.meter
    )
    assert {b.grouping for b in grouping.decide(grid, even, changes).bars} == {()}, "nothing heard, nothing said"


@pytest.mark.parametrize("beats", [5, 7, 11, 13])
def test_groupings_are_twos_and_threes(beats: int) -> None:
    every = grouping.groupings(beats)
    assert len(set(every)) == len(every) > 1
    assert all(sum(parts) == beats and set(parts) <= {2, 3} for parts in every)
