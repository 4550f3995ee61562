"""What a small net hears of a line: for each frame and pitch, is it held, does it begin here; and the notes that follow from that.

Method: for each pitch its harmonics (and what lies an octave and a twelfth below, against octave errors) are gathered from the fine
spectrum, then convolutions over time, over pitch, over time again. Trained by ``training/train_lines.py`` on made-up lines with sampled
instruments, alone and in bands, and told to hear the line only, not what accompanies it. Notes by peaks of what begins, followed until
something else is held. Conventions: frames of :mod:`.fine`; pitches from LOW.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view

from .. import net
from ..spectra import Array
from .fine import BINS, FINE_RATE, FLUX, LOW_BIN

LOW, COUNT = 36, 53  # MIDI numbers of lines: C2 .. E6
HARMONICS = (1, 2, 3, 4, 5, 6, 7, 8)
BELOW = (1 / 2, 1 / 3)
AROUND, AROUND_BELOW = (-2, -1, 0, 1, 2), (-1, 0, 1)
HARMONIC_FEATURES = len(HARMONICS) * len(AROUND) + len(BELOW) * len(AROUND_BELOW)
BESIDE = (-2, -1, 0, 1, 2)  # frames whose attacks are looked at
FLUX_FEATURES = FLUX * len(BESIDE)
CHORD_FEATURES = 3  # in the chord, its root, is a chord known
WIDTH, NARROW, TIME, PITCHES = 40, 28, 7, 25
DILATIONS = (2, 6)  # of the later convolutions over time
BEGINS, LOOSE = 0.3, 0.2  # chance from which on a note begins, before and after its neighbours have spoken
HOLDS = 0.2
NEARBY, LEAST_SPREAD, FAR = 172, 4.0, 0.03  # frames of a line's register, semitones, what each semitone beyond costs
ECHO = 0.6  # of the surest note that begins at the same time
FRAMES_AT_ONCE = 24  # of a convolution: what they see fits in the processor's memory
APART = 4  # frames between two beginnings of one pitch
TOGETHER = 3  # frames within which notes begin as one
SHORTEST = 0.04  # seconds
RIVALS, RIVAL_FROM = 3, 0.15


def _columns() -> np.ndarray:
    """(COUNT, HARMONIC_FEATURES) which bin of the spectrum each feature of each pitch is."""
    first = (LOW + np.arange(COUNT) - LOW_BIN) * BINS
    rows = []
    for numbers, around in ((HARMONICS, AROUND), (BELOW, AROUND_BELOW)):
        for h in numbers:
            step = round(12 * BINS * np.log2(h))
            rows += [first + step + a for a in around]
    return np.stack(rows, axis=1)


_WHICH = _columns()


def harmonics(spectrum: Array) -> Array:
    """(frames, COUNT, HARMONIC_FEATURES) of a fine spectrum."""
    padded = np.concatenate([spectrum, np.zeros((len(spectrum), 1), np.float32)], axis=1)
    which = np.where((_WHICH >= 0) & (spectrum.shape[1] > _WHICH), _WHICH, spectrum.shape[1])
    return padded[:, which]


def attacks(flux: Array) -> Array:
    """(frames, FLUX_FEATURES): the rise of all bands, of a few frames around each."""
    padded = np.pad(flux, ((2, 2), (0, 0)))
    return np.concatenate([padded[2 + b : 2 + b + len(flux)] for b in BESIDE], axis=1)


def chord_rows(frames: int, chords: Sequence[tuple[float, frozenset[int], int]]) -> Array:
    """(frames, 12 + 12 + 1): which pitch classes are in the chord, which is its root, whether one is known; ``chords`` are (seconds
    into the stretch, pitch classes, root) in order, no pitch classes where nobody plays."""
    out = np.zeros((frames, 25), np.float32)
    for k, (at, inside, root) in enumerate(chords):
        first = max(0, round(at * FINE_RATE))
        last = max(0, round(chords[k + 1][0] * FINE_RATE)) if k + 1 < len(chords) else frames
        out[first:last] = 0
        if inside:
            out[first:last, sorted(inside)] = 1
            out[first:last, 12 + root] = 1
            out[first:last, 24] = 1
    return out


def chordal(rows: Array) -> Array:
    """(frames, COUNT, CHORD_FEATURES) of chord rows."""
    classes = (LOW + np.arange(COUNT)) % 12
    known = np.broadcast_to(rows[:, 24:], (len(rows), COUNT))
    return np.stack([rows[:, classes], rows[:, 12 + classes], known], axis=2)


def _along(x: Array, kernel: Array, bias: Array, axis: int, dilation: int = 1) -> Array:
    """Convolution of x (frames, pitches, in) over one axis with zero padding; kernel (taps, in, out), ``dilation`` over time only. What all taps
    of some frames see is laid side by side, so that one product of matrices does for them what a product for each tap takes twice as long for."""
    taps, reach = len(kernel), len(kernel) // 2 * dilation
    frames, pitches, wide = x.shape
    flat = kernel.reshape(-1, kernel.shape[2])
    padded = np.pad(x, [(reach, reach) if k == axis else (0, 0) for k in range(3)])
    out = np.empty((frames, pitches, kernel.shape[2]), np.float32)
    for a in range(0, frames, FRAMES_AT_ONCE):
        n = min(FRAMES_AT_ONCE, frames - a)
        if axis == 0:
            seen = np.concatenate([padded[a + k * dilation : a + k * dilation + n] for k in range(taps)], axis=2)
        else:
            seen = sliding_window_view(padded[a : a + n].reshape(n, -1), taps * wide, axis=1)[:, ::wide]
        out[a : a + n] = (seen.reshape(n * pitches, -1) @ flat).reshape(n, pitches, -1)
    return np.asarray(out + bias, np.float32)


def run(spectrum: Array, flux: Array, chords: Array, weights: dict[str, Array] | None = None) -> tuple[Array, Array]:
    """(frames, COUNT) chances that the line holds a pitch, and that it begins there; ``chords`` as :func:`chord_rows` gives them."""
    w = {k: v.astype(np.float32) for k, v in (weights or net.weights("lines")).items()}
    heard = np.concatenate([harmonics(spectrum), chordal(chords)], axis=2)
    first = np.maximum(0, heard @ w["harmonic"] + w["harmonic_bias"] + (attacks(flux) @ w["attack"])[:, None])
    first = np.maximum(0, _along(first, w["time"], w["time_bias"], 0)) + first
    second = np.maximum(0, _along(first, w["pitch"], w["pitch_bias"], 1))
    for k, dilation in enumerate(DILATIONS):
        second = np.maximum(0, _along(second, w[f"later{k}"], w[f"later{k}_bias"], 0, dilation)) + second
    out = net.sigmoid(second @ w["out"] + w["out_bias"])
    return out[:, :, 0], out[:, :, 1]


@dataclass(frozen=True)
class Found:
    """A note from ``start`` to ``end`` seconds into the stretch; ``sure`` is how probable it is, ``rivals`` are the notes that it may
    be instead, the likeliest first."""

    start: float
    end: float
    note: int
    sure: float
    rivals: tuple[int, ...] = ()


def notes(held: Array, begun: Array, begins: float = BEGINS, holds: float = HOLDS) -> list[Found]:
    """The notes, in order of their beginnings."""
    peaks = _of_one_line(_peaks(held, begun, min(begins, LOOSE), holds), held, begins)
    out = []
    for n, (i, k, chance) in enumerate(peaks):
        again = next((j for j, q, _ in peaks[n + 1 :] if q == k), len(held))
        end = i + 2
        while end < min(again, len(held)) and held[end : end + 3, k].max() >= holds:
            end += 1
        if (end - i) / FINE_RATE < SHORTEST:
            continue
        beside = begun[max(0, i - 2) : i + 3].max(0) + 0.3 * held[i : i + 8].max(0)
        beside[k] = 0
        for j, q, _ in peaks:
            if abs(j - i) <= TOGETHER:
                beside[q] = 0
        rivals = [int(q) for q in np.argsort(-beside)[:RIVALS] if beside[q] > RIVAL_FROM]
        out.append(Found(i / FINE_RATE, end / FINE_RATE, LOW + k, round(chance, 2), tuple(LOW + q for q in rivals)))
    return out


def _of_one_line(peaks: list[tuple[int, int, float]], held: Array, begins: float) -> list[tuple[int, int, float]]:
    """Those of some beginnings that one line may have: far from where the line moves for a while they count less, and beside a
    much surer one they are an echo of what accompanies it."""
    if not peaks:
        return []
    frame, pitch, chance = (np.array(x, float) for x in zip(*peaks, strict=True))
    weight = chance * np.array([float(held[i : i + 8, k].mean()) for i, k, _ in peaks]) + 1e-9
    shared = chance.copy()
    for n in range(len(peaks)):
        near = np.abs(frame - frame[n]) <= NEARBY
        order = np.argsort(pitch[near])
        heavy = np.cumsum(weight[near][order])
        middle = pitch[near][order][np.searchsorted(heavy, heavy[-1] / 2)]
        spread = max(LEAST_SPREAD, float(np.average(np.abs(pitch[near] - middle), weights=weight[near])))
        shared[n] *= np.exp(-FAR * max(0.0, abs(pitch[n] - middle) - spread))
    out = []
    for n, (i, k, _) in enumerate(peaks):
        beside = shared[np.abs(frame - frame[n]) <= TOGETHER].max()
        if shared[n] >= max(begins, ECHO * beside):
            out.append((i, k, float(shared[n])))
    return out


def _peaks(held: Array, begun: Array, begins: float, holds: float) -> list[tuple[int, int, float]]:
    """[(frame, pitch, chance)] where notes begin."""
    out = []
    for k in range(COUNT):
        row = begun[:, k]
        for i in np.flatnonzero((row >= begins) & (row >= np.roll(row, 1)) & (row > np.roll(row, -1))):
            near = row[max(0, i - APART) : i + APART + 1]
            if row[i] >= near.max() and held[i : i + 6, k].max(initial=0) >= holds:
                out.append((int(i), k, float(row[i])))
    return sorted(out)
