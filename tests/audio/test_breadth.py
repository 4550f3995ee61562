"""Where in the stereo picture something begins."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given, settings
from hypothesis import strategies as st

from ychronos.audio.breadth import BANDS, HOP, RATE, SIZE, WIDTH, Breadth
from ychronos.audio.recording import load


def plucks(seed: int, late: float = 0.0, seconds: float = 6.0) -> np.ndarray:
    """A chord struck twice a second, never twice in the same way."""
    rng = np.random.default_rng(seed)
    time = np.arange(int(seconds * RATE)) / RATE
    out = np.zeros(len(time))
    for at in np.arange(0.25, seconds - 0.5, 0.5):
        since = time - at - late - rng.normal(0, 0.008)
        for note in (196.0, 246.9, 293.7, 392.0):
            for k in range(1, 9):
                sound = np.sin(2 * np.pi * note * k * since * (1 + 2e-4 * k * k) + rng.uniform(0, 6.3))
                out += (since > 0) * np.exp(-np.maximum(0, 5 * since)) * sound / k**1.5
    return (0.1 * out).astype(np.float32)


def heard(left: np.ndarray, right: np.ndarray, block: int = 10**9) -> np.ndarray:
    made = Breadth()
    both = np.stack([(left + right) / 2, (left - right) / 2], axis=1).astype(np.float32)
    for first in range(0, len(both), block):
        made.feed(both[first : first + block])
    return made.finish().astype(float)


def at_strokes(found: np.ndarray) -> np.ndarray:
    """(3, BANDS) angle, how strewn it is, and how much channels move together, in the mean over the strokes."""
    rows = found[np.round(np.arange(0.75, 5, 0.5) * RATE / HOP).astype(int)].reshape(-1, 3, BANDS)
    strewn = np.sqrt(np.maximum(0, rows[:, 1] - rows[:, 0] ** 2))
    return np.array([rows[:, 0].mean(0), strewn.mean(0), rows[:, 2].mean(0)])


@pytest.mark.parametrize(("left", "right"), [(1.0, 1.0), (1.0, 0.3), (0.2, 0.9)])
def test_one_player_has_one_place(left: float, right: float) -> None:
    one = plucks(1)
    angle, strewn, together = at_strokes(heard(left * one, right * one))
    assert np.allclose(angle, np.arctan2(right, left) - np.pi / 4, atol=0.02)
    assert (strewn < 0.05).all() and (together > 0.98).all()


def test_two_takes_have_no_place() -> None:
    one, two = plucks(1), plucks(2, 0.01)
    angle, strewn, together = at_strokes(heard(one + 0.3 * two, two + 0.3 * one))
    assert (strewn > 0.07).all() and (together < 0.9).all() and (np.abs(angle) < 0.3).all()


@settings(max_examples=20, deadline=None)
@given(st.integers(1, 40000), st.integers(0, 60000))
def test_blocks_of_any_size_say_the_same(block: int, length: int) -> None:
    rng = np.random.default_rng(length)
    left, right = rng.normal(0, 0.1, (2, length))
    whole, parts = heard(left, right), heard(left, right, block)
    assert whole.shape == (max(0, (length - SIZE) // HOP + 1), WIDTH) and np.array_equal(whole, parts)
    assert np.isfinite(whole).all() and (np.abs(whole[:, :BANDS]) <= np.pi / 4 + 1e-3).all()


def test_it_is_heard_while_a_recording_is_read(tmp_path: Path) -> None:
    one, two = plucks(1), plucks(2, 0.01)
    for name, sound in (("mono", one), ("stereo", np.stack([one, two], axis=1)), ("four", np.stack([one] * 4, axis=1))):
        soundfile.write(tmp_path / f"{name}.wav", sound, RATE, subtype="FLOAT")
    assert load(tmp_path / "mono.wav").breadth.shape == load(tmp_path / "four.wav").breadth.shape == (0, WIDTH)
    stereo = load(tmp_path / "stereo.wav")
    assert np.allclose(stereo.breadth.astype(float), heard(one, two), atol=2e-3)
    assert np.allclose(stereo.mono, (one + two) / 2, atol=1e-4)  # the signal that is analysed is what it was
