"""The ground view, the corrected tape and the guitar in the real window."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QPushButton
from pytestqt.qtbot import QtBot

from tests.app.conftest import open_and_wait
from tests.conftest import WALTZ
from ychronos.app import files
from ychronos.app.dialogs.guitardialog import GuitarDialog
from ychronos.app.window import Window
from ychronos.audio import recording
from ychronos.song.model import Song

Left, NoMods = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


@pytest.fixture
def waltz_window(window: Window, qtbot: QtBot) -> Window:
    open_and_wait(window, WALTZ, qtbot)
    return window


def song_of(window: Window) -> Song:
    song = window.session.song
    assert song is not None
    return song


def press(button: QPushButton, qtbot: QtBot) -> None:
    qtbot.mouseClick(button, Left)


def test_ground_says_what_is_known(waltz_window: Window, qtbot: QtBot) -> None:
    w = waltz_window
    press(w.tabs.buttons[1], qtbot)
    assert w.page_shown is w.ground
    assert w.ground.value.text().startswith(("34 ¢ sharp", "35 ¢ sharp"))
    assert "steady" in w.ground.steady.text()
    first = w.ground.causes[0].text()
    assert "likely" in first
    assert "2.0 % fast" in first
    assert not any("tuned down" in c.text() for c in w.ground.causes if c.isVisible()), "nothing shows that"
    words = w.ground.time.describe(song_of(w).grid.times[12])
    assert "3/4" in words
    assert "a minute" in words
    qtbot.keyClick(w, Qt.Key.Key_1, Qt.KeyboardModifier.ControlModifier)
    assert w.pages.currentIndex() == 1


def test_the_side_panel_is_remembered_from_any_view(
    waltz_window: Window, qtbot: QtBot, make_window: Callable[[], Window]
) -> None:
    w = waltz_window
    w.show_view("ground")
    w.close()
    again = make_window()
    assert not again.side.isHidden()
    assert not again.tabs.isVisible(), "nothing is open"
    again.open_path(WALTZ)
    assert again.view == "sheet"
    qtbot.waitUntil(lambda: again.job is None, timeout=60000)
    assert again.tabs.buttons[1].isEnabled()


def test_a_click_on_the_ground_plays_from_there_and_a_double_click_goes_to_the_bar(
    waltz_window: Window, qtbot: QtBot
) -> None:
    w = waltz_window
    w.show_view("ground")
    view = w.ground.time
    seconds = song_of(w).grid.clock(song_of(w).grid.starts[20]) + 0.2
    at = QPoint(round(view.x_of(seconds)), round(view.places().bars.center().y()))
    QTest.mouseClick(view, Left, NoMods, at)
    assert w.playing
    assert w.heard() == pytest.approx(seconds, abs=0.2)
    w.stop_playing()
    QTest.mouseDClick(view, Left, NoMods, at)
    assert w.pages.currentIndex() == 1
    assert song_of(w).grid.bar_at(w.session.selection.caret) == 20


def test_the_tape_is_corrected_and_times_stay_the_originals(waltz_window: Window, qtbot: QtBot) -> None:
    w = waltz_window
    assert w.player is not None
    before, clock = len(w.player.samples), song_of(w).grid.times
    w.show_view("ground")
    w.seek(20.0)
    press(w.ground.pitch, qtbot)
    qtbot.waitUntil(lambda: w.job is None, timeout=20000)
    stretch = 2 ** (song_of(w).ground.cents / 1200)
    assert len(w.player.samples) == pytest.approx(before * stretch, abs=3)
    assert w.heard() == pytest.approx(20.0, abs=0.01)
    assert song_of(w).grid.times == clock
    assert w.desk.time.text().startswith("0:20.0")
    press(w.ground.clock, qtbot)
    w.seek(20.0)
    assert w.desk.time.text().startswith("0:20.4"), "as on the corrected record"
    assert "corrected" in w.head.record.value.text()
    w.actions_.actions["undo"].trigger()
    w.actions_.actions["undo"].trigger()
    assert len(w.player.samples) == before
    assert not song_of(w).ground.tape_cents


def test_a_saved_project_plays_corrected_again(waltz_window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    w = waltz_window
    w.actions_.actions["true_pitch"].trigger()
    qtbot.waitUntil(lambda: w.job is None, timeout=20000)
    assert files.save_to(w, tmp_path / "waltz.ychronos")
    w.close_document()
    assert w.player is None
    open_and_wait(w, tmp_path / "waltz.ychronos", qtbot)
    qtbot.waitUntil(lambda: w.player is not None and w.player.stretch > 1.01 and w.job is None, timeout=20000)
    assert w.actions_.actions["true_pitch"].isChecked()
    assert not w.session.dirty
    w.actions_.actions["true_pitch"].trigger()
    assert w.player is not None
    assert w.player.stretch == 1.0


def test_stopping_the_correction_leaves_the_record_as_it_plays(waltz_window: Window, qtbot: QtBot) -> None:
    w = waltz_window
    w.actions_.actions["true_pitch"].trigger()
    w.cancel_job()
    qtbot.waitUntil(lambda: w.job is None, timeout=20000)
    qtbot.wait(50)
    assert w.job is None, "it is not begun again by itself"
    assert w.player is not None
    if w.player.stretch == 1.0:  # it may have been done before it could be stopped
        assert not song_of(w).ground.tape_cents
    assert w.player.stretch == pytest.approx(song_of(w).ground.stretch)


def test_the_corrected_record_is_written(
    waltz_window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = waltz_window
    out = tmp_path / "waltz in tune.flac"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(out), ""))
    w.actions_.actions["export_audio"].trigger()
    qtbot.waitUntil(lambda: w.job is None, timeout=30000)
    sound = recording.load(out)
    assert sound.duration == pytest.approx(
        song_of(w).recording.duration * 2 ** (song_of(w).ground.cents / 1200), abs=0.01
    )
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(WALTZ), ""))
    w.actions_.actions["export_audio"].trigger()
    assert "original record" in w.notice.words.text()


def test_capo_gives_shapes_and_typing_is_what_is_shown(waltz_window: Window, qtbot: QtBot) -> None:
    w = waltz_window
    dialog = GuitarDialog(song_of(w), w)
    qtbot.addWidget(dialog)
    dialog.capo.setValue(2)
    assert "G major" in dialog.words.text()
    dialog.tuning.setCurrentText("nonsense")
    assert dialog.setup is None
    assert "no tuning" in dialog.words.text()
    dialog.tuning.setCurrentText("D A D G B E")
    dialog.show_.setCurrentIndex(1)
    setup = dialog.setup
    assert setup is not None
    assert setup.tuning_name == "drop D"
    from ychronos.song import edits

    w.session.edit(lambda s: edits.set_guitar(s, setup))
    assert w.head.guitar.value.text() == "drop D, capo 2"
    index = next(i for i in range(4, 40) if song_of(w).sounding_name(i) == "A")
    w.session.select(song_of(w).chords[index].start, chord=True)
    assert w.side.chord.text() == "G"
    assert "sounds as A" in w.side.state.text()
    w.sheet.setFocus()
    qtbot.keyClick(w.sheet, Qt.Key.Key_C)
    qtbot.keyClick(w.sheet.entry.field, Qt.Key.Key_Return)
    assert song_of(w).sounding_name(index) == "D" and song_of(w).chord_name(index) == "C"
    w.actions_.actions["names"].trigger()
    assert song_of(w).guitar.show == "both"
    w.actions_.actions["names"].trigger()
    assert song_of(w).guitar.show == "sounding"
