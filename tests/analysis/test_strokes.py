"""Strokes and the bass as they are heard: slots, swing, claims, and two songs of the station."""

from __future__ import annotations

from fractions import Fraction
from itertools import repeat
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from ychronos.analysis.chains import best_way
from ychronos.analysis.evidence import Evidence
from ychronos.analysis.hands import claims, muted, plucked, strokes
from ychronos.analysis.lines import bassline
from ychronos.song.bassnotes import HIGH, LOW, BassNote, between
from ychronos.song.model import Song
from ychronos.song.strumming import LETTERS, fits

Analysed = tuple[Song, Evidence]


def steady(bars: int = 8, tempo: float = 120.0, swing: float = 0.5) -> strokes.Slots:
    beat = 60 / tempo
    times = [1.0 + k * beat for k in range(4 * bars + 1)]
    return strokes.slots(
        times, [k // 4 for k in range(4 * bars)], [k % 4 for k in range(4 * bars)], [4] * 4 * bars, swing
    )


def struck_bands(found: strokes.Slots, figure: str, seconds: float) -> np.ndarray:
    """Bands in which a figure of sixteenths is struck over and over; at an x it is muted: soft and short, at
    a b only the low ones are."""
    rng = np.random.default_rng(3)
    bands = 0.05 + 0.01 * rng.random((int(seconds * strokes.BAND_RATE), 60))
    for at, index in zip(found.time, found.index, strict=True):
        if figure[index] != "-":
            first = round(at * strokes.BAND_RATE)
            loud, lasts = (1.2, 0.3) if figure[index] == "x" else (4, 0.75)
            for k in range(8):
                bands[first + k, : 20 if figure[index] == "b" else 60] += loud * lasts**k
    return bands.astype(np.float32)


def test_slots_divide_beats_and_swing_moves_the_off_beats() -> None:
    found = steady(1)
    assert len(found.time) == 16 and found.index.tolist() == list(range(16))
    assert np.allclose(np.diff(found.time), 0.125) and found.step[:4].tolist() == [0, 2, 1, 2]
    late = steady(1, swing=0.66)
    assert late.time[2] == pytest.approx(1.0 + 0.33) and late.time[4] == pytest.approx(1.5)
    assert strokes.per_beat(4, False) == 4 and strokes.per_beat(8, True) == 6 and strokes.per_beat(8, False) == 2
    assert [len(strokes.steps(k)) for k in (1, 2, 4, 6)] == [1, 2, 4, 6]


@pytest.mark.parametrize("swing", [0.5, 0.66])
def test_the_swing_of_a_band_is_found(swing: float) -> None:
    found = steady(8, swing=swing)
    bands = struck_bands(found, "x-x-x-x-x-x-x-x-", 18.5)
    rise, _ = strokes.rises(bands)
    times = [1.0 + 0.5 * k for k in range(33)]
    assert strokes.find_swing(rise, times) == pytest.approx(swing, abs=0.03)


def test_what_bars_have_in_common_outweighs_one_of_them() -> None:
    found = steady(8)
    chance = np.where(found.index % 4 == 0, 0.9, 0.1)
    chance[4 * 16 + 4] = 0.3  # one bar in which a stroke is hardly heard
    whole = strokes.together(found, chance, np.zeros(8, int))
    assert whole[4 * 16 + 4] > 0.5 and whole[1] < 0.1
    alone = strokes.together(found, chance, np.arange(8))
    assert alone[4 * 16 + 4] < 0.5


@given(st.lists(st.floats(0, 1), min_size=1, max_size=60))
def test_what_is_hoped_is_a_share(chances: list[float]) -> None:
    value = strokes.hoped(np.array(chances))
    assert 0 <= value <= 1
    if all(c in (0.0, 1.0) for c in chances) and any(chances):
        assert value == pytest.approx(1.0)


def test_figures_of_a_song_fit_its_bars_and_are_never_told_below_the_claim(ferry: Analysed) -> None:
    song, evidence = ferry
    found = strokes.decide(song, evidence)
    assert len(found.bars) == len(found.sure) == len(song.grid.bars)
    for bar, text, sure in zip(song.grid.bars, found.bars, found.sure, strict=True):
        assert text == "" or (fits(text, bar.beats) and set(text) <= set(LETTERS) and sure >= strokes.CLAIM)
    assert not found.hidden & {b for b, text in enumerate(found.bars) if text}
    assert strokes.decide(song, evidence) == found == song.strummed


def test_the_bass_of_a_song_is_in_order_in_range_and_mostly_of_its_chords(ferry: Analysed) -> None:
    song, evidence = ferry
    found = bassline.find(song, evidence)
    assert len(found) > 60 and tuple(found) == song.bassline
    assert all(a.at < b.at for a, b in zip(found, found[1:], strict=False))
    assert all(LOW <= n.note <= HIGH and n.length > 0 and 0 <= n.sure <= 1 for n in found)
    inside = [
        n.note % 12 in song.chords[song.chord_index(Fraction(song.grid.position(n.at + 0.03)))].chord.pitch_classes
        for n in found
    ]
    assert np.mean(inside) > 0.8


def test_a_record_is_deep_where_it_sounds_low_for_most_of_the_time() -> None:
    bands = np.full((400, 60), 0.02, np.float16)
    bands[:, 8:20] = 1.0  # a guitar
    assert bassline.deep(bands) < 0.05
    kicked = bands.copy()
    kicked[::25, :3] = 2.0  # a drum, for a moment each
    assert bassline.deep(kicked) < 0.05
    kicked[:, 1] = 0.6
    assert bassline.deep(kicked) > 0.95
    assert bassline.deep(np.zeros((400, 60), np.float16)) == 0.0


def test_under_unfamiliar_bands_a_deep_record_has_its_bass(ferry: Analysed, monkeypatch: pytest.MonkeyPatch) -> None:
    song, evidence = ferry
    real = bassline.onset_features

    def of_another_kind(*args: Any) -> np.ndarray:
        rows = real(*args)
        rows[:, -len(bassline.USUAL) :] = (
            0.3,
            0.4,
            1.4,
            0.73,
            0.0,
        )  # on the whole, as no song was that it learned from
        return rows

    monkeypatch.setattr(bassline, "onset_features", of_another_kind)
    usual, found = len(song.bassline), len(bassline.find(song, evidence))
    monkeypatch.setattr(bassline, "deep", lambda _: 0.0)
    assert len(bassline.find(song, evidence)) < 0.5 * usual < 0.8 * usual < found


def test_notes_of_the_bass_follow_the_best_path() -> None:
    local = np.full((3, bassline.NOTES), -5.0)
    local[0, 5] = local[1, 6] = local[2, 5] = 0.0
    local[1, 20] = 0.4  # a little likelier, but far away
    steps = -0.1 * np.abs(np.arange(bassline.NOTES)[:, None] - np.arange(bassline.NOTES)[None])
    assert best_way(local, repeat(steps)).tolist() == [5, 6, 5]
    assert best_way(np.zeros((0, bassline.NOTES)), repeat(steps)).tolist() == []
    with pytest.raises(ValueError, match="no bass"):
        BassNote(0.0, 1.0, 99)
    notes = [BassNote(t, 0.5, 30) for t in (0.5, 1.0, 1.5)]
    assert [n.at for n in between(notes, 1.0, 1.5)] == [1.0]


def eighths(bars: int = 4, slots: str = "1010101010101010") -> tuple[strokes.Slots, np.ndarray]:
    """Slots of bars in four, and which are struck."""
    times = [0.5 * k for k in range(4 * bars + 1)]
    found = strokes.slots(
        times, [k // 4 for k in range(4 * bars)], [k % 4 for k in range(4 * bars)], [4] * (4 * bars), 0.5
    )
    return found, np.flatnonzero(np.array([x == "1" for x in slots * bars]))


@given(st.floats(0.25, 0.75), st.floats(0.02, 0.4))
def test_the_hand_swings_in_eighths_where_little_is_heard(off: float, on: float) -> None:
    found, struck = eighths()
    up = np.where(found.step[struck] == 0, on, off)
    assert (strokes.swung(found, struck, up) >= 0.5).tolist() == (found.step[struck] == 1).tolist()


def test_in_sixteenths_where_those_are_struck() -> None:
    found, struck = eighths(slots="1011101110111011")
    up = np.full(len(struck), 0.45)
    assert (strokes.swung(found, struck, up) >= 0.5).tolist() == (found.step[struck] == 2).tolist()


def test_what_is_heard_plainly_goes_before_the_swing() -> None:
    found, struck = eighths()
    down = np.full(len(struck), 0.02)
    assert (strokes.swung(found, struck, down) < 0.5).all(), "down, down, down"
    six = strokes.slots([0.0, 0.75, 1.5], [0, 0], [0, 1], [6, 6], 0.5)
    some = np.array([0, 2, 4, 6, 8])
    up = np.array([0.2, 0.7, 0.4, 0.3, 0.6])
    assert strokes.swung(six, some, up) is up, "where the hand may go either way it is heard"
    assert len(strokes.swung(found, np.zeros(0, int), np.zeros(0))) == 0


@pytest.mark.parametrize("where", (2, 6, 8, 10, 14))
def test_a_muted_place_falls_faster_than_the_others_and_is_told_in_all_bars_alike(
    where: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    figure = "".join("x" if k == where else "D" if k % 2 == 0 else "-" for k in range(16))
    found = steady(bars=6)
    heard = strokes.rises(struck_bands(found, figure, 16.0))
    said = np.flatnonzero([figure[k] != "-" for k in found.index])
    sure = np.full(len(said), 0.9)
    times, index, step = found.time[said], found.index[said], found.step[said]
    places, rows = muted.features(heard, times, index, step, sure, sure)
    assert rows.shape == (8, 33) and np.isfinite(rows).all()
    fall = rows[:, : muted.COARSE].mean(1)
    assert places[int(fall.argmax())] == where
    plain = muted.muted(heard, times, index, step, sure, sure)
    assert all(plain[index == k].all() or not plain[index == k].any() for k in places), "a place is one in all bars"
    monkeypatch.setattr(muted.net, "chances", lambda name, x: np.where(x[:, :1] == rows[:, 0].max(), 0.9, 0.1))
    told = muted.muted(heard, times, index, step, sure, sure)
    assert set(index[told].tolist()) == {where} and told.sum() == (index == where).sum()
    assert not muted.muted(heard, times[:1], index[:1], step[:1], sure[:1], sure[:1]).any()


def test_a_stroke_that_is_muted_is_written_so_where_it_is_struck() -> None:
    assert [strokes._letter(c, 0.2, 0.9, d) for c, d in ((0.9, True), (0.9, False), (0.2, True))] == ["x", "u", "-"]


def test_a_section_with_hardly_a_stroke_is_not_told() -> None:
    rows = np.zeros((16, 80))
    few = np.zeros(16, bool)
    few[:3] = True
    heard = (np.full(16, 0.3),) * 3
    assert claims.features(rows, np.full(16, 0.3), few, heard) is None and claims.strums(None) == 0.0
    every = claims.features(rows, np.full(16, 0.9), np.ones(16, bool), heard)
    assert every is not None and np.isfinite(every).all()


def test_a_place_where_only_the_bass_is_plucked_is_no_stroke() -> None:
    found = steady(12)
    figure = "b---D---b---D-u-"
    said = np.flatnonzero([figure[k] != "-" for k in found.index])
    heard = strokes.rises(struck_bands(found, figure, 26.0))
    rows = strokes.features(heard, found, np.zeros(12, int), [])[said]
    sure = np.full(len(said), 0.9), np.full(len(said), 0.5), np.full(len(said), 0.3)
    where = found.index[said]
    none, bass = plucked.plucked(heard, found.time[said], where, sure, found.step[said], rows)
    assert not none[(where != 0) & (where != 8)].any()
    assert none[where == 8].all() and np.array_equal(none, bass)
    places, seen = plucked.features(heard, found.time[said], where, sure, found.step[said], rows)
    assert places.tolist() == [0, 4, 8, 12, 14] and seen.shape == (5, plucked.WIDTH)
    chance = plucked.net.chances("plucked", seen)[:, 0]
    assert min(chance[0], chance[2]) > max(chance[1], chance[3], chance[4])
    alone = plucked.plucked(
        heard, found.time[said[:1]], where[:1], tuple(s[:1] for s in sure), found.step[said[:1]], rows[:1]
    )
    assert not alone[0].any() and not alone[1].any()


def test_all_of_a_section_are_never_left_out(monkeypatch: pytest.MonkeyPatch) -> None:
    found = steady(8)
    heard = strokes.rises(struck_bands(found, "x-x-x-x-x-x-x-x-", 18.5))
    said = np.flatnonzero(found.index % 2 == 0)
    rows = strokes.features(heard, found, np.zeros(8, int), [])[said]
    monkeypatch.setattr(plucked.net, "chances", lambda name, x: np.ones((len(x), 3)))
    sure = np.full(len(said), 0.9), np.full(len(said), 0.5), np.full(len(said), 0.3)
    none, bass = plucked.plucked(heard, found.time[said], found.index[said], sure, found.step[said], rows)
    assert not none.any() and not bass.any()
