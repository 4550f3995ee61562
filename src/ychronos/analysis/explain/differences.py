"""What differs between the passes of a section, with how sure.

The chords decided say what differs (:mod:`..song.passes`); the evidence of both bars says how sure that is. Two
bars surely differ when the chord chances of their own evidence, heard apart, hardly overlap.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ...song.alignment import Difference, Pass, musics, passes, same_material
from ...song.model import Song
from ...tongue import tr
from ..chords.alike import moved_up
from ..evidence import Evidence
from ..form import sections
from ..form.deciding import describe_bars
from ..spectra import segment_means
from . import stops

Floats = NDArray[np.float64]
SLICES = 8
SOUNDS_OTHER = 0.25  # likeness of the sound of two bars below which that is pointed out
SURE = 0.9  # a difference less sure than this is not pointed out


class Differences:
    """Differences of a song's passes; made once for a song and its evidence."""

    def __init__(self, song: Song, evidence: Evidence) -> None:
        self.song = song
        self._of: dict[int, list[Pass]] = {}
        grid = song.grid
        lines = np.array([grid.clock(s) for s in grid.starts])
        edges = np.interp(np.arange((len(lines) - 1) * SLICES + 1) / SLICES, np.arange(len(lines)), lines)
        chance = np.exp(np.maximum(segment_means(evidence.harmony.chord, edges), -12))
        chance /= chance.sum(1, keepdims=True)
        bass = np.exp(np.maximum(segment_means(evidence.harmony.bass, edges), -12))
        bass /= bass.sum(1, keepdims=True)
        self._chords = np.sqrt(chance).reshape(len(lines) - 1, SLICES, -1)
        self._bass = np.sqrt(bass).reshape(len(lines) - 1, SLICES, -1)
        self.described = describe_bars(evidence, song)
        self.harmony, sound = sections.similarity(self.described)
        self.alike = sections.alike_bars(self.harmony, self.described)
        self.lead = min(grid.lead_in, len(grid.bars) - 1)
        self._sounds = sound
        self._strokes = stops.find(evidence.form, lines)

    def sure(self, bar: int, twin: int, up: int = 0) -> float:
        """Probability that two bars have other chords, the first ``up`` semitones higher, by their own evidence
        where they differ most."""
        apart = 1 - (self._chords[bar] * moved_up(self._chords[twin], up)).sum(1)
        low = 1 - (self._bass[bar] * moved_up(self._bass[twin], up)).sum(1)
        worst = np.sort(np.maximum(apart, 0.8 * low))[::-1]
        return float(np.clip(worst[:2].mean(), 0.0, 1.0))

    def heard(self, bar: int, twin: int, up: int = 0) -> tuple[str, str, float] | None:
        """What differs in the sound of two bars: (kind, words, how sure), or None."""
        played = self._strokes.differs(bar, twin)
        if played is not None:
            return "strum", played[0], played[1]
        alike = (
            float(self._sounds[bar - self.lead, twin - self.lead]) if min(bar, twin) >= self.lead and not up else 1.0
        )
        return ("sound", tr("only sounds otherwise"), 1 - alike) if alike < SOUNDS_OTHER else None

    def of(self, section: int) -> list[Pass]:
        """All passes of a section aligned, with the differences that are sure enough; those in what the user
        stated are always."""
        first = same_material(self.song, section)[0]
        if first not in self._of:
            self._of[first] = self._aligned(first)
        return self._of[first]

    def _aligned(self, section: int) -> list[Pass]:
        out = []
        for found in passes(self.song, section, self.sure, self.heard):
            kept = tuple(
                d for d in found.differences if d.sure >= SURE or d.kind in ("strum", "sound") or self._said(d)
            )
            perhaps = tuple(d for d in found.differences if d not in kept)
            out.append(replace(found, differences=kept, perhaps=perhaps))
        return out

    def all(self) -> list[Difference]:
        """The differences of the whole song, in order of time."""
        out = [d for i in musics(self.song) for p in self.of(i) for d in p.differences]
        return sorted(out, key=lambda d: d.bar if d.bar is not None else (d.twin or 0))

    def _said(self, found: Difference) -> bool:
        bars = [b for b in (found.bar, found.twin) if b is not None]
        for bar in bars:
            start, end = self.song.grid.bar_range(bar)
            for i in range(self.song.chord_index(start), len(self.song.chords)):
                a, _ = self.song.chord_range(i)
                if a >= end:
                    break
                if self.song.chords[i].stated:
                    return True
        return False
