"""The sound engine by a clock of its own: other speeds, seams, ticks, bands, count-in, plans, endurance."""

from __future__ import annotations

import tracemalloc

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from ychronos.audio.play import stretch
from ychronos.audio.play.ear import MODES, Ear
from ychronos.audio.play.engine import Player
from ychronos.audio.synth.clicks import Clicks
from ychronos.audio.synth.voices import Voice, Voices

RATE = 44100
pytestmark = pytest.mark.skipif(not stretch.available(), reason="librubberband2 is not installed")


def tone(seconds: float = 8.0, hertz: float = 220.0) -> np.ndarray:
    t = np.arange(int(seconds * RATE)) / RATE
    return np.repeat((0.4 * np.sin(2 * np.pi * hertz * t))[:, None], 2, 1).astype(np.float32)


def ticking(seconds: float = 9.0) -> np.ndarray:
    """A short high burst at each whole second."""
    out = np.zeros((int(seconds * RATE), 2), np.float32)
    m = np.arange(400)
    burst = (np.exp(-m / 60) * np.sin(2 * np.pi * 1500 * m / RATE)).astype(np.float32)
    for second in range(1, int(seconds)):
        out[second * RATE : second * RATE + 400] += burst[:, None]
    return out


def player(samples: np.ndarray, speed: float = 1.0, cents: float = 0.0) -> Player:
    p = Player(samples, RATE)
    p.set_gain(1.0)
    p._gain = 1.0
    p.set_speed(speed, cents)
    return p


def run(p: Player, frames: int, block: int = 512) -> np.ndarray:
    out = []
    while frames > 0:
        piece = np.empty((min(block, frames), 2), np.float32)
        p.fill(piece)
        out.append(piece)
        frames -= len(piece)
    return np.concatenate(out)


def pitch_of(sound: np.ndarray) -> float:
    spectrum = np.abs(np.fft.rfft(sound * np.hanning(len(sound)), 1 << 20))
    return float(np.fft.rfftfreq(1 << 20, 1 / RATE)[spectrum.argmax()])


