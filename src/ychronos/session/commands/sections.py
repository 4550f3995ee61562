"""What can be done with sections: begin, join, move, name, say what is the same."""

from __future__ import annotations

from fractions import Fraction

from ...song import edits
from ...song.alignment import other_musics, same_material
from ...song.merge import called_alike
from ...song.model import Song
from ...song.sectionnames import INSTRUMENTAL, USUAL, kept, said
from ...song.sung import MOSTLY, nobody_sings, share
from ...tongue import tr
from ..session import Session


def move_edge(session: Session, section: int, bar: int) -> None:
    session.edit(lambda s: edits.move_section(s, section, s.grid.bar_range(bar)[0]), decide="chords")


def rename(session: Session, section: int) -> None:
    song = session.song
    if song is not None:
        session.select(song.sections[section].start)
        rename_section(session)


def same_as(session: Session, section: int) -> None:
    """Ask what a section is the same as."""
    song = session.song
    if song is None:
        return
    choices: dict[str, tuple[int | None, bool]] = {_place(song, i): (i, True) for i in other_musics(song, section)}
    choices[tr("music of its own")] = (None, True)
    twins = [i for i in same_material(song, section) if i != section]
    choices |= {tr("not the same as {place}", place=_place(song, i)): (i, False) for i in twins}
    name = session.asks.choice(tr("The same as"), tr("{place} is", place=_place(song, section)), [*choices])
    if name is not None:
        like, positive = choices[name]
        session.edit(lambda s: edits.state_material(s, section, like, positive), decide="chords")


def _place(song: Song, section: int) -> str:
    found = song.sections[section]
    return tr("{name} at bar {number}", name=found.title, number=song.grid.number(song.grid.bar_at(found.start)))


def same_here(session: Session) -> None:
    song = session.song
    if song is not None:
        same_as(session, song.section_index(session.selection.caret))


def is_sung(session: Session) -> bool:
    """Whether somebody sings in the section at the caret for a good part of it."""
    song = session.song
    return song is not None and share(song, song.section_index(session.selection.caret)) >= MOSTLY


def sung_or_not(session: Session) -> None:
    """Say that nobody sings in the section at the caret, or that somebody does."""
    sings = not is_sung(session)
    session.edit(lambda s: edits.state_sung(s, s.section_index(session.selection.caret), sings))


def rename_section(session: Session) -> None:
    """Ask what the section at the caret is called, and whether that is so every time its music comes."""
    song = session.song
    if song is None:
        return
    index = song.section_index(session.selection.caret)
    here = song.sections[index]
    likely = [INSTRUMENTAL] if nobody_sings(song, index) else []
    known = list(dict.fromkeys(map(said, [here.name, *likely, *(s.name for s in song.sections), *USUAL])))
    times = len(called_alike(song.sections, here))
    reaches = (
        tr("all {times} times", times=times),
        tr("this time only, at bar {number}", number=song.grid.number(song.grid.bar_at(here.start))),
    )
    answer = session.asks.with_reach(
        tr("Section"), tr("What is this section called?"), known, reaches if times > 1 else ()
    )
    if answer is not None:
        name, reach = answer
        session.edit(lambda s: edits.rename_section(s, index, kept(name), reach == 0), decide="chords")


def begin_section(session: Session) -> None:
    song = session.song
    if song is not None:
        at = Fraction(int(session.selection.caret))
        session.edit(lambda s: edits.start_section(s, at), decide="chords")


def join_section(session: Session) -> None:
    song = session.song
    if song is not None:
        index = song.section_index(session.selection.caret)
        session.edit(lambda s: edits.join_section(s, index), decide="chords")
