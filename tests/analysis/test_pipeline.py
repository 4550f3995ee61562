"""The whole analysis on sound with known truth, its constraints, progress and cancel."""

from __future__ import annotations

import json
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from tests.analysis.synth import band
from tests.conftest import FERRY, KNOTS, WALTZ
from ychronos.analysis import evidence as evidences
from ychronos.analysis import pipeline
from ychronos.analysis.beats import recount
from ychronos.analysis.evidence import AnalysisError, Evidence, gather
from ychronos.audio import recording
from ychronos.audio.decode import Cancelled
from ychronos.song import edits
from ychronos.song.grid import Grid
from ychronos.song.model import Song
from ychronos.song.track import Track
from ychronos.theory.chord import parse_chord, parse_harte


def truth(path: Path, namespace: str) -> list[dict]:
    annotations = json.loads(path.with_suffix(".jams").read_text())["annotations"]
    return next(a["data"] for a in annotations if a["namespace"] == namespace)


def f_measure(true: np.ndarray, found: np.ndarray, window: float) -> float:
    hit = (np.abs(true[:, None] - found[None]).min(1) < window).mean()
    exact = (np.abs(found[:, None] - true[None]).min(1) < window).mean()
    return float(2 * hit * exact / (hit + exact + 1e-9))


def root_share(path: Path, song: Song) -> float:
    """Share of chord time with the right root, on a fine clock."""
    rows = truth(path, "chord_harte")
    right = total = 0
    for row in rows:
        chord = parse_harte(row["value"])
        for at in np.arange(row["time"] + 0.02, row["time"] + row["duration"], 0.05):
            if chord.is_none:
                continue
            position = Fraction(song.grid.position(at)).limit_denominator(1000)
            total += 1
            right += song.chords[song.chord_index(max(Fraction(0), position))].chord.root == chord.root
    return right / total


def check(path: Path, song: Song, cents: float) -> None:
    assert song.ground.cents == pytest.approx(cents, abs=2)
    beats = truth(path, "beat_position")
    times = np.array([b["time"] for b in beats])
    assert f_measure(times, np.array(song.grid.times[:-1]), 0.07) > 0.9
    ones = np.array([b["time"] for b in beats if b["value"]["position"] == 1])
    lines = np.array([song.grid.clock(s) for s in song.grid.starts[:-1]])
    assert f_measure(ones, lines, 0.07) > 0.75
    assert root_share(path, song) > 0.85


def test_ferry(ferry: tuple[Song, Evidence]) -> None:
    song, _ = ferry
    check(FERRY, song, 4)
    assert song.main_key().name() == "G major"
    assert song.grid.usual_meter().beats == 4
    boundaries = np.array([s["time"] for s in truth(FERRY, "segment_open") if s["value"] != "silence"])
    found = np.array([song.grid.clock(s.start) for s in song.sections])
    assert f_measure(boundaries, found, 3.0) > 0.5
    assert all(0 <= c.confidence <= 1 for c in song.chords)


def test_waltz_between_keys() -> None:
    song, _ = pipeline.analyse(recording.load(WALTZ, keep_samples=False), "Waltz")
    check(WALTZ, song, 34)
    assert song.grid.usual_meter().beats == 3
    assert song.main_key().name() in ("A major", "F♯ minor")


def test_song_with_count_in_and_odd_bars() -> None:
    song, _ = pipeline.analyse(recording.load(KNOTS, keep_samples=False), "Knots")
    check(KNOTS, song, -11)
    assert song.main_key().tonic == 4


@pytest.mark.parametrize("cents", [-40.0, 0.0, 22.0])
def test_made_up_band(cents: float) -> None:
    sound, times = band(["C", "Am", "F", "G"], cents=cents, repeat=4)
    song, _ = pipeline.analyse(sound, "x")
    assert song.ground.cents == pytest.approx(cents, abs=1.5)
    assert f_measure(times, np.array(song.grid.times[:-1]), 0.07) > 0.85
    assert song.main_key().name() == "C major"


