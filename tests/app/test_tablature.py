"""Writing and changing lines on the sheet, as a user does it: clicks, digits, arrows, drags."""

from __future__ import annotations

from fractions import Fraction

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from pytestqt.qtbot import QtBot

from ychronos.analysis.lines import leadline
from ychronos.app.dialogs.scaledialog import ScalesDialog
from ychronos.app.sheet.geometry import STRING
from ychronos.app.window import Window
from ychronos.song import edits
from ychronos.song.edits import HeardNote
from ychronos.song.model import Song

LEFT = Qt.MouseButton.LeftButton


def song_of(w: Window) -> Song:
    assert w.session.song is not None
    return w.session.song


def point(w: Window, bar: int, beat: float, string: int) -> QPoint:
    """Where a string is at a beat of a bar, as a click would hit it."""
    made = w.sheet.geometry_
    assert made is not None
    row, box = made.box_of_bar(bar)
    y = row.y + (box.tab + (5 - string) * STRING) * made.scale
    return (QPointF(box.x_of(beat) + 9, y) - w.sheet._offset()).toPoint()


def type_keys(w: Window, qtbot: QtBot, keys: str) -> None:
    for key in keys:
        qtbot.keyClick(w.sheet, key)


def frets(w: Window, bar: int) -> list[tuple[Fraction, int, int]]:
    song = song_of(w)
    start = song.grid.starts[bar]
    return [(n.at - start, song.spot_of(n.value).string, song.spot_of(n.value).fret) for n in song.line_of_bar(bar)]


def with_line(w: Window) -> int:
    """A line in the second bar of the song's first section; which bar that is."""
    song = song_of(w)
    bar = song.section_bars(0)[1]
    at = song.grid.bar_range(bar)[0]
    notes = [
        HeardNote(at + k, Fraction(1), n, sure=0.3 if k == 1 else 1.0, rivals=(n + 7,))
        for k, n in enumerate((45, 48, 50))
    ]
    assert w.session.edit(lambda s: edits.put_line(s, at, at + 4, notes))
    return bar


def test_rows_with_a_line_make_room_and_others_do_not(ferry_window: Window) -> None:
    w = ferry_window
    bar = with_line(w)
    made = w.sheet.geometry_
    assert made is not None
    row = made.row_of_bar(bar)
    assert all(b.tab > 0 for b in row.bars)
    assert not any(b.tab for r in made.rows if r is not row for b in r.bars)
    w.actions_.actions["tabs"].trigger()
    made = w.sheet.geometry_
    assert made is not None and all(b.tab for r in made.rows if not r.row.silent for b in r.bars)


