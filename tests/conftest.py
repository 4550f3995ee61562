"""Shared by all tests: nothing of the user's is touched, demo songs are analysed once."""

from __future__ import annotations

import os
import tempfile
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

os.environ["YCHRONOS_TOUR"] = "off"  # it would lie over what tests look at
_HOME = tempfile.TemporaryDirectory(prefix="ychronos-tests-")
os.environ["YCHRONOS_CACHE"] = str(Path(_HOME.name) / "cache")
os.environ["YCHRONOS_STATE"] = str(Path(_HOME.name) / "state")
os.environ["YCHRONOS_SETTINGS"] = str(Path(_HOME.name) / "settings.ini")
os.environ.setdefault("YCHRONOS_AUDIO", "manual")
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from ychronos.analysis import pipeline  # noqa: E402
from ychronos.analysis.evidence import Evidence  # noqa: E402
from ychronos.audio import recording  # noqa: E402
from ychronos.paths import cache_folder, demo_folder  # noqa: E402
from ychronos.song.grid import Bar, Grid  # noqa: E402
from ychronos.song.model import ChordSpan, KeySpan, PitchGround, RecordingRef, Section, Song  # noqa: E402
from ychronos.theory.chord import parse_chord  # noqa: E402
from ychronos.theory.key import parse_key  # noqa: E402
from ychronos.theory.meter import Meter  # noqa: E402

settings.register_profile(
    "suite",
    deadline=None,
    max_examples=45,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.function_scoped_fixture],
)
settings.load_profile("suite")

FERRY = demo_folder() / "the_ferry_keeps_its_lights_on.ogg"
WALTZ = demo_folder() / "waltz_for_the_breakwater.ogg"
KNOTS = demo_folder() / "seven_knots_and_a_half.ogg"


def make_song(
    chords: str = "G D/F# Em7 C | G Bm Am7 D7",
    bars: int = 8,
    beats: int = 4,
    tempo: float = 120.0,
    key: str = "G major",
    lead: int = 0,
    recording: str = "tape.ogg",
) -> Song:
    """A made-up song: one chord a bar in turn, two sections, steady tempo, starting at one second."""
    names = [c for c in chords.replace("|", " ").split() if c]
    meter = Meter(beats)
    made = [Bar(meter, lead, beats - lead + 1)] if lead else []
    made += [Bar(meter, beats)] * bars
    count = sum(b.beats for b in made)
    grid = Grid(tuple(made), tuple(1.0 + i * 60 / tempo for i in range(count + 1)), 1 if lead else 0)
    spans = []
    for i in range(len(made)):
        chord = parse_chord(names[i % len(names)])
        if not spans or spans[-1].chord != chord:
            spans.append(ChordSpan(Fraction(grid.starts[i]), chord, 0.9, ((parse_chord("Am"), 0.05),)))
    middle = grid.starts[len(made) // 2]
    return Song(
        title="Lamps Along the Mole",
        artist="Tin Dory",
        recording=RecordingRef(recording, "0" * 64, 1.0 + count * 60 / tempo + 1),
        grid=grid,
        chords=tuple(spans),
        keys=(KeySpan(Fraction(0), parse_key(key), 0.9),),
        sections=(Section(Fraction(0), "Verse", "A"), Section(Fraction(middle), "Chorus", "B")),
        ground=PitchGround(12.0, 0.9),
    )


@pytest.fixture(scope="session")
def ferry() -> tuple[Song, Evidence]:
    """The 4/4 demo song, analysed once."""
    return pipeline.analyse(recording.load(FERRY, keep_samples=False), "The Ferry", cache=cache_folder())


@pytest.fixture
def song() -> Song:
    return make_song()