def test_results_come_stage_by_stage() -> None:
    sound, _ = band(["C", "Am", "F", "G"], repeat=3)
    stages: list[str] = []
    shares: list[float] = []
    parts: list[Song] = []

    def progress(name: str, share: float) -> None:
        stages.append(name)
        shares.append(share)

    song, _ = pipeline.analyse(sound, "x", progress, on_result=parts.append)
    assert list(dict.fromkeys(stages)) == [
        "Finding where A is",
        "Listening for attacks",
        "Listening for notes",
        "Feeling the pulse",
        "Listening for chords",
        "Counting beats",
        "Naming chords",
        "Finding the key",
        "Finding sections",
        "Done",
    ]
    assert shares == sorted(shares)
    assert shares[-1] == 1.0
    assert [len(p.chords) > 1 for p in parts] == [False, True, True]
    assert parts[0].grid.times == song.grid.times


@pytest.mark.parametrize("after", [1, 20, 60])
def test_cancel_at_any_moment(after: int) -> None:
    sound, _ = band(["C", "F"], repeat=6)
    calls = 0

    def cancelled() -> bool:
        nonlocal calls
        calls += 1
        return calls > after

    try:
        pipeline.analyse(sound, "x", cancelled=cancelled)
    except Cancelled:
        assert calls > after
    else:
        assert calls <= after


