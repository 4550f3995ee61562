"""Places that a user marks to come back to."""

from __future__ import annotations

from fractions import Fraction

from ...tongue import tr
from .. import statements as said
from ..grid import Position
from ..model import Song
from ..statements import Statement
from .common import Edited, EditError, told


def set_mark(song: Song, at: Position, text: str) -> Edited:
    """Mark a place, or give a mark that is there another note."""
    at = max(Fraction(0), min(at, song.grid.end - Fraction(1, 8)))
    return told(
        song, tr("marked {beat}", beat=song.grid.beat_name(at)), Statement("mark", at, value=" ".join(text.split()))
    )


def remove_mark(song: Song, at: Position) -> Edited:
    gone = [s for s in said.of(song.statements, "mark") if s.at == at]
    if not gone:
        raise EditError(tr("There is no mark at this place."))
    return told(song, tr("no mark at {beat}", beat=song.grid.beat_name(at)), gone=gone)
