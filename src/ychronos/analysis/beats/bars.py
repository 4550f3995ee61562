"""Bar lines and meter: which of the beats are ones.

Evidence at each beat: the net's bar-line activation, and how much the chords before and after it differ, over
one and over two beats, against the beats beside it (players change chords on ones). Both go into one logistic
score, fitted on generated songs that the net had not seen. Method: a hidden Markov model over beats whose state
is a meter and the place in the bar. A bar normally runs to its end; ending early or a change of meter costs,
counting a meter at a speed nobody counts it costs too. What is stated is a hard constraint. Forward and
backward sums give each bar line's probability.
Conventions: beats by index; a bar begins on a beat.
"""

from __future__ import annotations

from collections.abc import Sequence, Set
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ...theory.meter import Meter
from ..chains import begins, best_paths
from ..chords.chordnet import HarmonyEvidence
from ..spectra import BAND_RATE, PITCH_RATE, running_sums, sums_at
from . import dividing
from .pulsenet import METERS, PulseEvidence

METER_WEIGHT = 0.04  # of the net's opinion, per beat; it leans to 4/4, the rest knows better
# Beats a minute within which each meter is counted; outside it costs, per beat and octave.
RANGES = tuple((150, 420) if eighth else (34, 150) if compound else (38, 240) for _, compound, eighth in METERS)
RANGE_COST = 1.0
TWO_COST = 0.15  # per beat of 2/4: rare, and where one and three are heard alike it hedges between two fours
CHANGE_COST, AMONG_COST = 9.0, 2.0  # of a change of meter, and of one among those counted in eighths
AROUND = 9  # beats whose median interval is the tempo at a place
SHORT_COST = 8.0  # for a bar that ends before its meter says; one that has a single beat costs more
LOYALTY, METER_LOYALTY = 1.0, 0.35  # log weight of a bar line and, per beat, of a meter that stand already
OTHER_COST = 0.25  # per beat in another meter than the song's
ODD_MARGIN = 0.12  # per beat, by which a song in five or seven must beat one in four; true ones do by .16 and more
BEATS_AT_ONCE = 8192  # whose chord chances are compared together
AT_ONCE = 5_000_000  # states of beats that are worked on together
TRIED = 3  # meters of a free path that are tried as the song's
USUAL_METERS = frozenset(i for i, (beats, _, eighth) in enumerate(METERS) if not eighth and beats in (3, 4))
COMMON_METERS = frozenset(i for i, (beats, _, eighth) in enumerate(METERS) if not eighth and beats in (2, 3, 4))
FLOOR = 0.01
BEGINS_WITHIN = 4  # frames around a beat in which something begins with it
MOMENT, CHANGED = 4, 0.35  # frames before and after a moment that are compared, and from which on a chord changes there
# of the bar-line activation's log odds; of the change of chord over one beat and over two, plain and against
# the larger of the neighbours'; constant
ONE_WEIGHTS = (0.72, 0.38, 0.45, -0.17, 3.84, 0.16)
IMPOSSIBLE = -1e6
_TWO = np.array([m == (2, False, False) for m in METERS], float)
_ODD = np.array([i not in COMMON_METERS for i in range(len(METERS))], float)[:, None]
_THREES = np.array([compound for _, compound, _ in METERS], float)
Floats = NDArray[np.float64]
Ints = NDArray[np.int_]

LENGTHS = np.array([m[0] for m in METERS])
LONGEST = int(LENGTHS.max())
_PLACE = np.arange(LONGEST)
_THERE = _PLACE[None] < LENGTHS[:, None]  # (meters, places): places that a meter has
_LAST = _PLACE[None] == LENGTHS[:, None] - 1


@dataclass(frozen=True)
class Fixed:
    """What is stated: beats that are ones, beats that are none, and the meter (index in METERS) from a beat up
    to another (exclusive). ``lines`` and ``standing`` are bar lines and meters as they stand after what was said:
    not stated, but where the evidence says little they stay. ``silent`` are beats of whose bars nothing is decided
    here: any will do."""

    ones: frozenset[int] = frozenset()
    others: frozenset[int] = frozenset()
    meters: tuple[tuple[int, int, int], ...] = ()
    lines: frozenset[int] = frozenset()
    standing: tuple[tuple[int, int, int], ...] = ()
    silent: frozenset[int] = frozenset()