def test_evidence_comes_from_the_cache_the_second_time(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    sound, _ = band(["C", "F"], repeat=4)
    first, _ = pipeline.analyse(sound, "x", cache=tmp_path)
    monkeypatch.setattr(evidences, "gather", lambda *_: pytest.fail("gathered again"))
    second, _ = pipeline.analyse(sound, "x", cache=tmp_path)
    assert second == first


def test_stated_facts_survive_deciding_again(ferry: tuple[Song, Evidence]) -> None:
    song, evidence = ferry
    strange = parse_chord("C#m(maj7)/F")
    song, _ = edits.state_chord(song, Fraction(9, 2), Fraction(13, 2), strange)
    song, _ = edits.mark_unsure(song, 8, True, "why")
    song, _ = edits.rename_section(song, 1, "Strophe")
    song, _ = edits.one_is_here(song, 14)
    marked = song.chords[8].start
    for what in ("chords", "bars"):
        new = pipeline.redecide(song, evidence, what)
        index = new.chord_index(Fraction(9, 2))
        assert new.chords[index].chord == strange
        assert new.chord_range(index) == (Fraction(9, 2), Fraction(13, 2))
        assert "Strophe" in [s.name for s in new.sections]
        assert 14 in new.grid.starts
        assert new.grid.bars[new.grid.bar_at(14)].stated
        assert new.grid.times == song.grid.times
        assert not any(s.unsure for s in new.chords) or new.chords[new.chord_index(marked)].unsure


def test_stated_beats_bars_and_meters_hold_and_the_rest_follows(ferry: tuple[Song, Evidence]) -> None:
    song, evidence = ferry
    grid = song.grid
    beat = grid.starts[6] + 1
    song, _ = edits.move_beat(song, beat, grid.times[beat] + 0.11)
    song, _ = edits.set_length(song, 9, 5)
    moved, five = song.grid.times[beat], song.grid.clock(song.grid.starts[9])
    new = pipeline.redecide(song, evidence, "beats")
    assert moved in new.grid.times
    assert {new.grid.times[b] for b in new.grid.stated_beats} == {moved}
    odd = new.grid.bars[new.grid.bar_at(round(new.grid.position(five)))]
    assert odd.beats == 5
    assert odd.length_stated
    assert len(new.grid.times) == pytest.approx(len(grid.times), abs=2)
    assert f_measure(np.array(grid.times), np.array(new.grid.times), 0.03) > 0.96


@pytest.mark.parametrize("place", [0.02, 0.5, 0.98])
def test_beats_far_from_the_news_stay(ferry: tuple[Song, Evidence], place: float) -> None:
    song, evidence = ferry
    beat = int(place * song.grid.beat_count)
    moved, _ = edits.move_beat(song, beat, song.grid.times[beat] + 0.09)
    new = pipeline.redecide(moved, evidence, "beats", song)
    at = moved.grid.times[beat]
    assert at in new.grid.times
    far = [t for t in song.grid.times[:-1] if abs(t - at) > 13]
    assert set(far) <= set(new.grid.times)
    assert len(new.grid.times) == pytest.approx(len(song.grid.times), abs=2)
    tapped, _ = edits.tap(song, [song.grid.times[i] for i in range(0, 12, 2)])
    assert recount.news(song, tapped) is None, "another speed concerns the whole song"
    assert recount.news(song, song) == []


def test_a_beat_stated_in_a_count_too_slow_to_be_found_again_stays(ferry: tuple[Song, Evidence]) -> None:
    song, evidence = ferry
    every = song.grid.times[:-1:10]  # some five seconds apart
    bars = tuple(replace(song.grid.bars[1], beats=1, stated=False) for _ in every)
    one = {name: Track([replace(getattr(song, name)[1 if name == "chords" else 0], start=Fraction(0))])
           for name in ("chords", "sections", "keys")}  # fmt: skip
    slow = replace(song, grid=Grid(bars, (*every, song.grid.times[-1]), 0), statements=(), **one)
    moved, _ = edits.move_beat(slow, 3, every[4] - 0.08)
    assert every[4] - every[3] > 4
    new = pipeline.redecide(moved, evidence, "beats", slow)
    assert every[4] - 0.08 in new.grid.times


def test_taps_at_half_speed_bring_the_whole_song_to_half_speed(ferry: tuple[Song, Evidence]) -> None:
    song, evidence = ferry
    ones = [song.grid.times[i] for i in range(16, 32, 2)]
    tapped, _ = edits.tap(song, ones)
    new = pipeline.redecide(tapped, evidence, "beats")
    assert new.grid.tempo() == pytest.approx(song.grid.tempo() / 2, rel=0.05)
    assert set(ones) <= set(new.grid.times)
    chosen = [t for t in new.grid.times[:-1] if not ones[0] - 1 < t < ones[-1] + 1]
    on_old_beats = [min(abs(t - o) for o in song.grid.times) < 0.07 for t in chosen]
    assert sum(on_old_beats) > 0.9 * len(chosen), "all but the slowing end"


def test_a_count_slower_than_anybody_counts_stays_as_it_was_put(ferry: tuple[Song, Evidence]) -> None:
    song, evidence = ferry
    slow = song
    for _ in range(5):
        slow = edits.half_tempo(slow)[0]
    assert slow.grid.tempo() < 12
    moved = edits.move_beat(slow, 3, slow.grid.times[3] + 0.2)[0]
    again = pipeline.redecide(moved, evidence, "beats", slow)
    assert again.grid.times[:-1] == moved.grid.times[:-1]


def test_deciding_again_without_news_changes_nothing(ferry: tuple[Song, Evidence]) -> None:
    song, evidence = ferry
    for what in ("chords", "bars", "beats"):
        assert pipeline.redecide(song, evidence, what, song) == song


def test_unusable_recordings() -> None:
    sound, _ = band(["C"], repeat=3)
    silent = replace(sound, peaks=np.zeros_like(sound.peaks))
    with pytest.raises(AnalysisError, match="silent"):
        gather(silent)
    with pytest.raises(AnalysisError, match=r"lasts 2\.0 s"):
        gather(replace(sound, duration=2.0))


def test_quiet_recording_is_brought_up() -> None:
    sound, times = band(["C", "Am", "F", "G"], repeat=4)
    quiet = replace(sound, mono=sound.mono * 0.004, peaks=sound.peaks * 0.004)
    song, _ = pipeline.analyse(quiet, "x")
    assert f_measure(times, np.array(song.grid.times[:-1]), 0.07) > 0.85
