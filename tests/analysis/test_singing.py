"""Whether somebody sings: the net against PyTorch's, stretches by value, and what is told of them."""

from __future__ import annotations

import json
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.song.test_passes import song_of
from ychronos.analysis import net, singing
from ychronos.analysis.singing import RATE, stretches
from ychronos.chart.gestures import voiced
from ychronos.chart.lines import lines
from ychronos.formats import jams, project
from ychronos.formats.textchart import render
from ychronos.song import edits
from ychronos.song.model import Song
from ychronos.song.sung import nobody_sings, share, somebody, sung_stretches

STORED = Path(__file__).with_name("nets.npz")


def test_the_net_gives_what_it_gave_when_it_learned() -> None:
    stored = np.load(STORED)
    expected = net.sigmoid(stored["singing"].astype(np.float32))
    assert np.abs(singing.run(stored["bands"].astype(np.float32)) - expected).max() < 0.01


def test_long_songs_are_looked_at_in_parts_that_do_not_show(monkeypatch: pytest.MonkeyPatch) -> None:
    bands = np.random.default_rng(3).random((1501, singing.BANDS)).astype(np.float32) ** 4
    whole = singing.run(bands)
    monkeypatch.setattr(singing, "PART", 400)
    assert whole.shape == (750, 2)
    assert singing.run(bands) == pytest.approx(whole, abs=1e-4)


