"""What the actions on chords and keys do; each takes the window. The table in :mod:`actions` names them."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QInputDialog

from ..song import edits
from ..theory.chord import NO_CHORD
from ..theory.key import Key, parse_key
from ..theory.notation import SCHOOLS
from .fretboard import FretboardDialog
from .partsdialog import PartsDialog

if TYPE_CHECKING:
    from .window import Window


def state_chord(w: Window) -> None:
    w.sheet.start_entry()


def accept_chord(w: Window) -> None:
    """State the chord at the caret as it is shown, over all of its length."""
    d = w.document
    if d.song is None:
        return
    index = d.chord_index
    start, end = d.song.chord_range(index)
    chord = d.song.chords[index].chord
    d.edit(lambda song: edits.state_chord(song, start, end, chord), decide="chords")


def state_rival(w: Window, number: int) -> None:
    d = w.document
    if d.song is None:
        return
    index = d.chord_index
    span = d.song.chords[index]
    if 0 <= number < len(span.rivals):
        start, end = d.song.chord_range(index)
        chord = span.rivals[number][0]
        d.edit(lambda song: edits.state_chord(song, start, end, chord), decide="chords")


def remove_chord(w: Window) -> None:
    d = w.document
    if d.song is None:
        return
    index = d.chord_index
    if d.song.chords[index].start < d.selection.caret and not d.selection.chord:
        w.notice.say("No chord changes at the caret; click a chord's name to choose it.", error=False)
        return
    d.edit(lambda song: edits.remove_chord(song, index), decide="chords")


def toggle_unsure(w: Window) -> None:
    d = w.document
    if d.song is None:
        return
    index = d.chord_index
    unsure = not d.song.chords[index].unsure
    d.edit(lambda song: edits.mark_unsure(song, index, unsure))


def is_unsure(w: Window) -> bool:
    span = w.document.chord_at_caret()
    return bool(span and span.unsure)


def next_doubt(w: Window) -> None:
    """The next doubt after the caret in the order of the song, from the start again at the end."""
    song = w.document.song
    if song is None:
        return
    doubts = sorted(song.doubts())
    if not doubts:
        w.say("No chord is in doubt")
        return
    here = w.document.chord_index
    go_to_chord(w, next((i for i in doubts if i > here), doubts[0]))


def go_to_chord(w: Window, index: int) -> None:
    song = w.document.song
    if song is None or not 0 <= index < len(song.chords):
        return
    w.document.select(song.chords[index].start, chord=True)
    w.seek(song.grid.clock(song.chords[index].start))
    w.sheet.setFocus()


def state_none(w: Window) -> None:
    """State that nobody plays a chord from the caret to the next change, or in the selected bars."""
    if w.document.song is not None:
        w.document.state_chord(NO_CHORD)


def choose_parts(w: Window) -> None:
    """State the chord by its parts."""
    song = w.document.song
    if song is None:
        return
    dialog = PartsDialog(song, w.document.chord_index, w.document.evidence, w)
    dialog.hear.connect(w.hearing.hear)
    if dialog.exec() and dialog.chord is not None:
        w.document.state_chord(dialog.chord)


def play_on_fretboard(w: Window) -> None:
    """State the chord by its shape on a drawn fretboard."""
    song = w.document.song
    if song is None:
        return
    dialog = FretboardDialog(song, w.document.chord_index, w.theme, w)
    dialog.hear_notes.connect(w.hearing.hear_notes)
    if dialog.exec() and dialog.chord is not None:
        w.document.state_chord(dialog.chord)


def split_chord(w: Window) -> None:
    at = w.document.selection.caret
    if w.document.edit(lambda s: edits.split_chord(s, at)):
        w.document.select(at, chord=True)


def join_chord(w: Window) -> None:
    index = w.document.chord_index
    w.document.edit(lambda s: edits.join_chord(s, index), decide="chords")


def move_change(w: Window, halves: int) -> None:
    """Let the chord at the caret come half a beat earlier or later, a third where beats have three parts."""
    d = w.document
    if d.song is None:
        return
    index = d.chord_index
    bar = d.song.grid.bars[d.song.grid.bar_at(d.song.chords[index].start)]
    step = Fraction(halves, bar.meter.division)
    start = d.song.chords[index].start + step
    if d.edit(lambda s: edits.move_change(s, index, step), decide="chords"):
        d.select(start, chord=True)


def copy_to_passes(w: Window) -> None:
    s = w.document.selection
    bars = range(s.first, s.last + 1)
    w.document.edit(lambda song: edits.copy_to_passes(song, bars), decide="chords")


def comment(w: Window) -> None:
    """Mark the chord as unsure and say why."""
    d = w.document
    if d.song is None:
        return
    index = d.chord_index
    words, ok = QInputDialog.getText(
        w, "Unsure", f"What is in doubt about {d.song.chord_name(index)}?", text=d.song.chords[index].comment
    )
    if ok:
        d.edit(lambda s: edits.mark_unsure(s, index, True, " ".join(words.split())))


def articulate(w: Window, kind: str) -> None:
    """Say that the chord is held or stopped, or take that back."""
    d = w.document
    if d.song is None:
        return
    index = d.chord_index
    new = "strummed" if d.song.chords[index].articulation == kind else kind
    d.edit(lambda s: edits.articulate(s, index, new))


def articulated(kind: str) -> Callable[[Window], bool]:
    def is_so(w: Window) -> bool:
        span = w.document.chord_at_caret()
        return bool(span and span.articulation == kind)

    return is_so


# ---------------------------------------------------------------- keys and writing


def state_key(w: Window, key: Key | None = None) -> None:
    """State the key of the selected bars, or of the song when one bar is selected."""
    d = w.document
    if d.song is None:
        return
    s = d.selection
    whole = not s.many
    if key is None:
        present = d.song.key_at(s.caret)
        where = "the song" if whole else f"bars {d.song.grid.number(s.first)} to {d.song.grid.number(s.last)}"
        text, ok = QInputDialog.getText(w, "Key", f"The key of {where}, as E♭ major or F# dorian:", text=present.name())
        if not ok:
            return
        try:
            key = parse_key(text)
        except ValueError as error:
            w.notice.say(f"No key is stated: {error}.")
            return
    chosen = key
    first, last = (None, None) if whole else (s.first, s.last)
    d.edit(lambda song: edits.state_key(song, chosen, first, last), decide="chords")


def respell(w: Window) -> None:
    d = w.document
    if d.song is not None:
        key = d.song.key_at(d.selection.caret)
        d.edit(lambda s: edits.respell_keys(s, key))


def set_notation(w: Window, school: str) -> None:
    w.document.edit(lambda s: edits.set_notation(s, school))


def next_notation(w: Window) -> None:
    song = w.document.song
    if song is not None:
        schools = list(SCHOOLS)
        set_notation(w, schools[(schools.index(song.notation) + 1) % len(schools)])