@pytest.mark.parametrize("speed", [0.25, 0.5, 0.75, 1.0, 1.5])
def test_the_cursor_is_where_the_sound_is(speed: float) -> None:
    p = player(ticking(), speed)
    p.play(0.5)
    heard, at = [], []
    for _ in range(int(4.2 / speed * RATE / 256)):
        at.append(p.seconds)
        heard.append(run(p, 256, 256))
    sound, places = np.abs(np.concatenate(heard)[:, 0]), np.array(at)
    smooth = np.convolve(sound, np.ones(60) / 60, "same")
    found = 0
    for second in (1, 2, 3, 4):
        begin = int(np.searchsorted(places, second - 0.2)) * 256
        piece = smooth[begin : begin + int(0.4 / speed * RATE)]
        onset = begin + int(np.flatnonzero(piece > 0.3 * piece.max())[0])
        shown = places[onset // 256] + (onset % 256) / RATE * speed
        assert abs(shown - second) <= (0.010 if speed >= 0.5 else 0.02)
        found += 1
    assert found == 4


@pytest.mark.parametrize(("speed", "cents"), [(0.5, 0), (0.75, 0), (1.0, 300), (0.6, -1200), (1.0, -35), (2.0, 1200)])
def test_pitch_is_kept_or_moved_as_asked(speed: float, cents: float) -> None:
    p = player(tone(), speed, cents)
    p.play(1.0)
    sound = run(p, 3 * RATE)[RATE:, 0]
    assert abs(1200 * np.log2(pitch_of(sound) / 220.0) - cents) < 2.0


def test_a_change_of_speed_leaves_no_gap() -> None:
    p = player(tone())
    p.play(0.5)
    heard = [run(p, RATE // 2)]
    for speed in (0.75, 0.5, 0.9, 1.0, 0.6):
        p.set_speed(speed)
        heard.append(run(p, RATE // 2))
        assert p.speed == speed
    sound = np.concatenate(heard)[2000:, 0]
    steps = np.abs(np.diff(sound))
    assert steps.max() < 0.05, "no jump above what a crossfade of the tone itself makes"
    level = np.sqrt(np.convolve(sound**2, np.ones(441) / 441, "valid"))
    assert level.min() > 0.1 and (np.abs(sound) > 0).mean() > 0.99


def test_the_place_is_right_after_changes_of_speed() -> None:
    p = player(tone(20))
    p.play(1.0)
    want = 1.0
    for speed in (0.5, 0.75, 1.0, 0.5):
        before = p.speed
        p.set_speed(speed)
        run(p, RATE)
        want += 0.05 + (1.0 - 0.05 / before) * speed
    assert abs(p.seconds - want) < 0.002


@pytest.mark.parametrize("speed", [0.5, 0.75, 1.0])
def test_the_seam_of_a_loop_does_not_jump(speed: float) -> None:
    p = player(tone(hertz=97), speed)
    p.set_loop((1.0, 1.513))
    p.play(1.0)
    sound = run(p, int(4 / speed) * RATE)[4000:, 0]
    own = np.abs(np.diff(tone(1, 97)[:, 0])).max()
    assert np.abs(np.diff(sound)).max() < 1.5 * own
    assert p.rounds >= 6 and 1.0 <= p.seconds < 1.513 + 1e-3


@pytest.mark.parametrize("speed", [0.5, 0.75, 1.0])
@pytest.mark.parametrize("block", [64, 512, 777])
def test_ticks_stand_on_the_beats(speed: float, block: int) -> None:
    p = player(np.zeros((6 * RATE, 2), np.float32), speed)
    times = [1.0, 1.37, 2.11, 2.9]
    p.clicks = Clicks.at(times, ["one", "beat", "between", "beat"], RATE)
    p.play(0.75)
    sound = np.abs(run(p, int(2.5 / speed * RATE), block)[:, 0])
    for time in times:
        want = (time - 0.75) / speed * RATE
        piece = sound[int(want) - 200 : int(want) + 400]
        onset = int(want) - 200 + int(np.flatnonzero(piece > 1e-4)[0])
        assert abs(onset - want) / RATE < 0.001


def test_voices_sound_the_same_however_blocks_are_cut_at_any_speed() -> None:
    sound = np.linspace(1, 0.2, 3000).astype(np.float32)
    voices = Voices([Voice(a, a + 2500, sound) for a in (100, 900, 5000, 5001)], RATE)
    for speed in (0.5, 0.73, 2.0):
        whole = np.zeros((9000, 2), np.float32)
        voices.add(whole, 0.0, 1.0, speed)
        parts = np.zeros_like(whole)
        at = 0.0
        for start in range(0, 9000, 321):
            piece = parts[start : start + 321]
            voices.add(piece, at, 1.0, speed)
            at += len(piece) * speed
        assert parts == pytest.approx(whole, abs=1e-6)


def test_a_count_in_comes_first() -> None:
    p = player(tone())
    ticks = Clicks.at([0.0, 0.5], ["one", "beat"], RATE)
    p.play(2.0, (ticks, RATE))
    assert p.counting_in
    sound = run(p, RATE)
    assert not p.counting_in and p.seconds == 2.0
    assert np.abs(sound[:400]).max() > 0.1 and not sound[3000:20000].any() and np.abs(sound[22050:22400]).max() > 0.1
    assert np.abs(run(p, 3000)).max() > 0.3


def test_a_plan_of_stretches_one_after_the_other() -> None:
    p = player(tone(10))
    p.set_plan([(1.0, 1.5, 2), (3.0, 3.4, 1), (5.0, 6.0, 0)])
    p.play(1.0)
    places = []
    for _ in range(40):
        run(p, RATE // 20)
        places.append(p.seconds)
    inside = [sum(a <= x < b for x in places) for a, b in ((1.0, 1.5), (3.0, 3.4), (5.0, 6.0))]
    assert inside[0] in (19, 20) and inside[1] in (7, 8, 9) and inside[2] >= 11
    assert p.loop == (5 * RATE, 6 * RATE)


def test_record_and_chart_are_weighed() -> None:
    p = player(tone())
    p.chart = Voices([Voice(0, 8 * RATE, np.full(6 * RATE, 0.25, np.float32))], RATE)
    p.record_gain = 0.0
    run(p, 512)
    p.play(1.0)
    assert run(p, 4000)[2000:] == pytest.approx(np.full((2000, 2), 0.25), abs=1e-6)
    p.record_gain, p.chart_gain = 1.0, 0.0
    run(p, 4000)
    own = np.abs(np.diff(run(p, 4000)[:, 0])).max()
    assert own < 0.02, "the change of balance itself does not click"


@pytest.mark.parametrize("mode", sorted(MODES))
def test_what_is_heard_of_a_record(mode: str) -> None:
    t = np.arange(RATE) / RATE
    low, high = 0.3 * np.sin(2 * np.pi * 80 * t), 0.3 * np.sin(2 * np.pi * 5000 * t)
    block = np.stack([low + high, low - high], 1).astype(np.float32)
    ear = Ear(RATE, mode)
    parts = [block[a : a + 700].copy() for a in range(0, RATE, 700)]
    for part in parts:
        ear.hear(part)
    out = np.concatenate(parts)[5000:]

    def power(channel: int, hertz: float) -> float:
        return float(np.abs(np.exp(-2j * np.pi * hertz * t[5000:]) @ out[:, channel]) / len(out) * 2)

    have = {(c, f): power(c, f) > 0.1 for c in (0, 1) for f in (80, 5000)}
    want = {
        "whole": (True, True), "low": (True, False), "middle": (False, False), "centre": (True, False),
        "sides": (False, True), "left": (True, True), "right": (True, True), "soft": (True, True),
    }[mode]  # fmt: skip
    assert [have[0, 80], have[0, 5000]] == list(want)
    if mode in ("left", "right", "centre"):
        assert np.array_equal(out[:, 0], out[:, 1])


def test_drums_are_softened_and_the_rest_is_not() -> None:
    rng = np.random.default_rng(1)
    sound = tone(4.0)
    drums = np.zeros(len(sound))
    for start in range(RATE // 2, len(drums) - 3000, RATE // 2):
        drums[start : start + 3000] += rng.normal(0, 0.5, 3000) * np.exp(-np.arange(3000) / 400)
    mixed = (sound + drums[:, None]).astype(np.float32)
    ear = Ear(RATE, "soft")
    ear.hear(mixed)
    before, after = (
        np.abs(drums[RATE // 2 : RATE // 2 + 300]).max(),
        np.abs(mixed[RATE // 2 : RATE // 2 + 300, 0]).max(),
    )
    assert after < 0.6 * (before + 0.4)
    between = mixed[RATE - 9000 : RATE - 2000, 0]
    assert between.std() > 0.85 * sound[: RATE // 4, 0].std()


def test_without_the_library_one_sentence_says_so(monkeypatch: pytest.MonkeyPatch) -> None:
    def gone() -> None:
        raise stretch.StretchMissing("Changing the speed needs the library Rubber Band; install it.")

    monkeypatch.setattr(stretch, "_library", gone)
    p = Player(tone(), RATE)
    with pytest.raises(stretch.StretchMissing, match="Rubber Band"):
        p.set_speed(0.5)
    assert p.speed == 1.0 and not stretch.available()
    p.play(0.0)
    assert np.abs(run(p, 4000)).max() > 0.03, "the record still plays"


actions = st.lists(
    st.tuples(st.sampled_from(["speed", "seek", "loop", "noloop", "stop", "play", "ear", "cents", "plan"]), st.floats(0, 1)),
    min_size=3,
    max_size=25,
)  # fmt: skip


@settings(max_examples=25)
@given(actions)
def test_nothing_a_user_does_breaks_it(steps: list[tuple[str, float]]) -> None:
    p = player(tone(3.0))
    p.play(0.0)
    for kind, x in steps:
        if kind == "speed":
            p.set_speed(0.25 + 1.75 * x, p.cents)
        elif kind == "cents":
            p.set_speed(p.speed, 2400 * x - 1200)
        elif kind == "seek":
            p.seek(3 * x)
        elif kind == "loop":
            p.set_loop((2 * x, 2 * x + 0.3))
        elif kind == "noloop":
            p.set_loop(None)
        elif kind == "plan":
            p.set_plan([(x, x + 0.2, 1), (2 * x, 2 * x + 0.15, 0)])
        elif kind == "stop":
            p.stop()
        elif kind == "play":
            p.play(3 * x)
        else:
            p.set_ear(sorted(MODES)[int(x * (len(MODES) - 1))])
        sound = run(p, 3000, 500)
        assert np.isfinite(sound).all() and np.abs(sound).max() <= 1.0
        assert 0 <= p.seconds <= 3.01


def test_memory_stays_flat() -> None:
    p = player(tone(4.0))
    p.set_loop((0.5, 3.5))
    p.play(0.5)
    rng = np.random.default_rng(3)
    run(p, 5 * RATE)
    tracemalloc.start()
    begin = tracemalloc.take_snapshot()
    for _ in range(12):
        p.set_speed(float(rng.uniform(0.4, 1.5)))
        run(p, RATE)
    grown = sum(s.size_diff for s in tracemalloc.take_snapshot().compare_to(begin, "filename"))
    tracemalloc.stop()
    assert grown < 300_000