@pytest.mark.parametrize("frames", [0, 1, 2, 3])
def test_hardly_any_sound_is_no_song(frames: int) -> None:
    chance = singing.run(np.zeros((frames, singing.BANDS), np.float32))
    assert chance.shape == (frames // 2, 2) and stretches(chance[:, 0]) == ()


def test_no_chord_where_nobody_but_a_singer_plays() -> None:
    chord = net.log_softmax(np.array([[2.0, 0.0, 1.0]] * 40, np.float32))
    plays = np.where(np.arange(100) < 50, 0.99, 0.01).astype(np.float32)
    heard = singing.hushed(chord, 10.0, plays)
    assert heard[:15] == pytest.approx(chord[:15], abs=1e-5), "what a band plays stays as it was"
    assert (heard[25:].argmax(1) == 2).all() and np.exp(heard).sum(1) == pytest.approx(np.ones(40), abs=1e-4)
    assert singing.hushed(chord, 10.0, plays[:0]) is chord


@pytest.mark.parametrize(("sounding", "play"), [(3, True), (1, False), (0, False)])
def test_a_voice_alone_sings_one_note_at_a_time(sounding: int, play: bool) -> None:
    says_nobody = np.full(100, 0.02, np.float32)
    notes = np.full((40, 12), -5.0, np.float32)
    notes[:, [0, 4, 7][:sounding]] = 6.0
    heard = singing.others(says_nobody, notes, 10.0)
    assert (
        heard.shape == (100,)
        and bool((heard[10:-10] > 0.5).all()) is play
        and bool((heard[10:-10] < 0.5).all()) is not play
    )
    assert len(singing.others(says_nobody[:0], notes, 10.0)) == 0


def test_who_plays_one_note_at_a_time_plays() -> None:
    notes = np.full((40, 12), -5.0, np.float32)
    notes[:, 0] = 6.0
    assert (singing.others(np.full(100, 0.998, np.float32), notes, 10.0)[10:-10] > 0.5).all()


def test_breaths_are_bridged_and_cries_left_out() -> None:
    sings = np.zeros(60 * RATE, np.float32)
    for a, b in ((10.0, 14.0), (14.6, 20.0), (30.0, 30.3), (40.0, 45.0)):
        sings[int(a * RATE) : int(b * RATE)] = 0.95
    found = stretches(sings)
    assert [(round(a), round(b)) for a, b in found] == [(10, 20), (40, 45)]


@given(st.integers(0, 400), st.integers(0, 99))
def test_stretches_follow_one_another_within_the_song(count: int, seed: int) -> None:
    found = stretches(np.random.default_rng(seed).random(count).astype(np.float32) ** 0.3)
    edges = [x for pair in found for x in pair]
    assert edges == sorted(edges) and all(0 <= x <= count / RATE for x in edges)


def sung(song: Song, *sections: int) -> Song:
    """Somebody sings in these sections, from end to end."""
    spans = [tuple(song.grid.clock(p) for p in song.section_range(i)) for i in sections]
    return replace(song, sung=tuple((a, b) for a, b in spans), recording=replace(song.recording, duration=200.0))


def test_a_section_without_its_singer_is_told() -> None:
    parts = (
        "Intro: G C G C",
        "Verse: Am D Am D G G C C",
        "Verse: Am D Am D G G C C",
        "Verse: Am D Am D G G C C",
        "Tag: G C G C",
    )
    song = sung(song_of(*parts), 1, 3)
    assert somebody(song) and share(song, 1) == pytest.approx(1.0) and nobody_sings(song, 2)
    assert voiced(song, (2,)) == ["nobody sings"]
    assert voiced(song, (1, 2, 3)) == ["nobody sings the 2nd time"]
    assert voiced(song, (0,)) == [] == voiced(song, (4,)), "an intro hardly ever has a singer"
    assert "nobody sings the 2nd time" in render(song)
    flat = [line.gestures for line in lines(song, folded=False) if line.gestures]
    assert sum("nobody sings" in told for told in flat) == 1


def test_a_song_without_a_singer_is_not_told_of() -> None:
    song = song_of("Intro: G C G C", "Verse: Am D Am D", "Verse: Am D Am D")
    assert not somebody(song) and voiced(song, (1,)) == []


def test_what_is_said_goes_before_what_was_heard() -> None:
    song = sung(song_of("Intro: G C G C", "Verse: Am D Am D", "Chorus: C F C G", "Tag: G C G C"), 1)
    said, words = edits.state_sung(song, 2, True)
    assert words.startswith("somebody sings in “Chorus”") and share(said, 2) == 1.0 and voiced(said, (2,)) == []
    mute, _ = edits.state_sung(song, 0, False)
    assert voiced(mute, (0,)) == ["nobody sings"], "an intro too, if that was said"
    assert project.loads(project.dumps(mute)).statements == mute.statements


def test_who_says_where_somebody_sings_does_not_say_that_nobody_sings_elsewhere() -> None:
    song = song_of("Intro: G C G C", "Verse: Am D Am D", "Chorus: C F C G", "Tag: G C G C")
    said, _ = edits.state_sung(song, 1, True)
    assert somebody(said) and voiced(said, (2,)) == []
    both, _ = edits.state_sung(said, 2, False)
    assert voiced(both, (2,)) == ["nobody sings"]
    denied, _ = edits.state_sung(sung(song, 1), 1, False)
    assert not somebody(denied) and voiced(denied, (2,)) == []


@given(st.lists(st.tuples(st.integers(0, 3), st.booleans()), max_size=5))
def test_what_is_drawn_as_sung_is_what_was_said_or_heard(words: list[tuple[int, bool]]) -> None:
    song = sung(song_of("Intro: G C G C", "Verse: Am D Am D", "Chorus: C F C G", "Tag: G C G C"), 1, 2)
    last: dict[int, bool] = {}
    for index, sings in words:
        song, _ = edits.state_sung(song, index, sings)
        last[index] = sings
    drawn = sung_stretches(song)
    assert all(b <= c + 1e-9 for (_, b, _), (c, _, _) in pairwise(drawn))
    for i in range(4):
        a, b = (song.grid.clock(p) for p in song.section_range(i))
        inside = sum(max(0.0, min(b, y) - max(a, x)) for x, y, _ in drawn) / (b - a)
        assert inside == pytest.approx(float(last.get(i, i in (1, 2))), abs=1e-6)


def test_it_is_kept_and_handed_over() -> None:
    song = sung(song_of("Intro: G C G C", "Verse: Am D Am D"), 1)
    assert project.loads(project.dumps(song)).sung == tuple((round(a, 2), round(b, 2)) for a, b in song.sung)
    rows = next(
        a
        for a in json.loads(jams.dumps(song))["annotations"]
        if a["sandbox"].get("source") == "singing" or "singing" in json.dumps(a)
    )
    assert len(rows["data"]) == 1 and rows["data"][0]["value"] == "voice"


@pytest.mark.parametrize("value", [[[3, 2]], [[-1, 2]], [[1, 5], [4, 6]], [["a", 2]], [[1]], "x"])
def test_damaged_stretches_are_refused(value: object) -> None:
    plain = json.loads(project.dumps(song_of("Verse: G C G D")))
    plain["sung"] = value
    with pytest.raises(project.ProjectError):
        project.loads(json.dumps(plain))
