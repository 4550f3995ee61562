"""What can be done with chords."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

from ...song import edits
from ...song.doubting import Doubt, doubts, ways_out, words
from ...theory.chord import NO_CHORD
from ...tongue import tr
from ..session import Session


def accept_chord(session: Session) -> None:
    """State the chord at the caret as it is shown, over all of its length."""
    if session.song is None:
        return
    index = session.chord_index
    start, end = session.song.chord_range(index)
    chord = session.song.chords[index].chord
    session.edit(lambda song: edits.state_chord(song, start, end, chord), decide="chords")


def state_rival(session: Session, number: int) -> None:
    if session.song is None:
        return
    index = session.chord_index
    span = session.song.chords[index]
    if 0 <= number < len(span.rivals):
        start, end = session.song.chord_range(index)
        chord = span.rivals[number][0]
        session.edit(lambda song: edits.state_chord(song, start, end, chord), decide="chords")


def remove_chord(session: Session) -> None:
    if session.song is None:
        return
    index = session.chord_index
    if session.song.chords[index].start < session.selection.caret and not session.selection.chord:
        session.tell(tr("No chord changes at the caret; click a chord's name to choose it."))
        return
    session.edit(lambda song: edits.remove_chord(song, index), decide="chords")


def toggle_unsure(session: Session) -> None:
    if session.song is None:
        return
    index = session.chord_index
    unsure = not session.song.chords[index].unsure
    session.edit(lambda song: edits.mark_unsure(song, index, unsure))


def is_unsure(session: Session) -> bool:
    span = session.chord_at_caret()
    return bool(span and span.unsure)


def next_doubt(session: Session) -> None:
    """The next doubt after the caret in the order of the song, from the start again at the end."""
    song = session.song
    if song is None:
        return
    found = sorted(doubts(song), key=lambda d: (d.at, d.kind != "chord"))
    if not found:
        session.say(tr("Nothing is in doubt"))
        return
    here = session.selection.caret
    seen = next((k for k, d in enumerate(found) if (d.kind, d.index) == session.doubt_shown and d.at == here), None)
    if seen is not None and seen + 1 < len(found):  # two doubts at one place are gone through in turn
        go_to_doubt(session, found[seen + 1])
    else:
        go_to_doubt(session, next((d for d in found if d.at > here), found[0]))


def go_to_doubt(session: Session, doubt: Doubt) -> None:
    """Show the place of a doubt and say what can be done about it; what is not a chord is shown with its bar."""
    song = session.song
    if song is None:
        return
    session.doubt_shown = doubt.kind, doubt.index
    if doubt.kind == "chord":
        go_to_chord(session, doubt.index)
    else:
        session.select(doubt.at)
        session.place_wanted.emit(song.grid.clock(doubt.at))
        session.say(f"{words(song, doubt)[0]} {ways_out(doubt)}")


def go_to_chord(session: Session, index: int) -> None:
    song = session.song
    if song is None or not 0 <= index < len(song.chords):
        return
    session.select(song.chords[index].start, chord=True)
    session.place_wanted.emit(song.grid.clock(song.chords[index].start))


def state_none(session: Session) -> None:
    """State that nobody plays a chord from the caret to the next change, or in the selected bars."""
    if session.song is not None:
        session.state_chord(NO_CHORD)


def split_chord(session: Session) -> None:
    at = session.selection.caret
    if session.edit(lambda s: edits.split_chord(s, at)):
        session.select(at, chord=True)


def join_chord(session: Session) -> None:
    index = session.chord_index
    session.edit(lambda s: edits.join_chord(s, index), decide="chords")


def move_change(session: Session, halves: int) -> None:
    """Let the chord at the caret come half a beat earlier or later, a third where beats have three parts."""
    if session.song is None:
        return
    index = session.chord_index
    bar = session.song.grid.bars[session.song.grid.bar_at(session.song.chords[index].start)]
    step = Fraction(halves, bar.meter.division)
    start = session.song.chords[index].start + step
    if session.edit(lambda s: edits.move_change(s, index, step), decide="chords"):
        session.select(start, chord=True)


def copy_to_passes(session: Session) -> None:
    s = session.selection
    bars = range(s.first, s.last + 1)
    session.edit(lambda song: edits.copy_to_passes(song, bars), decide="chords")


def comment(session: Session) -> None:
    """Mark the chord as unsure and say why."""
    if session.song is None:
        return
    index = session.chord_index
    span = session.song.chords[index]
    question = tr("What is in doubt about {chord}?", chord=session.song.chord_name(index))
    words = session.asks.text(tr("Unsure"), question, span.comment)
    if words is not None:
        session.edit(lambda s: edits.mark_unsure(s, index, True, " ".join(words.split())))


def articulate(session: Session, kind: str) -> None:
    """Say that the chord is held or stopped, or take that back."""
    if session.song is None:
        return
    index = session.chord_index
    new = "strummed" if session.song.chords[index].articulation == kind else kind
    session.edit(lambda s: edits.articulate(s, index, new))


def articulated(kind: str) -> Callable[[Session], bool]:
    def is_so(session: Session) -> bool:
        span = session.chord_at_caret()
        return bool(span and span.articulation == kind)

    return is_so
