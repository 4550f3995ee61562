"""How a record ends: bands made by value, and a demo song that is faded."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests.song.test_passes import song_of
from ychronos.analysis import spectra
from ychronos.analysis.form.fading import closing
from ychronos.analysis.spectra import BAND_RATE, BANDS
from ychronos.audio import recording as recordings
from ychronos.chart.gestures import gestures
from ychronos.formats import project
from ychronos.formats.textchart import render
from ychronos.paths import demo_folder
from ychronos.song import edits
from ychronos.song.closing import Closing


def strummed(seconds: float = 40.0, ring: float = 0.5, every: float = 0.5) -> np.ndarray:
    """Bands of strokes that die away within ``ring`` seconds (60 dB), on a quiet floor."""
    rng = np.random.default_rng(5)
    frames = int(seconds * BAND_RATE)
    out = np.full((frames, BANDS), 1e-3)
    colour = rng.uniform(0.4, 1.0, BANDS)
    for start in range(0, frames - 1, int(every * BAND_RATE)):
        t = np.arange(frames - start) / BAND_RATE
        out[start:] += colour * rng.uniform(0.8, 1.0) * 10 ** (-3 * t / ring)[:, None]
    return out


def ending_in(bands: np.ndarray, ring: float, silence: float = 2.0) -> np.ndarray:
    """The same with a last stroke that rings for so long, then silence."""
    t = np.arange(int(max(ring, 0.2) * BAND_RATE)) / BAND_RATE
    last = 1.2 * 10 ** (-3 * t / ring)[:, None] * np.full(BANDS, 0.7)
    return np.concatenate([bands, last, np.full((int(silence * BAND_RATE), BANDS), 1e-5)])


@pytest.mark.parametrize("shape", [1.0, 1.5])
@pytest.mark.parametrize("seconds", [6.0, 10.0, 16.0])
def test_a_fade_is_told_with_its_beginning(seconds: float, shape: float) -> None:
    bands = strummed()
    count = int(seconds * BAND_RATE)
    bands[-count:] *= (np.linspace(1, 0.001, count) ** shape)[:, None]
    found = closing(bands)
    assert found.kind == "fades"
    assert found.at == pytest.approx(40 - seconds, abs=0.4 * seconds)


def test_a_long_ring_is_no_fade_and_a_short_one_a_stop() -> None:
    bands = strummed()
    rings = closing(ending_in(bands, 8.0))
    assert rings.kind == "rings" and rings.at == pytest.approx(40.0, abs=0.1)
    stops = closing(ending_in(bands, 0.5))
    assert stops.kind == "stops" and stops.at == pytest.approx(40.0, abs=0.1)


def test_what_is_not_plain_is_not_told() -> None:
    assert closing(np.zeros((3000, BANDS))) == Closing()
    assert closing(strummed(3.0)) == Closing(), "too short to say"
    assert closing(np.full((3000, BANDS), 0.5)).kind != "fades"
    with pytest.raises(ValueError, match="explodes"):
        Closing("explodes")


def test_a_demo_song_fades_only_where_it_is_faded() -> None:
    sound = recordings.load(demo_folder() / "the_ferry_keeps_its_lights_on.ogg")
    bands = spectra.bands(sound.mono)
    assert closing(bands).kind != "fades"
    cut = bands[: int(0.8 * len(bands))].copy()
    cut[-400:] *= np.linspace(1, 0, 400)[:, None] ** 1.5
    found = closing(cut)
    assert found.kind == "fades" and found.at == pytest.approx(len(cut) / BAND_RATE - 8, abs=3)


def test_it_is_told_with_the_last_section_and_kept() -> None:
    song = song_of("Verse: G C G D", "Chorus: C F C G")
    bars = len(song.grid.bars)
    fading = replace(song, closing=Closing("fades", song.grid.clock(song.grid.bar_range(bars - 2)[0]) + 0.1))
    assert gestures(fading, 1) == [f"fades out from bar {song.grid.number(bars - 2)} on"]
    assert gestures(fading, 0) == []
    assert "fades out" in render(fading)
    again = project.loads(project.dumps(fading))
    assert again.closing.kind == "fades" and again.closing.at == pytest.approx(fading.closing.at, abs=1e-3)
    assert project.loads(project.dumps(song)).closing == Closing()


def test_what_is_said_of_the_last_chord_goes_before_what_was_heard() -> None:
    song = replace(song_of("Verse: G C G D", "Chorus: C F C G"), closing=Closing("fades", 3.0))
    last = len(song.chords) - 1
    held, _ = edits.articulate(song, last, "held")
    assert gestures(held, 1) == ["the last chord rings out"]
    stopped, _ = edits.articulate(song, last, "stopped")
    assert gestures(stopped, 1) == ["stops short at the end"]
    played, _ = edits.articulate(song, last, "strummed")
    assert gestures(played, 1) == [] or played.statements == song.statements


@pytest.mark.parametrize("value", [["fades"], ["gone", 3], [3, 4], ["fades", "now"], ["fades", -1]])
def test_a_damaged_ending_is_refused(value: list[object]) -> None:
    import json

    plain = json.loads(project.dumps(song_of("Verse: G C G D")))
    plain["closing"] = value
    with pytest.raises(project.ProjectError):
        project.loads(json.dumps(plain))
