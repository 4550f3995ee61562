"""Hidden Markov chains: the best path and the probabilities of states.

Task: from log scores of every state at every moment, and what changing costs, to one state a moment (Viterbi) and to the
probability of each (forward and backward sums; Rabiner, "A tutorial on hidden Markov models", Proc. IEEE 77, 1989).
Two kinds. In a *staying* chain (chords, keys) one stays in a state or goes to any other at a cost that depends on the moment
alone, so that a step takes time in the number of states, not in its square; where states are few, what lies ``between`` two may
cost besides. In a *counting* chain (bars) a state is a meter and a place in the bar; one goes on to the next place, or ends the bar
and begins one of any meter.
Conventions: scores and costs are natural logs, costs positive; single precision where the scores are.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Scores = NDArray[np.floating]
Ints = NDArray[np.int_]
MEMORY = 200 << 20  # bytes of observations that are worked on at once


# ---------------------------------------------------------------- staying chains


def best_path(score: Scores, cost: Floats, between: Floats | None = None) -> Ints:
    """The state (moments,) of the best path through ``score`` (moments, states), where a change at a moment costs
    ``cost`` (moments,) and one from a state to another ``between`` (states, states) besides."""
    count, width = score.shape
    if between is not None:
        apart = 1 - np.eye(width)
        return best_way(score, (-(between + price) * apart for price in cost[1:]))
    stay = np.arange(width, dtype=np.int16)
    back = np.zeros((count, width), np.int16)
    value = score[0].copy()
    drop = cost.astype(score.dtype)
    for t in range(1, count):
        best = int(value.argmax())
        value -= value[best]  # so that single precision is enough
        jump = -drop[t]
        better = value < jump
        back[t] = np.where(better, np.int16(best), stay)
        value = np.where(better, jump, value) + score[t]
    return _traced(value, back)


def best_way(score: Scores, steps: Iterable[Floats]) -> Ints:
    """The state (moments,) of the best path through ``score`` (moments, states), where each of the ``steps`` (states, states), one from
    every moment to the next, is what speaks for going from a state (row) to another."""
    if not len(score):
        return np.zeros(0, int)
    value = score[0]
    back = np.zeros(score.shape, int)
    for t, step in zip(range(1, len(score)), steps, strict=False):
        whole = value[:, None] + step
        back[t] = whole.argmax(0)
        value = whole.max(0) + score[t]
    return _traced(value, back)


def _traced(last: Scores, back: NDArray[np.integer]) -> Ints:
    """A path from its end on: ``last`` (states,) what each state is worth there, ``back`` (moments, states) where each came from."""
    path = np.zeros(len(back), int)
    path[-1] = int(last.argmax())
    for t in range(len(back) - 1, 0, -1):
        path[t - 1] = back[t, path[t]]
    return path


def posterior(
    score: Scores, cost: Floats, temperature: float = 1.0, least: float = -np.inf, between: Floats | None = None
) -> Scores:
    """Probabilities (moments, states), each row 1 in all. ``temperature`` above 1 says that neighbouring moments are
    not independent witnesses, ``least`` is how little a state may ever speak against the best one's, ``between`` (states,
    states) what a change from a state to another costs besides ``cost``."""
    kind = score.dtype.type
    count, width = score.shape
    likelihood = np.exp(np.maximum((score - score.max(1, keepdims=True)) / kind(temperature), kind(least)))
    jump = np.exp(-cost / temperature).astype(kind)
    ways = None if between is None else np.exp(-between / temperature).astype(kind)
    forward = np.empty((count, width), kind)
    forward[0] = likelihood[0] / likelihood[0].sum()
    for t in range(1, count):
        row = likelihood[t] * (forward[t - 1] + jump[t] * (1 if ways is None else forward[t - 1] @ ways))
        forward[t] = row / row.sum()
    backward = np.ones(width, kind)
    for t in range(count - 2, -1, -1):  # the backward sums are folded into the forward ones as they come
        ahead = likelihood[t + 1] * backward
        backward = ahead + jump[t + 1] * (ahead.sum() if ways is None else ways @ ahead)
        backward /= backward.max()
        forward[t] *= backward
    forward /= forward.sum(1, keepdims=True)
    return forward


# ---------------------------------------------------------------- counting chains


def best_paths(observed: Sequence[Floats], leaving: Floats, between: Floats) -> list[Ints]:
    """For each sequence of beats or points (its observations, (n, meters, places)) the most probable state of each,
    meter * places + place. ``leaving`` (meters, places) is what it weighs to end a bar after a place, ``between``
    (meters, meters) to go from one meter to another. As many sequences are worked on at once as memory allows."""
    largest = max(len(o) for o in observed) * leaving.size * 8
    together = max(1, MEMORY // largest)
    out: list[Ints] = []
    for first in range(0, len(observed), together):
        out += _best_paths(observed[first : first + together], leaving, between)
    return out


def _best_paths(observed: Sequence[Floats], leaving: Floats, between: Floats) -> list[Ints]:
    number = len(observed)
    meters, places = leaving.shape
    lengths = np.array([len(o) for o in observed])
    count = int(lengths.max())
    all_ = np.zeros((count, number, meters, places))
    for c, o in enumerate(observed):
        all_[: len(o), c] = o
    score = all_[0] - np.where(np.arange(places) == 0, 0, 0.5)
    final = np.array(score)
    end_place = np.zeros((count, number, meters), np.uint8)
    came_from = np.zeros((count, number, meters), np.uint8)
    for i in range(1, count):
        ending = score + leaving
        end_place[i] = ending.argmax(2)
        arriving = ending.max(2)[:, :, None] + between[None]
        came_from[i] = arriving.argmax(1)
        moved = np.empty_like(score)
        moved[:, :, 1:] = score[:, :, :-1]
        moved[:, :, 0] = arriving.max(1)
        score = moved + all_[i]
        now = lengths == i + 1
        final[now] = score[now]
    out: list[Ints] = []
    for c in range(number):
        path = np.zeros(lengths[c], int)
        state = int(final[c].argmax())
        for i in range(lengths[c] - 1, -1, -1):
            path[i] = state
            meter, place = divmod(state, places)
            if place:
                state -= 1
            elif i:
                source = int(came_from[i, c, meter])
                state = source * places + int(end_place[i, c, source])
        out.append(path)
    return out


def begins(observed: Floats, leaving: Floats, between: Floats) -> Floats:
    """Probability (n,) that a bar begins at each beat, from observations (n, meters, places)."""
    count = len(observed)
    change = np.exp(between)
    change /= change.sum(1, keepdims=True)
    leave = np.exp(leaving)
    stay = 1 - np.minimum(leave, 1)
    likelihood = np.exp(observed - observed.max(axis=(1, 2), keepdims=True))
    forward = np.zeros(observed.shape)
    forward[0] = likelihood[0] / likelihood[0].sum()
    for i in range(1, count):
        moved = np.zeros(observed.shape[1:])
        moved[:, 1:] = (forward[i - 1] * stay)[:, :-1]
        moved[:, 0] = (forward[i - 1] * leave).sum(1) @ change
        forward[i] = moved * likelihood[i]
        forward[i] /= forward[i].sum() + 1e-300
    backward = np.ones(observed.shape)
    for i in range(count - 2, -1, -1):
        future = backward[i + 1] * likelihood[i + 1]
        ahead = np.zeros(observed.shape[1:])
        ahead[:, :-1] = future[:, 1:]
        backward[i] = stay * ahead + leave * (change @ future[:, 0])[:, None]
        backward[i] /= backward[i].max() + 1e-300
    both = forward * backward
    return np.asarray(both[:, :, 0].sum(1) / (both.sum(axis=(1, 2)) + 1e-300))
