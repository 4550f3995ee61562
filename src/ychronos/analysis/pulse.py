"""Beats: when to tap.

Method: a hidden Markov model whose state is the tempo and the place within the beat (the bar pointer of
Whiteley, Cemgil and Godsill, ISMIR 2006, in the efficient form of Krebs, Böck and Widmer, ISMIR 2015): the
place advances one frame at a time, the tempo may change when a beat is reached, more rarely the more it
changes. Observations are the net's beat activation and its opinion of how long a beat is. The most
probable path gives the beats; each is then moved to the centre of its activation peak.
Conventions: evidence at 50 frames a second, beat times in seconds.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from .pulsenet import PulseEvidence, period_class
from .spectra import BAND_RATE

SHORTEST, LONGEST = 8, 78  # frames: 375 to 38 beats per minute
STEADINESS = 70.0  # cost of a tempo change, per natural log of its ratio
PERIOD_WEIGHT = 0.06  # of the net's opinion of the period, per frame
FLOOR = 0.008  # no activation says never
Times = NDArray[np.float64]


def beats(evidence: PulseEvidence, tick: Callable[[float], None] = lambda _: None) -> Times:
    """Beat times in seconds of the most probable path; all of the record is covered."""
    periods = np.arange(SHORTEST, LONGEST + 1)
    starts = np.concatenate([[0], np.cumsum(periods)[:-1]])
    ends = starts + periods - 1
    tempo_cost = STEADINESS * np.abs(np.log(periods[:, None] / periods[None, :]))
    tempo_change = -tempo_cost - np.log(np.exp(-tempo_cost).sum(1, keepdims=True))
    # the place in the beat that each state stands for, as distance in frames from the beat
    place = np.concatenate([np.arange(p) for p in periods])
    length = np.repeat(periods, periods)
    distance = np.minimum(place, length - place)
    hit, near = distance == 0, distance == 1

    beat = np.clip(evidence.beat, FLOOR, 1 - FLOOR)
    log_beat, log_rest = np.log(beat), np.log1p(-beat)
    classes = np.clip([period_class(60 * BAND_RATE / p) for p in periods], 0, evidence.period.shape[1] - 1)
    low = np.minimum(np.floor(classes).astype(int), evidence.period.shape[1] - 2)
    part = (classes - low).astype(np.float32)
    opinion = PERIOD_WEIGHT * (evidence.period[:, low] * (1 - part) + evidence.period[:, low + 1] * part)

    count = len(beat)
    came_from = np.zeros((count, len(periods)), np.uint8)
    index = np.arange(len(periods))
    score = np.repeat(-np.log(periods), periods).astype(np.float64)
    observed = np.empty_like(score)
    moved = np.empty_like(score)
    for t in range(count):
        arriving = score[ends][:, None] + tempo_change
        best = arriving.argmax(0)
        came_from[t] = best
        moved[1:] = score[:-1]
        moved[starts] = arriving[best, index]
        observed[:] = log_rest[t]
        observed[near] = 0.5 * log_rest[t]
        observed[hit] = log_beat[t]
        observed += np.repeat(opinion[t], periods)
        np.add(moved, observed, out=score)
        if t % 500 == 0:
            score -= score.max()
            tick(t / count)
    state = int(score.argmax())
    tempo = int(np.searchsorted(starts, state, "right") - 1)
    t, place_now = count - 1, state - int(starts[tempo])
    found: list[int] = []
    while t - place_now >= 0:
        found.append(t - place_now)
        previous = int(came_from[t - place_now, tempo])
        t, tempo = t - place_now - 1, previous
        place_now = int(periods[tempo]) - 1
    return _sharpen(np.array(found[::-1]), evidence)


def _sharpen(frames: NDArray[np.int_], evidence: PulseEvidence) -> Times:
    """Beat frames moved to the centre of gravity of the activation around them, in seconds."""
    padded = np.pad(evidence.beat, 3)
    reach = np.arange(-2, 3)
    around = padded[frames[:, None] + 3 + reach] ** 2
    shift = (around * reach).sum(1) / (around.sum(1) + 1e-3)
    times = np.maximum.accumulate((frames + shift) / BAND_RATE)
    return np.asarray(np.unique(times))
