"""How many beats each chord lasts: ``E 8 · A 4 · E 8``, for players who count."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from ..song.alignment import content
from ..song.model import Song

_PARTS = {Fraction(1, 4): "¼", Fraction(1, 2): "½", Fraction(3, 4): "¾", Fraction(1, 3): "⅓", Fraction(2, 3): "⅔"}


def beats_of(song: Song, bars: Sequence[int]) -> list[tuple[int, Fraction]]:
    """(chord, beats that it lasts in these bars) in order; a chord that goes on over a bar line is counted once. The beats add
    up to those of the bars."""
    out: list[tuple[int, Fraction]] = []
    for bar in bars:
        for _, length, index in content(song, bar):
            if out and out[-1][0] == index:
                out[-1] = index, out[-1][1] + length
            else:
                out.append((index, Fraction(length)))
    return out


def number(beats: Fraction, ascii_only: bool = False) -> str:
    """``3½``."""
    whole, rest = divmod(beats, 1)
    if not rest:
        return str(whole)
    part = _PARTS.get(rest)
    if part is None or ascii_only:
        return f"{float(beats):.2f}".rstrip("0").rstrip(".")
    return f"{whole or ''}{part}"


def counts_text(song: Song, bars: Sequence[int], ascii_only: bool = False) -> str:
    """The chords of some bars with their beats, in a line."""
    between = " - " if ascii_only else " · "
    return between.join(
        f"{song.chord_name(i, ascii_only)} {number(length, ascii_only)}" for i, length in beats_of(song, bars)
    )
