"""Whether somebody sings, and whether a band plays: a small net on the log bands.

Method: convolutions over time and frequency find what glides, trembles and hisses as voices do, whichever pitch it has; convolutions over two
seconds of time decide. Trained by ``training/train_singing.py`` on syllables of many speakers that were put on melodies, over made songs and
records in which nobody sings, with bands that stop; see ``docs/analysis.md`` for what that is worth on voices and records it never heard.
Conventions: bands of :mod:`.spectra` at 50 Hz; answers at RATE.
"""

from __future__ import annotations

import numpy as np

from . import net
from .spectra import BANDS, Array, runs

RATE = 25  # answers a second
FIRST, SECOND, ROWS, WIDTH = 12, 16, 10, 48
DILATIONS = (2, 4, 8)
BREADTH, ON, OFF = 0.6, 0.7, 0.45  # seconds; mean chance from which on somebody sings, and goes on singing
BREATH, SHORTEST = 1.2, 0.8  # seconds
# Of the net's odds that nobody but a singer plays, of the log odds of the second note that sounds most, and always (logistic regression)
ALONE = (0.79, -0.60, -0.22)
FLOOR, CALM, MOST = 1e-3, 5, 8.0  # of a chance; frames over which both are averaged; of log odds
WEIGHT = 16.0  # of the odds that nobody plays
PART, AROUND = 6000, 300  # frames that are looked at once, and what is looked at with them on both sides


def seen(bands: Array) -> Array:
    """(frames, BANDS) log-compressed against the loudest of the song."""
    loudest = np.percentile(bands.max(1), 95) + 1e-7 if len(bands) else 1.0
    return np.asarray(np.log1p(200 * bands / loudest) / np.log(201), np.float32)


def _patches(x: Array, times: int, rows: int) -> Array:
    """(frames, rows, times * rows * channels): what a kernel sees at each place of x (frames, rows, channels), zero outside."""
    t, r = times // 2, rows // 2
    padded = np.pad(x, ((t, t), (r, r), (0, 0)))
    windows = np.lib.stride_tricks.sliding_window_view(padded, (times, rows), (0, 1))
    return windows.transpose(0, 1, 3, 4, 2).reshape(len(x), x.shape[1], -1)


def _run(x: Array, w: dict[str, Array]) -> Array:
    """Log odds (frames // 2, 2) of what :func:`seen` gives."""
    y = net.elu(_patches(x[:, :, None], 5, 7) @ w["first"] + w["first_bias"])
    y = y.reshape(len(y), BANDS // 3, 3, FIRST).max(2)
    half = len(y) // 2
    y = y[: 2 * half].reshape(half, 2, BANDS // 3, FIRST).mean(1)
    y = net.elu(_patches(y, 3, 3) @ w["second"] + w["second_bias"])
    y = y.reshape(half, ROWS, 2, SECOND).max(2).reshape(half, ROWS * SECOND)
    y = net.elu(net.conv(y, w["into"], w["into_bias"]))
    for k, dilation in enumerate(DILATIONS):
        y = net.elu(net.conv(y, w[f"later{k}"], w[f"later{k}_bias"], dilation)) + y
    return np.asarray(y @ w["out"] + w["out_bias"], np.float32)


def run(bands: Array, weights: dict[str, Array] | None = None) -> Array:
    """(frames // 2, 2) at RATE: how probable it is that somebody sings, and that others than a singer play."""
    w, x = weights or net.weights("singing"), seen(bands)
    parts = []
    for first in range(0, len(x) - 1, PART):
        a, b = max(0, first - AROUND), min(len(x), first + PART + AROUND)
        odds = _run(x[a:b], w)
        parts.append(odds[(first - a) // 2 : (min(len(x), first + PART) - a) // 2])
    return net.sigmoid(np.concatenate(parts)) if parts else np.zeros((0, 2), np.float32)


def others(plays: Array, notes: Array, rate: float) -> Array:
    """How probable it is, at RATE, that others than a singer play, from what the net says of it and the log odds ``notes`` (T, 12) that
    pitch classes sound, at ``rate`` frames a second: distorted guitars tremble and hiss as voices do, but a voice alone sings one note."""
    if not len(plays) or not len(notes):
        return plays
    calm = np.ones(CALM) / CALM
    net_says = np.convolve(_odds_of_nobody(plays), calm, "same")
    second = np.convolve(np.clip(np.partition(notes, -2, axis=1)[:, -2], -MOST, MOST), calm, "same")
    second = np.interp(np.arange(len(plays)) / RATE * rate, np.arange(len(second)), second)
    return np.asarray(net.sigmoid(-(ALONE[0] * net_says + ALONE[1] * second + ALONE[2])), np.float32)


def _odds_of_nobody(plays: Array) -> Array:
    """Log odds that nobody but a singer plays."""
    return np.asarray(np.log((1 - plays + FLOOR) / (plays + FLOOR)))


def hushed(chord: Array, rate: float, plays: Array) -> Array:
    """Log chances of chords (T, n; the last is none) at ``rate`` frames a second, with what is known of whether anybody but a singer
    ``plays``: what a voice sings alone sounds like a chord too."""
    if not len(plays):
        return chord
    odds = _odds_of_nobody(plays)
    more = WEIGHT * np.maximum(0, np.interp(np.arange(len(chord)) / rate * RATE, np.arange(len(odds)), odds))
    out = chord.astype(np.float32)
    out[:, -1] += more
    return net.log_softmax(out)


def stretches(sings: Array) -> tuple[tuple[float, float], ...]:
    """(from, to) in seconds where somebody sings: probable over BREADTH, without breaths in between and without single cries."""
    if not len(sings):
        return ()
    wide = max(1, round(BREADTH * RATE))
    mean = np.convolve(sings, np.ones(wide) / wide, "same")
    out: list[list[float]] = []
    for a, b in runs(mean > OFF):
        if mean[a:b].max() < ON:
            continue
        if out and a / RATE - out[-1][1] < BREATH:
            out[-1][1] = b / RATE
        else:
            out.append([a / RATE, b / RATE])
    return tuple((a, b) for a, b in out if b - a >= SHORTEST)
