"""What waits for the next turn of the event loop, or until nobody is waiting."""

from __future__ import annotations

import gc
import time
import weakref
from collections.abc import Iterator

import pytest
from PySide6.QtCore import QObject, Qt, QTimer
from PySide6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from tests.app.conftest import settle
from ychronos.app import soon
from ychronos.app.soon import Collector, Soon
from ychronos.app.window import Window


def test_many_wishes_in_one_turn_are_one_call(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(Soon, "waits", True)
    calls: list[int] = []
    parent = QObject()
    wish = Soon(lambda: calls.append(1), parent)
    for _ in range(5):
        wish()
    assert not calls
    qtbot.waitUntil(lambda: bool(calls), timeout=2000)
    qtbot.wait(20)
    assert calls == [1]
    wish()
    wish.done()
    qtbot.wait(20)
    assert calls == [1], "what is done already is not done again"


def test_what_can_wait_waits_for_a_turn_with_time(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    """After long work in one turn it is called in a later one, but it does not wait for ever."""
    monkeypatch.setattr(Soon, "waits", True)
    spent = [1.0]
    monkeypatch.setattr(soon.TURN, "spent", lambda: spent[0])
    calls: list[int] = []
    parent = QObject()
    wish = Soon(lambda: calls.append(1), parent)
    wish()
    for _ in range(2):
        QApplication.processEvents()
    assert not calls
    spent[0] = 0.0
    qtbot.waitUntil(lambda: bool(calls), timeout=2000)
    spent[0] = 1.0
    wish()
    qtbot.waitUntil(lambda: len(calls) == 2, timeout=2000)


def test_a_turn_begins_with_the_event_loop(qtbot: QtBot) -> None:
    soon.TURN.spent()
    qtbot.wait(5)
    time.sleep(0.3)
    assert soon.TURN.spent() >= 0.3
    seen: list[float] = []
    QTimer.singleShot(10, lambda: seen.append(soon.TURN.spent()))
    qtbot.waitUntil(lambda: bool(seen), timeout=2000)
    assert seen[0] < 0.25, "another turn"


def test_the_panel_follows_a_statement_in_the_next_turn(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    monkeypatch.setattr(Soon, "waits", True)
    looked: list[int] = []
    show = w.side._show_chord
    monkeypatch.setattr(w.side, "_show_chord", lambda: (looked.append(1), show())[1])
    song = w.session.song
    assert song is not None
    w.session.select(song.chords[6].start, chord=True)
    qtbot.keyClicks(w.sheet, "B")
    qtbot.keyClicks(w.sheet.entry.field, "m7")
    qtbot.keyClick(w.sheet.entry.field, Qt.Key.Key_Return)
    assert not looked, "not within the same press of a key"
    settle(w, qtbot)
    assert looked
    w.session.select(song.chords[6].start, chord=True)
    qtbot.waitUntil(lambda: w.side.chord.text() == "Bm7", timeout=2000)
    assert w.side.state.text().startswith("you stated it")


class Knot:
    """Refers to itself, so that only a collection frees it."""

    def __init__(self) -> None:
        self.me = self


@pytest.fixture
def resting(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> Iterator[tuple[Collector, QWidget, list[bool]]]:
    monkeypatch.setattr(soon, "QUIET", 0.05)
    widget = QWidget()
    qtbot.addWidget(widget)
    widget.show()
    playing = [False]
    collector = Collector(widget.windowHandle(), lambda: playing[0])
    yield collector, widget, playing
    collector.end()


def knot() -> weakref.ref[Knot]:
    """Something of the oldest generation that nobody has any more."""
    made = Knot()
    seen = weakref.ref(made)
    gc.collect(1)
    gc.collect(1)
    return seen


def test_unused_objects_go_while_nobody_waits(resting: tuple[Collector, QWidget, list[bool]], qtbot: QtBot) -> None:
    _, widget, playing = resting
    seen = knot()
    qtbot.wait(150)
    assert seen() is not None, "nothing was done, nothing is collected"
    playing[0] = True
    qtbot.mouseClick(widget.windowHandle(), Qt.MouseButton.LeftButton)
    qtbot.wait(150)
    assert seen() is not None, "not while a record plays"
    playing[0] = False
    qtbot.waitUntil(lambda: seen() is None, timeout=3000)


def test_they_go_when_much_memory_has_come_together(
    resting: tuple[Collector, QWidget, list[bool]], monkeypatch: pytest.MonkeyPatch
) -> None:
    collector, _, playing = resting
    seen = knot()
    monkeypatch.setattr(soon, "used", lambda: collector._used + soon.GROWN + 1)
    playing[0] = True
    collector.look()
    assert seen() is not None
    playing[0] = False
    collector.look()
    assert seen() is None


def test_in_the_middle_of_work_only_what_is_new_is_looked_at(
    resting: tuple[Collector, QWidget, list[bool]], monkeypatch: pytest.MonkeyPatch
) -> None:
    collector, _, _ = resting
    kept = Knot()
    seen = weakref.ref(kept)
    monkeypatch.setattr(soon, "used", lambda: collector._used + soon.GROWN + 1)
    collector.look()
    del kept  # it was there at the last look: it waits for a rest
    collector.look()
    assert seen() is not None
    monkeypatch.setattr(soon, "used", lambda: collector._used)
    collector.touched = collector.collected + 0.01
    now = time.monotonic()
    monkeypatch.setattr(time, "monotonic", lambda: now + soon.QUIET + 1)
    collector.look()
    assert seen() is None


def test_much_more_than_at_the_last_look_at_all_is_looked_at_in_the_middle_of_work(
    resting: tuple[Collector, QWidget, list[bool]], monkeypatch: pytest.MonkeyPatch
) -> None:
    collector, _, _ = resting
    began, kept = collector._used_then, Knot()
    seen = weakref.ref(kept)
    for size in range(1, 5):  # 102 MB more each time
        monkeypatch.setattr(soon, "used", lambda size=size: began + size * (102 << 20))
        if size == 2:
            del kept
        collector.look()
        assert (seen() is None) == (size == 4), "three looks at what is new only"
    assert collector._used_then == began + 4 * (102 << 20)


def test_after_a_long_time_they_go_all_the_same(
    resting: tuple[Collector, QWidget, list[bool]], monkeypatch: pytest.MonkeyPatch
) -> None:
    collector, _, playing = resting
    playing[0] = True
    seen = knot()
    collector.look()
    assert seen() is not None
    now = time.monotonic()
    monkeypatch.setattr(time, "monotonic", lambda: now + soon.LONGEST + 1)
    collector.look()
    assert seen() is None


def test_at_the_end_python_collects_by_itself_again(qtbot: QtBot) -> None:
    usual = gc.get_threshold()
    widget = QWidget()
    qtbot.addWidget(widget)
    widget.show()
    collector = Collector(widget.windowHandle(), lambda: False)
    assert gc.get_threshold() != usual and gc.get_freeze_count() > 1000
    collector.end()
    assert gc.get_threshold() == usual and gc.get_freeze_count() == 0
