"""What can be done with the count: beats, bar lines, meters, tempo."""

from __future__ import annotations

from ...song import edits
from ...song.edits import Edited, EditError
from ...song.model import Song
from ...song.words import bars_text
from ...theory.meter import grouping_text, parse_meter
from ...tongue import tr
from ..session import Session

METERS = ("4/4", "3/4", "2/4", "6/8", "12/8", "9/8", "5/4", "7/4", "6/4", "5/8", "7/8", "11/8", "13/8")


def caret_beat(session: Session) -> int | None:
    """The beat that the caret is on; says so when it is between two."""
    caret = session.selection.caret
    if caret.denominator != 1:
        session.tell(tr("The caret is between two beats; put it on a beat."))
        return None
    return int(caret)


def one_is_here(session: Session) -> None:
    beat = caret_beat(session)
    if beat is not None:
        session.edit(lambda song: edits.one_is_here(song, beat), decide="bars")


def shift_ones(session: Session, by: int) -> None:
    session.edit(lambda song: edits.shift_ones(song, by), decide="chords")


def half_tempo(session: Session) -> None:
    session.edit(edits.half_tempo, decide="beats")


def double_tempo(session: Session) -> None:
    session.edit(edits.double_tempo, decide="beats")


def set_tempo(session: Session) -> None:
    song = session.song
    if song is None:
        return
    now = song.grid.tempo()
    question = tr("Counted beats a minute (now {now:.0f}):", now=now)
    tempo = session.asks.number(tr("Tempo"), question, round(now, 1), 20, 480, 1)
    if tempo is not None:
        session.edit(lambda s: edits.set_tempo(s, tempo), decide="beats")


def set_meter(session: Session) -> None:
    """Ask for a meter and for which bars it is."""
    song = session.song
    if song is None:
        return
    s, grid = session.selection, song.grid
    now = grid.bars[s.first].meter
    end = next((i for i in range(s.last + 1, len(grid.bars)) if grid.bars[i].meter != now), len(grid.bars)) - 1
    number = grid.number
    here = bars_text(grid, s.first, s.last) if s.many else tr("this bar only, {number}", number=number(s.first))
    on = tr("from here to bar {number}, as long as it is in {now}", number=number(end), now=now)
    reaches = {here: (s.first, s.last), on: (s.first, max(s.last, end)), tr("the whole song"): (0, len(grid.bars) - 1)}
    order = list(reaches) if s.many else list(reversed(reaches))
    names = [str(now), *(m for m in METERS if m != str(now))]
    answer = session.asks.with_reach(tr("Meter"), tr("Which meter?"), names, order)
    if answer is None:
        return
    text, reach = answer
    try:
        meter = parse_meter(text)
    except ValueError as error:
        session.tell(str(error), error=True)
        return
    first, last = reaches[order[reach]]
    session.edit(lambda song: edits.set_meter(song, first, last, meter), decide="bars")


def set_length(session: Session) -> None:
    song = session.song
    if song is None:
        return
    bar = session.selection.first
    question = tr("How many beats has bar {number}?", number=song.grid.number(bar))
    answer = session.asks.number(tr("Beats"), question, song.grid.bars[bar].beats, 1, 32)
    if answer is not None:
        beats = int(answer)
        session.edit(lambda s: edits.set_length(s, bar, beats), decide="bars")


def set_grouping(session: Session) -> None:
    song = session.song
    if song is None:
        return
    s = session.selection
    beats = song.grid.bars[s.first].beats
    first, last = (s.first, s.last) if s.many else (0, len(song.grid.bars) - 1)
    now = grouping_text(song.grid.bars[s.first].grouping) or grouping_text((1,) * beats)
    text = session.asks.text(tr("Grouping"), tr("How are {beats} beats grouped, as 2+2+3:", beats=beats), now)
    if text is None:
        return

    def grouped(song_: Song) -> Edited:
        parts = text.replace(" ", "").split("+")
        if not all(p.isascii() and p.isdigit() and int(p) for p in parts):
            raise EditError(tr("“{text}” is no grouping; write it like 2+2+3.", text=text))
        return edits.set_grouping(song_, first, last, tuple(map(int, parts)))

    session.edit(grouped)


def split_bar(session: Session) -> None:
    beat = caret_beat(session)
    if beat is not None:
        session.edit(lambda song: edits.split_bar(song, beat), decide="chords")


def join_bars(session: Session) -> None:
    s = session.selection
    session.edit(lambda song: edits.join_bars(song, s.first, s.last), decide="chords")


def between_beats(session: Session) -> None:
    song = session.song
    if song is not None:
        s = session.selection
        first, last = (s.first, s.last) if s.many else (0, len(song.grid.bars) - 1)
        session.edit(lambda song: edits.between_beats(song, first, last), decide="bars")


def insert_beat(session: Session) -> None:
    beat = int(session.selection.caret)
    session.edit(lambda song: edits.insert_beat(song, beat), decide="chords")


def remove_beat(session: Session) -> None:
    beat = caret_beat(session)
    if beat is not None:
        session.edit(lambda song: edits.remove_beat(song, beat), decide="chords")


def lengthen_pick_up(session: Session) -> None:
    session.edit(edits.lengthen_pick_up, decide="chords")


def move_beat(session: Session, beat: int, seconds: float) -> None:
    session.edit(lambda song: edits.move_beat(song, beat, seconds), decide="beats")


def nudge_beat(session: Session, by: float) -> None:
    """The beat at the caret a little earlier or later, by the keys."""
    beat = caret_beat(session)
    song = session.song
    if beat is not None and song is not None:
        move_beat(session, beat, song.grid.times[beat] + by)
