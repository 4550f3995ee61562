"""When a band plays: not the speaker before it nor the applause after it."""

from __future__ import annotations

import numpy as np
import pytest

from tests.analysis.test_parts import pulse_evidence
from ychronos.analysis.beats import playing
from ychronos.analysis.singing import RATE
from ychronos.analysis.spectra import BAND_RATE

SECONDS = 80


def told(
    begins: float, ends: float, clicks: np.ndarray | None = None, plays: np.ndarray | None = None
) -> tuple[float, float]:
    """(first, last) second that counts, of a record that sounds all through, with a band from ``begins`` to ``ends``."""
    times = np.arange(SECONDS * RATE) / RATE
    plays = np.where((times >= begins) & (times < ends), 0.98, 0.02) if plays is None else plays
    beats = np.arange(begins, ends, 0.5) if clicks is None else np.concatenate([clicks, np.arange(begins, ends, 0.5)])
    beat = pulse_evidence(beats, 4, SECONDS).beat
    on = np.flatnonzero(playing.where(np.ones((SECONDS * int(BAND_RATE), 6)), beat, plays)) / BAND_RATE
    return float(on[0]), float(on[-1])


def test_neither_speaker_nor_applause_counts() -> None:
    assert told(20.0, 65.0) == (pytest.approx(20.0, abs=0.4), pytest.approx(65.0, abs=0.4))


def test_what_is_short_may_be_a_count_in_or_a_last_chord() -> None:
    assert told(4.0, 77.0) == (0.0, pytest.approx(SECONDS, abs=0.1))


@pytest.mark.parametrize("count", [3, 4, 8])
def test_who_counts_in_evenly_is_of_the_song(count: int) -> None:
    first, _ = told(20.0, 65.0, 20.0 - 0.5 * np.arange(count, 0, -1))
    assert first == pytest.approx(20.0 - 0.5 * count, abs=0.4)


@pytest.mark.parametrize("clicks", [[12.0, 16.1, 18.9, 19.6], [19.0, 19.5], list(np.arange(3.0, 20.0, 0.5))])
def test_strokes_that_lead_nowhere_are_none(clicks: list[float]) -> None:
    first, _ = told(20.0, 65.0, np.array(clicks))
    assert first >= 20.0 - 0.5 * playing.MOST - 0.4
    if len(clicks) < 9:
        assert first == pytest.approx(20.0, abs=0.4)


@pytest.mark.parametrize("share", [0.0, 0.03, 0.4])
def test_an_answer_that_cannot_be_is_not_listened_to(share: float) -> None:
    plays = (np.arange(SECONDS * RATE) % (10 * RATE) < 10 * RATE * share).astype(np.float32)
    assert told(20.0, 65.0, plays=plays) == (0.0, pytest.approx(SECONDS, abs=0.1))


def test_silence_before_and_after_is_none_of_it() -> None:
    bands = np.zeros((SECONDS * int(BAND_RATE), 6))
    bands[500:3500] = 1.0
    plays = np.zeros(SECONDS * RATE)
    plays[10 * RATE : 70 * RATE] = 1.0
    on = np.flatnonzero(playing.where(bands, np.zeros(len(bands)), plays))
    assert (on[0], on[-1]) == (500, 3499)
