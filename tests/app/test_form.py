"""The form view and corrections that travel: as the user does it."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtWidgets import QFileDialog, QInputDialog
from pytestqt.qtbot import QtBot

from tests.app.conftest import settle
from ychronos.app.dialogs.asking import Ask
from ychronos.app.form.formview import _TOP
from ychronos.app.window import Window
from ychronos.song import edits
from ychronos.song.alignment import differing_bars
from ychronos.song.edits import twins
from ychronos.song.sung import share
from ychronos.theory.chord import Chord, parse_chord

NONE = Qt.KeyboardModifier.NoModifier


def shown(w: Window, qtbot: QtBot) -> None:
    qtbot.mouseClick(w.tabs.buttons[3], Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not w.form.comparing, timeout=20000)
    w.form.repaint()
    w.form.table.repaint()


def test_what_perhaps_differs_is_dotted_and_told(ferry_window: Window, qtbot: QtBot) -> None:
    """A difference that is not sure enough for the list still shows where it is, and how sure."""
    w = ferry_window
    shown(w, qtbot)
    assert w.form.found
    w.form.choose(w.form.found[0].section)
    table = w.form.table
    framed = next(p for p in table.passes if any(d.bar is not None for d in p.differences))
    found = next(d for d in framed.differences if d.bar is not None)
    others = [p for p in table.passes if p is not framed]
    unsure = replace(found, sure=0.61)
    table.passes = [*others, replace(framed, differences=(), perhaps=(unsure,))]
    table.repaint()
    box = next(box for box, bar in table._cells if bar == found.bar)
    assert table.told_under(box.center()) == f"{found.words}, 61% sure"
    dotted = table.grab().toImage()
    table.passes = [*others, replace(framed, differences=(), perhaps=())]
    plain = table.grab().toImage()
    assert not table.told_under(box.center())
    across = range(int(box.left()) + 5, int(box.right()) - 4)
    drawn = sum(dotted.pixel(x, int(box.bottom()) - 1) != plain.pixel(x, int(box.bottom()) - 1) for x in across)
    assert 0.2 * len(across) < drawn < len(across)


def test_a_click_chooses_a_section_and_shows_its_passes(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    shown(w, qtbot)
    strip = w.form.strip
    several = next(i for i, s in enumerate(song.sections) if sum(x.material == s.material for x in song.sections) > 1)
    x = int((strip.edges()[several] + strip.edges()[several + 1]) / 2)
    qtbot.mouseClick(strip, Qt.MouseButton.LeftButton, NONE, QPoint(x, 90))
    assert strip.chosen == several and len(w.form.table.passes) > 1
    w.form.table.repaint()
    box, bar = w.form.table._cells[0]
    qtbot.mouseClick(w.form.table, Qt.MouseButton.LeftButton, NONE, box.center().toPoint())
    assert w.playing and (w.session.selection.first, w.session.selection.last) == (bar, bar)
    w.stop_playing()
    qtbot.keyClick(strip, Qt.Key.Key_Right)
    assert strip.chosen == several + 1


def test_an_edge_is_dragged_to_another_bar_line(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    shown(w, qtbot)
    strip = w.form.strip
    bar = song.grid.bar_at(song.sections[1].start)
    target = int(strip.x_of(song.grid.clock(song.grid.starts[bar + 1]))) + 1
    edge = int(strip.edges()[1])
    assert strip.edge_under(edge) == 1 and strip.edge_under(edge + 40) is None
    qtbot.mousePress(strip, Qt.MouseButton.LeftButton, NONE, QPoint(edge, 90))
    qtbot.mouseMove(strip, QPoint(target, 90))
    qtbot.mouseRelease(strip, Qt.MouseButton.LeftButton, NONE, QPoint(target, 90))
    settle(w, qtbot)
    now = w.session.song
    assert now is not None
    moved = next(s for s in now.sections if s.start == song.grid.starts[bar + 1])
    assert moved.stated
    w.session.undo()
    assert w.session.song.sections[1].start == song.sections[1].start  # type: ignore[union-attr]


def test_two_bars_are_heard_in_turn(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None and w.player is not None
    shown(w, qtbot)
    w.form.pair_chosen.emit(4, 12)
    bars = set()
    for _ in range(60):
        w.output.advance(0.1)  # type: ignore[attr-defined]
        bars.add(song.grid.bar_at(song.grid.position(w.player.seconds)))
    assert bars == {4, 12}
    w.practice.toggle_passes()
    assert not w.playing


def test_the_map_gives_the_bars_under_the_mouse(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    shown(w, qtbot)
    got: list[tuple[int, int]] = []
    w.form.map.pair_chosen.disconnect()
    w.form.map.pair_chosen.connect(lambda a, b: got.append((a, b)))
    qtbot.mouseClick(w.form.map, Qt.MouseButton.LeftButton, NONE, QPoint(2, 186))
    song = w.session.song
    assert song is not None and got[0][0] == w.form.map.lead and got[0][1] == len(song.grid.bars) - 1
    assert w.form.map.matrix is not None and w.form.map.matrix.shape[0] == len(song.grid.bars) - w.form.map.lead


def test_a_difference_is_listed_and_played(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    bar = next(b for b in range(8, len(song.grid.bars)) if twins(song, b) and min(twins(song, b)) < b)
    start, end = song.grid.bar_range(bar)
    from ychronos.song import edits

    w.session.edit(lambda s: edits.state_chord(s, start, end, parse_chord("F#m7b5")))
    shown(w, qtbot)
    texts = [w.form.list.item(i).text() for i in range(w.form.list.count())]
    row = next(i for i, t in enumerate(texts) if "F♯ø7 instead of" in t)
    w.form._difference(w.form.list.item(row))
    assert w.playing and w.practice.passes_on
    w.stop_playing()


def test_the_same_as_another(ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    shown(w, qtbot)
    last = len(song.sections) - 1
    w.form.choose(last)
    monkeypatch.setattr(QInputDialog, "getItem", lambda *a, **k: ("music of its own", True))
    qtbot.mouseClick(w.form.same, Qt.MouseButton.LeftButton)
    settle(w, qtbot)
    now = w.session.song
    assert now is not None
    assert [s.material for s in now.sections].count(now.sections[-1].material) == 1
    assert now.sections[-1].material_stated
    assert "Folded:" in w.form.folded.text()


def test_a_correction_travels_and_is_taken_back_with_one_undo(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    bar = next(b for b in range(len(song.grid.bars)) if len(twins(song, b)) >= 2)
    start = song.grid.bar_range(bar)[0]
    root = song.chords[song.chord_index(start)].chord.root
    others = [song.grid.bar_range(b)[0] for b in twins(song, bar)]
    w.session.select(start, chord=True)
    w.session.state_chord(Chord(root, "7"))
    settle(w, qtbot)
    now = w.session.song
    assert now is not None
    led = {s.start for s in now.chords if s.follows}
    assert led and led <= set(others), "to the same place of the other passes, nowhere else"
    for at in led:
        span = now.chords[now.chord_index(at)]
        assert span.chord == Chord(root, "7") and not span.stated
    w.session.select(min(led), chord=True)
    assert "follows what you stated" in w.side.state.text()
    assert "Followed at its other times" in w.notice.words.text()
    w.session.select(start, chord=True)
    w.session.state_chord(Chord(root, "7"))
    settle(w, qtbot)
    assert {s.start for s in w.session.song.chords if s.follows} == led, "said twice, it still follows"  # type: ignore[union-attr]
    w.session.undo()
    qtbot.mouseClick(w.notice.choices["Undo all"], Qt.MouseButton.LeftButton)
    assert w.session.song is song


def test_what_is_the_same_already_does_not_follow(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    bar = next(b for b in range(len(song.grid.bars)) if len(twins(song, b)) >= 2)
    index = song.chord_index(song.grid.bar_range(bar)[0])
    w.session.select(song.chords[index].start, chord=True)
    w.session.state_chord(song.chords[index].chord)
    settle(w, qtbot)
    assert not any(s.follows for s in w.session.song.chords)  # type: ignore[union-attr]
    assert not w.notice.isVisible()


def test_passes_are_stacked_on_the_sheet(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    w.sheet.setFocus()
    qtbot.keyClick(w.sheet, Qt.Key.Key_F6)
    geometry = w.sheet.geometry_
    assert w.sheet.stacked and geometry is not None
    keys = [song.sections[r.row.section].material for r in geometry.rows if not r.row.lead_in]
    assert len([1 for a, b in zip(keys, keys[1:], strict=False) if a != b]) == len(set(keys)) - 1
    bar = song.grid.bar_at(song.sections[-1].start)
    row, box = geometry.box_of_bar(bar)
    hit = geometry.hit(box.x + 2, row.y + 5)
    assert hit is not None and hit[1].bar == bar
    qtbot.keyClick(w.sheet, Qt.Key.Key_F6)
    assert not w.sheet.stacked
    assert w.form.table.bar_under(QPointF(-5, -5)) is None


def test_charts_are_folded_or_flat_as_the_menu_says(
    ferry_window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    texts = []
    for name in ("folded.txt", "flat.txt"):
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, name=name, **k: (str(tmp_path / name), ""))
        w.actions_.actions["export_text"].trigger()
        qtbot.waitUntil((tmp_path / name).exists, timeout=20000)
        texts.append((tmp_path / name).read_text())
        w.actions_.actions["fold_charts"].trigger()
    folded, flat = texts
    assert "as the 1st time" in folded and "as the 1st time" not in flat
    assert len(flat.splitlines()) > len(folded.splitlines())
    assert w.actions_.actions["fold_charts"].isChecked(), "twice is back again"
    assert w.settings.flag("folded_charts", False)


def test_long_differences_are_read_whole(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    shown(w, qtbot)
    w.form.list.clear()
    w.form.list.addItems(["bar 4 is missing\nVerse 2", "all of it is 2 semitones higher than any other\nChorus 3"])
    w.form.list.setVisible(True)
    w.form.list.repaint()
    short, long = (w.form.list.visualItemRect(w.form.list.item(i)).height() for i in (0, 1))
    assert long > short


def test_a_part_of_the_music_is_no_error_in_the_table(ferry_window: Window, qtbot: QtBot) -> None:
    """A short pass stands under the bars that it is, and the model is the pass that the others are compared with."""
    w = ferry_window
    song = w.session.song
    assert song is not None
    verse = next(i for i, s in enumerate(song.sections) if s.name == "Verse")
    intro = song.sections[0]
    w.session.edit(lambda s: edits.state_material(s, 0, verse))
    settle(w, qtbot)
    now = w.session.song
    assert (
        now is not None
        and now.sections[0].material == now.sections[now.section_index(song.sections[verse].start)].material
    )
    shown(w, qtbot)
    w.form.choose(0)
    models = [p.model for p in w.form.table.passes]
    assert models.count(True) == 1 and not models[0]
    kinds = [d.kind for d in w.form.table.passes[0].differences]
    assert "part" in kinds and "missing" not in kinds
    assert len(w.form.table.columns()) >= 8
    w.form.table.repaint()
    assert intro.start == 0


def test_stacked_passes_show_what_differs(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    assert w.sheet.differs == frozenset()
    before = w.sheet.viewport().grab().toImage()
    qtbot.keyClick(w.sheet, Qt.Key.Key_F6)
    song = w.session.song
    assert song is not None and w.sheet.stacked
    assert w.sheet.differs == differing_bars(song) != frozenset()
    bar = min(w.sheet.differs)
    w.session.select(song.grid.bar_range(bar)[0], bar, bar)
    w.sheet.reveal_caret()
    assert w.sheet.viewport().grab().toImage() != before
    qtbot.keyClick(w.sheet, Qt.Key.Key_F6)
    assert w.sheet.differs == frozenset()


def test_words_without_end_do_not_make_the_window_larger(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    before = w.size()
    w.session.edit(lambda s: edits.rename_section(s, 0, "W" * 4000))
    w.session.edit(lambda s: edits.rename_song(s, "T" * 4000, "A" * 4000))
    w.notice.say("Cannot read " + "x" * 4000 + ".ogg.")
    for number in range(len(w.tabs.buttons)):
        qtbot.mouseClick(w.tabs.buttons[number], Qt.MouseButton.LeftButton)
        qtbot.wait(20)
        w.grab()
        assert w.size() == before, w.tabs.buttons[number].text()


def test_the_order_line_leads_to_a_section(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.show_view("form")
    song = w.session.song
    assert song is not None
    assert song.sections[1].name in w.form.order.text()
    w.form.order.linkActivated.emit("1")
    assert w.form.strip.chosen == 1 and w.session.selection.caret == song.sections[1].start
    assert abs(w.heard() - song.grid.clock(song.sections[1].start)) < 0.05


def test_clicks_on_the_name_of_a_section_are_about_that_section(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    made, song = w.sheet.geometry_, w.session.song
    assert made is not None and song is not None
    row = next(r for r in made.rows if r.row.opens and r.row.section == 2)
    w.sheet.verticalScrollBar().setValue(int(row.y) - 80)
    made = w.sheet.geometry_
    assert made is not None
    at = (QPointF(40, row.y + 20) - w.sheet._offset()).toPoint()
    qtbot.mouseClick(w.sheet.viewport(), Qt.MouseButton.LeftButton, pos=at)
    bars = song.section_bars(2)
    assert (w.session.selection.first, w.session.selection.last) == (bars[0], bars[-1])
    asked: list[str] = []

    def exec_(dialog: Ask) -> int:
        asked.append(dialog.text)
        dialog.answer.setCurrentText("Middle part")
        return 1

    monkeypatch.setattr(Ask, "exec", exec_)
    at = (QPointF(40, row.y + 20) - w.sheet._offset()).toPoint()
    qtbot.mouseClick(w.sheet.viewport(), Qt.MouseButton.LeftButton, pos=at)
    qtbot.mouseDClick(w.sheet.viewport(), Qt.MouseButton.LeftButton, pos=at)
    assert asked == [song.sections[2].name]
    qtbot.waitUntil(lambda: w.session.song.sections[2].name == "Middle part", timeout=5000)  # type: ignore[union-attr]


def test_that_somebody_sings_is_shown_and_said(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Where a voice was heard there is a line below the strip; a section is said to be sung or not by one entry of the menu."""
    w = ferry_window
    song = w.session.song
    assert song is not None
    spans = [tuple(song.grid.clock(p) for p in song.section_range(i)) for i in (1, 3)]
    w.session.set_song(replace(song, sung=tuple((a, b) for a, b in spans)), None)
    shown(w, qtbot)
    strip, dark = w.form.strip, w.theme.colour("ink")

    def line_at(section: int) -> bool:
        picture = strip.grab().toImage()
        x = int((strip.edges()[section] + strip.edges()[section + 1]) / 2)
        return any(picture.pixelColor(x, y) == dark for y in range(int(_TOP) + 104, int(_TOP) + 112))

    assert line_at(1) and line_at(3) and not line_at(2)
    assert "nobody sings" in w.form.folded.text()
    w.session.select(song.sections[2].start)
    entry = w.actions_.actions["sung"]
    assert not entry.isChecked()
    entry.trigger()
    now = w.session.song
    assert now is not None and share(now, 2) == 1.0 and entry.isChecked()
    assert any(p.name and "somebody sings" in p.description for p in strip.accessible_parts())
    entry.trigger()
    again = w.session.song
    assert again is not None and share(again, 2) == 0.0 and not entry.isChecked()
    offered: list[list[str]] = []
    monkeypatch.setattr(w.session.asks, "with_reach", lambda title, words, known, reaches: offered.append(known))
    w.actions_.actions["rename"].trigger()
    assert offered[0][:2] == [again.sections[2].name, "Instrumental"], "what has lost its singer may be called so"
    w.session.undo()
    assert w.session.song == now
    w.actions_.actions["rename"].trigger()
    assert offered[1][1] != "Instrumental" in offered[1] and {"Pre-chorus", "Interlude", "Outro"} <= set(offered[1])
