"""What speaks for a count besides the nets: chords that change on its beats, beats that sound alike."""

from __future__ import annotations

from dataclasses import replace
from types import SimpleNamespace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.analysis.test_parts import harmony_evidence, pulse_evidence
from ychronos.analysis import attacks, spectra
from ychronos.analysis.beats import bars, beginning, count, dividing, fitting, recount, rivals
from ychronos.analysis.beats.pulsenet import METERS
from ychronos.analysis.chords import chordnet
from ychronos.theory.meter import Meter

EIGHTH = 0.36  # seconds
DOTTED, QUARTER = 3 * EIGHTH, 2 * EIGHTH
FIRST = 0.72


def changing(every: float, number: int) -> bars.ChordChanges:
    """Chords that change every so many seconds from FIRST on, four in turn."""
    frames = int((FIRST + every * number) * spectra.PITCH_RATE)
    whole = harmony_evidence(["C", "F", "Am", "G"], 1)
    at = np.floor((np.arange(frames) / spectra.PITCH_RATE - FIRST) / every).astype(int) % 4
    return bars.ChordChanges(chordnet.HarmonyEvidence(whole.chord[at], whole.bass[at], whole.notes[at]))


def struck(times: np.ndarray, seconds: float, loud: np.ndarray) -> np.ndarray:
    """Bands in which something begins at times and dies away."""
    out = np.full((int(seconds * spectra.BAND_RATE), spectra.BANDS), 0.01)
    for t, level in zip(times, loud, strict=True):
        k = int(round(t * spectra.BAND_RATE))
        tail = np.exp(-np.arange(min(20, len(out) - k)) / 5)
        out[k : k + len(tail)] += level * tail[:, None]
    return out.astype(np.float32)


def test_moments_are_when_chords_change() -> None:
    at, much = changing(DOTTED, 24).moments
    true = FIRST + DOTTED * np.arange(24)
    assert len(at) == pytest.approx(24, abs=1)
    assert np.abs(at[:, None] - true[None]).min(1).max() < 1 / spectra.PITCH_RATE and much.min() > bars.CHANGED


def test_chords_that_change_on_dotted_beats_speak_against_quarters() -> None:
    changes = changing(DOTTED, 24)
    seconds = DOTTED * 24
    right = FIRST + np.arange(0, seconds, DOTTED)
    wrong = FIRST + np.arange(0, seconds, QUARTER)
    assert fitting.changes_on(changes, right) > 0.95
    assert fitting.changes_on(changes, wrong) < 0.55, "every second change falls between"
    assert fitting.changes_on(changes, right + EIGHTH / 2) < 0, "less than by chance"
    assert fitting.changes_on(changing(DOTTED, 2), right) == 0, "two changes say nothing"


def test_beats_are_alike_after_what_comes_again() -> None:
    """A figure of six eighths: two dotted beats later everything is the same, two quarters later little is."""
    times = FIRST + EIGHTH * np.arange(240)
    loud = np.tile([1.0, 0.0, 0.4, 0.7, 0.0, 0.5], 40)
    begun = attacks.onsets(struck(times, times[-1] + 2, loud))
    one, two, four = fitting.alike(begun, FIRST + DOTTED * np.arange(79))
    quarters = fitting.alike(begun, FIRST + QUARTER * np.arange(119))
    assert two > 0.97 and four > 0.97 and one > 0.6
    assert max(quarters) < one, "and neither is a beat, two or four of them"


@given(st.floats(0.01, 50.0), st.integers(0, 3))
def test_onsets_do_not_depend_on_how_loud_the_record_is(gain: float, seed: int) -> None:
    rng = np.random.default_rng(seed)
    bands = struck(np.sort(rng.uniform(1, 19, 40)), 20, rng.uniform(0.3, 1, 40))
    assert attacks.onsets(gain * bands) == pytest.approx(attacks.onsets(bands), abs=1e-3)


def test_onsets_of_hours_are_those_of_minutes(monkeypatch: pytest.MonkeyPatch) -> None:
    bands = struck(1 + 0.5 * np.arange(40), 25, np.ones(40))
    whole = attacks.onsets(bands)
    monkeypatch.setattr(attacks, "AT_ONCE", 97)
    assert attacks.onsets(bands) == pytest.approx(whole, abs=1e-5)
    quiet = attacks.onsets(np.zeros((50, spectra.BANDS)))
    assert np.isfinite(quiet).all() and fitting.alike(quiet, np.arange(3) * 0.3) == [0.0, 0.0, 0.0]


