"""Stating chords in every way, hearing them, looking inside, and the key view: as the user does it."""

from __future__ import annotations

import threading
from fractions import Fraction

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtWidgets import QDialogButtonBox, QInputDialog
from pytestqt.qtbot import QtBot

from tests.app.conftest import chord_point, click, settle
from ychronos.app import looks
from ychronos.app.dialogs.fretboard import FretboardDialog
from ychronos.app.dialogs.partsdialog import PartsDialog
from ychronos.app.window import Window
from ychronos.audio.play.outputs import ManualOutput
from ychronos.audio.synth.voices import Voice
from ychronos.chart import sound
from ychronos.session.commands import keys
from ychronos.theory.chord import parse_chord
from ychronos.theory.key import parse_key

Key = Qt.Key
NONE, ALT = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.AltModifier
SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


def choose(w: Window, index: int) -> None:
    song = w.session.song
    assert song is not None
    w.session.select(song.chords[index].start, chord=True)


def with_rivals(w: Window, count: int = 1) -> int:
    song = w.session.song
    assert song is not None
    return next(i for i, s in enumerate(song.chords) if len(s.rivals) >= count and i > 1 and not s.chord.is_none)


def press(w: Window, qtbot: QtBot, key: Key, modifier: Qt.KeyboardModifier = NONE) -> None:
    qtbot.keyClick(w.sheet, key, modifier)
    settle(w, qtbot)


