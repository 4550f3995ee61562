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
from ...tongue import tr
from ..evidence import AnalysisError, Evidence
from ..kept import is_large
from . import bars, count, evening, grouping, playing, recount


def find_grid(evidence: Evidence, tick: Callable[[float], None] = lambda _: None) -> Grid:
    """Beats and bars of the part of the record in which somebody plays."""
    changes = evidence.changes
    found = of_several_songs(evidence, tick)
    if found is None:
        found = count.chosen(evidence.pulse, weigh(evidence, changes, tick), changes, somebody_plays(evidence))
    if len(found.times) < 3:
        raise AnalysisError(tr("No count can be found in this recording: hardly anything in it repeats in time."))
    return grid_of(found, evidence, changes)


def of_several_songs(evidence: Evidence, tick: Callable[[float], None] = lambda _: None) -> count.Count | None:
    """The count of a tape of several songs of other speeds, None for one song; kept with the evidence."""
    return evidence.kept.get(
        "count of several songs",
        None,
        lambda: evening.decide(
            evidence.pulse, evidence.harmony, somebody_plays(evidence), playing.songs(evidence.voices[:, 1]), tick
        ),
        1,
    )


def weigh(
    evidence: Evidence, changes: bars.ChordChanges, tick: Callable[[float], None] = lambda _: None
) -> count.Weighed:
    """What may be counted; kept with the evidence, so that what else it could be need not be worked out anew."""
    last = 0 if is_large(evidence.harmony.chord) else 1
    return evidence.kept.get(
        "weighed counts",
        None,
        lambda: count.weigh(evidence.pulse, changes, somebody_plays(evidence), tick),
        last,
    )


def grid_of(found: count.Count, evidence: Evidence, changes: bars.ChordChanges) -> Grid:
    """The grid of a count, with groupings."""
    return grouping.decide(recount.grid_of(found.bars, found.times, end_of(found.times)), evidence.pulse, changes)


def somebody_plays(evidence: Evidence) -> NDArray[np.bool_]:
    """(T,) where somebody plays; kept with the evidence, as it is asked by many."""
    return evidence.kept.get(
        "where somebody plays",
        None,
        lambda: playing.where(evidence.bands, evidence.beat, evidence.voices[:, 1]),
        1,
    )


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
