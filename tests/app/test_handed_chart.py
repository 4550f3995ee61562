"""Somebody else's chart in the window: pasted, laid against the record, gone through, taken over."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from tests.app.conftest import settle
from ychronos.app.dialogs.chartdialog import ChartDialog
from ychronos.app.window import Window
from ychronos.theory.chord import parse_chord

LEFT = Qt.MouseButton.LeftButton
CHART = """[Intro]
| F | C/E | Dm7 | Bb |
[Verse]
| F | C/E | Dm7 | Bb |
| F | C | Gm7 | C |
[Chorus]
| Bb | C | Am7 Dm | Bb C |
| Bb | C | Eb | C7 |
[Verse]
[Chorus]
"""


def opened(w: Window, qtbot: QtBot) -> ChartDialog:
    w.actions_.actions["handed_chart"].trigger()
    dialog = next(x for x in w.findChildren(ChartDialog) if x.isVisible())
    dialog.text.setPlainText(CHART)
    qtbot.mouseClick(dialog.lay, LEFT)
    qtbot.waitUntil(lambda: dialog.found is not None, timeout=20000)
    return dialog


def test_a_chart_is_laid_against_the_record_and_taken_over(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    dialog = opened(w, qtbot)
    assert dialog.found is not None and dialog.found.transposition == 2
    assert "capo at fret 2" in dialog.said.text()
    assert dialog.bars.count() == len(dialog.found.bars)
    qtbot.mouseClick(dialog.next, LEFT)
    row = dialog.bars.currentRow()
    assert dialog.bars.item(row).text().startswith("≠") and "the sound says" in dialog.bars.item(row).text()
    assert w.playing, "it is heard"
    bar = dialog.found.bars[row]
    qtbot.mouseClick(dialog.one, LEFT)
    settle(w, qtbot)
    assert w.session.song is not None
    span = w.session.song.chords[w.session.song.chord_index(bar.start)]
    assert span.chord == bar.theirs[0][1] == parse_chord("F") and span.stated
    w.session.undo()
    qtbot.mouseClick(dialog.all, LEFT)
    settle(w, qtbot)
    for b in dialog.found.bars:
        assert w.session.song is not None
        assert w.session.song.chords[w.session.song.chord_index(b.start)].chord == b.theirs[0][1]
    w.session.undo()
    assert w.session.song is not None and w.session.song.chords == song.chords
    dialog.close()


def test_what_is_no_chart_is_said(ferry_window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    w = ferry_window
    w.actions_.actions["handed_chart"].trigger()
    dialog = next(x for x in w.findChildren(ChartDialog) if x.isVisible())
    assert not dialog.lay.isEnabled()
    dialog.text.setPlainText("nothing but words")
    qtbot.mouseClick(dialog.lay, LEFT)
    assert "No chords" in dialog.said.text() and not dialog.all.isEnabled()
    dialog.open_path(tmp_path / "none.txt")
    assert "cannot be read" in dialog.said.text()
    (tmp_path / "c.txt").write_text(CHART)
    dialog.open_path(tmp_path / "c.txt")
    qtbot.waitUntil(lambda: dialog.found is not None, timeout=20000)
    assert dialog.bars.count() > 20
    dialog.close()


def test_the_song_s_own_chart_can_be_judged(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    w.actions_.actions["handed_chart"].trigger()
    dialog = next(x for x in w.findChildren(ChartDialog) if x.isVisible())
    qtbot.mouseClick(dialog.own, LEFT)
    qtbot.waitUntil(lambda: dialog.found is not None, timeout=20000)
    assert dialog.found is not None and dialog.found.transposition == 0 and dialog.found.agreement > 0.85
    assert (
        len(dialog.found.bars) == len(song.grid.bars) - song.grid.lead_in
        and "in the key of the record" in dialog.said.text()
    )
    dialog.close()