@dataclass(frozen=True)
class Bars:
    """``position`` (n,) counts from 1 in each beat's bar, ``meter`` (n,) indexes METERS, ``one`` (n,) is the
    probability that a bar begins at each beat; ``score`` is the sum over bar lines of their log odds."""

    position: Ints
    meter: Ints
    one: Floats
    score: float = 0.0

    @property
    def usual_meter(self) -> int:
        """Index into METERS of the meter in which most beats are counted."""
        return int(np.bincount(self.meter, minlength=len(METERS)).argmax())

    def upto(self, end: int) -> Bars:
        """The first ``end`` beats."""
        return replace(self, position=self.position[:end], meter=self.meter[:end], one=self.one[:end])

    def since(self, start: int) -> Bars:
        """The beats from ``start`` on."""
        return replace(self, position=self.position[start:], meter=self.meter[start:], one=self.one[start:])

    def on(self, count: int) -> Bars:
        """The same with ``count`` beats more in the last bar."""
        return replace(
            self,
            position=np.append(self.position, self.position[-1] + np.arange(1, count + 1)),
            meter=np.append(self.meter, np.repeat(self.meter[-1:], count)),
            one=np.append(self.one, np.zeros(count)),
        )


def meter_of(index: int) -> Meter:
    beats, compound, eighth = METERS[index]
    return Meter(beats * 3, 8) if compound else Meter(beats, 8 if eighth else 4)


def meter_index(meter: Meter) -> int | None:
    """Place of a meter in METERS, or None when the analysis does not know it."""
    return next((i for i in range(len(METERS)) if meter_of(i) == meter), None)


def range_cost(tempo: float | Floats) -> Floats:
    """(..., meters) log weight per beat of counting each meter at so many beats a minute."""
    low, high = np.array(RANGES, float).T
    speed = np.asarray(tempo, float)[..., None]
    return (
        -RANGE_COST * np.asarray(np.maximum(0, np.maximum(np.log2(low / speed), np.log2(speed / high))))
        - TWO_COST * _TWO
    )


def at_beats(curve: NDArray[np.generic], beats: Floats, reach: int = 2) -> Floats:
    """Highest value of a 50 Hz curve within ``reach`` frames of each beat."""
    frames = np.clip(np.round(beats * BAND_RATE).astype(int), 0, len(curve) - 1)
    padded = np.pad(curve, reach)
    return np.asarray(padded[frames[:, None] + np.arange(2 * reach + 1)].max(1), np.float64)


def begins_at(begun: NDArray[np.floating], beats: Floats) -> Floats:
    """(n,) how much begins around each beat in all, in spreads from the mean of the record (``attacks.onsets``)."""
    return at_beats(begun.mean(1), beats, BEGINS_WITHIN)


def log_odds_at(curve: NDArray[np.floating], beats: Floats, reach: int = 2, floor: float = FLOOR) -> Floats:
    """Log odds of the highest chance of a 50 Hz curve around each beat; ``floor`` keeps them finite."""
    chance = np.clip(at_beats(curve, beats, reach), floor, 1 - floor)
    return np.asarray(np.log(chance / (1 - chance)))


class ChordChanges:
    """How much the chords of a recording change at given times; sums are kept for many questions."""

    def __init__(self, harmony: HarmonyEvidence) -> None:
        self.summed = running_sums(np.exp(np.asarray(harmony.chord, np.float32)))

    @cached_property
    def moments(self) -> tuple[Floats, Floats]:
        """When chords change, whatever the count, in seconds, and by how much: the peaks of the same over a third of a second."""
        frames = len(self.summed) - 1
        much = np.zeros(frames + 1)
        for first in range(0, frames + 1, BEATS_AT_ONCE):
            i = np.arange(first, min(frames + 1, first + BEATS_AT_ONCE))
            before = self.summed[i] - self.summed[np.maximum(0, i - MOMENT)]
            after = self.summed[np.minimum(frames, i + MOMENT)] - self.summed[i]
            much[i] = _other(before, after)
        around = np.lib.stride_tricks.sliding_window_view(np.pad(much, MOMENT), 2 * MOMENT + 1).max(1)
        there = np.flatnonzero((much > CHANGED) & (much == around))
        there = there[(there >= 2) & (there < frames - 1)]
        return np.asarray((there - 0.5) / PITCH_RATE, np.float64), much[there]

    def at(self, beats: Floats, reach: int) -> Floats:
        """(n,) 1 minus the overlap (Bhattacharyya) of the chord chances over ``reach`` beats before and after."""
        gap = float(np.median(np.diff(beats)))
        around = np.arange(1, reach + 1) * gap
        times = np.concatenate([beats[0] - around[::-1], beats, beats[-1] + around]) * PITCH_RATE + 0.5
        times = np.clip(times, 0, len(self.summed) - 1)
        out = np.empty(len(beats))
        for first in range(0, len(beats), BEATS_AT_ONCE):
            n = min(BEATS_AT_ONCE, len(beats) - first)
            sums = sums_at(self.summed, times[first : first + n + 2 * reach])
            before = sums[reach : reach + n] - sums[:n]
            after = sums[2 * reach : 2 * reach + n] - sums[reach : reach + n]
            out[first : first + n] = _other(before, after)
        return out


