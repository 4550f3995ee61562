"""Mending the count in the real window: drag, type, tap, and hear it."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QInputDialog
from pytestqt.qtbot import QtBot

from tests.app.conftest import answer, settle
from ychronos.analysis.beats import rivals
from ychronos.app.sheet.sheetpaint import WAVE_CENTRE
from ychronos.app.window import Window
from ychronos.audio.play.outputs import ManualOutput
from ychronos.audio.synth.clicks import PITCHES, Clicks, tick
from ychronos.session import otherwise
from ychronos.song import edits
from ychronos.song.model import Song

Left, NoMods = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def song_of(window: Window) -> Song:
    song = window.session.song
    assert song is not None
    return song


def beat_point(window: Window, beat: int) -> QPoint:
    """On a beat's line in the sound, brought into sight."""
    sheet = window.sheet
    window.session.select(Fraction(beat))
    assert sheet.geometry_ is not None
    row, x = sheet.geometry_.point(Fraction(beat))
    return (QPointF(x, row.y + WAVE_CENTRE * sheet.geometry_.scale) - sheet._offset()).toPoint()


def drag(window: Window, start: QPoint, by: int) -> None:
    view = window.sheet.viewport()
    QTest.mousePress(view, Left, NoMods, start)
    for step in (0.3, 0.7, 1.0):
        QTest.mouseMove(view, start + QPoint(int(by * step), 0))
        QTest.qWait(5)


