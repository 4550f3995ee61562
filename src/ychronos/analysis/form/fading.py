"""How a record ends: it fades while the band plays on, rings after a last stroke, or stops.

Method: the loudest tenth of each half second, in dB, down to what the record's end is silent at. It fades where the last
seconds fall by DROP and more, in each third of them, without rising in between, and strokes go on in them as strong against
their own neighbourhood as before. Else the last firm stroke is looked for, and how long the sound needs from there to fall by RUNG.
Conventions: bands at 50 frames a second, magnitudes; times in seconds. Thresholds: docs/analysis.md.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...song.closing import Closing
from ..attacks import around, rising, usual
from ..spectra import BAND_RATE, Array

Floats = NDArray[np.float64]
STEP = 25  # frames in half a second
LOOKED = 100 * 50  # frames at the end that are looked at
SILENT = 48.0  # dB below the record's loud parts
DROP, THIRD, RISES = 12.0, 1.2, 3.0  # dB that a fade falls by, in each third of it, and that it may rise in between
AS_LOUD = 1.5  # dB below what was before, and still not fading
SHORTEST, LONGEST = 3.0, 40.0  # seconds of a fade
GOES_ON = 0.55  # strength of strokes in a fade against those before
FAINT = 0.5  # rise of the log bands together that is no stroke
FIRM = 0.45  # of a usual strong stroke: the last one
RUNG, RINGS, STOPS = 15.0, 1.0, 0.6  # dB; seconds that it takes when it rings at least, and when it stops at most


def closing(bands: Array) -> Closing:
    """``bands`` (T, k)."""
    if len(bands) < 20 * STEP:
        return Closing()
    power = 10 * np.log10((bands.astype(np.float32) ** 2).sum(1) + 1e-12)
    loud = float(np.percentile(power, 90))
    heard = np.flatnonzero(power > loud - SILENT)
    if len(heard) < 20 * STEP:
        return Closing()
    end = int(heard[-1]) + 1
    first = max(0, end - LOOKED)
    power, rise = power[first:end], _strokes(bands[first:end].astype(np.float64))
    begins = _fade(power, rise, loud)
    kind, at = ("fades", begins) if begins is not None else _last_stroke(power, rise)
    return Closing(kind, (first + at) / BAND_RATE) if kind else Closing()


def _strokes(bands: Floats) -> Floats:
    """(T,) rise of the log bands against their own loudness within a second."""
    mean = bands.sum(1) / bands.shape[1]
    return np.asarray(rising(bands, around(mean)[:, None] + 1e-9)[1].sum(1))


def _fade(power: Floats, rise: Floats, loud: float) -> int | None:
    """The frame from which on it fades, None where it does not."""
    count = len(power) // STEP
    first = len(power) - count * STEP
    level = np.percentile(power[first:].reshape(count, STEP), 90, axis=1)
    best = None
    for steps in range(int(2 * SHORTEST), min(int(2 * LONGEST), count // 2) + 1):
        tail = level[-steps:]
        start = float(np.median(level[max(0, count - steps - 12) : count - steps]))
        thirds = [float(np.median(t)) for t in (tail[:2], *np.array_split(tail, 3)[1:], tail[-2:])]
        falls = start - tail[-1] >= DROP and min(-np.diff(thirds)) >= THIRD
        if (
            falls
            and float((tail - np.minimum.accumulate(tail)).max()) <= RISES
            and abs(tail[0] - start) <= 3
            and start > loud - 14
        ):
            last = [i for i, x in enumerate(tail) if x >= start - AS_LOUD]  # from the last one on it only falls
            best = steps - (last[-1] if last else 0)
    if best is None:
        return None
    begins = len(power) - best * STEP
    inside, before = rise[begins:], rise[max(0, begins - 40 * STEP) : begins]
    # strokes in every part of it, not only where it begins
    parts = [usual(p) for p in np.array_split(inside[: len(inside) * 9 // 10], 4)]
    return begins if min(parts) >= GOES_ON * usual(before) else None


def _last_stroke(power: Floats, rise: Floats) -> tuple[str, int]:
    """How what is struck last goes on sounding, "" where that is not plain, and its frame."""
    strong = np.flatnonzero(rise >= max(FAINT, FIRM * usual(rise)))
    strong = strong[power[strong] > np.percentile(power, 75) - 20]
    if not len(strong):
        return "", 0
    last = int(strong[-1])
    after = power[last : last + 4]
    top = float(after.max())
    low = np.flatnonzero(power[last:] < top - RUNG)
    lasts = (int(low[0]) if len(low) else len(power) - last) / BAND_RATE
    return "rings" if lasts >= RINGS else "stops" if lasts <= STOPS else "", last
