"""What is painted, as a screen reader goes through it."""

from __future__ import annotations

from PySide6.QtGui import QAccessible, QAccessibleInterface
from PySide6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot

from ychronos.app.window import Window
from ychronos.song import edits
from ychronos.theory.chord import parse_chord

Text, Role = QAccessible.Text, QAccessible.Role


def reached(widget: QWidget) -> QAccessibleInterface:
    found = QAccessible.queryAccessibleInterface(widget)
    assert found is not None
    return found


def names(of: QAccessibleInterface) -> list[str]:
    return [of.child(i).text(Text.Name) for i in range(of.childCount())]


def test_bars_and_chords_are_children_of_the_sheet(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    sheet = reached(w.sheet)
    assert sheet.role() == Role.List and sheet.childCount() == len(song.grid.bars)
    assert sheet.text(Text.Name) == w.sheet.accessibleName() != ""
    read = names(sheet)
    first = song.section_bars(1)[0]
    assert read[first].startswith(f"{song.sections[1].name}, bar {song.grid.number(first)}: ")
    bar = sheet.child(first)
    assert bar.role() == Role.ListItem and bar.parent().role() == Role.List and bar.childCount() >= 1
    chord = bar.child(0)
    at = song.chord_index(song.grid.bar_range(first)[0])
    assert chord.text(Text.Name) == song.chord_name(at) and "sure" in chord.text(Text.Description)
    assert sheet.indexOfChild(bar) == first and bar.indexOfChild(chord) == 0


def test_where_it_stands_what_is_chosen_and_what_changes(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    sheet = reached(w.sheet)
    bar = w.sheet.geometry_.rows[2].bars[1].bar  # type: ignore[union-attr]
    w.session.select(song.grid.bar_range(bar)[0], bar, bar)
    assert [i for i in range(sheet.childCount()) if sheet.child(i).state().selected] == [bar]
    box = sheet.child(bar).rect()
    shown = w.sheet.viewport().mapFromGlobal(box.center())
    assert w.sheet.viewport().rect().contains(shown) and not sheet.child(bar).state().offscreen
    assert sheet.childAt(box.center().x(), box.center().y()) is sheet.child(bar)
    assert sheet.child(len(song.grid.bars) - 1).state().offscreen, "what lies below the window"
    w.sheet.verticalScrollBar().setValue(w.sheet.verticalScrollBar().value() + 40)
    assert sheet.child(bar).rect().top() == box.top() - 40
    w.session.select(song.grid.bar_range(bar)[0], chord=True)
    w.session.state_chord(parse_chord("F#m7b5"))
    chord = sheet.child(bar).child(0)
    assert chord.text(Text.Name) == w.session.song.chord_name(w.session.chord_index)  # type: ignore[union-attr]
    assert "you stated it" in chord.text(Text.Description) and chord.state().selected
    w.close_document()
    assert sheet.childCount() == 0 and not chord.isValid() and chord.text(Text.Name) == ""


def test_sections_are_children_of_the_form(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.show_view("form")
    song, strip = w.session.song, w.views["form"].strip
    assert song is not None
    read = reached(strip)
    assert read.childCount() == len(song.sections)
    assert read.child(1).text(Text.Name).startswith(song.sections[1].name)
    assert "bars" in read.child(1).text(Text.Description)
    strip.section_chosen.emit(1)
    assert [read.child(i).state().selected for i in range(3)] == [False, True, False]
    w.session.edit(lambda s: edits.rename_section(s, 1, "Harbour part"))
    assert "Harbour part" in names(read)[1]
    assert read.childAt(-5, -5) is None