def test_a_rival_is_chosen_by_its_number(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    index = with_rivals(w)
    choose(w, index)
    song = w.session.song
    assert song is not None
    rival, start = song.chords[index].rivals[0][0], song.chords[index].start
    assert w.side.rivals.item(0).text().startswith(f"1   {song.name_of(rival, start)}")
    assert w.side.why.text(), "the panel says why"
    press(w, qtbot, Key.Key_1, ALT)
    now = w.session.song
    assert now is not None
    span = now.chords[now.chord_index(start)]
    assert span.chord == rival and span.stated
    w.session.undo()
    assert w.session.song.chords[index].chord == song.chords[index].chord  # type: ignore[union-attr]


def test_half_a_beat_early_and_back(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    choose(w, 3)
    start = song.chords[3].start
    press(w, qtbot, Key.Key_BracketLeft)
    assert w.session.song.chords[3].start == start - Fraction(1, 2)  # type: ignore[union-attr]
    assert w.session.selection.caret == start - Fraction(1, 2)
    press(w, qtbot, Key.Key_BracketRight)
    assert w.session.song.chords[3].start == start  # type: ignore[union-attr]


def test_divide_join_hold_stop_and_silence(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    start, _ = song.chord_range(2)
    w.session.select(start + 2)
    press(w, qtbot, Key.Key_Slash)
    assert w.session.song.chords[3].start == start + 2 and w.session.song.chords[3].again  # type: ignore[union-attr]
    choose(w, 2)
    press(w, qtbot, Key.Key_J, SHIFT)
    assert w.session.song.chords[3].start > start + 2  # type: ignore[union-attr]
    choose(w, 2)
    press(w, qtbot, Key.Key_Period)
    assert w.session.song.chords[2].articulation == "stopped"  # type: ignore[union-attr]
    assert w.actions_.actions["stopped"].isChecked() and "cut short" in w.side.state.text()
    press(w, qtbot, Key.Key_Period)
    assert w.session.song.chords[2].articulation == "strummed"  # type: ignore[union-attr]
    press(w, qtbot, Key.Key_N, SHIFT)
    assert w.session.song.chords[2].chord.is_none  # type: ignore[union-attr]


def test_the_same_in_the_other_passes(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    from ychronos.song.edits import twins

    bar = next(b for b in range(len(song.grid.bars)) if twins(song, b))
    w.session.select(song.grid.bar_range(bar)[0], bar, bar)
    w.session.state_chord(parse_chord("F#7b9"))
    settle(w, qtbot)
    press(w, qtbot, Key.Key_C, CTRL | SHIFT)
    now = w.session.song
    assert now is not None
    for twin in twins(now, bar):
        assert now.chords[now.chord_index(now.grid.bar_range(twin)[0])].chord == parse_chord("F#7b9")


def test_unsure_with_a_reason(ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    w = ferry_window
    choose(w, 4)
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("organ  hides it", True))
    press(w, qtbot, Key.Key_U, SHIFT)
    span = w.session.song.chords[4]  # type: ignore[union-attr]
    assert span.unsure and span.comment == "organ hides it"
    assert "organ hides it" in w.side.state.text()


def test_a_chord_by_its_parts(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    dialog = PartsDialog(song, 1, w.session.evidence, w)
    qtbot.addWidget(dialog)
    dialog.show()
    assert dialog.chord == song.chords[1].chord, "it opens with the present chord"
    assert "How likely" in dialog.words.text()
    qtbot.mouseClick(dialog.bass[0].button(7), Qt.MouseButton.LeftButton)
    qtbot.mouseClick(dialog.root[0].button(0), Qt.MouseButton.LeftButton)
    qtbot.mouseClick(dialog.quality.button(1), Qt.MouseButton.LeftButton)
    assert dialog.chord == parse_chord("Cm/G")
    qtbot.mouseClick(dialog.colour.button(2), Qt.MouseButton.LeftButton)
    assert dialog.chord == parse_chord("Cm7/G") and dialog.name.text() == "Cm7/G"
    heard: list[object] = []
    dialog.hear.connect(heard.append)
    qtbot.mouseClick(dialog.listen, Qt.MouseButton.LeftButton)
    assert heard == [parse_chord("Cm7/G")]


def test_a_chord_on_the_fretboard(ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    choose(w, 0)
    dialog = FretboardDialog(song, 0, w.theme, w)
    qtbot.addWidget(dialog)
    dialog.show()
    board = dialog.board
    assert dialog.found[0].chord == song.chords[0].chord, "it opens with a shape of the present chord"

    def touch(string: int, fret: int) -> None:
        at = QPointF(board.x_of(fret), board.y_of(string)).toPoint()
        qtbot.mouseClick(board, Qt.MouseButton.LeftButton, NONE, at)

    board.set_shape(None)
    assert not dialog.found and "two different notes" in dialog.hint.text()
    assert not dialog.buttons.button(QDialogButtonBox.StandardButton.Ok).isEnabled()
    for string, fret in ((1, 0), (2, 2), (3, 0), (4, 1), (5, 0)):
        touch(string, fret)
    assert dialog.found[0].chord == parse_chord("Am7")
    assert any(n.chord == parse_chord("C6/A") for n in dialog.found)
    assert dialog.list.item(0).text().startswith("Am7")
    touch(4, 1)
    assert board.shape[4] is None, "a second click mutes the string"
    board.setFocus()
    board.string = 4
    qtbot.keyClick(board, Key.Key_1)
    assert board.shape[4] == 1
    qtbot.keyClick(board, Key.Key_X)
    assert board.shape[4] is None
    qtbot.keyClick(board, Key.Key_Right)
    qtbot.keyClick(board, Key.Key_Right)
    assert board.shape[4] == 1
    monkeypatch.setattr(FretboardDialog, "exec", lambda self: setattr(self, "chord", parse_chord("Am7")) or 1)
    looks.play_on_fretboard(w)
    settle(w, qtbot)
    assert w.session.song.chords[0].chord == parse_chord("Am7")  # type: ignore[union-attr]


def test_the_look_inside_follows_the_caret(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    choose(w, 1)
    press(w, qtbot, Key.Key_I)
    assert w.inside.isVisible() and w.inside.seen is not None
    first = w.inside.seen
    assert first.chord == w.session.song.chords[1].chord  # type: ignore[union-attr]
    choose(w, 2)
    assert w.inside.seen is not first and w.inside.seen.chord == w.session.song.chords[2].chord  # type: ignore[union-attr]
    w.inside.repaint()
    area = w.inside._columns
    words = w.inside.describe(QPointF(area.left() + 4, area.center().y()))
    root = w.inside.seen.chord.root
    assert root is not None
    assert words.startswith(w.session.song.keys[0].key.spell(root).name()) and "belongs to the chord" in words  # type: ignore[union-attr]
    assert w.inside.describe(QPointF(1, 1)) == ""
    press(w, qtbot, Key.Key_I)
    assert not w.inside.isVisible()


def output(w: Window) -> ManualOutput:
    assert isinstance(w.output, ManualOutput)
    return w.output


def test_a_chord_is_heard_by_itself(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    choose(w, 0)
    press(w, qtbot, Key.Key_H)
    qtbot.waitUntil(lambda: output(w).rate > 0, timeout=20000)  # it is plucked beside the window
    heard = output(w).advance(1.0)
    assert np.abs(heard).max() > 0.02 and not w.playing, "it sounds though the record is stopped"
    assert "by itself" in w.desk.place.text()
    output(w).advance(4.0)
    assert not np.abs(output(w).advance(0.5)).any()


def test_readings_take_turns_under_the_record(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    index = with_rivals(w)
    choose(w, index)
    song = w.session.song
    assert song is not None and w.player is not None
    press(w, qtbot, Key.Key_H, SHIFT)
    qtbot.waitUntil(lambda: w.playing, timeout=5000)
    assert len(w.hearing.readings) == 1 + len([c for c, _ in song.chords[index].rivals if not c.is_none])
    start, end = (song.grid.clock(p) for p in song.chord_range(index))
    names = [song.name_of(c, song.chords[index].start) for c in w.hearing.readings]
    assert names[0] in w.desk.place.text()
    length = end - start
    output(w).advance(length * 1.5)
    qtbot.waitUntil(lambda: "2 of" in w.desk.place.text(), timeout=3000)
    assert names[1] in w.desk.place.text()
    assert start <= w.heard() <= end + 0.01
    press(w, qtbot, Key.Key_H, SHIFT)
    assert not w.playing and not w.hearing.readings and w.player.turns == () and w.player.loop is None


def test_the_chart_sounds_along(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    press(w, qtbot, Key.Key_V)
    assert w.player is not None
    player = w.player
    qtbot.waitUntil(lambda: player.chart is not None, timeout=20000)
    chart = player.chart
    assert chart is not None and len(chart) > 300
    player.record_gain = 0.0
    choose(w, 4)
    w.play_from_caret()
    assert np.abs(output(w).advance(0.6)).max() > 0.02, "the chart without the record"
    w.stop_playing()
    press(w, qtbot, Key.Key_V, SHIFT)
    qtbot.waitUntil(lambda: player.chart is not None and len(player.chart) < len(chart), timeout=20000)
    assert w.actions_.actions["bass_sound"].isChecked() and not w.actions_.actions["chart_sound"].isChecked()
    press(w, qtbot, Key.Key_V, SHIFT)
    assert player.chart is None


def test_the_key_view_shows_and_states(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    qtbot.mouseClick(w.tabs.buttons[2], Qt.MouseButton.LeftButton)
    view = w.keys
    assert view.isVisible() and view.cards[0].name.text().startswith("G major")
    assert "it is this" in view.cards[0].name.text() and view.cards[0].values[3].text() == "yes"
    lanes = view.lanes
    y = lanes.height() // 2
    a, b = (QPoint(int(lanes.x_of(w.session.song.grid.times[i])), y) for i in (33, 62))  # type: ignore[union-attr]
    qtbot.mousePress(lanes, Qt.MouseButton.LeftButton, NONE, a)
    qtbot.mouseMove(lanes, b)
    qtbot.mouseRelease(lanes, Qt.MouseButton.LeftButton, NONE, b)
    assert w.session.selection.many, "dragging selects bars"
    first, last = w.session.selection.first, w.session.selection.last
    card = next(c for c in view.cards if c.key is not None and c.key != parse_key("G major"))
    wanted = card.key
    qtbot.mouseClick(card.state, Qt.MouseButton.LeftButton)
    settle(w, qtbot)
    song = w.session.song
    assert song is not None and wanted is not None
    assert song.key_at(song.grid.bar_range(first)[0]) == wanted and song.key_at(Fraction(0)) == parse_key("G major")
    assert song.key_at(song.grid.bar_range(last)[1] - Fraction(1, 2)) == wanted


def test_a_chord_from_outside_is_found(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    choose(w, 5)
    at = w.session.selection.caret
    w.session.state_chord(parse_chord("Fm6"))
    settle(w, qtbot)
    w.show_view("key")
    texts = [w.keys.list.item(i).text() for i in range(w.keys.list.count())]
    row = next(i for i, t in enumerate(texts) if t.startswith("Fm6"))
    w.keys._chosen(w.keys.list.item(row))
    assert w.view == "sheet" and w.session.selection.caret == at


def test_the_key_by_typing_and_its_other_name(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Gb major", True))
    press(w, qtbot, Key.Key_K, CTRL)
    song = w.session.song
    assert song is not None and song.main_key().name() == "G♭ major"
    names = {song.chord_name(i) for i in range(len(song.chords))}
    w.actions_.actions["respell"].trigger()
    now = w.session.song
    assert now is not None and now.main_key().name() == "F♯ major"
    assert {now.chord_name(i) for i in range(len(now.chords))} != names
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("H major", True))
    press(w, qtbot, Key.Key_K, CTRL)
    assert "No key is stated" in w.notice.words.text() and w.session.song is now


def test_chords_in_numbers_are_typed_in_numbers(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    keys.set_notation(w.session, "roman")
    choose(w, 0)
    press(w, qtbot, Key.Key_Return)
    assert w.sheet.entry.field.text() == "I"
    w.sheet.entry.field.setText("V7/7")
    qtbot.keyClick(w.sheet.entry.field, Key.Key_Return)
    settle(w, qtbot)
    assert w.session.song.chords[0].chord == parse_chord("D7/F#")  # type: ignore[union-attr]
    press(w, qtbot, Key.Key_Return)
    w.session.select(Fraction(0))
    w.sheet.start_entry()
    w.sheet.entry.field.setText("Am7")
    qtbot.keyClick(w.sheet.entry.field, Key.Key_Return)
    settle(w, qtbot)
    assert w.session.song.chords[0].chord == parse_chord("Am7"), "names are understood too"  # type: ignore[union-attr]
    click(w, qtbot, chord_point(w, 0))
    assert w.side.chord.text() == "ii7"


def test_the_chart_is_made_by_one_thread_at_a_time(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    player = w.player
    assert player is not None
    at_once: list[int] = []
    under_way: list[object] = []
    go_on = threading.Event()
    voices = sound.voices

    def slowly(*args: object) -> list[Voice]:
        under_way.append(args)
        at_once.append(len(under_way))
        go_on.wait(10)
        under_way.pop()
        return voices(*args)  # type: ignore[arg-type]

    monkeypatch.setattr(sound, "voices", slowly)
    w.hearing.set_kind("chart")
    qtbot.waitUntil(lambda: at_once == [1], timeout=5000)
    w.hearing.set_kind("bass")  # wished while the chords are still being made
    qtbot.wait(400)
    assert at_once == [1] and player.chart is None
    go_on.set()
    qtbot.waitUntil(lambda: player.chart is not None, timeout=20000)
    assert at_once == [1, 1], "what was wished last is made next"
    song = w.session.song
    assert song is not None
    bass = sound.voices(
        sound.strokes(song, song.chords[0].start, song.grid.end), player.rate, w.hearing.cents(), 1.0, True
    )
    assert player.chart is not None and len(player.chart) == len(bass)
