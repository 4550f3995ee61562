"""The key that a song may be in instead, beside its key."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

from pytestqt.qtbot import QtBot

from ychronos.app.otherkeys import rivals
from ychronos.app.window import Window
from ychronos.song.model import KeySpan
from ychronos.song.track import Track
from ychronos.theory.key import parse_key


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


def test_rivals_are_written_as_the_song_is_and_are_none_of_its_keys(ferry_window: Window) -> None:
    song = ferry_window.session.song
    assert song is not None
    sharp = parse_key("F# major")
    assert sharp.respelled
    made = replace(
        song, keys=Track([KeySpan(Fraction(0), parse_key("F# minor"), 0.5), KeySpan(Fraction(64), sharp, 0.5)])
    )
    assert made.key_written(parse_key("Gb major")) == sharp
    assert made.key_written(parse_key("Eb minor")).name() == "D♯ minor"
    found = rivals(made)
    assert found and not {(k.tonic, k.mode) for k in found} & {(6, "major"), (6, "minor")}
    assert all(k.signature != -6 for k in found)
    up = replace(made, chords=Track(replace(c, chord=c.chord.transposed(11)) for c in made.chords))
    assert (6, "major") not in {(k.tonic, k.mode) for k in rivals(up)}, "what the song is in besides"
