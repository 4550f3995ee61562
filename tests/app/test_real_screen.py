"""One run on a real X server: the window opens, shows a song and can be worked with."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from pytestqt.qtbot import QtBot

from tests.app.conftest import bar_point, click, settle
from ychronos.app.window import Window

pytestmark = pytest.mark.screen


def test_the_window_on_a_screen(ferry_window: Window, qtbot: QtBot) -> None:
    assert QGuiApplication.platformName() == "xcb"
    w = ferry_window
    picture = w.grab().toImage()
    colours = {picture.pixelColor(x, y).name() for x in range(150, 1000, 7) for y in range(120, 600, 7)}
    assert len(colours) > 5, "something is drawn"
    click(w, qtbot, bar_point(w, 2))
    said_at = w.session.selection.caret
    qtbot.keyClick(w.sheet, Qt.Key.Key_D, Qt.KeyboardModifier.ShiftModifier)
    qtbot.keyClicks(w.sheet.entry.field, "m9")
    qtbot.keyClick(w.sheet.entry.field, Qt.Key.Key_Return)
    settle(w, qtbot)
    song = w.session.song
    assert song is not None
    assert song.chord_name(song.chord_index(said_at)) == "Dm9"
    assert w.session.selection.caret > said_at, "Enter moves on"
    qtbot.mouseClick(w.desk.play, Qt.MouseButton.LeftButton)
    assert w.playing
    qtbot.mouseClick(w.desk.play, Qt.MouseButton.LeftButton)
    assert not w.playing
