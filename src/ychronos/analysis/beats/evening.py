"""An evening on one tape: several songs with talk and applause between them, each with a count of its own.

A song has one count; two songs of other speeds have not, and one count for both would be wrong for one of them. Between them the count goes on
in whole bars in which nobody plays, so that the tape has one grid. Conventions: seconds; evidence at 50 frames a second, chords at PITCH_RATE.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..chords.chordnet import HarmonyEvidence
from ..spectra import BAND_RATE, PITCH_RATE
from . import bars, count
from .pulsenet import PulseEvidence

# Ratios of the speeds at which parts of one song may be counted, and by which share they differ from them at most
OF_ONE_SONG, SAME_SPEED = (1.0, 3 / 2, 2.0, 3.0), 0.04
AROUND = 1.5  # seconds before and after a song that are looked at with it


def decide(
    pulse: PulseEvidence,
    harmony: HarmonyEvidence,
    sounding: NDArray[np.bool_],
    songs: list[tuple[float, float]],
    tick: Callable[[float], None] = lambda _: None,
) -> count.Count | None:
    """The count of a tape whose ``songs`` last from when to when; None where they are no more than one, or their speeds are those of one
    song, whose parts may be counted at half or double around a stop."""
    found: list[count.Count] = []
    for k, (start, end) in enumerate(songs if len(songs) > 1 else []):
        made = _of_one(pulse, harmony, sounding, start, end)
        if len(made.times) >= count.FEWEST:
            found.append(made)
        tick((k + 1) / len(songs))
    speeds = np.array([count.tempo_of(c.times) for c in found])
    if len(found) < 2 or all(_related(float(s / speeds[0])) for s in speeds[1:]):
        return None
    whole = found[0]
    for one in found[1:]:
        whole = _then(whole, one)
    return whole


def _related(ratio: float) -> bool:
    return any(abs(max(ratio, 1 / ratio) / r - 1) < SAME_SPEED for r in OF_ONE_SONG)


def _of_one(
    pulse: PulseEvidence, harmony: HarmonyEvidence, sounding: NDArray[np.bool_], start: float, end: float
) -> count.Count:
    """The count of one song, in seconds of the tape."""
    first, stop = max(0, int((start - AROUND) * BAND_RATE)), min(len(pulse.beat), int((end + AROUND) * BAND_RATE))
    seconds = first / BAND_RATE
    chords = slice(round(seconds * PITCH_RATE), round(stop / BAND_RATE * PITCH_RATE))
    changes = bars.ChordChanges(HarmonyEvidence(harmony.chord[chords], harmony.bass[chords], harmony.notes[chords]))
    times = np.arange(first, stop) / BAND_RATE
    heard = sounding[first:stop] & (times >= start - AROUND / 2) & (times <= end + AROUND / 2)
    made = count.decide(pulse.between(first, stop), changes, heard)
    return count.Count(made.times + seconds, made.bars)


def _then(before: count.Count, after: count.Count) -> count.Count:
    """One count and then another, with whole bars of the first one's length between them."""
    gap = float(np.median(np.diff(before.times[-5:])))
    size = int(bars.LENGTHS[before.bars.meter[-1]])
    pick_up = int(np.argmax(after.bars.position == 1))
    lacks = size - int(before.bars.position[-1])  # beats of a last bar that is not whole
    free = (after.times[0] - before.times[-1]) / gap - 1 + pick_up - lacks
    number = max(0, lacks + size * max(0, round(free / size)) - pick_up)
    between = np.linspace(before.times[-1], after.times[0], number + 2)[1:-1]
    filled = number + pick_up
    position = (int(before.bars.position[-1]) + np.arange(filled)) % size + 1
    rest = after.bars.since(pick_up)
    return count.Count(
        np.concatenate([before.times, between, after.times]),
        bars.Bars(
            np.concatenate([before.bars.position, position, rest.position]),
            np.concatenate([before.bars.meter, np.full(filled, before.bars.meter[-1]), rest.meter]),
            np.concatenate([before.bars.one, np.zeros(filled), rest.one]),
            before.bars.score + after.bars.score,
        ),
    )
