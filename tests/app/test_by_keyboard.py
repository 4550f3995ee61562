"""The whole path with keys alone: open, mend, loop, take back, write out; and where the focus goes."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QFileDialog, QWidget
from pytestqt.qtbot import QtBot

from tests.app.conftest import settle
from tests.conftest import FERRY
from ychronos.app import files
from ychronos.app.window import Window

Key, Mod = Qt.Key, Qt.KeyboardModifier


def press(w: Window, qtbot: QtBot, key: Qt.Key, modifier: Qt.KeyboardModifier = Mod.NoModifier) -> None:
    qtbot.keyClick(QApplication.focusWidget() or w, key, modifier)


def test_from_the_recording_to_the_page(
    ferry_window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    w.activateWindow()
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(FERRY), ""))
    press(w, qtbot, Key.Key_O, Mod.ControlModifier)
    qtbot.waitUntil(lambda: w.job is None and w.session.song is not None, timeout=60000)
    assert w.sheet.hasFocus(), "one can go on at once"
    press(w, qtbot, Key.Key_Right, Mod.ControlModifier)  # to the next chord
    at = w.session.song.chords[w.session.chord_index].start  # type: ignore[union-attr]
    for key in (Key.Key_E, Key.Key_M):
        press(w, qtbot, key)
    press(w, qtbot, Key.Key_Return)
    settle(w, qtbot)
    song = w.session.song
    assert song is not None and song.chords[song.chord_index(at)].stated
    press(w, qtbot, Key.Key_Z, Mod.ControlModifier)
    settle(w, qtbot)
    song = w.session.song
    assert song is not None and not song.chords[song.chord_index(at)].stated
    press(w, qtbot, Key.Key_Right, Mod.ShiftModifier)
    press(w, qtbot, Key.Key_L)
    assert w.practice.span is not None
    press(w, qtbot, Key.Key_Space)
    assert w.playing
    press(w, qtbot, Key.Key_Space)
    assert not w.playing
    out = tmp_path / "ferry.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(out), ""))
    press(w, qtbot, Key.Key_E, Mod.ControlModifier)
    qtbot.waitUntil(out.exists, timeout=20000)
    assert out.read_bytes().startswith(b"%PDF")


@pytest.mark.parametrize("view", ["sheet", "ground", "key", "form", "hand", "page"])
def test_tab_reaches_every_control_of_a_view_and_none_holds_it(ferry_window: Window, qtbot: QtBot, view: str) -> None:
    w = ferry_window
    w.activateWindow()
    w.show_view(view)
    seen: list[QWidget] = []
    for _ in range(90):
        widget = QApplication.focusWidget()
        if widget is not None and widget not in seen:
            seen.append(widget)
        qtbot.keyClick(QApplication.focusWidget() or w, Key.Key_Tab)
    assert len(seen) >= 5, "the focus goes on"
    nameless = [
        type(x).__name__
        for x in seen
        if not (x.accessibleName() or getattr(x, "text", lambda: "")() or x.toolTip())
        and type(x).__name__ not in ("QScrollArea", "Roomy")
    ]
    assert not nameless, "whoever cannot see it hears what it is"


def test_another_window_is_another_process(window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    started: list[list[str]] = []
    monkeypatch.setattr(files, "started", lambda process: started.append(process.arguments()) is None)
    window.actions_.actions["another_window"].trigger()
    assert started == [["-m", "ychronos"]]
    monkeypatch.setattr(files, "started", lambda process: False)
    window.actions_.actions["another_window"].trigger()
    assert "could not be started" in window.notice.words.text()


def test_another_window_holds_nothing_of_this_one(tmp_path: Path) -> None:
    """Whoever reads what this one prints is not kept waiting by the other."""
    other, number = tmp_path / "other", tmp_path / "number"
    other.write_text(f"#!/bin/sh\necho $$ > '{number}.new'\nmv '{number}.new' '{number}'\nexec sleep 60\n")
    other.chmod(0o755)
    code = (
        "import sys; from PySide6.QtCore import QCoreApplication; app = QCoreApplication([]);"
        f"from ychronos.app import files; sys.executable = {str(other)!r}; files.another_window(None)"
    )
    try:
        subprocess.run([sys.executable, "-c", code], capture_output=True, timeout=40, check=True)
        for _ in range(200):
            if number.exists():
                break
            time.sleep(0.05)
        os.kill(int(number.read_text()), 0)  # it goes on
    finally:
        if number.exists():
            os.kill(int(number.read_text()), signal.SIGKILL)
