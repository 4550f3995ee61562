"""Strokes as the user sees and changes them: a lane under the bars, clicks, typed figures."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPointF, Qt
from pytestqt.qtbot import QtBot

from tests.app.conftest import answer
from ychronos.app.desk.tapfigure import FigureTaps
from ychronos.app.dialogs.figuredialog import FigureDialog
from ychronos.app.sheet.lanes import STROKES_AT
from ychronos.app.window import Window
from ychronos.song import edits
from ychronos.song.alignment import same_material
from ychronos.song.model import Song

LEFT = Qt.MouseButton.LeftButton
FIGURE = "D-dU-Udu"


def song_of(w: Window) -> Song:
    assert w.session.song is not None
    return w.session.song


def click_slot(w: Window, qtbot: QtBot, bar: int, beat: float) -> None:
    made = w.sheet.geometry_
    assert made is not None
    row = next(r for r in made.rows if any(b.bar == bar for b in r.bars))
    box = next(b for b in row.bars if b.bar == bar)
    at = QPointF(box.x_of(beat) + 6, row.y + STROKES_AT * made.scale) - w.sheet._offset()
    qtbot.mouseClick(w.sheet.viewport(), LEFT, pos=at.toPoint())


def test_a_typed_figure_holds_in_the_section_and_is_seen(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    song = song_of(w)
    section = next(i for i in range(len(song.sections)) if len(same_material(song, i)) > 1)
    bar = song.section_bars(section)[0]
    w.session.select(song.grid.bar_range(bar)[0], bar, bar)
    before = w.sheet.verticalScrollBar().maximum()
    w.actions_.actions["strokes"].trigger()
    assert w.sheet.strokes and w.sheet.verticalScrollBar().maximum() > before, "rows make room"
    bare = w.sheet.viewport().grab().toImage()
    answer(monkeypatch, FIGURE, 1)
    w.actions_.actions["figure"].trigger()
    every = [b for i in same_material(song, section) for b in song.section_bars(i)]
    assert all(song_of(w).figure_of_bar(b) == FIGURE for b in every if song.grid.bars[b].beats == 4)
    assert w.sheet.viewport().grab().toImage() != bare
    w.session.undo()
    assert song_of(w).figure_of_bar(bar) == song.figure_of_bar(bar)


def test_a_click_changes_a_stroke_and_nothing_else(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.actions_.actions["strokes"].trigger()
    w.session.select(song_of(w).grid.bar_range(1)[0], 1, 1)
    w.session.edit(lambda s: edits.set_figure(s, [1], FIGURE))
    caret, chords = w.session.selection.caret, song_of(w).chords
    click_slot(w, qtbot, 1, 0.5)
    assert song_of(w).figure_of_bar(1) == "DudU-Udu"
    click_slot(w, qtbot, 1, 0.5)
    assert song_of(w).figure_of_bar(1) == "DUdU-Udu"
    assert w.session.selection.caret == caret and song_of(w).chords == chords


def test_strokes_go_back_to_what_is_heard(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    heard = song_of(w).figure_of_bar(2)
    w.session.edit(lambda s: edits.set_figure(s, [2], "DDDD"))
    w.session.select(song_of(w).grid.bar_range(2)[0], 2, 2)
    w.actions_.actions["figure_section"].trigger()
    section = song_of(w).section_of_bar(2)
    assert {song_of(w).figure_of_bar(b) for b in song_of(w).section_bars(section)} == {"DDDD"}
    w.actions_.actions["figure_forget"].trigger()
    assert song_of(w).figure_of_bar(2) == heard


def dialog_of(w: Window, bar: int) -> tuple[FigureDialog, FigureTaps]:
    song = song_of(w)
    dialog = FigureDialog(w.theme, song.grid.bars[bar].beats, ["D-du"], ["here"], w)
    taps = FigureTaps(w, dialog, [bar, bar + 1])
    dialog.tapped.connect(taps.tap)
    dialog.show()
    return dialog, taps


def test_slots_are_clicked_into_a_figure(ferry_window: Window, qtbot: QtBot) -> None:
    dialog, _ = dialog_of(ferry_window, 1)
    dialog.answer.setCurrentText("D-du----")
    slots = dialog.slots
    wide = slots._wide()
    for _ in range(2):  # soft, then hard
        qtbot.mouseClick(slots, LEFT, pos=QPointF(6 + 5.5 * wide, 30).toPoint())
    assert dialog.text == "D-du-U--"
    qtbot.keyClick(slots, Qt.Key.Key_Right)
    qtbot.keyClick(slots, "b")
    assert dialog.text == "D-du-Ub-"
    dialog.answer.setCurrentText("no figure at all")
    assert slots.figure == "" and "no figure" in slots.accessibleDescription()
    dialog.close()


def test_a_figure_is_tapped_over_the_loop(ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    w = ferry_window
    dialog, _ = dialog_of(w, 2)
    dialog.slots.setFocus()
    qtbot.keyClick(dialog.slots, Qt.Key.Key_T)
    qtbot.waitUntil(lambda: w.playing, timeout=5000)
    assert w.practice.span == (song_of(w).grid.bar_range(2)[0], song_of(w).grid.bar_range(3)[1])
    grid = song_of(w).grid
    for bar in (2, 3, 2):
        for offset in (0, 1, 1.5, 2.5, 3):
            monkeypatch.setattr(type(w), "heard", lambda _, at=grid.starts[bar] + offset: grid.clock(at))
            qtbot.keyClick(dialog.slots, Qt.Key.Key_T)
    assert dialog.text == "D-du-ud-" and "15 taps in 3 bars" in dialog.said.text()
    w.stop_playing()
    dialog.close()


def test_a_figure_is_heard_by_itself(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    dialog, _ = dialog_of(w, 1)
    dialog.demonstrated.connect(lambda text, share: w.hearing.hear_figure(1, text, share))
    qtbot.mouseClick(dialog.hear, LEFT)
    qtbot.waitUntil(lambda: w.player is not None and w.player.sounding, timeout=10000)
    dialog.close()


def test_a_section_is_said_to_have_two_guitars_or_one(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.actions_.actions["strokes"].trigger()
    song = song_of(w)
    section = next(i for i in range(1, len(song.sections)) if any(map(song.figure_of_bar, song.section_bars(i))))
    bars = song.section_bars(section)
    w.session.select(song.sections[section].start, bars[0], bars[0])
    action = w.actions_.actions["paired"]
    was = {b: song.paired_in(b) for b in range(len(song.grid.bars))}
    bare = w.sheet.viewport().grab().toImage()
    for two in (not was[bars[0]], was[bars[0]]):
        action.trigger()
        assert all(song_of(w).paired_in(b) == (two if b in bars else was[b]) for b in was)
        w.menuBar().actions()[5].menu().aboutToShow.emit()
        assert action.isChecked() == two
        qtbot.waitUntil(lambda two=two: (w.sheet.viewport().grab().toImage() != bare) == (two != was[bars[0]]))  # type: ignore[misc]
    w.session.undo()
    w.session.undo()
    assert {b: song_of(w).paired_in(b) for b in was} == was
