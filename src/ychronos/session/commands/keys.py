"""What can be done with keys and with how chords are written."""

from __future__ import annotations

from ...song import edits
from ...song.words import bars_text
from ...theory.key import Key, parse_key
from ...theory.notation import SCHOOLS
from ...tongue import tr
from ..session import Session


def state_key(session: Session, key: Key | None = None) -> None:
    """State the key of the selected bars, or of the song when one bar is selected."""
    if session.song is None:
        return
    s = session.selection
    whole = not s.many
    if key is None:
        present = session.song.key_at(s.caret)
        where = tr("the song") if whole else bars_text(session.song.grid, s.first, s.last)
        question = tr("The key of {where} as it sounds, as E♭ major or F# dorian:", where=where)
        text = session.asks.text(tr("Key"), question, present.name())
        if text is None:
            return
        try:
            key = parse_key(text)
        except ValueError as error:
            session.tell(tr("No key is stated: {error}.", error=error), error=True)
            return
    chosen = key
    first, last = (None, None) if whole else (s.first, s.last)
    session.edit(lambda song: edits.state_key(song, chosen, first, last), decide="chords")


def state_key_of_song(session: Session, key: Key) -> None:
    """State the key of the whole song, whatever is selected."""
    session.edit(lambda song: edits.state_key(song, key), decide="chords")


def respell(session: Session) -> None:
    if session.song is not None:
        key = session.song.key_at(session.selection.caret)
        session.edit(lambda s: edits.respell_keys(s, key))


def set_notation(session: Session, school: str) -> None:
    session.edit(lambda s: edits.set_notation(s, school))


def next_notation(session: Session) -> None:
    song = session.song
    if song is not None:
        schools = list(SCHOOLS)
        set_notation(session, schools[(schools.index(song.notation) + 1) % len(schools)])
