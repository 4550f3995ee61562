"""Words of the song: pasted, dropped on the beats, shown, printed, written with their times and read again."""

from __future__ import annotations

import io
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pypdf import PdfReader
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from tests.conftest import make_song
from ychronos.app.dialogs.wordsdialog import WordsDialog
from ychronos.app.window import Window
from ychronos.formats import lrc, pdfchart, project, textchart
from ychronos.song import edits
from ychronos.song.model import Song

Key = Qt.Key
TEXT = "Low tide comes in\nover the stones\n\n  the ferry   keeps her lights on\n"


def song_of(w: Window) -> Song:
    assert w.session.song is not None
    return w.session.song


def opened(w: Window, qtbot: QtBot) -> WordsDialog:
    w.actions_.actions["words"].trigger()
    assert isinstance(w.words_dialog, WordsDialog) and w.words_dialog.isVisible()
    return w.words_dialog


def test_lines_are_dropped_where_one_hears_them(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    dialog = opened(w, qtbot)
    dialog.text.setPlainText(TEXT)
    qtbot.mouseClick(dialog.use, Qt.MouseButton.LeftButton)
    assert dialog.lines.count() == 3 and "3 of 3" in dialog.said.text()
    beats = [Fraction(16), Fraction(24), Fraction(33)]
    for at in beats:
        w.hear_from(song_of(w).grid.clock(at) + 0.05)
        qtbot.keyClick(dialog.lines, Key.Key_D)
    w.stop_playing()
    assert [(m.at, m.text) for m in song_of(w).lyrics] == list(
        zip(beats, [" ".join(x.split()) for x in TEXT.splitlines() if x.strip()], strict=True)
    )
    assert "All 3" in dialog.said.text()
    w.session.undo()
    assert "1 of 3" in dialog.said.text() and len(song_of(w).lyrics) == 2
    dialog.lines.setCurrentRow(0)
    qtbot.mouseClick(dialog.take, Qt.MouseButton.LeftButton)
    assert [m.at for m in song_of(w).lyrics] == [beats[1]]
    before = w.sheet.viewport().grab().toImage()
    w.session.edit(lambda s: edits.set_lyric(s, Fraction(4), "harbour"))
    assert w.sheet.viewport().grab().toImage() != before, "words stand under their bar"
    assert opened(w, qtbot) is dialog
    dialog.close()


def test_timed_words_bring_their_places(ferry_window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    w = ferry_window
    dialog = opened(w, qtbot)
    times = [song_of(w).grid.clock(Fraction(b)) for b in (8, 20)]
    path = tmp_path / "w.lrc"
    path.write_text("[ti:x]\n" + "".join(f"[{int(t // 60):02d}:{t % 60:05.2f}]line {i}\n" for i, t in enumerate(times)))
    dialog.open_path(path)
    assert [(m.at, m.text) for m in song_of(w).lyrics] == [(Fraction(8), "line 0"), (Fraction(20), "line 1")]
    assert dialog.lines.count() == 2 and "All 2" in dialog.said.text()
    path.write_bytes(b"")
    dialog.open_path(path)
    assert "holds no words" in dialog.said.text()
    dialog.open_path(tmp_path / "none.lrc")
    assert "cannot be read" in dialog.said.text()
    dialog.close()


def test_words_go_along_with_the_count_and_onto_the_page() -> None:
    song, _ = edits.set_lyrics(make_song(), [(Fraction(4), "low tide"), (Fraction(9), "over the stones")])
    assert project.loads(project.dumps(song)).lyrics == song.lyrics
    moved, _ = edits.move_lyric(song, Fraction(9), Fraction(10))
    assert [m.at for m in moved.lyrics] == [4, 10]
    double, _ = edits.double_tempo(song)
    assert [m.at for m in double.lyrics] == [8, 18] and double.grid.clock(Fraction(8)) == pytest.approx(
        song.grid.clock(Fraction(4))
    )
    assert "low tide" in textchart.render(song) and "over the stones" in textchart.render(song)
    assert "low tide" in PdfReader(io.BytesIO(pdfchart.render(song))).pages[0].extract_text()
    for wrong in (
        lambda: edits.remove_lyric(song, Fraction(1)),
        lambda: edits.move_lyric(song, Fraction(1), Fraction(2)),
        lambda: edits.set_lyrics(song, [(Fraction(1), " ")]),
    ):
        with pytest.raises(edits.EditError):
            wrong()


@given(
    st.lists(
        st.tuples(
            st.integers(0, 31),
            st.text(st.characters(blacklist_categories=("Cs", "Cc", "Zl", "Zp")), min_size=1, max_size=30),
        ),
        max_size=8,
    )
)
def test_timed_words_are_read_as_they_are_written(lines: list[tuple[int, str]]) -> None:
    places = {Fraction(at): " ".join(t.replace("[", "(").replace("]", ")").split()) for at, t in lines}
    places = {at: t for at, t in places.items() if t and "<" not in t}
    song = make_song()
    if places:
        song, _ = edits.set_lyrics(song, places.items())
    timed, plain = lrc.read(lrc.render(song).decode())
    assert plain == []
    assert [t for _, t in timed] == [m.text for m in song.lyrics]
    for (seconds, _), m in zip(timed, song.lyrics, strict=True):
        assert abs(seconds - song.grid.clock(m.at)) <= 0.006


def test_what_other_programs_write_is_read() -> None:
    timed, plain = lrc.read(
        "[offset:+500]\n[00:10.5][01:20:25]refrain\n[00:12]<00:12.1>word <00:13>by word\nno time\n[ar:x]\n"
    )
    assert timed == [(10.0, "refrain"), (11.5, "word by word"), (79.75, "refrain")] and plain == ["no time"]
