"""Beats: when one would tap, at each of the speeds one could tap.

Method: a semi-Markov chain over beats, the exact equivalent of the bar-pointer state space (Whiteley, Cemgil
and Godsill, ISMIR 2006; Krebs, Böck and Widmer, ISMIR 2015) without its waiting states: a beat at a frame
follows one an interval earlier, the interval changes at a cost, frames between beats must be quiet, and the
net's opinion of the beat's length counts all along. Intervals are searched in octave-wide windows at once, so
that each metrical level has its best path; which level people would count is decided in ``count``.
Stated beats are hard constraints: no interval reaches over one.
Conventions: evidence at 50 frames a second, times in seconds.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from .pulsenet import PulseEvidence, period_class

SHORTEST, LONGEST = 8, 78  # frames: 375 to 38 beats per minute
WINDOWS = ((8, 16), (12, 24), (18, 36), (27, 54), (40, 78))
QUICKEST = (8, 18)  # half frames: 750 to 333 a minute, half beats of the quickest counts
STEADINESS = 70.0  # cost of a change of the interval, per natural log of its ratio
PERIOD_WEIGHT = 0.06  # of the net's opinion of the interval, per frame
FLOOR = 0.008  # no activation says never
NEVER = -1e9
_CHUNK = 4096  # frames whose interval costs are held at a time
Times = NDArray[np.float64]


@dataclass(frozen=True)
class Fixed:
    """What is stated about beats: ``beats`` are times (s) at which one is; between the two times of each of
    ``gaps`` there is none."""

    beats: tuple[float, ...] = ()
    gaps: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True)
class Track:
    """Beat times (s) of the best path within a window of intervals, and its log likelihood against silence."""

    times: Times
    score: float


def beats(
    evidence: PulseEvidence,
    shortest: int = SHORTEST,
    longest: int = LONGEST,
    fixed: Fixed = Fixed(),
    steadiness: float = STEADINESS,
) -> Times:
    """Beat times of the best path with intervals in one range of frames; all of the record is covered."""
    return tracks(evidence, ((shortest, longest),), fixed, steadiness)[0].times


def tracks(
    evidence: PulseEvidence,
    windows: Sequence[tuple[int, int]] = WINDOWS,
    fixed: Fixed = Fixed(),
    steadiness: float = STEADINESS,
    tick: Callable[[float], None] = lambda _: None,
) -> list[Track]:
    """The best path in each window of intervals (frames, both ends included)."""
    count, number = len(evidence.beat), len(windows)
    width = max(last - first + 1 for first, last in windows)
    periods = np.array([[first + i for i in range(width)] for first, _ in windows])
    valid = periods <= np.array([last for _, last in windows])[:, None]
    periods = np.where(valid, periods, np.array([last for _, last in windows])[:, None])
    cost = steadiness * np.abs(np.log(periods[:, :, None] / periods[:, None, :]))
    weight = np.exp(-cost) * valid[:, None, :] * valid[:, :, None]
    # change[w, p, q]: from interval q to interval p
    with np.errstate(divide="ignore"):
        change = np.log(weight / np.maximum(weight.sum(2, keepdims=True), 1e-300)).transpose(0, 2, 1)
    change = np.maximum(change, NEVER).copy()

    beat = np.clip(evidence.beat.astype(np.float64), FLOOR, 1 - FLOOR)
    hit, rest = np.log(beat), np.log1p(-beat)
    stated, ban = _frames(fixed, count, evidence.rate)
    hit[ban] = NEVER
    hit[stated] = np.maximum(hit[stated], -1.0)
    last_stated = np.full(count, -LONGEST * 4)  # the last stated beat before each frame
    before = np.zeros(count, bool)
    before[stated] = True
    where = np.where(before, np.arange(count), -LONGEST * 4)
    last_stated[1:] = np.maximum.accumulate(where)[:-1]

    flat = periods.ravel()
    reach, size = int(flat.max()), flat.size
    ring = np.full((reach + 1, size), NEVER)  # by frame modulo: best score after a beat there, next interval p
    # where in the ring each interval's earlier beat is, for each frame modulo
    source_of = ((np.arange(reach + 1)[:, None] - flat) % (reach + 1)) * size + np.arange(size)
    first = np.log(1.0 / flat) + np.where(valid.ravel(), 0, NEVER)
    back = np.zeros((count, size), np.uint8)
    shape = periods.shape
    quiet = np.concatenate([[0.0], np.cumsum(rest)])  # quiet[t]: silence of frames before t
    flat_ring = ring.reshape(-1)
    block = int(flat.min())  # so many frames at once: a beat in them comes from before all of them
    for begin in range(0, count, _CHUNK):
        stop = min(count, begin + _CHUNK)
        spans = _interval_costs(evidence, rest, quiet, flat, begin, stop)
        spans += hit[begin:stop, None]
        if len(stated):
            spans[flat[None] > (np.arange(begin, stop) - last_stated[begin:stop])[:, None]] += NEVER
        for t in range(begin, stop, block):
            frames = np.arange(t, min(t + block, stop))
            slots = frames % (reach + 1)
            best = flat_ring[source_of[slots]]
            if t < reach:
                best = np.where(frames[:, None] < flat, first, best)
            best += spans[t - begin : t - begin + len(frames)]
            arriving = best.reshape(-1, number, 1, width) + change
            best_from = arriving.argmax(3)
            back[frames] = best_from.reshape(len(frames), size)
            ring[slots] = np.take_along_axis(arriving, best_from[..., None], 3).reshape(len(frames), size)
        tick(stop / count)
    closing = [ring[t % (reach + 1)] for t in range(max(0, count - reach), count)]
    return [
        _trace(evidence, fixed, w, shape, periods, back, closing, quiet, last_stated, stated) for w in range(number)
    ]


def quickest(evidence: PulseEvidence) -> Track:
    """The best path at a speed that is too quick for whole frames, from the evidence between them.

    Nobody counts so fast, but every second of its beats is a count that cannot slip from beats to off-beats."""
    count = len(evidence.beat)

    def between(curve: NDArray[np.floating]) -> NDArray[np.float32]:
        out = np.repeat(np.asarray(curve, np.float32), 2, axis=0)
        out[1:-1:2] = (out[:-2:2] + out[2::2]) / 2
        return out

    fine = replace(
        evidence,
        beat=between(evidence.beat),
        bar=between(evidence.bar),
        period=between(evidence.period),
        rate=2 * evidence.rate,
        begun=None,
    )
    return tracks(fine, (QUICKEST,))[0] if count > QUICKEST[1] else Track(np.zeros(0), 0.0)


def _frames(fixed: Fixed, count: int, rate: float) -> tuple[NDArray[np.int_], NDArray[np.bool_]]:
    """Frames of stated beats, and where no beat may be."""
    frame = np.round(np.array(fixed.beats, float) * rate).astype(int)
    frame = np.unique(frame[(frame >= 0) & (frame < count)])
    ban = np.zeros(count, bool)
    for start, end in fixed.gaps:
        a, b = round(start * rate), round(end * rate)
        ban[max(0, a + 1) : max(0, b)] = True
    ban[frame] = False
    return frame, ban


def _interval_costs(
    evidence: PulseEvidence,
    rest: NDArray[np.float64],
    quiet: NDArray[np.float64],
    flat: NDArray[np.int_],
    begin: int,
    stop: int,
) -> NDArray[np.float64]:
    """(stop - begin, intervals): what the frames between two beats say, for intervals that end at each frame."""
    reach = int(flat.max())
    low = max(0, begin - reach)
    classes = np.clip([period_class(60 * evidence.rate / p) for p in flat], 0, evidence.period.shape[1] - 1)
    left = np.minimum(np.floor(classes).astype(int), evidence.period.shape[1] - 2)
    part = classes - left
    opinion = evidence.period[low:stop].astype(np.float64)
    summed = np.concatenate([np.zeros((1, opinion.shape[1])), np.cumsum(opinion, axis=0)])
    t = np.arange(begin, stop)
    start = np.maximum(t[:, None] - flat, -1)  # the beat before, or the record's edge
    since = np.maximum(start, low - 1) + 1 - low
    upto = (t + 1 - low)[:, None]
    period = (summed[upto, left] - summed[since, left]) * (1 - part)
    period += (summed[upto, left + 1] - summed[since, left + 1]) * part
    out = PERIOD_WEIGHT * period + quiet[t][:, None] - quiet[start + 1]
    # frames next to a beat are half a beat themselves
    out -= 0.5 * np.where(t > 0, rest[np.maximum(t - 1, 0)], 0)[:, None]
    after = np.minimum(start + 1, len(rest) - 1)
    out -= 0.5 * np.where((start >= 0) & (start + 1 < t[:, None]), rest[after], 0)
    return np.asarray(out)


def _trace(
    evidence: PulseEvidence,
    fixed: Fixed,
    window: int,
    shape: tuple[int, ...],
    periods: NDArray[np.int_],
    back: NDArray[np.uint8],
    closing: list[NDArray[np.float64]],
    quiet: NDArray[np.float64],
    last_stated: NDArray[np.int_],
    stated: NDArray[np.int_],
) -> Track:
    count, width = len(back), shape[1]
    part = slice(window * width, (window + 1) * width)
    best, t, p = -np.inf, -1, 0
    for k, row in enumerate(closing):
        frame = count - len(closing) + k
        # the next beat would come after the end
        ahead = np.where(periods[window] + frame >= count, row[part], -np.inf) + quiet[count] - quiet[frame + 1]
        if len(stated) and stated[-1] > frame:
            continue
        if ahead.max() > best:
            best, t, p = float(ahead.max()), frame, int(ahead.argmax())
    found: list[int] = []
    while t >= 0:
        found.append(t)
        p = int(back[t, window * width + p])
        t -= int(periods[window, p])
    return Track(sharpened(np.array(found[::-1], int), evidence, fixed), best - float(quiet[count]))


def sharpened(frames: NDArray[np.int_], evidence: PulseEvidence, fixed: Fixed = Fixed()) -> Times:
    """Beat frames moved to the centre of gravity of the activation around them, in seconds; stated beats
    keep their time."""
    padded = np.pad(evidence.beat.astype(np.float64), 3)
    reach = np.arange(-2, 3)
    around = padded[frames[:, None] + 3 + reach] ** 2
    shift = (around * reach).sum(1) / (around.sum(1) + 1e-3)
    times = (frames + shift) / evidence.rate
    for beat in fixed.beats:
        i = int(np.abs(frames - beat * evidence.rate).argmin())
        if abs(frames[i] - beat * evidence.rate) <= 1:
            times[i] = beat
    return np.asarray(np.unique(np.maximum.accumulate(times)))
