"""The sound of a plucked string, made from nothing but its pitch.

Method: a burst of noise runs round a delay line whose low-pass loses a little at every turn (Karplus and
Strong, "Digital synthesis of plucked-string and drum timbres", Computer Music Journal 7(2), 1983), with the
delay tuned to a fraction of a sample (Jaffe and Smith, "Extensions of the Karplus-Strong plucked-string
algorithm", same issue). Conventions: frequencies in Hz, float32 mono, a note's onset is its first sample.
"""

from __future__ import annotations

import threading
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..decode import Samples

LENGTH = 2.6  # seconds that a note may ring
_LEVEL = 0.32
_WRAP = 1e-4
# Two threads that pluck are done no sooner than one after the other, but whatever else runs beside them is.
_ONE_AT_A_TIME = threading.Lock()
_BLEND = 0.5  # of a sample with the one before: the loss of high partials in a turn


def hertz(midi: float, cents: float = 0.0) -> float:
    """Frequency of a MIDI note on a record that is ``cents`` away from A = 440 Hz."""
    return float(440.0 * 2 ** ((midi - 69 + cents / 100) / 12))


def _delays(rate: int, pitch: float) -> tuple[int, float]:
    """Whole samples and the fraction that make the loop's phase delay one period at the pitch."""
    period = rate / pitch
    w = 2 * np.pi * pitch / rate
    blend = np.angle(1 - _BLEND + _BLEND * np.exp(-1j * w)) / -w
    whole = int(np.floor(period - blend - 0.3))
    want = period - blend - whole  # 0.3 .. 1.3 samples, by a first-order all-pass
    return whole, float(np.sin((1 - want) * w / 2) / np.sin((1 + want) * w / 2))


def pluck(rate: int, pitch: float, bright: float = 0.5) -> Samples:
    """A note at a pitch in Hz; ``bright`` from 0 (thumb, bass) to 1 (pick near the bridge)."""
    with _ONE_AT_A_TIME:
        return _pluck(rate, pitch, bright)


@lru_cache(maxsize=160)
def _pluck(rate: int, pitch: float, bright: float) -> Samples:
    from scipy.signal import lfilter  # when a string is first heard: the window does not wait for it

    whole, allpass = _delays(rate, pitch)
    count = int(LENGTH * rate)
    rng = np.random.default_rng(round(pitch * 100))
    burst = np.zeros(count)
    noise = rng.uniform(-1, 1, whole)
    smooth = 0.15 + 0.8 * (1 - bright)
    noise = lfilter([1 - smooth], [1, -smooth], noise)
    burst[:whole] = noise - noise.mean()
    place = max(1, int(whole * (0.13 + 0.1 * (1 - bright))))  # where the string is struck: a comb
    burst[place:] -= 0.9 * burst[:-place]
    seconds = 3.2 - 1.4 * min(1.0, pitch / 700)  # high strings die sooner
    loss = 10 ** (-3 / (pitch * seconds))
    out = _ring(burst, whole, allpass, loss)
    out *= np.minimum(1.0, np.arange(count) / (0.0008 * rate))
    tail = int(0.15 * rate)
    out[-tail:] *= np.linspace(1, 0, tail)
    out -= lfilter([0.002], [1, -0.998], out)
    peak = np.abs(out[: rate // 2]).max() or 1.0
    sound = np.asarray(_LEVEL * out / peak, np.float32)
    sound.setflags(write=False)
    return sound


def _ring(burst: NDArray[np.float64], whole: int, allpass: float, loss: float) -> NDArray[np.float64]:
    """y[n] = x[n] + loss * A(z) * blend(z) * y[n - whole] with the all-pass A = (a + z^-1) / (1 + a z^-1), by division of
    spectra: turn by turn it would hold up whatever else runs in the process. A string that still rings at the end of the
    transform would begin there anew, so everything is damped before, by _WRAP at the end, and undone after."""
    count = len(burst)
    size = 1 << (count - 1).bit_length()
    circle, damped, undone = _tables(count, size)
    delay = _WRAP ** (1 / size) * circle[: size // 2 + 1]  # z^-1 where it is damped
    turns = circle[np.arange(size // 2 + 1) * whole % size]  # its powers lie on the same circle
    turns *= loss * _WRAP ** (whole / size) * (1 - _BLEND + _BLEND * delay)
    turns *= allpass + delay
    slow = 1 + allpass * delay  # B / (1 - N / D) = B D / (D - N): one division
    spectrum = np.fft.rfft(burst * damped, size)
    spectrum *= slow
    spectrum /= slow - turns
    return np.asarray(np.fft.irfft(spectrum, size)[:count] * undone, np.float64)


@lru_cache(maxsize=2)
def _tables(count: int, size: int) -> tuple[NDArray[np.complex128], NDArray[np.float64], NDArray[np.float64]]:
    """What all strings have in common: the points of a circle, the damping and what undoes it."""
    damped = _WRAP ** (np.arange(count) / size)
    return np.exp(-2j * np.pi * np.arange(size) / size), damped, 1 / damped
