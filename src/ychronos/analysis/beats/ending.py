"""How a song ends: bars that only ring are not counted, a last bar is whole, and a band that slows down is followed to it.

Method: from the last firm beat on, beats go on as the last few did, each longer than the one before by the same
ratio; where a beat is struck near the place it should be, it is taken, and the beats on the way to it are spread so
that their lengths grow evenly. The last bar is counted to its end while it sounds. A bar line is heard where everybody stops, too:
a last bar in which nothing begins is none.
Conventions: times in seconds, activations at 50 frames a second.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..spectra import BAND_RATE
from . import bars
from .bars import Bars, ChordChanges, Floats, Ints
from .pulsenet import PulseEvidence

LAST_BAR_FLOOR, FEWEST_BARS = (0.4, 0.1), 3  # beat and bar-line activation of a last bar's one, else it is not played
# Seconds, or a share of the song, that may follow its last beat (a chord that rings, applause)
RINGS, REST = 10.0, 0.25
# Spreads from the mean of what begins: from which on a bar is struck plainly, and up to which nobody plays a whole one
PLAINLY, HELD = 1.0, -0.25
UNHEARD = 0.1  # seconds of a last bar before the record ends, up to which nothing of it can be heard
FIRM, STRUCK = 0.4, 0.3  # activation of a firm beat, and of one that is taken near its place
SLOWING = 1.008  # ratio of neighbouring intervals, from which on a band slows down
STEEPEST, NEAR, REACH = 1.12, 0.22, 12  # highest ratio; share of a beat; beats
# Log odds by which beats that are followed anew must be heard more than those that were counted; share of its length by which one may
# be shorter than the one before
CLEARLY, UNEVEN = 1.0, 0.1
TRIED = 3  # beats from which they are followed anew


def played(evidence: PulseEvidence, times: Floats, decided: Bars) -> tuple[Floats, Bars]:
    """A count without bars at the end that nobody begins: a last chord that rings on is not counted."""
    end = len(times)
    beat, one = bars.at_beats(evidence.beat, times), bars.at_beats(evidence.bar, times)
    ones = np.flatnonzero(decided.position == 1)
    while len(ones) > FEWEST_BARS and beat[ones[-1]] < LAST_BAR_FLOOR[0] and one[ones[-1]] < LAST_BAR_FLOOR[1]:
        end, ones = int(ones[-1]), ones[:-1]
    if not _may_end(times, end - 1):
        return times, decided
    return times[:end], decided.upto(end)


def _may_end(times: Floats, last: int) -> bool:
    """Whether the song may end with a beat: where nobody is firm for longer than that, beats are weak, which tells nothing of the end."""
    return bool(times[-1] - times[last] <= max(RINGS, REST * (times[-1] - times[0])))


def slowed(evidence: PulseEvidence, times: Floats, sounding: NDArray[np.bool_] | None = None) -> Floats:
    """Beats that follow a band which slows down at the end; as they are where it does not."""
    firm = np.flatnonzero(bars.at_beats(evidence.beat, times) >= FIRM)
    if len(firm) < 8 or firm[-1] < 8 or not _may_end(times, int(firm[-1])):
        return times
    heard = np.flatnonzero(sounding) if sounding is not None else np.zeros(0, int)
    end = (int(heard[-1]) if len(heard) else len(evidence.beat)) / BAND_RATE
    anew = _beside(evidence, times, firm, end)
    if anew is not None:
        return anew
    for last in range(int(firm[-1]), max(7, int(firm[-1]) - 3), -1):
        # a lone peak that the tracker took for a beat does not say how the band slows
        ratio = _slowing(times, last)
        if ratio:
            return _follow(evidence, times[: last + 1], min(ratio, STEEPEST), end)
    return times


def _slowing(times: Floats, last: int) -> float:
    """The ratio of neighbouring intervals before a beat, if the band slows down there, else 0."""
    gaps = np.diff(times[last - 4 : last + 1])
    ratio = float((gaps[-1] / gaps[0]) ** (1 / 3))
    return ratio if ratio >= SLOWING and bool(np.all(np.diff(gaps) > -0.03 * gaps[:-1])) else 0.0


def _beside(evidence: PulseEvidence, times: Floats, firm: Ints, end: float) -> Floats | None:
    """The beats, followed anew from four ``firm`` ones, the last that follow each other or a little before, where the count goes on
    beside what is struck then, else None: a band that slows down at once may be counted on at its old speed, with a beat too many."""
    runs = firm[3:][firm[3:] - firm[:-3] == 3]
    struck = int(firm[-1])
    for last in runs[::-1][:TRIED].tolist():
        if not max(8, struck - REACH) <= last < struck - 1:
            continue
        gap = float(times[last] - times[last - 1])
        followed = _follow(evidence, times[: last + 1], 1.0, end)
        old = times[last + 1 : struck + 1]
        new = followed[last + 1 :][followed[last + 1 :] <= times[struck] + NEAR * gap]
        gaps = np.diff(np.concatenate([[times[last] - gap, times[last]], new]))
        if not 0 < len(new) <= len(old) or np.any(np.diff(gaps) < -UNEVEN * gaps[:-1]):
            continue
        odds = [float(bars.log_odds_at(evidence.beat, t, 2).mean()) for t in (old, new)]
        if odds[1] > odds[0] + CLEARLY:
            return followed
    return None


def _follow(evidence: PulseEvidence, times: Floats, ratio: float, end: float) -> Floats:
    """Beats that go on from ``times`` as the last few did, each longer than the one before by a ratio that what is struck tells."""
    found = list(times)
    gap, pending = float(times[-1] - times[-2]), 0
    for _ in range(REACH):
        gap *= ratio
        place = found[-1] + gap
        if place > end:
            break
        found.append(place)
        pending += 1
        struck = _struck(evidence, place, NEAR * gap)
        if struck is not None:
            start = len(found) - 1 - pending
            ratio = _spread(found, start, struck)
            gap, pending = found[-1] - found[-2], 0
    return np.array(found)


def _struck(evidence: PulseEvidence, place: float, reach: float) -> float | None:
    """Where a beat is struck within ``reach`` of a place."""
    first, stop = max(0, round((place - reach) * BAND_RATE)), round((place + reach) * BAND_RATE) + 1
    part = evidence.beat[first:stop]
    if not len(part) or part.max() < STRUCK:
        return None
    return (first + int(part.argmax())) / BAND_RATE


def _spread(found: list[float], start: int, arrival: float) -> float:
    """Place the beats after ``start`` so that the last is at ``arrival`` and lengths grow evenly; the ratio."""
    count = len(found) - 1 - start
    gap, whole = found[start] - found[start - 1], arrival - found[start]
    low, high = 0.85, 1.3
    for _ in range(30):
        middle = (low + high) / 2
        low, high = (middle, high) if gap * sum(middle**k for k in range(1, count + 1)) < whole else (low, middle)
    at = found[start]
    for k in range(1, count + 1):
        at += gap * low**k
        found[start + k] = at
    found[-1] = arrival
    return float(np.clip(low, 1.0, STEEPEST))


def decide(
    evidence: PulseEvidence,
    times: Floats,
    decided: Bars,
    changes: ChordChanges | None,
    sounding: NDArray[np.bool_] | None = None,
) -> tuple[Floats, Bars]:
    """A count with its ending as it is played."""
    followed = slowed(evidence, times, sounding)
    if len(followed) != len(times) or not np.allclose(followed, times):
        again = bars.of_song(evidence, followed, changes)
        return last_bar(evidence, *whole_bar(evidence, followed, again))
    return last_bar(evidence, *played(evidence, times, decided))


def last_bar(evidence: PulseEvidence, times: Floats, decided: Bars) -> tuple[Floats, Bars]:
    """A count whose last bar is left out where at none of its beats more begins than on the mean of the record, as everybody has stopped
    then (of a whole bar clearly less, as a last chord may be held), and where the record is cut as it begins. If it has too few beats
    and is plainly struck, it is counted on to its end as far as the record goes."""
    ones = np.flatnonzero(decided.position == 1)
    if len(ones) <= FEWEST_BARS or evidence.begun is None:
        return times, decided
    one = int(ones[-1])
    lacks = int(bars.LENGTHS[decided.meter[one]]) - (len(times) - one)
    begins, end = float(bars.begins_at(evidence.begun, times[one:]).max()), len(evidence.beat) / BAND_RATE
    if begins <= (0 if lacks > 0 else HELD) or times[one] > end - UNHEARD:
        return times[:one], decided.upto(one)
    if lacks <= 0 or begins < PLAINLY:
        return times, decided
    more = times[-1] + np.arange(1, lacks + 1) * float(np.median(np.diff(times[-5:])))
    more = more[more < end]
    return np.append(times, more), decided.on(len(more))


def whole_bar(evidence: PulseEvidence, times: Floats, decided: Bars) -> tuple[Floats, Bars]:
    """A count up to the end of the bar in which the last beat is struck."""
    strength = bars.at_beats(evidence.beat, times)
    last = int(np.flatnonzero(strength >= STRUCK)[-1])
    later = np.flatnonzero(decided.position[last + 1 :] == 1)
    end = last + 1 + int(later[0]) if len(later) else len(times)
    return times[:end], decided.upto(end)
