"""What is said survives: a kill, the end of the session, a full disk; and is offered with what became of the project."""

from __future__ import annotations

import errno
import os
import signal
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMessageBox
from pytestqt.qtbot import QtBot

from tests.app.conftest import open_and_wait, settle
from tests.conftest import FERRY, make_song
from ychronos.app import files
from ychronos.app.window import Window
from ychronos.formats import project
from ychronos.paths import state_folder
from ychronos.session import journal
from ychronos.session.commands import chords
from ychronos.session.keeping import Keeper
from ychronos.song import edits
from ychronos.song.model import Song

PIER = "Lamps on the pier"


def leave(song: Song, saved_as: Path | None = None, title: str = PIER) -> Path:
    """Work of another run, which ended without saving; where it lies."""
    keeper = Keeper(state_folder())
    mark = project.mark_of(saved_as) if saved_as else None
    keeper.keep(edits.rename_song(song, title, "Tin Dory")[0], "the song has a name", saved_as, mark)
    keeper.journal.close()
    return keeper.journal.path


def saved_project(tmp_path: Path, name: str = "s.ychronos") -> Path:
    path = tmp_path / name
    project.save(make_song(), path)
    return path


def test_what_is_said_is_on_the_disk_when_it_is_acknowledged(ferry_window: Window) -> None:
    w = ferry_window
    kept: list[str] = []

    def look(_: str) -> None:
        path = w.keeper.journal.path
        kept.append(journal.replay(path).song.title if path.exists() else "")

    w.session.said.connect(look)
    for i in range(5):
        assert w.session.edit(lambda s, i=i: edits.rename_song(s, f"Lamps {i}", "Tin Dory"))
    assert kept == [f"Lamps {i}" for i in range(5)]
    while w.session.history.can_undo:
        w.session.undo()
    assert not w.keeper.journal.path.exists(), "taken back: nothing to offer"
    w.session.redo()
    assert project.dumps(journal.replay(w.keeper.journal.path).song) == project.dumps(w.session.song)


