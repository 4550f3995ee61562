"""The right button in every view."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from ychronos.app.viewmenus import MENUS
from ychronos.app.views import VIEWS
from ychronos.app.window import Window


def test_every_view_has_one_of_actions_that_there_are(window: Window) -> None:
    assert set(MENUS) | {"sheet"} == {v.id for v in VIEWS}
    for names in MENUS.values():
        assert all(name in window.actions_.actions for name in names if name)


@pytest.mark.parametrize("view", sorted(MENUS))
def test_the_right_button_opens_it_and_it_works(ferry_window: Window, qtbot: QtBot, view: str) -> None:
    w = ferry_window
    w.show_view(view)
    page = w.views[view]
    target = page.childAt(page.width() // 3, page.height() // 3) or page
    point = QPoint(target.width() // 2, target.height() // 2)
    event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, point, target.mapToGlobal(point))
    before = w.session.selection, w.playing
    QApplication.sendEvent(target, event)
    menu = w.view_menus.menu
    assert menu is not None and menu.isVisible()
    words = [a.text() for a in menu.actions() if a.text()]
    assert words == [w.actions_.entries[n].words for n in MENUS[view] if n]
    assert (w.session.selection, w.playing) == before, "opening it does nothing else"
    menu.close()
