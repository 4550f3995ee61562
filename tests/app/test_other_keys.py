"""The key that a song may be in instead, beside its key."""

from __future__ import annotations

from dataclasses import replace

from pytestqt.qtbot import QtBot

from ychronos.app.otherkeys import rivals
from ychronos.app.window import Window
from ychronos.song.track import Track


def unsure(w: Window) -> None:
    """The open song, its key as if it had been a near thing."""
    song = w.session.song
    assert song is not None
    made = replace(song, keys=Track(replace(k, confidence=0.6) for k in song.keys))
    w.session.set_song(made, None)


def test_a_near_key_is_offered_heard_and_taken(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    assert w.session.song is not None
    unsure(w)
    offer = w.head.home.other
    assert offer.isVisible() and offer.text().startswith("or ") and offer.text().endswith("?")
    offer.click()
    menu = w.other_keys.menu
    assert menu is not None
    words = [a.text() for a in menu.actions()]
    assert words[0].startswith("The song is in") and words[1].startswith("Hear the home chord")
    chosen = w.other_keys.found[0]
    menu.actions()[0].trigger()
    assert w.session.song.main_key() == chosen and w.session.song.keys[0].stated
    assert not offer.isVisible(), "what is stated has no rival"
    w.session.undo()
    assert offer.isVisible()
    menu.close()


def test_a_sure_key_has_no_rival(ferry_window: Window) -> None:
    song = ferry_window.session.song
    assert song is not None
    assert rivals(replace(song, keys=Track(replace(k, confidence=0.99) for k in song.keys))) == []
