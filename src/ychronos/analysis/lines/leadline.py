"""A line from a stretch of the record: riff, lick or fill, as notes on the song's grid.

The stretch is heard afresh in fine detail (:mod:`.fine`, :mod:`.linenet`), at the record's own tuning, through whatever part of the record
the user chose to hear; who hears the whole record hears the side that the line is on (:mod:`.sides`). How a note begins is told from the curve of its pitch: from below within a moment is slid, more slowly bent; without
an attack of its own, close to a note that still sounds, it is hammered on or pulled off.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
import soxr
from numpy.typing import NDArray

from ...audio.play.ear import Ear
from ...audio.recording import ANALYSIS_RATE as RATE
from ...song.edits import HeardNote
from ...song.grid import Grid
from ...song.model import Song
from ..spectra import Array
from . import fine, linenet, sides
from .fine import BINS, FINE_RATE, LOW_BIN
from .linenet import COUNT, Found

MARGIN = 0.4  # seconds around a stretch that are heard with it
AT_A_TIME, OVERLAP = 1100, 60  # frames that are heard at once
LONGEST = 15 * 60.0  # seconds of a stretch
GLIDE, SLIDE = 0.75, 0.09  # semitones that a note comes from below, seconds in which that is a slide
LEGATO, QUIET = 4, 0.35  # semitones between notes of one pluck, the attack of the second against a usual one
EVEN = (4, 3)  # parts of a beat that notes are thought to lie on
NEAR_EVEN = 0.025  # seconds
FINEST = 48


Chording = tuple[float, frozenset[int], int]  # seconds of the record, pitch classes, root


def chords_of(song: Song) -> tuple[Chording, ...]:
    """The chords of a song as lines are heard against them."""
    out = []
    for span in song.chords:
        inside = frozenset() if span.chord.root is None else frozenset(span.chord.pitch_classes)
        out.append((song.grid.clock(span.start), inside, -1 if span.chord.root is None else span.chord.root))
    return tuple(out)


@dataclass(frozen=True)
class LineFound:
    """A note of a line in seconds of the record."""

    at: float
    length: float
    note: int
    sure: float
    rivals: tuple[int, ...] = ()
    sign: str = ""


def stretch_of(samples: Array, rate: int, start: float, end: float, ear: str = "whole") -> tuple[Array, float]:
    """(mono at the analysis' rate of a stretch as it is heard through ``ear``, seconds of the record at which it begins)."""
    piece, begins = stereo_of(samples, rate, start, end, ear)
    return piece.mean(axis=1), begins


def stereo_of(samples: Array, rate: int, start: float, end: float, ear: str = "whole") -> tuple[Array, float]:
    """As :func:`stretch_of`, (frames, 2)."""
    first, last = max(0, int((start - MARGIN) * rate)), min(len(samples), int((end + MARGIN) * rate))
    piece = np.array(samples[first:last], np.float32)
    if piece.ndim == 1 or piece.shape[1] == 1:
        piece = np.repeat(piece.reshape(-1, 1), 2, axis=1)
    piece = np.ascontiguousarray(piece[:, :2])
    Ear(rate, ear).hear(piece)
    return np.asarray(soxr.resample(piece, rate, RATE) if rate != RATE else piece, np.float32), first / rate


def side_of(stereo: Array, cents: float, chords: Sequence[Chording], taken: Sequence[tuple[float, int]] = ()) -> str:
    """Where in the stereo picture the line of a stretch most likely is, see :mod:`.sides`; ``chords`` and ``taken`` are in seconds of the stretch."""

    def notes(mono: Array, later: float) -> list[Found]:
        return hear(mono, cents, [(at - later, inside, root) for at, inside, root in chords])[0]

    return sides.likeliest(stereo, notes, taken)


def hear(
    mono: Array, cents: float, chords: Sequence[Chording], report: Callable[[float], None] = lambda _: None
) -> tuple[list[Found], Array, Array]:
    """(notes, their spectrum, its flux) of a stretch of sound."""
    spectrum, flux = fine.spectrum(mono, cents), fine.flux(mono)
    rows = linenet.chord_rows(len(spectrum), chords)
    report(0.4)
    held, begun = np.zeros((len(spectrum), COUNT), np.float32), np.zeros((len(spectrum), COUNT), np.float32)
    for first in range(0, len(spectrum), AT_A_TIME):
        a, b = max(0, first - OVERLAP), min(len(spectrum), first + AT_A_TIME + OVERLAP)
        h, g = linenet.run(spectrum[a:b], flux[a:b], rows[a:b])
        last = min(len(spectrum), first + AT_A_TIME)
        held[first:last], begun[first:last] = h[first - a : last - a], g[first - a : last - a]
        report(0.4 + 0.6 * last / len(spectrum))
    return linenet.notes(held, begun), spectrum, flux


def find(
    mono: Array,
    cents: float,
    chords: Sequence[Chording],
    begins: float,
    start: float,
    end: float,
    report: Callable[[float], None] = lambda _: None,
) -> list[LineFound]:
    """The notes of a line from ``start`` to ``end`` seconds of the record; ``mono`` begins at ``begins``.

    ``cents`` is the record's tuning off A4 = 440 Hz, ``chords`` are those of the song in order (:func:`chords_of`). The notes are in order of their beginnings.
    """
    notes, spectrum, flux = hear(mono, cents, [(at - begins, inside, root) for at, inside, root in chords], report)
    attack = flux.sum(1)
    usual = float(np.median([_attack(attack, n) for n in notes])) if notes else 0.0
    out: list[LineFound] = []
    for k, n in enumerate(notes):
        at = begins + n.start
        if not start - 0.03 <= at < end - 0.02:
            continue
        sign = _glide(spectrum, n)
        before = notes[k - 1] if k else None
        tied = before is not None and before.end >= n.start - 0.03 and n.start - before.start > 0.04
        soft = tied and _attack(attack, n) < QUIET * usual
        if not sign and before is not None and soft and 0 < abs(n.note - before.note) <= LEGATO:
            sign = "h" if n.note > before.note else "p"
        out.append(
            LineFound(round(max(0.0, at), 4), round(max(0.03, n.end - n.start), 4), n.note, n.sure, n.rivals, sign)
        )
    return out


def _attack(attack: NDArray[np.floating], note: Found) -> float:
    i = round(note.start * FINE_RATE)
    return float(attack[max(0, i - 2) : i + 4].max(initial=0.0))


def _glide(spectrum: Array, note: Found) -> str:
    """ "s" or "b" when a note comes from below, else ""."""
    first = round(note.start * FINE_RATE)
    last = min(len(spectrum), round(note.end * FINE_RATE), first + 28)
    if last - first < 10:
        return ""
    base = (note.note - LOW_BIN) * BINS
    steps = np.arange(-3 * BINS, 3 * BINS + 1)
    total = np.zeros((last - first, len(steps)), np.float32)
    for harmonic in (1, 2, 3, 4):
        which = base + round(12 * BINS * np.log2(harmonic)) + steps
        inside = (which >= 0) & (which < spectrum.shape[1])
        total[:, inside] += spectrum[first:last][:, which[inside]]
    curve = steps[total.argmax(1)] / BINS
    settled = float(np.median(curve[len(curve) // 2 :]))
    if abs(settled) > 0.7:
        return ""
    early = curve[1:4].mean()
    if early > -GLIDE or early < -2.7:
        return ""
    there = int(np.argmax(curve > -0.4))
    return "s" if there / FINE_RATE <= SLIDE else "b"


def on_grid(found: Sequence[LineFound], grid: Grid) -> list[HeardNote]:
    """The same at places of the grid: on fourths or thirds of beats where a note is as good as there, else where it is."""
    out = []
    for n in found:
        exact = grid.position(n.at)
        if not 0 <= exact < float(grid.end):
            continue
        at = Fraction(round(exact * FINEST), FINEST)
        beat = grid.clock(min(exact + 1, float(grid.end))) - grid.clock(max(0.0, min(exact, float(grid.end) - 1)))
        for parts in EVEN:
            even = Fraction(round(exact * parts), parts)
            if abs(float(even) - exact) * beat <= NEAR_EVEN:
                at = even
                break
        until = grid.position(n.at + n.length)
        length = max(Fraction(1, 12), Fraction(round((until - exact) * 12), 12))
        out.append(HeardNote(at, length, n.note, n.sign, n.sure, n.rivals))
    return out
