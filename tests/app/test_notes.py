"""Notes as the user makes them: asked for at the caret, on the sheet, chosen for the page."""

from __future__ import annotations

from fractions import Fraction

import pytest
from PySide6.QtCore import QPoint, Qt
from pytestqt.qtbot import QtBot

from tests.app.conftest import answer
from tests.app.test_page import made, page_of, text_of
from ychronos.app.dialogs.asking import Ask
from ychronos.app.window import Window


def test_a_note_is_made_shown_changed_and_taken_away(
    ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    w = ferry_window
    song = w.session.song
    assert song is not None
    at = song.grid.bar_range(2)[0]
    w.session.select(at)
    before = w.sheet.grab().toImage()
    answer(monkeypatch, "horns come in", 0)
    w.actions_.actions["note"].trigger()
    assert [(n.at, n.kind, n.text) for n in w.session.song.notes] == [(at, "cue", "horns come in")]  # type: ignore[union-attr]
    assert w.sheet.grab().toImage() != before
    asked: list[tuple[str, list[str]]] = []

    def exec_(dialog: Ask) -> int:
        asked.append((dialog.text, [r.text() for r in dialog.reaches]))
        dialog.answer.setCurrentText("")
        return 1

    monkeypatch.setattr(Ask, "exec", exec_)
    w.actions_.actions["note"].trigger()
    assert asked[0][0] == "horns come in" and asked[0][1][0].startswith("A cue")
    assert not w.session.song.notes  # type: ignore[union-attr]
    w.session.undo()
    assert w.session.song.notes  # type: ignore[union-attr]


def test_the_user_says_which_notes_print(ferry_window: Window, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    w = ferry_window
    for place, (words, kind) in enumerate((("horns come in", 0), ("palm muted", 1), ("ask the drummer", 3))):
        w.session.select(Fraction(8 + 4 * place))
        answer(monkeypatch, words, kind)
        w.actions_.actions["note"].trigger()
    page = page_of(w, qtbot)
    assert "horns come in" in text_of(page) and "palm muted" in text_of(page)
    assert "ask the drummer" not in text_of(page), "what is private is not printed unless wanted"
    for kind in ("cue", "private"):
        check = page.checks[kind]
        qtbot.mouseClick(check, Qt.MouseButton.LeftButton, pos=QPoint(8, check.height() // 2))
    made(page, qtbot)
    assert "horns come in" not in text_of(page) and "ask the drummer" in text_of(page)
