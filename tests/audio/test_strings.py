"""Plucked strings in tune, voices to the sample, the chart as sound."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.conftest import make_song
from ychronos.audio.synth import strings
from ychronos.audio.synth.strings import hertz, pluck
from ychronos.audio.synth.voices import Voice, Voices
from ychronos.chart import sound
from ychronos.theory.chord import parse_chord

RATE = 44100


def pitch_of(tone: np.ndarray, near: float) -> float:
    """Frequency of the partial near a frequency, by the interpolated peak of a long spectrum."""
    size = 1 << 19
    spectrum = np.abs(np.fft.rfft(tone[4000:52000] * np.hanning(48000), size))
    freq = np.fft.rfftfreq(size, 1 / RATE)
    inside = np.flatnonzero((freq > 0.96 * near) & (freq < 1.04 * near))
    k = inside[spectrum[inside].argmax()]
    a, b, c = np.log(spectrum[k - 1 : k + 2])
    return float(freq[k] + 0.5 * (a - c) / (a - 2 * b + c) * freq[1])


@pytest.mark.parametrize("midi", [28, 40, 52, 64, 76])
@pytest.mark.parametrize("cents", [0.0, 31.0, -44.0])
def test_a_string_is_in_tune_with_the_record(midi: int, cents: float) -> None:
    want = hertz(midi, cents)
    assert abs(1200 * np.log2(pitch_of(pluck(RATE, want), want) / want)) < 1.0


def test_a_string_dies_away_and_does_not_click() -> None:
    tone = pluck(RATE, hertz(45))
    early, late = np.abs(tone[2000:8000]).max(), np.abs(tone[-8000:-2000]).max()
    assert late < 0.5 * early and abs(float(tone[-1])) < 1e-3 and abs(float(tone[0])) < 1e-3
    assert np.abs(tone).max() <= 0.33 and np.isfinite(tone).all()


def test_it_is_no_beep() -> None:
    tone = pluck(RATE, hertz(45))
    spectrum = np.abs(np.fft.rfft(tone[:32768] * np.hanning(32768)))
    bins = [round(hertz(45) * n * 32768 / RATE) for n in range(1, 9)]
    strong = [spectrum[b - 2 : b + 3].max() for b in bins]
    assert sum(s > 0.02 * max(strong) for s in strong) >= 5


@given(st.lists(st.tuples(st.integers(0, 3000), st.integers(1, 2000)), min_size=1, max_size=12), st.integers(16, 700))
def test_mixing_block_by_block_is_mixing_at_once(places: list[tuple[int, int]], block: int) -> None:
    tone = np.linspace(1, 0.1, 900).astype(np.float32)
    voices = Voices([Voice(a, a + length, tone, 0.5, 0.3) for a, length in places], 1000)
    whole = np.zeros((5000, 2), np.float32)
    voices.add(whole, 0)
    parts = np.zeros_like(whole)
    for start in range(0, len(parts), block):
        voices.add(parts[start : start + block], start)
    assert parts == pytest.approx(whole, abs=1e-6)
    assert not whole[voices.end :].any() and voices.end <= 5000


def test_a_voice_is_let_go() -> None:
    voices = Voices([Voice(10, 110, np.ones(5000, np.float32))], 1000)
    out = np.zeros((300, 2), np.float32)
    voices.add(out, 0)
    assert not out[:10].any() and (out[10:110] == 1).all()
    assert (np.diff(out[110 : 110 + voices.release, 0]) < 0).all() and not out[110 + voices.release :].any()


def test_strokes_follow_the_chart() -> None:
    song = make_song("G D", bars=4)
    played = sound.strokes(song, Fraction(0), Fraction(8))
    assert [round(s.start, 3) for s in played] == [1.0, 1.5, 2.0, 2.5, 3.0, 3.5, 4.0, 4.5]
    assert [s.chord for s in played] == [parse_chord("G")] * 4 + [parse_chord("D")] * 4
    assert played[0].strength > played[1].strength
    spans = (replace(song.chords[0], articulation="held"), replace(song.chords[1], articulation="stopped"))
    quiet = replace(song, chords=(*spans, *song.chords[2:]))
    played = sound.strokes(quiet, Fraction(0), Fraction(8))
    assert [round(s.start, 3) for s in played] == [1.0, 3.0]
    assert played[1].stop - played[1].start == pytest.approx(0.5 / 3, abs=1e-6)
    other = sound.strokes(song, Fraction(0), Fraction(4), parse_chord("Em7"))
    assert {s.chord for s in other} == {parse_chord("Em7")}


def test_the_bass_of_the_chart_alone() -> None:
    song = make_song("G D/F#", bars=2)
    played = sound.strokes(song, Fraction(0), Fraction(8))
    low = sound.voices(played, RATE, 12.0, bass_only=True)
    assert [v.start for v in low] == [RATE, 3 * RATE]
    assert abs(1200 * np.log2(pitch_of(low[1].sound, hertz(30, 12.0)) / hertz(30, 12.0))) < 1.0
    every = sound.voices(played, RATE, 12.0)
    assert len(every) > 20 and {v.start for v in low} <= {v.start for v in every}


def test_notes_of_a_chord_no_hand_can_play_still_sound() -> None:
    assert {n % 12 for n in sound.notes(parse_chord("C13"))} <= parse_chord("C13").pitch_classes
    assert min(sound.notes(parse_chord("C/E"))) % 12 == 4
    assert sound.notes(parse_chord("N")) == []


@pytest.mark.parametrize("pitch", [41.2, 146.8, 659.3])
def test_a_string_rings_as_turn_by_turn(pitch: float) -> None:
    """The loop by division of spectra gives what the loop itself gives, sample by sample."""
    rate, (whole, allpass) = 22050, strings._delays(22050, pitch)
    burst = np.zeros(int(strings.LENGTH * rate))
    burst[:whole] = np.random.default_rng(4).uniform(-1, 1, whole)
    loss, blend = 10 ** (-3 / (3.0 * pitch)), strings._BLEND
    looped = np.zeros(len(burst))
    before = passed = 0.0  # input and output of the all-pass one sample ago
    mixed = np.zeros(len(burst))
    for n in range(len(burst)):
        back = looped[n - whole] if n >= whole else 0.0
        older = looped[n - whole - 1] if n > whole else 0.0
        mixed[n] = (1 - blend) * back + blend * older
        passed = allpass * mixed[n] + before - allpass * passed
        before = mixed[n]
        looped[n] = burst[n] + loss * passed
    assert np.abs(strings._ring(burst, whole, allpass, loss) - looped).max() < 1e-6
