"""How a song begins: with a record that begins at once, or after a crowd, in which nobody has struck a beat yet.

Nothing comes before what begins with the record, so that the nets hear it less surely; and where a song begins after a
noise, they hear the beats that would come before it. Conventions: times in seconds, activations at 50 frames a second.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..spectra import BAND_RATE
from . import bars
from .bars import Bars, Floats
from .ending import FEWEST_BARS
from .pulsenet import PulseEvidence

FIRST_BEAT_FLOOR = 0.2  # activation that a first beat must have
AT_ONCE, EXACTLY = 0.06, 0.025  # seconds from the beginning of the record within which music begins with it
MOST_BEFORE = 4  # beats that are counted back to it


def from_the_start(times: Floats, evidence: PulseEvidence, sounding: NDArray[np.bool_] | None = None) -> Floats:
    """The beats with those before the first, a few at most, where they reach back to the very beginning of the record and somebody
    plays there. Where the count meets the beginning as exactly as a record does that was cut, or made, on a bar line, it need not be
    heard as a beat."""
    if len(times) < 3:
        return times
    first = times[:9]
    half = len(first) // 2
    gap = float(np.median(first[half:] - first[:-half])) / half
    steady = float(np.median(first - gap * np.arange(len(first))))  # one beat alone may be a little beside
    more = round(steady / gap)
    early = steady - more * gap
    if not 1 <= more <= MOST_BEFORE or abs(early) > AT_ONCE:
        return times
    frames = evidence.beat[: max(1, int((early + AT_ONCE) * BAND_RATE) + 1)]
    if sounding is not None and not sounding[: len(frames)].any():
        return times
    if frames.max() > FIRST_BEAT_FLOOR:
        early = float(frames.argmax()) / BAND_RATE
    elif abs(early) > EXACTLY:
        return times
    return np.concatenate([np.linspace(max(0.0, early), times[0], more, endpoint=False), times])


def first_bar(evidence: PulseEvidence, times: Floats, decided: Bars) -> tuple[Floats, Bars]:
    """A count without the beats of a pick-up, and without bars, before the first beat at which more begins than on the mean of the
    record. What begins with the record rises from nothing that could be seen, so that its beats stay."""
    if evidence.begun is None or times[0] < AT_ONCE:
        return times, decided
    struck = bars.begins_at(evidence.begun, times) > 0
    ones = np.flatnonzero(decided.position == 1)
    first = int(struck.argmax())
    before = ones[ones <= first]
    start = int(before[-1]) if len(before) else first
    if not start or len(ones) - len(before) < FEWEST_BARS:
        return times, decided
    return times[start:], decided.since(start)
