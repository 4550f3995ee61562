"""Going back to any step, and a word when long work ends behind another window."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from ychronos.app import alerts
from ychronos.app.window import Window
from ychronos.song import edits


def test_any_step_is_a_click_away(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    songs = [w.session.song]
    for k in range(3):
        at = w.session.song.grid.bar_range(2 + k)[0]  # type: ignore[union-attr]
        w.session.edit(lambda s, at=at: edits.set_mark(s, at, f"mark {at}"))
        songs.append(w.session.song)
    w.actions_.actions["steps"].trigger()
    listed = w.steps.list
    assert listed.count() == 4 and listed.currentRow() == 3
    qtbot.mouseClick(listed.viewport(), Qt.MouseButton.LeftButton, pos=listed.visualItemRect(listed.item(1)).center())
    assert w.session.song is songs[1]
    assert listed.item(2).font().italic() and listed.item(1).font().bold()
    listed.setCurrentRow(3)
    w.steps.activateWindow()
    qtbot.waitUntil(w.steps.isActiveWindow, timeout=3000)
    qtbot.keyClick(listed, Qt.Key.Key_Return)
    assert w.session.song is songs[3]
    w.session.go_to_step(0)
    w.session.edit(lambda s: edits.set_mark(s, s.grid.bar_range(5)[0], "another way"))
    assert listed.count() == 2, "what was taken back gives way to what is done now"
    assert w.session.history.can_undo
    w.session.go_to_step(99)
    assert w.session.history.at == 1


def test_all_bars_are_selected(ferry_window: Window) -> None:
    w = ferry_window
    w.actions_.actions["select_all"].trigger()
    assert w.session.song is not None
    assert (w.session.selection.first, w.session.selection.last) == (0, len(w.session.song.grid.bars) - 1)


def test_the_end_of_long_work_is_told_to_who_is_elsewhere(
    window: Window, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot
) -> None:
    told: list[str] = []
    monkeypatch.setattr(alerts, "tell", lambda *words: told.append(words[2]))
    monkeypatch.setattr(alerts, "is_away", lambda _: True)
    window.start_job("Reading", lambda job: None, lambda _: None, lambda _: None)
    qtbot.waitUntil(lambda: window.job is None, timeout=5000)
    assert told == [], "what takes no time is not told"
    monkeypatch.setattr(alerts, "LONG", -1.0)
    window.start_job("Reading", lambda job: None, lambda _: None, lambda _: None)
    qtbot.waitUntil(lambda: window.job is None, timeout=5000)
    assert told == ["Reading: over"]
