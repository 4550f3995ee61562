"""What the user wants of every song and of the program, on one page, and what comes of it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from tests.app.conftest import open_and_wait
from tests.conftest import FERRY
from ychronos.app.dialogs.preferences import PreferencesDialog
from ychronos.app.habits import Habits, draw_at, fitting
from ychronos.app.settings import Settings
from ychronos.app.window import Window
from ychronos.audio.play import outputs


def dialog_of(w: Window) -> PreferencesDialog:
    dialog = PreferencesDialog(w.habits, w.wishes, ["Desk mixer"], w.session.song is not None, w)
    dialog.show()
    return dialog


def pick(box, value: object) -> None:  # type: ignore[no-untyped-def]
    box.setCurrentIndex(box.findData(value))


def test_new_songs_are_written_as_wanted(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    dialog = dialog_of(w)
    pick(dialog.notation, "german")
    pick(dialog.level, "no barre")
    dialog.left.setChecked(True)
    dialog.close()
    assert w.session.song is not None and w.session.song.notation == "names", "an open song stays as it is"
    open_and_wait(w, FERRY, qtbot)
    song = w.session.song
    assert (song.notation, song.guitar.level, song.guitar.left) == ("german", "no barre", True)
    assert not w.session.dirty or w.session.path is None


def test_the_open_song_too_in_one_step(ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    w = ferry_window

    def answer(dialog: PreferencesDialog) -> int:
        pick(dialog.notation, "numbers")
        dialog.now.click()
        return 1

    monkeypatch.setattr(PreferencesDialog, "exec", answer)
    w.actions_.actions["preferences"].trigger()
    assert w.session.song is not None and w.session.song.notation == "numbers"
    w.session.undo()
    assert w.session.song.notation == "names"


def test_colours_at_once_and_at_the_next_start(
    make_window: Callable[[], Window], monkeypatch: pytest.MonkeyPatch
) -> None:
    w = make_window()

    def answer(dialog: PreferencesDialog) -> int:
        pick(dialog.colours, "dark")
        return 1

    monkeypatch.setattr(PreferencesDialog, "exec", answer)
    w.actions_.actions["preferences"].trigger()
    assert w.theme.dark
    w.close()
    again = make_window()
    assert again.theme.dark and again.habits.colours == "dark"
    again.actions_.actions["dark"].trigger()
    assert again.habits.colours == "light"


def test_the_size_of_everything(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    assert [fitting(s, 1280, 800) for s in (100, 125, 200)] == [100, 115, 115]
    assert fitting(200, 3840, 2160) == 200 and fitting(150, 800, 480) == 100
    settings = Settings(tmp_path / "s.ini")
    monkeypatch.delenv("QT_SCALE_FACTOR", raising=False)
    draw_at(settings)
    import os

    assert "QT_SCALE_FACTOR" not in os.environ
    settings.set("size", 150)
    monkeypatch.setenv("QT_SCALE_FACTOR", "")
    monkeypatch.delenv("QT_SCALE_FACTOR")
    draw_at(settings)
    assert os.environ.pop("QT_SCALE_FACTOR") == "1.5"


@pytest.mark.parametrize("broken", ["nan", "", "[]", "huge", "-1", "\x00"])
def test_what_is_no_preference_counts_as_not_set(tmp_path: Path, broken: str) -> None:
    settings = Settings(tmp_path / "s.ini")
    for key in ("colours", "size", "new/notation", "new/level", "new/left"):
        settings.set(key, broken)
    habits = Habits(settings)
    assert (habits.colours, habits.size, habits.notation, habits.level, habits.left) == (
        "light",
        100,
        "names",
        "standard",
        False,
    )


def test_a_card_that_is_gone_is_named_and_the_systems_own_is_used(
    window: Window, monkeypatch: pytest.MonkeyPatch
) -> None:
    window.settings.set("device", "Tape loft")
    dialog = dialog_of(window)
    assert dialog.device.currentText() == "Tape loft (not there now)"
    dialog.close()
    asked: list[str] = []
    monkeypatch.setattr(outputs, "choose", lambda device="": asked.append(device) or outputs.SimulatedOutput())
    window.find_device()
    assert asked == ["Tape loft"]