def _other(before: Floats, after: Floats) -> Floats:
    """(n,) 1 minus the overlap (Bhattacharyya) of two sums of chances (n, chords)."""
    before /= before.sum(1, keepdims=True) + 1e-9
    after /= after.sum(1, keepdims=True) + 1e-9
    return np.asarray(1 - np.sqrt(np.maximum(before * after, 0)).sum(1))


def _stands_out(values: Floats) -> Floats:
    """Each value against the larger of its neighbours."""
    padded = np.pad(values, 1)
    return np.asarray(values - np.maximum(padded[:-2], padded[2:]))


def log_odds_of_one(evidence: PulseEvidence, beats: Floats, changes: ChordChanges | None = None) -> Floats:
    """(n,) log odds that a bar begins at each beat, before meter is considered."""
    net = log_odds_at(evidence.bar, beats)
    if changes is None:
        return net
    near, wide = changes.at(beats, 1), changes.at(beats, 2)
    parts = np.stack([net, near, wide, _stands_out(near), _stands_out(wide), np.ones(len(beats))])
    return np.asarray(np.array(ONE_WEIGHTS) @ parts)


def said_of_meters(evidence: PulseEvidence, edges: Floats) -> Floats:
    """(n, meters) what the nets say for each meter in the beats between ``edges`` (n + 1,), and what begins in them."""
    frames = np.clip(np.round(edges * BAND_RATE).astype(int), 0, len(evidence.meter))
    sums = np.concatenate([np.zeros((1, len(METERS))), np.cumsum(evidence.meter, axis=0, dtype=np.float64)])
    opinion = (sums[frames[1:]] - sums[frames[:-1]]) / np.maximum(np.diff(frames), 1)[:, None]
    if evidence.begun is not None:
        opinion += dividing.in_threes(evidence.begun, edges)[:, None] * _THREES
    return np.asarray(METER_WEIGHT * opinion)


def observe(evidence: PulseEvidence, beats: Floats, odds: Floats, fixed: Fixed = Fixed()) -> Floats:
    """(n, meters, places) log weights of each state at each beat, whose log odds of being a one are ``odds``."""
    from scipy.ndimage import median_filter

    edges = np.append(beats, 2 * beats[-1] - beats[-2])
    local = median_filter(np.diff(edges), AROUND, mode="nearest")  # a part of a song may be counted in eighths
    by_meter = said_of_meters(evidence, edges) + range_cost(60 / np.maximum(local, 1e-3))
    out = np.repeat(by_meter[:, :, None], LONGEST, axis=2)
    out[:, :, 0] += -np.logaddexp(0, -odds)[:, None]
    out[:, :, 1:] += -np.logaddexp(0, odds)[:, None, None]
    out[:, ~_THERE] = -np.inf
    for i in fixed.silent:
        out[i][_THERE] = 0.0
    for i in fixed.lines:
        if 0 <= i < len(beats):
            out[i, :, 0] += LOYALTY
    for first, last, meter in fixed.standing:
        out[max(0, first) : last, meter] += METER_LOYALTY
    for i in fixed.ones:
        if 0 <= i < len(beats):
            out[i, :, 1:] += IMPOSSIBLE
    for i in fixed.others:
        if 0 <= i < len(beats):
            out[i, :, 0] += IMPOSSIBLE
    for first, last, meter in fixed.meters:
        others = np.arange(len(METERS)) != meter
        out[max(0, first) : last, others] += IMPOSSIBLE
    return out


# where a bar may end: always after its last beat, early at a cost
_LEAVING = np.where(_LAST, 0.0, np.where(_PLACE[None] == 0, -SHORT_COST - 3, -SHORT_COST))
_LEAVING = np.where(_THERE, _LEAVING, -np.inf)
_EIGHTHS = np.array([eighth for _, _, eighth in METERS])
_BETWEEN = np.where(_EIGHTHS[:, None] & _EIGHTHS[None], -AMONG_COST, -CHANGE_COST)
np.fill_diagonal(_BETWEEN, 0.0)


