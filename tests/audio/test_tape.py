"""A record at true pitch: pitch and length change together, files are whole or not there."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import given
from hypothesis import strategies as st

from ychronos.audio.decode import AudioError, Cancelled
from ychronos.audio.play import tape

RATE = 22050


def tone(cents: float, seconds: float = 3.0, channels: int = 2) -> np.ndarray:
    t = np.arange(int(seconds * RATE)) / RATE
    wave = 0.4 * np.sin(2 * np.pi * 440 * 2 ** (cents / 1200) * t)
    return np.repeat(wave[:, None], channels, axis=1).astype(np.float32)


def pitch_of(samples: np.ndarray) -> float:
    part = samples[RATE // 2 : RATE // 2 + 32768, 0] * np.hanning(32768)
    spectrum = np.abs(np.fft.rfft(part))
    k = int(spectrum.argmax())
    a, b, c = np.log(spectrum[k - 1 : k + 2])
    return (k + 0.5 * (a - c) / (a - 2 * b + c)) * RATE / 32768


@pytest.mark.parametrize("cents", [-48.0, -11.0, 7.0, 35.0])
@pytest.mark.parametrize("channels", [1, 2])
def test_a_record_between_keys_comes_into_tune(cents: float, channels: int) -> None:
    made, _ = tape.corrected(tone(cents, channels=channels), cents)
    assert pitch_of(made) == pytest.approx(440, abs=0.06)
    assert len(made) == pytest.approx(3 * RATE * 2 ** (cents / 1200), abs=2)
    assert made.shape[1] == channels
    assert made.dtype == np.float32


@given(st.floats(-100, 100), st.integers(1, 200_000))
def test_length_is_the_stretch(cents: float, frames: int) -> None:
    made, _ = tape.corrected(np.zeros((frames, 1), np.float32), cents)
    assert abs(len(made) - frames * 2 ** (cents / 1200)) <= 2


def test_stopping_and_progress() -> None:
    shares: list[float] = []
    tape.corrected(tone(20, 12), 20, shares.append)
    assert shares == sorted(shares)
    assert shares[-1] == 1
    with pytest.raises(Cancelled):
        tape.corrected(tone(20), 20, cancelled=lambda: True)


@pytest.mark.parametrize("suffix", [".wav", ".flac", ".ogg"])
def test_export_reads_back(tmp_path: Path, suffix: str) -> None:
    out = tmp_path / f"tape{suffix}"
    tape.export(tone(0), RATE, out)
    back, rate = soundfile.read(out)
    assert rate == RATE
    assert len(back) == 3 * RATE
    assert pitch_of(back) == pytest.approx(440, abs=0.1)
    assert list(tmp_path.iterdir()) == [out]


def test_export_that_fails_leaves_what_was_there(tmp_path: Path) -> None:
    out = tmp_path / "tape.wav"
    out.write_bytes(b"precious")
    with pytest.raises(Cancelled):
        tape.export(tone(0), RATE, out, cancelled=lambda: True)
    assert out.read_bytes() == b"precious"
    assert list(tmp_path.iterdir()) == [out]
    with pytest.raises(AudioError, match="should end in"):
        tape.export(tone(0), RATE, tmp_path / "tape.mp9")
    with pytest.raises(AudioError, match="not written"):
        tape.export(tone(0), RATE, tmp_path / "nowhere" / "tape.wav")
