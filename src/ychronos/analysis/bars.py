"""Bar lines and meter: which of the beats are ones.

Method: a hidden Markov model over beats whose state is a meter and the place in the bar. The net's bar-line
activation at each beat speaks for the place, its opinion of the meter for the meter. A bar normally runs
to its end; ending early or a change of meter costs. Stated ones are hard constraints. Forward and backward
sums give each bar line's probability.
Conventions: beats by index; a bar begins on a beat.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..theory.meter import Meter
from .pulsenet import METERS, PulseEvidence
from .spectra import BAND_RATE

METER_WEIGHT = 0.08  # of the net's opinion, per beat; it leans to 4/4, the bar activations know better
CHANGE_COST = 9.0
SHORT_COST = 7.0  # for a bar that ends before its meter says
FLOOR = 0.01
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Bars:
    """``position`` (n,) counts from 1 in each beat's bar, ``meter`` (n,) indexes METERS, ``one`` (n,) is the
    probability that a bar begins at each beat."""

    position: NDArray[np.int_]
    meter: NDArray[np.int_]
    one: Floats


def meter_of(index: int) -> Meter:
    beats, compound, eighth = METERS[index]
    return Meter(beats * 3, 8) if compound else Meter(beats, 8 if eighth else 4)


def at_beats(curve: NDArray[np.generic], beats: Floats, reach: int = 2) -> Floats:
    """Highest value of a 50 Hz curve within ``reach`` frames of each beat."""
    frames = np.clip(np.round(beats * BAND_RATE).astype(int), 0, len(curve) - 1)
    padded = np.pad(curve, reach)
    return np.asarray(padded[frames[:, None] + np.arange(2 * reach + 1)].max(1), np.float64)


def decide(evidence: PulseEvidence, beats: Floats, stated_ones: Collection[int] = ()) -> Bars:
    """Bars of a beat sequence; needs at least two beats."""
    count = len(beats)
    one = np.clip(at_beats(evidence.bar, beats), FLOOR, 1 - FLOOR)
    beat = np.clip(at_beats(evidence.beat, beats), 0.05, 1)
    one = np.clip(one / np.maximum(beat, one), FLOOR, 1 - FLOOR)
    edges = np.clip(
        np.round(np.append(beats, 2 * beats[-1] - beats[-2]) * BAND_RATE).astype(int), 0, len(evidence.meter)
    )
    sums = np.concatenate([np.zeros((1, len(METERS))), np.cumsum(evidence.meter, axis=0, dtype=np.float64)])
    opinion = (sums[edges[1:]] - sums[edges[:-1]]) / np.maximum(np.diff(edges), 1)[:, None]

    lengths = np.array([m[0] for m in METERS])
    first = np.concatenate([[0], np.cumsum(lengths)[:-1]])
    meter = np.repeat(np.arange(len(METERS)), lengths)
    place = np.concatenate([np.arange(n) for n in lengths])
    is_one, is_last = place == 0, np.zeros(len(place), bool)
    is_last[first + lengths - 1] = True

    observed = np.where(is_one[None], np.log(one)[:, None], np.log1p(-one)[:, None]) + METER_WEIGHT * opinion[:, meter]
    for i in stated_ones:
        if 0 <= i < count:
            observed[i, ~is_one] = -1e6
    # where a bar may end: always after its last beat, early at a cost (not after its first beat)
    leaving = np.where(is_last, 0.0, np.where(place == 0, -SHORT_COST - 3, -SHORT_COST))
    between = np.where(np.eye(len(METERS), dtype=bool), 0.0, -CHANGE_COST)

    def step_max(score: Floats) -> tuple[Floats, NDArray[np.int_]]:
        moved = np.full_like(score, -np.inf)
        moved[1:] = score[:-1]
        moved[first] = -np.inf
        back = np.arange(len(score)) - 1
        out = score + leaving
        best_of = np.array([f + int(out[f : f + n].argmax()) for f, n in zip(first, lengths, strict=True)])
        arriving = out[best_of][:, None] + between
        source = arriving.argmax(0)
        moved[first] = arriving[source, np.arange(len(METERS))]
        back[first] = best_of[source]
        return moved, back

    score = observed[0] - np.where(is_one, 0, 0.5)
    trace = np.zeros((count, len(place)), int)
    for i in range(1, count):
        moved, trace[i] = step_max(score)
        score = moved + observed[i]
    path = np.zeros(count, int)
    path[-1] = int(score.argmax())
    for i in range(count - 1, 0, -1):
        path[i - 1] = trace[i, path[i]]
    probability = _posterior(observed, first, lengths, leaving, between, is_one)
    return Bars(place[path] + 1, meter[path], probability)


def _posterior(
    observed: Floats,
    first: NDArray[np.int_],
    lengths: NDArray[np.int_],
    leaving: Floats,
    between: Floats,
    is_one: NDArray[np.bool_],
) -> Floats:
    """Probability of a bar line at each beat by forward and backward sums."""
    count, states = observed.shape
    change = np.exp(between)
    change /= change.sum(1, keepdims=True)
    leave = np.exp(leaving)
    stay = 1 - np.minimum(leave, 1)
    group = np.repeat(np.arange(len(lengths)), lengths)
    likelihood = np.exp(observed - observed.max(1, keepdims=True))
    forward = np.zeros((count, states))
    forward[0] = likelihood[0] / likelihood[0].sum()
    for i in range(1, count):
        moved = np.zeros(states)
        moved[1:] = (forward[i - 1] * stay)[:-1]
        moved[first] = np.bincount(group, forward[i - 1] * leave, len(lengths)) @ change
        forward[i] = moved * likelihood[i]
        forward[i] /= forward[i].sum() + 1e-300
    backward = np.ones((count, states))
    for i in range(count - 2, -1, -1):
        future = backward[i + 1] * likelihood[i + 1]
        ahead = np.append(future[1:], 0.0)
        backward[i] = stay * ahead + leave * (change @ future[first])[group]
        backward[i] /= backward[i].max() + 1e-300
    both = forward * backward
    return np.asarray((both * is_one).sum(1) / (both.sum(1) + 1e-300))
