"""The window as its user meets it: open, select, state, undo, save, reopen."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QWheelEvent
from PySide6.QtWidgets import QApplication, QFileDialog, QInputDialog, QMenu
from pytestqt.qtbot import QtBot

from tests.app.conftest import answer, bar_point, chord_point, click, open_and_wait, settle
from tests.conftest import FERRY, KNOTS
from ychronos.app import looks
from ychronos.app.alsocalled import ALSO
from ychronos.app.soon import Soon
from ychronos.app.window import Window
from ychronos.session.commands import chords
from ychronos.song import edits
from ychronos.song.doubting import doubts
from ychronos.song.track import Track

Key = Qt.Key


def song_of(window: Window):
    assert window.session.song is not None
    return window.session.song


def test_opening_shows_sound_at_once_then_results_by_stage(window: Window, qtbot: QtBot) -> None:
    assert window.pages.currentIndex() == 0
    seen: list[tuple[bool, int]] = []
    window.session.watch(lambda: seen.append((window.session.song is not None, 0)), "sound")
    window.session.watch(lambda: seen.append((True, len(window.session.song.chords))) if window.session.song else None)
    open_and_wait(window, KNOTS, qtbot)
    with_recording = next(i for i, s in enumerate(seen) if window.session.recording is not None)
    assert seen[with_recording][0] is False, "the recording is there before any song"
    counts = [n for has, n in seen if has]
    assert counts[0] == 1, "first the bars"
    assert counts[-1] > 20, "then the chords"
    assert window.pages.currentIndex() == 1
    assert window.head.title.text() == "Seven Knots and a Half"
    assert "flat" in window.head.record.value.text()
    assert window.head.count.value.text().startswith("4/4")
    assert window.strip.isHidden()
    assert not window.session.dirty


def test_drop_and_recent(window: Window, qtbot: QtBot, ferry: object) -> None:
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(FERRY)), QUrl.fromLocalFile(str(KNOTS))])
    action = Qt.DropAction.CopyAction
    event = QDropEvent(QPointF(200, 200), action, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
    window.dropEvent(event)
    assert "the other 1 left" in window.notice.words.text()
    qtbot.waitUntil(lambda: window.job is None, timeout=60000)
    assert window.session.song is not None
    assert window.settings.recent()[0] == FERRY
    assert window.recent_menu.actions()[0].text() == "The Ferry Keeps Its Lights On"
    window.close_document()
    assert window.welcome.recent.item(0).text() == "The Ferry Keeps Its Lights On"
    window.welcome.recent.itemClicked.emit(window.welcome.recent.item(0))
    qtbot.waitUntil(lambda: window.job is None, timeout=60000)
    assert window.session.song is not None


def test_click_selects_bar_and_beat(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    click(w, qtbot, bar_point(w, 2, 2.2))
    s = w.session.selection
    start = song_of(w).grid.starts[2]
    assert (s.first, s.last, s.caret, s.chord) == (2, 2, start + 2, False)
    click(w, qtbot, bar_point(w, 5), shift=True)
    assert (w.session.selection.first, w.session.selection.last) == (2, 5)
    assert "bars 3 to 6 selected" in w.sheet.accessibleDescription()
    assert w.heard() == pytest.approx(song_of(w).grid.clock(start + 2), abs=0.001)


def test_drag_selects_bars(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    a, b = bar_point(w, 1), bar_point(w, 3)
    view = w.sheet.viewport()
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=a)
    qtbot.mouseMove(view, b)
    from PySide6.QtGui import QMouseEvent

    left = Qt.MouseButton.LeftButton
    w.sheet.mouseMoveEvent(
        QMouseEvent(
            QMouseEvent.Type.MouseMove,
            QPointF(b),
            view.mapToGlobal(QPointF(b)),
            left,
            left,
            Qt.KeyboardModifier.NoModifier,
        )
    )
    qtbot.mouseRelease(view, left, pos=b)
    assert (w.session.selection.first, w.session.selection.last) == (1, 3)


def test_typing_states_a_chord_with_live_reading(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    click(w, qtbot, chord_point(w, 3))
    before = song_of(w)
    at = before.chords[3].start
    assert w.session.selection.chord
    qtbot.keyClick(w.sheet, Key.Key_B, Qt.KeyboardModifier.ShiftModifier)
    entry = w.sheet.entry
    assert entry.isVisible()
    assert entry.field.text() == "B"
    assert entry.reading.text().startswith("B: major")
    qtbot.keyClicks(entry.field, "mx")
    assert "“mx” after B" in entry.reading.text()
    qtbot.keyClick(entry.field, Key.Key_Return)
    assert entry.isVisible(), "a chord that is none is not taken"
    assert song_of(w) is before
    qtbot.keyClick(entry.field, Key.Key_Backspace)
    qtbot.keyClick(entry.field, Key.Key_Backspace)
    qtbot.keyClicks(entry.field, "m7")
    assert entry.reading.text() == "Bm7: minor seventh · B D F♯ A"
    qtbot.keyClick(entry.field, Key.Key_Return)
    settle(w, qtbot)
    assert not entry.isVisible()
    index = song_of(w).chord_index(at)
    assert song_of(w).chord_name(index) == "Bm7"
    assert song_of(w).chords[index].stated
    bar = song_of(w).grid.bar_at(at)
    assert w.session.selection.caret == song_of(w).grid.starts[bar + 1], "Enter goes on to the next bar"
    w.session.select(at, chord=True)
    assert w.side.chord.text() == "Bm7"
    assert w.side.state.text() == "you stated it"
    assert w.isWindowModified()
    w.actions_.actions["undo"].trigger()
    assert song_of(w) is before
    w.actions_.actions["redo"].trigger()
    assert song_of(w).chord_name(song_of(w).chord_index(at)) == "Bm7"


def test_escape_leaves_the_entry(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.sheet.setFocus()
    before = song_of(w)
    qtbot.keyClick(w.sheet, Key.Key_C)
    qtbot.keyClick(w.sheet.entry.field, Key.Key_Escape)
    assert not w.sheet.entry.isVisible()
    assert song_of(w) is before


def test_several_bars_take_one_chord(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    click(w, qtbot, bar_point(w, 4))
    click(w, qtbot, bar_point(w, 6), shift=True)
    w.sheet.start_entry("F#m7b5")
    qtbot.keyClick(w.sheet.entry.field, Key.Key_Return)
    settle(w, qtbot)
    song = song_of(w)
    start, end = song.grid.bar_range(4)[0], song.grid.bar_range(6)[1]
    index = song.chord_index(start)
    assert song.chord_range(index) == (start, end)
    assert song.chord_name(index) == "F♯ø7"
    assert [song.bar_checked(b) for b in (4, 5, 6)] == [True] * 3
    assert w.head.checked.value.text().startswith("3 of")


def test_delete_unsure_check_and_rivals(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    click(w, qtbot, chord_point(w, 2))
    before = len(song_of(w).chords)
    qtbot.keyClick(w.sheet, Key.Key_Delete)
    assert len(song_of(w).chords) == before - 1
    qtbot.keyClick(w.sheet, Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert len(song_of(w).chords) == before
    click(w, qtbot, chord_point(w, 2))
    qtbot.keyClick(w.sheet, Key.Key_U)
    assert song_of(w).chords[2].unsure
    assert "marked unsure" in w.side.state.text()
    assert 2 in song_of(w).doubts()
    qtbot.keyClick(w.sheet, Key.Key_U)
    assert not song_of(w).chords[2].unsure
    click(w, qtbot, bar_point(w, 3))
    qtbot.keyClick(w.sheet, Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
    assert song_of(w).checked_bars() == 1
    index = next(i for i, c in enumerate(song_of(w).chords) if c.rivals)
    w.session.select(song_of(w).chords[index].start, chord=True)
    rival = song_of(w).chords[index].rivals[0][0]
    w.side.rivals.itemActivated.emit(w.side.rivals.item(0))
    settle(w, qtbot)
    assert song_of(w).chords[song_of(w).chord_index(w.session.selection.caret)].chord == rival


def test_nothing_to_delete_says_so(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.session.select(Fraction(0), chord=True)
    qtbot.keyClick(w.sheet, Key.Key_Delete)
    assert "first chord" in w.notice.words.text()
    w.session.select(Fraction(1, 2))
    qtbot.keyClick(w.sheet, Key.Key_Delete)
    assert "No chord changes" in w.notice.words.text()


def test_one_is_here_and_counting(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    times = song_of(w).grid.times
    w.session.select(Fraction(6))
    w.sheet.setFocus()
    qtbot.keyClick(w.sheet, Key.Key_1)
    settle(w, qtbot)
    song = song_of(w)
    assert 6 in song.grid.starts
    assert song.grid.bars[song.grid.bar_at(6)].stated
    assert song.grid.times == times
    w.actions_.actions["undo"].trigger()
    assert 6 not in song_of(w).grid.starts
    w.actions_.actions["double"].trigger()
    settle(w, qtbot)
    assert len(song_of(w).grid.times) == pytest.approx(2 * len(times), abs=2)
    assert w.head.count.value.text().startswith("4/4, 20")
    w.actions_.actions["half"].trigger()
    settle(w, qtbot)
    again = np.array(song_of(w).grid.times)
    assert np.mean(np.abs(np.array(times)[:, None] - again[None]).min(1) < 0.07) > 0.95
    w.session.select(Fraction(13, 2))
    w.actions_.actions["one_here"].trigger()
    assert "between two beats" in w.notice.words.text()


def test_sections_are_named_begun_and_joined(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    answer(monkeypatch, "Strophe")
    w.session.select(song_of(w).sections[1].start)
    w.sheet.setFocus()
    qtbot.keyClick(w.sheet, Key.Key_R)
    assert song_of(w).sections[1].name == "Strophe"
    count = len(song_of(w).sections)
    w.session.select(song_of(w).grid.bar_range(song_of(w).grid.bar_at(song_of(w).sections[1].start) + 4)[0])
    qtbot.keyClick(w.sheet, Key.Key_S)
    settle(w, qtbot)
    assert len(song_of(w).sections) == count + 2, "and in the other pass of the same music"
    assert "Also begins: " in w.notice.words.text()
    qtbot.keyClick(w.sheet, Key.Key_S, Qt.KeyboardModifier.ShiftModifier)
    settle(w, qtbot)
    assert len(song_of(w).sections) == count
    answers = iter([("Harbour Light", True), ("Tin Dory", True)])
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: next(answers))
    w.actions_.actions["name_song"].trigger()
    assert w.head.title.text() == "Harbour Light"
    assert w.head.artist.text() == "Tin Dory"


def test_keys_move_the_caret(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = song_of(w)
    w.session.select(Fraction(4))
    keys = qtbot.keyClick
    control, shift, alt = (
        Qt.KeyboardModifier.ControlModifier,
        Qt.KeyboardModifier.ShiftModifier,
        Qt.KeyboardModifier.AltModifier,
    )
    keys(w.sheet, Key.Key_Right)
    assert w.session.selection.caret == 5
    keys(w.sheet, Key.Key_Right, alt)
    assert w.session.selection.caret == Fraction(11, 2)
    keys(w.sheet, Key.Key_Left)
    assert w.session.selection.caret == 5
    keys(w.sheet, Key.Key_Home)
    assert w.session.selection.caret == 0
    keys(w.sheet, Key.Key_Right, control)
    assert w.session.selection.caret == song.chords[1].start
    assert w.session.selection.chord
    keys(w.sheet, Key.Key_Home, control)
    keys(w.sheet, Key.Key_Down)
    assert song.grid.bar_at(w.session.selection.caret) == w.sheet.geometry_.rows[1].row.first
    keys(w.sheet, Key.Key_Right, shift)
    assert w.session.selection.many
    keys(w.sheet, Key.Key_End, control)
    assert song.grid.bar_at(w.session.selection.caret) == len(song.grid.bars) - 1
    row = w.sheet.geometry_.row_of_bar(len(song.grid.bars) - 1)
    assert w.sheet.verticalScrollBar().value() + w.sheet.viewport().height() >= row.y + row.height, (
        "the caret is in sight"
    )


def test_zoom_and_bars_in_a_row(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    view = w.sheet.viewport()
    width = w.sheet.geometry_.rows[0].bars[0].width
    at = QPointF(300, 200)
    event = QWheelEvent(
        at,
        view.mapToGlobal(at),
        QPoint(),
        QPoint(0, 120),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.ControlModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(view, event)
    assert w.sheet.geometry_.rows[0].bars[0].width == pytest.approx(width * 1.15)
    w.actions_.actions["fit"].trigger()
    assert w.sheet.zoom == 1.0
    assert w.sheet.geometry_.rows[0].right <= view.width()
    w.actions_.actions["fewer"].trigger()
    assert w.sheet.per_row == 3
    assert max(len(r.bars) for r in w.sheet.geometry_.rows) == 3


def test_selection_caret_and_loop_lie_under_the_rows(ferry_window: Window) -> None:
    """They show, and no row is painted anew for them."""
    w = ferry_window
    view = w.sheet.viewport()
    w.session.select(Fraction(0))
    shown = [view.grab().toImage()]
    song = song_of(w)
    bar = song.grid.lead_in
    looks = (
        lambda: w.session.select(Fraction(song.grid.starts[bar + 1] + 1)),
        lambda: w.session.select(Fraction(song.grid.starts[bar]), bar, bar + 2),
        lambda: w.session.select(song.chords[song.chord_index(song.grid.bar_range(bar)[0])].start, chord=True),
        lambda: w.sheet.set_loop((bar, bar + 1)),
    )
    first = w.sheet._painted
    for look in looks:
        look()
        shown.append(view.grab().toImage())
        assert shown[-1] != shown[-2]
    assert w.sheet._painted == first


def test_rows_that_take_long_wait_for_the_next_turn(ferry_window: Window, qtbot: QtBot) -> None:
    """With no patience at all a turn that has had its work paints nothing, the next one row; in the end all show the song."""
    w = ferry_window
    view = w.sheet.viewport()
    w.sheet.set_zoom(0.7)
    QApplication.processEvents()
    before = view.grab().toImage()
    w.sheet.patience = 0.0
    for section, name in enumerate(("Lamps", "Harbour part", "Mole")):
        w.session.edit(lambda s, k=section, n=name: edits.rename_section(s, k, n))
    assert view.grab().toImage() == before, "what was said comes first"
    first = view.grab().toImage()
    assert first != before, "one row at least in the next"
    for _ in range(60):
        QApplication.processEvents()
    shown = view.grab().toImage()
    w.sheet.patience = float("inf")
    w.sheet.forget_pictures()
    assert shown == view.grab().toImage() != first, "the others came in turns of their own"


def test_doubts_are_a_queue(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.session.edit(lambda s: edits.mark_unsure(s, 5, True))
    found = doubts(song_of(w))
    assert w.side.doubts.count() == len(found) >= 1
    first = next(k for k, d in enumerate(found) if d.kind == "chord")
    w.side.doubts.itemClicked.emit(w.side.doubts.item(first))
    assert w.session.chord_index == found[first].index
    w.session.select(Fraction(0))
    qtbot.keyClick(w.sheet, Key.Key_F8)
    assert w.session.selection.caret == min(d.at for d in found if d.at > 0)


def test_two_doubts_at_one_place_are_gone_through_in_turn(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = song_of(w)
    sure = tuple(
        replace(c, confidence=0.3 if i == 7 else 0.99, cut=0.45 if i == 7 else 0.0, rings=0.0)
        for i, c in enumerate(song.chords)
    )
    sections = tuple(replace(s, confidence=1.0, sure=1.0) for s in song.sections)
    keys = tuple(replace(k, confidence=1.0) for k in song.keys)
    w.session.history.do(replace(song, sections=Track(sections), keys=Track(keys), chords=Track(sure)), "unsure", None)
    w.session.tell_changed("sections", "keys", "chords")
    assert [(d.kind, d.index) for d in doubts(song_of(w))] in ([("chord", 7), ("cut", 7)], [("cut", 7), ("chord", 7)])
    w.session.select(Fraction(0))
    said = []
    for _ in range(3):
        qtbot.keyClick(w.sheet, Key.Key_F8)
        assert w.session.selection.caret == song_of(w).chords[7].start
        said.append(w.session.doubt_shown)
    assert said == [("chord", 7), ("cut", 7), ("chord", 7)], "both, and round again"


def test_every_kind_of_doubt_stands_in_one_order_by_what_it_costs(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = song_of(w)
    sections = tuple(replace(s, confidence=0.3 if i == 2 else 1.0, sure=1.0) for i, s in enumerate(song.sections))
    keys = tuple(replace(k, confidence=0.2) for k in song.keys)
    sure = tuple(replace(c, confidence=0.99) for c in song.chords)
    w.session.history.do(
        replace(song, sections=Track(sections), keys=Track(keys), chords=Track(sure)), "less sure", None
    )
    w.session.tell_changed("sections", "keys", "chords")
    texts = [w.side.doubts.item(k).text() for k in range(w.side.doubts.count())]
    assert ["another key" in t or "begin here?" in t for t in texts] == [True] * len(keys) + [True]
    assert "another key" in texts[0] and "begin here?" in texts[-1], "a key of a whole song costs more"
    w.side.doubts.itemClicked.emit(w.side.doubts.item(len(texts) - 1))
    assert w.session.selection.caret == song.sections[2].start
    assert "join it to the one before" in w.desk.place.text()
    w.session.edit(lambda s: edits.start_section(s, s.sections[2].start))
    assert not any("begin here?" in w.side.doubts.item(k).text() for k in range(w.side.doubts.count()))


def test_save_and_reopen(ferry_window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    w = ferry_window
    chords.accept_chord(w.session)
    settle(w, qtbot)
    saved = song_of(w)
    target = tmp_path / "my songs" / "ferry"
    target.parent.mkdir()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(target), ""))
    qtbot.keyClick(w, Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    path = target.with_suffix(".ychronos")
    assert path.exists()
    assert not w.session.dirty
    assert w.windowTitle().startswith("ferry.ychronos")
    w.close_document()
    open_and_wait(w, path, qtbot)
    again = song_of(w)
    assert again.chords[0].stated
    assert [c.chord for c in again.chords] == [c.chord for c in saved.chords]
    assert again.grid.times == pytest.approx(saved.grid.times, abs=1e-4)
    assert w.session.recording is not None
    assert w.session.evidence is not None
    assert not w.session.dirty


def test_exports(ferry_window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    w = ferry_window
    for action, name, start in (
        ("export_pdf", "c.pdf", b"%PDF"),
        ("export_text", "c.txt", b"The Ferry"),
        ("export_jams", "c.jams", b"{"),
    ):
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, name=name, **k: (str(tmp_path / name), ""))
        w.actions_.actions[action].trigger()
        qtbot.waitUntil((tmp_path / name).exists, timeout=20000)
        assert (tmp_path / name).read_bytes().startswith(start)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "no" / "c.pdf"), ""))
    w.actions_.actions["export_pdf"].trigger()
    qtbot.waitUntil(lambda: "does not exist" in w.notice.words.text(), timeout=20000)


def test_window_state_is_remembered(make_window: Callable[[], Window]) -> None:
    first = make_window()
    first.sheet.set_per_row(8)
    looks.toggle_side(first)
    looks.toggle_dark(first)
    first.desk.level.setValue(33)
    first.close()
    second = make_window()
    assert second.sheet.per_row == 8
    assert not second.side.isVisibleTo(second)
    assert second.theme.dark
    assert second.desk.level.value() == 33


def test_pages_that_are_not_shown_take_on_the_colours_later(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    w.show_view("form")
    w.show_view("sheet")
    monkeypatch.setattr(Soon, "waits", True)
    hidden = [v for v in w.views.values() if not v.isVisible()]
    assert len(hidden) > 4
    looks.toggle_dark(w)
    assert not any(v.window() is w for v in hidden), "the window is not kept by them"
    w.show_view("form")
    assert w.form.isVisible() and w.form.window() is w, "one that is asked for is there at once"
    qtbot.waitUntil(lambda: all(v.window() is w for v in hidden))
    for name in ("page", "ground"):
        w.show_view(name)
        assert w.views[name].isVisible()
    looks.toggle_dark(w)
    qtbot.waitUntil(lambda: all(v.window() is w for v in w.views.values()))


def test_actions_are_found_listed_and_told(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.actions_.actions["find_action"].trigger()
    qtbot.keyClicks(w.finder.field, "twice fast")
    assert w.finder.list.count() == 1
    qtbot.keyClick(w.finder.field, Key.Key_Return)
    settle(w, qtbot)
    assert "twice as fast" in w.session.history.undo_text
    w.actions_.actions["shortcuts"].trigger()
    texts = {w.keys_page.table.item(r, 1).text() for r in range(w.keys_page.table.rowCount())}
    assert {"One is here", "Play or stop", "Move"} <= texts
    keys = [k for e in w.actions_.entries.values() for k in e.keys]
    assert len(keys) == len(set(keys)), "no key does two things"
    for entry in w.actions_.entries.values():
        tip = w.actions_.actions[entry.id].toolTip()
        assert entry.tip in tip
        assert not entry.keys or "(" in tip
    w.keys_page.close()


def test_a_key_that_the_user_changed_shows_on_every_button(ferry_window: Window) -> None:
    w = ferry_window
    w.show_view("ground")
    assert w.ground.pitch.toolTip().startswith("Play it "), "it says what it would do"
    buttons = {"play": w.desk.play, "loop": w.desk.loop, "rename": w.form.rename, "true_pitch": w.ground.pitch}
    for name, button in buttons.items():
        entry = w.actions_.entries[name]
        assert button.toolTip().endswith(f"({w.actions_.keys_of(name)})"), name
        w.actions_.change_keys(entry, ("Ctrl+Alt+F9",))
        assert button.toolTip().endswith("(Ctrl+Alt+F9)"), name
        w.actions_.change_keys(entry, None)
        assert button.toolTip().endswith(f"({w.actions_.keys_of(name)})"), name


def test_context_menu_is_made_from_the_table(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.sheet.menu_wanted.emit(QPoint(300, 300))
    words = [a.text() for a in w.context_menu.actions() if a.text()]
    assert "One is here" in words
    assert "State the chord…" in words
    w.context_menu.close()


@pytest.mark.parametrize(
    ("searched", "found"),
    [
        ("transpose", "other_key"), ("bpm", "tempo"), ("metronome", "click"), ("time signature", "meter"), ("preferences", "guitar"),
        ("copy", "copy"), ("half time", "half"), ("downbeat", "one_here"), ("slash", "split_chord"), ("strum", "strokes"),
        ("lyrics", "words"), ("tab", "line"), ("riff", "line"), ("tablature", "tab_here"), ("solo", "ear"), ("print", "print"), ("bookmark", "mark"),
    ],
)  # fmt: skip
def test_actions_are_found_by_what_people_call_them(window: Window, searched: str, found: str) -> None:
    finder = window.finder
    finder.open_now()
    finder.field.setText(searched)
    ids = [finder.list.item(i).data(Qt.ItemDataRole.UserRole) for i in range(finder.list.count())]
    assert found in ids
    finder.field.setText("xyzzy")
    assert finder.list.count() == 1 and "Nothing is called “xyzzy”" in finder.list.item(0).text()
    finder.hide()


def test_words_that_people_search_with_are_for_actions_that_there_are(window: Window) -> None:
    assert set(ALSO) <= set(window.actions_.entries)


def test_every_action_is_in_a_menu_and_no_menu_covers_the_window(window: Window) -> None:
    seen: list[object] = []

    def walk(menu: QMenu) -> None:
        entries = [a for a in menu.actions() if not a.isSeparator()]
        assert len(entries) <= 22, menu.title()
        for action in entries:
            inner = action.menu()
            if isinstance(inner, QMenu):
                walk(inner)
            else:
                seen.append(action)

    for top in window.menuBar().actions():
        inner = top.menu()
        assert isinstance(inner, QMenu)
        walk(inner)
    assert {id(a) for a in window.actions_.actions.values()} <= {id(a) for a in seen}


def test_everything_is_reachable_on_a_low_screen(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.resize(1024, 600)
    for view in w.views:
        w.show_view(view)
        qtbot.wait(20)
        assert (w.width(), w.height()) == (1024, 600), view
    w.session.edit(lambda s: edits.rename_song(s, "A title that goes on and on " * 6, ""))
    w.notice.say("Something happened that takes a whole long sentence to be told, and another one after it. " * 2)
    qtbot.wait(20)
    assert (w.width(), w.height()) == (1024, 600), "nothing that is said makes the window larger"
    assert w.head.title.toolTip().startswith("A title that goes on")


def test_shift_and_end_extend_what_is_selected(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None and w.sheet.geometry_ is not None
    w.session.select(song.grid.bar_range(4)[0], 4, 4)
    w.sheet.setFocus()
    shift = Qt.KeyboardModifier.ShiftModifier
    qtbot.keyClick(w.sheet, Qt.Key.Key_Down, shift)
    last = w.session.selection.last
    assert last > 4
    qtbot.keyClick(w.sheet, Qt.Key.Key_End, shift)
    row = w.sheet.geometry_.row_of_bar(last).row
    assert (w.session.selection.first, w.session.selection.last) == (4, row.last - 1)
    qtbot.keyClick(w.sheet, Qt.Key.Key_End, shift | Qt.KeyboardModifier.ControlModifier)
    assert w.session.selection.last == len(song.grid.bars) - 1
    qtbot.keyClick(w.sheet, Qt.Key.Key_Home, shift | Qt.KeyboardModifier.ControlModifier)
    assert (w.session.selection.first, w.session.selection.last) == (0, 4)


def test_escape_closes_what_lies_on_top(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.actions_.actions["inside"].trigger()
    w.notice.say("Something", error=False)
    qtbot.keyClick(w, Qt.Key.Key_Escape)
    assert not w.notice.isVisible() and w.inside.isVisible()
    qtbot.keyClick(w, Qt.Key.Key_Escape)
    assert not w.inside.isVisible()


def test_the_clock_begins_again_with_another_song(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.seek(30.0)
    w._tick()
    assert w.desk.time.text().startswith("0:30")
    w.close_document()
    assert w.desk.time.text() == "0:00.0"


def test_a_right_click_plays_nothing_and_a_click_in_the_form_selects(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.show_view("key")
    asked: list[float] = []
    w.keys.lanes.seek_wanted.connect(asked.append)
    qtbot.mouseClick(w.keys.lanes, Qt.MouseButton.RightButton, pos=QPoint(300, 60))
    assert not asked
    w.show_view("form")
    w.form.strip.section_chosen.emit(1)
    assert w.session.song is not None
    bars = w.session.song.section_bars(1)
    assert (w.session.selection.first, w.session.selection.last) == (bars[0], bars[-1])
