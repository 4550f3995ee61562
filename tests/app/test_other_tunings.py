"""A record between two half steps: named by the other one, taken back, kept, heard by the same names."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from pytestqt.qtbot import QtBot

from tests.app.conftest import settle
from tests.conftest import make_song
from ychronos.analysis.chords.chordnet import CHORDS
from ychronos.app.othertunings import rival
from ychronos.app.window import Window
from ychronos.formats import project
from ychronos.song import edits
from ychronos.song.edits import EditError
from ychronos.song.model import PitchGround, Song
from ychronos.theory.chord import parse_chord
from ychronos.theory.key import parse_key


def song_of(w: Window) -> Song:
    assert w.session.song is not None
    return w.session.song


def test_only_what_lies_between_has_a_rival() -> None:
    song = make_song()
    for cents, want in ((3.0, None), (-20.0, None), (44.0, (1, "56 ¢ flat")), (-41.0, (-1, "59 ¢ sharp"))):
        assert rival(replace(song, ground=PitchGround(cents, 0.9))) == want


def test_everything_said_goes_along_and_comes_back() -> None:
    song = replace(make_song(), ground=PitchGround(44.0, 0.9))
    start, end = song.chord_range(1)
    song, _ = edits.state_chord(song, start, end, parse_chord("A7"))
    song, _ = edits.state_key(song, parse_key("D major"), 1, 1)
    up, words = edits.name_half_step(song, 1)
    assert "56 ¢ flat" in words and up.ground.cents == pytest.approx(-56.0)
    assert [c.chord for c in up.chords] == [c.chord.transposed(1) for c in song.chords]
    assert up.chords[up.chord_index(start)].stated and up.key_at(start) == parse_key("Eb major")
    down, _ = edits.name_half_step(up, -1)
    assert [c.chord for c in down.chords] == [c.chord for c in song.chords]
    assert down.ground.cents == pytest.approx(44.0)
    with pytest.raises(EditError, match="No tape"):
        edits.name_half_step(edits.name_half_step(up, 1)[0], 1)


def test_the_head_offers_it_and_one_press_names_all_anew(ferry_window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    w = ferry_window
    before, heard = song_of(w), w.session.evidence
    assert heard is not None
    assert not w.head.record.other.isVisible(), "3 ¢ are plain"
    cents = before.ground.cents
    w.session.history.do(replace(before, ground=replace(before.ground, cents=44.0)), "between", None)
    w.session.tell_changed("ground")
    assert w.head.record.other.text() == "or 56 ¢ flat?"
    w.session.undo()
    w.actions_.actions["other_tuning"].trigger()
    menu = w.other_tunings.menu
    assert menu is not None
    texts = [a.text() for a in menu.actions()]
    assert texts[0].endswith("the song in A♭ major") and texts[1].endswith("the song in G♭ major")
    menu.actions()[0].trigger()
    menu.close()
    settle(w, qtbot)
    now = song_of(w)
    assert now.ground.cents == pytest.approx(cents - 100)
    assert now.main_key() == parse_key("Ab major")
    same = sum(a.chord.transposed(1) == b.chord for a, b in zip(before.chords, now.chords, strict=False))
    assert same >= len(before.chords) - 2, "decided again from the same sound by other names"
    moved = w.session.evidence
    assert moved is not None and moved is w.session.evidence and moved is not heard
    frames = slice(100, 140)
    was, is_ = (CHORDS[int(e.chord[frames].astype(np.float32).mean(0).argmax())] for e in (heard, moved))
    assert is_ == was.transposed(1)
    path = tmp_path / "named.ychronos"
    project.save(now, path)
    assert project.load(path).ground.cents == pytest.approx(now.ground.cents, abs=1e-3)
    w.session.undo()
    settle(w, qtbot)
    assert w.session.evidence is heard and [c.chord for c in song_of(w).chords] == [c.chord for c in before.chords]
