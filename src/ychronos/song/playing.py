"""A song as something to be played: how long each chord lasts, and which capo and tuning suit it."""

from __future__ import annotations

from collections.abc import Sequence

from ..guitar import setups
from ..guitar.instrument import STANDARD
from ..guitar.setups import Choice
from .model import Song


def seconds_of_chords(song: Song) -> list[float]:
    """How long each chord sounds on the record, in seconds."""
    return [
        max(0.0, song.grid.clock(b) - song.grid.clock(a)) for a, b in map(song.chord_range, range(len(song.chords)))
    ]


def capos(song: Song, tunings: Sequence[tuple[int, ...]] = (STANDARD,)) -> list[Choice]:
    """Every capo with every one of the tunings, the best for the song first; the record has a say where it was heard
    and the chart is written in its key."""
    moved = song.guitar.moved
    chords = [s.chord.transposed(moved) for s in song.chords]
    heard = song.heard if song.heard.odds and not moved else None
    return setups.ranked(chords, seconds_of_chords(song), tunings, heard)
