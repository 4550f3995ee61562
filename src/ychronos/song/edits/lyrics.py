"""What a user can say of the words of a song: lines or words, each at the beat where it begins."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction

from ...tongue import tr
from .. import statements as said
from ..grid import Position
from ..model import Song
from ..statements import Statement
from .common import Edited, EditError, told

LONGEST = 400  # characters of one line


def _clean(text: str) -> str:
    return " ".join(text.split())[:LONGEST]


def nearest_beat(song: Song, seconds: float) -> Position:
    """The beat, or the half beat where the count is slow, nearest to a time of the record."""
    position = song.grid.position(seconds)
    step = 2 if song.grid.tempo() < 90 else 1
    at = Fraction(round(position * step), step)
    return max(Fraction(0), min(at, song.grid.end - Fraction(1, 2)))


def set_lyric(song: Song, at: Position, text: str) -> Edited:
    """Let words begin at a place; no words take those that are there away."""
    at = max(Fraction(0), min(at, song.grid.end - Fraction(1, 8)))
    words = _clean(text)
    if not words:
        return remove_lyric(song, at)
    return told(
        song,
        tr("“{words}” from {beat}", words=words[:40], beat=song.grid.beat_name(at)),
        Statement("lyric", at, value=words),
    )


def set_lyrics(song: Song, lines: Iterable[tuple[Position, str]]) -> Edited:
    """All words of the song at once; what was there before gives way."""
    new = [Statement("lyric", max(Fraction(0), min(at, song.grid.end - Fraction(1, 8))), value=_clean(text))
           for at, text in lines if _clean(text)]  # fmt: skip
    if not new:
        raise EditError(tr("There are no words to put."))
    return told(song, tr("{count} lines of words", count=len(new)), *new, gone=said.of(song.statements, "lyric"))


def move_lyric(song: Song, at: Position, to: Position) -> Edited:
    """Let words begin elsewhere."""
    found = [s for s in said.of(song.statements, "lyric") if s.at == at]
    if not found:
        raise EditError(tr("No words begin at this place."))
    to = max(Fraction(0), min(to, song.grid.end - Fraction(1, 8)))
    words = tr("“{value}” from {beat}", value=found[0].value[:40], beat=song.grid.beat_name(to))
    return told(song, words, Statement("lyric", to, value=found[0].value), gone=found)


def remove_lyric(song: Song, at: Position) -> Edited:
    gone = [s for s in said.of(song.statements, "lyric") if s.at == at]
    if not gone:
        raise EditError(tr("No words begin at this place."))
    return told(song, tr("no words at {beat}", beat=song.grid.beat_name(at)), gone=gone)