def test_a_beat_is_dragged_in_the_sound(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    beat = song_of(w).grid.starts[3] + 2
    before = song_of(w).grid.times[beat]
    at = beat_point(w, beat)
    drag(w, at, 12)
    aimed = w.sheet.drag.time()
    assert aimed is not None
    assert before + 0.03 < aimed < before + 0.3
    assert song_of(w).grid.times[beat] == before, "nothing changes before the button is up"
    QTest.mouseRelease(w.sheet.viewport(), Left, NoMods, at + QPoint(12, 0))
    settle(w, qtbot)
    song = song_of(w)
    assert aimed in song.grid.times
    assert {song.grid.times[b] for b in song.grid.stated_beats} == {aimed}
    w.actions_.actions["undo"].trigger()
    assert song_of(w).grid.times[beat] == before
    assert not song_of(w).grid.stated_beats


def test_a_row_with_more_beats_than_fit_is_narrower_and_a_beat_in_it_is_dragged_by_its_own_width(
    ferry_window: Window, qtbot: QtBot
) -> None:
    w = ferry_window
    w.session.edit(lambda s: edits.set_length(s, 3, 7))
    settle(w, qtbot)
    made, song = w.sheet.geometry_, song_of(w)
    assert made is not None
    row, box = made.box_of_bar(3)
    assert song.grid.bars[3].beats == 7 and box.beats == 7
    usual = next(
        r for r in made.rows if len(r.bars) == w.sheet.per_row and sum(b.beats for b in r.bars) == 4 * len(r.bars)
    )
    assert row.right <= w.sheet.viewport().width() and row.right == pytest.approx(usual.right)
    assert row.beat_width < usual.beat_width
    beat = song.grid.starts[3] + 2
    at = beat_point(w, beat)
    drag(w, at, 12)
    aimed = w.sheet.drag.time()
    assert aimed is not None
    step = song.grid.times[beat + 1] - song.grid.times[beat]
    assert aimed - song.grid.times[beat] == pytest.approx(step * 12 / row.beat_width, abs=0.6 * step / row.beat_width)
    w.sheet.drag.cancel()


def test_a_press_on_a_beat_without_moving_only_puts_the_caret_there(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    at = beat_point(w, 9)
    w.session.select(Fraction(0))
    QTest.mouseClick(w.sheet.viewport(), Left, NoMods, at)
    assert w.session.selection.caret == 9
    assert not w.session.dirty
    drag(w, at, 14)
    assert w.sheet.drag.time() is not None
    QTest.keyClick(w.sheet, Qt.Key.Key_Escape)
    QTest.mouseRelease(w.sheet.viewport(), Left, NoMods, at + QPoint(14, 0))
    assert not w.session.dirty, "Escape leaves the beat where it was"


def test_tapping_along_states_beats(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    times = song_of(w).grid.times
    w.sheet.setFocus()
    qtbot.keyClick(w.sheet, Qt.Key.Key_T)
    assert "Start playing" in w.notice.words.text()
    w.session.select(Fraction(8))
    qtbot.keyClick(w.sheet, Qt.Key.Key_Space)
    assert isinstance(w.output, ManualOutput)
    taps = []
    for beat in range(9, 15):
        while w.heard() < times[beat] + 0.01:
            w.output.advance(0.005)
        taps.append(w.heard())
        qtbot.keyClick(w.sheet, Qt.Key.Key_T)
    assert "Tapped 6" in w.desk.place.text()
    w.taps.finish()
    settle(w, qtbot)
    assert set(taps) <= set(song_of(w).grid.times)
    assert len(song_of(w).grid.stated_beats) == 6
    w.actions_.actions["undo"].trigger()
    assert song_of(w).grid.times == times


@pytest.mark.parametrize(
    ("action", "dialog", "given", "check"),
    [
        ("bar_length", "getInt", (5, True), lambda s: s.grid.bars[2].beats == 5 and s.grid.bars[2].length_stated),
        ("meter", "", ("3/4", True), lambda s: all(b.meter.beats == 3 for b in s.grid.bars if b.meter_stated)),
        ("tempo", "getDouble", (52.0, True), lambda s: abs(s.grid.tempo() - 52) < 4),
    ],
)
def test_facts_that_are_typed(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch, action: str, dialog: str, given, check
) -> None:
    w = ferry_window
    before = song_of(w)
    if dialog:
        monkeypatch.setattr(QInputDialog, dialog, lambda *a, **k: given)
    else:
        answer(monkeypatch, given[0])
    w.session.select(before.grid.bar_range(2)[0])
    w.actions_.actions[action].trigger()
    settle(w, qtbot)
    assert check(song_of(w))
    assert any(b.meter_stated for b in song_of(w).grid.bars) == (action == "meter")
    w.actions_.actions["undo"].trigger()
    assert song_of(w) is before


def test_keys_of_the_count(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    grid = song_of(w).grid
    bar = 4
    start = grid.starts[bar]
    w.session.select(Fraction(start + 2))
    w.actions_.actions["split"].trigger()
    settle(w, qtbot)
    assert start + 2 in song_of(w).grid.starts
    w.session.select(Fraction(start), bar, bar)
    w.actions_.actions["join_bars"].trigger()
    settle(w, qtbot)
    assert start + 2 not in song_of(w).grid.starts
    w.session.select(Fraction(start + 1))
    w.actions_.actions["insert_beat"].trigger()
    settle(w, qtbot)
    assert song_of(w).grid.bars[bar].beats == 5
    w.session.select(Fraction(start + 2))
    w.actions_.actions["remove_beat"].trigger()
    settle(w, qtbot)
    assert song_of(w).grid.times == grid.times
    w.actions_.actions["ones_later"].trigger()
    assert song_of(w).grid.bars[0].beats in (1, grid.bars[0].beats + 1)
    w.session.select(Fraction(13, 2))
    w.actions_.actions["split"].trigger()
    assert "between two" in w.notice.words.text()


def test_the_click_is_heard_on_the_sample(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.sheet.setFocus()
    qtbot.keyClick(w.sheet, Qt.Key.Key_K)
    assert w.desk.click.isChecked()
    assert w.player is not None
    assert w.player.clicks is not None
    grid, rate = song_of(w).grid, w.player.rate
    ticks = w.player.clicks.voices
    assert [v.start for v in ticks] == [round(t * rate) for t in grid.times[:-1]]
    one = tick(rate, PITCHES["one"])
    assert [i for i, v in enumerate(ticks) if v.sound is one] == list(grid.starts[:-1])
    w.player.set_gain(1.0)
    w.player._gain = 1.0
    start = round(grid.times[4] * rate) - 100
    with_click, without = np.zeros((700, 2), np.float32), np.zeros((700, 2), np.float32)
    w.player._fading_in = False
    w.player._playing, w.player._at = True, start
    w.player.fill(with_click)
    qtbot.keyClick(w.sheet, Qt.Key.Key_K)
    assert w.player.clicks is None
    w.player._playing, w.player._at = True, start
    w.player.fill(without)
    w.stop_playing()
    added = np.abs(with_click - without).max(1)
    assert np.flatnonzero(added > 1e-6)[0] in (100, 101)


@pytest.mark.parametrize("block", [1, 64, 333])
def test_clicks_do_not_depend_on_the_blocks(block: int) -> None:
    clicks = Clicks.at([0.01, 0.1, 0.12], ["one", "beat", "beat"], 8000)
    whole, parts = np.zeros((2000, 2), np.float32), np.zeros((2000, 2), np.float32)
    clicks.add(whole, 0)
    for start in range(0, 2000, block):
        clicks.add(parts[start : start + block], start)
    assert parts == pytest.approx(whole, abs=1e-6)
    sound = tick(8000, PITCHES["beat"])
    assert whole[800:900, 0] == pytest.approx(sound[:100])
    assert not whole[:80].any()


def test_another_count_that_is_near_is_offered_and_taken_in_one_gesture(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    before = song_of(w)
    half = edits.half_tempo(before)[0].grid
    found = (rivals.Rival("64 a minute", 0.3, half), rivals.Rival("one 2 beats later", 0.1, before.grid))
    monkeypatch.setattr(otherwise, "find", lambda evidence, grid, _: found if grid is before.grid else ())
    w.other_counts.otherwise._for = None
    w.other_counts.otherwise.look()
    offer = w.head.count.other
    qtbot.waitUntil(offer.isVisible, timeout=5000)
    assert offer.text() == "or 64 a minute?"
    qtbot.mouseClick(offer, Left)
    menu = w.other_counts.menu
    assert menu is not None and menu.isVisible()
    assert [a.text() for a in menu.actions()] == [
        "Count 64 a minute   30% likely",
        "Count one 2 beats later   10% likely",
    ]
    menu.actions()[0].trigger()
    menu.close()
    settle(w, qtbot)
    assert song_of(w).grid.times == half.times and song_of(w).grid.tempo() == pytest.approx(
        before.grid.tempo() / 2, rel=0.05
    )
    qtbot.waitUntil(lambda: not offer.isVisible(), timeout=5000)
    w.actions_.actions["undo"].trigger()
    settle(w, qtbot)
    assert song_of(w).grid == before.grid
    qtbot.waitUntil(offer.isVisible, timeout=5000)


def test_where_no_other_count_is_likely_the_action_says_so(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    monkeypatch.setattr(w.other_counts.otherwise, "rivals", ())
    w.actions_.actions["otherwise"].trigger()
    assert "No other count" in w.notice.words.text() and w.other_counts.menu is None
