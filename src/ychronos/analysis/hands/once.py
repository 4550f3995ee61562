"""Chords that are struck once by everybody who plays, or by all but the drums: left to ring, or cut short.

Method: for the first second of each chord the level of three groups of bands and how much begins, against the song's usual strong stroke; how
far the bands fall, at once and in all, against what they do at the chords beside; how steep the steepest fall is, and how loud it is after
that; whether the nets hear no chord, no bass and nobody who plays in what is left of it. A small net (``training/fit_once.py``) on songs with
chords that are marked so. Where a rest is so long that it is written as "no chord", nothing is said to be cut short.
Conventions: frames of bands at 50 a second, times in seconds, levels in tens of decibels.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from ...song.model import Song
from .. import net
from ..attacks import rising, usual
from ..evidence import Evidence
from ..spectra import BAND_RATE, PITCH_RATE

Floats = NDArray[np.float64]
SHORTEST = 0.42  # seconds of a chord that can be told
REST, EARLY = 0.34, 0.2  # seconds after the stroke from which on it is looked at what is left, and for how long first
FREE = 0.06  # seconds before the next chord that belong to it already
STEPS = 22  # of two frames, from two frames before the stroke on
GROUPS = 3
BEGUN = 0.3  # of a usual strong stroke: something begins
OWN, BESIDE = 9, 4  # numbers of a chord by itself, and chords to either side that are looked at
SAMPLE = 4000  # frames of a song that tell what is usual in it
PLAYED = BAND_RATE / 2  # frames a second of who plays
WIDTH = OWN + 2 + (GROUPS + 1) * STEPS + 2 + 4
LONG = 6  # which of its own numbers is how long a chord is


@dataclass(frozen=True)
class Heard:
    """What is looked at: bands (T, k); how much begins (T,); how much surer than any chord it is that there is none, and that there
    is no bass, and the loudness of notes (frames of pitch,); how likely somebody plays (half of T,)."""

    bands: NDArray[np.floating]
    begun: Floats
    none: Floats
    no_bass: Floats
    notes: Floats
    plays: Floats

    @cached_property
    def typical(self) -> tuple[Floats, Floats, float]:
        """Level of each band, (k,) and of each group where it is rather loud, (GROUPS,); loudness of notes."""
        some = self.level(slice(None, None, max(1, len(self.bands) // SAMPLE)))
        return np.median(some, 0), np.percentile(grouped(some), 75, axis=0), float(np.median(self.notes))

    def level(self, frames: slice) -> Floats:
        """(frames, k) level of bands."""
        return np.asarray(2 * np.log10(self.bands[frames].astype(np.float64) + self._least), np.float64)

    @cached_property
    def _least(self) -> float:
        step = max(1, len(self.bands) // SAMPLE)
        return 1e-4 * float(np.percentile(self.bands[::step].astype(np.float32).mean(1), 95)) + 1e-9


def grouped(level: Floats) -> Floats:
    """(..., GROUPS) means of bands (..., k): low, middle and high ones."""
    k = level.shape[-1]
    edges = (0, int(0.3 * k), int(0.65 * k), k)
    return np.stack([level[..., a:b].mean(-1) for a, b in zip(edges, edges[1:], strict=False)], axis=-1)


def begins(bands: NDArray[np.floating]) -> Floats:
    """(T,) how much begins, 1 being a usual strong stroke."""
    bands = bands.astype(np.float32)
    rise = rising(bands, np.percentile(bands.mean(1), 95) + 1e-9)[1].mean(1)
    return np.asarray(rise / (usual(rise) + 1e-3), np.float64)


def listen(evidence: Evidence) -> Heard:
    """What is looked at of a recording."""
    none = evidence.chord[:, -1] - evidence.chord[:, :-1].max(1)
    notes = np.asarray(evidence.notes, np.float32).mean(1)
    notes = np.log(notes + 1e-3 * np.percentile(notes, 95) + 1e-9)
    return Heard(
        evidence.bands,
        begins(evidence.bands),
        np.asarray(np.clip(none, -12, 12) / 4, np.float64),
        np.asarray(np.clip(evidence.bass[:, -1], -12, 3) / 4, np.float64),
        np.asarray(notes, np.float64),
        np.asarray(evidence.voices[:, 1], np.float64),
    )


Span = tuple[float, float]
Rows = dict[Span, Floats]


def features(heard: Heard, spans: Sequence[Span], beat: float, known: Rows | None = None) -> Floats:
    """(spans, n) of chords that sound from one time to another, in order; rows of chords too short to tell are NaN. ``beat`` in
    seconds; ``known`` keeps what was seen of chords by themselves from one decision to the next."""
    known = {} if known is None else known
    before = dict(known)  # another decision may be under way
    seen = {span: before[span] if span in before else _alone(heard, *span) for span in dict.fromkeys(spans)}
    known.clear()
    known.update(seen)
    rows = np.array([seen[span] for span in spans]).reshape(len(spans), WIDTH)
    rows[:, LONG] -= np.log(beat)
    told = ~np.isnan(rows[:, 0])
    for k in np.flatnonzero(told).tolist():
        near = [i for i in range(max(0, k - BESIDE), min(len(rows), k + BESIDE + 1)) if i != k and told[i]]
        rows[k, OWN : OWN + 2] = np.median(rows[near][:, [0, 2]], axis=0) if near else 0.0
    return rows


def _alone(heard: Heard, start: float, end: float) -> Floats:
    """(WIDTH,) of one chord, but for those beside it."""
    row = np.full(WIDTH, np.nan)
    first, last = round(start * BAND_RATE), min(len(heard.bands), round((end - FREE) * BAND_RATE))
    rest = first + int(REST * BAND_RATE)
    if end - start < SHORTEST or first < 0 or last - rest < 3:
        return row
    usual, loud, notes = heard.typical
    few = slice(1, int(0.7 * len(usual)))  # above them are cymbals
    begin = max(0, first - 2)
    level = heard.level(slice(begin, last))
    row[:OWN] = _falls(level[:, few] - usual[few], heard.begun, begin, first, rest, end - start)
    row[OWN + 2 : -4] = _course(level, loud, heard.begun, begin, first, last)
    row[-4:] = _left(heard, notes, start + 0.3, end - FREE)
    return row


def _falls(level: Floats, begun: Floats, begin: int, first: int, rest: int, long: float) -> list[float]:
    """How bands, against what is usual, fall from the stroke on."""
    at, later = first - begin, level[rest - begin :]
    head = level[max(0, at - 1) : at + 8].max(0)
    left = np.median(later, 0)
    early = np.median(later[: int(EARLY * BAND_RATE)], 0)
    mean = level.mean(1)
    steepest, after = 0.0, float(np.median(mean[rest - begin :]))
    window = mean[at + 1 : min(at + 36, len(mean) - 7) + 12]
    if len(window) >= 16:
        before = sliding_window_view(window, 3)[: len(window) - 14].mean(1)
        soon = np.median(sliding_window_view(window[7:], 8), 1)[: len(before)]
        fall = before[: len(soon)] - soon
        best = int(fall.argmax())
        steepest, after = float(fall[best]), float(np.median(mean[at + best + 8 :]))
    inside = begun[first + 10 : begin + len(level)]
    most, often = float(inside.max(initial=0.0)), float((inside > BEGUN).mean()) if len(inside) else 0.0
    return [
        float((head - left).mean()), float((head - early).mean()), float(left.mean()),
        float(np.percentile(later, 20, axis=0).mean()), float(np.log(most + 0.05)), 5 * often, float(np.log(long)), steepest, after,
    ]  # fmt: skip


def _course(level: Floats, loud: Floats, begun: Floats, begin: int, first: int, last: int) -> Floats:
    """The first moments of a chord: level of the groups and how much begins, step by step; how long it is."""
    at = np.clip(np.minimum(first - 2 + 2 * np.arange(STEPS), last - 1) - begin, 0, len(level) - 1)
    whole = begun[max(0, begin - 1) : begin + len(level) + 2]
    near = np.maximum(whole, np.maximum(np.append(whole[1:], 0), np.append(0, whole[:-1])))
    on = near[np.clip(at + (1 if begin else 0), 0, len(near) - 1)]
    long = (last - first) / BAND_RATE
    return np.concatenate(
        [(grouped(level[at]) - loud).T.ravel(), np.log(on + 0.05), [min(1.0, long / 0.88), np.log(long)]]
    )


def _left(heard: Heard, notes: float, start: float, end: float) -> list[float]:
    """What the nets hear, and how loud notes are, between two times."""

    def mean(values: Floats, rate: float) -> float:
        first = min(int(start * rate), len(values) - 1)
        return float(values[first : max(first + 1, int(end * rate))].mean())

    plays = min(max(mean(heard.plays, PLAYED), 1e-3), 1 - 1e-3)
    odds = np.log(plays / (1 - plays)) / 3
    return [
        mean(heard.none, PITCH_RATE),
        float(odds),
        mean(heard.notes, PITCH_RATE) - notes,
        mean(heard.no_bass, PITCH_RATE),
    ]


def spans_of(song: Song) -> list[Span]:
    """From when to when each chord sounds."""
    return list(pairwise(song.grid.clock(p) for p in (*song.chord_starts, song.grid.end)))


def struck_once(song: Song, evidence: Evidence) -> Floats:
    """(chords, 2) how likely each chord of a song is left to ring, and cut short; 0 where that cannot be told and where nobody plays."""
    heard = evidence.kept.get("once", None, lambda: listen(evidence), 1)
    known: Rows = evidence.kept.get("once by chord", None, dict, 1)
    rows = features(heard, spans_of(song), 60 / song.grid.tempo(), known)
    none = np.array([c.chord.is_none for c in song.chords])
    told = ~np.isnan(rows[:, 0]) & ~none
    chances = np.zeros((len(rows), 2))
    if told.any():
        chances[told] = net.chances("once", rows[told])
    chances[np.append(none[1:], False), 1] = 0.0  # the rest is written as one
    return chances
