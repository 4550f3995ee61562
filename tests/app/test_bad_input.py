"""What goes wrong: one clear sentence each, nothing lost, no window frozen."""

from __future__ import annotations

import errno
import os
import shutil
import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QMessageBox
from pytestqt.qtbot import QtBot

from tests.app.conftest import open_and_wait, settle
from tests.conftest import FERRY, KNOTS, make_song
from ychronos.app import files
from ychronos.app.window import Window
from ychronos.formats import project
from ychronos.session.commands import chords

RATE = 44100


def noise(seconds: float) -> np.ndarray:
    return np.random.default_rng(1).normal(0, 0.1, (int(seconds * RATE), 1)).astype(np.float32)


@pytest.mark.parametrize(
    ("name", "make", "words", "stays_open"),
    [
        ("gone.ogg", lambda p: None, "not there", False),
        ("empty.wav", lambda p: p.write_bytes(b""), "empty", False),
        ("letter.mp3", lambda p: p.write_text("Dear station,\n" * 99), "not a recording", False),
        ("zero.wav", lambda p: soundfile.write(p, noise(0), RATE), "no sound", False),
        ("silent.wav", lambda p: soundfile.write(p, np.zeros((RATE * 6, 2)), RATE), "silent", True),
        ("short.wav", lambda p: soundfile.write(p, noise(2), RATE), "lasts 2.0 s", True),
        ("bad.ychronos", lambda p: p.write_text("{}"), "not a Ychronos project", False),
    ],
)
def test_files_that_cannot_be_used(
    window: Window,
    qtbot: QtBot,
    tmp_path: Path,
    name: str,
    make: Callable[[Path], object],
    words: str,
    stays_open: bool,
) -> None:
    path = tmp_path / name
    make(path)
    open_and_wait(window, path, qtbot)
    assert window.notice.isVisible()
    text = window.notice.words.text()
    assert words in text
    assert "Traceback" not in text
    assert "\n" not in text
    assert (window.session.recording is not None) == stays_open, "what can be heard stays open"
    assert window.session.song is None
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    assert not window.notice.isVisible()
    open_and_wait(window, FERRY, qtbot)
    assert window.session.song is not None, "the window works on"


def test_a_broken_project_leaves_the_open_song_alone(ferry_window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    w = ferry_window
    before = w.session.song
    bad = tmp_path / "bad.ychronos"
    bad.write_bytes(project.dumps(make_song())[:300])
    w.open_path(bad)
    assert "not a Ychronos project, or it is damaged" in w.notice.words.text()
    assert w.session.song is before
    assert bad.stat().st_size == 300


def test_truncated_recording_opens_with_a_note(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    whole = tmp_path / "whole.flac"
    data, rate = soundfile.read(FERRY, frames=RATE * 30)
    soundfile.write(whole, data, rate)
    cut = tmp_path / "cut.flac"
    cut.write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])
    open_and_wait(window, cut, qtbot)
    assert "breaks off" in window.notice.words.text()
    assert window.session.song is not None
    assert window.session.song.recording.note.startswith("The file breaks off")


def test_cancel_keeps_the_recording(window: Window, qtbot: QtBot) -> None:
    path = Path(shutil.copy(KNOTS, Path(os.environ["YCHRONOS_CACHE"]).parent / "other.ogg"))
    path.write_bytes(path.read_bytes() + b"\0")  # another hash, so nothing is cached
    window.open_path(path)
    qtbot.waitUntil(lambda: window.session.recording is not None, timeout=20000)
    assert window.strip.isVisible()
    window.strip.button.click()
    qtbot.waitUntil(lambda: window.job is None, timeout=20000)
    assert "Stopped" in window.notice.words.text()
    assert window.session.recording is not None
    if window.session.song is None:
        window.notice.choices["Analyse"].click()
        qtbot.waitUntil(lambda: window.job is None and window.session.song is not None, timeout=60000)
    assert window.session.song is not None


