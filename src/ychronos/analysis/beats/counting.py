"""The grid of a song: the count put into bars, and bars before the music that carry numbers below 1."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from ...song.grid import Grid
from ...song.model import ChordSpan, Song
from ...song.track import Track
from ..evidence import AnalysisError, Evidence
from . import bars, count, grouping, recount

SOUND_FLOOR = 0.02  # loudness, relative to the loud parts, below which nobody plays


def find_grid(evidence: Evidence, tick: Callable[[float], None] = lambda _: None) -> Grid:
    """Beats and bars of the part of the record in which somebody plays."""
    pulse_evidence, changes = evidence.pulse, evidence.changes
    found = count.decide(pulse_evidence, changes, loud_enough(evidence), tick)
    times = found.times
    if len(times) < 3:
        raise AnalysisError("No count can be found in this recording: hardly anything in it repeats in time.")
    return grouping.decide(recount.grid_of(found.bars, times, end_of(times)), pulse_evidence, changes)


def loud_enough(evidence: Evidence) -> NDArray[np.bool_]:
    """(T,) where somebody plays."""
    loud = evidence.bands.astype(np.float32).sum(1)
    return np.asarray(loud > SOUND_FLOOR * np.percentile(loud, 90))


def end_of(times: bars.Floats) -> float:
    """Where the last beat ends."""
    return float(times[-1] + np.median(np.diff(times[-5:])))


def with_lead_in(song: Song, chords: Track[ChordSpan]) -> Song:
    """Bars at the start in which nobody plays a chord are the count-in and get numbers below 1."""
    grid = song.grid
    if chords[0].chord.is_none and len(chords) > 1:
        begins = chords[1].start
        silent = sum(1 for i in range(len(grid.bars)) if grid.bar_range(i)[1] <= begins + Fraction(1, 2))
        if grid.lead_in < silent <= 2 and silent < len(grid.bars):
            return replace(song, grid=replace(grid, lead_in=silent))
    return song
