"""Playing: what would be heard, where the cursor is, loops, level, devices that go."""

from __future__ import annotations

import gc
import weakref

import numpy as np
import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot

from tests.app.conftest import bar_point, click
from ychronos.app.window import Window
from ychronos.audio.play import outputs
from ychronos.audio.play.engine import Player, level_to_gain
from ychronos.audio.play.stretch import StretchMissing

RATE = 8000


def tone_player(seconds: float = 4.0, channels: int = 2) -> Player:
    t = np.arange(int(seconds * RATE)) / RATE
    samples = np.repeat(0.5 * np.sin(2 * np.pi * 97 * t)[:, None], channels, axis=1).astype(np.float32)
    player = Player(samples, RATE)
    player.set_gain(1.0)
    player._gain = 1.0
    return player


def run(player: Player, frames: int, block: int = 256) -> np.ndarray:
    out = []
    while frames > 0:
        piece = np.empty((min(block, frames), 2), np.float32)
        player.fill(piece)
        out.append(piece)
        frames -= len(piece)
    return np.concatenate(out)


def test_what_is_played_is_the_record() -> None:
    player = tone_player()
    assert not run(player, 1000).any(), "silence until it is started"
    player.play(1.0)
    heard = run(player, 4000)
    fade = player.fade
    assert heard[fade:] == pytest.approx(player.samples[RATE + fade : RATE + 4000], abs=1e-6)
    assert player.frame == RATE + 4000
    player.stop()
    assert not run(player, 1000).any()


@pytest.mark.parametrize("channels", [1, 2, 6])
def test_any_channel_count_becomes_stereo(channels: int) -> None:
    player = tone_player(channels=channels)
    player.play(0.0)
    heard = run(player, 2000)
    assert heard[500:, 0] == pytest.approx(player.samples[500:2000, 0], abs=1e-6)
    assert np.array_equal(heard[:, 0], heard[:, 1])


def test_loop_has_no_click_at_its_seam() -> None:
    player = tone_player()
    player.set_loop((1.0, 1.513))
    player.play(1.0)
    heard = run(player, 3 * RATE)
    own = np.abs(np.diff(player.samples[:, 0])).max()
    assert np.abs(np.diff(heard[player.fade :, 0])).max() < 1.3 * own
    assert RATE <= player.frame < int(1.513 * RATE) + 1
    length = int(round(1.513 * RATE)) - RATE
    middle = slice(1000, length - 200)
    assert heard[middle] == pytest.approx(heard[middle.start + length : middle.stop + length], abs=1e-6)


def test_a_player_at_another_speed_goes_with_the_last_who_has_it() -> None:
    player = tone_player()
    try:
        player.set_speed(0.8)
    except StretchMissing as error:
        pytest.skip(str(error))
    assert not gc.isenabled(), "the record goes with its player, not when somebody looks for rings of objects"
    player.set_loop((0.5, 1.5))
    player.play(0.5)
    run(player, 2000)
    seen = weakref.ref(player)
    del player
    assert seen() is None


def test_it_stops_at_the_end_and_starts_again() -> None:
    player = tone_player(1.0)
    player.play(0.9)
    run(player, RATE)
    assert not player.playing
    assert player.ended
    player.play()
    assert player.frame == 0


def test_level_is_capped() -> None:
    assert level_to_gain(0) == 0
    assert level_to_gain(1) == pytest.approx(10 ** (-6 / 20))
    assert level_to_gain(1, lifted=True) == 1.0
    gains = [level_to_gain(x / 20) for x in range(21)]
    assert gains == sorted(gains)


def test_level_moves_without_a_jump() -> None:
    player = tone_player()
    player.play(0.0)
    run(player, 1024)
    player.set_gain(0.1)
    heard = run(player, 512)
    own = np.abs(np.diff(player.samples[:, 0])).max()
    assert np.abs(np.diff(heard[:, 0])).max() < 1.2 * own


