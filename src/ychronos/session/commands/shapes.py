"""How chords are held: shapes, what they ask of a hand, guitars, and the key that the chart is written in."""

from __future__ import annotations

from dataclasses import replace

from ...guitar.candidates import Candidate, candidates, pitches
from ...guitar.fingering import Shape
from ...guitar.hands import LEVELS
from ...guitar.instrument import GuitarSetup
from ...song import edits
from ...song.edits import WHERE, Where
from ...song.model import Song
from ...tongue import tr
from ..session import Session

OFFERED = 4  # shapes beside the sheet


def ways(song: Song, index: int) -> list[Candidate]:
    """Ways to hold a chord on the song's guitar, the one in use first."""
    guitar = song.guitar
    chord = song.chords[index].chord.transposed(guitar.moved)
    found = list(candidates(chord, guitar.strings, guitar.capo))
    if song.heard.knows(chord) and not guitar.moved and guitar.level == LEVELS[0].id:
        likely = sorted(found, key=lambda c: c.cost - song.heard(chord, pitches(c.shape, guitar.strings, guitar.capo)))
        found = list(dict.fromkeys([*likely[:2], *found]))
    held = song.held[index]
    if held is not None:
        found.sort(key=lambda c: c.shape != held.shape)
    return found[:OFFERED]


def choose(
    session: Session,
    shape: Shape,
    where: Where = "everywhere",
    index: int | None = None,
    fingers: tuple[int, ...] = (),
) -> bool:
    """Hold a chord, the one at the caret by default, in a shape."""
    at = session.chord_index if index is None else index
    return session.edit(lambda s: edits.choose_shape(s, at, shape, where, fingers))


def choose_way(session: Session, number: int) -> None:
    """Hold the chord at the caret in one of the ways that are shown beside the sheet."""
    song = session.song
    if song is None:
        return
    found = ways(song, session.chord_index)
    if number < len(found):
        choose(session, found[number].shape)
    else:
        session.tell(tr("There are not so many ways to hold this chord."))


def forget(session: Session, index: int | None = None) -> None:
    at = session.chord_index if index is None else index
    session.edit(lambda s: edits.forget_shape(s, at))


def set_level(session: Session, level: str) -> None:
    session.edit(lambda s: edits.set_level(s, level))


def next_level(session: Session) -> None:
    """The next thing that shapes may ask of a hand."""
    song = session.song
    if song is not None:
        ids = [x.id for x in LEVELS]
        level = ids[(ids.index(song.guitar.level) + 1) % len(ids)]
        session.edit(lambda s: edits.set_level(s, level))


def set_guitar(session: Session, setup: GuitarSetup) -> None:
    session.edit(lambda s: edits.set_guitar(s, setup))


def take_capo(session: Session, capo: int) -> None:
    """State a capo; names of shapes are shown beside those of what sounds."""
    song = session.song
    if song is not None:
        show = "both" if song.guitar.show == "sounding" and capo else song.guitar.show
        session.edit(lambda s: edits.set_guitar(s, replace(s.guitar, capo=capo, show=show)))


def toggle_left(session: Session) -> None:
    """Draw the neck for left-handed players, or for right-handed ones."""
    session.edit(lambda s: edits.set_guitar(s, replace(s.guitar, left=not s.guitar.left)))


def toggle_from_nut(session: Session) -> None:
    """Count frets from the nut, or from the capo."""
    session.edit(lambda s: edits.set_guitar(s, replace(s.guitar, from_nut=not s.guitar.from_nut)))


def swap_guitars(session: Session) -> None:
    session.edit(edits.swap_guitars)


def write_in_key(session: Session) -> bool:
    """Ask for the key that the chart is written in."""
    song = session.song
    if song is None:
        return False
    key = song.main_key()
    names: dict[str, int] = {}
    for moved in sorted(range(-5, 7), key=lambda m: (m != song.guitar.moved, m)):
        written = song.guitar.key_moved(key, moved).name()
        names[written if moved else tr("{key}, as it sounds", key=written)] = moved
    chosen = session.asks.choice(
        tr("Another key"),
        tr("The record is in {name}. Write the chart, names and shapes together, in:", name=key.name()),
        list(names),
    )
    if chosen is None:
        return False
    return session.edit(lambda s: edits.write_in_key(s, names[chosen]))


__all__ = ["WHERE", "choose", "choose_way", "forget", "next_level", "set_guitar", "set_level", "swap_guitars",
           "toggle_from_nut", "toggle_left", "ways", "write_in_key"]  # fmt: skip
