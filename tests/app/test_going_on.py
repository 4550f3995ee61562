"""A normal start offers to go on where one was."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from tests.app.conftest import open_and_wait
from ychronos.app.settings import Left, Settings
from ychronos.app.window import Window
from ychronos.formats import project


def test_the_song_the_place_and_the_view_come_back(
    ferry_window: Window, make_window: Callable[[], Window], qtbot: QtBot, tmp_path: Path
) -> None:
    w = ferry_window
    path = tmp_path / "ferry.ychronos"
    assert w.session.song is not None
    project.save(w.session.song, path)
    open_and_wait(w, path, qtbot)
    at = w.session.song.grid.bar_range(9)[0] + 1
    number = w.session.song.grid.number(9)
    w.session.select(at)
    w.show_view("form")
    w.close()
    again = make_window()
    offer = again.welcome.go_on
    assert offer.isVisible() and f"bar {number}" in offer.text() and "Ferry" in offer.text()
    qtbot.mouseClick(offer, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: again.session.song is not None, timeout=20000)
    assert again.session.path == path
    assert again.session.selection.caret == at and again.view == "form"
    qtbot.waitUntil(lambda: again.job is None, timeout=60000)
    assert again.session.selection.caret == at


def test_what_is_gone_is_not_offered(make_window: Callable[[], Window], tmp_path: Path) -> None:
    settings = Settings(tmp_path / "settings.ini")
    settings.set_left(Left(tmp_path / "no such.ogg", "No such", 4.0, 2, "sheet"))
    settings.sync()
    assert not make_window().welcome.go_on.isVisible()


@pytest.mark.parametrize("value", ["", "\0", "nan", "[]"])
def test_what_is_no_place_is_not_remembered(tmp_path: Path, value: str) -> None:
    settings = Settings(tmp_path / "settings.ini")
    settings.set_left(Left(tmp_path, "x", 3.0, 1, "key"))
    settings.set("left/beat", value)
    settings.set("left/bar", value)
    left = settings.left()
    assert left is not None and left.beat == 0 and left.bar == 1
    settings.set("left/path", value if value != "nan" else "")
    assert settings.left() is None or value == "[]"


def test_a_place_beyond_the_song_is_its_end(ferry_window: Window) -> None:
    w = ferry_window
    assert w.session.recording is not None and w.session.song is not None
    w._going_on = Left(w.session.recording.path, "", 1e5, 1, "nowhere")
    w._place_again(w.session.recording.path)
    assert w.session.selection.caret == w.session.song.grid.end - Fraction(1)