def decide(evidence: PulseEvidence, beats: Floats, changes: ChordChanges | None = None, fixed: Fixed = Fixed()) -> Bars:
    """Bars of a beat sequence with the probability of each bar line; needs at least two beats."""
    odds = log_odds_of_one(evidence, beats, changes)
    observed = observe(evidence, beats, odds, fixed)
    (path,) = best_paths([observed], _LEAVING, _BETWEEN)
    return replace(_bars(path, odds), one=begins(observed, _LEAVING, _BETWEEN))


def of_song(evidence: PulseEvidence, beats: Floats, changes: ChordChanges | None = None) -> Bars:
    """Bars of a whole song, nothing stated: one meter is the song's, and what else is in it must be heard plainly.

    Each of the meters that a free path counts most is tried as the song's; every beat in another one then costs, and a
    meter that hardly anybody writes in must be better by a margin at every beat: without this, bars of five and seven are
    what a count falls apart into where ones are not clear."""
    odds = log_odds_of_one(evidence, beats, changes)
    observed = observe(evidence, beats, odds)
    (usual,) = best_paths([_as_song_in(observed, USUAL_METERS)], _LEAVING, _BETWEEN)
    raised = made_clear(odds, usual % LONGEST == 0)
    if raised is not odds:
        odds, observed = raised, observe(evidence, beats, raised)
    (free,) = best_paths([observed], _LEAVING, _BETWEEN)
    counted = np.bincount(free // LONGEST, minlength=len(METERS))
    tried = sorted({int(m) for m in np.argsort(-counted)[:TRIED] if counted[m]} | USUAL_METERS)
    as_songs = [_as_song_in(observed, {meter}) for meter in tried]
    paths = best_paths(as_songs, _LEAVING, _BETWEEN)
    worth = [
        _worth(path, seen) - (0.0 if meter in COMMON_METERS else ODD_MARGIN * len(beats))
        for meter, path, seen in zip(tried, paths, as_songs, strict=True)
    ]
    best = int(np.argmax(worth))
    return replace(_bars(paths[best], odds), one=begins(as_songs[best], _LEAVING, _BETWEEN))


def _as_song_in(observed: Floats, meters: Set[int]) -> Floats:
    """Observations with what every beat in another meter costs."""
    out = observed.copy()
    out[:, [m for m in range(len(METERS)) if m not in meters]] -= OTHER_COST
    return out


def made_clear(odds: Floats, ones: NDArray[np.bool_]) -> Floats:
    """Log odds of ones, all raised until those at the usual ``ones`` are as likely as not on the whole. Where ones are
    not clear, every one costs, and the longest bars would win because they have the fewest."""
    mean = float(odds[ones].mean()) if ones.any() else 0.0
    return odds - mean if mean < 0 else odds


def _worth(path: Ints, observed: Floats) -> float:
    """Log weight of a path."""
    meter, place = path // LONGEST, path % LONGEST
    ends = np.flatnonzero(place[1:] == 0)
    there = observed[np.arange(len(path)), meter, place].sum()
    return float(there + _LEAVING[meter[ends], place[ends]].sum() + _BETWEEN[meter[ends], meter[ends + 1]].sum())


def decide_all(evidence: PulseEvidence, sequences: Sequence[Floats], changes: ChordChanges | None = None) -> list[Bars]:
    """Bars of several beat sequences, quicker than one by one; probabilities are left out. As in :func:`of_song`, a meter that hardly
    anybody writes in must be better by a margin at every beat."""
    out: list[Bars] = []
    longest = max((len(beats) for beats in sequences), default=1)
    many = max(1, AT_ONCE // (longest * len(METERS) * LONGEST))  # of hours of music only a few fit into memory
    for first in range(0, len(sequences), many):
        some = sequences[first : first + many]
        odds = [log_odds_of_one(evidence, beats, changes) for beats in some]
        observed = [observe(evidence, beats, o) - ODD_MARGIN * _ODD for beats, o in zip(some, odds, strict=True)]
        paths = best_paths(observed, _LEAVING, _BETWEEN)
        out += [_bars(path, o) for path, o in zip(paths, odds, strict=True)]
    return out


def _bars(path: Ints, odds: Floats) -> Bars:
    meter, place = path // LONGEST, path % LONGEST
    return Bars(place + 1, meter, np.zeros(len(path)), float(odds[place == 0].sum()))
