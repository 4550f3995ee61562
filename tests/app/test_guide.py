"""The guide: true keys, found words, the place of the view that is shown."""

from __future__ import annotations

import re
from importlib import resources

import pytest
from pytestqt.qtbot import QtBot

from ychronos.app.dialogs.guide import PLACES, text_of
from ychronos.app.views import VIEWS
from ychronos.app.window import Window


def test_every_action_that_it_names_is_there_with_its_key(window: Window) -> None:
    raw = resources.files("ychronos").joinpath("guide", "guide.html").read_text(encoding="utf8")
    named = set(re.findall(r"\{(?:key|words):([a-z_0-9]+)\}", raw))
    assert len(named) > 40
    assert named <= set(window.actions_.actions)
    text = text_of(window.actions_)
    assert not re.search(r"\{(key|words):", text)
    assert "[Ctrl+O]" in text
    for name in re.findall(r'name="([a-z]+)"', raw):
        assert raw.count(f'name="{name}"') == 1


def test_every_picture_that_it_shows_ships(window: Window) -> None:
    folder = resources.files("ychronos").joinpath("guide")
    for name in re.findall(r'src="([^"]+)"', folder.joinpath("guide.html").read_text(encoding="utf8")):
        assert folder.joinpath(name).is_file()


def test_it_opens_at_the_view_that_is_shown(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    assert set(PLACES) == {v.id for v in VIEWS}
    w.show_view("form")
    w.actions_.actions["guide"].trigger()
    assert w.guide.isVisible()
    qtbot.waitUntil(lambda: w.guide.page.verticalScrollBar().value() > 300, timeout=3000)
    w.guide.close()


@pytest.mark.parametrize(("searched", "there"), [("capo", True), ("xyzzy", False)])
def test_words_are_found_in_it(window: Window, searched: str, there: bool) -> None:
    window.actions_.actions["guide"].trigger()
    window.guide.field.setText(searched)
    assert bool(window.guide.page.textCursor().selectedText()) == there
    assert (window.guide.found.text() == "Not in the guide") != there
    if there:
        first = window.guide.page.textCursor().position()
        window.guide.find_next()
        assert window.guide.page.textCursor().position() != first
    window.guide.close()
