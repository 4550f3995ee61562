"""When Python looks for unused objects that refer to each other, and in which thread."""

from __future__ import annotations

import gc
import threading
import time
import weakref
from collections.abc import Iterator

import pytest
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot

from ychronos.app import collecting
from ychronos.app.collecting import Collector


class Knot:
    """Refers to itself, so that only a collection frees it."""

    def __init__(self) -> None:
        self.me = self


@pytest.fixture
def resting(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> Iterator[tuple[Collector, QWidget, list[bool]]]:
    monkeypatch.setattr(collecting, "QUIET", 0.05)
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
    monkeypatch.setattr(collecting, "used", lambda: collector._used + collecting.GROWN + 1)
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
    monkeypatch.setattr(collecting, "used", lambda: collector._used + collecting.GROWN + 1)
    collector.look()
    del kept  # it was there at the last look: it waits for a rest
    collector.look()
    assert seen() is not None
    monkeypatch.setattr(collecting, "used", lambda: collector._used)
    collector.touched = collector.collected + 0.01
    now = time.monotonic()
    monkeypatch.setattr(time, "monotonic", lambda: now + collecting.QUIET + 1)
    collector.look()
    assert seen() is None


def test_much_more_than_at_the_last_look_at_all_is_looked_at_in_the_middle_of_work(
    resting: tuple[Collector, QWidget, list[bool]], monkeypatch: pytest.MonkeyPatch
) -> None:
    collector, _, _ = resting
    began, kept = collector._used_then, Knot()
    seen = weakref.ref(kept)
    for size in range(1, 5):  # 102 MB more each time
        monkeypatch.setattr(collecting, "used", lambda size=size: began + size * (102 << 20))
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
    monkeypatch.setattr(time, "monotonic", lambda: now + collecting.LONGEST + 1)
    collector.look()
    assert seen() is None


def test_at_the_end_all_is_looked_at_as_usual(qtbot: QtBot) -> None:
    usual = gc.get_threshold()
    widget = QWidget()
    qtbot.addWidget(widget)
    widget.show()
    collector = Collector(widget.windowHandle(), lambda: False)
    assert gc.get_threshold() != usual and gc.get_freeze_count() > 1000
    collector.end()
    assert gc.get_threshold() == usual and gc.get_freeze_count() == 0


class Watched(QTimer):
    """Refers to itself as Knot does, and tells in which thread it goes."""

    def __init__(self, gone: list[threading.Thread]) -> None:
        super().__init__()
        self.me = self
        self.gone = gone

    def __del__(self) -> None:
        self.gone.append(threading.current_thread())


def test_what_qt_made_goes_in_the_thread_of_the_window_however_busy_others_are(qtbot: QtBot) -> None:
    gone: list[threading.Thread] = []
    Watched(gone)

    made: list[list[int]] = []
    other = threading.Thread(target=lambda: made.extend([k] for k in range(200_000)))
    other.start()
    other.join()
    assert not gone, "not while a job makes objects"
    qtbot.wait(50)
    assert gone == [threading.main_thread()]
