"""What nobody expected: the window lives on, the work is kept, one sentence is said, and there is a report to copy."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtGui import QPaintEvent
from PySide6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from tests.app.conftest import open_and_wait, settle
from tests.conftest import FERRY, KNOTS, make_song
from ychronos.analysis import pipeline
from ychronos.app import guarding
from ychronos.app.desk.practicedialog import PracticeDialog
from ychronos.app.mishaps import Mishaps, report, without_names
from ychronos.app.settings import Settings
from ychronos.app.window import Window
from ychronos.audio.play.outputs import ManualOutput
from ychronos.formats import project
from ychronos.paths import state_folder
from ychronos.session import journal
from ychronos.song import edits


def test_an_error_is_said_once_and_the_work_is_kept(ferry_window: Window, qtbot: QtBot, capfd) -> None:
    w = ferry_window
    w.session.edit(lambda s: edits.rename_song(s, "Lamps", ""))
    said: list[str] = []

    def say(text: str, choices: dict, error: bool = True) -> None:
        said.append(text)
        choices["Copy report"]()

    mishaps = Mishaps(w.session.keep, say)
    for _ in range(3):
        try:
            raise RuntimeError(f"at {FERRY}")
        except RuntimeError as error:
            mishaps.caught(RuntimeError, error, error.__traceback__)
    qtbot.waitUntil(lambda: bool(said), timeout=3000)
    qtbot.wait(50)
    assert said == ["Something went wrong inside Ychronos (RuntimeError). What you said is kept."]
    assert journal.replay(w.keeper.journal.path).song.title == "Lamps"
    copied = QApplication.clipboard().text()
    assert "RuntimeError" in copied and "Ychronos 0" in copied
    assert str(FERRY.parent) not in copied and FERRY.stem not in copied


@pytest.mark.parametrize("path", ["/home/ann/My Tapes/ä.ogg", "~/Tapes/secret song.flac", "/mnt/qqq/zzz"])
def test_a_report_holds_no_private_paths(path: str) -> None:
    text = without_names(f'File "/opt/tapes/src/ychronos/app/window.py", line 3, in x\nOSError: “{path}” went wrong')
    assert "ychronos/app/window.py" in text
    assert Path(path).stem.split()[0] not in text and "home" not in text and "mnt" not in text
    assert "line 3" in text
    assert report("Traceback\n" * 500).count("\n") < 100


def test_painting_ends_whatever_happens(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    told: list[object] = []
    monkeypatch.setattr(sys, "excepthook", lambda kind, error, trace: told.append(error))

    class Broken(QWidget):
        @guarding.painted
        def paintEvent(self, painter, event: QPaintEvent) -> None:
            painter.save()
            next(x for x in ())

    widget = Broken()
    qtbot.addWidget(widget)
    widget.show()
    qtbot.waitExposed(widget)
    qtbot.waitUntil(lambda: bool(told), timeout=3000)
    assert isinstance(told[0], StopIteration)
    widget.grab()


def test_an_error_in_an_event_within_a_call_does_not_end_the_process(tmp_path: Path) -> None:
    """The binding ends the process where some errors leave a handler that was called from our own code."""
    code = """
import sys
from PySide6.QtWidgets import QApplication, QStackedWidget, QWidget
from ychronos.app import guarding
app = QApplication([])
told = []
sys.excepthook = lambda kind, error, trace: told.append(kind.__name__)
class Page(QWidget):
    def showEvent(self, event):
        next(x for x in ())
    def sizeHint(self):
        raise KeyError("x")
guarding._guard(Page)
stack, page = QStackedWidget(), Page()
stack.addWidget(QWidget()); stack.addWidget(page); stack.show()
stack.setCurrentWidget(page)
app.processEvents()
print(sorted(set(told)))
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=60, check=False)
    assert done.returncode == 0, done.stderr
    assert "['KeyError', 'StopIteration']" in done.stdout


def test_every_class_of_the_window_is_guarded(window: Window) -> None:
    for name, module in sys.modules.copy().items():
        if name.startswith("ychronos.app."):
            for kind in vars(module).values():
                if isinstance(kind, type) and issubclass(kind, QWidget) and kind.__module__ == name:
                    for method in guarding.HANDLERS:
                        found = kind.__dict__.get(method)
                        assert found is None or hasattr(found, "guarded"), f"{kind.__name__}.{method}"


def test_a_run_that_died_is_told_at_the_next_start(window: Window, tmp_path: Path) -> None:
    state_folder().mkdir(parents=True, exist_ok=True)
    (state_folder() / "died-99999999.trace").write_text("Fatal Python error: Segmentation fault\n")
    (state_folder() / "died-99999998.trace").write_text("")
    (state_folder() / f"died-{os.getppid()}.trace").write_text("of one that runs")
    mishaps = Mishaps(window.session.keep, window.notice.say)
    assert mishaps.look_back()
    assert "died last time" in window.notice.words.text()
    window.notice.choices["Copy report"].click()
    assert "Segmentation fault" in QApplication.clipboard().text()
    assert not mishaps.look_back(), "it is told once"
    assert (state_folder() / f"died-{os.getppid()}.trace").exists()


