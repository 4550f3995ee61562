"""Several songs on one tape: each has its own count, and the tape one grid."""

from __future__ import annotations

import numpy as np
import pytest

from tests.analysis.test_parts import pulse_evidence
from ychronos.analysis.beats import bars, count, evening, playing
from ychronos.analysis.beats.pulsenet import PulseEvidence
from ychronos.analysis.chords.chordnet import CHORDS, HarmonyEvidence
from ychronos.analysis.singing import RATE
from ychronos.analysis.spectra import PITCH_RATE

LENGTH, TALK = 45.0, 9.0  # seconds


def tape(*gaps: float) -> tuple[PulseEvidence, HarmonyEvidence, np.ndarray, np.ndarray]:
    """Songs of LENGTH in four, their beats so many seconds apart, with TALK between them: evidence, who plays, true beats."""
    parts, plays, beats, at = [], [], [], 0.0
    for k, gap in enumerate(gaps):
        if k:
            parts.append(pulse_evidence(np.array([1.0, 1.5]), 4, TALK))
            parts[-1].beat[:] = 0.02
            parts[-1].bar[:] = 0.01
            plays.append(np.zeros(int(TALK * RATE)))
            at += TALK
        own = np.arange(0.5, LENGTH - 0.3, gap)
        parts.append(pulse_evidence(own, 4, LENGTH))
        plays.append(np.full(int(LENGTH * RATE), 0.98))
        beats.append(own + at)
        at += LENGTH
    names = ("beat", "bar", "period", "meter")
    pulse = PulseEvidence(*(np.concatenate([getattr(p, n) for p in parts]) for n in names))
    frames = int(at * PITCH_RATE)
    flat = np.full((frames, len(CHORDS)), -np.log(len(CHORDS)), np.float32)
    harmony = HarmonyEvidence(flat, np.zeros((frames, 13), np.float32), np.zeros((frames, 12), np.float32))
    return pulse, harmony, np.concatenate(plays), np.concatenate(beats)


def counted(*gaps: float) -> tuple[count.Count | None, np.ndarray]:
    pulse, harmony, plays, beats = tape(*gaps)
    return evening.decide(pulse, harmony, np.ones(len(pulse.beat), bool), playing.songs(plays)), beats


@pytest.mark.parametrize("gaps", [(0.6, 0.5), (0.42, 0.7), (0.5, 0.58, 0.46)])
def test_each_song_keeps_its_own_speed(gaps: tuple[float, ...]) -> None:
    found, beats = counted(*gaps)
    assert found is not None
    near = np.abs(found.times[:, None] - beats[None]).min(0)
    assert (near < 0.03).mean() > 0.97
    assert (np.diff(found.times) > 0.2).all() and (np.diff(found.times) < 1.2).all(), "the count goes on between them"


def test_bars_between_songs_are_whole() -> None:
    found, _ = counted(0.6, 0.5)
    assert found is not None
    ones = np.flatnonzero(found.bars.position == 1)
    assert set(np.diff(ones).tolist()) == {4}
    assert len(found.times) == len(found.bars.position) == len(found.bars.meter) == len(found.bars.one)


@pytest.mark.parametrize("gaps", [(0.5, 0.5), (0.6, 0.3), (0.5, 0.505), (0.6, 0.4), (0.55,)])
def test_parts_of_one_song_are_no_songs(gaps: tuple[float, ...]) -> None:
    assert counted(*gaps)[0] is None


def test_songs_are_long_and_far_apart() -> None:
    plays = np.concatenate(
        [
            np.full(n * RATE, chance)
            for n, chance in ((50, 0.9), (3, 0.1), (60, 0.9), (9, 0.1), (20, 0.9), (9, 0.1), (70, 0.9))
        ]
    )
    found = playing.songs(plays)
    assert [(round(a), round(b)) for a, b in found] == [(0, 113), (151, 221)]
    assert playing.songs(np.zeros(0)) == []


def test_a_pick_up_joins_the_bars_before_it() -> None:
    def made(start: float, number: int, first: int) -> count.Count:
        place = (np.arange(number) + first - 1) % 4 + 1
        return count.Count(start + 0.5 * np.arange(number), bars.Bars(place, np.full(number, 2), np.ones(number)))

    whole = evening._then(made(0.0, 18, 1), made(20.0, 21, 4))
    ones = np.flatnonzero(whole.bars.position == 1)
    assert set(np.diff(ones).tolist()) == {4} and whole.times[ones[-1]] == pytest.approx(28.5)
    assert (np.diff(whole.times) > 0.4).all() and (np.diff(whole.times) < 0.65).all()
