"""Spectra that the other analysis modules look at.

Two views of the sound, both computed in blocks so that memory stays bounded:
*bands*, 50 frames a second of 60 log-compressed bands, for attacks and loudness; and *pitch*, 10.8 frames
a second of a log-frequency spectrum with three bins a semitone, at the record's own tuning.
Conventions: mono float32 at 22,050 Hz; frame i is centred on i * hop / rate seconds.
"""

from __future__ import annotations

import mmap
from collections.abc import Callable, Iterator
from functools import lru_cache
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ..audio.recording import ANALYSIS_RATE as RATE

if TYPE_CHECKING:  # what transforms is loaded when sound is looked at, beside the window; the window is drawn before
    from scipy.sparse import csr_matrix

Floats = NDArray[np.float64]
Array = NDArray[np.float32]

BAND_HOP = 441
BAND_FFT = 2048
BAND_RATE = RATE / BAND_HOP  # 50 frames per second
BANDS = 60
PITCH_HOP = 2048
PITCH_RATE = RATE / PITCH_HOP
PITCH_LOW_FFT, PITCH_HIGH_FFT = 8192, 4096
LOWEST_MIDI, OCTAVES, BINS = 24, 7, 3  # C1 .. B7, three bins a semitone
SPLIT_MIDI = 55  # below it the long window, above it the short one
PITCH_BINS = OCTAVES * 12 * BINS
_FRAMES_AT_A_TIME = 512
MOVED = 2.0  # cents by which a spectrum is tuned anew where the record's offset moves


def frames(signal: Array, size: int, hop: int, start: int, stop: int) -> Array:
    """Windows ``start..stop`` of a signal that is thought of as surrounded by silence: (n, size)."""
    first = start * hop - size // 2
    last = (stop - 1) * hop - size // 2 + size
    left, right = max(0, -first), max(0, last - len(signal))
    piece = signal[max(0, first) : min(len(signal), last)]
    if left or right:
        piece = np.pad(piece, (left, right))
    return np.lib.stride_tricks.sliding_window_view(piece, size)[::hop]


def magnitudes(
    signal: Array, size: int, hop: int, tick: Callable[[float], None] = lambda _: None
) -> Iterator[tuple[int, Array]]:
    """(first frame, magnitude spectra (n, size // 2 + 1)) in blocks; a full-scale sine gives about 1."""
    from scipy.fft import rfft

    window = np.hanning(size + 1)[:-1].astype(np.float32)
    window *= 2 / window.sum()
    count = len(signal) // hop + 1
    for start in range(0, count, _FRAMES_AT_A_TIME):
        stop = min(count, start + _FRAMES_AT_A_TIME)
        spectrum = rfft(frames(signal, size, hop, start, stop) * window, axis=1)
        yield start, np.abs(spectrum)
        if start // _FRAMES_AT_A_TIME % 32 == 31:
            let_go(signal)
        tick(stop / count)
    let_go(signal)


def let_go(signal: Array) -> None:
    """Of a signal that lies in a file, let go of what is in memory; it is read again when it is wanted."""
    mapped = getattr(signal, "_mmap", None)
    if mapped is not None:
        mapped.madvise(mmap.MADV_DONTNEED)


