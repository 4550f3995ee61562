"""What is usual in a song, by a first look at its chords: where in the bar they change, which they are, whether they have sevenths.

Method: shares counted in a first path, against what is usual in songs; a difference of log odds, bounded, because the first path
has its errors. Conventions: ``chords`` are indexes into :data:`chordnet.CHORDS`, one for each segment; a segment is part of a beat.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from .chordnet import CHORDS

CHANGE_COST, OFF_BEAT_COST, BAR_LINE_GAIN = 6.0, 2.0, 1.0
# How often a chord begins on a bar line, on another beat, off the beat, by what a change costs there
USUAL_CHANGES = (
    (CHANGE_COST - BAR_LINE_GAIN, CHANGE_COST, CHANGE_COST + OFF_BEAT_COST),
    (0.55, 0.15, 0.02),
)
USUAL_BARS = 6.0  # what is usual counts as much as that many bars of the song
MOST_RHYTHM = 3.5  # cost that a change gains or loses at most
LEAST_BARS = 4  # in which there is a habit
COLOUR_WEIGHT = 0.7  # of how usual chords of four and more notes are
# Share of the time on such chords at which they gain nothing, and bound of the share
USUAL_COLOUR, LEAST_COLOUR = 0.35, 0.05
# Gain of a chord by its share of the song's time, over one that is in it for no more than FAMILIAR of it, and at most
FAMILIAR_WEIGHT, FAMILIAR, MOST_FAMILIAR = 0.2, 0.04, 2.0
Floats = NDArray[np.float64]
_SOUNDS = np.array([c.root is not None for c in CHORDS])
_COLOURED = np.array([float(len(c.pitch_classes) >= 4) for c in CHORDS])


def costs(on_beat: NDArray[np.bool_], on_one: NDArray[np.bool_]) -> Floats:
    """(segments,) what a change of chord costs before anything is known of the song."""
    return np.asarray(CHANGE_COST + OFF_BEAT_COST * ~on_beat - BAR_LINE_GAIN * on_one)


def rhythm(path: NDArray[np.int_], cost: Floats, groups: Sequence[Sequence[int]]) -> Floats:
    """(segments,) what a change costs more, or less, by how often ``path`` changed at the same place of bars of the same length:
    harmony has its rhythm too, and who moves it by half bars mostly does so throughout. ``groups`` are the segments of each bar."""
    out = np.zeros(len(cost))
    if len(groups) < LEAST_BARS:
        return out
    changes = np.diff(path, prepend=path[:1]) != 0
    places: dict[tuple[int, int, float], list[int]] = {}
    for group in groups:
        for place, segment in enumerate(group):
            places.setdefault((len(group), place, float(cost[segment])), []).append(segment)
    for (_, _, before), segments in places.items():
        usual = float(np.interp(before, *USUAL_CHANGES))
        share = (changes[segments].sum() + USUAL_BARS * usual) / (len(segments) + USUAL_BARS)
        out[segments] = -np.clip(_against(share, usual), -MOST_RHYTHM, MOST_RHYTHM)
    return out


def familiar(chords: NDArray[np.int_], seconds: Floats) -> Floats:
    """(len(CHORDS),) what a chord gains that is often in the song: songs are made of few chords."""
    time = np.bincount(chords, weights=seconds, minlength=len(CHORDS))
    gain = np.log1p(time / max(float(time.sum()), 1e-6) / FAMILIAR)
    gain[~_SOUNDS] = 0.0  # that nobody plays is no habit
    return np.asarray(FAMILIAR_WEIGHT * np.minimum(gain, MOST_FAMILIAR))


def colour(chords: NDArray[np.int_], seconds: Floats) -> Floats:
    """(len(CHORDS),) what chords of four and more notes gain or lose, by their share of the time: who plays sevenths mostly plays
    them throughout, and one that is hardly heard is rather there."""
    sounding = seconds * _SOUNDS[chords]
    share = float((sounding * _COLOURED[chords]).sum() / max(float(sounding.sum()), 1e-6))
    share = min(1 - LEAST_COLOUR, max(LEAST_COLOUR, share))
    return np.asarray(COLOUR_WEIGHT * _against(share, USUAL_COLOUR) * _COLOURED)


def _against(share: float, usual: float) -> float:
    """Log odds of a share against those of what is usual."""
    return float(np.log(share / (1 - share)) - np.log(usual / (1 - usual)))