def test_changes_and_likeness_choose_between_two_counts() -> None:
    """Beats that the nets hear as well in quarters as in dotted quarters: what changes and comes again decides."""
    seconds = DOTTED * 60
    dotted, quarters = (FIRST + np.arange(0, seconds, g) for g in (DOTTED, QUARTER))
    both = np.unique(np.round(np.concatenate([dotted, quarters]), 4))
    evidence = pulse_evidence(both, 6, FIRST + seconds + 2)
    changes = changing(DOTTED, 60)
    eighths = FIRST + EIGHTH * np.arange(180)
    begun = attacks.onsets(struck(eighths, FIRST + seconds + 2, np.tile([1.0, 0.0, 0.4, 0.7, 0.0, 0.5], 30)))
    with_begun = replace(evidence, begun=begun)
    gains = []
    for times in (dotted, quarters):
        decided = bars.decide(evidence, times, changes)
        plain = count.features(evidence, times, decided)
        heard = count.features(with_begun, times, decided, changes)
        assert plain[:6] == pytest.approx(heard[:6]) and not plain[6:].any()
        gains.append(float((heard - plain) @ np.array(count.WEIGHTS)))
    assert gains[0] > gains[1] + 3


DIVIDED = {  # how hard each place of two beats is struck
    "twelve eighths": (1, 0.5, 0.6) * 2,
    "swung fours": (1, 0, 0, 1, 0, 0.6),
    "straight eighths": (1, 0.6) * 2,
    "sixteenths": (1, 0.4, 0.6, 0.4) * 2,
}