@lru_cache(maxsize=1)
def _band_matrix() -> csr_matrix:
    """Triangular bands, equally spaced on a scale that is linear below and logarithmic above 500 Hz."""
    from scipy.sparse import csr_matrix

    low, high = 40.0, 10000.0

    def warp(f: NDArray[np.float64] | float) -> NDArray[np.float64]:
        return np.asarray(np.arcsinh(np.asarray(f) / 250.0))

    edges = np.sinh(np.linspace(warp(low), warp(high), BANDS + 2)) * 250.0
    freq = np.arange(BAND_FFT // 2 + 1) * RATE / BAND_FFT
    rise = (freq[None] - edges[:-2, None]) / (edges[1:-1] - edges[:-2])[:, None]
    fall = (edges[2:, None] - freq[None]) / (edges[2:] - edges[1:-1])[:, None]
    weights = np.maximum(0, np.minimum(rise, fall))
    for row, centre in zip(weights, edges[1:-1], strict=True):
        if not row.any():  # a band narrower than a bin takes the nearest bin
            row[int(round(centre * BAND_FFT / RATE))] = 1.0
    return csr_matrix((weights / weights.sum(1, keepdims=True)).astype(np.float32))


def bands(signal: Array, tick: Callable[[float], None] = lambda _: None) -> Array:
    """Magnitudes of :data:`BANDS` frequency bands, (frames, BANDS), linear scale."""
    matrix = _band_matrix()
    out = np.empty((len(signal) // BAND_HOP + 1, BANDS), np.float32)
    for start, block in magnitudes(signal, BAND_FFT, BAND_HOP, tick):
        out[start : start + len(block)] = (matrix @ block.T).T
    return out


@lru_cache(maxsize=64)
def _pitch_matrix(size: int, cents: float, low: int, high: int) -> csr_matrix:
    """Interpolating map from a linear spectrum to pitch bins ``low..high`` (bin 1 of 3 is in tune)."""
    from scipy.sparse import csr_matrix

    bins = np.arange(low, high)
    midi = LOWEST_MIDI + (bins - 1) / BINS + cents / 100
    half = 0.5 / BINS
    rows, cols, values = [], [], []
    resolution = RATE / size
    for row, m in enumerate(midi):
        f0, f1 = 440 * 2 ** ((m - half - 69) / 12), 440 * 2 ** ((m + half - 69) / 12)
        centre, width = 0.5 * (f0 + f1), max(f1 - f0, resolution)
        first, last = int(np.ceil((centre - width) / resolution)), int(np.floor((centre + width) / resolution))
        for k in range(max(0, first), min(size // 2, last) + 1):
            weight = 1 - abs(k * resolution - centre) / width
            if weight > 0:
                rows.append(row)
                cols.append(k)
                values.append(weight)
    return csr_matrix((np.array(values, np.float32), (rows, cols)), shape=(len(bins), size // 2 + 1), dtype=np.float32)


def pitch(signal: Array, cents: float | NDArray[np.float64], tick: Callable[[float], None] = lambda _: None) -> Array:
    """Log-frequency spectrum (frames, PITCH_BINS) of magnitudes, tuned ``cents`` away from A = 440 Hz, all the while or in each
    frame."""
    count = len(signal) // PITCH_HOP + 1
    tuned = np.round(np.broadcast_to(cents, count), 2)
    if np.ptp(tuned):
        tuned = np.round(tuned / MOVED) * MOVED
    split = (SPLIT_MIDI - LOWEST_MIDI) * BINS
    out = np.empty((count, PITCH_BINS), np.float32)
    plan = ((PITCH_LOW_FFT, 0, split), (PITCH_HIGH_FFT, split, PITCH_BINS))
    for part, (size, low, high) in enumerate(plan):
        for start, block in magnitudes(signal, size, PITCH_HOP, lambda x, p=part: tick((p + x) / 2)):  # type: ignore[misc]
            here = tuned[start : start + len(block)]
            moves = (np.flatnonzero(np.diff(here)) + 1).tolist()
            for a, b in pairwise([0, *moves, len(here)]):
                matrix = _pitch_matrix(size, float(here[a]), low, high)
                out[start + a : start + b, low:high] = (matrix @ block[a:b].T).T
    return out


def window_of(bins: NDArray[np.int_]) -> NDArray[np.int_]:
    """Samples of the window that each of these bins of a pitch spectrum is told by."""
    return np.where(bins < (SPLIT_MIDI - LOWEST_MIDI) * BINS, PITCH_LOW_FFT, PITCH_HIGH_FFT)


def runs(on: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """(first, end) of what is on without a gap, in order."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], on.astype(np.int8), [0]])))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


# ---------------------------------------------------------------- sums between fractional frames


def frames_of(count: int, start: float, end: float) -> slice:
    """The frames of ``count``, one at least, that sound from ``start`` to ``end`` in seconds."""
    first = min(max(0, round(start * PITCH_RATE)), count - 1)
    return slice(first, min(max(first + 1, round(end * PITCH_RATE)), count))


def running_sums(frames: NDArray[np.floating]) -> NDArray[np.float64]:
    """(T + 1, n): sums of the frames (T, n) before each frame, in double precision."""
    out = np.zeros((len(frames) + 1, frames.shape[1]))
    np.cumsum(frames, axis=0, dtype=np.float64, out=out[1:])
    return out


def sums_at(sums: NDArray[np.float64], place: NDArray[np.float64]) -> NDArray[np.float64]:
    """Running sums at fractional frames (m,) within 0 .. T, by interpolation: (m, n)."""
    low = np.minimum(np.floor(place).astype(int), len(sums) - 2)
    part = (place - low)[:, None]
    return np.asarray(sums[low] * (1 - part) + sums[low + 1] * part)


def segment_means(
    frames: NDArray[np.floating], edges: NDArray[np.float64], rate: float = PITCH_RATE
) -> NDArray[np.float64]:
    """Means of frame values (T, n) between times ``edges`` in seconds: (len(edges) - 1, n)."""
    return means_from(running_sums(frames), edges, rate)


def means_from(sums: NDArray[np.float64], edges: NDArray[np.float64], rate: float = PITCH_RATE) -> NDArray[np.float64]:
    """The same from running sums (T + 1, n) that are kept for many questions."""
    place = np.clip(edges * rate + 0.5, 0, len(sums) - 1)
    value = sums_at(sums, place)
    return np.asarray(np.diff(value, axis=0) / np.maximum(np.diff(place), 1e-3)[:, None])


def means_without_sums(
    frames: NDArray[np.floating], edges: NDArray[np.float64], rate: float = PITCH_RATE
) -> NDArray[np.float64]:
    """The same for frames (T, n) that are too many for sums of all of them."""
    out = np.empty((len(edges) - 1, frames.shape[1]))
    place = np.clip(edges * rate + 0.5, 0, len(frames))
    for first in range(0, len(out), 4096):
        part = place[first : first + 4097]
        a, b = min(int(part[0]), len(frames) - 1), min(len(frames), int(part[-1]) + 2)
        value = sums_at(running_sums(frames[a:b]), part - a)
        out[first : first + 4096] = np.diff(value, axis=0) / np.maximum(np.diff(part), 1e-3)[:, None]
    return out
