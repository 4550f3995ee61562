"""What every edit is made of: the song with newer statements, and a sentence for it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from ..merge import say
from ..model import Song
from ..statements import Statement

Edited = tuple[Song, str]


class EditError(ValueError):
    """An edit that does not apply; the text is a sentence for the user."""


def told(song: Song, words: str, *new: Statement, gone: Iterable[Statement] = ()) -> Edited:
    """The song with newer statements and without those that are gone, and the sentence for it."""
    left = set(map(id, gone))
    song = replace(song, statements=tuple(s for s in song.statements if id(s) not in left))
    return say(song, *new), words
