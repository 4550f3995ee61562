"""What a new kind of track costs: one entry for the kind, one for its lane, one for its export, and nothing else.

A toy, "weather over the bars", is stored, moved with the grid, shown as a lane and exported. Each part would be one file
of its own, with the line that registers it.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import pytest
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter
from pytestqt.qtbot import QtBot

from tests.conftest import make_song
from ychronos import cli
from ychronos.app.sheet.geometry import BarBox
from ychronos.app.sheet.lanes import LANES, Lane
from ychronos.app.table import export_entries
from ychronos.app.theme import Theme
from ychronos.app.window import Window
from ychronos.formats import project
from ychronos.formats.options import Options
from ychronos.formats.registry import EXPORTERS, Exporter
from ychronos.song import edits
from ychronos.song import statements as said
from ychronos.song.merge import say
from ychronos.song.model import Song
from ychronos.song.statements import KINDS, Kind, Statement

painted: list[tuple[int, str]] = []


def weather_of(song: Song, bar: int) -> str:
    found = said.at(song.statements, "weather", song.grid.bar_range(bar)[0])
    return str(found.value) if found else ""


# file 1: the kind
KIND = Kind("weather", stretch=True, write=str, read=str)


# file 2: the lane
def paint(painter: QPainter, song: Song, bar: BarBox, theme: Theme, scale: float) -> None:
    words = weather_of(song, bar.bar)
    if words:
        painted.append((bar.bar, words))
        painter.drawText(QPointF(bar.x + 4, 40 * scale), words)


# file 3: the export
def forecast(song: Song, options: Options) -> bytes:
    lines = [f"{song.grid.number(b)} {weather_of(song, b)}" for b in range(len(song.grid.bars)) if weather_of(song, b)]
    return "\n".join(lines).encode()


@pytest.fixture
def weather() -> Iterator[int]:
    """The toy registered; how many places were touched."""
    said.register("weather", KIND)
    LANES.append(Lane("weather", "Weather", paint))
    EXPORTERS.append(
        Exporter("weather", "Weather…", "Write the weather", "the weather", ".txt", "Text (*.txt)", forecast, text=True)
    )
    yield 3
    del KINDS["weather"], LANES[-1], EXPORTERS[-1]


def test_weather_is_stored_moved_shown_and_exported_by_three_entries(
    weather: int, window: Window, qtbot: QtBot, tmp_path: Path
) -> None:
    assert weather <= 5
    song = say(make_song(), Statement("weather", Fraction(8), Fraction(16), "fog"))
    back = project.loads(project.dumps(song))
    assert back.statements == song.statements, "stored"
    double, _ = edits.double_tempo(song)
    (moved,) = said.of(double.statements, "weather")
    assert (moved.at, moved.until) == (16, 32), "moved with the grid"
    longer, _ = edits.insert_beat(song, 2)
    assert said.of(longer.statements, "weather")[0].at == 9
    painted.clear()
    window.session.set_song(replace(song, title="Fog"), None)
    window.sheet.viewport().repaint()
    qtbot.waitUntil(lambda: {b for b, _ in painted} >= {2, 3}, timeout=3000)
    assert {w for _, w in painted} == {"fog"}, "shown as a lane"
    assert "export_weather" in [e.id for e in export_entries()], "exported from the menu"
    path = tmp_path / "fog.ychronos"
    project.save(song, path)
    assert EXPORTERS[-1].render(song, Options()) == b"3 fog\n4 fog"
    assert cli.run(["export", str(path), "--text", str(tmp_path / "chart.txt")]) == cli.OK


def test_a_kind_is_registered_once() -> None:
    with pytest.raises(ValueError, match="already"):
        said.register("chord", KIND)
