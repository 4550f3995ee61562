"""Marked places, and bars that are right."""

from __future__ import annotations

from ...song import edits, noted, statements
from ...tongue import tr
from ..session import Session


def toggle_checked(session: Session) -> None:
    """Tick the selected bars as right, or take the ticks away."""
    if session.song is None:
        return
    s, said = session.selection, session.song.statements
    bars = range(s.first, s.last + 1)
    grid = session.song.grid
    wanted = not all(statements.at(said, "checked", grid.bar_range(b)[0]) for b in bars)
    session.edit(lambda song: edits.accept_bars(song, bars, wanted))


def mark(session: Session) -> None:
    """Mark the caret's place with a note; where a mark is, change its note or take it away."""
    if session.song is None:
        return
    at = session.selection.caret
    old = next((m for m in session.song.marks if m.at == at), None)
    question = tr("A note for {beat}", beat=session.song.grid.beat_name(at)) + (
        tr(" (empty: take the mark away):") if old else ":"
    )
    text = session.asks.text(tr("Mark"), question, old.text if old else "")
    if text is None:
        return
    if old is not None and not text.strip():
        session.edit(lambda s: edits.remove_mark(s, at))
    else:
        session.edit(lambda s: edits.set_mark(s, at, text))


def note(session: Session) -> None:
    """Note something at the caret: a cue, advice, a doubt, words for oneself. What is noted there can be changed or, with
    no words, taken away."""
    song = session.song
    if song is None:
        return
    at = session.selection.caret
    here = [n for n in song.notes if n.at == at]
    kinds = list(dict.fromkeys([*(n.kind for n in here), *noted.KINDS]))
    reaches = [f"{noted.KINDS[k].words}: {noted.KINDS[k].tip[:1].lower()}{noted.KINDS[k].tip[1:]}" for k in kinds]
    known = list(dict.fromkeys([*(n.text for n in here), *([] if here else [""]), *(n.text for n in song.notes)]))
    question = tr("A note for {beat}", beat=song.grid.beat_name(at)) + (tr(" (empty: take it away):") if here else ":")
    answer = session.asks.with_reach(tr("Note"), question, known, reaches)
    if answer is None:
        return
    text, reach = answer
    if text.strip() or any(n.kind == kinds[reach] for n in here):
        session.edit(lambda s: edits.set_note(s, at, kinds[reach], text))


def next_mark(session: Session) -> None:
    """Go to the next marked place, from the start again at the end."""
    song = session.song
    if song is None or not song.marks:
        session.say(tr("No place is marked"))
        return
    here = session.selection.caret
    go_to_mark(session, next((i for i, m in enumerate(song.marks) if m.at > here), 0))


def go_to_mark(session: Session, number: int) -> None:
    song = session.song
    if song is None or not 0 <= number < len(song.marks):
        return
    found = song.marks[number]
    session.leave_place()
    session.select(found.at)
    session.place_wanted.emit(song.grid.clock(found.at))
    session.say(found.text or tr("Mark at {beat}", beat=song.grid.beat_name(found.at)))
