"""What waits for the next turn of the event loop."""

from __future__ import annotations

import time

import pytest
from PySide6.QtCore import QObject, Qt, QTimer
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from tests.app.conftest import settle
from ychronos.app import soon
from ychronos.app.soon import Soon
from ychronos.app.window import Window


def test_many_wishes_in_one_turn_are_one_call(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(Soon, "waits", True)
    calls: list[int] = []
    parent = QObject()
    wish = Soon(lambda: calls.append(1), parent)
    for _ in range(5):
        wish()
    assert not calls
    qtbot.waitUntil(lambda: bool(calls), timeout=2000)
    qtbot.wait(20)
    assert calls == [1]
    wish()
    wish.done()
    qtbot.wait(20)
    assert calls == [1], "what is done already is not done again"


def test_what_can_wait_waits_for_a_turn_with_time(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    """After long work in one turn it is called in a later one, but it does not wait for ever."""
    monkeypatch.setattr(Soon, "waits", True)
    spent = [1.0]
    monkeypatch.setattr(soon.TURN, "spent", lambda: spent[0])
    calls: list[int] = []
    parent = QObject()
    wish = Soon(lambda: calls.append(1), parent)
    wish()
    for _ in range(2):
        QApplication.processEvents()
    assert not calls
    spent[0] = 0.0
    qtbot.waitUntil(lambda: bool(calls), timeout=2000)
    spent[0] = 1.0
    wish()
    qtbot.waitUntil(lambda: len(calls) == 2, timeout=2000)


def test_a_turn_begins_with_the_event_loop(qtbot: QtBot) -> None:
    soon.TURN.spent()
    qtbot.wait(5)
    time.sleep(0.3)
    assert soon.TURN.spent() >= 0.3
    seen: list[float] = []
    QTimer.singleShot(10, lambda: seen.append(soon.TURN.spent()))
    qtbot.waitUntil(lambda: bool(seen), timeout=2000)
    assert seen[0] < 0.25, "another turn"


def test_the_panel_follows_a_statement_in_the_next_turn(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    monkeypatch.setattr(Soon, "waits", True)
    looked: list[int] = []
    show = w.side._show_chord
    monkeypatch.setattr(w.side, "_show_chord", lambda: (looked.append(1), show())[1])
    song = w.session.song
    assert song is not None
    w.session.select(song.chords[6].start, chord=True)
    qtbot.keyClicks(w.sheet, "B")
    qtbot.keyClicks(w.sheet.entry.field, "m7")
    qtbot.keyClick(w.sheet.entry.field, Qt.Key.Key_Return)
    assert not looked, "not within the same press of a key"
    settle(w, qtbot)
    assert looked
    w.session.select(song.chords[6].start, chord=True)
    qtbot.waitUntil(lambda: w.side.chord.text() == "Bm7", timeout=2000)
    assert w.side.state.text().startswith("you stated it")
