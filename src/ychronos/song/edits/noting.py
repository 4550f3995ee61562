"""What a user notes at places of a song: cues, advice, words for themselves."""

from __future__ import annotations

from fractions import Fraction

from ...tongue import tr
from .. import statements as said
from ..grid import Position
from ..model import Song
from ..noted import KINDS, LONGEST, STATED
from ..statements import Statement
from .chords import mark_unsure
from .common import Edited, EditError, told
from .marks import remove_mark, set_mark


def set_note(song: Song, at: Position, kind: str, text: str) -> Edited:
    """Note something at a place; what is noted there of the same kind gives way, no text takes it away.

    Raises
    ------
    EditError
        when the kind is none, or when there is nothing to take away.
    """
    if kind not in KINDS:
        raise EditError(tr("A note is one of {kinds}.", kinds=", ".join(KINDS)))
    at = max(Fraction(0), min(at, song.grid.end - Fraction(1, 8)))
    words = " ".join(text.split())[:LONGEST]
    if kind == "private":
        return set_mark(song, at, words) if words else remove_mark(song, at)
    if kind == "doubt":
        return mark_unsure(song, song.chord_index(at), bool(words), words)
    old = [s for s in said.of(song.statements, "note") if s.at == at and s.value[0] == kind]
    if not words and not old:
        raise EditError(tr("There is no such note at this place."))
    place = song.grid.beat_name(at)
    if not words:
        return told(song, tr("no note at {place}", place=place), gone=old)
    return told(
        song,
        tr("“{words}” noted at {place}", words=words[:40], place=place),
        Statement("note", at, value=(kind, words)),
        gone=old,
    )


assert set(STATED) <= set(KINDS)
