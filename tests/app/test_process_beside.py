"""The window as users start it: a process beside it listens and decides."""

from __future__ import annotations

import os
import signal
from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMessageBox
from pytestqt.qtbot import QtBot

from tests.conftest import KNOTS
from ychronos.app.settings import Settings
from ychronos.app.window import Window
from ychronos.audio.play.outputs import ManualOutput
from ychronos.session.beside import Beside


@pytest.fixture
def window_beside(qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Window]:
    monkeypatch.setenv("YCHRONOS_STATE", str(tmp_path / "state"))
    monkeypatch.setenv("YCHRONOS_CACHE", str(tmp_path / "cache"))
    beside = Beside()
    window = Window(Settings(tmp_path / "settings.ini"), ManualOutput(), beside)
    window.ask_save = lambda _: QMessageBox.StandardButton.Discard  # type: ignore[method-assign]
    qtbot.addWidget(window)
    window.resize(1280, 800)
    window.show()
    qtbot.waitExposed(window)
    yield window
    window.close()
    beside.close()


def _say(w: Window, qtbot: QtBot, text: str) -> None:
    assert w.session.song is not None
    w.session.select(w.session.song.chords[2].start, chord=True)
    w.sheet.start_entry()
    w.sheet.entry.field.setText(text)
    qtbot.keyClick(w.sheet.entry.field, Qt.Key.Key_Return)


def test_a_statement_right_after_another_is_decided_once(window_beside: Window, qtbot: QtBot) -> None:
    """Deciding begins when the window has shown what was said: what is said before that takes its place."""
    w, beside = window_beside, window_beside.jobs.beside
    assert beside is not None
    w.open_path(KNOTS)
    qtbot.waitUntil(lambda: w.session.song is not None and w.job is None, timeout=60_000)
    begun: list[str] = []
    run = beside.run
    beside.run = lambda work, under: (begun.append(type(work).__name__), run(work, under))[1]  # type: ignore[method-assign]
    for text in ("F#m", "Am", "Dm"):
        _say(w, qtbot, text)
        assert w.session.redeciding and "Deciding" not in begun
    qtbot.waitUntil(lambda: not w.session.redeciding, timeout=20_000)
    assert w.session.song is not None and w.session.song.chord_name(2) == "Dm"
    assert begun.count("Deciding") == 1


def test_a_song_is_heard_corrected_and_outlives_the_process(window_beside: Window, qtbot: QtBot) -> None:
    w, beside = window_beside, window_beside.jobs.beside
    assert beside is not None
    w.open_path(KNOTS)
    qtbot.waitUntil(lambda: w.session.song is not None and w.job is None, timeout=60_000)
    assert w.player is not None and w.session.evidence is not None
    first = beside.pid

    _say(w, qtbot, "F#m")
    assert w.session.redeciding
    qtbot.waitUntil(lambda: not w.session.redeciding, timeout=20_000)
    assert w.session.song is not None and w.session.song.chord_name(2) == "F♯m"
    decided = len(w.session.history.states)

    assert first is not None
    os.kill(first, signal.SIGSTOP)  # it hangs, then it is gone, while it decides
    _say(w, qtbot, "Bb")
    qtbot.wait(300)  # the work is on its way to it; one that is gone before is simply not asked
    os.kill(first, signal.SIGKILL)
    qtbot.waitUntil(lambda: not w.session.redeciding, timeout=20_000)
    assert "nothing was lost" in w.notice.words.text()
    assert w.session.song.chord_name(2) in ("B♭", "A♯")  # what was said stays
    assert len(w.session.history.states) == decided + 1

    _say(w, qtbot, "Em")
    qtbot.waitUntil(lambda: not w.session.redeciding, timeout=20_000)
    assert beside.pid not in (None, first)
    assert w.session.song.chord_name(2) == "Em"
    w.session.undo()
    assert w.session.song.chord_name(2) in ("B♭", "A♯")
    w.show_view("form")
    qtbot.waitUntil(lambda: not w.form.comparing, timeout=20_000)
    assert "places" in w.form.count.text() or "place" in w.form.count.text()


def test_stop_reaches_the_process(window_beside: Window, qtbot: QtBot) -> None:
    w = window_beside
    w.open_path(KNOTS)
    qtbot.waitUntil(lambda: w.session.recording is not None, timeout=60_000)
    w.cancel_job()
    qtbot.waitUntil(lambda: w.job is None, timeout=20_000)
    assert w.notice.words.text().startswith("Stopped.")
