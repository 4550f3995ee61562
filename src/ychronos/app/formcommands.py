"""What the form view's gestures do; each takes the window."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QInputDialog

from ..song import edits
from ..song.alignment import same_material
from ..song.model import Song
from . import commands

if TYPE_CHECKING:
    from .window import Window


def hear_bar(w: Window, bar: int) -> None:
    """Select a bar and play from it."""
    song = w.document.song
    if song is not None:
        w.hear_from(song.grid.clock(song.grid.bar_range(bar)[0]))
        w.select_bars(bar, bar)


def hear_both(w: Window, one: int, two: int) -> None:
    """Play two bars in turn, over and over."""
    song, player = w.document.song, w.player
    if song is None or player is None:
        return
    if one == two:
        hear_bar(w, one)
        return
    w.practice.loop(None)
    limits = [(song.grid.clock(a), song.grid.clock(b), 1) for a, b in (song.grid.bar_range(x) for x in (one, two))]
    player.set_plan(limits, again=True)
    w.practice.passes_on = True
    w.hear_from(limits[0][0])
    w.select_bars(two, two)
    w.say(f"Bars {song.grid.number(one)} and {song.grid.number(two)} in turn (Shift+L ends it)")


def move_edge(w: Window, section: int, bar: int) -> None:
    w.document.edit(lambda s: edits.move_section(s, section, s.grid.bar_range(bar)[0]), decide="chords")


def rename(w: Window, section: int) -> None:
    song = w.document.song
    if song is not None:
        w.document.select(song.sections[section].start)
        commands.rename_section(w)


def same_as(w: Window, section: int) -> None:
    """Ask what a section is the same as."""
    song = w.document.song
    if song is None:
        return
    choices: dict[str, tuple[int | None, bool]] = {_place(song, i): (i, True) for i in w.form.others(section)}
    choices["music of its own"] = (None, True)
    twins = [i for i in same_material(song, section) if i != section]
    choices |= {f"not the same as {_place(song, i)}": (i, False) for i in twins}
    name, ok = QInputDialog.getItem(w, "The same as", f"{_place(song, section)} is", [*choices], 0, False)
    if ok:
        like, positive = choices[name]
        w.document.edit(lambda s: edits.state_material(s, section, like, positive), decide="chords")


def _place(song: Song, section: int) -> str:
    found = song.sections[section]
    return f"{found.name} at bar {song.grid.number(song.grid.bar_at(found.start))}"


def same_here(w: Window) -> None:
    song = w.document.song
    if song is not None:
        same_as(w, song.section_index(w.document.selection.caret))
