"""A real window with a clock of its own for sound."""

from __future__ import annotations

import gc
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtWidgets import QApplication, QMessageBox
from pytestqt.qtbot import QtBot

from tests.conftest import FERRY
from ychronos.analysis import pipeline
from ychronos.analysis.evidence import Evidence
from ychronos.app import start
from ychronos.app.collecting import look_at_new
from ychronos.app.dialogs.asking import Ask
from ychronos.app.jobs import UNDER_WAY
from ychronos.app.settings import Settings
from ychronos.app.sheet.sheet import SheetView
from ychronos.app.soon import Soon
from ychronos.app.window import Window
from ychronos.audio import recording as recordings
from ychronos.audio.play.outputs import ManualOutput
from ychronos.audio.recording import Recording
from ychronos.song.model import Song

SheetView.patience = float("inf")  # what is looked at shows everything
Soon.waits = False


@pytest.fixture(scope="session")
def qapp():
    return start.make_app([])


@pytest.fixture(scope="module", autouse=True)
def _unused_objects(qapp: QApplication) -> Iterator[None]:
    """Between the tests of a file, where no event loop waits, Python looks for unused objects as it does between its turns;
    after them by itself again, for tests without a window."""
    gc.disable()
    yield
    gc.collect()
    gc.enable()


@pytest.fixture(autouse=True)
def _new_ones() -> Iterator[None]:
    yield
    look_at_new()


@pytest.fixture
def make_window(qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Callable[[], Window]]:
    monkeypatch.setenv("YCHRONOS_STATE", str(tmp_path / "state"))
    made: list[Window] = []

    def make() -> Window:
        window = Window(Settings(tmp_path / "settings.ini"), ManualOutput())
        window.ask_save = lambda _: QMessageBox.StandardButton.Discard  # type: ignore[method-assign]
        qtbot.addWidget(window)
        window.resize(1280, 800)
        window.show()
        qtbot.waitExposed(window)
        made.append(window)
        return window

    yield make
    for window in made:
        window.close()


@pytest.fixture
def window(make_window: Callable[[], Window]) -> Window:
    return make_window()


@pytest.fixture(scope="session")
def ferry_sound() -> Recording:
    """The 4/4 demo song's sound, read once."""
    return recordings.load(FERRY)


@pytest.fixture
def ferry_window(
    window: Window, qtbot: QtBot, ferry: tuple[Song, Evidence], ferry_sound: Recording, monkeypatch: pytest.MonkeyPatch
) -> Window:
    """The window with the 4/4 demo song open; what reading and analysing it gives was made once for all tests."""
    song, evidence = ferry

    def read(path: Path, *args: object, **more: object) -> Recording:
        return ferry_sound if Path(path) == FERRY else load(path, *args, **more)  # type: ignore[arg-type]

    def analyse(sound: Recording, title: str, *args: object, **more: object) -> tuple[Song, Evidence]:
        if sound is not ferry_sound:
            return whole(sound, title, *args, **more)  # type: ignore[arg-type]
        return replace(song, title=title, recording=replace(song.recording, path=str(sound.path))), evidence

    load, whole = recordings.load, pipeline.analyse
    monkeypatch.setattr(recordings, "load", read)
    monkeypatch.setattr(pipeline, "analyse", analyse)
    open_and_wait(window, FERRY, qtbot)
    return window


def answer(monkeypatch: pytest.MonkeyPatch, text: str, reach: int = 0) -> None:
    """Let the next questions with a reach be answered so."""

    def exec_(dialog: Ask) -> int:
        dialog.answer.setCurrentText(text)
        if dialog.reaches:
            dialog.reaches[reach].setChecked(True)
        return 1

    monkeypatch.setattr(Ask, "exec", exec_)


def open_and_wait(window: Window, path: Path, qtbot: QtBot) -> None:
    window.open_path(path)
    qtbot.waitUntil(lambda: window.job is None, timeout=60000)


def settle(window: Window, qtbot: QtBot) -> None:
    """Let what was begun come to its end: deciding, comparing, and any job beside the window (a long one is left)."""
    qtbot.waitUntil(lambda: not window.session.redeciding and not window.form.comparing, timeout=20000)
    until = time.monotonic() + 3.0
    while UNDER_WAY and time.monotonic() < until:
        qtbot.wait(5)
    qtbot.wait(20)


def bar_point(window: Window, bar: int, offset: float = 0.5) -> QPoint:
    """A point in the viewport on a bar's waveform; the bar is brought into sight first."""
    sheet = window.sheet
    assert sheet.geometry_ is not None
    row, box = sheet.geometry_.box_of_bar(bar)
    scroll = sheet.verticalScrollBar()
    if not scroll.value() <= row.y <= scroll.value() + sheet.viewport().height() - row.height:
        scroll.setValue(int(row.y - 20))
    at = QPointF(box.x_of(offset), row.y + row.height * 0.6)
    return (at - sheet._offset()).toPoint()


def chord_point(window: Window, index: int) -> QPoint:
    """The middle of a chord's name in the viewport."""
    sheet, song = window.sheet, window.session.song
    assert song is not None
    bar_point(window, song.grid.bar_at(song.chords[index].start))
    sheet.viewport().repaint()
    for boxes in sheet._names.values():
        for box in boxes:
            if box.span == index:
                return (box.rect.center() - sheet._offset()).toPoint()
    raise AssertionError(f"chord {index} is not painted")


def click(window: Window, qtbot: QtBot, point: QPoint, shift: bool = False) -> None:
    modifier = Qt.KeyboardModifier.ShiftModifier if shift else Qt.KeyboardModifier.NoModifier
    qtbot.mouseClick(window.sheet.viewport(), Qt.MouseButton.LeftButton, modifier, point)
