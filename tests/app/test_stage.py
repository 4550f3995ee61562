"""Playing along: the stage follows the record, pedals turn its rows."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from ychronos.app.stage.stageview import StageView
from ychronos.app.window import Window


def on_stage(w: Window) -> StageView:
    w.actions_.actions["stage"].trigger()
    assert isinstance(w.stage, StageView) and w.stage.isVisible()
    return w.stage


def test_it_follows_the_record(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    stage = on_stage(w)
    song = w.session.song
    assert song is not None
    grid = song.grid
    w._clock_of_views(grid.clock(grid.starts[5] + 2.5))
    assert (stage.bar, stage.beat) == (5, 2)
    assert stage.visible_rows()[0].first <= 5 < stage.visible_rows()[0].last
    assert stage.chord_now() in stage.accessibleDescription()
    before = stage.grab().toImage()
    w._clock_of_views(grid.clock(grid.starts[9] + 0.5))
    assert stage.grab().toImage() != before
    stage.close()


def test_pedals_go_from_row_to_row_and_space_plays(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    stage = on_stage(w)
    at = stage.row_index()
    qtbot.keyClick(stage, Qt.Key.Key_PageDown)
    qtbot.keyClick(stage, Qt.Key.Key_Return)
    assert stage.row_index() == at + 2
    assert w.player is not None and w.player.seconds == pytest.approx(
        w.session.song.grid.clock(w.session.song.grid.starts[stage.rows[at + 2].first]),
        abs=0.01,  # type: ignore[union-attr]
    )
    qtbot.keyClick(stage, Qt.Key.Key_PageUp)
    assert stage.row_index() == at + 1
    qtbot.keyClick(stage, Qt.Key.Key_Space)
    assert w.playing
    qtbot.keyClick(stage, Qt.Key.Key_Space)
    assert not w.playing
    rows = stage.shown
    qtbot.keyClick(stage, "-")
    assert stage.shown > rows
    qtbot.keyClick(stage, Qt.Key.Key_Escape)
    assert not stage.isVisible()


def test_it_shows_what_is_stated_meanwhile_and_goes_with_the_window(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    stage = on_stage(w)
    before = stage.grab().toImage()
    w.session.select(w.session.song.grid.bar_range(stage.bar)[0])  # type: ignore[union-attr]
    w.sheet.state_line("Ebmaj9")
    assert stage.grab().toImage() != before
    w.close()
    assert not stage.isVisible()
