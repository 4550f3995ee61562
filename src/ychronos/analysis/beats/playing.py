"""From when to when a band plays: not the speaker before it, not the applause after it.

A tape of an evening begins with an announcement and ends in applause, through which beats can be counted as through anything; no beat of the
song is there. Who counts in does not play either, but strikes evenly. Conventions: seconds, masks at 50 frames a second.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..attacks import sounding
from ..singing import RATE
from ..spectra import BAND_RATE, runs

SOUND_FLOOR = 0.02  # loudness, relative to the loud parts, below which nobody plays
BREADTH = 0.6  # seconds over which it is asked whether anybody plays
LONG = 5.0  # seconds before and after, from which on what sounds there is no count-in, and no last chord
SHORTEST, DENSEST = 15.0, 0.5  # seconds that a band plays, and share of them, else the answer is not to be trusted
BETWEEN, SONG = 6.0, 40.0  # seconds in which nobody plays between two songs; that a song lasts at least
STRUCK, EVEN = 0.4, 0.1  # activation of a stroke of a count-in, share by which their distances differ
FEWEST, MOST = 3, 8  # strokes that count in
DISTANCES = (0.25, 1.4)  # seconds between them


def where(bands: NDArray[np.floating], beat: NDArray[np.floating], plays: NDArray[np.floating]) -> NDArray[np.bool_]:
    """(T,) where a record of ``bands`` (T, k) sounds, without what comes before a band begins or after it has stopped: ``beat`` (T,) are
    the chances of beats, ``plays`` at :data:`.singing.RATE` those that others than a speaker or singer play."""
    loud = sounding(bands, SOUND_FLOOR)
    playing = np.flatnonzero(_playing(plays))
    if not len(playing):
        return loud
    first, last = float(playing[0]) / RATE, float(playing[-1] + 1) / RATE
    if last - first < SHORTEST or len(playing) / RATE < DENSEST * (last - first):
        return loud
    times = np.arange(len(loud)) / BAND_RATE
    heard = np.flatnonzero(loud) / BAND_RATE
    if len(heard) and first - heard[0] > LONG:
        loud &= times >= counted_in(beat, first) - BREADTH / 2
    if len(heard) and heard[-1] - last > LONG:
        loud &= times <= last + BREADTH / 2
    return loud


def songs(plays: NDArray[np.floating]) -> list[tuple[float, float]]:
    """From when to when the songs of a tape last, in seconds: a band plays for long, and nobody for some time between them."""
    parts: list[tuple[float, float]] = []
    for a, b in runs(_playing(plays)):
        start, end = a / RATE, b / RATE
        if parts and start - parts[-1][1] < BETWEEN:
            parts[-1] = (parts[-1][0], end)
        else:
            parts.append((start, end))
    return [(start, end) for start, end in parts if end - start >= SONG]


def _playing(plays: NDArray[np.floating]) -> NDArray[np.bool_]:
    """At RATE, whether a band plays around each moment."""
    wide = round(BREADTH * RATE)
    if len(plays) < wide:
        return np.zeros(len(plays), np.bool_)
    return np.asarray(np.convolve(plays.astype(np.float32), np.ones(wide) / wide, "same") > 0.5)


def counted_in(beat: NDArray[np.floating], first: float) -> float:
    """When the strokes begin that lead evenly to ``first``, where a band begins to play; that itself without any."""
    end = min(len(beat), int((first + 2 * BREADTH) * BAND_RATE))
    begin = max(0, end - int((MOST + 1) * DISTANCES[1] * BAND_RATE))
    part = beat[begin:end].astype(np.float32)
    peaks = [a + int(part[a:b].argmax()) for a, b in runs(part >= STRUCK)]
    times = (np.array(peaks, float) + begin) / BAND_RATE
    nearest = int(np.abs(times - first).argmin()) if len(times) else 0
    if nearest < FEWEST:
        return first
    gap = times[nearest] - times[nearest - 1]
    if not DISTANCES[0] <= gap <= DISTANCES[1]:
        return first
    at = nearest
    while at and nearest - at < MOST and abs(times[at] - times[at - 1] - gap) <= EVEN * gap:
        at -= 1
    return float(times[at]) if nearest - at >= FEWEST else first