def test_the_window_answers_while_it_works(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "again.ogg"
    path.write_bytes(KNOTS.read_bytes() + b"\0\0")
    window.open_path(path)
    ticks = 0
    while window.job is not None and ticks < 4000:
        qtbot.wait(5)
        ticks += 1
    assert ticks > 20
    assert window.session.song is not None


def test_a_record_of_an_hour_is_there_at_once_and_can_be_stopped(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "night_session.wav"
    rate = 8000
    minute = np.random.default_rng(2).normal(0, 0.05, rate * 60).astype(np.float32)
    with soundfile.SoundFile(path, "w", rate, 1, "PCM_U8") as file:
        for _ in range(60):
            file.write(minute)
    window.open_path(path)
    qtbot.waitUntil(lambda: window.session.recording is not None, timeout=60000)
    sound = window.session.recording
    assert sound is not None
    assert sound.duration == pytest.approx(3600)
    assert window.strip.isVisible(), "it is being analysed"
    bar = window.sheet.verticalScrollBar()
    assert bar.maximum() > 15000, "360 rows of ten seconds"
    bar.setValue(bar.maximum())
    image = window.sheet.viewport().grab().toImage()
    assert len({image.pixelColor(400, y).name() for y in range(200, 400, 3)}) > 1, "its last minute is drawn"
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    qtbot.waitUntil(lambda: window.job is None, timeout=5000)
    assert window.session.recording is sound
    assert "Stopped" in window.notice.words.text()


def test_full_disk_on_save_loses_nothing(
    ferry_window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    path = tmp_path / "s.ychronos"
    assert files.save_to(w, path)
    before = path.read_bytes()
    chords.accept_chord(w.session)
    settle(w, qtbot)
    song = w.session.song

    def full(_: int) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    with monkeypatch.context() as m:
        m.setattr(os, "fsync", full)
        w.actions_.actions["save"].trigger()
    assert "disk is full" in w.notice.words.text()
    assert path.read_bytes() == before
    assert w.session.song is song
    assert w.session.dirty
    other = tmp_path / "elsewhere.ychronos"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(other), ""))
    w.notice.choices["Save as…"].click()
    assert other.exists()
    assert not w.session.dirty


def test_read_only_folder_on_save(ferry_window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def refuse(*_: object, **__: object) -> None:
        raise PermissionError(errno.EACCES, "Permission denied")

    monkeypatch.setattr("tempfile.mkstemp", refuse)
    assert not files.save_to(ferry_window, tmp_path / "s.ychronos")
    assert "may not be written to" in ferry_window.notice.words.text()


def test_moved_recording_is_asked_for_and_found(
    window: Window, qtbot: QtBot, tmp_path: Path, ferry: object, monkeypatch: pytest.MonkeyPatch
) -> None:
    song = ferry[0]  # type: ignore[index]
    path = tmp_path / "moved.ychronos"
    data = project.dumps(song).replace(str(FERRY).encode(), str(tmp_path / "tape.ogg").encode())
    path.write_bytes(data)
    open_and_wait(window, path, qtbot)
    assert "its recording is not" in window.notice.words.text()
    assert window.session.song is not None, "the chart can be read all the same"
    assert window.session.recording is None
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(FERRY), ""))
    window.notice.choices["Find the recording…"].click()
    qtbot.waitUntil(lambda: window.job is None, timeout=60000)
    assert window.session.recording is not None
    assert window.session.evidence is not None
    assert window.session.song.recording.path == str(FERRY)
    assert window.session.dirty


def test_another_recording_is_noticed(window: Window, qtbot: QtBot, tmp_path: Path, ferry: object) -> None:
    path = tmp_path / "s.ychronos"
    data = project.dumps(ferry[0]).replace(str(FERRY).encode(), str(KNOTS).encode())  # type: ignore[index]
    path.write_bytes(data)
    open_and_wait(window, path, qtbot)
    assert "is not the recording that this chart was made from" in window.notice.words.text()


def test_closing_with_changes_asks(ferry_window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    w = ferry_window
    chords.accept_chord(w.session)
    asked: list[str] = []

    def answer(
        text: str, button: QMessageBox.StandardButton = QMessageBox.StandardButton.Cancel
    ) -> QMessageBox.StandardButton:
        asked.append(text)
        return button

    w.ask_save = answer  # type: ignore[method-assign]
    w.close()
    assert asked
    assert w.isVisible(), "cancel keeps the window"
    files.close_song(w)
    assert w.session.song is not None
    w.ask_save = lambda t: answer(t, QMessageBox.StandardButton.Save)  # type: ignore[method-assign]
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "kept.ychronos"), ""))
    files.close_song(w)
    assert (tmp_path / "kept.ychronos").exists()
    assert w.session.song is None


def test_references_to_none_are_not_lost(ferry_window: Window) -> None:
    """A binding that loses references to None aborts Python after a while; painting shows it fastest."""
    w = ferry_window
    w.grab()
    before = sys.getrefcount(None)
    for _ in range(4):
        w.grab()
    assert sys.getrefcount(None) > before - 400
