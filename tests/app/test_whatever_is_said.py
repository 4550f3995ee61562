"""A song that can be made can be shown, saved and written out: all edits in any order, every view and every file."""

from __future__ import annotations

import json
from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PySide6.QtWidgets import QApplication

from tests.conftest import make_song
from tests.saying import EDITS, NO_EDITS
from ychronos.app import start
from ychronos.app.settings import Settings
from ychronos.app.views import VIEWS
from ychronos.app.window import Window
from ychronos.audio.play.outputs import ManualOutput
from ychronos.formats import project
from ychronos.formats.options import Options
from ychronos.formats.registry import EXPORTERS
from ychronos.session import journal
from ychronos.song import edits
from ychronos.song.model import Song

numbers = st.integers(0, 100_000)
sayings = st.lists(st.tuples(st.sampled_from(sorted(EDITS)), numbers, numbers, numbers), min_size=1, max_size=6)
songs = st.builds(
    make_song,
    bars=st.integers(2, 9),
    beats=st.sampled_from((2, 3, 4, 5, 7)),
    tempo=st.sampled_from((31.0, 120.0, 233.0)),
    lead=st.sampled_from((0, 0, 1, 2)),
)


def test_every_edit_is_in_the_table() -> None:
    assert set(EDITS) == set(edits.__all__) - NO_EDITS


@pytest.fixture(scope="module")
def shown(tmp_path_factory: pytest.TempPathFactory):
    """One window for all; an error while it paints fails the test."""
    folder = tmp_path_factory.mktemp("window")
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("YCHRONOS_STATE", str(folder / "state"))
        start.make_app([])
        window = Window(Settings(folder / "settings.ini"), ManualOutput())
        window.resize(1000, 700)
        window.show()
        raised: list[str] = []
        patch.setattr("sys.excepthook", lambda kind, error, trace: raised.append(f"{kind.__name__}: {error}"))
        yield window, raised
        window.keeper.clear()
        window.session.clear()
        window.close()


def check(window: Window, raised: list[str], n: int) -> None:
    """What must hold of the song on the screen."""
    song = window.session.song
    assert song is not None
    for view in VIEWS:
        window.show_view(view.id)
        QApplication.processEvents()
        window.views[view.id].grab()
        assert not raised, (view.id, raised)
    rows_as_painted_anew(window)
    data = project.dumps(song)
    assert project.dumps(project.loads(data)) == data, "saved and read again it is the same"
    options = Options(per_row=(2, 4, 8)[n % 3], folded=n % 2 == 0, ascii_only=n % 5 == 0)
    for exporter in EXPORTERS:
        if exporter.id != "pdf" or n % 3 == 0:
            assert exporter.render(song, options)
    json.loads(EXPORTERS[-1].render(song, options) if EXPORTERS[-1].id == "jams" else b"0")
    if window.session.dirty:
        kept = journal.replay(window.keeper.journal.path).song
        assert project.dumps(kept) == data, "and its journal holds it"


def rows_as_painted_anew(window: Window) -> None:
    """What was kept of the rows is what they would show if they were painted now."""
    sheet = window.sheet
    window.show_view("sheet")
    QApplication.processEvents()
    kept = sheet.viewport().grab().toImage()
    sheet.forget_pictures()
    assert sheet.viewport().grab().toImage() == kept


def say(window: Window, what: str, numbers: tuple[int, int, int]) -> bool:
    return window.session.edit(lambda s: EDITS[what](s, *numbers))


@settings(max_examples=40)
@given(song=songs, said=sayings)
def test_whatever_is_said_can_be_shown_saved_and_written(
    song: Song, said: list[tuple[str, int, int, int]], shown: tuple[Window, list[str]]
) -> None:
    window, raised = shown
    window.session.clear()
    raised.clear()
    window.session.set_song(song, None)
    window.sheet.set_diagrams(len(said) % 2 == 0)
    window.sheet.set_strokes(len(said) % 3 > 0)
    window.sheet.set_tabs(len(said) % 3 == 1)
    window.sheet.set_stacked(len(said) == 5)
    first = project.dumps(song)
    for n, (what, *args) in enumerate(said):
        if say(window, what, tuple(args)):  # type: ignore[arg-type]
            window.session.select(Fraction(args[0] % 64, 2))
            check(window, raised, n + args[2])
    last = project.dumps(window.session.song)  # type: ignore[arg-type]
    steps = 0
    while window.session.history.can_undo:
        window.session.undo()
        steps += 1
    assert project.dumps(window.session.song) == first  # type: ignore[arg-type]
    for _ in range(steps):
        window.session.redo()
    assert project.dumps(window.session.song) == last  # type: ignore[arg-type]
    assert not raised


@pytest.mark.parametrize("what", sorted(EDITS))
def test_each_edit_alone(what: str, shown: tuple[Window, list[str]]) -> None:
    window, raised = shown
    raised.clear()
    for n in range(6):
        window.session.clear()
        window.session.set_song(make_song(lead=n % 3), None)
        if n < 2:
            window.show_view("sheet")
            window.sheet.viewport().grab()  # pictures of the rows as they were before
        if say(window, what, (37 * n, 11 * n + 5, n)) and n < 2:
            check(window, raised, n)
    assert not raised
