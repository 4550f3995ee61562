"""The listening desk as a player uses it: loops by key, speed, drill, count-in, parts, marks, export, own keys."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QInputDialog
from pytestqt.qtbot import QtBot

from tests.app.conftest import bar_point, settle
from ychronos.app.desk import heard
from ychronos.app.desk.practicedialog import PracticeDialog
from ychronos.app.window import Window
from ychronos.audio.decode import AudioError
from ychronos.audio.play import outputs
from ychronos.audio.play.outputs import ManualOutput
from ychronos.formats import project
from ychronos.session import practice
from ychronos.session.practice import Drill

Key = Qt.Key
NONE, SHIFT, CTRL = (
    Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier,
)  # fmt: skip


def out(w: Window) -> ManualOutput:
    assert isinstance(w.output, ManualOutput)
    return w.output


def press(w: Window, qtbot: QtBot, key: Key, modifier: Qt.KeyboardModifier = NONE) -> None:
    w.sheet.setFocus()
    qtbot.keyClick(w.sheet, key, modifier)
    qtbot.wait(5)


def select(w: Window, first: int, last: int) -> None:
    assert w.session.song is not None
    w.session.select(w.session.song.grid.bar_range(first)[0], first, last)


def test_the_loop_moves_and_grows_by_key_while_it_plays(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None and w.player is not None
    select(w, 4, 5)
    press(w, qtbot, Key.Key_L)
    press(w, qtbot, Key.Key_Space)
    out(w).advance(1.0)
    for key, bars in ((Key.Key_BraceRight, (5, 6)), (Key.Key_ParenRight, (5, 7)), (Key.Key_ParenLeft, (5, 6)), (Key.Key_BraceLeft, (4, 5))):  # fmt: skip
        press(w, qtbot, key)
        assert w.sheet.loop == bars
        first, last = song.grid.clock(song.grid.starts[bars[0]]), song.grid.clock(song.grid.starts[bars[1] + 1])
        rate = w.player.rate
        assert w.player.loop == pytest.approx((first * rate, last * rate), abs=1)
        out(w).advance(0.3)
        assert w.playing and first - 0.01 <= w.player.seconds <= last
    press(w, qtbot, Key.Key_ParenRight, CTRL)
    assert w.practice.span == (song.grid.starts[4], song.grid.starts[6] + 1)
    assert "9 beats" in w.desk.loop.text()
    assert len(w.practice.loops) == 4, "what was looped is kept, once each"
    press(w, qtbot, Key.Key_L)
    assert w.player.loop is None
    heard.loop_again(w, 1)
    assert w.practice.span == (song.grid.starts[4], song.grid.starts[6])
    assert heard.loop_name(w, 0).endswith("bars 5–6")


def test_speed_by_key_and_slider(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    assert w.player is not None
    press(w, qtbot, Key.Key_F3, SHIFT)
    assert w.player.speed == 0.5 and w.desk.speed.value() == 50 and "50%" in w.desk.speed_words.text()
    press(w, qtbot, Key.Key_F4)
    assert w.player.speed == 0.55
    w.desk.speed.setValue(80)
    assert w.practice.speed == 0.8
    w.play_from_caret()
    before = w.player.seconds
    out(w).advance(1.0)
    assert w.player.seconds - before == pytest.approx(0.8, abs=0.01)
    press(w, qtbot, Key.Key_F4, SHIFT)
    out(w).advance(0.2)
    assert w.player.speed == 1.0


def test_pitch_and_as_if_in_tune(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    assert w.player is not None and w.session.song is not None
    press(w, qtbot, Key.Key_Up, CTRL | SHIFT)
    assert w.player.cents == 100 and w.hearing.cents() == pytest.approx(w.session.song.ground.cents + 100)
    press(w, qtbot, Key.Key_Down, CTRL | SHIFT)
    press(w, qtbot, Key.Key_P, SHIFT)
    assert w.player.cents == pytest.approx(-w.session.song.ground.cents)
    assert w.hearing.cents() == pytest.approx(0, abs=1e-6) and "in tune" in w.desk.speed_words.text()


def test_what_to_hear(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    assert w.player is not None
    press(w, qtbot, Key.Key_W)
    player = w.player
    qtbot.waitUntil(lambda: player.ear == "low", timeout=20_000)  # what filters may have to be loaded
    assert w.desk.ear.currentData() == "low"
    w.desk.ear.setCurrentIndex(3)
    w.desk.ear.activated.emit(3)
    assert w.player.ear == "centre"
    w.play_from_caret()
    heard = out(w).advance(0.5)
    assert np.array_equal(heard[:, 0], heard[:, 1])
    press(w, qtbot, Key.Key_W, SHIFT)
    assert w.player.ear == "whole"


def test_what_filters_is_not_waited_for(ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    """The record goes on as it is until it can be filtered; what is chosen then is heard."""
    w, ready = ferry_window, []
    assert w.player is not None
    monkeypatch.setattr(practice, "is_loaded", lambda library: False)
    monkeypatch.setattr(practice, "load_soon", lambda library, seconds, then: ready.append(then))
    press(w, qtbot, Key.Key_W)
    assert w.desk.ear.currentData() == "low" and w.player.ear == "whole" and len(ready) == 1
    press(w, qtbot, Key.Key_W)
    assert w.desk.ear.currentData() == "middle" and w.player.ear == "whole"
    monkeypatch.setattr(practice, "is_loaded", lambda library: True)
    ready[0]()
    assert w.player.ear == "middle"


def test_record_and_chart_at_the_same_place(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    player = w.player
    assert player is not None
    press(w, qtbot, Key.Key_X)
    assert (player.record_gain, player.chart_gain) == (0.0, 1.0) and w.desk.ab.isChecked()
    qtbot.waitUntil(lambda: player.chart is not None, timeout=20000)
    press(w, qtbot, Key.Key_X)
    assert (player.record_gain, player.chart_gain) == (1.0, 0.0)
    w.desk.balance.setValue(40)
    assert player.record_gain == pytest.approx(0.6) and player.chart_gain == 1.0
    w.desk.balance.setValue(3)
    assert w.practice.balance == 0, "the middle is easy to find"


def test_clicks_on_ones_beats_and_between(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None and w.player is not None
    counts = []
    for kind in ("ones", "beats", "between"):
        w.practice.set_click(kind)
        assert w.player.clicks is not None
        counts.append(len(w.player.clicks))
    assert counts == [len(song.grid.ones), song.grid.beat_count, 2 * song.grid.beat_count]


def test_a_bar_is_counted_in(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None and w.player is not None
    w.practice.count_in = True
    select(w, 4, 4)
    w.play_from_caret()
    beat = song.grid.clock(17) - song.grid.clock(16)
    assert w.player.counting_in
    out(w).advance(4 * beat - 0.05)
    assert w.player.counting_in and w.player.seconds == pytest.approx(song.grid.clock(16), abs=1e-3)
    out(w).advance(0.3)
    assert not w.player.counting_in and w.player.seconds > song.grid.clock(16) + 0.2


def test_twice_and_on_to_the_next_phrase(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None and w.player is not None
    w.practice.times = 2
    select(w, 4, 5)
    press(w, qtbot, Key.Key_L)
    w.play_from_caret()
    length = song.grid.clock(24) - song.grid.clock(16)
    out(w).advance(length * 2.2)
    w._tick()
    assert w.sheet.loop == (6, 7) and w.player.seconds > song.grid.clock(24)


def test_the_drill_gets_faster(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    assert w.player is not None
    select(w, 4, 4)
    dialog = PracticeDialog(w.practice, w)
    qtbot.addWidget(dialog)
    dialog.first.setValue(60)
    dialog.last.setValue(70)
    dialog.step.setValue(5)
    dialog.every.setValue(1)
    qtbot.mouseClick(dialog.start, Qt.MouseButton.LeftButton)
    assert w.playing and w.practice.drill == Drill(0.6, 0.7, 0.05, 1) and w.practice.speed == 0.6
    speeds = []
    for _ in range(60):
        out(w).advance(0.5)
        w._tick()
        speeds.append(w.practice.speed)
    assert sorted(set(speeds)) == [0.6, 0.65, 0.7]


def test_every_pass_in_a_row(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None and w.player is not None
    from ychronos.song.edits import twins

    bar = next(b for b in range(len(song.grid.bars)) if twins(song, b))
    select(w, bar, bar)
    press(w, qtbot, Key.Key_L, SHIFT)
    assert w.practice.passes_on and w.playing
    bars = set()
    for _ in range(80):
        out(w).advance(0.1)
        bars.add(song.grid.bar_at(song.grid.position(w.player.seconds)))
    assert bars == {bar, *twins(song, bar)}
    press(w, qtbot, Key.Key_L, SHIFT)
    assert not w.playing and not w.practice.passes_on


def test_marks_with_notes(ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    w = ferry_window
    w.session.select(Fraction(10))
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("the  fill", True))
    press(w, qtbot, Key.Key_D, CTRL)
    song = w.session.song
    assert song is not None and [(m.at, m.text) for m in song.marks] == [(10, "the fill")]
    assert project.loads(project.dumps(song)).marks == song.marks
    w.session.select(Fraction(40))
    press(w, qtbot, Key.Key_F8, SHIFT)
    assert w.session.selection.caret == 10 and "the fill" in w.desk.place.text()
    press(w, qtbot, Key.Key_Z)
    assert w.session.selection.caret == 40, "back to where I was"
    w._fill_marks()
    assert "the fill" in w.marks_menu.actions()[0].text()
    w.session.select(Fraction(10))
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("", True))
    press(w, qtbot, Key.Key_D, CTRL)
    assert w.session.song.marks == ()  # type: ignore[union-attr]


@pytest.mark.parametrize("suffix", [".wav", ".flac", ".ogg", ".mp3"])
def test_what_is_heard_is_written(ferry_window: Window, qtbot: QtBot, tmp_path: Path, suffix: str) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None and w.player is not None
    select(w, 4, 4)
    press(w, qtbot, Key.Key_L)
    w.practice.set_speed(0.5)
    w.practice.set_click("beats")
    path = tmp_path / f"loop{suffix}"
    heard.write_heard(w, path)
    qtbot.waitUntil(lambda: w.job is None, timeout=30000)
    sound, rate = soundfile.read(path)
    want = (song.grid.clock(20) - song.grid.clock(16)) / 0.5
    assert len(sound) / rate == pytest.approx(want, abs=0.08 if suffix == ".mp3" else 0.01)
    assert np.abs(sound).max() > 0.1
    assert w.session.recording is not None
    with pytest.raises(AudioError, match="original"):
        heard.write_heard(w, w.session.recording.path)


def test_a_key_of_ones_own(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    page = w.keys_page
    page.open_now()
    row = next(i for i, e in enumerate(page._entries) if e.id == "loop")
    page.table.setCurrentCell(row, 0)
    page.field.setKeySequence(QKeySequence("K"))
    assert "which would lose it" in page.words.text() and "Click" in page.words.text()
    qtbot.mouseClick(page.set_, Qt.MouseButton.LeftButton)
    assert page.table.item(row, 0).text() == "K"
    page.hide()
    select(w, 4, 4)
    press(w, qtbot, Key.Key_K)
    assert w.practice.span is not None and w.practice.click == "off"
    assert w.settings.text("keys/loop", "") == "K"
    page.open_now()
    page.table.setCurrentCell(row, 0)
    qtbot.mouseClick(page.usual, Qt.MouseButton.LeftButton)
    assert page.table.item(row, 0).text() == "L"
    page.hide()
    w.activateWindow()
    qtbot.waitUntil(w.isActiveWindow, timeout=3000)
    press(w, qtbot, Key.Key_L)
    assert w.practice.span is None


def test_the_sound_card_goes_away_in_the_middle(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    select(w, 4, 4)
    w.play_from_caret()
    out(w).advance(1.0)
    at = w.heard()
    w.output.lost = True
    w._tick()
    assert isinstance(w.output, outputs.SimulatedOutput) and w.playing
    assert w.desk.output.text() == outputs.LOST_NOTE and "nothing is lost" in w.notice.words.text()
    qtbot.waitUntil(lambda: w.heard() > at + 0.3, timeout=5000)
    w.stop_playing()
    w.output.stop()


def test_one_reminder_to_rest(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.settings.set("remind_after", 10)
    w.practice.played = 599.9
    w.play_from_caret()
    w.practice._last_tick -= 1
    w.practice.tick()
    assert "Ears tire" in w.notice.words.text() and w.practice.reminded
    w.notice.hide()
    w.practice.played = 1300
    w.practice.tick()
    assert not w.notice.isVisible(), "once"
    w.notice.say("x")
    settle(w, qtbot)


def test_the_desk_has_two_rows_in_a_narrow_window(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.desk._arrange(True)
    assert w.desk.second.count() == len(w.desk.groups)
    w.desk._arrange(False)
    assert w.desk.second.count() == 0 and w.desk.ab.isVisible()


def test_a_stretch_free_of_beats_is_looped(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None and w.player is not None
    left, alt = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.AltModifier
    a, b = bar_point(w, 4, 0.3), bar_point(w, 5, 1.7)
    qtbot.mousePress(w.sheet.viewport(), left, alt, a)
    qtbot.mouseMove(w.sheet.viewport(), b)
    qtbot.mouseRelease(w.sheet.viewport(), left, alt, b)
    span = w.practice.span
    assert span is not None
    assert float(span[0]) == pytest.approx(16.3, abs=0.05) and float(span[1]) == pytest.approx(21.7, abs=0.05)
    assert w.player.loop == pytest.approx([song.grid.clock(p) * w.player.rate for p in span], abs=2)
    assert "beats in bars 5–6" in w.desk.loop.text()
