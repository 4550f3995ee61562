"""What speaks for a count besides the nets: chords that change on its beats, beats that sound alike."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.analysis.test_parts import harmony_evidence, pulse_evidence
from ychronos.analysis import spectra
from ychronos.analysis.beats import bars, count, fitting
from ychronos.analysis.beats.pulsenet import METERS
from ychronos.analysis.chords import chordnet

EIGHTH = 0.36  # seconds
DOTTED, QUARTER = 3 * EIGHTH, 2 * EIGHTH
FIRST = 0.72


def changing(every: float, number: int) -> bars.ChordChanges:
    """Chords that change every so many seconds from FIRST on, four in turn."""
    frames = int((FIRST + every * number) * spectra.PITCH_RATE)
    whole = harmony_evidence(["C", "F", "Am", "G"], 1)
    at = np.floor((np.arange(frames) / spectra.PITCH_RATE - FIRST) / every).astype(int) % 4
    return bars.ChordChanges(chordnet.HarmonyEvidence(whole.chord[at], whole.bass[at], whole.notes[at]))


def struck(times: np.ndarray, seconds: float, loud: np.ndarray) -> np.ndarray:
    """Bands in which something begins at times and dies away."""
    out = np.full((int(seconds * spectra.BAND_RATE), spectra.BANDS), 0.01)
    for t, level in zip(times, loud, strict=True):
        k = int(round(t * spectra.BAND_RATE))
        tail = np.exp(-np.arange(min(20, len(out) - k)) / 5)
        out[k : k + len(tail)] += level * tail[:, None]
    return out.astype(np.float32)


def test_moments_are_when_chords_change() -> None:
    at, much = changing(DOTTED, 24).moments
    true = FIRST + DOTTED * np.arange(24)
    assert len(at) == pytest.approx(24, abs=1)
    assert np.abs(at[:, None] - true[None]).min(1).max() < 1 / spectra.PITCH_RATE and much.min() > bars.CHANGED


def test_chords_that_change_on_dotted_beats_speak_against_quarters() -> None:
    changes = changing(DOTTED, 24)
    seconds = DOTTED * 24
    right = FIRST + np.arange(0, seconds, DOTTED)
    wrong = FIRST + np.arange(0, seconds, QUARTER)
    assert fitting.changes_on(changes, right) > 0.95
    assert fitting.changes_on(changes, wrong) < 0.55, "every second change falls between"
    assert fitting.changes_on(changes, right + EIGHTH / 2) < 0, "less than by chance"
    assert fitting.changes_on(changing(DOTTED, 2), right) == 0, "two changes say nothing"


def test_beats_are_alike_after_what_comes_again() -> None:
    """A figure of six eighths: two dotted beats later everything is the same, two quarters later little is."""
    times = FIRST + EIGHTH * np.arange(240)
    loud = np.tile([1.0, 0.0, 0.4, 0.7, 0.0, 0.5], 40)
    begun = fitting.onsets(struck(times, times[-1] + 2, loud))
    one, two, four = fitting.alike(begun, FIRST + DOTTED * np.arange(79))
    quarters = fitting.alike(begun, FIRST + QUARTER * np.arange(119))
    assert two > 0.97 and four > 0.97 and one > 0.6
    assert max(quarters) < one, "and neither is a beat, two or four of them"


@given(st.floats(0.01, 50.0), st.integers(0, 3))
def test_onsets_do_not_depend_on_how_loud_the_record_is(gain: float, seed: int) -> None:
    rng = np.random.default_rng(seed)
    bands = struck(np.sort(rng.uniform(1, 19, 40)), 20, rng.uniform(0.3, 1, 40))
    assert fitting.onsets(gain * bands) == pytest.approx(fitting.onsets(bands), abs=1e-3)


def test_onsets_of_hours_are_those_of_minutes(monkeypatch: pytest.MonkeyPatch) -> None:
    bands = struck(1 + 0.5 * np.arange(40), 25, np.ones(40))
    whole = fitting.onsets(bands)
    monkeypatch.setattr(fitting, "AT_ONCE", 97)
    assert fitting.onsets(bands) == pytest.approx(whole, abs=1e-5)
    quiet = fitting.onsets(np.zeros((50, spectra.BANDS)))
    assert np.isfinite(quiet).all() and fitting.alike(quiet, np.arange(3) * 0.3) == [0.0, 0.0, 0.0]


def test_changes_and_likeness_choose_between_two_counts() -> None:
    """Beats that the nets hear as well in quarters as in dotted quarters: what changes and comes again decides."""
    seconds = DOTTED * 60
    dotted, quarters = (FIRST + np.arange(0, seconds, g) for g in (DOTTED, QUARTER))
    both = np.unique(np.round(np.concatenate([dotted, quarters]), 4))
    evidence = pulse_evidence(both, 6, FIRST + seconds + 2)
    changes = changing(DOTTED, 60)
    eighths = FIRST + EIGHTH * np.arange(180)
    begun = fitting.onsets(struck(eighths, FIRST + seconds + 2, np.tile([1.0, 0.0, 0.4, 0.7, 0.0, 0.5], 30)))
    gains = []
    for times in (dotted, quarters):
        decided = bars.decide(evidence, times, changes)
        plain, heard = (count.features(evidence, times, decided, *more) for more in ((), (changes, begun)))
        assert plain[:5] == pytest.approx(heard[:5]) and not plain[5:9].any()
        gains.append(float((heard - plain) @ np.array(count.WEIGHTS)))
    assert gains[0] > gains[1] + 3


def test_six_fast_quarters_are_believed_less() -> None:
    for gap, fast in ((0.4, 1.0), (0.6, 0.0)):
        times = 0.7 + gap * np.arange(96)
        evidence = pulse_evidence(times, 6, times[-1] + 2)
        in_six = replace(bars.decide(evidence, times), meter=np.full(96, count.SIX))
        in_four = replace(in_six, meter=np.full(96, METERS.index((4, False, False))))
        assert count.features(evidence, times, in_six)[-1] == -fast
        assert count.features(evidence, times, in_four)[-1] == 0
