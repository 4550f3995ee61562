"""Sections of a song on its grid: its bars described, and what is stated of sections laid around them."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np

from ...song import statements as said
from ...song.grid import Grid
from ...song.merge import merged_sections
from ...song.model import RecordingRef, Section, Song, blank_song
from ...song.statements import Statements
from ...song.track import Track
from ...theory.chord import Chord
from ..evidence import Evidence
from ..stages import Board, Stage
from . import sections


def describe_bars(evidence: Evidence, song: Song) -> sections.BarFeatures:
    """What sections are told by, for the bars after the lead-in."""
    grid = song.grid
    lead = min(grid.lead_in, len(grid.bars) - 1)
    lines = np.array([grid.clock(s) for s in grid.starts[lead:]])
    parts: list[list[Chord]] = []
    for bar in range(lead, len(grid.bars)):
        start, end = grid.bar_range(bar)
        steps = [start + (end - start) * Fraction(2 * k + 1, 2 * sections.SLICES) for k in range(sections.SLICES)]
        parts.append([song.chords[song.chord_index(p)].chord for p in steps])
    bars = range(lead, len(grid.bars))
    tonic = [song.key_at(grid.bar_range(bar)[0]).tonic for bar in bars]
    return sections.describe(evidence.form, evidence.harmony, lines, parts, tonic, [grid.bars[b].beats for b in bars])


def sections_of(heard: sections.Heard, grid: Grid, statements: Statements) -> Track[Section]:
    """Sections with what is stated of them."""
    lead = min(grid.lead_in, len(grid.bars) - 1)
    lines = {s: i - lead for i, s in enumerate(grid.starts)}
    begins = [lines[int(s.at)] for s in said.of(statements, "section") if s.at in lines]
    whole = [(max(0, lines[int(s.at)]), lines[int(s.end)]) for s in said.of(statements, "one section")
             if s.at in lines and s.end in lines]  # fmt: skip
    found = sections.around(heard, begins, whole)
    out = Track(
        Section(
            Fraction(0) if not d.first else grid.bar_range(d.first + lead)[0],
            d.name,
            d.letter,
            d.confidence,
            sure=d.sure,
        )
        for d in found
    )
    return merged_sections(out, statements, grid)


# ---------------------------------------------------------------- stages


def _heard(board: Board) -> sections.Heard:
    grid: Grid = board["bare grid"]
    song = blank_song("", RecordingRef("", "", 0.0), grid)
    song = replace(song, chords=board["chords heard"], keys=board["keys heard"])
    return sections.decide(describe_bars(board["evidence"], song))


STAGES = (
    Stage("form by sound alone", ("evidence", "bare grid", "chords heard", "keys heard"), "form heard", _heard, listens=True),
    Stage("sections", ("form heard", "bare grid", "song"), "sections",
          lambda b: sections_of(b["form heard"], b["bare grid"], b["song"].statements)),
)  # fmt: skip
