"""The first look: five stops beside what they are about, skipped or gone through, once."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from tests.app.conftest import open_and_wait
from tests.conftest import FERRY
from ychronos.app.tour import STOPS
from ychronos.app.window import Window


def test_it_begins_with_the_first_chart_and_only_once(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    monkeypatch.setenv("YCHRONOS_TOUR", "")
    open_and_wait(w, FERRY, qtbot)
    assert w.tour.isVisible()
    seen = []
    for _ in STOPS:
        seen.append(w.tour.title.text())
        inside = w.rect().contains(w.tour.geometry())
        assert inside, "all of it lies in the window"
        qtbot.mouseClick(w.tour.next, Qt.MouseButton.LeftButton)
    assert seen == [s.title for s in STOPS] and not w.tour.isVisible()
    open_and_wait(w, FERRY, qtbot)
    assert not w.tour.isVisible()
    w.actions_.actions["tour"].trigger()
    assert w.tour.isVisible()
    qtbot.keyClick(w.tour, Qt.Key.Key_Escape)
    assert not w.tour.isVisible()


def test_skipping_is_for_good_and_a_smaller_window_keeps_it_inside(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.actions_.actions["tour"].trigger()
    for _ in range(3):
        w.tour.go_on()
    w.resize(1024, 600)
    qtbot.wait(20)
    assert w.rect().contains(w.tour.geometry())
    qtbot.mouseClick(w.tour.skip, Qt.MouseButton.LeftButton)
    assert not w.tour.isVisible() and w.settings.text("tour", "") == "seen"


def test_a_part_in_a_window_of_its_own_leaves_the_bubble_inside(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.actions_.actions["tour"].trigger()
    qtbot.mouseClick(w.tour.next, Qt.MouseButton.LeftButton)
    w.head.setParent(None)
    w.head.show()
    qtbot.addWidget(w.head)
    w.resize(w.width() + 40, w.height())
    assert w.rect().contains(w.tour.geometry())