def divided(kind: str, times: np.ndarray, end: float) -> np.ndarray:
    """Bands in which an even number of beats are struck as one kind of music divides them."""
    hard = np.tile(DIVIDED[kind], len(times) // 2)
    at = times[0] + (times[1] - times[0]) * len(times) / len(hard) * np.arange(len(hard))
    return struck(at[hard > 0], end, hard[hard > 0])


@pytest.mark.parametrize("kind", DIVIDED)
def test_beats_divide_in_three_where_somebody_plays_a_third_after_them(kind: str) -> None:
    times = FIRST + 0.5 * np.arange(96)
    begun = attacks.onsets(divided(kind, times, times[-1] + 2))
    odds = dividing.in_threes(begun, times)
    assert len(odds) == 95
    assert (odds > 2).all() if kind == "twelve eighths" else (odds < -1).all()


def test_the_songs_of_a_tape_divide_their_beats_each_in_its_own_way() -> None:
    times = FIRST + 0.5 * np.arange(600)
    half = times[300]
    bands = divided("twelve eighths", times[:300], times[-1] + 2) + divided(
        "straight eighths", times[300:], times[-1] + 2
    )
    odds = dividing.in_threes(attacks.onsets(bands), times)
    assert (odds[times[:-1] < half - 40] > 2).all() and (odds[times[:-1] > half + 40] < -2).all()


@given(st.integers(2, 400), st.integers(0, 3))
def test_how_beats_divide_is_told_of_every_beat_however_few(beats: int, seed: int) -> None:
    rng = np.random.default_rng(seed)
    begun = attacks.onsets(rng.random((300, spectra.BANDS)))
    odds = dividing.in_threes(begun, np.sort(rng.uniform(0, 7, beats)))
    assert odds.shape == (beats - 1,) and np.abs(odds).max() <= dividing.MOST_SURE


@pytest.mark.parametrize("kind", ["twelve eighths", "swung fours"])
def test_a_meter_is_what_its_beats_divide_into_though_the_nets_are_not_sure(kind: str) -> None:
    """The nets hear threes a little better than twos: what is struck between the beats decides, after a statement as before."""
    times = FIRST + 0.5 * np.arange(96)
    heard = pulse_evidence(times, 4, times[-1] + 2)
    meter = np.full_like(heard.meter, -6.0)
    meter[:, bars.meter_index(Meter(4))], meter[:, bars.meter_index(Meter(12, 8))] = -1.1, -0.5
    unsure = replace(heard, meter=meter)
    expected = Meter(12, 8) if kind == "twelve eighths" else Meter(4)
    sure = replace(unsure, begun=attacks.onsets(divided(kind, times, times[-1] + 2)))
    of = [recount.grid_of(bars.of_song(e, times), times, times[-1] + 0.5).usual_meter() for e in (unsure, sure)]
    assert of == [Meter(12, 8), expected]
    said = bars.decide(sure, times, fixed=bars.Fixed(ones=frozenset({8})))
    assert recount.grid_of(said, times, times[-1] + 0.5).usual_meter() == expected
    part = sure.between(500, 2000)
    assert part.begun is not None and len(part.begun) == len(part.beat) == 1500 and unsure.between(0, 9).begun is None


def test_a_swing_that_could_be_twelve_eighths_is_another_count_with_the_same_bars() -> None:
    times = FIRST + 0.5 * np.arange(97)
    heard = pulse_evidence(times, 4, times[-1] + 2)
    meter = np.full_like(heard.meter, -6.0)
    meter[:, bars.meter_index(Meter(4))], meter[:, bars.meter_index(Meter(12, 8))] = -1.1, -0.9
    swings = attacks.onsets(divided("swung fours", times[:96], times[-1] + 2))
    evidence = SimpleNamespace(pulse=replace(heard, meter=meter, begun=swings))
    grid = recount.grid_of(bars.of_song(evidence.pulse, times[:-1]), times[:-1], times[-1])
    assert grid.usual_meter() == Meter(4)
    found = next(r for r in rivals._on_these_beats(evidence, None, grid) if r.words == "in 12/8")
    assert found.grid.starts == grid.starts and found.grid.usual_meter() == Meter(12, 8)
    assert not rivals.same_ones(grid, found.grid), "so that what else it could be is asked anew"
    back = next(r for r in rivals._on_these_beats(evidence, None, found.grid) if r.words == "in 4/4")
    assert back.share > found.share
    straight = attacks.onsets(divided("sixteenths", times[:96], times[-1] + 2))
    plain = SimpleNamespace(pulse=replace(heard, meter=meter, begun=straight))
    assert not [r for r in rivals._on_these_beats(plain, None, grid) if r.words == "in 12/8" and r.share > found.share]


def test_changes_fall_on_bar_lines_and_in_the_middle_of_bars() -> None:
    beat = 0.4
    times, four = FIRST + beat * np.arange(96), np.tile(np.arange(1, 5), 24)
    assert fitting.changes_in_bars(changing(4 * beat, 24), times, four) == pytest.approx((1, 0), abs=0.06)
    assert fitting.changes_in_bars(changing(2 * beat, 48), times, four) == pytest.approx((0.5, 0.5), abs=0.06)
    assert fitting.changes_in_bars(changing(4 * beat, 24), times[::2], four[:48]) == pytest.approx((0.5, 0.5), abs=0.06), "half as fast"  # fmt: skip
    three = np.tile(np.arange(1, 4), 32)
    assert fitting.changes_in_bars(changing(3 * beat, 32), times, three) == pytest.approx((1, 0), abs=0.06)
    assert fitting.changes_in_bars(changing(3 * beat, 2), times, three) == (0, 0), "two changes say nothing"


@pytest.mark.parametrize("beats_a_chord", [4, 8])
def test_where_bar_lines_are_unclear_no_count_wins_because_it_has_fewer(beats_a_chord: int) -> None:
    """A fast band whose ones nobody hears: strokes on every beat at 186, as many on each; where chords change tells its speed."""
    beat = 0.322
    times = FIRST + beat * np.arange(256)
    heard = pulse_evidence(times, 4, times[-1] + 2)
    slow = pulse_evidence(times[::2], 4, times[-1] + 2)
    period = np.maximum(heard.period, slow.period)
    evidence = replace(heard, beat=0.75 * heard.beat, bar=np.full_like(heard.bar, 0.05), period=period)
    weighed = count.weigh(evidence, changing(beats_a_chord * beat, 256 // beats_a_chord))
    fast = [count.tempo_of(t) > 150 for t in weighed.times]
    assert weighed.bars[fast.index(True)].score < weighed.bars[fast.index(False)].score < 0, (
        "by bar lines alone the slow one"
    )
    assert fast[0] == (beats_a_chord == 4)


def test_a_band_that_comes_in_after_every_beat_is_not_counted_on_the_off_beat() -> None:
    """All chords change half a beat after the bar line, as the comping does, while the beats themselves are heard plainly."""
    beat, bar = 0.6, 5
    times = FIRST - beat / 2 + beat * np.arange(200)
    end = times[-1] + 2
    plainly = pulse_evidence(times, bar, end)
    evidence = replace(plainly, bar=np.full_like(plainly.bar, 0.05))
    changes = changing(bar * beat, 40)  # from half a beat after the first one on
    weighed = count.weigh(evidence, changes)
    assert fitting.changes_on(changes, times[::bar] + beat / 2) > 0.9 > 0 > fitting.changes_on(changes, times)
    assert count.missed(evidence.beat, times) == 0 < count.missed(evidence.beat, times + beat / 2)
    speed = [t for t in weighed.times if count.tempo_of(t) == pytest.approx(60 / beat, rel=0.02)]
    assert len(speed) > 1 and np.abs(speed[0][:, None] - times[None]).min(1).max() < 0.05
    assert any(
        np.abs(t - t[0] - (times[: len(t)] - times[0])).max() < 0.1 and np.abs(t[3] - times).min() > 0.2 for t in speed
    ), "too"


def test_off_beats_that_are_only_a_little_plainer_than_beats_cost_nothing() -> None:
    """In a skank the off-beats are louder than the beats, and yet the beats are counted."""
    times = FIRST + 0.5 * np.arange(120)
    on, off = (pulse_evidence(t, 4, times[-1] + 2).beat for t in (times, times + 0.25))
    skank = np.maximum(0.45 * on, 0.75 * off)
    assert count.missed(skank, times) == 0 == count.missed(skank, times + 0.25)
    assert count.missed(np.maximum(0.05 * on, 0.95 * off), times) > 1


@pytest.mark.parametrize(("beats", "plain", "counted"), [(5, 0.5, 4), (7, 0.55, 4), (5, 0.7, 5), (7, 0.75, 7)])
def test_a_candidate_in_five_or_seven_must_be_heard_better_than_one_in_four(
    beats: int, plain: float, counted: int
) -> None:
    times = FIRST + 0.5 * np.arange(140)
    heard = pulse_evidence(times, 4, times[-1] + 2)
    bar = np.full_like(heard.bar, 0.05)
    for i, frame in enumerate(np.round(times * spectra.BAND_RATE).astype(int)):
        bar[frame - 1 : frame + 2] = plain if i % beats == 0 else 0.42 if i % 4 == 0 else 0.1
    (decided,) = bars.decide_all(replace(heard, bar=bar, meter=np.full_like(heard.meter, -2.5)), [times])
    assert METERS[decided.usual_meter] == (counted, False, False)


def test_how_usual_a_meter_is_tells_little_where_its_bar_lines_are_not_heard() -> None:
    times = FIRST + 0.5 * np.arange(140)
    evidence = pulse_evidence(times, 7, times[-1] + 2, METERS.index((7, False, False)))
    (clear,) = bars.decide_all(evidence, [times])
    assert METERS[clear.usual_meter] == (7, False, False) and clear.score > 0
    told = [count.features(evidence, times, b)[5] for b in (clear, replace(clear, score=-5.0))]
    assert told == [count.COMMON[clear.usual_meter], count.UNCLEAR] and told[0] < told[1] < 0


def test_a_count_in_eighths_whose_bars_nobody_hears_has_fallen_apart() -> None:
    times = FIRST + 0.2 * np.arange(220)
    evidence = pulse_evidence(times, 11, times[-1] + 2)
    (clear,) = bars.decide_all(evidence, [times])
    (unclear,) = bars.decide_all(replace(evidence, bar=np.full_like(evidence.bar, 0.05)), [times])
    assert METERS[clear.usual_meter] == (11, False, True) and METERS[unclear.usual_meter][2]
    assert count.against(evidence, times, clear) == 0 < count.UNHEARD_EIGHTHS == count.against(evidence, times, unclear)
    slower = FIRST + 0.37 * np.arange(120)  # as likely quarters of which nobody hears the ones
    assert count.against(pulse_evidence(slower, 4, slower[-1] + 2), slower, replace(unclear, score=-20.0)) == 0
    assert count.features(evidence, slower, replace(unclear, score=-20.0))[5] == count.UNCLEAR
    (steady,) = bars.decide_all(pulse_evidence(times[::3], 4, times[-1] + 2), [times[::3]])
    assert count.against(evidence, times, replace(steady, score=-20.0)) == 0


@given(st.floats(0.02, 0.05), st.floats(0.35, 1.0))
def test_a_record_that_begins_on_its_first_beat_has_that_beat(start: float, beat: float) -> None:
    times = start + beat * np.arange(40)
    heard = pulse_evidence(times, 4, times[-1] + 2)
    at_once = np.arange(len(heard.beat)) < 6
    faint = replace(heard, beat=np.where(at_once, 0.4 * heard.beat, heard.beat))
    begun = beginning.from_the_start(times[1:], faint, np.arange(len(at_once)) > 1)
    assert abs(begun[0] - start) < 0.03 and (begun[1:] == times[1:]).all()
    silence = np.arange(len(at_once)) > 9
    assert (beginning.from_the_start(times[1:], heard, silence) == times[1:]).all(), "nobody plays there"
    later = times + 1.5 * beat
    assert (beginning.from_the_start(later, heard) == later).all(), "that beat was before the record, or well into it"


@given(st.integers(0, 9), st.booleans())
def test_beats_before_anybody_strikes_are_no_pick_up(early: int, rests: bool) -> None:
    """In a crowd before the music beats are heard that would come before it; a pick-up is struck, and one may rest in a bar."""
    times = 1.0 + 0.5 * np.arange(48)
    heard = pulse_evidence(times, 4, times[-1] + 2, offset=early % 4)
    decided = bars.of_song(heard, times)
    assert (decided.position == (np.arange(48) - early) % 4 + 1).all()
    begun = np.full((len(heard.beat), 6), -0.3, np.float32)
    for at in np.round(times[early + rests :] * spectra.BAND_RATE).astype(int):
        begun[at - 1 : at + 2] = 3.0
    kept, its = beginning.first_bar(replace(heard, begun=begun), times, decided)
    assert kept[0] == times[early] and its.position[0] == 1 and len(its.position) == len(its.one) == len(kept)
    at_once = replace(heard, begun=begun), times - times[0], decided
    assert beginning.first_bar(*at_once)[0] is at_once[1], "what begins with the record cannot be seen to rise"


def test_a_pick_up_that_is_struck_stays() -> None:
    times = 1.0 + 0.5 * np.arange(48)
    heard = pulse_evidence(times, 4, times[-1] + 2, offset=2)
    begun = np.full((len(heard.beat), 6), -0.3, np.float32)
    for at in np.round(times[1:] * spectra.BAND_RATE).astype(int):
        begun[at - 1 : at + 2] = 3.0
    kept, its = beginning.first_bar(replace(heard, begun=begun), times, bars.of_song(heard, times))
    assert kept[0] == times[1] and its.position[:3].tolist() == [4, 1, 2]


@pytest.mark.parametrize("missing", [1, 2, 3, 4, 5])
def test_a_record_cut_on_a_bar_line_is_counted_from_its_beginning_if_somebody_plays_there(missing: int) -> None:
    times = 0.5 * np.arange(40)
    later = times[missing:]
    heard = pulse_evidence(later, 4, times[-1] + 2)
    plays = np.ones(len(heard.beat), bool)
    found = beginning.from_the_start(later, heard, plays)
    assert found == pytest.approx(times if missing <= beginning.MOST_BEFORE else later)
    silence = plays & (np.arange(len(plays)) > 12)
    assert beginning.from_the_start(later, heard, silence) == pytest.approx(later), "silence before it"
    assert beginning.from_the_start(later + 0.04, heard, plays) == pytest.approx(later + 0.04), (
        "it comes there by chance"
    )
    short = np.arange(len(plays)) % 25 < 8  # strokes with nothing between them
    beside = np.append(later[:1] + 0.03, later[1:])  # one beat says little of where the record begins
    if missing <= beginning.MOST_BEFORE:
        assert beginning.from_the_start(beside, heard, short)[:missing] == pytest.approx(times[:missing], abs=0.03)
    if missing <= beginning.MOST_BEFORE:
        assert any(t[:2] == pytest.approx(times[:2], abs=0.02) for t in count.possible(heard, plays))
        assert not any(t[0] < 0.1 for t in count.possible(heard, silence))


@pytest.mark.parametrize("begins", [0, 1])
def test_beats_found_again_keep_the_first_one_of_a_record_that_begins_at_once(begins: int) -> None:
    """Where a tempo is stated all beats are found again, by what is heard, and the first is hardly heard."""
    times = 0.02 + 0.5 * np.arange(61)
    heard = pulse_evidence(times, 4, times[-1] + 2)
    unheard = replace(heard, beat=np.where(np.arange(len(heard.beat)) < 6, 0.02, heard.beat))
    old = times[begins:-1]
    grid = recount.grid_of(bars.of_song(heard, old), old, times[-1])
    again = recount.beats_again(grid, unheard)
    assert again[:3] == pytest.approx(times[begins:][:3], abs=0.03) and len(again) == pytest.approx(len(old), abs=2)
