"""Keys of a song from its chords, and what speaks for them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

from ...song import statements as said
from ...song.merge import merged_chords, merged_keys
from ...song.model import KeySpan, Song
from ...song.track import Track
from ...theory.chord import Chord
from ...theory.key import SIX, Key
from ..chords.deciding import at_a_glance
from ..stages import Board, Stage
from . import keyfinding


def bar_chords(song: Song) -> list[list[tuple[Chord, float]]]:
    """For each bar its chords with their share of the bar."""
    out: list[list[tuple[Chord, float]]] = []
    for i in range(len(song.grid.bars)):
        start, end = song.grid.bar_range(i)
        inside: list[tuple[Chord, float]] = []
        for k in range(song.chord_index(start), len(song.chords)):
            a, b = song.chord_range(k)
            if a >= end:
                break
            inside.append((song.chords[k].chord, float((min(b, end) - max(a, start)) / (end - start))))
        out.append(inside)
    return out


def stated_keys(song: Song) -> dict[int, Key]:
    """The key of every bar whose key the user stated."""
    found = said.of(song.statements, "key")
    starts = song.grid.starts[:-1]
    return {i: s.value for s in found for i, start in enumerate(starts) if s.covers(Fraction(start))}


def key_evidence(song: Song) -> keyfinding.KeyEvidence:
    """What speaks for which key, bar by bar, from the chords and sections as they stand and the keys that are stated."""
    begins = {s.start for s in song.sections}
    lines = {bar for bar, start in enumerate(song.grid.starts[:-1]) if start in begins}
    return keyfinding.gather(bar_chords(song), stated_keys(song), lines if song.sections else None)


def spelled_together(found: Sequence[keyfinding.DecidedKey]) -> list[keyfinding.DecidedKey]:
    """The keys of a song, those with six signs written in sharps or flats as most of the rest is: F♯ major beside F♯ minor."""
    signs = sum((d.last - d.first) * d.key.signature for d in found if abs(d.key.signature) < SIX)
    return [replace(d, key=d.key.beside(signs)) for d in found]


def decide_keys(song: Song) -> Track[KeySpan]:
    """Keys from the chords and sections as they stand and the keys that are stated."""
    found = spelled_together(key_evidence(song).decided)
    return Track(KeySpan(song.grid.bar_range(k.first)[0], k.key, k.confidence) for k in found)


# ---------------------------------------------------------------- stages


def _heard(board: Board) -> Track[KeySpan]:
    return decide_keys(at_a_glance(board["evidence"], board["bare grid"]))


def _known(board: Board) -> Track[KeySpan]:
    song: Song = board["song"]
    return merged_keys(board["keys heard"], song.statements, song.grid.end)


def _keys(board: Board) -> Track[KeySpan]:
    song: Song = board["song"]
    chords = merged_chords(board["chords"], song.statements, song.grid.end)
    return decide_keys(replace(song, chords=chords, sections=board["sections"]))


STAGES = (
    Stage("keys at a glance", ("evidence", "bare grid"), "keys heard", _heard, listens=True),
    Stage("keys with what is stated", ("song", "keys heard"), "keys known", _known),
    Stage("keys", ("song", "chords", "sections"), "keys", _keys),
)
