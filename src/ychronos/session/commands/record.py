"""The song as a whole: its name, the guitar's names, the record's pitch."""

from __future__ import annotations

from dataclasses import replace

from ...guitar.instrument import SHOWS
from ...song import edits
from ...tongue import tr
from ..session import Session


def name_song(session: Session) -> None:
    song = session.song
    if song is None:
        return
    title = session.asks.text(tr("Title"), tr("The song's title:"), song.title)
    artist = session.asks.text(tr("Performers"), tr("Who plays it:"), song.artist) if title is not None else None
    if title is not None and artist is not None:
        session.edit(lambda s: edits.rename_song(s, title, artist))


def next_names(session: Session) -> None:
    """The next kind of names: as they sound, as shapes, both."""
    song = session.song
    if song is None:
        return
    if song.guitar.plain:
        session.tell(tr("Shapes are named as they sound: set a capo or a tuning first."))
        return
    show = SHOWS[(SHOWS.index(song.guitar.show) + 1) % len(SHOWS)]
    session.edit(lambda s: edits.set_guitar(s, replace(s.guitar, show=show)))


def name_half_step(session: Session, steps: int) -> None:
    """Name all that sounds by the neighbouring half step; the record is as much flatter or sharper for it."""
    if session.song is not None:
        session.edit(lambda s: edits.name_half_step(s, steps), decide="chords")


def toggle_true_pitch(session: Session) -> None:
    song = session.song
    if song is not None:
        correct = not song.ground.tape_cents
        session.edit(lambda s: edits.correct_tape(s, correct))


def toggle_clock(session: Session) -> None:
    song = session.song
    if song is not None:
        corrected = not song.ground.corrected_clock
        session.edit(lambda s: edits.show_corrected_clock(s, corrected))
