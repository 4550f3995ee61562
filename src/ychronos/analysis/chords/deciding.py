"""Chords of a song on its grid: by sound alone, and around what is stated of them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from ...song import statements as said
from ...song.alignment import twin_bars
from ...song.grid import Grid, Position
from ...song.model import ChordSpan, KeySpan, RecordingRef, Song, blank_song
from ...song.statements import Statements
from ...song.track import Track
from ...theory.chord import Chord
from ...theory.key import Key
from ..evidence import Evidence
from ..form import tapes
from ..stages import Board, Stage
from . import harmony
from .alike import Twins

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class _Parts:
    """The segments that chords are decided on: their positions, exact and as numbers with the end, which are on a
    beat and on a one, and those of each bar."""

    positions: list[Position]
    numbers: Floats
    on_beat: list[bool]
    on_one: list[bool]
    groups: list[list[int]]


def _parts(grid: Grid) -> _Parts:
    positions: list[Position] = []
    on_beat: list[bool] = []
    on_one: list[bool] = []
    groups: list[list[int]] = []
    for _, start, bar in grid.walk():
        division = 1 if bar.meter.denominator == 8 and not bar.meter.compound else bar.meter.division
        groups.append(list(range(len(positions), len(positions) + bar.beats * division)))
        for beat in range(bar.beats):
            for part in range(division):
                positions.append(Fraction((start + beat) * division + part, division))
                on_beat.append(part == 0)
                on_one.append(part == 0 and beat == 0 and bar.first == 1)
    numbers = np.array([p.numerator / p.denominator for p in [*positions, grid.end]])
    return _Parts(positions, numbers, on_beat, on_one, groups)


@dataclass(frozen=True)
class _Piece:
    """Bars ``first`` .. ``last`` (exclusive) on their own: ``parts``, their limits in seconds ``edges``, and the key at
    each where keys are known. A song is one piece."""

    first: int
    last: int
    parts: _Parts
    edges: Floats
    key_at: list[Key]


def _on_parts(evidence: Evidence, grid: Grid, keys_known: Track[KeySpan] | None) -> list[_Piece]:
    """The parts of a grid with their times and keys, in pieces of at most half an hour or so: what is decided of chords,
    and which bars are alike, would else take memory without end."""
    parts = _parts(grid)
    edges = np.interp(parts.numbers, np.arange(len(grid.times)), grid.times)
    key_at: list[Key] = []
    if keys_known:
        starts = np.array([float(k.start) for k in keys_known])
        place = np.maximum(0, np.searchsorted(starts, parts.numbers[:-1] + 1e-9) - 1)
        key_at = [keys_known[int(i)].key for i in place]
    lines = np.array([grid.clock(s) for s in grid.starts])
    cuts = [0, *tapes.cuts(evidence.form.levels(lines)), len(grid.bars)]
    return [_piece(parts, edges, key_at, a, b) for a, b in zip(cuts, cuts[1:], strict=False)]


def _piece(parts: _Parts, edges: Floats, key_at: list[Key], first: int, last: int) -> _Piece:
    groups = parts.groups[first:last]
    a, b = groups[0][0], groups[-1][-1] + 1
    own = _Parts(parts.positions[a:b], parts.numbers[a : b + 1], parts.on_beat[a:b], parts.on_one[a:b],
                 [[i - a for i in group] for group in groups])  # fmt: skip
    return _Piece(first, last, own, edges[a : b + 1], key_at[a:b])


def at_a_glance(evidence: Evidence, grid: Grid, beats: int | None = None) -> Song:
    """A song with the chords of its beats, or of its first ``beats``, as they are heard at a glance."""
    found = harmony.at_a_glance(evidence.harmony, np.array(grid.times[: beats + 1 if beats else None]))
    spans = [ChordSpan(Fraction(i), c, 0.5) for i, c in enumerate(found) if not i or c != found[i - 1]]
    song = blank_song("", RecordingRef("", "", 0.0), grid)
    return replace(song, chords=Track(spans))


def free_chords(evidence: Evidence, grid: Grid, keys_known: Track[KeySpan] | None = None) -> Track[ChordSpan]:
    """Chords on a grid by sound alone, without probabilities."""
    out: list[ChordSpan] = []
    for piece in _on_parts(evidence, grid, keys_known):
        parts = piece.parts
        found = harmony.free(evidence.harmony, piece.edges, np.array(parts.on_beat), np.array(parts.on_one), parts.groups,
                             piece.key_at)  # fmt: skip
        spans = [ChordSpan(parts.positions[first], chord, 0.5) for first, _, chord in found]
        out += spans[1:] if out and out[-1].chord == spans[0].chord else spans
    return Track(out)


def decide_chords(
    evidence: Evidence,
    grid: Grid,
    statements: Statements = (),
    keys_known: Track[KeySpan] | None = None,
    twins: Twins | None = None,
) -> Track[ChordSpan]:
    """Chords on a grid around what is stated of them.

    Keys that are known make notes from outside them a little less likely; statements travel to the ``twins`` of
    their bars."""
    out: list[ChordSpan] = []
    for piece in _on_parts(evidence, grid, keys_known):
        spans = _decide_piece(evidence, piece, statements, twins, out[-1].chord if out else None)
        out += spans[1:] if out and out[-1].chord == spans[0].chord else spans
    return Track(out)


def _decide_piece(
    evidence: Evidence, piece: _Piece, statements: Statements, twins: Twins | None, before: Chord | None
) -> list[ChordSpan]:
    """The chords of one piece; ``before`` is the last chord of the one before."""
    parts = piece.parts
    constraints: dict[int, Chord] = {}
    going_on: set[int] = set()
    for s in said.of(statements, "chord", "goes on"):
        a, b = (int(np.searchsorted(parts.numbers[:-1], float(x) - 1e-9)) for x in (s.at, s.end))
        if s.kind == "chord":
            constraints |= dict.fromkeys(range(a, b), s.value)
        else:
            going_on |= set(range(a, b))
    if 0 in going_on and before is not None:
        constraints.setdefault(0, before)
    if twins is not None:
        twins = {
            bar - piece.first: [(other - piece.first, up) for other, up in others if piece.first <= other < piece.last]
            for bar, others in twins.items()
            if piece.first <= bar < piece.last
        }
    decided = harmony.decide(
        evidence.harmony,
        piece.edges,
        np.array(parts.on_beat),
        np.array(parts.on_one),
        constraints,
        parts.groups,
        piece.key_at,
        twins,
        going_on - set(constraints) - {0},
    )
    return [ChordSpan(parts.positions[d.first], d.chord, d.confidence, d.rivals, follows=d.follows) for d in decided]


def twins_of_statements(song: Song, free: Song) -> dict[int, list[tuple[int, int]]]:
    """For each bar in which the user stated a chord the bars at its place in the other passes of its section, with
    the semitones they are higher. Passes are aligned as they are in ``free``,
    the song by what the sound alone says."""
    out: dict[int, list[tuple[int, int]]] = {}
    aligned: dict[int, dict[int, list[tuple[int, int]]]] = {}
    for s in said.of(song.statements, "chord"):
        for bar in range(free.grid.bar_at(s.at), free.grid.bar_at(s.end - Fraction(1, 64)) + 1):
            section = free.section_of_bar(bar)
            if section not in aligned:
                aligned[section] = twin_bars(free, section)
            out[bar] = aligned[section].get(bar, [])
    return out


# ---------------------------------------------------------------- stages


def _twins(board: Board) -> dict[int, list[tuple[int, int]]] | None:
    if not board["travels"]:
        return None
    song: Song = board["song"]
    free = replace(song, grid=board["bare grid"], statements=(), chords=board["chords heard"],
                   keys=board["keys heard"], sections=board["sections"])  # fmt: skip
    return twins_of_statements(song, free)


def _chords(board: Board) -> Track[ChordSpan]:
    song: Song = board["song"]
    return decide_chords(board["evidence"], song.grid, song.statements, board["keys known"], board["twins"])


STAGES = (
    Stage("chords by sound alone", ("evidence", "bare grid", "keys heard"), "chords heard",
          lambda b: free_chords(b["evidence"], b["bare grid"], b["keys heard"]), listens=True),
    Stage("where statements lead", ("song", "bare grid", "chords heard", "keys heard", "sections", "travels"), "twins",
          _twins),
    Stage("chords", ("evidence", "song", "keys known", "twins"), "chords", _chords),
)  # fmt: skip
