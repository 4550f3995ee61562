"""The hand as the user sees it: shapes, other ways, capos, diagrams on the sheet, the neck, another key, two guitars."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtWidgets import QInputDialog, QPushButton
from pytestqt.qtbot import QtBot

from tests.app.conftest import settle
from ychronos.analysis.evidence import Evidence
from ychronos.app import looks
from ychronos.app.dialogs.fretboard import FretboardDialog
from ychronos.app.dialogs.guitardialog import GuitarDialog
from ychronos.app.hand.handview import HandView
from ychronos.app.window import Window
from ychronos.formats import project
from ychronos.guitar.candidates import pitches
from ychronos.guitar.fingering import shape_text
from ychronos.guitar.instrument import GuitarSetup
from ychronos.session.commands import shapes
from ychronos.session.jobs import AtOnce
from ychronos.session.shaping import FEW, Searched, Shaping
from ychronos.song import edits
from ychronos.song.model import Song
from ychronos.theory.chord import parse_chord

Key = Qt.Key
LEFT = Qt.MouseButton.LeftButton


def song_of(w: Window) -> Song:
    assert w.session.song is not None
    return w.session.song


def hand_of(w: Window, qtbot: QtBot) -> HandView:
    w.show_view("hand")
    page = w.views["hand"]
    assert isinstance(page, HandView)
    qtbot.waitUntil(lambda: bool(page.choosing.found), timeout=20000)
    return page


def point(page: HandView, index: int) -> QPoint:
    return page.cards.box(index).center().toPoint()


def test_shapes_stand_in_order_of_appearance(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    page, song = hand_of(w, qtbot), song_of(w)
    names = [c.title for c in page.cards.cards]
    first = [song.shape_name(i) for i, s in enumerate(song.chords) if not s.chord.is_none]
    assert names == list(dict.fromkeys(first))
    assert sum(u.times for u in page.shapes) == len(first)
    for one in page.shapes:
        sounding = {n % 12 for n in pitches(one.held.shape, song.guitar.strings)}
        assert sounding <= song.chords[one.first].chord.pitch_classes
    assert "standard tuning" in page.setup.text() and "barre" in page.told.text()


def test_another_way_is_chosen_heard_kept_and_taken_back(ferry_window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    w = ferry_window
    page = hand_of(w, qtbot)
    heard: list[list[int]] = []
    page.hear_wanted.connect(heard.append)
    qtbot.mouseClick(page.cards, LEFT, pos=point(page, 1))
    assert page.cards.current == 1
    name, now = page.shapes[1].name, page.shapes[1].held.shape
    assert heard[-1] == pitches(now, song_of(w).guitar.strings)
    other = next(i for i, c in enumerate(page.ways.cards) if c.shape != now)
    qtbot.mouseClick(page.ways, LEFT, pos=page.ways.box(other).center().toPoint())
    shape = page.ways.cards[other].shape
    assert heard[-1] == pitches(shape, song_of(w).guitar.strings), "it sounds exactly as fretted"
    qtbot.keyClick(page.ways, Key.Key_Return)
    held = next(u for u in page.shapes if u.name == name)
    assert held.held.shape == shape and held.held.stated
    assert page.forget.isEnabled() and "you chose it" in page.words.text()
    path = tmp_path / "k.ychronos"
    project.save(song_of(w), path)
    again = project.load(path)
    assert [h and h.shape for h in again.held] == [h and h.shape for h in song_of(w).held]
    document = json.loads(path.read_text())
    (said,) = [s for s in document["statements"] if s["kind"] == "shape"]
    assert said["value"]["frets"] == shape_text(shape)
    w.session.undo()
    assert next(u for u in page.shapes if u.name == name).held.shape == now
    w.session.redo()
    qtbot.mouseClick(page.forget, LEFT)
    assert next(u for u in page.shapes if u.name == name).held.shape == now


def test_a_note_is_wished_on_top(ferry_window: Window, qtbot: QtBot) -> None:
    page = hand_of(ferry_window, qtbot)
    page.cards.choose(0)
    row = next(i for i in range(page.wish.count()) if page.wish.itemText(i) == "B on top")
    page.wish.setCurrentIndex(row)
    page.wish.activated.emit(row)
    strings = song_of(ferry_window).guitar.strings
    assert page.ways.cards and all(max(pitches(c.shape, strings)) % 12 == 11 for c in page.ways.cards)
    row = next(i for i in range(page.wish.count()) if page.wish.itemText(i) == "D lowest")
    page.wish.setCurrentIndex(row)
    page.wish.activated.emit(row)
    assert page.ways.cards and all(min(pitches(c.shape, strings)) % 12 == 2 for c in page.ways.cards)


def test_a_shape_for_one_section_only(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    page, song = hand_of(w, qtbot), song_of(w)
    name = song.shape_name(0)
    page.cards.choose(0)
    other = next(i for i, c in enumerate(page.ways.cards) if c.shape != page.shapes[0].held.shape)
    page.ways.choose(other)
    page.where.setCurrentIndex(1)
    qtbot.mouseClick(page.take, LEFT)
    song = song_of(w)
    mine = [i for i, s in enumerate(song.chords) if not s.chord.is_none and song.shape_name(i) == name]
    inside = [i for i in mine if song.section_index(song.chords[i].start) == 0]
    assert inside and len(inside) < len(mine)
    assert all(song.held[i].stated == (i in inside) for i in mine)  # type: ignore[union-attr]
    titles = [c.title for c in page.cards.cards]
    assert name in titles and f"{name} (2nd)" in titles, "two shapes of one name are told apart"


def test_keys_beside_the_sheet_choose_a_shape(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.session.select(song_of(w).chords[0].start, chord=True)
    found = shapes.ways(song_of(w), 0)
    assert [c.shape for c in w.side.ways.cards] == [x.shape for x in found]
    qtbot.keyClick(w, Key.Key_6, Qt.KeyboardModifier.AltModifier)
    held = song_of(w).held[0]
    assert held is not None and held.shape == found[1].shape and held.stated
    w.actions_.actions["forget_shape"].trigger()
    assert not song_of(w).held[0].stated  # type: ignore[union-attr]


def test_a_capo_is_previewed_then_stated(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    page = hand_of(w, qtbot)
    row = next(i for i, c in enumerate(page.rows) if c.capo == 5)
    before = song_of(w)
    page.list.setCurrentRow(row)
    assert song_of(w) is before, "a preview states nothing"
    assert "preview" in page.setup.text() and "capo 5" in page.setup.text()
    qtbot.waitUntil(lambda: bool(page.shapes), timeout=20000)
    assert page.cards.cards[0].title == "D" and not page.take.isEnabled()
    qtbot.mouseClick(page.state, LEFT)
    assert song_of(w).guitar.capo == 5 and song_of(w).guitar.show == "both"
    assert song_of(w).chord_name(0) == "G (D)"
    w.session.undo()
    assert song_of(w).guitar.capo == 0
    page.list.setCurrentRow(row)
    before = song_of(w)
    w.show_view("sheet")
    w.sheet.viewport().repaint()
    assert w.sheet.preview is not None and w.sheet.preview.capo == 5 and song_of(w) is before
    assert "capo 5" in w.notice.words.text() and "nothing is stated" in w.notice.words.text()
    qtbot.waitUntil(lambda: not song_of(w).held_unknown(w.sheet.preview or song_of(w).guitar), timeout=20000)
    shown = w.sheet.viewport().grab().toImage()
    next(b for b in w.notice.findChildren(QPushButton) if b.text() == "As it was").click()
    assert w.sheet.preview is None and w.sheet.viewport().grab().toImage() != shown
    w.show_view("hand")
    page.list.setCurrentRow(row)
    w.show_view("sheet")
    next(b for b in w.notice.findChildren(QPushButton) if b.text() == "Take it").click()
    assert song_of(w).guitar.capo == 5 and w.sheet.preview is None
    w.session.undo()
    page = hand_of(w, qtbot)
    page.every.setChecked(True)
    qtbot.waitUntil(lambda: len({c.strings for c in page.choosing.found}) > 1, timeout=30000)
    assert any(
        "rop" in page.list.item(i).text() or "down" in page.list.item(i).text() for i in range(page.list.count())
    )


def test_levels_are_chosen_and_say_what_they_lose(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    page = hand_of(w, qtbot)
    row = page.level.findData("three fingers")
    page.level.setCurrentIndex(row)
    page.level.activated.emit(row)
    assert song_of(w).guitar.level == "three fingers"
    qtbot.waitUntil(lambda: bool(page.shapes), timeout=20000)
    assert all(u.held.barre == 0 for u in page.shapes)
    w.actions_.actions["level"].trigger()
    assert song_of(w).guitar.level == "top strings" and page.level.currentText() == "top strings"
    qtbot.waitUntil(lambda: bool(page.shapes), timeout=20000)
    assert "simpler" in page.told.text() and "D/F♯ without F♯" in page.told.text()


def test_diagrams_on_the_sheet(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    geometry = w.sheet.geometry_
    assert geometry is not None
    high = geometry.height
    w.sheet.setFocus()
    qtbot.keyClick(w, Key.Key_N)
    assert w.sheet.diagrams and w.actions_.actions["diagrams"].isChecked()
    for per_row in (2, 4, 8):
        w.sheet.set_per_row(per_row)
        for zoom in (0.5, 1.0, 3.0):
            w.sheet.set_zoom(zoom)
            w.sheet.viewport().repaint()
    w.sheet.set_per_row(4)
    w.sheet.set_zoom(1.0)
    assert w.sheet.geometry_ is not None and w.sheet.geometry_.height > high
    row, bar = w.sheet.geometry_.box_of_bar(song_of(w).grid.lead_in)
    assert w.sheet.geometry_.hit(bar.x + 4, row.y - row.above / 2) is not None, "a click on a diagram means its bar"
    picture = w.sheet.viewport().grab().toImage()
    area = [
        picture.pixelColor(int(bar.x + 20 + x), int(row.y - 40 + y)).name()
        for x in range(0, 30, 2)
        for y in range(0, 30, 2)
    ]
    assert len(set(area)) > 2, "something is drawn above the name"
    qtbot.keyClick(w, Key.Key_N)
    assert w.sheet.geometry_.height == high


def test_the_neck_goes_to_the_24th_fret(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.session.edit(lambda s: edits.set_guitar(s, GuitarSetup(capo=2)))
    dialog = FretboardDialog(song_of(w), 0, w.theme, w)
    qtbot.addWidget(dialog)
    dialog.show()
    held = song_of(w).held[0]
    assert held is not None and dialog.typed.text() == shape_text(held.shape)
    dialog.typed.setFocus()
    dialog.typed.clear()
    qtbot.keyClicks(dialog.typed, "x 22 20 20 20 x")
    assert dialog.board.shape == [None, 22, 20, 20, 20, None]
    qtbot.keyClicks(dialog.typed, "y")
    assert "fret" in dialog.hint.text() or "strings" in dialog.hint.text()
    dialog.typed.clear()
    qtbot.keyClicks(dialog.typed, "x3201x")
    dialog.fingers.setFocus()
    qtbot.keyClicks(dialog.fingers, "043010")
    assert dialog.chosen_fingers == (0, 4, 3, 0, 1, 0)
    qtbot.keyClicks(dialog.fingers, "9")
    assert dialog.chosen_fingers == () and "Fingers" in dialog.hint.text()
    dialog.board.setFocus()
    for _ in range(9):
        qtbot.keyClick(dialog.board, Key.Key_Down)
    qtbot.keyClick(dialog.board, Key.Key_2)
    qtbot.keyClick(dialog.board, Key.Key_1)
    assert dialog.board.shape[0] == 21, "two digits are one fret"
    place = QPointF(dialog.board.x_of(12), dialog.board.y_of(3))
    assert dialog.board.place(place) == (3, 12)


def test_left_handed_players_see_it_in_a_mirror(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.actions_.actions["left_handed"].trigger()
    assert song_of(w).guitar.left and w.side.ways.left
    dialog = FretboardDialog(song_of(w), 0, w.theme, w)
    qtbot.addWidget(dialog)
    dialog.show()
    board = dialog.board
    board.set_shape((3, 2, 0, 0, 0, 3))
    spot = QPointF(board.seen(board.x_of(5)), board.y_of(2))
    assert board.place(spot) == (2, 5) and spot.x() > board.width() / 2
    qtbot.mouseClick(board, LEFT, pos=spot.toPoint())
    assert board.shape[2] == 5


def test_what_is_drawn_is_what_is_kept(ferry_window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    w = ferry_window
    w.session.select(song_of(w).chords[0].start, chord=True)

    def played(dialog: FretboardDialog) -> int:
        dialog.typed.setText("")
        dialog.board.set_shape((3, 5, 5, 4, 3, 3))
        dialog.reach_.setCurrentIndex(2)
        return 1

    monkeypatch.setattr(FretboardDialog, "exec", played)
    before = song_of(w).chords[0].chord
    looks.play_on_fretboard(w)
    held = song_of(w).held[0]
    assert held is not None and held.shape == (3, 5, 5, 4, 3, 3) and held.stated
    assert song_of(w).chords[0].chord == before == parse_chord("G"), "the chord is the same, the shape another"
    others = [h for i, h in enumerate(song_of(w).held) if i and h and song_of(w).chords[i].chord == before]
    assert others and all(not h.stated for h in others), "only here"


def test_another_key_and_back(ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    w = ferry_window
    before = song_of(w)
    names = [before.chord_name(i) for i in range(len(before.chords))]

    def choose(words: str) -> None:
        def item(parent, title, question, options, current, editable):  # type: ignore[no-untyped-def]
            return next(o for o in options if o.startswith(words)), True

        monkeypatch.setattr(QInputDialog, "getItem", item)

    choose("A major")
    w.actions_.actions["other_key"].trigger()
    song = song_of(w)
    assert song.guitar.moved == 2 and song.chord_name(0) == "A" and song.chords == before.chords
    held = song.held[0]
    assert held is not None and {n % 12 for n in pitches(held.shape, song.guitar.strings)} == {9, 1, 4}
    w.actions_.actions["hear_key"].trigger()
    assert w.practice.semitones == 2
    assert w.sheet.state_line("B7") == ""
    settle(w, qtbot)
    assert song_of(w).chords[0].chord == parse_chord("A7"), "what is typed is what is written"
    w.session.undo()
    choose("G major, as it sounds")
    w.actions_.actions["other_key"].trigger()
    back = song_of(w)
    assert replace(back, log=before.log) == before
    assert [back.chord_name(i) for i in range(len(back.chords))] == names


def test_two_guitars(ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    w = ferry_window
    page = hand_of(w, qtbot)

    def exec_(dialog: GuitarDialog) -> int:
        assert "Second" in dialog.windowTitle()
        dialog.capo.setValue(5)
        return 1

    monkeypatch.setattr(GuitarDialog, "exec", exec_)
    qtbot.mouseClick(page.second, LEFT)
    song = song_of(w)
    assert song.second is not None and song.second.capo == 5 and page.swap.isVisible()
    assert [h and h.shape for h in song.held_on_second] != [h and h.shape for h in song.held]
    qtbot.mouseClick(page.swap, LEFT)
    assert song_of(w).guitar.capo == 5 and song_of(w).second == replace(song.guitar, show=song_of(w).second.show)  # type: ignore[union-attr]
    assert page.cards.cards[0].title == "D"
    monkeypatch.setattr(GuitarDialog, "exec", lambda dialog: dialog.none.click() or 1)
    w.actions_.actions["second_guitar"].trigger()
    assert song_of(w).second is None and not page.swap.isVisible()


def test_ground_offers_the_capo(ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    w = ferry_window
    song = song_of(w)
    found = [replace(c, share=0.9 if c.capo == 3 else 0.0, heard=0.0) for c in song.capos]
    found.sort(key=lambda c: -c.share)
    monkeypatch.setattr(Song, "setups_ranked", lambda *_: found)
    w.show_view("ground")
    qtbot.waitUntil(lambda: not w.ground.choosing.weighing)
    assert w.ground.capo.isVisible() and "fret 3" in w.ground.capo.text()
    assert any("fret 3" in c.text() for c in w.ground.causes)
    qtbot.mouseClick(w.ground.capo, LEFT)
    assert song_of(w).guitar.capo == 3 and song_of(w).guitar.show == "both"


def test_shapes_of_another_tuning_are_looked_for_beside_the_window(ferry_window: Window, qtbot: QtBot) -> None:
    """The sheet shows none until they are there, and then does; the window never looks for many itself."""
    w = ferry_window
    looks.toggle_diagrams(w)
    page = hand_of(w, qtbot)
    strings = tuple(s - 3 for s in song_of(w).guitar.strings)  # nobody asked for these before
    looked: list[object] = []
    start = w.session.jobs.start

    class Late:
        """Runs work when it is told to."""

        def start(self, work, done, failed):  # type: ignore[no-untyped-def]
            if isinstance(work, Searched):
                looked.append((work, done))
                return AtOnce()
            return start(work, done, failed)

    w.session.jobs = Late()
    w.session.edit(lambda s: edits.set_guitar(s, replace(s.guitar, strings=strings)))
    song = song_of(w)
    assert page.setup.text().endswith("looking for shapes…") and len(looked) == 1 and not page.shapes
    assert len(song.held_unknown(song.guitar)) > FEW
    w.show_view("sheet")
    w.sheet.grab()
    assert len(song.held_unknown(song.guitar)) > FEW and len(looked) == 1, "painting must not look for them"
    work, done = looked[0]
    done(work(AtOnce()))
    assert not song.held_unknown(song.guitar)
    w.show_view("hand")
    assert "looking" not in page.setup.text() and page.shapes
    assert all(u.held is not None for u in page.shapes)
    w.session.undo()
    assert song_of(w).guitar.strings != strings and page.shapes


def test_shapes_that_cannot_be_looked_for_beside_are_found_here(ferry: tuple[Song, Evidence]) -> None:
    class Failing:
        def start(self, work, done, failed):  # type: ignore[no-untyped-def]
            failed("it ended")
            return AtOnce()

    song, told = ferry[0], list[str]()
    shaping = Shaping(lambda: Failing(), lambda: told.append("known"))
    guitar = replace(song.guitar, strings=tuple(s - 4 for s in song.guitar.strings))
    shaping.ready(song, guitar)
    assert told == ["known"] and shaping.ready(song, guitar)
    assert any(h is not None for h in song.held_on(guitar))
