"""Recordings made to a click: one tempo from end to end, told by the sound alone, and the grid of its quickest pulse.

Method: the beat activation's spectrum has a line at the quickest pulse of a band that plays to a click; the phase of that
line, taken in stretches of a few seconds, is then the same throughout. How well the phases agree (the length of their
mean, weighted by how plain the pulse is there) tells: .96 and more on produced music with a machine's tempo, up to .95 on
bands that keep their own (docs/analysis.md). Beats of such a recording are every second, third ... point of one grid,
so that a count cannot slip. Where the phases agree a little less, the points are candidates beside the tracks.
Conventions: evidence at 50 frames a second, times in seconds.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from . import pulse
from .pulsenet import PulseEvidence

STRETCH = 4.0  # seconds whose phase is taken together
FEWEST_STRETCHES = 8
AROUND = 0.03  # of a tempo, within which its line is searched
TIMES = (1, 2, 3, 4)  # pulses in a beat that are tried
SLOWEST, QUICKEST = 1.0, 8.2  # pulses a second
AGREEMENT = 0.96  # of the phases of all stretches
MOSTLY = 0.93  # of them, where a part of the recording is free, or where few strokes are heard
LOUDEST = 3.0  # of what begins, in spreads from its mean, beyond which it makes no difference
PLAIN = 8.0  # mean size of the line in a stretch, below which its phase says nothing
ON_POINT = 0.03  # seconds from a point within which a stroke is on it
STRUCK = 0.1  # of the activation's root, above its mean, from which on something is struck
NEARLY = 0.9  # of the best share of strokes that lie on points
MULTIPLES = (1, 2, 3, 4, 6, 8, 9, 12)  # of the slowest pulse that fits: points that a beat divides into
STEPS = (2, 3, 4, 6)  # points of the grid in a beat, other than each
FINE = 8  # times finer than the record's length the spectrum is
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Line:
    """A pulse that may be a click: the frequency near which it was looked for and that it has (a second), where in its
    period (0 .. 1) it is struck, and how far that is the same throughout (0 .. 1)."""

    wanted: float
    frequency: float
    phase: float
    agreement: float


def beats_of(evidence: PulseEvidence) -> Floats:
    """(T,) where the net hears beats, around its mean."""
    heard = np.sqrt(np.clip(evidence.beat.astype(np.float64), 0, 1))
    return np.asarray(heard - heard.mean())


def onsets_of(evidence: PulseEvidence) -> Floats:
    """(T,) where something begins, around its mean; nothing where that is not known."""
    if evidence.begun is None:
        return np.zeros(0)
    heard = np.clip(evidence.begun.mean(1, dtype=np.float64), -1, LOUDEST) / LOUDEST
    return np.asarray(heard - heard.mean())


def lines(heard: Floats, rate: float, tempi: Sequence[float]) -> list[Line]:
    """Plain pulses of what is ``heard`` near each of ``tempi`` (beats a minute) and its multiples, the slowest first."""
    count = len(heard)
    if count < FEWEST_STRETCHES * STRETCH * rate:
        return []
    size = 1 << int(np.ceil(np.log2(count * FINE)))
    spectrum, step = np.abs(np.fft.rfft(heard, size)), rate / size
    found: list[Line] = []
    for wanted in sorted({tempo / 60 * times for tempo in tempi for times in TIMES}):
        if SLOWEST <= wanted <= QUICKEST:
            first, last = int(wanted * (1 - AROUND) / step), int(wanted * (1 + AROUND) / step) + 1
            frequency = (first + int(spectrum[first:last].argmax())) * step
            same = next((line for line in found if line.frequency == frequency), None)
            line = replace(same, wanted=wanted) if same else _line(heard, wanted, frequency, rate)
            if line is not None:
                found.append(line)
    return found


def grid(heard: Floats, rate: float, found: Sequence[Line], agreement: float = AGREEMENT) -> pulse.Times | None:
    """Points of the quickest pulse of a recording made to a click, of the lines of what is ``heard`` whose phases agree so far; None
    for a band that keeps its own time."""
    agreeing: list[Line] = []
    for line in found:
        near = any(abs(line.wanted / one.frequency - 1) < AROUND / 2 for one in agreeing)
        if line.agreement >= agreement and not near:
            agreeing.append(line)
    if not agreeing:
        return None
    seconds = len(heard) / rate
    share = [_struck_share(heard, line, rate) for line in agreeing]
    enough = min(NEARLY * max(share), max(share))  # none may be struck more than by chance
    fitting = [line for line, part in zip(agreeing, share, strict=True) if part >= enough]
    # a line is there at five times the beat too: of such points none is a beat and another one an eighth
    best = [line for line in fitting if _divides(line.frequency / fitting[0].frequency)][-1]
    points = (np.arange(int(seconds * best.frequency) + 2) + best.phase) / best.frequency
    return np.asarray(points[points < seconds - 0.5 / rate])


def _divides(ratio: float) -> bool:
    """Whether a pulse so many times as quick as the slowest one is what beats divide into: five halves are not."""
    return round(ratio) in MULTIPLES and abs(ratio - round(ratio)) < AROUND


def _struck_share(heard: Floats, line: Line, rate: float) -> float:
    """How much of what is struck lies on the points of a pulse, beyond what would do so by chance; 1 is all of it."""
    inside = heard[1:-1]
    at = np.flatnonzero((inside > heard[:-2]) & (inside >= heard[2:]) & (inside > STRUCK)) + 1
    if not len(at):
        return 0.0
    away = np.abs((at / rate * line.frequency - line.phase + 0.5) % 1 - 0.5) / line.frequency
    chance = min(0.95, 2 * ON_POINT * line.frequency)
    return float((heard[at][away <= ON_POINT].sum() / heard[at].sum() - chance) / (1 - chance))


def _line(heard: Floats, wanted: float, frequency: float, rate: float) -> Line | None:
    """The pulse of that frequency; None where it is not plain."""
    turned = heard * np.exp(-2j * np.pi * frequency * np.arange(len(heard)) / rate)
    stretch = (np.arange(len(heard)) / (STRETCH * rate)).astype(int)
    line = np.bincount(stretch, turned.real) + 1j * np.bincount(stretch, turned.imag)
    size = np.abs(line)
    if size.mean() < PLAIN:
        return None
    return Line(wanted, frequency, float(-np.angle(line.sum()) / (2 * np.pi) % 1), float(abs(line.sum()) / size.sum()))


def struck(evidence: PulseEvidence, points: pulse.Times) -> pulse.Times:
    """Points of a grid at the strokes that are nearest."""
    return pulse.sharpened(np.round(points * evidence.rate).astype(int), evidence)