@pytest.mark.parametrize(
    "text",
    [
        "bars_in_row=nan", "bars_in_row=inf", "bars_in_row=0", "bars_in_row=-4", "level=1e400", "level=99999999999", "recent=7",
        "recent=@Invalid()", "recent=@Variant(\\0\\0\\0\\x2\\0\\0\\0\\x5)", "remind_after=nan", "folder=@Variant(\\0\\0\\0\\x2\\0\\0\\0\\x5)",
        "geometry=@ByteArray(\\x1\\xd9\\xd0", "dark=@Invalid()", "\0\xff", "keys\\play=Ctrl+",
    ],
)  # fmt: skip
def test_odd_settings_do_not_keep_it_from_starting(text: str, qtbot: QtBot, tmp_path: Path) -> None:
    path = tmp_path / "settings.ini"
    path.write_text(f"[General]\n{text}\n")
    window = Window(Settings(path), ManualOutput())
    qtbot.addWidget(window)
    window.show()
    window.session.set_song(make_song(), None)
    assert 2 <= window.sheet.per_row <= 8
    window.sheet.viewport().grab()
    PracticeDialog(window.practice, window).deleteLater()
    window.session.clear()
    window.close()


def test_what_one_stage_cannot_do_leaves_the_rest(
    window: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "other.ogg"
    path.write_bytes(KNOTS.read_bytes() + b"\0\0\0")

    def broken(*_: object, **__: object) -> None:
        raise ZeroDivisionError

    monkeypatch.setattr(pipeline, "_decided", broken)
    open_and_wait(window, path, qtbot)
    song = window.session.song
    assert song is not None and len(song.chords) > 10, "chords at a glance are there"
    assert window.session.evidence is not None
    assert "Finding sections" in window.notice.words.text() and "ZeroDivisionError" in window.notice.words.text()


def test_nothing_is_decided_from_another_recording(window: Window, qtbot: QtBot, tmp_path: Path, ferry: tuple) -> None:
    """The recording was exchanged since the project was saved: the chart stays, the known place is not forgotten."""
    tape, path = tmp_path / "tape.ogg", tmp_path / "s.ychronos"
    tape.write_bytes(KNOTS.read_bytes())
    song = ferry[0]
    path.write_bytes(project.dumps(song).replace(str(FERRY).encode(), str(tape).encode()))
    open_and_wait(window, path, qtbot)
    assert "is not the recording that this chart was made from" in window.notice.words.text()
    assert window.session.recording is not None, "it can be heard"
    assert window.session.evidence is None
    before = window.session.song
    assert before is not None
    window.session.edit(lambda s: edits.one_is_here(s, 9), decide="bars")
    settle(window, qtbot)
    after = window.session.song
    assert after is not None and len(after.chords) >= len(before.chords)
    letter = tmp_path / "letter.txt"
    letter.write_text("Dear station")
    window.relink(letter)
    qtbot.waitUntil(lambda: window.job is None, timeout=20000)
    assert window.session.song.recording == before.recording
    window.relink(FERRY)
    qtbot.waitUntil(lambda: window.job is None, timeout=60000)
    assert window.session.evidence is not None
    assert window.session.song.recording.path == str(FERRY)
    window.session.undo()
    assert window.session.song.recording == before.recording


def test_a_place_that_was_known_is_not_forgotten(tmp_path: Path) -> None:
    """Saved elsewhere while the recording's disk was away: found again when it is back, and beside the project."""
    disk = tmp_path / "disk"
    disk.mkdir()
    tape = disk / "tape.ogg"
    tape.write_bytes(b"x")
    first = tmp_path / "p.ychronos"
    project.save(make_song(recording=str(tape)), first)
    disk.rename(tmp_path / "away")
    deep = tmp_path / "a" / "b"
    deep.mkdir(parents=True)
    song = project.load(first)
    project.save(song, deep / "p.ychronos")
    kept = json.loads((deep / "p.ychronos").read_bytes())["recording"]
    assert kept["absolute"] == str(tape)
    (tmp_path / "away").rename(disk)
    assert project.load(deep / "p.ychronos").recording.path == str(tape)
    tape.unlink()
    (deep / "tape.ogg").write_bytes(b"x")
    assert project.load(deep / "p.ychronos").recording.path == str(deep / "tape.ogg")


def test_ended_jobs_hold_nothing(window: Window, qtbot: QtBot) -> None:
    import gc
    import weakref

    from ychronos.app.jobs import Job

    held = np.zeros(10)

    class Kept:
        sound = held

    kept = Kept()
    alive = weakref.ref(kept)
    got: list[object] = []
    window.start_job("Reading", lambda job, kept=kept: kept, lambda x: got.append(1), got.append)
    del kept
    qtbot.waitUntil(lambda: window.job is None, timeout=5000)
    qtbot.wait(50)
    gc.collect()
    assert got == [1]
    assert alive() is None
    assert not window.findChildren(Job)


def test_opening_another_does_not_wait_for_what_hangs(window: Window, qtbot: QtBot) -> None:
    import threading
    import time

    release = threading.Event()
    window.start_job("Reading", lambda job: release.wait(20), lambda _: None, lambda _: None)
    begin = time.monotonic()
    window.open_path(FERRY)
    assert time.monotonic() - begin < 1
    qtbot.waitUntil(lambda: window.job is None and window.session.song is not None, timeout=60000)
    release.set()
