"""Chords that are struck once, left to ring or cut short: told from bands made by value, shown, doubted, kept, and the user's word before them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.song.test_passes import song_of
from ychronos.analysis import net
from ychronos.analysis.hands import once
from ychronos.analysis.spectra import BAND_RATE, BANDS, PITCH_RATE
from ychronos.formats import jams, project
from ychronos.formats.textchart import render
from ychronos.song import edits
from ychronos.song.doubting import doubts, ways_out, words
from ychronos.song.merge import merged
from ychronos.song.model import RINGS_MAYBE, RINGS_SURE, Song
from ychronos.song.track import Track
from ychronos.theory.chord import parse_chord

BEAT = 0.5
CUT = 0.25  # seconds


def played(bars: str) -> tuple[once.Heard, list[tuple[float, float]]]:
    """What is heard of bars of four beats, a letter each: ``s`` strummed in eighths, ``r`` struck once and left to ring, ``c`` cut short."""
    rng = np.random.default_rng(3)
    colour = rng.uniform(0.4, 1.0, BANDS)
    frames = int(len(bars) * 4 * BEAT * BAND_RATE)
    out = np.full((frames, BANDS), 1e-3) * rng.uniform(0.5, 1, (frames, BANDS))
    sounds = np.zeros(frames)
    for k, kind in enumerate(bars):
        begin, end = (int((k + n) * 4 * BEAT * BAND_RATE) for n in (0, 1))
        for step in range(8 if kind == "s" else 1):
            start = begin + int(step * BEAT / 2 * BAND_RATE)
            t = np.arange(end - start) / BAND_RATE
            fall = 10 ** (-t / 2) * np.where((kind == "c") & (t > CUT), 10 ** (-(t - CUT) / 0.06), 1.0)
            out[start:end] += colour * rng.uniform(0.7, 1.0) * fall[:, None]
            sounds[start:end] += fall > 0.03
    at = (np.arange(int(frames / BAND_RATE * PITCH_RATE)) / PITCH_RATE * BAND_RATE).astype(int)
    sounding = sounds[at] > 0
    heard = once.Heard(
        out,
        once.begins(out),
        np.where(sounding, -1.5, 1.0),
        np.where(sounding, -1.5, 0.0),
        np.log(out[at].mean(1)),
        np.where(sounds[::2] > 0, 0.99, 0.05),
    )
    return heard, [(k * 4 * BEAT, (k + 1) * 4 * BEAT) for k in range(len(bars))]


def chances(heard: once.Heard, spans: list[tuple[float, float]]) -> np.ndarray:
    """(spans, 2) how likely each rings, and is cut short."""
    return net.chances("once", once.features(heard, spans, BEAT))


@settings(deadline=None, max_examples=25)
@given(st.text("sssc", min_size=7, max_size=12).filter(lambda t: t.count("s") >= 5))
def test_bars_that_are_cut_short_are_told_from_others(bars: str) -> None:
    found = chances(*played(bars))[:, 1]
    assert [p >= RINGS_SURE for p in found] == [k == "c" for k in bars], found.round(2)


@settings(deadline=None, max_examples=25)
@given(st.text("sssr", min_size=7, max_size=12).filter(lambda t: "rr" not in t and t.count("s") >= 5))
def test_bars_that_ring_are_told_from_strummed_ones(bars: str) -> None:
    found = chances(*played(bars))[:, 0]
    assert [p >= RINGS_SURE for p in found] == [k == "r" for k in bars], found.round(2)


def test_a_chord_that_rings_is_not_cut_short() -> None:
    rings, cut = chances(*played("ssssrsssscss")).T
    assert cut[9] >= RINGS_SURE > RINGS_MAYBE > cut[4]
    assert rings[4] >= RINGS_SURE > RINGS_MAYBE > rings[9]


def test_short_chords_and_silence_are_not_told() -> None:
    heard, spans = played("sssscs")
    assert np.isnan(once.features(heard, [(a, a + 0.4) for a, _ in spans], BEAT)).all()
    assert np.isnan(once.features(heard, [(100.0, 104.0)], BEAT)).all()
    silent = replace(heard, bands=np.zeros_like(heard.bands), begun=np.zeros(len(heard.bands)))
    assert np.isfinite(chances(silent, spans)).all()
    assert once.features(heard, [], BEAT).shape == (0, once.WIDTH)


def test_what_was_seen_before_is_not_looked_at_again() -> None:
    heard, spans = played("ssscsss")
    known: once.Rows = {}
    first = once.features(heard, spans, BEAT, known)
    assert set(known) == set(spans)
    again = once.features(replace(heard, bands=heard.bands[:0]), spans, BEAT, known)
    assert np.array_equal(first, again)
    once.features(heard, spans[:3], BEAT, known)
    assert set(known) == set(spans[:3]), "what no chart has any more is not kept"


HOW = [
    ("rings", "ring", "held", "ring"),
    ("cut", "cut", "stopped", "stop"),
]  # what is heard, doubted, shown and exported


def sounding(heard: str, *chance: float) -> Song:
    song = song_of("Verse: G C G D", "Chorus: Am F C G")
    spans = [replace(c, **{heard: chance[i] if i < len(chance) else 0.0}) for i, c in enumerate(song.chords)]
    return merged(replace(song, chords=Track(spans)))


@pytest.mark.parametrize(("heard", "kind", "how", "_"), HOW)
def test_what_is_sure_is_shown_and_what_is_likely_is_a_doubt(heard: str, kind: str, how: str, _: str) -> None:
    song = sounding(heard, RINGS_SURE, RINGS_MAYBE, 0.1)
    assert [c.articulation for c in song.chords][:3] == [how, "strummed", "strummed"]
    assert song.sign(0) == {"held": "◊", "stopped": "•"}[how] and song.sign(0) in render(song)
    found = [d for d in doubts(song) if d.kind == kind]
    assert [d.index for d in found] == [1]
    asked = {"ring": "Does C ring here?", "cut": "Is C cut short here?"}[kind]
    assert words(song, found[0])[0] == asked and {"ring": "rings", "cut": "cut short"}[kind] in ways_out(found[0])


@pytest.mark.parametrize("word", ["held", "strummed", "stopped"])
@pytest.mark.parametrize(("heard", "kind"), [h[:2] for h in HOW])
def test_the_users_word_goes_before_what_is_heard(heard: str, kind: str, word: str) -> None:
    song, _ = edits.articulate(sounding(heard, 0.9, 0.5), 0, word)
    song, _ = edits.articulate(song, 1, word)
    assert [c.articulation for c in song.chords][:2] == [word, word]
    assert not [d for d in doubts(song) if d.kind == kind]


@pytest.mark.parametrize(("heard", "_", "how", "value"), HOW)
def test_it_is_kept_in_files_and_under_a_stated_chord(heard: str, _: str, how: str, value: str) -> None:
    song = sounding(heard, 0.93, 0.42)
    again = project.loads(project.dumps(song))
    assert [(c.rings, c.cut) for c in again.chords] == [(c.rings, c.cut) for c in song.chords]
    assert project.dumps(again) == project.dumps(song)
    start, end = song.chord_range(0)
    stated, _words = edits.state_chord(song, start, end, parse_chord("G7"))
    assert stated.chords[0].chord == parse_chord("G7") and stated.chords[0].articulation == how
    rung = [
        a for a in jams.document(song)["annotations"] if a["annotation_metadata"].get("data_source") == "articulation"
    ]
    assert [(r["value"], r["confidence"]) for r in rung[0]["data"]] == [(value, 0.93)]


def test_a_near_count_stands_among_the_doubts() -> None:
    song = sounding("rings")
    found = doubts(song, ("63", 0.4))
    assert found[0].kind == "count" and words(song, found[0])[0].endswith(", or 63")
    assert not [d for d in doubts(song) if d.kind == "count"]