def test_it_goes_when_saved(ferry_window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    w = ferry_window
    chords.accept_chord(w.session)
    settle(w, qtbot)
    assert journal.replay(w.keeper.journal.path).song.chords[0].stated
    assert files.save_to(w, tmp_path / "s.ychronos")
    assert not w.keeper.journal.path.exists()


def test_what_cannot_be_kept_is_said_and_tried_again(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window

    def full(*_: object) -> int:
        raise OSError(errno.ENOSPC, "No space left on device")

    assert w.session.edit(lambda s: edits.rename_song(s, "One", "Tin Dory"))
    with monkeypatch.context() as m:
        m.setattr(journal, "_write_whole", full)
        assert w.session.edit(lambda s: edits.rename_song(s, "Two", "Tin Dory"))
        assert "cannot be kept safe" in w.notice.words.text()
        assert "Save as…" in w.notice.choices
        assert journal.replay(w.keeper.journal.path).song.title == "One", "what was kept is still whole"
    w._keep_timer.setInterval(10)
    w._keep_timer.start()
    qtbot.waitUntil(lambda: w.session.kept, timeout=3000)
    assert "safe again" in w.notice.words.text()
    assert journal.replay(w.keeper.journal.path).song.title == "Two"


def test_the_page_lists_all_and_opens_one(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    path = saved_project(tmp_path)
    first, second = leave(make_song(), title="The first"), leave(make_song(), path, title="The second")
    os.utime(first, (1e9, 1e9))
    assert window.offer_recovery()
    assert window.page_shown is window.unfinished
    works = [work for work, _, _ in window.unfinished.entries]
    assert [w.title for w in works] == ["The second", "The first"]
    assert "s.ychronos” is as it was" in works[0].describe()
    assert "never saved" in works[1].describe()
    qtbot.mouseClick(window.unfinished.entries[0][1], Qt.MouseButton.LeftButton)
    settle(window, qtbot)
    assert window.session.song is not None and window.session.song.title == "The second"
    assert window.session.path == path
    assert window.session.dirty, "restored work still has to be saved"
    assert not second.exists()
    assert journal.replay(window.keeper.journal.path).song.title == "The second", "its new copy"
    window.notice.hide()
    assert first.exists()
    window.actions_.actions["unfinished"].trigger()
    assert [w.title for w, _, _ in window.unfinished.entries] == ["The first"]
    qtbot.mouseClick(window.unfinished.later, Qt.MouseButton.LeftButton)
    assert window.page_shown is not window.unfinished
    assert files.save_to(window, path)
    assert project.load(path).title == "The second"


def test_thrown_away_can_be_taken_back(window: Window, qtbot: QtBot) -> None:
    left = leave(make_song())
    window.offer_recovery()
    qtbot.mouseClick(window.unfinished.entries[0][2], Qt.MouseButton.LeftButton)
    assert not left.exists()
    assert window.page_shown is window.welcome
    window.notice.choices["Undo"].click()
    assert left.exists()
    assert window.unfinished.isVisible()


def test_the_only_copy_stays_until_there_is_another(
    window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    left = leave(make_song())

    def full(*_: object, **__: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    window.offer_recovery()
    monkeypatch.setattr(journal, "_write_whole", full)
    qtbot.mouseClick(window.unfinished.entries[0][1], Qt.MouseButton.LeftButton)
    settle(window, qtbot)
    assert window.session.song is not None and window.session.song.title == PIER
    assert left.exists()


def test_damaged_work_is_set_aside_and_hides_nothing(window: Window, qtbot: QtBot) -> None:
    bad, good = leave(make_song(), title="Bad"), leave(make_song(), title="Good")
    bad.write_bytes(bad.read_bytes()[:300])
    (bad.parent / "other.journal").write_bytes(os.urandom(99))
    (bad.parent / "folder.journal").mkdir()
    assert window.offer_recovery()
    assert [w.title for w, _, _ in window.unfinished.entries] == ["Good"]
    assert "2 entries could not be read" in window.unfinished.aside.text()
    assert len(list((bad.parent / "damaged").iterdir())) == 2, "kept aside, not deleted"
    assert good.exists()


def test_opening_a_project_offers_its_own_work_and_knows_that_it_is_older(
    window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    path, other = saved_project(tmp_path), saved_project(tmp_path, "other.ychronos")
    leave(make_song(), path)
    open_and_wait(window, other, qtbot)
    assert "1 song with unsaved work" in window.notice.words.text() or "recording" in window.notice.words.text()
    project.save(edits.rename_song(make_song(), "Newer", "")[0], path)
    window.recovery.offer_for(path)
    assert "was saved since" in window.notice.words.text()
    window.notice.choices["Restore"].click()
    settle(window, qtbot)
    assert window.session.song is not None and window.session.song.title == PIER
    assert not files.save(window), "the newer project is not replaced without a word"
    assert "written by something else" in window.notice.words.text()
    assert project.load(path).title == "Newer"
    window.notice.choices["Replace it"].click()
    assert project.load(path).title == PIER


@pytest.mark.parametrize("number", [1, os.getppid()])
def test_a_number_given_again_hides_no_work(number: int, window: Window) -> None:
    """The crashed process's number may belong to another process now."""
    left = leave(make_song())
    lines = left.read_bytes().splitlines(keepends=True)
    head = journal.read_head(left)
    head.process, head.started = number, "then"
    left.write_bytes(b"".join([journal._line(head), *lines[1:]]))
    assert window.offer_recovery()


def test_work_of_a_window_that_lives_is_not_offered(window: Window, make_window: Callable[[], Window]) -> None:
    other = make_window()
    other.session.set_song(make_song(), None)
    other.session.edit(lambda s: edits.rename_song(s, PIER, ""))
    assert other.keeper.journal.path.exists()
    assert not window.offer_recovery()


def test_two_windows_on_one_project(make_window: Callable[[], Window], qtbot: QtBot, tmp_path: Path) -> None:
    path = saved_project(tmp_path)
    one, two = make_window(), make_window()
    for w in (one, two):
        open_and_wait(w, path, qtbot)
    assert not two.lock.take(path), "the second knows of the first"
    for w, title in ((one, "One"), (two, "Two")):
        w.session.edit(lambda s, title=title: edits.rename_song(s, title, ""))
    assert files.save(one)
    assert not files.save(two)
    assert project.load(path).title == "One"
    assert two.session.dirty
    two.ask_save = lambda _: QMessageBox.StandardButton.Save  # type: ignore[method-assign]
    two.close()
    assert two.isVisible(), "nothing was saved, so it does not close"


@pytest.mark.parametrize("ending", [signal.SIGTERM, signal.SIGHUP, signal.SIGINT, signal.SIGKILL])
def test_work_survives_the_end_of_the_program(ending: int, window: Window, tmp_path: Path) -> None:
    """A window that is ended from outside right after a statement keeps it, and this one restores it."""
    saved = saved_project(tmp_path)
    code = f"""
import os
from PySide6.QtCore import QTimer
from ychronos.app import start, window
from ychronos.song import edits
class Heard(window.Window):
    def __init__(self, **more):
        super().__init__(**more)
        QTimer.singleShot(1200, self.speak)
    def speak(self):
        assert self.session.edit(lambda s: edits.rename_song(s, {PIER!r}, "Tin Dory"))
        os.kill(os.getpid(), {int(ending)})
window.Window = Heard
raise SystemExit(start.run([{str(saved)!r}]))
"""
    env = {**os.environ, "YCHRONOS_SETTINGS": str(tmp_path / "other.ini")}
    done = subprocess.run([sys.executable, "-c", code], env=env, timeout=90, check=False, capture_output=True)
    assert done.returncode == (-9 if ending == signal.SIGKILL else 0), done.stderr.decode()
    assert window.offer_recovery()
    work = window.unfinished.entries[0][0]
    assert work.title == PIER
    assert work.saved_as == saved
    assert "1 change not saved" in work.describe()


def test_the_recording_is_there_after_a_restart(window: Window, qtbot: QtBot, ferry: tuple[Song, object]) -> None:
    leave(ferry[0])
    window.offer_recovery()
    window.unfinished.entries[0][1].click()
    qtbot.waitUntil(lambda: window.job is None, timeout=60000)
    assert window.session.recording is not None
    assert window.session.recording.path == FERRY
    assert window.session.evidence is not None
