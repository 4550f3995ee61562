"""Hum of the mains: a tone that never stops and its multiples, taken out of a pitch spectrum before notes are looked for in it.

Method: what of each bin is there all the while is the least of it over the record (minimum statistics: Martin, IEEE TSAP 9, 2001); where that stands
out at the mains' frequency and its multiples, it is taken away there, power from power. Notes come and go, so that theirs is little.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..audio.recording import ANALYSIS_RATE as RATE
from .spectra import BINS, LOWEST_MIDI, PITCH_BINS, Array, window_of

MAINS = (50.0, 60.0)  # Hz
ALWAYS, LOOKED_AT = 10, 600  # percentile of a bin's frames that is there all the while; frames that tell
AUDIBLE = 0.1  # share of what sounds on the mean, below which nothing is there
TOLD_BY, REMOVED = 4, 12  # multiples that tell, and that are taken away
CLEARLY, MOST = (
    3.0,
    2.5,
)  # sum of natural logarithms by which those stand out (92 songs without any: 1.5); what one of them says at most
NEAR = 0.8  # bins from its place, within which a multiple is highest: a held G is a third of a semitone below that of 50 Hz
BESIDE = (-9, -8, -7, -6, 6, 7, 8, 9)  # bins with which they are compared
LOBE = 2.2  # bins of a Fourier transform to either side that a tone fills through the window


def removed(pitch: Array, cents: float) -> Array:
    """A pitch spectrum (T, PITCH_BINS), tuned ``cents`` away, without hum; itself where there is none."""
    some = pitch[:: max(1, len(pitch) // LOOKED_AT)]
    always = np.percentile(some, ALWAYS, axis=0)
    floor = AUDIBLE * float(some.mean())
    mains, clearly = max(((f, _stands_out(always, floor, f, cents)) for f in MAINS), key=lambda x: x[1])
    if clearly < CLEARLY:
        return pitch
    frequencies = 440 * 2 ** ((LOWEST_MIDI + (np.arange(PITCH_BINS) - 1) / BINS + cents / 100 - 69) / 12)
    width = LOBE * RATE / window_of(np.arange(PITCH_BINS))
    nearest = mains * np.clip(np.round(frequencies / mains), 1, REMOVED)
    hums = np.abs(frequencies - nearest) <= width
    out = pitch.copy()
    out[:, hums] = np.sqrt(np.maximum(0, pitch[:, hums] ** 2 - always[hums] ** 2))
    return out


def _stands_out(always: NDArray[np.floating], floor: float, mains: float, cents: float) -> float:
    """By how much what is always there, if it is more than ``floor``, is more at a frequency and its multiples than beside them: a sum of
    natural logarithms."""
    out = 0.0
    for multiple in range(1, TOLD_BY + 1):
        place = BINS * (12 * np.log2(mains * multiple / 440) + 69 - LOWEST_MIDI - cents / 100) + 1
        at = round(place)
        highest = at - 2 + int(always[at - 2 : at + 3].argmax())
        beside = np.median([always[at + k] for k in BESIDE if at + k >= 0])
        if abs(highest - place) <= NEAR and always[highest] > floor:
            out += min(MOST, float(np.log((always[highest] + 1e-9) / (beside + 1e-9))))
    return out