def test_what_is_heard_beside_the_bars_is_said_to_be(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    grid = w.session.song.grid
    assert grid.times[0] > 0.05 and grid.times[-1] < w.session.song.recording.duration - 0.05
    click(w, qtbot, bar_point(w, 3, 1.2))
    qtbot.keyClick(w.sheet, Qt.Key.Key_Space)
    for at, said in (
        (0.0, "before the first bar"),
        (grid.times[-1] + 0.01, "after the last bar"),
        (grid.times[0] + 0.1, "bar"),
    ):
        w.seek(at)
        w._tick()
        assert said in w.desk.place.text() and ("bar 1 ·" in w.desk.place.text()) is (said == "bar")


def test_space_plays_from_the_click_and_the_cursor_follows(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    click(w, qtbot, bar_point(w, 3, 1.2))
    qtbot.keyClick(w.sheet, Qt.Key.Key_Space)
    assert w.playing
    assert w.desk.play.accessibleName() == "Stop"
    heard = w.output.advance(2.0)
    start = song.grid.clock(song.grid.starts[3] + 1)
    first = int(round(start * w.player.rate))
    gain = level_to_gain(w.desk.level.value() / 100, w.cap_lifted)
    expected = w.player.samples[first + 2000 : first + 40000] * gain
    assert heard[2000:40000] == pytest.approx(expected, abs=1e-4)
    w._tick()
    x, top, bottom = w.sheet.cursor_point()
    position = song.grid.position(start + 2.0)
    row, want = w.sheet.geometry_.point(position)
    assert x == pytest.approx(want, abs=1.0)
    assert row.y <= top + 5 < bottom
    assert f"bar {song.grid.number(song.grid.bar_at(position))}" in w.desk.place.text()
    w.output.advance(25.0)
    w._tick()
    x, top, bottom = w.sheet.cursor_point()
    scroll = w.sheet.verticalScrollBar().value()
    assert scroll <= top
    assert bottom <= scroll + w.sheet.viewport().height(), "the row that plays is in sight"
    qtbot.keyClick(w.sheet, Qt.Key.Key_Space)
    assert not w.playing
    stopped = w.heard()
    w.output.advance(1.0)
    assert w.heard() == stopped


def test_loop_of_the_selected_bars(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    song = w.session.song
    click(w, qtbot, bar_point(w, 4))
    click(w, qtbot, bar_point(w, 5), shift=True)
    qtbot.keyClick(w.sheet, Qt.Key.Key_L)
    assert w.desk.loop.text() == "Loop: bars 5–6"
    first, last = song.grid.clock(song.grid.starts[4]), song.grid.clock(song.grid.starts[6])
    qtbot.keyClick(w.sheet, Qt.Key.Key_Space)
    for _ in range(12):
        w.output.advance(1.0)
        assert first - 0.01 <= w.heard() <= last + 0.01
    qtbot.keyClick(w.sheet, Qt.Key.Key_L)
    assert w.desk.loop.text() == "Loop"
    w.output.advance(last - first + 1)
    assert w.heard() > last


def test_level_control_and_cap(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window
    w.desk.level.setValue(50)
    w.actions_.actions["louder"].trigger()
    assert w.desk.level.value() == 55
    w.desk.level.setValue(100)
    w.play_from_caret()
    w.output.advance(3.0)
    capped = np.abs(w.output.advance(10.0)).max()
    assert 0.05 < capped <= 10 ** (-6 / 20) + 1e-3
    w.actions_.actions["lift_cap"].trigger()
    assert "cap is lifted" in w.notice.words.text()
    w.notice.choices["Set the cap again"].click()
    assert not w.cap_lifted


def test_output_note_is_shown(window: Window) -> None:
    assert window.desk.output.text() == outputs.FORCED_NOTE


def test_a_device_that_cannot_start_falls_back(ferry_window: Window, qtbot: QtBot) -> None:
    w = ferry_window

    class Broken(outputs.ManualOutput):
        def start(self, rate: int, fill: outputs.Fill) -> None:
            raise outputs.DeviceError("unplugged")

    w.output = Broken()
    w.play_from_caret()
    assert isinstance(w.output, outputs.SimulatedOutput)
    assert w.desk.output.text() == outputs.SIMULATED_NOTE
    qtbot.waitUntil(lambda: w.heard() > 0.6, timeout=5000)
    w.stop_playing()


def test_simulated_output_keeps_time(monkeypatch: pytest.MonkeyPatch, qtbot: QtBot) -> None:
    monkeypatch.setenv("YCHRONOS_AUDIO", "simulated")
    output = outputs.choose()
    assert isinstance(output, outputs.SimulatedOutput)
    player = tone_player(5.0)
    player.play(0.0)
    output.start(RATE, player.fill)
    qtbot.wait(500)
    output.stop()
    assert player.frame / RATE == pytest.approx(0.5, abs=0.2)


def test_without_a_sound_card_the_simulated_output_is_chosen(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("YCHRONOS_AUDIO", "")

    def none(self: object, device: str = "") -> None:
        raise outputs.DeviceError("none")

    monkeypatch.setattr(outputs.PortAudioOutput, "__init__", none)
    assert isinstance(outputs.choose(), outputs.SimulatedOutput)
