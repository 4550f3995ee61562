"""What the actions of the count do: beats, bar lines, meters, tempo, taps, the click."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QInputDialog

from ..song import edits
from ..song.edits import Edited, EditError
from ..song.model import Song
from ..theory.meter import grouping_text, parse_meter
from .askdialogs import Ask

if TYPE_CHECKING:
    from .window import Window

METERS = ("4/4", "3/4", "2/4", "6/8", "12/8", "9/8", "5/4", "7/4", "6/4", "5/8", "7/8", "11/8", "13/8")


def caret_beat(w: Window) -> int | None:
    """The beat that the caret is on; says so when it is between two."""
    caret = w.document.selection.caret
    if caret.denominator != 1:
        w.notice.say("The caret is between two beats; put it on a beat.", error=False)
        return None
    return int(caret)


def one_is_here(w: Window) -> None:
    beat = caret_beat(w)
    if beat is not None:
        w.document.edit(lambda song: edits.one_is_here(song, beat), decide="bars")


def shift_ones(w: Window, by: int) -> None:
    w.document.edit(lambda song: edits.shift_ones(song, by), decide="chords")


def half_tempo(w: Window) -> None:
    w.document.edit(edits.half_tempo, decide="beats")


def double_tempo(w: Window) -> None:
    w.document.edit(edits.double_tempo, decide="beats")


def set_tempo(w: Window) -> None:
    song = w.document.song
    if song is None:
        return
    now = song.grid.tempo()
    tempo, ok = QInputDialog.getDouble(
        w, "Tempo", f"Counted beats a minute (now {now:.0f}):", round(now, 1), 20, 480, 1
    )
    if ok:
        w.document.edit(lambda s: edits.set_tempo(s, tempo), decide="beats")


def set_meter(w: Window) -> None:
    """Ask for a meter and for which bars it is."""
    song = w.document.song
    if song is None:
        return
    s, grid = w.document.selection, song.grid
    now = grid.bars[s.first].meter
    end = next((i for i in range(s.last + 1, len(grid.bars)) if grid.bars[i].meter != now), len(grid.bars)) - 1
    number = grid.number
    here = f"bars {number(s.first)} to {number(s.last)}" if s.many else f"this bar only, {number(s.first)}"
    on = f"from here to bar {number(end)}, as long as it is in {now}"
    reaches = {here: (s.first, s.last), on: (s.first, max(s.last, end)), "the whole song": (0, len(grid.bars) - 1)}
    order = list(reaches) if s.many else list(reversed(reaches))
    names = [str(now), *(m for m in METERS if m != str(now))]
    dialog = Ask("Meter", "Which meter?", names, order, w)
    if not dialog.exec():
        return
    try:
        meter = parse_meter(dialog.text)
    except ValueError as error:
        w.notice.say(str(error))
        return
    first, last = reaches[order[dialog.reach]]
    w.document.edit(lambda song: edits.set_meter(song, first, last, meter), decide="bars")


def set_length(w: Window) -> None:
    song = w.document.song
    if song is None:
        return
    bar = w.document.selection.first
    beats, ok = QInputDialog.getInt(
        w, "Beats", f"How many beats has bar {song.grid.number(bar)}?", song.grid.bars[bar].beats, 1, 32
    )
    if ok:
        w.document.edit(lambda s: edits.set_length(s, bar, beats), decide="bars")


def set_grouping(w: Window) -> None:
    song = w.document.song
    if song is None:
        return
    s = w.document.selection
    beats = song.grid.bars[s.first].beats
    first, last = (s.first, s.last) if s.many else (0, len(song.grid.bars) - 1)
    now = grouping_text(song.grid.bars[s.first].grouping) or grouping_text((1,) * beats)
    text, ok = QInputDialog.getText(w, "Grouping", f"How are {beats} beats grouped, as 2+2+3:", text=now)
    if not ok:
        return

    def grouped(song_: Song) -> Edited:
        parts = text.replace(" ", "").split("+")
        if not all(p.isdigit() and int(p) for p in parts):
            raise EditError(f"“{text}” is no grouping; write it like 2+2+3.")
        return edits.set_grouping(song_, first, last, tuple(map(int, parts)))

    w.document.edit(grouped)


def split_bar(w: Window) -> None:
    beat = caret_beat(w)
    if beat is not None:
        w.document.edit(lambda song: edits.split_bar(song, beat), decide="chords")


def join_bars(w: Window) -> None:
    s = w.document.selection
    w.document.edit(lambda song: edits.join_bars(song, s.first, s.last), decide="chords")


def between_beats(w: Window) -> None:
    song = w.document.song
    if song is not None:
        s = w.document.selection
        first, last = (s.first, s.last) if s.many else (0, len(song.grid.bars) - 1)
        w.document.edit(lambda song: edits.between_beats(song, first, last), decide="bars")


def insert_beat(w: Window) -> None:
    beat = int(w.document.selection.caret)
    w.document.edit(lambda song: edits.insert_beat(song, beat), decide="chords")


def remove_beat(w: Window) -> None:
    beat = caret_beat(w)
    if beat is not None:
        w.document.edit(lambda song: edits.remove_beat(song, beat), decide="chords")


def lengthen_pick_up(w: Window) -> None:
    w.document.edit(edits.lengthen_pick_up, decide="chords")


def move_beat(w: Window, beat: int, seconds: float) -> None:
    w.document.edit(lambda song: edits.move_beat(song, beat, seconds), decide="beats")


def nudge_beat(w: Window, by: float) -> None:
    """The beat at the caret a little earlier or later, by the keys."""
    beat = caret_beat(w)
    song = w.document.song
    if beat is not None and song is not None:
        move_beat(w, beat, song.grid.times[beat] + by)


def tap(w: Window) -> None:
    w.taps.tap()