def test_frets_are_typed_where_one_clicks(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.actions_.actions["tabs"].trigger()
    bar = song_of(w).section_bars(0)[0]
    chords, grid = song_of(w).chords, song_of(w).grid
    qtbot.mouseClick(w.sheet.viewport(), LEFT, pos=point(w, bar, 1.0, 3))
    type_keys(w, qtbot, "7")
    assert frets(w, bar) == [(Fraction(1), 3, 7)]
    w.sheet.tab._typed = (0.0, "")
    type_keys(w, qtbot, "12")
    assert frets(w, bar) == [(Fraction(1), 3, 12)], "two digits are one fret"
    assert song_of(w).chords == chords and song_of(w).grid == grid, "“1” is no downbeat here"
    w.session.undo()
    w.session.undo()
    assert frets(w, bar) == [(Fraction(1), 3, 7)]
    w.session.undo()
    assert frets(w, bar) == []


def test_keys_change_a_chosen_note(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    bar = with_line(w)
    before = song_of(w).chords
    qtbot.mouseClick(w.sheet.viewport(), LEFT, pos=point(w, bar, 1.0, 1))
    qtbot.keyClick(w.sheet, Qt.Key.Key_H)
    assert song_of(w).line_of_bar(bar)[1].value.sign == "h"
    qtbot.keyClick(w.sheet, Qt.Key.Key_Down)
    assert frets(w, bar)[1] == (Fraction(1), 0, 8), "the same note on the string below"
    qtbot.keyClick(w.sheet, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
    assert song_of(w).line_of_bar(bar)[1].value.note == 55, "its other reading"
    qtbot.keyClick(w.sheet, Qt.Key.Key_Right)
    assert w.sheet.tab.chosen is not None and w.sheet.tab.chosen.at - song_of(w).grid.starts[bar] == 2
    qtbot.keyClick(w.sheet, Qt.Key.Key_Delete)
    assert len(frets(w, bar)) == 2 and song_of(w).chords == before, "Delete takes the note, not the chord"
    qtbot.keyClick(w.sheet, Qt.Key.Key_Escape)
    assert w.sheet.tab.chosen is None


def test_a_note_is_dragged_in_time(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    bar = with_line(w)
    view = w.sheet.viewport()
    start, end = point(w, bar, 2.0, 2), point(w, bar, 3.5, 2)
    qtbot.mousePress(view, LEFT, pos=start)
    for share in (0.3, 0.7, 1.0):
        at = start + (end - start) * share
        qtbot.mouseMove(view, at)
        from PySide6.QtGui import QMouseEvent

        event = QMouseEvent(
            QMouseEvent.Type.MouseMove, QPointF(at), view.mapToGlobal(QPointF(at)), Qt.MouseButton.NoButton, LEFT,
            Qt.KeyboardModifier.NoModifier,
        )  # fmt: skip
        w.sheet.mouseMoveEvent(event)
    qtbot.mouseRelease(view, LEFT, pos=end)
    assert frets(w, bar)[2] == (Fraction(7, 2), 2, 0)
    w.session.undo()
    assert frets(w, bar)[2] == (Fraction(2), 2, 0)


def test_by_keyboard_alone(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    bar = song_of(w).section_bars(0)[0]
    w.session.select(song_of(w).grid.bar_range(bar)[0] + 1)
    w.actions_.actions["tab_here"].trigger()
    assert w.sheet.hasFocus() and w.sheet.tab.chosen is not None
    qtbot.keyClick(w.sheet, Qt.Key.Key_Down)
    type_keys(w, qtbot, "3")
    assert frets(w, bar) == [(Fraction(1), 4, 3)]


def test_a_line_is_taken_away_and_placed_elsewhere(ferry_window: Window, monkeypatch) -> None:  # type: ignore[no-untyped-def]
    w = ferry_window
    bar = with_line(w)
    w.session.select(song_of(w).grid.bar_range(bar)[0], bar, bar)
    monkeypatch.setattr(w.session.asks, "text", lambda *_: "7")
    w.actions_.actions["line_near"].trigger()
    assert min(f for _, _, f in frets(w, bar)) >= 4
    w.actions_.actions["line_clear"].trigger()
    assert frets(w, bar) == []


def test_it_is_heard_alone_under_the_record(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    with_line(w)
    w.actions_.actions["line_sound"].trigger()
    qtbot.waitUntil(lambda: w.player is not None and w.player.chart is not None, timeout=5000)
    assert w.player is not None and w.player.chart is not None
    w.actions_.actions["line_sound"].trigger()
    qtbot.waitUntil(lambda: w.player is not None and w.player.chart is None, timeout=5000)


def test_scales_are_shown_for_the_selected_bars(ferry_window: Window) -> None:
    w = ferry_window
    bar = with_line(w)
    start, end = song_of(w).grid.bar_range(bar)
    dialog = ScalesDialog(song_of(w), start, end, w.theme, w)
    assert dialog.list.count() == len(dialog.found) > 3
    dialog.show()
    before = dialog.neck.grab().toImage()
    dialog.list.setCurrentRow(2)
    assert dialog.neck.scale == dialog.found[2] and dialog.neck.grab().toImage() != before
    names = dialog.neck.grab().toImage()
    dialog.degrees.setChecked(True)
    assert dialog.neck.grab().toImage() != names
    assert dialog.played == {n.value.note % 12 for n in song_of(w).line_of_bar(bar)}
    dialog.close()


def test_degrees_stand_instead_of_frets(ferry_window: Window) -> None:
    w = ferry_window
    with_line(w)
    frets_shown = w.sheet.viewport().grab().toImage()
    w.actions_.actions["degrees"].trigger()
    assert w.sheet.degrees and w.sheet.viewport().grab().toImage() != frets_shown


def test_a_line_is_found_in_the_selected_bars_and_taken_back(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.session.select(song_of(w).grid.bar_range(0)[0], 0, 3)
    w.actions_.actions["line"].trigger()
    assert w.job is not None and w.strip.isVisible()
    job = w.job
    w.actions_.actions["line"].trigger()
    assert w.job is job, "a second wish does not end the first"
    qtbot.waitUntil(lambda: w.job is None, timeout=60000)
    song = song_of(w)
    assert len(song.line) >= 12 and all(song.grid.bar_at(n.at) <= 4 for n in song.line), "the picked intro"
    chords = [(n, song.chords[song.chord_index(n.at)].chord) for n in song.line]
    inside = sum(n.value.note % 12 in c.pitch_classes for n, c in chords)
    assert inside >= 0.7 * len(chords), "mostly notes of its chords"
    w.session.undo()
    assert not song_of(w).line
    w.practice.loop(*song_of(w).grid.bar_range(1))
    w.session.select(song_of(w).grid.bar_range(1)[0])
    w.actions_.actions["line_second"].trigger()
    qtbot.waitUntil(lambda: w.job is None, timeout=60000)
    assert {n.value.lane for n in song_of(w).line} == {1}
    assert {song_of(w).grid.bar_at(n.at) for n in song_of(w).line} <= {1}, "only in the loop"


def test_where_nothing_plays_that_is_said(ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    w = ferry_window
    monkeypatch.setattr(leadline, "find", lambda *_: [])
    w.actions_.actions["line"].trigger()
    qtbot.waitUntil(lambda: w.job is None, timeout=60000)
    assert "No line was heard" in w.notice.words.text() and not song_of(w).line
