"""Chords that are left to ring: told from bands made by value, shown, doubted, kept, and the user's word before them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.song.test_passes import song_of
from ychronos.analysis.hands import rings
from ychronos.analysis.spectra import BAND_RATE, BANDS
from ychronos.formats import jams, project
from ychronos.formats.textchart import render
from ychronos.song import edits
from ychronos.song.doubting import doubts, ways_out, words
from ychronos.song.merge import merged
from ychronos.song.model import RINGS_MAYBE, RINGS_SURE, Song
from ychronos.song.track import Track
from ychronos.theory.chord import parse_chord

BEAT = 0.5


def played(bars: str) -> tuple[np.ndarray, list[tuple[float, float]]]:
    """(bands, spans) of bars of four beats, a letter each: ``s`` strummed in eighths, ``r`` struck once and left to ring."""
    rng = np.random.default_rng(3)
    colour = rng.uniform(0.4, 1.0, BANDS)
    frames = int(len(bars) * 4 * BEAT * BAND_RATE)
    out = np.full((frames, BANDS), 1e-3) * rng.uniform(0.5, 1, (frames, BANDS))
    for k, kind in enumerate(bars):
        begin = int(k * 4 * BEAT * BAND_RATE)
        end = int((k + 1) * 4 * BEAT * BAND_RATE)
        for step in range(8 if kind == "s" else 1):
            start = begin + int(step * BEAT / 2 * BAND_RATE)
            t = np.arange(end - start) / BAND_RATE
            out[start:end] += colour * rng.uniform(0.7, 1.0) * 10 ** (-t / 1.2)[:, None]
    return out, [(k * 4 * BEAT, (k + 1) * 4 * BEAT) for k in range(len(bars))]


@given(st.text("sssr", min_size=6, max_size=12).filter(lambda t: "rr" not in t and t.count("s") >= 4))
def test_bars_that_ring_are_told_from_strummed_ones(bars: str) -> None:
    bands, spans = played(bars)
    found = rings.chances(rings.features(rings.strokes(bands), spans, BEAT))
    assert [p >= RINGS_SURE for p in found] == [k == "r" for k in bars]


def test_short_chords_and_silence_are_not_told() -> None:
    bands, spans = played("ssss")
    short = [(a, a + 0.4) for a, _ in spans]
    assert not rings.chances(rings.features(rings.strokes(bands), short, BEAT)).any()
    silent = np.zeros((500, BANDS))
    assert np.isfinite(rings.chances(rings.features(rings.strokes(silent), [(0.0, 2.0), (2.0, 30.0)], BEAT))).all()
    beyond = rings.features(rings.strokes(bands), [(100.0, 104.0)], BEAT)
    assert np.isnan(beyond).any() and rings.chances(beyond)[0] == 0


def heard(*chances: float) -> Song:
    song = song_of("Verse: G C G D", "Chorus: Am F C G")
    spans = [replace(c, rings=chances[i] if i < len(chances) else 0.0) for i, c in enumerate(song.chords)]
    return merged(replace(song, chords=Track(spans)))


def test_a_sure_ring_is_shown_and_a_likely_one_is_a_doubt() -> None:
    song = heard(RINGS_SURE, RINGS_MAYBE, 0.1)
    assert [c.articulation for c in song.chords][:3] == ["held", "strummed", "strummed"]
    assert song.sign(0) in render(song)
    found = [d for d in doubts(song) if d.kind == "ring"]
    assert [d.index for d in found] == [1]
    assert words(song, found[0])[0] == "Does C ring here?" and "rings" in ways_out(found[0])


@pytest.mark.parametrize("word", ["held", "strummed", "stopped"])
def test_the_users_word_goes_before_what_is_heard(word: str) -> None:
    song, _ = edits.articulate(heard(0.9, 0.5), 0, word)
    song, _ = edits.articulate(song, 1, word)
    assert [c.articulation for c in song.chords][:2] == [word, word]
    assert not [d for d in doubts(song) if d.kind == "ring"]


def test_it_is_kept_in_files_and_under_a_stated_chord() -> None:
    song = heard(0.93, 0.42)
    again = project.loads(project.dumps(song))
    assert [c.rings for c in again.chords] == [c.rings for c in song.chords]
    assert project.dumps(again) == project.dumps(song)
    start, end = song.chord_range(0)
    stated, _ = edits.state_chord(song, start, end, parse_chord("G7"))
    assert stated.chords[0].chord == parse_chord("G7") and stated.chords[0].articulation == "held"
    rung = [
        a for a in jams.document(song)["annotations"] if a["annotation_metadata"].get("data_source") == "articulation"
    ]
    assert [(r["value"], r["confidence"]) for r in rung[0]["data"]] == [("ring", 0.93)]


def test_a_near_count_stands_among_the_doubts() -> None:
    song = heard()
    found = doubts(song, ("63", 0.4))
    assert found[0].kind == "count" and words(song, found[0])[0].endswith(", or 63")
    assert not [d for d in doubts(song) if d.kind == "count"]
